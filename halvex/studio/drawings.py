"""The stations' drawings, as numbers computed from the piece: sections, sight lines, lighting plot,
advice."""

import math
from dataclasses import asdict, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.advice.collisions import Collision, collisions, freeing_kerns, spread_of
from halvex.core.advice.fitness import misfits
from halvex.core.advice.stems import Stem, thinnest, widest
from halvex.core.finish.grading import CURVE_STEPS, curve_table
from halvex.core.lettering import LetteringError, SetBlock, set_block
from halvex.core.lettering.arranging import span_of, unit_of
from halvex.core.lettering.letters import kerned_with, letters_of
from halvex.core.lettering.placed import Box
from halvex.core.piece.block import Block, Strokes
from halvex.core.piece.effects import PART_TARGETS, Keyline, Tone
from halvex.core.piece.form import Bevel
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.guides import guides
from halvex.core.piece.lettering import Lettering
from halvex.core.piece.light import Lamp
from halvex.core.piece.mark import Mark
from halvex.core.piece.material import InnerLayer
from halvex.core.piece.model import Piece
from halvex.core.piece.quantity import px_per_unit
from halvex.core.piece.resolving import FOLLOWS, PART_NAMES, part_materials
from halvex.core.piece.source import parts_in
from halvex.core.piece.turning import rotation
from halvex.core.scene.camera import (
    angle_of_view,
    blur_circle,
    camera_distance,
    face_to_canvas,
    make_camera,
    world_to_canvas,
)
from halvex.core.scene.lamps import lamp_frame
from halvex.core.solids import SolidError
from halvex.core.solids.bodies import common_ridge
from halvex.core.solids.faults import making
from halvex.core.solids.inks import Ink, single_inks
from halvex.core.solids.profiles import profile_curve
from halvex.core.solids.section import DRAWN_RADIUS_PX, part_points, section
from halvex.studio.assets import assets
from halvex.studio.gradient_lines import (
    backdrop_lines,
    backdrop_meshes,
    canvas_box,
    gradient_lines,
    wash_lines,
)
from halvex.studio.recipe import material_name

# Stems closer in width than this are one and the same: a second section would say nothing.
SAME_STEM_PX = 0.5
PAIRS_NAMED = 3
DRAWN_CURVE_POINTS = 33
# Drawings of more points than a letter ever has may be so jagged that measuring them would hold up the hand.
MOST_MEASURED_POINTS = 300


def drawings(piece: Piece) -> dict[str, Any]:
    """Numbers behind the drawings of Form, View and Light, and what there is to say; what cannot be
    drawn is omitted."""
    blocks, advice = [], []
    turn = rotation(piece.view.turn)
    for number, block in enumerate(piece.blocks):
        unit = {other.id for other in unit_of(piece, block)}
        drawn: dict[str, Any] = {
            **_planes(piece, block, turn),
            "box": None,
            "span": None,
            "letters": _letters(block, {}),
            "outline": [],
            "profile": profile_points(block.form.bevel),
            "sections": [],
            "gradients": [],
            "parts": _parts(block),
            "unit": [at for at, other in enumerate(piece.blocks) if other.id in unit],
        }
        blocks.append(drawn)
        try:
            placed = set_block(block, assets=assets())
            drawn["box"], drawn["span"] = placed.box, span_of(block, assets())
            drawn["letters"] = _letters(block, placed.letter_boxes)
            drawn["gradients"] = list(gradient_lines(number, block, placed))
            drawn["outline"] = _outline(placed) if block.guide else []
            # Letter by letter, also where the form joins them: a stem belongs to a letter.
            inks = single_inks(placed)
            if (
                isinstance(block, Mark)
                and max(sum(map(len, ink.outline.rings)) for ink in inks) > MOST_MEASURED_POINTS
            ):
                text = "This mark is too intricate for its strokes to be measured; simplify its drawing."
                advice.append({"station": "form", "block": number, "text": text, "act": None})
                continue
            with making("the strokes of this block"):
                stems = [widest(inks), thinnest(inks)]
                drawn["sections"] = _sections(block, inks, stems)
                advice += _advice(number, block, inks, stems)
        except (LetteringError, SolidError) as fault:
            advice.append({"station": "set", "block": number, "text": str(fault), "act": None})
    advice += _advice_on_effects(piece)
    return {
        "blocks": blocks,
        "backdrop": _backdrop(piece),
        "targets": _targets(piece),
        "curves": [_curve(effect) if isinstance(effect, Tone) else [] for effect in piece.finish],
        "view": _view(piece),
        "lamps": [_lamp(lamp, turn) for lamp in piece.light.lamps],
        "guides": [asdict(guide) for guide in guides(piece.canvas)],
        "px_per_unit": px_per_unit(piece.canvas.unit, piece.canvas.ppi),
        "advice": advice,
    }


