"""Light transport: the time to a clean picture, and paths a second against mitsuba."""

import time

import numpy as np

from benchmarks.run import Result
from halvex.core.finish.picture import finish_film
from halvex.core.piece import Piece, piece_from_values
from halvex.core.render.film import Film, add_samples
from halvex.core.render.work import shared_pool
from halvex.core.render.world import make_world
from halvex.core.scene import build_scene
from halvex.core.scene.camera import angle_of_view
from halvex.core.scene.scene import Scene

WIDTH, HEIGHT = 960, 540
# Samples after which the cleaned picture has no visible noise.
CLEAN_SAMPLES = 4
COMPARED_SAMPLES = 4


def _piece() -> Piece:
    return piece_from_values(
        {
            "canvas": {"width": WIDTH, "height": HEIGHT},
            "blocks": [{"words": "Port\nSorrelan", "size": 190, "leading": 0.9, "form": {"bevel": {"profile": "ovolo"}}}],
            "view": {"turn": {"y": -15}},
            "light": {"lamps": [{"kelvin": 5500}], "surround": {"kind": "plain", "strength": -2}},
        }
    )


def clean() -> list[Result]:
    """A clean (denoised) picture from the piece, bodies and trees included."""
    piece = _piece()
    build_scene(piece)
    started = time.perf_counter()
    scene = build_scene(piece)
    world = make_world(scene)
    film = Film(WIDTH, HEIGHT)
    add_samples(world, film, CLEAN_SAMPLES, pool=shared_pool())
    finish_film(film, world.backdrop, scene.exposure, transparent=False, clean="high")
    seconds = time.perf_counter() - started
    return [Result("clean", round(seconds, 2), f"s, {CLEAN_SAMPLES} spp", None, None, None, "≤ 3 s", seconds <= 3)]


def paths_scalar() -> list[Result]:
    """Path samples a second on the same meshes, lamp and sky as mitsuba's scalar_rgb, metal on both sides."""
    piece = _piece()
    piece = piece.model_copy(update={"backdrop": piece.backdrop.model_copy(update={"ground": "none"})})
    scene = build_scene(piece)
    world = make_world(scene)
    started = time.perf_counter()
    add_samples(world, Film(WIDTH, HEIGHT), COMPARED_SAMPLES, pool=shared_pool())
    ours = WIDTH * HEIGHT * COMPARED_SAMPLES / (time.perf_counter() - started) / 1e6
    try:
        theirs = _mitsuba(scene)
    except ImportError:
        return [Result("paths-scalar", round(ours, 3), "Mpaths/s", "mitsuba: not installed", None, None, "ratio ≥ 1", False)]
    return [Result("paths-scalar", round(ours, 3), "Mpaths/s", "mitsuba scalar_rgb", round(theirs, 3), round(ours / theirs, 2), "ratio ≥ 1", ours >= theirs)]


def _mitsuba(scene: Scene) -> float:
    import mitsuba as mi

    mi.set_variant("scalar_rgb")
    lamps = scene.lamps
    to_world = np.eye(4)
    to_world[:3, :] = np.column_stack([lamps.u[0], lamps.v[0], lamps.normal[0], lamps.centre[0]])
    if np.linalg.det(to_world[:3, :3]) < 0:
        to_world[:3, 0] *= -1
    glow = {"type": "area", "radiance": {"type": "rgb", "value": lamps.radiance[0].tolist()}}
    parts: dict[str, object] = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": 13},
        "lamp": {"type": "rectangle", "to_world": mi.ScalarTransform4f(to_world), "emitter": glow},
        "sky": {"type": "constant", "radiance": 0.25},
        "camera": {
            "type": "perspective",
            "fov": angle_of_view(50),
            "fov_axis": "larger",
            "far_clip": 1e5,
            "to_world": mi.ScalarTransform4f().look_at(origin=[0, 0, float(scene.camera.stand)], target=[0, 0, 0], up=[0, 1, 0]),
            "film": {"type": "hdrfilm", "width": WIDTH, "height": HEIGHT, "pixel_format": "rgb"},
            "sampler": {"type": "independent", "sample_count": COMPARED_SAMPLES},
        },
    }
    for number, placement in enumerate(scene.placements):
        corners = ((placement.body.positions + placement.offset) @ scene.turn.T)[placement.body.triangles].reshape(-1, 3)
        props = mi.Properties()
        props["bsdf"] = mi.load_dict({"type": "roughconductor", "material": "Au", "alpha": 0.04})
        mesh = mi.Mesh(f"m{number}", len(corners), len(corners) // 3, has_vertex_normals=True, props=props)
        params = mi.traverse(mesh)
        params["vertex_positions"] = corners.astype(np.float32).ravel()
        params["vertex_normals"] = (placement.body.normals.reshape(-1, 3) @ scene.turn.T).astype(np.float32).ravel()
        params["faces"] = np.arange(len(corners), dtype=np.uint32)
        params.update()
        parts[f"m{number}"] = mesh
    loaded = mi.load_dict(parts)
    np.array(mi.render(loaded, spp=1))
    started = time.perf_counter()
    np.array(mi.render(loaded, spp=COMPARED_SAMPLES))
    return WIDTH * HEIGHT * COMPARED_SAMPLES / (time.perf_counter() - started) / 1e6
