"""Meshes of colours, drawn as pictures."""

from hashlib import sha256

import numpy as np
from scipy.interpolate import RBFInterpolator

from halvex.core.memory import kept
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.oklab import linear_to_oklab, oklab_to_linear
from halvex.core.optics.texels import Pyramid, pyramid_of_light
from halvex.core.piece.mesh import Mesh

# Colours between the points change slowly: so many texels to a side show no steps.
MESH_PX = 256
# Points of a mesh are taken for one if they are nearer than this, in shares of what it is laid over.
_LEAST_APART = 1e-4


@kept
def picture_of_mesh(mesh: Mesh) -> tuple[str, Pyramid]:
    """(a name by its content, the picture) of a mesh over a square.

    A thin plate spline through the points in OKLab (Duchon, 1977), premultiplied; no colour goes past those
    of the points.
    """
    places = np.array([(point.x / 100, point.y / 100) for point in mesh.points])
    opacity = np.array([point.opacity / 100 for point in mesh.points])[:, None]
    lab = linear_to_oklab(np.array([hex_to_linear(point.colour) for point in mesh.points]))
    places, values = _apart(places, np.hstack([lab * opacity, opacity]))
    at = (np.arange(MESH_PX) + 0.5) / MESH_PX
    across, up = np.meshgrid(at, at[::-1])
    found = _between(places, values, np.column_stack([across.ravel(), up.ravel()]))
    found = np.clip(found, values.min(axis=0), values.max(axis=0))
    alpha = found[:, 3:]
    light = np.clip(oklab_to_linear(found[:, :3] / np.maximum(alpha, 1e-6)), 0, 1) * alpha
    image = np.hstack([light, alpha]).reshape(MESH_PX, MESH_PX, 4).astype(np.float32)
    name = f"mesh-{sha256(image.tobytes()).hexdigest()[:24]}"
    return name, pyramid_of_light(image)


def _apart(places: np.ndarray, values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Points of one place as one, the last of them."""
    last = {tuple(np.round(place / _LEAST_APART)): number for number, place in enumerate(places)}
    kept_points = sorted(last.values())
    return places[kept_points], values[kept_points]


def _between(places: np.ndarray, values: np.ndarray, at: np.ndarray) -> np.ndarray:
    if len(places) == 1:
        return np.repeat(values, len(at), axis=0)
    # A plate over points on one line can tilt about it: distances alone mix those.
    spread = np.linalg.svd(places - places.mean(axis=0), compute_uv=False)
    if len(places) < 3 or spread[1] < 1e-3 * max(spread[0], 1e-9):
        return np.asarray(RBFInterpolator(places, values, kernel="linear", degree=0)(at))
    return np.asarray(RBFInterpolator(places, values, kernel="thin_plate_spline", degree=1)(at))
