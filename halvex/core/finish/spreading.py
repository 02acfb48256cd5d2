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
    sigma = bloom.radius * plate.scale
    parts = [(sigma * bloom.tail**power, weight) for power, weight in BLOOM_PARTS]
    own = plate.share_of(bloom.target)
    if plate.alpha is None and not own.size:
        mix_spread(plate.light, parts, float(share), plate.pool, least_sigma_px=LEAST_SOFT_PX)
        return
    light = plate.light * own[..., None] if own.size else plate.light
    if plate.alpha is None:
        plate.light += share * (spread(light, parts, plate.pool, least_sigma_px=LEAST_SOFT_PX) - light)
        return
    # Light that spreads over what is clear covers it, as far as it is light.
    cover = plate.alpha * own if own.size else plate.alpha
    both = np.dstack([light * plate.alpha[..., None], cover])
    changed = share * (spread(both, parts, plate.pool, least_sigma_px=LEAST_SOFT_PX) - both)
    alpha = np.clip(plate.alpha + changed[..., 3], 0.0, 1.0)
    light = plate.light * plate.alpha[..., None] + changed[..., :3]
    plate.light = np.asarray(light / np.maximum(alpha, 1e-4)[..., None], np.float32)
    plate.alpha = alpha
