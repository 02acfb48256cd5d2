"""Bodies: what a set block and its form become. The one place that knows the order of all forms.

outlines → joined where they overlap → cut by kerfs and holes → rims → bodies, tubes or pits → slab → plates
"""

from dataclasses import dataclass, fields, replace
from functools import cached_property, lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.lettering.outlines import Outline, outline_of, polygon_of
from halvex.core.lettering.placed import Box, PlacedOutline
from halvex.core.lettering.setting import SetBlock
from halvex.core.piece.form import Bevel, Form, Holes, Kerf, Tube
from halvex.core.piece.material import AnyMaterial
from halvex.core.solids import areas
from halvex.core.solids.bending import bend_of
from halvex.core.solids.body import outline_body
from halvex.core.solids.centrelines import centre_lines, smoothed
from halvex.core.solids.mesh import Mesh, PartOf, merged
from halvex.core.solids.paths import relaxed
from halvex.core.solids.roof import OutlineKey, SolidError, roof_of
from halvex.core.solids.slabs import Cutter, incised_slab, plain_slab
from halvex.core.solids.tubes import Strand, lifted, tube_body

Array = NDArray[np.float64]

# Overlaps smaller than this, in em², are letters that merely touch.
OVERLAP_EM2 = 1e-6
# What stands on a slab or a plate is sunk into it by this much, so that no two surfaces share a plane.
SUNK_PX = 0.05
OUTLINE_FIELDS = tuple(field.name for field in fields(PlacedOutline))


@dataclass(frozen=True)
class PlacedBody:
    """A body, its offset in px from the block's place, and the material of its own that it has all over, if any."""

    mesh: Mesh
    offset: tuple[float, float, float]
    material: AnyMaterial | None = None


class Ink(PlacedOutline):
    """An outline of one letter or of several that overlap; `letter` is -1 where it is of several or of none."""

    @property
    def key(self) -> OutlineKey:
        return OutlineKey(self.outline)

    @cached_property
    def box(self) -> Box:
        """left, bottom, right, top in px from the block's place."""
        low, high = outline_box(self.key)
        return (low[0] * self.size + self.x, low[1] * self.size + self.y, high[0] * self.size + self.x, high[1] * self.size + self.y)

    @property
    def own(self) -> tuple[object, ...]:
        """What sets it apart from others of its block."""
        return self.material, self.depth, self.lift


def block_bodies(block: SetBlock, form: Form, *, px_scale: float = 1.0) -> list[PlacedBody]:
    """All bodies of a block. Raises SolidError where a form cannot be made of it."""
    if form.kind == "tube":
        inks = ink_of(block, form)
        bodies = _tubes(block, inks, form, px_scale)
    else:
        inks = formed_ink(block, form)
        if form.stands in ("v-cut", "flat-cut"):
            return [PlacedBody(_incised(inks, form, px_scale), (0.0, 0.0, 0.0))]
        ridge = common_ridge(inks, form)
        bodies = [_letter(ink, form, ridge, px_scale) for ink in inks]
    if form.stands == "raised" or form.plates:
        back = min(float(body.mesh.positions[:, 2].min()) + body.offset[2] for body in bodies)
        for plate in form.plates:
            mesh = _plate(inks, plate.distance, plate.join, plate.close_holes, plate.depth, plate.bevel, px_scale)
            back -= plate.gap
            bodies.append(PlacedBody(mesh, (0.0, 0.0, back + SUNK_PX)))
            back -= plate.depth
        if form.stands == "raised":
            bodies.append(PlacedBody(plain_slab(form.slab, _box(inks), px_scale=px_scale), (0.0, 0.0, back + SUNK_PX)))
    return bodies


