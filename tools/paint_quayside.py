"""Paint the panorama that ships, the quayside of Port Sorrel at evening, from a seed.

.venv/bin/python tools/paint_quayside.py
"""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from halvex.core.assets import SHIPPED_PANORAMAS

HEIGHT, WIDTH = 512, 1024
SEED = 7
SUN_BEARING_DEG, SUN_HEIGHT_DEG = 62.0, 9.0

Array = NDArray[np.float64]


def ease(t: Array) -> Array:
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


def clouds(dice: np.random.Generator, around: Array, height: Array) -> Array:
    """Banks of cloud drawn out along the horizon: waves of many lengths, (H, W) in 0..1."""
    total = np.zeros_like(around)
    for octave in range(1, 7):
        for _ in range(6):
            across, up, start = (
                dice.integers(1, 3) * 2**octave / 2,
                dice.normal(0, 4 * 2**octave / 4),
                dice.uniform(0, 2 * np.pi),
            )
            total += np.sin(np.round(across) * around + up * height / 30 + start) / 2 ** (0.8 * octave)
    return ease((total - 0.15) / 2.2)


def paint(fine: int = 1) -> Array:
    """The panorama (HEIGHT · fine, WIDTH · fine, 3), the same at any fineness."""
    dice = np.random.default_rng(SEED)
    columns = WIDTH * fine
    y, x = np.mgrid[0 : HEIGHT * fine, 0:columns]
    height = 90 - (y + 0.5) / fine / HEIGHT * 180
    bearing = (x + 0.5) / fine / WIDTH * 360 - 180
    around = np.radians(bearing)

    # The sky: deep overhead, warm where the sun goes down.
    near_sun = np.exp(-((np.abs((bearing - SUN_BEARING_DEG + 180) % 360 - 180) / 70) ** 2))[..., None]
    low, high = np.array([0.85, 0.62, 0.46]) * (0.35 + near_sun), np.array([0.10, 0.19, 0.36])
    sky = low + (high - low) * ease(np.sqrt(np.clip(height, 0, 90) / 75))[..., None]
    bank = (clouds(dice, around, height) * ease(height / 6) * ease((80 - height) / 30))[..., None]
    sky = sky * (1 - 0.55 * bank) + bank * (np.array([0.95, 0.55, 0.36]) * near_sun + 0.12)
    from_sun = np.hypot((bearing - SUN_BEARING_DEG) * np.cos(np.radians(height)), height - SUN_HEIGHT_DEG)[
        ..., None
    ]
    sky = sky + np.array([1.0, 0.62, 0.3]) * (
        130 * ease((1.6 - from_sun) / 0.8) + 2.2 * np.exp(-from_sun / 7)
    )

    # Warehouses along two thirds of the quay, their windows lit; masts before them.
    roof = np.full(columns, -90.0)
    windows = np.zeros((*x.shape, 3))
    at = 0
    while at < columns:
        wide = fine * int(dice.integers(26, 70))
        top = dice.uniform(9, 24)
        if not abs((bearing[0, at] + wide / fine / 6 - SUN_BEARING_DEG + 180) % 360 - 180) < 45:
            side = np.linspace(-1, 1, wide)[: columns - at]
            roof[at : at + wide] = top - (4 * np.abs(side) if dice.random() < 0.5 else 0)
            for floor in np.arange(2.5, top - 5, 4.5):
                for pane in range(at + 4 * fine, min(at + wide - 5 * fine, columns - 4 * fine), 8 * fine):
                    if dice.random() < 0.45:
                        lit = (np.abs(height - floor - 1.2) < 1.1) & (x >= pane) & (x < pane + 4 * fine)
                        windows[lit] = np.array([1.0, 0.72, 0.36]) * dice.uniform(1.5, 5.0)
        at += wide + fine * int(dice.integers(0, 16))
    for _ in range(14):
        mast, top = fine * int(dice.integers(0, WIDTH)), dice.uniform(12, 34)
        roof[mast : mast + 2 * fine] = np.maximum(roof[mast : mast + 2 * fine], top)
    walls = np.array([0.055, 0.048, 0.047]) * (1 + 0.8 * near_sun)
    land = (height < roof[None, :])[..., None]
    above = np.where(land, np.where(windows > 0, windows, walls), sky)

    # Six lamps along the quay.
    for post in range(6):
        gap = np.hypot(bearing - (post * 60 - 160 + dice.uniform(-8, 8)), height - 15)[..., None]
        above = above + np.array([1.0, 0.78, 0.5]) * 55 * ease((1.5 - gap) / 0.5)

    # Wet stone below, with what stands above mirrored and smeared in it.
    stone = np.array([0.062, 0.058, 0.06]) * (
        0.8 + 0.4 * np.repeat(dice.random((HEIGHT, 1, 1)), fine, axis=0)
    )
    mirrored = above[::-1]
    smeared = np.mean([np.roll(mirrored, shift * fine, axis=0) for shift in range(-9, 10, 3)], axis=0)
    wet = 0.05 + 0.5 * np.exp(np.clip(height, -90, 0) / 14)[..., None]
    return np.where((height >= 0)[..., None], above, stone + wet * smeared)


def save_radiance(path: Path, picture: NDArray[np.float32]) -> None:
    """Save linear light (H, W, 3) as a Radiance file."""
    height, width = picture.shape[:2]
    with av.open(str(path), "w", format="image2", options={"update": "1"}) as container:
        stream = container.add_stream("hdr", rate=Fraction(1))
        stream.width, stream.height, stream.pix_fmt = width, height, "gbrpf32le"
        frame = av.VideoFrame.from_ndarray(picture, format="gbrpf32le")
        for packet in [*stream.encode(frame), *stream.encode()]:
            container.mux(packet)


def main() -> None:
    SHIPPED_PANORAMAS.mkdir(exist_ok=True)
    save_radiance(SHIPPED_PANORAMAS / "quayside.hdr", paint().astype(np.float32))


if __name__ == "__main__":
    main()
