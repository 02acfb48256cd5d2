"""What holds for all paths of a picture, and what one path carries from surface to surface."""

from typing import NamedTuple

import numpy as np

from halvex.core.kernels import helper
from halvex.core.optics.vectors import F, dot, scale
from halvex.core.render.direct import ALL, BOTH, Numbers
from halvex.core.render.hits import FAR, NOTHING, Hit
from halvex.core.render.interaction import (
    SurfaceInteraction,
    appearance,
    facing,
    surface_at,
    with_normals,
)

# At glass and under a glossy coat that the camera sees, a path goes both ways, one after the other: what is
# mirrored there is far brighter or darker than what comes through, and would be chosen seldom.
THROUGH, MIRRORED, EITHER = 0, 1, 2
# In place of what glass absorbs, where a path runs in none.
IN_AIR = (F(-1.0), F(-1.0), F(-1.0))
NO_BODY, NONE = np.int32(-1), np.int32(0)
# The roughness of mirrors that are met after a matte or rough bounce.
CAUSTIC_ALPHA = F(0.25)


class PathRules(NamedTuple):
    """What holds for all paths of a picture: whether the ground only catches shadows; the roughness of
    mirrors that are met after a matte or rough bounce; SURFACE_ONLY, BOTH or LAMPS_ONLY (direct.py), of
    which the lone ones are there to be checked against both; whether albedo will be a layer of its own, in
    place of a guide for the denoiser alone; whether light that letters send to the ground may be taken from a
    map of it (photon_map.py)."""

    transparent: bool = False
    caustic_alpha: np.float32 = CAUSTIC_ALPHA
    use_lamps: int = BOTH
    layered: bool = False
    mapped: bool = True


USUAL_RULES = PathRules()


class PathState(NamedTuple):
    """What a path carries from one surface to the next.

    o, d: its next ray; beta: how much of what it meets counts (rgb); pdf: density with which the last surface
    chose d, 0 for the camera and mirrors; min_roughness: what later mirrors get at least; wavelength: place
    in the spectrum once dispersive glass was met, before that -1; seen_through: the camera looks along it, if
    through glass; count_lamps: lamps may be counted where it meets them; within: what the glass that it runs
    in absorbs per px (rgb), or IN_AIR; body: the instance of that glass, or NO_BODY; overlaps: in how many
    more strands of that body it runs; of_lamps, of_sky: shares (rgb) of lamps and the surround that count
    where it meets them, as what scatters evenly takes most lamps (`is_aimed_at`) and the surround from
    samples of these alone.
    """

    o: tuple[np.float32, np.float32, np.float32]
    d: tuple[np.float32, np.float32, np.float32]
    beta: tuple[np.float32, np.float32, np.float32]
    pdf: np.float32
    min_roughness: np.float32
    wavelength: np.float32
    seen_through: bool
    count_lamps: bool
    within: tuple[np.float32, np.float32, np.float32]
    body: np.int32
    overlaps: np.int32
    of_lamps: tuple[np.float32, np.float32, np.float32]
    of_sky: tuple[np.float32, np.float32, np.float32]


class Draws(NamedTuple):
    """The sampler's numbers at one surface: `lobe` is the dimension of the one that chooses between its lobes
    where `way` is EITHER, not THROUGH or MIRRORED. at_once: how many lights are sampled."""

    numbers: Numbers
    lobe: int
    way: int
    at_once: int


class Met(NamedTuple):
    """What a ray meets: the hit; the surface there, its normals turned to where the ray comes from; its base
    colour; and whether it is met from outside."""

    hit: Hit
    si: SurfaceInteraction
    base: tuple[np.float32, np.float32, np.float32]
    entering: bool


@helper
def nothing_met():
    zero, none = (F(0.0), F(0.0), F(0.0)), np.int32(-1)
    hit = Hit(np.int32(NOTHING), FAR, none, none, F(0.0), F(0.0))
    si = SurfaceInteraction(zero, zero, zero, (F(0.0), F(0.0)), zero, none, none, none, none, none, zero)
    return Met(hit, si, zero, False)


@helper
def surface_met(world, state, hit):
    """What a path meets where it hits."""
    wo = scale(state.d, F(-1.0))
    si = surface_at(world, state.o, state.d, hit)
    base, si = appearance(world, si)
    ns, ng = si.ns, si.ng
    entering = dot(ng, wo) > F(0.0)
    if not entering:
        ns, ng = scale(ns, F(-1.0)), scale(ng, F(-1.0))
    return Met(hit, with_normals(si, facing(ns, ng, wo), ng), base, entering)


@helper
def from_camera(o, d):
    one = (F(1.0), F(1.0), F(1.0))
    return PathState(o, d, one, F(0.0), F(0.0), F(-1.0), True, False, IN_AIR, NO_BODY, NONE, ALL, ALL)


@helper
def dimmed(state, beta):
    """The same path, of which so much counts (rgb)."""
    return _going_on(state, state.o, beta, state.overlaps)


@helper
def past_joint(state, o, entering):
    """The same path past a wall of its glass that lies in a further strand of it, from o on."""
    return _going_on(state, o, state.beta, np.int32(state.overlaps + (1 if entering else -1)))


@helper
def _going_on(state, o, beta, overlaps):
    return PathState(
        o,
        state.d,
        beta,
        state.pdf,
        state.min_roughness,
        state.wavelength,
        state.seen_through,
        state.count_lamps,
        state.within,
        state.body,
        overlaps,
        state.of_lamps,
        state.of_sky,
    )
