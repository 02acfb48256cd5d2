"""Pieces as one file, `.halvex`: a zip archive of the document and the files of one's own that it names.

piece.json             the document, as in its JSON Schema
pictures/NAME.SUFFIX   each picture that a surface shows
panoramas/NAME.SUFFIX  the panorama that the piece stands in

Files that ship with Halvex are not packed, nor typefaces, whose licences are their owners' own.
"""

import io
import json
import re
import zipfile
from dataclasses import dataclass

from halvex.core.assets import PANORAMA_SUFFIXES, PICTURE_SUFFIXES, SHIPPED, Asset, Assets
from halvex.core.piece import Piece, PieceError, piece_from_json, to_json
from halvex.core.piece.light import Panorama
from halvex.core.piece.reading import LARGEST_DOCUMENT_BYTES
from halvex.core.piece.source import pictures_in
from halvex.core.scene.panorama import LARGEST_FILE_BYTES as LARGEST_PANORAMA_BYTES
from halvex.core.scene.picture import LARGEST_PICTURE_BYTES

SUFFIX, MEDIA_TYPE = ".halvex", "application/vnd.halvex+zip"
DOCUMENT = "piece.json"
ZIP_MAGIC = b"PK\x03\x04"
MOST_FILES = 500
LARGEST_BUNDLE_BYTES = 512_000_000
# Folders of an archive: the suffixes of their files, and how large these may be.
_FOLDERS = {
    "pictures": (PICTURE_SUFFIXES, LARGEST_PICTURE_BYTES),
    "panoramas": (PANORAMA_SUFFIXES, LARGEST_PANORAMA_BYTES),
}
_NAME = re.compile(r"(pictures|panoramas)/([a-z0-9-]{1,80})(\.[a-z]{3,4})")
# The same document makes the same file at any time.
_DATE = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True)
class Bundle:
    """A piece and the files that came with it: pictures and panoramas, (suffix, bytes) by name."""

    piece: Piece
    pictures: dict[str, tuple[str, bytes]]
    panoramas: dict[str, tuple[str, bytes]]


def is_bundle(data: bytes) -> bool:
    """Whether bytes are those of a bundle, and not of a document."""
    return data[:4] == ZIP_MAGIC


def write_bundle(piece: Piece, assets: Assets) -> bytes:
    """A piece as a `.halvex` file. Files that are missing are left out. Raises OSError."""
    wanted: dict[str, Asset | None] = {}
    for name in pictures_in(piece):
        if name not in SHIPPED.pictures:
            wanted[f"pictures/{name}"] = assets.pictures.get(name)
    surround = piece.light.surround
    if isinstance(surround, Panorama) and surround.picture not in SHIPPED.panoramas:
        wanted[f"panoramas/{surround.picture}"] = assets.panoramas.get(surround.picture)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        document = json.dumps(to_json(piece), indent=1, ensure_ascii=False).encode()
        archive.writestr(zipfile.ZipInfo(DOCUMENT, _DATE), document, zipfile.ZIP_DEFLATED)
        for name, file in wanted.items():
            if file is not None:
                # Pictures are compressed already.
                archive.writestr(zipfile.ZipInfo(f"{name}{file.path.suffix}", _DATE), file.read())
    return out.getvalue()


def read_bundle(data: bytes) -> Bundle:
    """The piece of a `.halvex` file and its files, whose contents are not checked. Raises PieceError."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _read(archive)
    except PieceError:
        raise
    except Exception as fault:  # the library and its decompressors raise several kinds of their own
        raise PieceError("", f"the file cannot be read to its end ({fault!s:.120}); save it again") from None


def _read(archive: zipfile.ZipFile) -> Bundle:
    entries = archive.infolist()
    if len(entries) > MOST_FILES + 1:
        raise PieceError("", f"the file holds over {MOST_FILES} pictures; no piece has so many")
    if DOCUMENT not in archive.namelist():
        raise PieceError("", f"the file holds no {DOCUMENT}; save the piece from Halvex again")
    piece = piece_from_json(_unpacked(archive, archive.getinfo(DOCUMENT), LARGEST_DOCUMENT_BYTES))
    found: dict[str, dict[str, tuple[str, bytes]]] = {folder: {} for folder in _FOLDERS}
    for entry in entries:
        if entry.filename == DOCUMENT or entry.is_dir():
            continue
        named = _NAME.fullmatch(entry.filename)
        if named is None or named[3] not in _FOLDERS[named[1]][0]:
            raise PieceError("", f"the file holds {entry.filename[:80]!r}, which is no part of a piece")
        found[named[1]][named[2]] = named[3], _unpacked(archive, entry, _FOLDERS[named[1]][1])
    return Bundle(piece, found["pictures"], found["panoramas"])


def _unpacked(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, most: int) -> bytes:
    """The bytes of an entry. A declared size can be a lie: no more than `most` are unpacked."""
    with archive.open(entry) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise PieceError("", f"{entry.filename} is over {most // 10**6} MB; save it smaller")
    return data
