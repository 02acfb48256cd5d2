"""Surroundings drawn from a few numbers: studio, dusk, plain, horizon; and panoramas as pictures.

Each is a function from its part of the document to a latitude-longitude picture of linear radiance,
(HEIGHT, WIDTH, 3), y up, the middle towards the viewer.
"""

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from halvex.core.assets import Asset, Assets
from halvex.core.optics.colour import black_body, hex_to_linear
from halvex.core.piece.light import AnySurround, Card, Dusk, Horizon, Panorama, Plain, Studio
from halvex.core.scene.lamps import WHITE_BALANCE_K
from halvex.core.scene.panorama import SceneError, open_panorama

HEIGHT, WIDTH = 256, 512
# Radiance of a studio's card of 0 stops.
CARD_LIGHT = 0.95

Array = NDArray[np.float64]


def panorama_of(surround: AnySurround, assets: Assets) -> Asset | None:
    """The file that a surround names, if it is a panorama. Raises SceneError where it is missing."""
    if not isinstance(surround, Panorama):
        return None
    if surround.picture not in assets.panoramas:
        raise SceneError(
            f"there is no panorama “{surround.picture}”; add it again, or take one of "
            f"{', '.join(sorted(assets.panoramas))}"
        )
    return assets.panoramas[surround.picture]


def picture_of(surround: AnySurround, panorama: Asset | None = None) -> Array:
    """The picture of a surround at 0 stops; `panorama` is that of `panorama_of`. Raises SceneError."""
    match surround:
        case Studio():
            return _studio(surround)
        case Dusk():
            return _dusk(surround)
        case Horizon():
            return _horizon(surround)
        case Plain():
            return np.broadcast_to(hex_to_linear(surround.colour), (HEIGHT, WIDTH, 3)).copy()
        case Panorama():
            assert panorama is not None
            return open_panorama(panorama).astype(float)


@lru_cache(maxsize=4)
def directions(height: int = HEIGHT, width: int = WIDTH) -> Array:
    """Unit vectors (height, width, 3) of the pixels of a picture of all directions; not to be written to."""
    y, x = np.mgrid[0:height, 0:width]
    polar, around = (y + 0.5) / height * math.pi, (x + 0.5) / width * 2 * math.pi - math.pi
    return np.stack([np.sin(polar) * np.sin(around), np.cos(polar), np.sin(polar) * np.cos(around)], axis=-1)


def _ease(t: Array) -> Array:
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


def _mix(a: Array, b: Array, share: Array) -> Array:
    return a + (b - a) * share[..., None]


def _height_deg(towards: Array) -> Array:
    return np.degrees(np.arcsin(np.clip(towards[..., 1], -1, 1)))


def _studio(studio: Studio) -> Array:
    """A soft gradient from floor to ceiling, darker behind the letters, and cards."""
    towards = directions()
    rise = _ease((_height_deg(towards) + 35) / 110)
    base = 0.52 * 2.0 ** (studio.gradient * (rise - 1)) * (1 - 0.6 * _ease(0.5 - 1.4 * towards[..., 2]))
    light = np.repeat(base[..., None], 3, axis=2)
    for card in studio.cards:
        light += _card_light(card, towards)
    cool_to_warm = np.array([1.02, 1.0, 0.97]) - towards[..., 1:2] * np.array([0.03, 0.0, -0.05])
    return np.asarray(light * cool_to_warm)


def card_picture(card: Card) -> Array:
    """The picture of a card alone at 0 stops of its surroundings, in a room without any light."""
    return _card_light(card, directions()) + 1e-9


def _card_light(card: Card, towards: Array) -> Array:
    colour = CARD_LIGHT * 2.0**card.strength * black_body(card.kelvin) / black_body(WHITE_BALANCE_K)
    return np.asarray(_card(card, towards)[..., None] * colour)


def _card(card: Card, towards: Array) -> Array:
    """How much of a card lies in each direction, its edge softened."""
    b, e = math.radians(card.bearing), math.radians(card.elevation)
    middle = np.array([math.cos(e) * math.cos(b), math.cos(e) * math.sin(b), math.sin(e)])
    level = np.cross([0.0, 1.0, 0.0], middle)
    level = level / np.linalg.norm(level) if np.linalg.norm(level) > 1e-6 else np.array([1.0, 0.0, 0.0])
    up = np.cross(middle, level)
    roll = math.radians(card.roll)
    level, up = level * math.cos(roll) + up * math.sin(roll), up * math.cos(roll) - level * math.sin(roll)
    across = np.degrees(np.arctan2(towards @ level, towards @ middle))
    along = np.degrees(np.arcsin(np.clip(towards @ up, -1, 1)))
    soft = max(card.softness, 360 / WIDTH)
    return (1 - _ease((np.abs(across) - card.width / 2) / soft)) * (
        1 - _ease((np.abs(along) - card.height / 2) / soft)
    )


def _dusk(dusk: Dusk) -> Array:
    """Deep blue overhead, a warm band low on the side where the sun went down, dark land below a
    soft skyline."""
    towards = directions()
    height = _height_deg(towards)
    warmth = dusk.warmth / 100
    facing = _ease(0.5 + 0.5 * (towards[..., 2] * 0.5 - towards[..., 0] * 0.866))
    zenith, middle = np.array([0.10, 0.17, 0.36]), np.array([0.34, 0.45, 0.66])
    band = np.array([1.0, 0.62, 0.34]) * (1 - warmth) + np.array([1.6, 0.52, 0.16]) * warmth
    sky = _mix(
        np.broadcast_to(middle, towards.shape), np.broadcast_to(zenith, towards.shape), _ease(height / 60)
    )
    glow = np.exp(-np.maximum(height, 0) / (8 + 10 * facing)) * (0.15 + 2.2 * facing**2)
    sky = sky * (1 - 0.5 * glow[..., None].clip(0, 1)) + glow[..., None] * band
    land = np.array([0.030, 0.027, 0.030]) + 0.02 * facing[..., None] * band
    return np.asarray(_mix(land * np.ones_like(sky), sky, _ease((height + 1.5) / 3)))


def _horizon(horizon: Horizon) -> Array:
    """From the top: dark, light, the break, dark, light."""
    height = _height_deg(directions())
    dark = 2.0**-horizon.contrast
    above = np.clip((height - horizon.height) / (90 - horizon.height), 0, 1)
    below = np.clip((horizon.height - height) / (horizon.height + 90), 0, 1)
    sky, ground = (_lively(colour) for colour in (horizon.sky, horizon.ground))
    white = np.ones(3) * 1.25
    upper = _mix(white * np.ones((HEIGHT, WIDTH, 3)), sky * (0.15 + dark), above**0.5)
    lower = _mix(ground * dark, white * 0.6 * np.ones((HEIGHT, WIDTH, 3)) * _paled(ground), below**0.8)
    share = _ease(0.5 + (height - horizon.height) / max(horizon.softness, 180 / HEIGHT))
    return np.asarray(_mix(lower, upper, share))


def _lively(colour: str) -> Array:
    """A colour at the brightness its largest channel allows."""
    linear = hex_to_linear(colour)
    return np.asarray(linear / max(linear.max(), 1e-3))


def _paled(colour: Array) -> Array:
    return np.asarray(0.6 + 0.4 * colour)
