"""The data folder: the store and what one has brought along, for the server and for the process
that makes exports."""

from pathlib import Path

from halvex.studio.assets import open_assets
from halvex.studio.store import open_store


def open_data(folder: Path) -> None:
    """Open the store and the files of a data folder. Raises StoreError for one of a newer Halvex."""
    open_store(folder)
    open_assets(folder)
