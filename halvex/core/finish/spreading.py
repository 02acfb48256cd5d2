"""Light that spreads: halos about the letters, and bloom in the lens."""

from functools import partial

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.blurring import LEAST_SOFT_PX, mix_spread, spread
from halvex.core.finish.painting import lay_colour
from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import in_bands
from halvex.core.kernels import kernel
from halvex.core.optics.vectors import F
from halvex.core.piece.effects import Bloom, Halo
from halvex.core.room import room

Array = NDArray[np.float32]

# A halo, and what a lens spreads, are sums of three Gaussians: how wide each is, as a power of how far the
# widest reaches, and how much of the light is in it.
HALO_PARTS = ((0.0, 0.5), (0.5, 0.3), (1.0, 0.2))
BLOOM_PARTS = ((0.0, 0.55), (0.5, 0.3), (1.0, 0.15))


@kernel
def _halo(near, letters, inside, falloff, y0, y1):
    """Turn rows y0..y1-1 of `near`, letters blurred, into opacity: whole at an edge, which is half near."""
    for y in range(y0, y1):
        for x in range(near.shape[1]):
            close = F(1.0) - near[y, x] if inside else near[y, x]
            near[y, x] = min(max(F(2.0) * close, F(0.0)), F(1.0))
        if falloff != F(1.0):
            for x in range(near.shape[1]):
                near[y, x] = near[y, x] ** falloff
        for x in range(near.shape[1]):
            near[y, x] *= letters[y, x] if inside else F(1.0) - letters[y, x]


def lay_halo(plate: Plate, halo: Halo) -> None:
    sigma = halo.radius * plate.scale
    parts = [(sigma * halo.spread**power, weight) for power, weight in HALO_PARTS]
    shape = plate.shape_of(halo.target)
    near = spread(shape[..., None], parts, plate.pool)[..., 0]
    in_bands(plate.pool, partial(_halo, near, shape, halo.side == "inside", F(halo.falloff)), len(near))
    lay_colour(plate, halo.colour, near, halo.blend, halo.strength / 100)


def let_bloom(plate: Plate, bloom: Bloom) -> None:
    """Spread some of the light, of the scene's and not of what is displayed; none is lost but over the edge,
    where as much comes back."""
    share = np.float32(bloom.strength / 100)
    light, alpha = plate.light, plate.alpha
    sigma = bloom.radius * plate.scale
    parts = [(sigma * bloom.tail**power, weight) for power, weight in BLOOM_PARTS]
    own = plate.share_of(bloom.target)
    if alpha is None and not own.size:
        mix_spread(light, parts, float(share), plate.pool, least_sigma_px=LEAST_SOFT_PX)
        return
    # Light that spreads over what is clear covers it, as far as it is light.
    bright = room((*light.shape[:2], 3 if alpha is None else 4))

    def begin(y0: int, y1: int) -> None:
        band = bright[y0:y1]
        band[..., :3] = light[y0:y1]
        if alpha is not None:
            band[..., :3] *= alpha[y0:y1, :, None]
            band[..., 3] = alpha[y0:y1]
        if own.size:
            band *= own[y0:y1, :, None]

    in_bands(plate.pool, begin, len(light))
    soft = spread(bright, parts, plate.pool, least_sigma_px=LEAST_SOFT_PX)

    def end(y0: int, y1: int) -> None:
        changed = share * (soft[y0:y1] - bright[y0:y1])
        if alpha is None:
            light[y0:y1] += changed
            return
        covered = np.clip(alpha[y0:y1] + changed[..., 3], 0.0, 1.0)
        whole = light[y0:y1] * alpha[y0:y1, :, None] + changed[..., :3]
        light[y0:y1] = whole / np.maximum(covered, 1e-4)[..., None]
        alpha[y0:y1] = covered

    in_bands(plate.pool, end, len(light))
