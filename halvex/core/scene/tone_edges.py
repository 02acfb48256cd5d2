"""Edges of graphic tones: where on a body what faces one way meets what faces another, and a gradient over
the way that surfaces face changes its colour at once."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.sources import BY_KEY, MAIN, OWN, TO_X, TO_Z, Sources, layers_in
from halvex.core.piece.gradient import MOST_STOPS, Gradient, Stop
from halvex.core.piece.part import Part
from halvex.core.piece.source import Layered
from halvex.core.scene.camera import Camera, lettering_to_picture
from halvex.core.scene.instances import Instance
from halvex.core.scene.outlines import LEAST_WEIGHT, projected
from halvex.core.solids.welding import welded

Array = NDArray[np.float64]

# Between two stops a colour changes at once if it is drawn together by so many %.
HARD_FROM = 50
# Where places stand that lie behind the eye: nowhere in a picture.
FAR_OFF = -1e6


@dataclass(frozen=True)
class Tones:
    """What a gradient over the way that surfaces face makes of a material.

    stops: materials that share them have the same tones; places: where its colour changes at once, in shares
    of half a turn from what faces `towards`, a direction (3,) in the block's frame, or None for the key lamp.
    """

    stops: tuple[Stop, ...]
    places: tuple[float, ...]
    towards: tuple[float, ...] | None


def tones_of(materials: Sequence[Part], sources: Sources) -> tuple[Tones | None, ...]:
    """The tones of materials, by their numbers, whose sources are packed in the same order."""
    return tuple(_tones(material, sources, number) for number, material in enumerate(materials))


def _tones(material: Part, sources: Sources, number: int) -> Tones | None:
    colour = next((value for _, value in material if isinstance(value, Layered)), None)
    for at, layer in enumerate(layers_in(colour or "")):
        if isinstance(layer, Gradient) and layer.span == "facing" and layer.strength > 0 and not layer.masks:
            row = sources.layers[sources.first[number, MAIN, 0] + at, OWN:]
            towards = None if row[BY_KEY] > 0 else tuple(float(v) for v in row[TO_X : TO_Z + 1])
            return Tones(layer.stops, _places(layer), towards)
    return None


def _places(gradient: Gradient) -> tuple[float, ...]:
    """Where a gradient's colour changes at once, in order."""
    if gradient.repeated or gradient.mirrored:
        return ()
    found = [
        (before.at + after.at) / 200
        for before, after in pairwise(gradient.stops)
        if before.colour != after.colour and (before.at == after.at or before.hardness >= HARD_FROM)
    ]
    return tuple(sorted(1 - at if gradient.reversed else at for at in found))


class ToneEdges(NamedTuple):
    """Ends of edges (n, 2, 3), x and y in px of the picture, and z in px of the scene: those between tones,
    and contours, beyond which another part of the letters may be seen, or none."""

    inner: Array
    contours: Array


NO_EDGES = ToneEdges(np.zeros((0, 2, 3)), np.zeros((0, 2, 3)))


@dataclass(frozen=True)
class Facing:
    """Where bodies are and what they face: frames (blocks, 3, 4) take blocks to the lettering, whose turn
    (3, 3) is that of the view; `key` is the direction (3,) of the key lamp."""

    frames: Array
    turn: Array
    camera: Camera
    key: Array


def tone_edges(instances: Sequence[Instance], tones: Sequence[Tones | None], facing: Facing) -> ToneEdges:
    """The edges of tones that face the camera: along facets that meet, across those that are bent, and the
    contours of bodies that have tones."""
    inner, contours = [np.zeros((0, 2, 3))], [np.zeros((0, 2, 3))]
    for each in instances:
        if any(tones[row] is not None for row in each.materials):
            across, along, contour = _edges(each, tones, facing)
            inner += [across, along]
            contours.append(contour)
    return ToneEdges(
        *(
            _in_picture(np.concatenate(ends).reshape(-1, 3), facing.camera).reshape(-1, 2, 3)
            for ends in (inner, contours)
        )
    )


def _in_picture(places: Array, camera: Camera) -> Array:
    """(x, y, z) (n, 3) of places in the scene, x and y in px of the picture; FAR_OFF behind the eye."""
    projection = lettering_to_picture(camera, np.eye(3, dtype=np.float32))
    seen, weight = projected(places, projection)
    seen[weight < LEAST_WEIGHT] = FAR_OFF
    return np.column_stack([seen, places[:, 2]])


