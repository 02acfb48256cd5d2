"""What finishing costs: a stack of effects within a draft and on a large picture, and against numpy and scipy
doing the same."""

import time
from collections.abc import Callable

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.ndimage import (
    distance_transform_edt,
    find_objects,
    gaussian_filter,
    label,
    maximum_filter,
    uniform_filter,
)

from benchmarks.result import Result
from halvex.core.finish.blurring import spread
from halvex.core.finish.covering import coverage
from halvex.core.finish.picture import finished_bytes
from halvex.core.finish.plate import NothingSeen
from halvex.core.finish.spreading import BLOOM_PARTS, HALO_PARTS
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb, luminance, srgb_to_linear
from halvex.core.optics.oklab import linear_to_oklab, oklab_to_linear
from halvex.core.piece.effects import AnyEffect, Bloom, Glints, Gloss, Grain, Halo, Keyline, Sharpen, Tone
from halvex.core.render.layers import RenderLayers
from halvex.core.render.work import shared_pool
from halvex.core.scene.finish import Finish, Frame
from halvex.core.scene.outlines import FaceSeen

Array = NDArray[np.floating]

# Frames of a drag: the first few take new memory.
TURNS = 31
STACK: tuple[AnyEffect, ...] = (
    Keyline(),
    Halo(),
    Bloom(),
    Glints(),
    Gloss(),
    Tone(contrast=10, saturation=10),
    Grain(),
)


class _Letters(NothingSeen):
    """Twelve faces with counters on a canvas of 1280 × 720 px, seen at a scale."""

    def __init__(self, scale: float):
        boxes = [
            shapely.box(80 + 190 * i, 120 + 260 * j, 240 + 190 * i, 340 + 260 * j)
            for j in range(2)
            for i in range(6)
        ]
        self._areas = [
            shapely.transform(box.difference(box.centroid.buffer(45)), lambda points: points * scale)
            for box in boxes
        ]
        self.by = 0.0

    def faces(self) -> tuple[FaceSeen, ...]:
        return tuple(
            FaceSeen(shapely.transform(area, lambda points: points + self.by), 0) for area in self._areas
        )


def effects() -> list[Result]:
    """A stack of seven effects, and a halo's three Gaussians."""
    plain = 1000 * _finishing_seconds(0.75, TURNS, (), moving=False)
    small = 1000 * _finishing_seconds(0.75, TURNS, STACK, moving=False) - plain
    moving = 1000 * _finishing_seconds(0.75, TURNS, STACK, moving=True) - plain
    large = _finishing_seconds(3.0, 3, STACK, moving=True)
    plane = np.random.default_rng(1).random((540, 960, 1)).astype(np.float32)
    parts = [(18.0, 0.5), (31.0, 0.3), (54.0, 0.2)]
    ours = 1000 * _median(lambda: spread(plane, parts, shared_pool()), TURNS)
    theirs = 1000 * _median(lambda: _gaussians(plane[..., 0], parts), 3)
    ratio = ours / theirs
    return [
        Result("a draft of 960 × 540 finished without effects", plain, "ms", None, None, None, "none", True),
        Result("effects, in such a draft", small, "ms", None, None, None, "≤ 25 ms", small <= 25),
        Result(
            "effects, in such a draft, letters that move",
            moving,
            "ms",
            None,
            None,
            None,
            "≤ 25 ms",
            moving <= 25,
        ),
        Result("effects, 3840 × 2160", large, "s", None, None, None, "≤ 2 s", large <= 2),
        Result("three Gaussians, 960 × 540", ours, "ms", "scipy", theirs, ratio, "ratio ≤ 1", ratio <= 1),
        *_against_others(),
    ]


def _against_others() -> list[Result]:
    """Single effects on 960 × 540, where letters move, ours with tone mapping and encoding, against numpy and
    scipy without. Of keylines and gloss these only do with a mask of whole px what ours does exactly."""
    layers, _, _ = _prepared(0.75)
    light, letters = np.clip(layers.light, 0.0, 1.0), (layers.covers or {})["letters"]
    others: dict[AnyEffect, Callable[[], object]] = {
        Keyline(): lambda: _keyline(light, letters),
        Halo(): lambda: _halo(light, letters),
        Bloom(): lambda: _bloom(light),
        Glints(): lambda: _glints(light, letters),
        Gloss(): lambda: _gloss(light, letters),
        Tone(contrast=10, saturation=10): lambda: _tone(light),
        Grain(): lambda: _grain(light),
        Sharpen(): lambda: _sharpen(light),
    }
    results = []
    for effect, other in others.items():
        ours = 1000 * _finishing_seconds(0.75, TURNS, (effect,), moving=True)
        theirs = 1000 * _median(other, 3)
        share = ours / theirs
        results.append(
            Result(effect.kind, ours, "ms", "numpy, scipy", theirs, share, "ratio ≤ 1", share <= 1)
        )
    return results


def _gaussians(plane: Array, parts: list[tuple[float, float]]) -> Array:
    """The sum of Gaussians (standard deviation in px, weight) by scipy."""
    blurred = [weight * gaussian_filter(plane, (s, s, 0)[: plane.ndim]) for s, weight in parts]
    return np.sum(blurred, axis=0)


