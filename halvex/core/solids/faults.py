"""Faults: whatever goes wrong while a body is made ends in one error that names the letter or part."""

from collections.abc import Iterator
from contextlib import contextmanager

from halvex.core.lettering import LetteringError
from halvex.core.lettering.outlines import GEOMETRY_FAULTS


class SolidError(ValueError):
    """A body that cannot be made; the message names the letter or part and the remedy."""


@contextmanager
def making(name: str) -> Iterator[None]:
    """Turn faults of geometry into a SolidError that names what was being made."""
    try:
        yield
    except (SolidError, LetteringError):
        raise
    except GEOMETRY_FAULTS as fault:
        raise SolidError(
            f"no body could be made of {name} in this form ({type(fault).__name__}); change "
            "its size or its form"
        ) from fault
    except MemoryError:
        raise SolidError(f"the body of {name} does not fit into memory; make it smaller or simpler") from None
