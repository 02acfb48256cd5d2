"""Separate layers: what a picture is made of, each as an image of its own, for finishing and delivery.

All are linear and line up pixel by pixel. `light.NAME` are the lamps' shares at their strengths,
`flat` what no light makes: with the backdrop behind `alpha` they add up to the picture before it
was denoised. `mask.NAME` are parts and the ground, `block.NAME` blocks.
"""

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece.resolving import PART_NAMES
from halvex.core.render.layers import RenderLayers
from halvex.core.scene import Scene

Array = NDArray[np.float32]


def named_layers(layers: RenderLayers, scene: Scene) -> dict[str, Array]:
    """Images (h, w) or (h, w, 3) by name, of render layers with their features."""
    features = layers.features
    if features is None:
        raise ValueError("these layers were developed without features")
    named = {f"mask.{name}": features.part_covers[..., number] for number, name in enumerate(PART_NAMES)}
    named["mask.ground"] = features.ground_cover
    covers = np.moveaxis(features.block_covers, -1, 0)
    named |= {f"block.{name}": cover for name, cover in zip(scene.blocks, covers, strict=False)}
    named["alpha"] = np.asarray(1.0 - layers.through.mean(axis=2), np.float32)
    named["shadow"] = features.shadow
    named["reflection"] = features.reflected
    named["depth"] = features.depth
    named["normal"] = features.normal
    named["albedo"] = features.albedo
    named["glow"] = features.glow
    named["flat"] = layers.flat * scene.finish.flat_gain
    named |= {f"light.{name}": share for name, share in zip(scene.lights, features.shares, strict=False)}
    return {name: np.ascontiguousarray(image, np.float32) for name, image in named.items()}