def formed_ink(block: SetBlock, form: Form) -> list[Ink]:
    """The outlines that bodies are made of: joined, cut, hollowed. Raises SolidError where nothing is left."""
    inks = ink_of(block, form)
    if form.kerfs or form.holes:
        box = _box(inks)
        cut = [(ink, _cut(ink.key, ink.size, ink.x, ink.y, form.kerfs, form.holes, box)) for ink in inks]
        inks = [replace(ink, outline=left) for ink, left in cut if left is not None]
        if not inks:
            raise SolidError("the cuts leave nothing of the letters; make them narrower or fewer")
    if form.kind == "rim":
        inks = [replace(ink, outline=areas.rim_of(ink.outline, form.rim, ink.size, form.bevel.corner)) for ink in inks]
    return inks


def common_ridge(inks: list[Ink], form: Form) -> float:
    """The height in em of the highest ridge of a block, to which its bevels reach together; 0 where none does."""
    if not (form.bevel.to_ridge or form.bevel.cushion):
        return 0.0
    return max(roof_of(ink.key, form.bevel.corner).ridge * ink.size for ink in inks) / inks[0].size


def _letter(ink: Ink, form: Form, ridge: float, px_scale: float) -> PlacedBody:
    if ink.depth is not None:
        form = form.model_copy(update={"depth": ink.depth})
    bend = bend_of(form, ink.x, ink.y)
    mesh = outline_body(ink.key, size=ink.size, depth=form.depth, bevel=form.bevel, ridge=ridge, px_scale=px_scale, bend=bend)
    return PlacedBody(mesh, (ink.x, ink.y, ink.lift), ink.material)


@lru_cache(maxsize=4096)
def outline_box(key: OutlineKey) -> tuple[tuple[float, float], tuple[float, float]]:
    points = np.vstack(key.outline.rings)
    (left, bottom), (right, top) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    return (left, bottom), (right, top)


def _box(inks: list[Ink]) -> Box:
    left, bottom, right, top = np.array([ink.box for ink in inks]).T
    return float(left.min()), float(bottom.min()), float(right.max()), float(top.max())


def ink_of(block: SetBlock, form: Form) -> list[Ink]:
    """The letters of a block; those that overlap are one where the form joins them and nothing sets them apart."""
    return list(_inks(block, form.joined))


def single_inks(block: SetBlock) -> list[Ink]:
    """The letters of a block one by one, also those that overlap."""
    return list(_inks(block, False))


@lru_cache(maxsize=256)
def _inks(block: SetBlock, joined: bool) -> tuple[Ink, ...]:
    inks = [Ink(**{name: getattr(letter, name) for name in OUTLINE_FIELDS}) for letter in block.letters]
    if not joined or len(inks) < 2:
        return tuple(inks)
    group = list(range(len(inks)))
    for i, j in _near(inks):
        if inks[i].own == inks[j].own and _overlap(inks[i], inks[j]):
            a, b = _root(group, i), _root(group, j)
            group[max(a, b)] = min(a, b)
    members: dict[int, list[Ink]] = {}
    for i, ink in enumerate(inks):
        members.setdefault(_root(group, i), []).append(ink)
    return tuple(parts[0] if len(parts) == 1 else _merge(parts) for parts in members.values())


def _root(group: list[int], i: int) -> int:
    while group[i] != i:
        i = group[i]
    return i


def _near(inks: list[Ink]) -> list[tuple[int, int]]:
    """Pairs whose boxes overlap."""
    boxes = np.array([ink.box for ink in inks])
    low, high = boxes[:, :2], boxes[:, 2:]
    meet = (low[:, None] < high[None]).all(axis=2) & (low[None] < high[:, None]).all(axis=2)
    return [(int(i), int(j)) for i, j in np.argwhere(np.triu(meet, 1))]


def _overlap(a: Ink, b: Ink) -> bool:
    scale = b.size / a.size
    return _overlap_em(a.key, b.key, round((b.x - a.x) / a.size, 9), round((b.y - a.y) / a.size, 9), scale)


@lru_cache(maxsize=8192)
def _overlap_em(a: OutlineKey, b: OutlineKey, x: float, y: float, scale: float) -> bool:
    other = shapely.transform(_polygon(b), lambda points: points * scale + (x, y))
    return bool(shapely.area(shapely.intersection(_polygon(a), other)) > OVERLAP_EM2)


