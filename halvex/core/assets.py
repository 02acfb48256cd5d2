"""Assets: the files that a document names, its typefaces, panoramas and pictures, found by name and known
by digest.

An `Assets` is a snapshot of what there is and never changes, so whatever is made from its files can be kept
by them. Stages that read files take one; `SHIPPED` holds what comes with Halvex.
"""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

CORE = Path(__file__).parent
# The list of a folder's typefaces: objects with id, name, kind and files.
INDEX = "index.json"
PANORAMA_SUFFIXES = (".hdr", ".exr")
PICTURE_SUFFIXES = (".png", ".jpg", ".webp", ".tiff", ".exr")


@dataclass(frozen=True)
class Asset:
    """A file as it was when the snapshot was taken; another size or time makes it another asset."""

    path: Path
    size: int
    changed_ns: int

    @classmethod
    def at(cls, path: Path) -> "Asset":
        """The file at a path; one that is missing counts as empty and fails when it is read."""
        try:
            status = path.stat()
        except OSError:
            return cls(path, 0, 0)
        return cls(path, status.st_size, status.st_mtime_ns)

    @property
    def name(self) -> str:
        """Folder and file, as messages call it."""
        return f"{self.path.parent.name}/{self.path.name}"

    @property
    def digest(self) -> str:
        """SHA-256 of its bytes, hexadecimal. Raises OSError."""
        return _digest(self)

    def read(self) -> bytes:
        """Its bytes. Raises OSError."""
        return self.path.read_bytes()


@lru_cache(maxsize=1024)
def _digest(asset: Asset) -> str:
    return digest_of(asset.read())


def digest_of(data: bytes) -> str:
    """What a file of these bytes is known by on any machine: SHA-256, hexadecimal."""
    return hashlib.sha256(data).hexdigest()


@dataclass(frozen=True)
class Typeface:
    """One typeface: its identity, its kind in the trade's words, and its files, one per subset of scripts."""

    id: str
    name: str
    kind: str
    files: tuple[Asset, ...]


@dataclass(frozen=True, eq=False)
class Assets:
    """All typefaces by id, in the order they are shown, and all panoramas and pictures by name."""

    typefaces: Mapping[str, Typeface]
    panoramas: Mapping[str, Asset]
    pictures: Mapping[str, Asset]

    @classmethod
    def of(cls, *, typefaces: Path, panoramas: Path, pictures: Path) -> "Assets":
        """What lies in these folders now."""
        return cls(
            _typefaces_in(typefaces),
            _files_in(panoramas, PANORAMA_SUFFIXES),
            _files_in(pictures, PICTURE_SUFFIXES),
        )

    def __or__(self, other: "Assets") -> "Assets":
        """Both; of two that share a name, the first."""
        return Assets(
            {**self.typefaces, **{k: v for k, v in other.typefaces.items() if k not in self.typefaces}},
            {**other.panoramas, **self.panoramas},
            {**other.pictures, **self.pictures},
        )


def _typefaces_in(folder: Path) -> dict[str, Typeface]:
    index = folder / INDEX
    return {
        entry["id"]: Typeface(
            entry["id"],
            entry["name"],
            entry["kind"],
            tuple(Asset.at(folder / entry["id"] / name) for name in entry["files"]),
        )
        for entry in (json.loads(index.read_text()) if index.exists() else [])
    }


def _files_in(folder: Path, suffixes: tuple[str, ...]) -> dict[str, Asset]:
    return {
        path.stem: Asset.at(path)
        for path in sorted(folder.glob("*"))
        if path.suffix in suffixes and path.is_file()
    }


SHIPPED_TYPEFACES = CORE / "lettering/typefaces"
SHIPPED_PANORAMAS = CORE / "scene/panoramas"
SHIPPED_PICTURES = CORE / "scene/pictures"
SHIPPED = Assets.of(typefaces=SHIPPED_TYPEFACES, panoramas=SHIPPED_PANORAMAS, pictures=SHIPPED_PICTURES)
