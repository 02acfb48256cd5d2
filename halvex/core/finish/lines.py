"""Effects that follow the outlines of the letters' faces: keylines and gloss."""

import math
from collections.abc import Iterable

import numpy as np
import shapely
from numpy.typing import NDArray

from halvex.core.finish.covering import coverage
from halvex.core.finish.painting import lay_colour
from halvex.core.finish.plate import Plate
from halvex.core.piece.effects import Gloss, Keyline
from halvex.core.scene.outlines import FaceSeen

Array = NDArray[np.float32]

# Corners are mitred up to so many times the line's width (the limit of SVG's stroke-miterlimit is 4).
MITRE_LIMIT = 6.0
# Sides of a quarter circle of a round corner: off by under 1/500 of the radius.
QUARTER_SIDES = 16


def lay_keyline(plate: Plate, line: Keyline) -> None:
    faces = shapely.union_all([face.area for face in plate.faces()])
    if faces.is_empty or line.width == 0:
        return
    area = line_along(faces, line, plate.scale)
    height, width = plate.letters.shape
    cover = coverage(area, width, height) * np.float32(line.strength / 100)
    lay_colour(plate, line.colour, cover, line.blend)


def line_along(faces: shapely.Geometry, line: Keyline, scale: float) -> shapely.Geometry:
    """The area of a keyline along faces, all in px of the picture."""
    width, gap = line.width * scale, line.double * scale
    inner = {"inside": -width, "centred": -width / 2, "outside": 0.0}[line.place]
    # Of a double line the second lies beyond a gap, farther out, or farther in than one that lies inside.
    steps = [inner]
    if gap > 0:
        steps.append(inner - gap - width if line.place == "inside" else inner + gap + width)
    return shapely.union_all(
        [
            shapely.difference(_offset(faces, at + width, line.join), _offset(faces, at, line.join))
            for at in steps
        ]
    )


def _offset(area: shapely.Geometry, by: float, join: str) -> shapely.Geometry:
    if abs(by) < 1e-9:
        return area
    style = "mitre" if join == "mitred" else "round"
    return shapely.buffer(area, by, quad_segs=QUARTER_SIDES, join_style=style, mitre_limit=MITRE_LIMIT)


def lay_gloss(plate: Plate, gloss: Gloss) -> None:
    """Lay a band over the faces, from their top down to its edge."""
    height, width = plate.letters.shape
    opacity = np.zeros((height, width), np.float32)
    faces = plate.faces()
    for group in _groups(faces, gloss.over):
        area = shapely.union_all([face.area for face in group])
        if area.is_empty:
            continue
        left, top, right, bottom = area.bounds
        columns = slice(max(math.floor(left), 0), min(math.ceil(right), width))
        rows = slice(max(math.floor(top), 0), min(math.ceil(bottom), height))
        if columns.start >= columns.stop or rows.start >= rows.stop:
            continue
        moved = shapely.transform(area, lambda points, at=(columns.start, rows.start): points - at)
        cover = coverage(moved, columns.stop - columns.start, rows.stop - rows.start)
        band = _band(gloss, (left, top, right, bottom), columns, rows)
        opacity[rows, columns] = np.maximum(opacity[rows, columns], cover * band)
    lay_colour(plate, gloss.colour, opacity, gloss.blend)


def _groups(faces: tuple[FaceSeen, ...], over: str) -> Iterable[list[FaceSeen]]:
    if over == "piece":
        return [list(faces)]
    if over == "letter":
        return [[face] for face in faces]
    return [[face for face in faces if face.block == block] for block in {face.block for face in faces}]


def _band(gloss: Gloss, box: tuple[float, float, float, float], columns: slice, rows: slice) -> Array:
    """Opacity (rows, columns) of the band in a box: whole at its top, fading to its edge, none below."""
    left, top, right, bottom = box
    wide, high = max(right - left, 1e-6), max(bottom - top, 1e-6)
    u = ((np.arange(columns.start, columns.stop) + 0.5) - left) / wide * 2 - 1
    y = (np.arange(rows.start, rows.stop) + 0.5)[:, None]
    bend = gloss.bow / 100 if gloss.bow else 0.25
    shape = {
        "straight": np.zeros_like(u),
        "bowed": bend * (u * u - 0.5),
        "waved": 0.5 * bend * np.sin(math.pi * u),
    }[gloss.edge]
    reach = (gloss.height / 100 + shape * min(gloss.height / 50, 1.0)) * high
    down = (y - top) / np.maximum(reach, 1e-6)
    edge = np.clip(reach - (y - top) + 0.5, 0.0, 1.0)
    fading = 1 - gloss.fade / 100 * np.clip(down, 0.0, 1.0)
    return np.asarray(gloss.strength / 100 * edge * fading, np.float32)
