"""One's own typefaces, kept as files in the data folder with a list of what they are."""

import itertools
import json

from slugify import slugify

from halvex.core.assets import INDEX
from halvex.core.lettering.own_typefaces import OwnFace, read_fonts
from halvex.core.lettering.typefaces import LetteringError
from halvex.studio.assets import TYPEFACES, assets, data_folder, keep_file, read_again
from halvex.studio.files import write_whole

MOST_KEPT = 500
# A number may follow.
MOST_LETTERS_OF_ID = 36


def keep(data: bytes) -> list[str]:
    """Keep the fonts of a file; returns their ids. Raises LetteringError for what is no font, or
    for a name that is taken."""
    folder = data_folder() / TYPEFACES
    faces: list[tuple[str, OwnFace]] = []
    taken = {ident: face.name for ident, face in assets().typefaces.items()}
    for face in read_fonts(data):
        if face.name in taken.values():
            raise LetteringError("typeface", f"there is a typeface “{face.name}” already")
        ident = _ident(face.name, set(taken))
        taken[ident] = face.name
        faces.append((ident, face))
    listed = json.loads((folder / INDEX).read_text()) if (folder / INDEX).exists() else []
    if len(listed) + len(faces) > MOST_KEPT:
        raise LetteringError(
            "typeface", f"{MOST_KEPT} typefaces of one's own are kept at most; none was added"
        )
    for ident, face in faces:
        (folder / ident).mkdir(exist_ok=True)
        keep_file(f"{TYPEFACES}/{ident}/font.ttf", face.data, "font/sfnt")
        listed.append(
            {"id": ident, "name": face.name, "kind": f"own, {face.embedding}", "files": ["font.ttf"]}
        )
    # A typeface is there once it is listed, so a killed process leaves none that is half written.
    write_whole(folder / INDEX, json.dumps(listed, indent=1).encode())
    read_again()
    return [ident for ident, _ in faces]


def _ident(name: str, taken: set[str]) -> str:
    """An id of 1 to 40 letters, digits and hyphens for a name in any script, unlike those that are taken."""
    plain = slugify(name, max_length=MOST_LETTERS_OF_ID) or "own-typeface"
    return next(
        ident
        for number in itertools.count(1)
        if (ident := plain if number == 1 else f"{plain}-{number}") not in taken
    )
