"""Layers apart: what a picture is made of, each as an image of its own, for finishing and delivery.

All are linear and line up pixel by pixel. `light.NAME` are the lamps' shares at their strengths,
`flat` what no light makes: with the backdrop behind `alpha` they add up to the picture before it
was denoised.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece.resolving import PART_NAMES
from halvex.core.render.denoise import denoise
from halvex.core.render.film import Film
from halvex.core.scene.finish import Finish

Array = NDArray[np.float32]


def layers_of(
    film: Film, levels: Array, lights: Sequence[str], finish: Finish, *, clean: str | None
) -> dict[str, Array]:
    """Images (h, w) or (h, w, 3) by name. `lights` are the names of the film's lights; `clean` is
    the denoiser's quality for the lights' shares, or None."""
    layers = {f"mask.{name}": film.part_covers[..., number] for number, name in enumerate(PART_NAMES)}
    layers["mask.ground"] = film.ground_cover
    layers["alpha"] = np.asarray(1.0 - film.through.mean(axis=2), np.float32)
    layers["shadow"] = np.asarray((1.0 - film.shade) * (film.ground_cover > 0), np.float32)
    layers["reflection"] = film.reflected
    layers["depth"] = film.depth
    layers["normal"] = film.normal
    layers["albedo"] = film.albedo
    layers["glow"] = film.glow
    layers["flat"] = film.flat * finish.flat_gain
    guides = layers["albedo"], layers["normal"]
    for number, name in enumerate(lights[: film.lights]):
        share = film.share(number) * levels[number]
        layers[f"light.{name}"] = denoise(share, *guides, quality=clean) if clean else share
    return {name: np.ascontiguousarray(image, np.float32) for name, image in layers.items()}
