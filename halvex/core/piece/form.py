"""Form: what body the outlines of a block are given. Lengths in px of the canvas, angles in degrees."""

import itertools
from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from halvex.core.piece.fields import number, plain
from halvex.core.piece.part import LONGEST_LENGTH_PX, SHORTEST_LENGTH_PX, Part

MOST_PLATES = 8
MOST_CUTS = 64
MOST_POINTS = 512
MOST_HOLES = 400

Share = Annotated[float, Field(ge=0, le=1)]


def _length(
    default: float, label: str, comfort: tuple[float, float], *, step: float = 1.0, least: float = 0.0
) -> float:
    return number(default, label=label, unit="px", comfort=comfort, step=step, ge=least, le=LONGEST_LENGTH_PX)


def _offset(default: float, label: str, reach: float) -> float:
    return number(
        default, label=label, unit="px", comfort=(-reach, reach), ge=-LONGEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )


class Point(Part):
    """A point on the canvas, from the block's place."""

    x: float = _offset(0, "Across", 600)
    y: float = _offset(0, "Up", 400)


class Bevel(Part):
    """The edge between face and return: `width` over the face, `height` along the depth.

    `inset`, the outline is the outer edge; `outset`, the outline stays the face and the bevel spreads
    around it. `to_ridge` takes the width at which the widest stroke meets in a ridge. `cushion` spreads
    the profile over the full local half-width of each stroke, its height in proportion.
    """

    profile: Literal["chamfer", "ovolo", "cavetto", "cyma", "bead", "step", "curve"] = "chamfer"
    width: float = _length(8, "Bevel width", (0, 40))
    height: float = _length(8, "Bevel height", (0, 40))
    to_ridge: bool = False
    cushion: bool = False
    front: bool = True
    back: bool = False
    side: Literal["inset", "outset"] = "inset"
    corner: Literal["mitred", "rounded"] = "mitred"
    steps: int = number(3, label="Steps", comfort=(1, 8), ge=1, le=64, when={"profile": ("step",)})
    curve: Annotated[tuple[tuple[Share, Share], ...], Field(max_length=32)] = ((0.35, 0.15), (0.65, 0.85))

    @field_validator("curve")
    @classmethod
    def _check_curve(cls, points: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
        places = sorted(x for x, _ in points)
        if any(not 0.001 <= x <= 0.999 for x in places) or any(
            b - a < 1e-4 for a, b in itertools.pairwise(places)
        ):
            raise ValueError(
                "the points of a curve lie between the ends, no two at one distance; move or remove one"
            )
        return tuple(sorted(points))


class Taper(Part):
    """The back smaller than the face (negative: larger), about a centre, as toward a vanishing point."""

    amount: float = number(0, label="Taper", unit="%", comfort=(-50, 50), ge=-10_000, lt=100)
    x: float = _offset(0, "Centre across", 600)
    y: float = _offset(0, "Centre up", 400)


class Drift(Part):
    """The back shifted sideways against the face."""

    x: float = _offset(0, "Drift across", 200)
    y: float = _offset(0, "Drift up", 200)


class RunPoint(Part):
    """A point the run passes, from the middle of the face; z is negative behind it."""

    x: float = _offset(0, "Across", 600)
    y: float = _offset(0, "Up", 400)
    z: float = _offset(-100, "Forward", 600)


class Run(Part):
    """The letters drawn along a curve from the face through points; without points they go straight back.

    `scale` and `turn` are those of the end against the face, reached evenly along the way. `following`,
    the section turns to stand square to the curve; otherwise it stays parallel to the face.
    """

    points: Annotated[tuple[RunPoint, ...], Field(max_length=MOST_POINTS)] = ()
    scale: float = number(100, label="End scale", unit="%", comfort=(10, 200), step=5, gt=0.1, le=10_000)
    turn: float = number(0, label="End turn", unit="°", comfort=(-180, 180), step=5, ge=-3600, le=3600)
    following: bool = plain(False, label="keep square to the curve")


class Rim(Part):
    """A letter made of its outline only, `width` px wide."""

    width: float = _length(12, "Rim width", (1, 60), least=0.01)
    side: Literal["inside", "centred", "outside"] = plain("inside", label="Rim position")


class Tube(Part):
    """A section following the centre lines of the strokes."""

    radius: float = _length(10, "Radius", (1, 60), step=0.5, least=0.05)
    end_radius: float = number(100, label="End radius", unit="%", comfort=(0, 200), step=5, ge=1, le=1000)
    section: Literal["round", "square", "half round"] = plain("round", label="Section")
    caps: Literal["round", "flat"] = plain("round", label="Ends")
    smoothing: float = number(50, label="Smoothing", unit="%", comfort=(0, 100), step=5, ge=0, le=1000)


class Slab(Part):
    """The slab that letters stand on or are cut into. Without a size of its own it has a margin
    round the letters."""

    margin: float = _length(40, "Margin", (0, 200))
    width: float | None = number(
        None, label="Slab width", unit="px", comfort=(50, 1500), ge=SHORTEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    height: float | None = number(
        None, label="Slab height", unit="px", comfort=(50, 1000), ge=SHORTEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    corner_radius: float = _length(12, "Corner radius", (0, 100))
    depth: float = _length(40, "Slab depth", (2, 200), least=0.01)
    bevel: Bevel = Bevel(width=4, height=4)


class Incision(Part):
    """How letters are cut into the slab. A V is set by its included angle, or by the depth at the
    widest stroke."""

    by: Literal["angle", "depth"] = "angle"
    angle: float = number(90, label="V angle", unit="°", comfort=(60, 140), step=5, gt=1, lt=179)
    depth: float = _length(20, "Cut depth", (1, 100), least=0.01)


class Plate(Part):
    """A body behind the letters that follows their outline at a distance."""

    distance: float = number(16, label="Distance", unit="px", comfort=(0, 100), ge=0, le=LONGEST_LENGTH_PX)
    join: Literal["round", "mitred"] = plain("round", label="Corners")
    close_holes: bool = plain(True, label="close the counters")
    depth: float = _length(12, "Plate depth", (1, 100), least=0.01)
    gap: float = _offset(0, "Gap", 50)
    bevel: Bevel = Bevel(width=3, height=3)


class Kerf(Part):
    """A cut through the letters along a line of points; jagged like a crack, by a seed."""

    points: Annotated[tuple[Point, ...], Field(min_length=2, max_length=MOST_POINTS)]
    width: float = _length(6, "Kerf width", (0.5, 40), step=0.5, least=0.01)
    end_width: float = number(100, label="End width", unit="%", comfort=(0, 200), step=5, ge=0, le=10_000)
    jagged: float = _length(0, "Jagged", (0, 40))
    seed: int = number(1, label="Seed", comfort=(1, 99), ge=0, le=2**31 - 1)


class Holes(Part):
    """Round holes bored through the letters, scattered by a seed within the bounds of the letters."""

    count: int = number(12, label="Holes", comfort=(0, 60), ge=0, le=MOST_HOLES)
    radius: float = _length(6, "Hole radius", (1, 40), step=0.5, least=0.05)
    variety: float = number(0, label="Variety", unit="%", comfort=(0, 90), step=5, ge=0, le=99)
    seed: int = number(1, label="Seed", comfort=(1, 99), ge=0, le=2**31 - 1)


class Form(Part):
    """All of a block's form. `stands`: free, raised on a slab, or cut into it (V or flat-bottomed)."""

    kind: Literal["solid", "rim", "tube"] = "solid"
    stands: Literal["free", "raised", "v-cut", "flat-cut"] = "free"
    depth: float = number(
        60, label="Depth", unit="px", comfort=(0, 200), step=2, ge=SHORTEST_LENGTH_PX, le=LONGEST_LENGTH_PX
    )
    bevel: Bevel = Bevel()
    taper: Taper = Taper()
    drift: Drift = Drift()
    run: Run = Run()
    rim: Rim = Rim()
    tube: Tube = Tube()
    slab: Slab = Slab()
    incision: Incision = Incision()
    plates: Annotated[tuple[Plate, ...], Field(max_length=MOST_PLATES)] = ()
    kerfs: Annotated[tuple[Kerf, ...], Field(max_length=MOST_CUTS)] = ()
    holes: Holes | None = None
    joined: bool = True

    @property
    def incised(self) -> bool:
        """Whether the letters are cut into a slab."""
        return self.stands in ("v-cut", "flat-cut")

    @model_validator(mode="after")
    def _check_standing(self) -> "Form":
        if self.incised and self.kind == "tube":
            raise ValueError("a tube cannot be cut into a slab; let it stand raised or free, or take a solid")
        return self
