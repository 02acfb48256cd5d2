"""One's own typefaces, kept as files in the data folder with a list of what they are."""

import json
import re
from pathlib import Path

from halvex.core.lettering.own_typefaces import read_fonts
from halvex.core.lettering.typefaces import INDEX, LetteringError, typefaces, use_folder
from halvex.studio.files import write_whole

MOST_KEPT = 500

_folder: Path | None = None


def open_folder(folder: Path) -> None:
    """Keep typefaces in this folder, and let pieces use them."""
    global _folder
    folder.mkdir(parents=True, exist_ok=True)
    use_folder(folder)
    _folder = folder


def keep(data: bytes) -> list[str]:
    """Keep the fonts of a file; returns their ids. Raises LetteringError for what is no font, or for a name that is taken."""
    assert _folder is not None, "open_folder comes first"
    faces = [(_ident(face.name), face) for face in read_fonts(data)]
    taken = typefaces()
    for number, (ident, face) in enumerate(faces):
        if ident in taken or ident in [other for other, _ in faces[:number]]:
            raise LetteringError("typeface", f"there is a typeface “{face.name}” already")
    listed = json.loads((_folder / INDEX).read_text()) if (_folder / INDEX).exists() else []
    if len(listed) + len(faces) > MOST_KEPT:
        raise LetteringError("typeface", f"{MOST_KEPT} typefaces of one's own are kept at most; none was added")
    for ident, face in faces:
        (_folder / ident).mkdir(exist_ok=True)
        (_folder / ident / "font.ttf").write_bytes(face.data)
        listed.append({"id": ident, "name": face.name, "kind": f"own, {face.embedding}", "files": ["font.ttf"]})
    # A typeface is there once it is listed, so a killed process leaves none that is half written.
    write_whole(_folder / INDEX, json.dumps(listed, indent=1).encode())
    use_folder(_folder)
    return [ident for ident, _ in faces]


def _ident(name: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40].strip("-") or "own-typeface"
