"""The recipe line: each station of a piece summed up in words and numbers.

A summary is two lines, each a list of [text, strong] runs; numbers are strong.
"""

from halvex.core.lettering import typefaces
from halvex.core.piece.model import Glass, Metal, Piece, Plastic
from halvex.core.scene.scene import part_materials
from halvex.core.scene.turning import ISOMETRIC_TURNS

Run = tuple[str, bool]
Summary = list[list[Run]]


def recipe(piece: Piece) -> dict[str, Summary]:
    """The summary of every station by its name."""
    stations = {"set": _set, "form": _form, "view": _view, "light": _light, "surface": _surface, "backdrop": _backdrop, "export": _export}
    return {name: summarise(piece) for name, summarise in stations.items()}


def number(value: float) -> str:
    """A number as the trade writes it: no needless digits, a true minus sign.

    >>> number(-6.0)
    '−6'
    """
    return f"{round(value, 2):g}".replace("-", "−")


def material_name(material: Metal | Plastic | Glass) -> str:
    if isinstance(material, Metal):
        return f"{'polished ' if material.roughness < 0.1 else ''}{material.metal}"
    if isinstance(material, Plastic):
        return f"plastic {material.colour}"
    return "clear glass" if material.roughness == 0 else "frosted glass"


def placement_name(piece: Piece) -> str | None:
    """The isometric placement a view is exactly at, if any."""
    if piece.view.projection != "parallel":
        return None
    for name, turn in ISOMETRIC_TURNS.items():
        if all(abs(getattr(piece.view.turn, axis) - getattr(turn, axis)) < 1e-6 for axis in "xyz"):
            return name
    return None


def _set(piece: Piece) -> Summary:
    block = piece.blocks[0]
    known = typefaces().get(block.typeface)
    lines = block.words.count("\n") + 1
    align = {"left": "left", "centre": "centred", "right": "right"}[block.align]
    second: list[Run] = [(f"{lines} lines, " if lines > 1 else "1 line, ", False), (align, False)]
    if block.tracking:
        second += [(", tracking ", False), (number(block.tracking), True)]
    return [[(f"{known.name if known else block.typeface} ", False), (f"{number(block.size)} px", True)], second]


def _form(piece: Piece) -> Summary:
    form = piece.blocks[0].form
    bevel = form.bevel
    sides = [name for name, on in (("front", bevel.front), ("back", bevel.back)) if on]
    first: list[Run] = [(number(form.depth), True), (" deep", False)]
    if not sides or not bevel.width or not bevel.height:
        return [first, [("no bevel", False)]]
    return [first, [(f"{bevel.profile} ", False), (f"{number(bevel.width)} × {number(bevel.height)}", True), (f", {' and '.join(sides)}", False)]]


def _view(piece: Piece) -> Summary:
    turn = piece.view.turn
    placed = placement_name(piece)
    first: list[Run] = [("isometric", False)] if placed else [("turn ", False), (f"{number(turn.x)}°, {number(turn.y)}°, {number(turn.z)}°", True)]
    if placed:
        return [first, [(placed, False)]]
    return [first, [(f"{number(piece.view.focal_length)} mm", True)] if piece.view.projection == "central" else [("parallel", False)]]


def _light(piece: Piece) -> Summary:
    lamps = [lamp for lamp in piece.light.lamps if lamp.on]
    first: list[Run] = [("no lamps", False)]
    if lamps:
        first = [(f"{lamps[0].name} ", False), (f"{number(lamps[0].bearing)}° / {number(lamps[0].elevation)}°", True)]
    more = f"{len(lamps) - 1} more, " if len(lamps) > 1 else ""
    return [first, [(more, False), (f"{piece.light.surround.kind} ", False), (number(piece.light.surround.strength), True)]]


def _surface(piece: Piece) -> Summary:
    face, bevel, side, _ = part_materials(piece.blocks[0].surface)
    first = material_name(face)
    if bevel != face:
        first += f", bevel {material_name(bevel)}"
    return [[(first, False)], [(f"return {material_name(side)}" if side != bevel else "all parts alike" if bevel == face else "return as bevel", False)]]


def _backdrop(piece: Piece) -> Summary:
    ground = {"none": "colour alone", "wall": "wall", "floor": "floor"}[piece.backdrop.ground]
    return [[(ground, False)], [(piece.backdrop.colour, True)]]


def _export(piece: Piece) -> Summary:
    return [[(f"{piece.canvas.width} × {piece.canvas.height} px", True)], [("PNG", False)]]
