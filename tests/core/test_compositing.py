"""Layers of effects on clear and opaque pictures, and blend modes by the formulas of W3C."""

import itertools
import unittest

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.painting import lay_colour
from halvex.core.optics.blending import BLENDS
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb, srgb_to_linear
from halvex.core.piece.effects import Gloss, Halo, Keyline
from tests.core.effect_plates import plate_of, worked


class CompositingTest(unittest.TestCase):
    def test_every_blend_mode_over_opaque_and_clear_ground(self) -> None:
        """Compositing and Blending Level 1, 9: αo = αs + αb (1 - αs),
        co = αs ((1 - αb) Cs + αb B(Cb, Cs)) + (1 - αs) αb Cb; here mixed in
        linear light, with B of encoded values."""
        random = np.random.default_rng(2)
        below = random.random((6, 5, 3)).astype(np.float32)
        alpha = random.random((6, 5)).astype(np.float32)
        opacity = random.random((6, 5)).astype(np.float32)
        for colour, mode in itertools.product(("#3a80c5", "#ffffff", "#000000"), BLENDS):
            above = hex_to_linear(colour)
            cb, cs = linear_to_srgb(below), linear_to_srgb(above)
            mixed = srgb_to_linear(_blend(mode, cb, np.broadcast_to(cs, cb.shape)))
            for over in (alpha, None):
                plate = plate_of()
                plate.light, plate.alpha = below.copy(), None if over is None else over.copy()
                lay_colour(plate, colour, opacity, mode)  # type: ignore[arg-type]
                ab, a_s = np.float32(1) if over is None else alpha[..., None], opacity[..., None]
                whole = a_s + ab * (1 - a_s)
                expected = a_s * ((1 - ab) * above + ab * mixed) + (1 - a_s) * ab * below
                case = f"{mode} of {colour}"
                np.testing.assert_allclose(plate.light, expected / whole, atol=2e-3, err_msg=case)
                if plate.alpha is not None:
                    np.testing.assert_allclose(plate.alpha, whole[..., 0], atol=1e-6)

    def test_effects_with_alpha_are_right_over_any_ground(self) -> None:
        """What is laid over a clear picture, put over a ground, is what is laid over that ground."""
        for stack in (
            [Halo(colour="#40a0ff", radius=8)],
            [Keyline(width=5, place="outside"), Halo(radius=5, falloff=2)],
            [Gloss(strength=60, blend="normal")],
        ):
            clear = worked(stack, plate_of(clear=True))
            assert clear.alpha is not None
            for ground in (0.0, 1.0):
                over = clear.light * clear.alpha[..., None] + ground * (1 - clear.alpha[..., None])
                solid = worked(stack, plate_of(ground=ground)).light
                inner = (slice(2, -2), slice(2, -2))
                np.testing.assert_allclose(over[inner], solid[inner], atol=1 / 255)


def _lum(c: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray((c @ [0.3, 0.59, 0.11])[..., np.newaxis])


def _set_sat(c: NDArray[np.float64], s: NDArray[np.float64]) -> NDArray[np.float64]:
    """Channel by channel, sorted, as the recommendation has it."""
    order = np.argsort(c, axis=-1)
    low, middle, high = np.split(np.take_along_axis(c, order, -1), 3, axis=-1)
    span = np.where(high > low, high - low, 1)
    found = np.concatenate([0 * s, np.where(high > low, (middle - low) * s / span, 0), s * (high > low)], -1)
    out = np.empty_like(found)
    np.put_along_axis(out, order, found, -1)
    return out


def _set_lum(c: NDArray[np.float64], light: NDArray[np.float64]) -> NDArray[np.float64]:
    """SetLum and ClipColor."""
    c = c + light - _lum(c)
    low, high = c.min(axis=-1, keepdims=True), c.max(axis=-1, keepdims=True)
    c = np.where(low < 0, light + (c - light) * light / np.maximum(light - low, 1e-12), c)
    return np.where(high > 1, light + (c - light) * (1 - light) / np.maximum(high - light, 1e-12), c)


def _blend(mode: str, b: NDArray[np.float64], s: NDArray[np.float64]) -> NDArray[np.float64]:
    """B(Cb, Cs) as the recommendation has it."""
    if mode in ("hue", "saturation", "color", "luminosity"):
        saturation = np.ptp(b, axis=-1, keepdims=True), np.ptp(s, axis=-1, keepdims=True)
        if mode == "hue":
            return _set_lum(_set_sat(s, saturation[0]), _lum(b))
        if mode == "saturation":
            return _set_lum(_set_sat(b, saturation[1]), _lum(b))
        return _set_lum(s, _lum(b)) if mode == "color" else _set_lum(b, _lum(s))
    if mode == "hard-light":
        return np.where(s <= 0.5, b * 2 * s, _blend("screen", b, 2 * s - 1))
    if mode == "soft-light":
        d = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b))
        return np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (d - b))
    if mode == "overlay":
        return _blend("hard-light", s, b)
    simple = {
        "normal": s,
        "multiply": b * s,
        "screen": b + s - b * s,
        "darken": np.minimum(b, s),
        "lighten": np.maximum(b, s),
        "color-dodge": np.where(b <= 0, 0.0, np.minimum(b / np.maximum(1 - s, 1e-9), 1.0)),
        "color-burn": np.where(b >= 1, 1.0, 1 - np.minimum((1 - b) / np.maximum(s, 1e-9), 1.0)),
        "difference": np.abs(b - s),
        "exclusion": b + s - 2 * b * s,
    }
    return np.asarray(simple[mode])


if __name__ == "__main__":
    unittest.main()
