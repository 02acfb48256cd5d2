"""Render layers: what a renderer makes of a scene, path film and draft alike, before it is finished.

The parts are kept apart that finishing puts together: what lights make, flat colours, which no light
and no exposure changes, and the backdrop's share.
"""

from collections.abc import Mapping
from concurrent.futures import Executor
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from halvex.core.optics.colour import luminance
from halvex.core.render.denoise import OVERLAP_PX, denoise, denoise_plain
from halvex.core.render.film import TILE, Film
from halvex.core.render.means import compose, without_flat_and_backdrop
from halvex.core.render.work import run_bands
from halvex.core.scene.finish import Finish

Array = NDArray[np.float32]

# Light too weak for its change to be distinguished from noise.
DARKEST = np.float32(1e-4)
# A share of a pixel, or of its light, that no picture shows.
LEAST_SHARE = np.float32(1e-3)
# A shadow that takes less than this away is none.
LEAST_SHADE = np.float32(1 / 512)
# Shade is faint from here on, and wholly so: the mean of pixels about as far apart as this is taken.
FAINT_FROM, FAINT_WHOLLY, FAINT_SIGMA_PX = 0.8, 0.92, 7.0
# The name of the letters' cover, and the z of what is seen past everything.
LETTERS, FAR_OFF = "letters", np.float32(-1e6)


@dataclass(frozen=True)
class Features:
    """What each pixel shows, whatever its colour, in images that line up with the picture's.

    albedo, normal (h, w, 3) and depth (h, w) of the primary hits; ground_cover (h, w), part_covers
    (h, w, parts), block_covers (h, w, blocks): shares of the pixel; shadow (h, w): share of its light that
    the letters take from the ground; reflected, glow (h, w, 3): light of letters mirrored in the ground, and
    of glowing parts that the camera sees; shares (lights, h, w, 3): each light's part of the picture.
    """

    albedo: Array
    normal: Array
    depth: Array
    ground_cover: Array
    part_covers: Array
    block_covers: Array
    shadow: Array
    reflected: Array
    glow: Array
    shares: Array


@dataclass(frozen=True)
class RenderLayers:
    """Images that line up pixel by pixel, linear and premultiplied.

    light (h, w, 3): bodies and ground, at the lights' levels; flat (h, w, 3): flat colours at exposure
    0; through (h, w, 3): share of the backdrop seen past and through the bodies; shade (h, w): share of
    its light that the ground's shadow leaves, where the shadow was caught for a transparent picture;
    covers: shares (h, w) of each px, where effects ask for them: of "letters" always, and what else they work
    on, by the target's name (scene/finish.py); "depth" is z in px. features: where an order wants them.
    """

    light: Array
    flat: Array
    through: Array
    shade: Array | None = None
    covers: Mapping[str, Array] | None = None
    features: Features | None = None

    def composed(self, finish: Finish, rows: slice = slice(None), out: Array | None = None) -> Array:
        """Linear light (h, w, 3) over the backdrop, of some rows or all; in `out`, if it is given."""
        light, flat, through = (image[rows].reshape(-1) for image in (self.light, self.flat, self.through))
        whole = np.empty_like(self.light[rows]) if out is None else out
        compose(light, flat, through, finish.backdrop_light, finish.flat_gain, whole.reshape(-1))
        return whole


def develop(
    film: Film, levels: Array, finish: Finish, *, transparent: bool, clean: str | None, pool: Executor
) -> RenderLayers:
    """The layers of a film, each light at its level (lights, 3); `clean` is the denoiser's quality or None.

    The light is denoised over the backdrop of `finish`, as it will be seen, so that edges stay clean; a
    transparent picture is denoised without.
    """
    covers = covers_of(film, levels, finish, clean) if finish.has_effects else None
    if transparent:
        return replace(_caught(film, levels, clean), covers=covers)
    behind, gain = finish.backdrop_light, finish.flat_gain
    seen = film.denoiser_input(levels, behind, gain, pool)
    light = denoise(seen.light, seen.albedo, seen.normal, quality=clean) if clean else seen.light

    def band(first: int, last: int) -> None:
        without_flat_and_backdrop(light, seen.flat, seen.through, behind, gain, first, last)

    run_bands(pool, band, TILE, film.rows)
    # Where nothing but the backdrop is seen there was no noise.
    light[seen.through.min(axis=2) > 1 - LEAST_SHARE] = 0.0
    return RenderLayers(light, seen.flat, seen.through, covers=covers)


def covers_of(film: Film, levels: Array, finish: Finish, clean: str | None) -> dict[str, Array]:
    """What effects ask for of a film, by the target's name: shares (h, w) of each px, without noise for the
    best pictures, as what is laid beside the letters must end where their denoised edge does; z (h, w)."""
    parts = film.part_covers
    found = {LETTERS: _share(parts.sum(axis=2), clean)}
    for target, of, number in finish.covers:
        if of == "depth":
            covered = film.ground_cover + parts.sum(axis=2) > 0.5
            found[target] = np.where(covered, film.depth, FAR_OFF)
        elif number < 0:
            found[target] = np.zeros_like(found[LETTERS])
        elif of == "part":
            found[target] = _share(parts[..., number], clean)
        elif of == "block":
            found[target] = _share(film.block_covers[..., number], clean)
        else:
            own, whole = film.share(number) * levels[number], film.develop(levels)
            found[target] = _share(luminance(own) / np.maximum(luminance(whole), DARKEST), clean, "high")
    return found