def _advice_on_effects(piece: Piece) -> list[dict[str, Any]]:
    """What is to be said of effects that show nothing as things stand."""
    asks = any(
        effect.on and isinstance(effect, Keyline) and effect.around == "tones" for effect in piece.finish
    )
    if not asks or any(layer.span == "facing" for layer in parts_in(list(piece.blocks), Gradient)):
        return []
    text = (
        "There are no graphic tones for the keyline to follow. In Surface, add a gradient over the way a "
        "part faces, with two stops at one place."
    )
    return [{"station": "finish", "block": None, "text": text, "act": None}]


def _curve(tone: Tone) -> list[tuple[float, float]]:
    """A tone's curve as drawn, in shares of black to white."""
    places = np.linspace(0, CURVE_STEPS, DRAWN_CURVE_POINTS).round().astype(int)
    made = curve_table(tone)[places]
    return [
        (round(at / CURVE_STEPS, 4), round(float(v), 4)) for at, v in zip(places.tolist(), made, strict=True)
    ]


def _targets(piece: Piece) -> list[dict[str, str]]:
    """What effects can work on, and what that is called: targets of the document with their names."""
    found = [{"target": name, "name": f"the {name}"} for name in ("picture", "letters", "backdrop")]
    found += [{"target": f"part:{name}", "name": f"the {name} of the letters"} for name in PART_TARGETS[:3]]
    shown = [block for block in piece.blocks if block.in_picture]
    if len(shown) > 1:
        found += [{"target": f"block:{block.id}", "name": _called(block)} for block in shown]
    lamps = [(f"light:{lamp.id}", lamp.name or lamp.id) for lamp in piece.light.lamps if lamp.on]
    named = [*lamps, ("light:surround", "surroundings")]
    return found + [{"target": target, "name": f"light of {name}"} for target, name in named]


def _called(block: Block) -> str:
    """A block by the beginning of its words, or by its id."""
    words = " ".join(block.words.split())[:24] if isinstance(block, Lettering) else ""
    return f"“{words}”" if words else block.id


def _backdrop(piece: Piece) -> dict[str, Any]:
    width, height = piece.canvas.width, piece.canvas.height
    return {
        "plane": [1.0, 0.0, width / 2, 0.0, -1.0, height / 2, 0.0, 0.0, 1.0],
        "box": canvas_box(piece.canvas),
        "gradients": list(backdrop_lines(piece)),
        "washes": list(wash_lines(piece)),
        "meshes": list(backdrop_meshes(piece)),
    }


def _planes(piece: Piece, block: Block, turn: NDArray[np.float64]) -> dict[str, Any]:
    """Homographies to the canvas: `plane` from the block's own face, `ground` from the plane of all
    lettering at the block's height."""
    own = rotation(block.place.turn)
    place = np.array([block.place.x, block.place.y, block.place.z])
    planes = {"plane": (turn @ own, own.T @ place), "ground": (turn, np.array([0.0, 0.0, block.place.z]))}
    return {
        name: face_to_canvas(piece.view, piece.canvas, matrix, tuple(at.tolist())).ravel().tolist()
        for name, (matrix, at) in planes.items()
    }


def _letters(block: Block, boxes: dict[int, Box]) -> list[dict[str, Any]]:
    """The letters of a lettering, each with its box where it has ink, and whose kern parts it from the letter
    to its left."""
    if not isinstance(block, Lettering):
        return []
    standing = sorted(boxes, key=lambda at: boxes[at][0])
    return [
        {
            "letter": letter.number,
            "text": letter.text,
            "starts": letter.starts,
            "box": boxes.get(letter.number),
            "kerned": kerned_with(standing, letter.number) if letter.number in boxes else None,
        }
        for letter in letters_of(block.words)
    ]


def _outline(placed: SetBlock) -> list[list[float]]:
    """The rings of a guide, each as x, y, x, y, … in px about the block's place."""
    return [np.round(ring, 1).ravel().tolist() for letter in placed.letters for ring in letter.rings]


def profile_points(bevel: Bevel) -> list[tuple[float, float]]:
    """A bevel's profile as a drawn curve, in shares of its width and height."""
    return [(round(float(a), 4), round(float(r), 4)) for a, r in profile_curve(bevel, DRAWN_RADIUS_PX).points]


def _sections(block: Block, inks: list[Ink], stems: list[Stem]) -> list[dict[str, Any]]:
    ridge = common_ridge(inks, block.form) * inks[0].size
    shown = stems if stems[0].width - stems[1].width > SAME_STEM_PX else stems[:1]
    cuts = [section(block.form, stem.width, ridge) for stem in shown]
    return [
        {
            "mark": mark,
            "letter": stem.letter,
            "stroke": round(stem.width, 1),
            "x": round(stem.x, 2),
            "y": round(stem.y, 2),
            "across": [round(v, 4) for v in stem.across],
            "pieces": [asdict(piece) for piece in cut],
            "points": part_points(block.form, cut),
        }
        for mark, stem, cut in zip("AB", shown, cuts, strict=False)
    ]


