"""The files that pieces of a data folder may name: those that ship with Halvex and those brought along.

Files of one's own lie in the data folder, typefaces, panoramas and pictures each in a folder of theirs; the
store notes their digests, so that no file is brought twice.
"""

from pathlib import Path

from halvex.core.assets import SHIPPED, Assets, digest_of
from halvex.studio.files import write_whole
from halvex.studio.store import AssetRecord, writing

TYPEFACES, PANORAMAS, PICTURES = "typefaces", "panoramas", "pictures"


class _Opened:
    """The data folder that is open, and what it held when it was last read."""

    folder: Path | None = None
    assets: Assets = SHIPPED


def open_assets(folder: Path) -> None:
    """Use the files of a data folder from now on."""
    for name in (TYPEFACES, PANORAMAS, PICTURES):
        (folder / name).mkdir(parents=True, exist_ok=True)
    _Opened.folder = folder
    read_again()


def read_again() -> None:
    """Take in what was added to the data folder, here or by another process."""
    folder = data_folder()
    own = Assets.of(typefaces=folder / TYPEFACES, panoramas=folder / PANORAMAS, pictures=folder / PICTURES)
    _Opened.assets = SHIPPED | own


def assets() -> Assets:
    """All that pieces may name now."""
    return _Opened.assets


def data_folder() -> Path:
    """The data folder that is open."""
    assert _Opened.folder is not None, "open_assets comes first"
    return _Opened.folder


def brought_as(data: bytes) -> str | None:
    """The name that a file of these bytes was brought under, if it was and is still there."""
    record = AssetRecord.get_or_none(AssetRecord.digest == digest_of(data))
    return record.name if record is not None and (data_folder() / record.name).is_file() else None


def keep_file(name: str, data: bytes, media_type: str) -> None:
    """Write a file of one's own under a name within the data folder, and note its digest."""
    write_whole(data_folder() / name, data)
    with writing():
        AssetRecord.replace(
            digest=digest_of(data), media_type=media_type, name=name, size=len(data)
        ).execute()