def _spread(plane: Array, sigma: float, reach: float, parts: tuple[tuple[float, float], ...]) -> Array:
    return _gaussians(plane, [(0.75 * sigma * reach**power, weight) for power, weight in parts])


def _keyline(light: Array, letters: Array) -> Array:
    line = Keyline()
    inside = letters > 0.5
    far = distance_transform_edt(inside) + distance_transform_edt(~inside)
    above = np.clip(0.75 * line.width / 2 + 0.5 - np.abs(far - 0.5), 0, 1)[..., None]
    return light + line.strength / 100 * above * (hex_to_linear(str(line.colour)) - light)


def _gloss(light: Array, letters: Array) -> Array:
    gloss = Gloss()
    named, _ = label(letters > 0.5)
    above = np.zeros_like(letters)
    for rows, columns in find_objects(named):
        down = (np.arange(rows.stop - rows.start) + 0.5) / (rows.stop - rows.start) * 100 / gloss.height
        band = np.clip(1 - down, 0, 1) > 0
        faded = band * (1 - gloss.fade / 100 * np.minimum(down, 1))
        above[rows, columns] = np.maximum(above[rows, columns], faded[:, None] * letters[rows, columns])
    shown, over = linear_to_srgb(light), 1.0
    screened = srgb_to_linear(shown + over - shown * over)
    return light + gloss.strength / 100 * above[..., None] * (screened - light)


def _glints(light: Array, letters: Array) -> Array:
    glints = Glints()
    bright = uniform_filter(luminance(light) * letters, 2)
    spacing = round(0.75 * glints.spacing)
    peaks = np.argwhere((bright == maximum_filter(bright, 2 * spacing + 1)) & (bright > 0.6))
    out, reach = light.copy(), round(0.75 * glints.size / 2)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1] / reach
    star = np.clip(1 - np.hypot(x, y), 0, 1) ** 2 * np.maximum(np.abs(x) < 0.03, np.abs(y) < 0.03)
    for row, column in peaks[: glints.count]:
        part = out[max(row - reach, 0) : row + reach + 1, max(column - reach, 0) : column + reach + 1]
        part += 4 * star[: part.shape[0], : part.shape[1], None]
    return out


def _halo(light: Array, letters: Array) -> Array:
    halo = Halo()
    near = np.clip(2 * _spread(letters, halo.radius, halo.spread, HALO_PARTS), 0, 1) ** halo.falloff
    above = (halo.strength / 100 * near * (1 - letters))[..., None]
    return light + above * (hex_to_linear(str(halo.colour)) - light)


def _bloom(light: Array) -> Array:
    bloom = Bloom()
    return light + bloom.strength / 100 * (_spread(light, bloom.radius, bloom.tail, BLOOM_PARTS) - light)


def _tone(light: Array) -> Array:
    lab = linear_to_oklab(light)
    lab[..., 1:] *= 1.1
    return np.clip(oklab_to_linear(lab), 0, 1)


def _grain(light: Array) -> Array:
    shown = linear_to_srgb(light)
    noise = gaussian_filter(np.random.default_rng(1).standard_normal(shown.shape), (1, 1, 0))
    return srgb_to_linear(np.clip(shown + 0.1 * noise * shown * (1 - shown), 0, 1))


def _sharpen(light: Array) -> Array:
    bright = luminance(light)
    shown, soft = linear_to_srgb(bright), linear_to_srgb(gaussian_filter(bright, 0.75 * Sharpen().radius))
    gain = srgb_to_linear(np.clip(2 * shown - soft, 0, 1)) / np.maximum(bright, 1e-6)
    return np.minimum(light * gain[..., None], 1)


def _prepared(scale: float) -> tuple[RenderLayers, Finish, _Letters]:
    width, height = round(1280 * scale), round(720 * scale)
    seen = _Letters(scale)
    letters = coverage(shapely.union_all([face.area for face in seen.faces()]), width, height)
    light = np.full((height, width, 3), 0.15, np.float32)
    light += letters[..., None] * (np.array([0.9, 0.6, 0.2], np.float32) - light)
    light[letters > 0] *= np.random.default_rng(2).uniform(0.4, 2.5, (int((letters > 0).sum()), 1))
    nothing = np.zeros_like(light)
    layers = RenderLayers(light.astype(np.float32), nothing, nothing, covers={"letters": letters})
    return layers, Finish("#204050", 0.0, "neutral", STACK, Frame(scale, 0.0, 0.0, 1280.0, 720.0)), seen


def _finishing_seconds(scale: float, turns: int, effects: tuple[AnyEffect, ...], *, moving: bool) -> float:
    """What it takes to finish a draft, from its light to its bytes."""
    layers, settings, seen = _prepared(scale)
    settings = settings._replace(effects=effects)

    def finish() -> None:
        # By so little that it is the same picture, and no outline is known.
        seen.by += 1e-4 if moving else 0.0
        finished_bytes(layers, settings, seen, pool=shared_pool())

    return _median(finish, turns)


def _median(work: Callable[[], object], turns: int) -> float:
    work()
    found = []
    for _ in range(turns):
        started = time.perf_counter()
        work()
        found.append(time.perf_counter() - started)
    return float(np.median(found))
