"""Bodies: what a set block and its form become. The one place that knows the order of all forms.

outlines → joined where they overlap → cut by kerfs and holes → rims → bodies, tubes or pits → slab → plates
"""

import weakref
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.lettering.outlines import Outline
from halvex.core.lettering.placed import Box
from halvex.core.lettering.setting import SetBlock
from halvex.core.memory import kept
from halvex.core.piece.form import Bevel, Form, Holes, Kerf, Tube
from halvex.core.piece.material import AnyMaterial
from halvex.core.piece.part import SHORTEST_LENGTH_PX
from halvex.core.solids import areas
from halvex.core.solids.bending import bend_of
from halvex.core.solids.body import outline_body
from halvex.core.solids.centrelines import centre_lines, smoothed
from halvex.core.solids.faults import SolidError, making
from halvex.core.solids.inks import Ink, ink_of, parts_in_em
from halvex.core.solids.mesh import Mesh, PartOf, merged
from halvex.core.solids.paths import relaxed
from halvex.core.solids.roof import Corner, OutlineKey, roof_of
from halvex.core.solids.slabs import Cutter, incised_slab, plain_slab
from halvex.core.solids.tubes import Strand, check_room, lifted, tube_body
from halvex.core.stopping import stop_if_overtaken

Array = NDArray[np.float64]

# What stands on a slab or a plate is sunk into it by this much, so that no two surfaces share a plane.
SUNK_PX = 0.05


@dataclass(frozen=True)
class PlacedBody:
    """A body, its offset in px from the block's place, and the material of its own that it has all
    over, if any."""

    mesh: Mesh
    offset: tuple[float, float, float]
    material: AnyMaterial | None = None


def block_bodies(block: SetBlock, form: Form, *, px_scale: float = 1.0) -> list[PlacedBody]:
    """All bodies of a block.

    Raises SolidError, which names the letter or part, where a form cannot be made of it, and
    CancelledError between two letters when the work was overtaken.
    """
    made = _made(block, form, px_scale)
    bodies = made.recall()
    if bodies is not None:
        return bodies
    bodies = _block_bodies(block, form, px_scale)
    for body in bodies:
        if not body.mesh.finite:
            raise SolidError("a body of this form has points without a place; change its size or its form")
    made.remember(bodies)
    return bodies


class _Made:
    """The bodies that were made of a block, for as long as all of them are alive: it holds none of them
    itself, so that their memory is counted where they are kept."""

    def __init__(self) -> None:
        self._bodies: list[tuple[weakref.ref[Mesh], tuple[float, float, float], AnyMaterial | None]] = []

    def recall(self) -> list[PlacedBody] | None:
        """The bodies, or None where one of them is gone."""
        found = []
        for reference, offset, material in self._bodies:
            mesh = reference()
            if mesh is None:
                return None
            found.append(PlacedBody(mesh, offset, material))
        return found or None

    def remember(self, bodies: list[PlacedBody]) -> None:
        self._bodies = [(weakref.ref(body.mesh), body.offset, body.material) for body in bodies]


@kept
def _made(block: SetBlock, form: Form, px_scale: float) -> _Made:
    return _Made()


def _block_bodies(block: SetBlock, form: Form, px_scale: float) -> list[PlacedBody]:
    if form.kind == "tube":
        with making("these strokes"):
            inks = ink_of(block, form)
            bodies = _tubes(block, inks, form, px_scale)
    else:
        inks = formed_ink(block, form)
        if form.incised:
            with making("the slab"):
                return _incised(inks, form, px_scale)
        ridge = common_ridge(inks, form)
        bodies = []
        for ink in inks:
            stop_if_overtaken()
            with making(ink.title):
                bodies.append(_letter(ink, form, ridge, px_scale))
    if form.stands == "raised" or form.plates:
        back = min(float(body.mesh.bounds[0][2]) + body.offset[2] for body in bodies)
        for plate in form.plates:
            stop_if_overtaken()
            mesh = _plate(
                inks, plate.distance, plate.join, plate.close_holes, plate.depth, plate.bevel, px_scale
            )
            back -= plate.gap
            bodies.append(PlacedBody(mesh, (0.0, 0.0, back + SUNK_PX)))
            back -= plate.depth
        if form.stands == "raised":
            with making("the slab"):
                bodies.append(
                    PlacedBody(
                        plain_slab(form.slab, _box(inks), px_scale=px_scale), (0.0, 0.0, back + SUNK_PX)
                    )
                )
    return bodies


def formed_ink(block: SetBlock, form: Form) -> list[Ink]:
    """The outlines that bodies are made of: joined, cut, hollowed. Raises SolidError where nothing
    is left."""
    with making("these outlines"):
        inks = ink_of(block, form)
    if form.kerfs or form.holes:
        box = _box(inks)
        cut = [(ink, _ink_cut(ink, form, box)) for ink in inks]
        inks = [replace(ink, outline=left) for ink, left in cut if left is not None]
        if not inks:
            raise SolidError("the cuts leave nothing of the letters; make them narrower or fewer")
    if form.kind == "rim":
        inks = [
            replace(ink, outline=outline)
            for ink, outline in zip(inks, [_rim(ink, form) for ink in inks], strict=True)
            if outline.rings
        ]
        if not inks:
            raise SolidError("the rim leaves nothing of the letters; make it wider")
    return inks