def _edges(each: Instance, tones: Sequence[Tones | None], facing: Facing) -> tuple[Array, Array, Array]:
    """Edges (n, 2, 3) of a body in the scene: across its facets, between two, and its contours."""
    places = each.positions @ facing.turn.T
    corners, normals = places[each.body.triangles], each.normals @ facing.turn.T
    number = each.body.part.astype(np.int64)
    share = _shares(each, tones, facing, normals)
    seen = _in_picture(places, facing.camera)[each.body.triangles]
    ways = seen[:, 1:, :2] - seen[:, :1, :2]
    # With y down, what faces the camera has a negative area.
    front = ways[:, 0, 0] * ways[:, 1, 1] - ways[:, 0, 1] * ways[:, 1, 0] < 0
    across = _across(corners[front], share[front], each, tones, number[front])
    return across, *_along(each, places, _classes(share, each, tones), front)


def _shares(each: Instance, tones: Sequence[Tones | None], facing: Facing, normals: Array) -> Array:
    """How far the corners (m, 3) of triangles turn away, in shares of half a turn."""
    share = np.zeros(normals.shape[:2])
    frame = facing.frames[each.block][:, :3]
    for part, row in enumerate(each.materials):
        own, tone = each.body.part == part, tones[row]
        if tone is None or not own.any():
            continue
        towards = facing.key
        if tone.towards is not None:
            towards = facing.turn @ frame @ np.array(tone.towards)
        share[own] = np.arccos(np.clip(normals[own] @ towards, -1, 1)) / np.pi
    return share


def _classes(share: Array, each: Instance, tones: Sequence[Tones | None]) -> NDArray[np.int64]:
    """Numbers (m, 3) of the tone at corners of triangles, equal for equal tones; -1 where there is none."""
    found = np.full(share.shape, -1)
    first: dict[tuple[Stop, ...], int] = {}
    for part, row in enumerate(each.materials):
        tone = tones[row]
        if tone is not None:
            begin = first.setdefault(tone.stops, MOST_STOPS * len(first))
            own = each.body.part == part
            found[own] = begin + np.searchsorted(tone.places, share[own], side="right")
    return found


def _across(
    corners: Array, share: Array, each: Instance, tones: Sequence[Tones | None], number: NDArray[np.int64]
) -> Array:
    """Edges (n, 2, 3) across bent facets: from one side to another where the share is that of a change."""
    found = [np.zeros((0, 2, 3))]
    for part, row in enumerate(each.materials):
        tone, own = tones[row], number == part
        for place in () if tone is None else tone.places:
            beyond = share[own] >= place
            crossed = beyond.any(axis=1) & ~beyond.all(axis=1)
            p, s, past = corners[own][crossed], share[own][crossed], beyond[crossed]
            # The corner that is alone on its side.
            alone = np.where(past.sum(axis=1) == 1, past.argmax(axis=1), (~past).argmax(axis=1))
            at = np.arange(len(p))
            ends = []
            for step in (1, 2):
                other = (alone + step) % 3
                by = (place - s[at, alone]) / (s[at, other] - s[at, alone])
                ends.append(p[at, alone] + by[:, None] * (p[at, other] - p[at, alone]))
            found.append(np.stack(ends, axis=1))
    return np.concatenate(found)


def _along(
    each: Instance, places: Array, classes: NDArray[np.int64], front: NDArray[np.bool_]
) -> tuple[Array, Array]:
    """Edges (n, 2, 3) between two facets of different tones that both face the camera, and those where one
    that faces it, of any tone, meets one that does not."""
    _, same = welded(each.body)
    triangles = each.body.triangles
    sides = ((0, 1), (1, 2), (2, 0))
    ends = np.concatenate([triangles[:, side] for side in sides])
    # A side has the tone of its corners, where they agree.
    tone = np.concatenate([np.where(classes[:, a] == classes[:, b], classes[:, a], -1) for a, b in sides])
    seen = np.tile(front, len(sides))
    key = np.sort(same[ends], axis=1)
    order = np.lexsort((key[:, 1], key[:, 0]))
    pairs = np.flatnonzero((key[order][1:] == key[order][:-1]).all(axis=1))
    one, other = order[pairs], order[pairs + 1]
    differ = (tone[one] != tone[other]) & (tone[one] >= 0) & (tone[other] >= 0)
    inner = one[differ & seen[one] & seen[other]]
    last = (seen[one] & (tone[one] >= 0) & ~seen[other]) | (seen[other] & (tone[other] >= 0) & ~seen[one])
    return places[ends[inner]], places[ends[one[last]]]
