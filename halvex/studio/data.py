"""The data folder: the store and what one has brought along, for the server and for the process
that makes exports."""

from pathlib import Path

from halvex.studio import own_typefaces, panoramas
from halvex.studio.store import open_store


def open_data(folder: Path) -> None:
    """Open the store, the panoramas and the typefaces of a data folder. Raises StoreError for one
    of a newer Halvex."""
    open_store(folder)
    panoramas.open_folder(folder / "panoramas")
    own_typefaces.open_folder(folder / "typefaces")