def _ink_cut(ink: Ink, form: Form, box: Box) -> Outline | None:
    stop_if_overtaken()
    with making(ink.title):
        return _cut(ink.key, ink.size, ink.x, ink.y, form.kerfs, form.holes, box)


def _rim(ink: Ink, form: Form) -> Outline:
    stop_if_overtaken()
    with making(ink.title):
        return areas.rim_of(ink.outline, form.rim, ink.size, form.bevel.corner)


def common_ridge(inks: list[Ink], form: Form) -> float:
    """The height in em of the highest ridge of a block, to which its bevels reach together; 0 where
    none does."""
    if not (form.bevel.to_ridge or form.bevel.cushion):
        return 0.0
    highest = 0.0
    for ink in inks:
        stop_if_overtaken()
        with making(ink.title):
            highest = max(highest, roof_of(ink.key, form.bevel.corner).ridge * ink.size)
    return highest / inks[0].size


def _letter(ink: Ink, form: Form, ridge: float, px_scale: float) -> PlacedBody:
    if ink.depth is not None:
        form = form.model_copy(update={"depth": ink.depth})
    bend = bend_of(form, ink.x, ink.y)
    mesh = outline_body(
        ink.key, size=ink.size, depth=form.depth, bevel=form.bevel, ridge=ridge, px_scale=px_scale, bend=bend
    )
    return PlacedBody(mesh, (ink.x, ink.y, ink.lift), ink.material)


def _box(inks: list[Ink]) -> Box:
    left, bottom, right, top = np.array([ink.box for ink in inks]).T
    return float(left.min()), float(bottom.min()), float(right.max()), float(top.max())


@kept
def _cut(
    key: OutlineKey, size: float, x: float, y: float, kerfs: tuple[Kerf, ...], holes: Holes | None, box: Box
) -> Outline | None:
    return areas.cut(key.outline, _tools(kerfs, holes, box), size=size, x=x, y=y)


@kept
def _tools(kerfs: tuple[Kerf, ...], holes: Holes | None, box: Box) -> shapely.Geometry:
    return areas.cutting_tools(kerfs, holes, box)


def _incised(inks: list[Ink], form: Form, px_scale: float) -> list[PlacedBody]:
    cutters = [Cutter(ink.key, ink.size, ink.x, ink.y, ink.depth, ink.material) for ink in inks]
    pieces = incised_slab(form, cutters, _box(inks), px_scale=px_scale)
    return [PlacedBody(mesh, (0.0, 0.0, 0.0), material) for material, mesh in pieces.items()]


def _plate(
    inks: list[Ink],
    distance: float,
    join: str,
    close_holes: bool,
    depth: float,
    bevel: Bevel,
    px_scale: float,
) -> Mesh:
    first = inks[0]
    corner: Corner = "rounded" if join == "round" else "mitred"
    with making("the plate"):
        outline = areas.plate_outline(
            parts_in_em(inks), distance / first.size, corner, close_holes=close_holes
        )
        mesh = outline_body(OutlineKey(outline), size=first.size, depth=depth, bevel=bevel, px_scale=px_scale)
    return mesh.moved(first.x, first.y, 0.0).all_of(PartOf.PLATE)


def _tubes(block: SetBlock, inks: list[Ink], form: Form, px_scale: float) -> list[PlacedBody]:
    """All strands of a block; those that cross are lifted over each other in their order."""
    tube = form.tube
    strands = [_strand(points, closed, tube) for points, closed in block.lines]
    materials: list[AnyMaterial | None] = [None] * len(strands)
    if not block.lines:
        for ink in inks:
            stop_if_overtaken()
            for line in centre_lines(ink.key):
                smooth = smoothed(line, amount=tube.smoothing / 100, reach=tube.radius / ink.size)
                strands.append(_strand(smooth.points * ink.size + (ink.x, ink.y), smooth.closed, tube))
                materials.append(ink.material)
    check_room(strands, tube, px_scale)
    bodies = [tube_body(strand, tube, px_scale=px_scale) for strand in lifted(strands)]
    # The front of the tubes lies in the face plane.
    back = (0.0, 0.0, -tube.radius * max(1.0, tube.end_radius / 100))
    alike = {
        material: [body for body, own in zip(bodies, materials, strict=True) if own == material]
        for material in materials
    }
    return [PlacedBody(merged(bodies), back, material) for material, bodies in alike.items()]


def _strand(points: Array, closed: bool, tube: Tube) -> Strand:
    if np.ptp(points, axis=0).max() < SHORTEST_LENGTH_PX:
        # A line of no length is a dot.
        points, closed = points[0] + np.array([[-1.0, 0.0], [1.0, 0.0]]) * SHORTEST_LENGTH_PX, False
    share = (
        np.linspace(0.0, 1.0, len(points))
        if not closed
        else 0.5 - 0.5 * np.cos(np.linspace(0.0, 2 * np.pi, len(points), endpoint=False))
    )
    radii = tube.radius * (1.0 + (tube.end_radius / 100 - 1.0) * share)
    bending = relaxed(points, radius=float(radii.max()), closed=closed)
    return Strand(np.column_stack([bending, np.zeros(len(points))]), radii, closed)
