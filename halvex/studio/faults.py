"""The error of everything that keeps things: the store, the files of the data folder, exports."""


class StoreError(ValueError):
    """A request that cannot be met; `field` names what is at fault."""

    def __init__(self, field: str, remedy: str):
        super().__init__(remedy)
        self.field = field
        self.remedy = remedy


class NoRoomError(StoreError):
    """The disk is full, or another process holds the database: the same request may succeed later."""
