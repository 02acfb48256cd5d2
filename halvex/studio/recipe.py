"""The recipe line: each station of a piece summed up in words and numbers.

A summary is two lines, each a list of [text, strong] runs; numbers are strong.
"""

from halvex.core.optics.sources import mean_number
from halvex.core.piece.block import Shape, Strokes
from halvex.core.piece.coat import Coat
from halvex.core.piece.form import Bevel
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.lettering import Lettering
from halvex.core.piece.mark import Mark
from halvex.core.piece.material import (
    Flat,
    Glass,
    Glow,
    InnerLayer,
    Metal,
    Paint,
    Plaster,
    Plastic,
    Stone,
    Wood,
)
from halvex.core.piece.mesh import Mesh
from halvex.core.piece.model import Piece
from halvex.core.piece.pattern import Pattern
from halvex.core.piece.picture import Picture
from halvex.core.piece.resolving import PartMaterial, part_materials
from halvex.core.piece.source import Layered, base_of
from halvex.core.piece.tile import Tile
from halvex.core.piece.turning import DIMETRIC_TURN, ISOMETRIC_TURNS
from halvex.studio.assets import assets

Run = tuple[str, bool]
Summary = list[list[Run]]


def recipe(piece: Piece) -> dict[str, Summary]:
    """The summary of every station by its name."""
    stations = {
        "set": _set,
        "form": _form,
        "view": _view,
        "light": _light,
        "surface": _surface,
        "backdrop": _backdrop,
        "finish": _finish,
        "export": _export,
    }
    return {name: summarise(piece) for name, summarise in stations.items()}


def number(value: float) -> str:
    """A number as the trade writes it: no needless digits, a true minus sign.

    >>> number(-6.0)
    '−6'
    """
    return f"{round(value, 2):g}".replace("-", "−")


# Roughness up to which a metal is called polished, and from which a brushed one is drawn out enough
# to be seen as such.
POLISHED = 0.1
BRUSHED = 10


def colour_name(source: str | Layered) -> str:
    """A colour, or what its top layer is: the first and the last colour of a gradient, the name of a
    pattern."""
    if isinstance(source, str) or not source.layers:
        return base_of(source)
    match source.layers[-1]:
        case Gradient(stops=stops):
            return f"{stops[0].colour} to {stops[-1].colour}"
        case Pattern(pattern=pattern):
            return f"{pattern} on {source.base}"
        case Picture():
            return "picture"
        case Tile():
            return f"tiles on {source.base}"
        case Mesh():
            return "mesh of colours"


def _coat_name(coat: Coat | None) -> str:
    return "lacquered " if coat else ""


def material_name(material: PartMaterial) -> str:
    match material:
        case Metal():
            finish = (
                "brushed "
                if material.brushed >= BRUSHED
                else "polished "
                if mean_number(material.roughness) < POLISHED
                else ""
            )
            return f"{_coat_name(material.coat)}{finish}{material.metal}"
        case Plastic():
            pearl = "pearl " if material.pearl else ""
            return f"{_coat_name(material.coat)}{pearl}plastic {colour_name(material.colour)}"
        case Glass():
            kind = "thin " if material.thin else ""
            return f"{kind}{'clear' if mean_number(material.roughness) == 0 else 'frosted'} glass"
        case Paint():
            finish = f"{material.finish} " if material.coat is None else _coat_name(material.coat)
            return f"{finish}paint {colour_name(material.colour)}"
        case Stone():
            return f"{_coat_name(material.coat)}{material.stone}"
        case Wood():
            return f"{_coat_name(material.coat)}wood"
        case Plaster():
            return f"{_coat_name(material.coat)}{material.texture}"
        case Glow():
            return f"glow {colour_name(material.colour)}"
        case Flat():
            return f"flat {colour_name(material.colour)}"
        case InnerLayer():
            return f"{material.pattern} layer"


# The oblique projections of ISO 5456-3 by receding scale, at a receding angle of 45°.
OBLIQUE_NAMES = {1.0: "cavalier", 0.5: "cabinet"}


def placement_name(piece: Piece) -> str | None:
    """The named projection a view is exactly at, if any: an isometric placement, dimetric, cavalier
    or cabinet."""
    view = piece.view
    if view.projection == "oblique" and view.turn.x == view.turn.y == 0 and view.oblique.angle % 90 == 45:
        return OBLIQUE_NAMES.get(view.oblique.scale)
    if view.projection != "parallel":
        return None
    for name, turn in {**ISOMETRIC_TURNS, "dimetric": DIMETRIC_TURN}.items():
        if all(abs(getattr(view.turn, axis) - getattr(turn, axis)) < 1e-6 for axis in "xyz"):
            return name
    return None


def _set(piece: Piece) -> Summary:
    block = piece.blocks[0]
    more: list[Run] = [(f", {len(piece.blocks) - 1} more", False)] if len(piece.blocks) > 1 else []
    if isinstance(block, Shape):
        return [
            [(f"{block.shape} ", False), (f"{number(block.width)} × {number(block.height)} px", True)],
            [("plain shape", False), *more],
        ]
    if isinstance(block, Strokes):
        count = len(block.strokes)
        return [
            [("drawn ", False), (f"{count} stroke{'s' if count > 1 else ''}", True)],
            [(f"{number(block.width)} px wide", False), *more],
        ]
    if isinstance(block, Mark):
        count = len(block.parts)
        return [
            [("mark ", False), (block.name, True)],
            [(f"{count} part{'s' if count > 1 else ''}, {number(block.scale)} %", False), *more],
        ]
    assert isinstance(block, Lettering)
    known = assets().typefaces.get(block.typeface)
    lines = block.words.count("\n") + 1
    align = {"left": "left", "centre": "centred", "right": "right"}[block.align]
    second: list[Run] = [(f"{lines} lines, " if lines > 1 else "1 line, ", False), (align, False)]
    if block.tracking and not more:
        second += [(", tracking ", False), (number(block.tracking), True)]
    return [
        [(f"{known.name if known else block.typeface} ", False), (f"{number(block.size)} px", True)],
        [*second, *more],
    ]


