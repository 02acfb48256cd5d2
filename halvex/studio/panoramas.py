"""One's own panoramas: checked, then kept as files in the data folder."""

import re
from pathlib import Path

from halvex.core.scene import SceneError
from halvex.core.scene.panorama import SHIPPED, panorama, read_panorama, use_folder
from halvex.studio.files import write_whole

_folder: Path | None = None


def open_folder(folder: Path) -> None:
    """Keep panoramas in this folder, and let pieces use them."""
    global _folder
    folder.mkdir(parents=True, exist_ok=True)
    use_folder(folder)
    _folder = folder


def keep(name: str, data: bytes) -> None:
    """Keep a panorama under a name. Raises SceneError for a bad name, a name that is taken, or a
    file that is no panorama."""
    if not re.fullmatch(r"[a-z0-9-]{1,80}", name):
        raise SceneError("a panorama's name is made of small letters, digits and hyphens, 80 at most")
    assert _folder is not None, "open_folder comes first"
    suffix = ".exr" if data[:4] == b"\x76\x2f\x31\x01" else ".hdr"
    if any((place / f"{name}{end}").exists() for place in (SHIPPED, _folder) for end in (".hdr", ".exr")):
        raise SceneError(f"there is a panorama “{name}” already; take another name")
    read_panorama(data)
    write_whole(_folder / f"{name}{suffix}", data)
    panorama.cache_clear()
