"""Light that spreads: halos about the letters, and bloom in the lens."""

from functools import partial

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.blurring import LEAST_SOFT_PX, Spread, reduced
from halvex.core.finish.plate import Plate
from halvex.core.finish.tone import in_bands
from halvex.core.kernels import wide_kernel
from halvex.core.optics.vectors import F
from halvex.core.piece.effects import Bloom, Halo
from halvex.core.room import room

Array = NDArray[np.float32]

# A halo, and what a lens spreads, are sums of three Gaussians: how wide each is, as a power of how far the
# widest reaches, and how much of the light is in it.
HALO_PARTS = ((0.0, 0.5), (0.5, 0.3), (1.0, 0.2))
BLOOM_PARTS = ((0.0, 0.55), (0.5, 0.3), (1.0, 0.15))


@wide_kernel
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


def halo_cover(plate: Plate, halo: Halo) -> Array:
    """What a halo covers (h, w)."""
    sigma = halo.radius * plate.scale
    parts = [(sigma * halo.spread**power, weight) for power, weight in HALO_PARTS]
    shape, inside, falloff = plate.shape_of(halo.target), halo.side == "inside", F(halo.falloff)
    near = room((*shape.shape, 1))
    soft = Spread(near.shape, partial(reduced, shape[..., None], plate.pool), parts, plate.pool)

    def band(y0: int, y1: int) -> None:
        soft.fill(shape[..., None], near, y0, y1)
        _halo(near[..., 0], shape, inside, falloff, y0, y1)

    in_bands(plate.pool, band, len(near))
    return near[..., 0]


def let_bloom(plate: Plate, bloom: Bloom) -> None:
    """Spread some of the light, of the scene's and not of what is displayed; none is lost but over the edge,
    where as much comes back."""
    share = np.float32(bloom.strength / 100)
    sigma = bloom.radius * plate.scale
    parts = [(sigma * bloom.tail**power, weight) for power, weight in BLOOM_PARTS]
    own, has_alpha = plate.share_of(bloom.target), plate.has_alpha
    if not has_alpha and not own.size:
        soft = Spread((*plate.shape, 3), plate.reduced, parts, plate.pool, least_sigma_px=LEAST_SOFT_PX)
        plate.by_rows(lambda light, alpha, *rows: soft.mix_into(light, float(share), *rows))
        return
    # Light that spreads over what is clear covers it, as far as it is light.
    bright = room((*plate.shape, 4 if has_alpha else 3))

    def begin(light: Array, alpha: Array, y0: int, y1: int) -> None:
        band = bright[y0:y1]
        band[..., :3] = light[y0:y1].reshape(band[..., :3].shape)
        if has_alpha:
            band[..., :3] *= alpha[y0:y1, :, None]
            band[..., 3] = alpha[y0:y1]
        if own.size:
            band *= own[y0:y1, :, None]

    plate.by_rows(begin)
    plate.settle()
    by = partial(reduced, bright, plate.pool)
    soft = Spread(bright.shape, by, parts, plate.pool, least_sigma_px=LEAST_SOFT_PX)
    far = room(bright.shape)

    def end(light: Array, alpha: Array, y0: int, y1: int) -> None:
        soft.fill(bright, far, y0, y1)
        changed = share * (far[y0:y1] - bright[y0:y1])
        shown = light[y0:y1].reshape(changed[..., :3].shape)
        if not has_alpha:
            shown += changed
            return
        covered = np.clip(alpha[y0:y1] + changed[..., 3], 0.0, 1.0)
        whole = shown * alpha[y0:y1, :, None] + changed[..., :3]
        shown[:] = whole / np.maximum(covered, 1e-4)[..., None]
        alpha[y0:y1] = covered

    plate.by_rows(end)
