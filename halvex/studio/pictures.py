"""One's own pictures: checked, then kept as files in the data folder.

A picture is known by its name and the beginning of its digest, so that the same file has the same name on any
machine, and no other file has it.
"""

from dataclasses import dataclass

from slugify import slugify

from halvex.core.assets import digest_of
from halvex.core.finish.picture import Picture
from halvex.core.output.bundle import Bundle
from halvex.core.scene import SceneError
from halvex.core.scene.picture import open_picture, read_picture, small_picture, suffix_of
from halvex.studio import panoramas
from halvex.studio.assets import PICTURES, assets, keep_file, read_again

MOST_KEPT = 2_000
MOST_LETTERS_OF_NAME = 40
DIGITS_OF_DIGEST = 20
SMALL_PX = 192


@dataclass(frozen=True)
class KeptPicture:
    """A picture that pieces may name, as it is called."""

    id: str
    name: str


def keep(name: str, data: bytes) -> str:
    """Keep a picture; returns its id, that it has already if it was kept before. Raises SceneError for what
    is no picture."""
    digest = digest_of(data)[:DIGITS_OF_DIGEST]
    there = next((ident for ident in assets().pictures if ident.endswith(f"-{digest}")), None)
    if there is not None and is_there(there):
        return there
    if len(assets().pictures) >= MOST_KEPT:
        raise SceneError(f"{MOST_KEPT} pictures are kept at most; none was added")
    pyramid = read_picture(data)
    ident = there or f"{slugify(name, max_length=MOST_LETTERS_OF_NAME) or 'picture'}-{digest}"
    suffix, media_type = suffix_of(data)
    keep_file(f"{PICTURES}/{ident}{suffix}", data, media_type)
    read_again()
    # It is about to be looked at, and a large one takes a second to read.
    open_picture.remember(pyramid, assets().pictures[ident])
    return ident


def is_there(ident: str) -> bool:
    """Whether a picture is kept and its file has not been taken away since."""
    file = assets().pictures.get(ident)
    return file is not None and file.path.is_file()


def keep_files(bundle: Bundle) -> None:
    """Keep the pictures and panoramas that came with a piece, where they are not there yet. Raises
    SceneError for one that is not what its name says."""
    for ident, (_, data) in bundle.pictures.items():
        if not is_there(ident) and keep(name_of(ident), data) != ident:
            raise SceneError(f"the picture {ident} in the file is not the one that was saved; save it again")
    for name, (_, data) in bundle.panoramas.items():
        if name not in assets().panoramas:
            panoramas.keep(name, data)


def kept() -> list[KeptPicture]:
    """All pictures, one's own first, by name."""
    found = [KeptPicture(ident, name_of(ident)) for ident in assets().pictures]
    return sorted(found, key=lambda picture: (picture.id == picture.name, picture.name))


def small(ident: str) -> Picture:
    """A picture, small. Raises SceneError where there is none of this id."""
    file = assets().pictures.get(ident)
    if file is None:
        raise SceneError(f"there is no picture “{ident}”; add it again, or take another")
    shown = small_picture(file, SMALL_PX)
    return Picture(shown, shown, None)


def name_of(ident: str) -> str:
    """What a picture is called by its id."""
    name, _, digest = ident.rpartition("-")
    return name if len(digest) == DIGITS_OF_DIGEST else ident