def _form(piece: Piece) -> Summary:
    form = piece.blocks[0].form
    stands = {"free": "", "raised": ", raised", "v-cut": "", "flat-cut": ""}[form.stands]
    extra = f", {len(form.plates)} plate{'s' if len(form.plates) > 1 else ''}" if form.plates else ""
    if form.stands == "v-cut":
        cut = (
            (f"{number(form.incision.angle)}°", True)
            if form.incision.by == "angle"
            else (f"{number(form.incision.depth)} px", True)
        )
        return [
            [("V-cut ", False), cut],
            [("slab ", False), (number(form.slab.depth), True), (" thick", False)],
        ]
    if form.stands == "flat-cut":
        return [
            [("cut ", False), (number(form.incision.depth), True), (" deep, flat", False)],
            [("slab ", False), (number(form.slab.depth), True)],
        ]
    if form.kind == "tube":
        return [
            [("tube ", False), (number(2 * form.tube.radius), True), (f" px {form.tube.section}", False)],
            [(f"{form.tube.caps} ends{stands}{extra}", False)],
        ]
    first: list[Run] = [(number(form.depth), True), (f" deep{stands}{extra}", False)]
    if form.run.points:
        first = [
            ("run through ", False),
            (str(len(form.run.points)), True),
            (f" point{'s' if len(form.run.points) > 1 else ''}{stands}{extra}", False),
        ]
    if form.kind == "rim":
        first = [("rim ", False), (number(form.rim.width), True), (", ", False), *first]
    return [first, _bevel(form.bevel)]


def _bevel(bevel: Bevel) -> list[Run]:
    sides = [name for name, on in (("front", bevel.front), ("back", bevel.back)) if on]
    if not sides or not bevel.height or not (bevel.width or bevel.to_ridge or bevel.cushion):
        return [("no bevel", False)]
    where = " and ".join(sides) + (", outset" if bevel.side == "outset" else "")
    if bevel.cushion:
        return [(f"{bevel.profile} cushion ", False), (number(bevel.height), True), (f", {where}", False)]
    width = "ridge" if bevel.to_ridge else number(bevel.width)
    return [(f"{bevel.profile} ", False), (f"{width} × {number(bevel.height)}", True), (f", {where}", False)]


def _view(piece: Piece) -> Summary:
    view, turn = piece.view, piece.view.turn
    placed = placement_name(piece)
    if placed:
        return [[("isometric" if placed in ISOMETRIC_TURNS else view.projection, False)], [(placed, False)]]
    second: list[Run] = (
        [(f"{number(view.focal_length)} mm", True)]
        if view.projection == "central"
        else [(view.projection, False)]
    )
    if view.projection == "central" and view.aperture:
        second.append((f" at f/{number(view.aperture)}", False))
    return [[("turn ", False), (f"{number(turn.x)}°, {number(turn.y)}°, {number(turn.z)}°", True)], second]


def _light(piece: Piece) -> Summary:
    lamps = [lamp for lamp in piece.light.lamps if lamp.on]
    first: list[Run] = [("no lamps", False)]
    if lamps:
        first = [
            (f"{lamps[0].name} ", False),
            (f"{number(lamps[0].bearing)}° / {number(lamps[0].elevation)}°", True),
        ]
        if len(lamps) > 1:
            first.append((f", {len(lamps) - 1} more", False))
    second: list[Run] = [
        (f"{piece.light.surround.kind} ", False),
        (number(piece.light.surround.strength), True),
    ]
    if piece.light.exposure:
        second += [(", exposure ", False), (number(piece.light.exposure), True)]
    return [first, second]


def _surface(piece: Piece) -> Summary:
    face, bevel, side, *_ = part_materials(piece.blocks[0].surface)
    first = material_name(face)
    if bevel != face:
        first += f", bevel {material_name(bevel)}"
    return [
        [(first, False)],
        [
            (
                f"return {material_name(side)}"
                if side != bevel
                else "all parts alike"
                if bevel == face
                else "return as bevel",
                False,
            )
        ],
    ]


def _backdrop(piece: Piece) -> Summary:
    ground = {"none": "colour alone", "wall": "wall", "floor": "floor"}[piece.backdrop.ground]
    own = piece.backdrop.material if piece.backdrop.ground != "none" else None
    shown = material_name(own) if own else colour_name(piece.backdrop.colour)
    return [[(ground, False)], [(shown, True)]]


def _finish(piece: Piece) -> Summary:
    names = [effect.kind for effect in piece.finish if effect.on]
    if not names:
        return [[("as rendered", False)], []]
    more = [[(", ".join(names[2:]), False)]] if len(names) > 2 else [[]]
    return [[(", ".join(names[:2]), True)], *more]


def _export(piece: Piece) -> Summary:
    return [[(f"{piece.canvas.width} × {piece.canvas.height} px", True)], [("PNG", False)]]
