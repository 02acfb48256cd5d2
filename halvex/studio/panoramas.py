"""One's own panoramas: checked, then kept as files in the data folder."""

import re
from pathlib import Path

from halvex.core.scene import SceneError
from halvex.core.scene.panorama import EXR_MAGIC, read_panorama
from halvex.studio.assets import PANORAMAS, assets, brought_as, keep_file, read_again

# Suffix and media type of a Radiance and of an OpenEXR file.
KINDS = ((".hdr", "image/vnd.radiance"), (".exr", "image/x-exr"))


def keep(name: str, data: bytes) -> None:
    """Keep a panorama under a name. Raises SceneError for a bad name, a name that is taken, a file that
    is there already, or one that is no panorama."""
    if not re.fullmatch(r"[a-z0-9-]{1,80}", name):
        raise SceneError("a panorama's name is made of small letters, digits and hyphens, 80 at most")
    suffix, media_type = KINDS[data[:4] == EXR_MAGIC]
    if name in assets().panoramas:
        raise SceneError(f"there is a panorama “{name}” already; take another name")
    there = brought_as(data)
    if there is not None:
        raise SceneError(f"this panorama is there already, as “{Path(there).stem}”; take that")
    read_panorama(data)
    keep_file(f"{PANORAMAS}/{name}{suffix}", data, media_type)
    read_again()