def _parts(block: Block) -> list[dict[str, Any]]:
    """What each part is made of, in words, and whether the material is its own or its neighbour's."""
    surface = block.surface
    own = (surface.face, surface.bevel, surface.return_, surface.back, surface.plate, surface.slab)
    return [
        {
            "part": name,
            "follows": FOLLOWS.get(name),
            "own": mine is not None,
            "name": material_name(material),
            "material": None if isinstance(material, InnerLayer) else material.model_dump(mode="json"),
        }
        for name, mine, material in zip(PART_NAMES, own, part_materials(surface), strict=True)
        if (name != "plate" or block.form.plates) and (name != "slab" or block.form.stands != "free")
    ]


def _view(piece: Piece) -> dict[str, Any]:
    canvas, view = piece.canvas, piece.view
    return {
        "distance": round(camera_distance(view.focal_length, canvas)),
        "angle": round(angle_of_view(view.focal_length), 1),
        "width": canvas.width,
        "height": canvas.height,
        "projection": view.projection,
        "turn": [view.turn.x, view.turn.y, view.turn.z],
        "eye": [view.across, view.up],
        "shift": [view.shift_x, view.shift_y],
        "zoom": view.zoom,
        "focus": view.focus,
        "blur": round(_blur(piece), 1),
        "canvas": world_to_canvas(make_camera(view, canvas, 1.0)).ravel().tolist(),
    }


def _blur(piece: Piece) -> float:
    """How wide, in px of the canvas, a point as far behind the sharp plane as the lettering is deep
    is drawn; 0 where all is sharp."""
    view = piece.view
    if view.projection != "central" or not view.aperture:
        return 0.0
    deep = max(block.form.depth for block in piece.blocks)
    return (
        blur_circle(view.aperture, camera_distance(view.focal_length, piece.canvas) - view.focus, deep)
        * view.zoom
    )


def _lamp(lamp: Lamp, turn: NDArray[np.float64]) -> dict[str, Any]:
    """A lamp for the lighting plot: where it is and what it spans, in px of the world."""
    towards, across, up = lamp_frame(lamp, turn)
    aim = np.array([lamp.aim.x, lamp.aim.y, lamp.aim.z])
    aim = aim if lamp.fixed_to == "viewer" else turn @ aim
    # The sun is drawn at the lamps' usual distance, as wide as it looks from the letters.
    sun = lamp.kind == "sun"
    distance = Lamp().distance if sun else lamp.distance
    width = 2 * distance * math.tan(math.radians(lamp.angular_size / 2)) if sun else lamp.width
    height = lamp.height if lamp.kind in ("softbox", "strip") else width
    return {
        "id": lamp.id,
        "kind": lamp.kind,
        "on": lamp.on,
        "aim": _rounded(aim),
        "centre": _rounded(aim + towards * distance),
        "across": _rounded(across * width / 2),
        "up": _rounded(up * height / 2),
    }


def _rounded(vector: NDArray[np.float64]) -> list[float]:
    return [round(float(v), 2) for v in vector]


def _advice(number: int, block: Block, inks: list[Ink], stems: list[Stem]) -> list[dict[str, Any]]:
    form = block.form
    said: list[dict[str, Any]] = []

    def free(text: str, found: list[Collision]) -> None:
        kerns = freeing_kerns(found, block) if isinstance(block, Lettering) else {}
        edits = [
            {"op": "replace", "path": f"/blocks/{number}/letters/{at}/kern", "value": kern}
            for at, kern in kerns.items()
        ]
        act = {"label": "Kern them apart", "edits": edits} if edits else None
        letters = sorted({letter for pair in found for letter in pair.letters if letter >= 0})
        said.append({"station": "form", "block": number, "text": text, "act": act, "letters": letters})

    thin = stems[1] if isinstance(block, Lettering) else replace(stems[1], letter="")
    for misfit in misfits(form, thin, drawn=isinstance(block, Strokes)):
        act = {
            "label": misfit.label,
            "edits": [{"op": "replace", "path": f"/blocks/{number}/form/{misfit.at}", "value": misfit.value}],
        }
        said.append({"station": "form", "block": number, "text": misfit.text, "act": act})
    reach, what = spread_of(form)
    found = collisions(inks, reach, joined=form.joined)
    if found:
        free(f"The {what} of {_pairs(found)} run together.", found)
    for plate in form.plates:
        found = collisions(inks, plate.distance, joined=form.joined)
        if found:
            free(f"The plates of {_pairs(found)} merge at this distance.", found)
            break
    return said


def _pairs(found: list[Collision]) -> str:
    """The colliding pairs by name, each with the space that would free it."""
    named = [
        f"{pair.first} and {pair.second} ({pair.space:.1f} px would free them)"
        for pair in found[:PAIRS_NAMED]
    ]
    return ", ".join(named) + (
        f" and {len(found) - PAIRS_NAMED} more pairs" if len(found) > PAIRS_NAMED else ""
    )