@lru_cache(maxsize=1024)
def _polygon(key: OutlineKey) -> shapely.Geometry:
    return polygon_of(key.outline.rings)


def _parts(inks: list[Ink]) -> list[tuple[Outline, float, float]]:
    """Inks as outlines in em of the first one, about its origin."""
    first = inks[0]
    return [
        (
            ink.outline if ink.size == first.size else outline_of(tuple(ring * (ink.size / first.size) for ring in ink.outline.rings)),
            round((ink.x - first.x) / first.size, 9),
            round((ink.y - first.y) / first.size, 9),
        )
        for ink in inks
    ]


def _merge(inks: list[Ink]) -> Ink:
    first = inks[0]
    return replace(first, outline=areas.joined(_parts(inks), "".join(ink.outline.name for ink in inks)), letter=-1)


@lru_cache(maxsize=1024)
def _cut(key: OutlineKey, size: float, x: float, y: float, kerfs: tuple[Kerf, ...], holes: Holes | None, box: Box) -> Outline | None:
    return areas.cut(key.outline, _tools(kerfs, holes, box), size=size, x=x, y=y)


@lru_cache(maxsize=32)
def _tools(kerfs: tuple[Kerf, ...], holes: Holes | None, box: Box) -> shapely.Geometry:
    shapes = [areas.kerf_shape(kerf) for kerf in kerfs]
    if holes and holes.count:
        shapes.append(areas.hole_shapes(holes, box))
    return shapely.union_all(shapes)


def _incised(inks: list[Ink], form: Form, px_scale: float) -> Mesh:
    return incised_slab(form, [Cutter(ink.key, ink.size, ink.x, ink.y) for ink in inks], _box(inks), px_scale=px_scale)


def _plate(inks: list[Ink], distance: float, join: str, close_holes: bool, depth: float, bevel: Bevel, px_scale: float) -> Mesh:
    first = inks[0]
    corner = "rounded" if join == "round" else "mitred"
    outline = areas.plate_outline(_parts(inks), distance / first.size, corner, close_holes=close_holes)  # type: ignore[arg-type]
    mesh = outline_body(OutlineKey(outline), size=first.size, depth=depth, bevel=bevel, px_scale=px_scale)
    return mesh.moved(first.x, first.y, 0.0).all_of(PartOf.PLATE)


def _tubes(block: SetBlock, inks: list[Ink], form: Form, px_scale: float) -> list[PlacedBody]:
    """All strands of a block; those that cross are lifted over each other in their order."""
    tube = form.tube
    strands = [_strand(points, closed, tube) for points, closed in block.lines]
    materials: list[AnyMaterial | None] = [None] * len(strands)
    if not block.lines:
        for ink in inks:
            for line in centre_lines(ink.key):
                smooth = smoothed(line, amount=tube.smoothing / 100, reach=tube.radius / ink.size)
                strands.append(_strand(smooth.points * ink.size + (ink.x, ink.y), smooth.closed, tube))
                materials.append(ink.material)
    bodies = [tube_body(strand, tube, px_scale=px_scale) for strand in lifted(strands)]
    # The front of the tubes lies in the face plane.
    back = (0.0, 0.0, -tube.radius * max(1.0, tube.end_radius / 100))
    alike = {material: [body for body, own in zip(bodies, materials, strict=True) if own == material] for material in materials}
    return [PlacedBody(merged(bodies), back, material) for material, bodies in alike.items()]


def _strand(points: Array, closed: bool, tube: Tube) -> Strand:
    share = np.linspace(0.0, 1.0, len(points)) if not closed else 0.5 - 0.5 * np.cos(np.linspace(0.0, 2 * np.pi, len(points), endpoint=False))
    radii = tube.radius * (1.0 + (tube.end_radius / 100 - 1.0) * share)
    bending = relaxed(points, radius=float(radii.max()), closed=closed)
    return Strand(np.column_stack([bending, np.zeros(len(points))]), radii, closed)
