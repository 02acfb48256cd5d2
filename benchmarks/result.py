"""One figure of a benchmark."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Result:
    """One figure: `ours` in `unit`, the peer's where there is one, and the goal it is held against."""

    name: str
    ours: float
    unit: str
    peer: str | None
    theirs: float | None
    ratio: float | None
    goal: str
    met: bool