def _share(cover: NDArray[Any], clean: str | None, quality: str = "fast") -> Array:
    """A share of each px; of the best pictures without noise, which at edges goes as well quickly."""
    share = np.asarray(np.clip(cover, 0.0, 1.0), np.float32)
    return _clean_cover(share, quality) if clean == "high" else share


def _caught(film: Film, levels: Array, clean: str | None) -> RenderLayers:
    """The layers of a film without a backdrop, without its ground but for the shadow."""
    flat, through, shade = film.flat, film.through, film.shade
    light = film.develop(levels)
    if clean:
        light = denoise(light, film.albedo, film.normal, quality=clean)
        cover = _clean_cover(1.0 - through.mean(axis=2), clean)
        through = np.repeat(1.0 - cover[..., None], 3, axis=2)
        shade = _clean_shade(film, clean)
    return RenderLayers(light - flat, flat, through, shade)


def _clean_cover(cover: Array, quality: str) -> Array:
    """Coverage (h, w) without noise: what is whole or empty but for rounding is clean already, only glass
    and edges carry noise."""
    whole, empty = cover > 1 - LEAST_SHARE, cover < LEAST_SHARE
    clean = np.where(whole, np.float32(1), np.float32(0))
    if not (whole | empty).all():
        box = _box_about(~(whole | empty), OVERLAP_PX)
        noisy = np.repeat(np.clip(cover[box], 0, 1)[..., None], 3, axis=2)
        cleaned = denoise_plain(noisy, quality=quality)[..., 0]
        clean[box] = np.where(whole[box] | empty[box], clean[box], cleaned)
    return clean


def _box_about(px: NDArray[np.bool_], margin: int) -> tuple[slice, slice]:
    """The rows and columns of an image (h, w) in which some of these px are, and so many more about them."""
    rows, columns = (np.flatnonzero(px.any(axis=axis)) for axis in (1, 0))
    return (
        slice(max(rows[0] - margin, 0), rows[-1] + 1 + margin),
        slice(max(columns[0] - margin, 0), columns[-1] + 1 + margin),
    )


def _clean_shade(film: Film, quality: str) -> Array:
    """The share of its light (h, w) that the ground's shadow leaves, without noise.

    Light with and without the letters is denoised together: the quotient of two noisy means is no mean of the
    quotient. Far from the letters, where shade is faint and changes slowly, the mean of many pixels is taken;
    where hardly anything is taken away it is 1.
    """
    lit, unlit = film.ground_light
    seen = film.ground_cover
    ground = (seen > LEAST_SHARE) & (unlit > 1e-6)
    # As the ground's own light, whatever stands before it.
    both = np.where(ground[..., None], np.stack([lit, unlit, np.zeros_like(lit)], axis=2), 0.0)
    both = np.asarray(both / np.maximum(seen, LEAST_SHARE)[..., None], np.float32)
    clean = denoise(both, quality=quality)
    near = _quotient(clean[..., 0], clean[..., 1])
    sums = [
        gaussian_filter(np.where(ground, both[..., n], 0.0), FAINT_SIGMA_PX, mode="nearest") for n in (0, 1)
    ]
    far = _quotient(*sums)
    faint = np.clip((far - FAINT_FROM) / (FAINT_WHOLLY - FAINT_FROM), 0.0, 1.0)
    shade = near + (far - near) * faint
    return np.where(~ground | (shade > 1 - LEAST_SHADE), 1.0, shade).astype(np.float32)


def _quotient(lit: Array, unlit: Array) -> Array:
    return np.asarray(np.clip(lit / np.maximum(unlit, 1e-6), 0.0, 1.0), np.float32)


def features_of(film: Film, levels: Array, *, clean: str | None) -> Features:
    """The features of a film, each light's share at its level (lights, 3); `clean` is the denoiser's quality
    for the shares, or None."""
    albedo, normal = film.albedo, film.normal
    shares = np.empty((film.lights, film.rows, film.width, 3), np.float32)
    for light in range(film.lights):
        share = film.share(light) * levels[light]
        shares[light] = denoise(share, albedo, normal, quality=clean) if clean else share
    return Features(
        albedo,
        normal,
        film.depth,
        film.ground_cover,
        film.part_covers,
        film.block_covers,
        np.asarray((1.0 - film.shade) * (film.ground_cover > 0), np.float32),
        film.reflected,
        film.glow,
        shares,
    )


def relit(layers: RenderLayers, film: Film, before: Array, after: Array, finish: Finish) -> RenderLayers:
    """Denoised layers with the lights changed from levels `before` to `after` (lights, 3), at once.

    Denoising again would take its time. The same samples lit both ways give the change instead: their
    noise is the same above and below the line and all but cancels.
    """
    asked = {LETTERS, *(cover.target for cover in finish.covers)}
    by_light = any(cover.of == "light" for cover in finish.covers)
    if finish.has_effects and (layers.covers is None or by_light or not asked <= layers.covers.keys()):
        layers = replace(layers, covers=covers_of(film, after, finish, "high"))
    if np.array_equal(before, after):
        return layers
    behind = layers.through * finish.backdrop_light
    old, new = film.develop(before) + behind, film.develop(after) + behind
    whole = layers.composed(finish) * ((new + DARKEST) / (old + DARKEST))
    return replace(layers, light=np.asarray(whole - behind - layers.flat * finish.flat_gain, np.float32))
