"""Making the map of light that letters send to the ground: how large, of how many photons, how smooth."""

from collections.abc import Callable
from concurrent.futures import Executor

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.material import MATTE, PLASTIC
from halvex.core.references import Held
from halvex.core.render.photon_map import PhotonMap, no_photons
from halvex.core.render.photons import (
    FROM_A_SPOT,
    Emitters,
    Landed,
    gather_photons,
    ground_seen,
    trace_photons,
    weigh_triangles,
)
from halvex.core.render.smoothing import smoothed
from halvex.core.render.work import held_scratch, run_tiles
from halvex.core.render.world import World, letters_bounds
from halvex.core.scene.ground import NO_GROUND, developed

# The map reaches so many heights of the lettering beyond it, and up to so many where the camera sees ground,
# which is looked up at so many places down and across the canvas.
MARGIN, MOST_MARGIN, SEEN_AT = 1.0, 3.0, (9, 17)
# Texels to a px of the picture; numbers that all texels hold at the most; photons to a texel beside letters.
TEXELS_PER_PX, MOST_NUMBERS, PHOTONS_PER_TEXEL = 0.5, 5_000_000, 3.0
# The first photons tell whether the others are worth while: whether the ground, in the mean over what lies
# within that margin, shows this much light, where 1 is white.
PILOT, LEAST_LIGHT = 16_384, 0.002
LEAST_PHOTONS = 2 * PILOT
# Photons that a thread traces at a time.
STEP = 8_192
# Share of photons that all triangles get alike, however little light they seem to send.
ALIKE = 0.05
# Letters of more triangles get no map.
MOST_TRIANGLES = 5_000_000

Array = NDArray[np.float32]


def map_photons(
    world: World, levels: Array, pool: Executor, seed: int, cancelled: Callable[[], bool]
) -> PhotonMap:
    """The map of a world's ground, lights being at their levels (lights, 3); empty where there is no ground
    or letters send it little light. Raises CancelledError."""
    held = Held(world)
    emitters = _emitters(world, held)
    if emitters is None:
        return no_photons()
    photons, beside = _empty_map(world, len(levels))
    lights, rows, columns, _ = photons.light.shape
    many = max(int(PHOTONS_PER_TEXEL * beside), LEAST_PHOTONS)
    many -= many % FROM_A_SPOT
    landed = Landed(np.empty(many, np.int32), np.empty(many, np.int32), np.empty((many, 3), np.float32))
    given = held, Held(emitters), Held(photons), seed
    written, sums = Held(landed), np.zeros((rows, columns, 3 * lights + 1), np.float32)

    def trace(begin: int, end: int) -> None:
        trace_photons(*given, begin, end, written, held_scratch())

    for begin, end in ((0, PILOT), (PILOT, many)):
        run_tiles(pool, trace, [(n, min(n + STEP, end)) for n in range(begin, end, STEP)], cancelled)
        gather_photons(written, begin, end, photons.per_px**2, sums)
        if end == PILOT and _light_shown(world, levels, sums[..., :-1]) < LEAST_LIGHT * PILOT * beside:
            return no_photons()
    sums[..., :-1] /= np.float32(many)
    light = smoothed(sums, pool).reshape(rows, columns, lights, 3)
    return photons._replace(light=np.ascontiguousarray(light.transpose(2, 0, 1, 3)))


def _emitters(world: World, held: Held) -> Emitters | None:
    """What may send light to the ground; None if nothing does."""
    each = (world.letters.span[:, 1] - world.letters.span[:, 0]).astype(np.int64)
    if not _takes_light(world) or not 0 < each.sum() <= MOST_TRIANGLES:
        return None
    weights = np.empty(int(each.sum()))
    weigh_triangles(held, weights)
    if weights.sum() <= 0:
        return None
    weights += ALIKE / (1 - ALIKE) * weights.mean()
    return Emitters(np.cumsum(weights), np.cumsum(each) - each)


def _takes_light(world: World) -> bool:
    """Whether there is ground with a matte part that is lit."""
    materials = [world.ground.material, world.ground.wall_material]
    scatters = bool(np.isin(world.materials.kind[materials], (MATTE, PLASTIC)).any())
    return world.ground.kind != NO_GROUND and bool(world.backing.lit > 0) and scatters


def _empty_map(world: World, lights: int) -> tuple[PhotonMap, int]:
    """(A map without light, how many of its texels lie within MARGIN of the letters)."""
    least, most, near = _extent(world)
    size = most - least
    per_px = TEXELS_PER_PX * float(world.camera.px_scale * world.camera.zoom)
    per_px = min(per_px, float(np.sqrt(MOST_NUMBERS / (3 * lights + 1) / size.prod())))
    columns, rows = (np.ceil(size * per_px).astype(int) + 1).tolist()
    light = np.zeros((lights, rows, columns, 3), np.float32)
    photons = PhotonMap(light, np.float32(least[0]), np.float32(least[1]), np.float32(per_px))
    return photons, int((near * per_px).prod())


def _extent(world: World) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Places of the ground, in px: (the least and the most (u, v) of the map, how wide and high is what lies
    within MARGIN of the letters)."""
    low, high = letters_bounds(world.letters) or (np.zeros(3), np.zeros(3))
    corners = np.stack(np.meshgrid(*np.stack([low, high], axis=1)), axis=-1).reshape(-1, 3)
    beside = developed(world.ground, corners.astype(float) @ world.turn.T.astype(float))
    first, last = beside.min(axis=0), beside.max(axis=0)
    height = float(high[1] - low[1])
    near = last - first + 2 * MARGIN * height
    seen = np.empty((*SEEN_AT, 3), np.float32)
    ground_seen(Held(world), seen)
    points = seen.reshape(-1, 3).astype(float)
    points = points[np.isfinite(points).all(axis=1)]
    least, most = first - MARGIN * height, last + MARGIN * height
    if len(points):
        uv = developed(world.ground, points)
        least = np.maximum(np.minimum(least, uv.min(axis=0)), first - MOST_MARGIN * height)
        most = np.minimum(np.maximum(most, uv.max(axis=0)), last + MOST_MARGIN * height)
    return least, most, near


def _light_shown(world: World, levels: Array, sums: Array) -> float:
    """What all texels together show of the light that enters them (rows, columns, 3 lights); 1 is white."""
    colour = world.materials.params[world.ground.material, :3]
    entering = sums.sum(axis=(0, 1)).reshape(-1, 3) * levels
    return float((entering.sum(axis=0) * colour).mean() / np.pi)
