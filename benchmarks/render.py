"""Light transport: the time to a clean picture, rays, paths and error against peers, growth and memory."""

import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from benchmarks.peer_scenes import (
    SCENES,
    PeerScene,
    mitsuba_scene,
    our_adapted_picture,
    our_picture,
    our_world,
)
from benchmarks.result import Result
from halvex.core.finish.picture import finished_bytes
from halvex.core.kernels import kernel
from halvex.core.piece import Piece, piece_from_values
from halvex.core.piece.resolving import resolve
from halvex.core.render.assembling import make_world
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.hits import first_hit
from halvex.core.render.tree import build_tree
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World, make_scratch
from halvex.core.scene import build_scene, scene_of

WIDTH, HEIGHT = 960, 540
# A picture alone may fall into a moment in which the machine has other work: medians of so many
# edits, and of so many pictures.
EDITS, PICTURES = 15, 9
# So many times both renderers take their turn; the ratio is the median of neighbours' times,
# between which the machine changes least.
TURNS = 11
# Debian's library for mitsuba's compiled variant.
LLVM = "/usr/lib/x86_64-linux-gnu/libLLVM.so.19.1"
SAMPLERS = ("independent", "multijitter", "ldsampler")
F = np.float32

Array = NDArray[np.float32]


def sample_piece(width: int = WIDTH, height: int = HEIGHT, **changes: Any) -> Piece:
    size = 190 * width / WIDTH
    return piece_from_values(
        {
            "canvas": {"width": width, "height": height},
            "blocks": [
                {
                    "words": "Port\nSorrelan",
                    "size": size,
                    "leading": 0.9,
                    "form": {"bevel": {"profile": "ovolo"}},
                }
            ],
            "view": {"turn": {"y": -15}},
            "light": {"lamps": [{"kelvin": 5500}], "surround": {"kind": "studio"}},
            **changes,
        }
    )


def _sampled(world: World, width: int, height: int, samples: int, seed: int = 0) -> Film:
    film = Film(width, height, len(light_levels(world)))
    add_samples(world, film, samples, pool=shared_pool(), seed=seed)
    return film


def _seconds(work: Callable[[], Any], times: int = 1) -> float:
    """The least time of a few runs."""
    found = []
    for _ in range(times):
        started = time.perf_counter()
        work()
        found.append(time.perf_counter() - started)
    return min(found)


@kernel
def _trace(world, origins, directions, far, out, begin, end, scratch):
    for i in range(begin, end):
        o = (origins[i, 0], origins[i, 1], origins[i, 2])
        d = (directions[i, 0], directions[i, 1], directions[i, 2])
        t = first_hit(world, o, d, far, scratch).t
        out[i] = t


def rays_embree() -> list[Result]:
    """First hits a second of the same rays on one thread each, through Embree: camera rays, and
    rays from everywhere."""
    try:
        from embreex import rtcore_scene
        from embreex.mesh_construction import TriangleMesh
    except ImportError:
        return [
            Result("rays-embree", 0.0, "Mrays/s", "embreex: not installed", None, None, "ratio ≥ 0.5", False)
        ]
    piece = sample_piece(backdrop={"ground": "none"})
    scene = scene_of(piece)
    world = make_world(scene)
    peer = rtcore_scene.EmbreeScene()
    bodies = [(p.positions @ scene.turn.T)[p.body.triangles] for p in scene.instances]
    TriangleMesh(peer, np.vstack(bodies).astype(np.float32))
    rng = np.random.default_rng(2)
    count = 1_000_000
    eye = np.array([float(v) for v in world.camera.eye])
    on_face = np.column_stack(
        [(rng.random(count) - 0.5) * WIDTH, (rng.random(count) - 0.5) * HEIGHT, np.zeros(count)]
    )
    on_face = on_face[np.lexsort((on_face[:, 0], on_face[:, 1] // 4))]
    aims = rng.uniform((-450, -200, -60), (450, 200, 0), (count, 3))
    around = rng.normal(size=(count, 3))
    around = around / np.linalg.norm(around, axis=1, keepdims=True) * 1200
    results = []
    for name, origins, ends in (
        ("camera", np.tile(eye, (count, 1)), on_face),
        ("from everywhere", around, aims),
    ):
        towards = ends - origins
        directions = (towards / np.linalg.norm(towards, axis=1, keepdims=True)).astype(np.float32)
        starts, out = origins.astype(np.float32), np.empty(count, np.float32)
        scratch = make_scratch()
        _trace(world, starts, directions, F(1e30), out, 0, 1, scratch)
        ours, theirs = np.inf, np.inf
        for _ in range(3):
            ours = min(
                ours,
                _seconds(lambda: _trace(world, starts, directions, F(1e30), out, 0, count, scratch)),  # noqa: B023
            )
            theirs = min(theirs, _seconds(lambda: peer.run(starts, directions, query="DISTANCE")))  # noqa: B023
        rates = count / ours / 1e6, count / theirs / 1e6
        ratio = rates[0] / rates[1]
        results.append(
            Result(
                f"rays-embree, {name}",
                round(rates[0], 2),
                "Mrays/s",
                "Embree",
                round(rates[1], 2),
                round(ratio, 2),
                "ratio ≥ 0.5",
                ratio >= 0.5,
            )
        )
    return results


def llvm() -> Any:
    """Mitsuba's compiled variant. Raises ImportError where it cannot be had."""
    if not Path(LLVM).exists():
        raise ImportError("libllvm19 is not installed")
    os.environ.setdefault("DRJIT_LIBLLVM_PATH", LLVM)
    import mitsuba as mi

    mi.set_variant("llvm_ad_rgb")
    return mi


def paths_llvm() -> list[Result]:
    """Path samples a second at 16 samples a pixel on the first peer scene at 960 × 540, mitsuba compiled."""
    try:
        mi = llvm()
    except ImportError as fault:
        return [Result("paths-llvm", 0.0, "Mpaths/s", f"mitsuba: {fault}", None, None, "ratio ≥ 1", False)]
    results = []
    for peer in (SCENES[0], SCENES[1], next(scene for scene in SCENES if "clear glass" in scene.name)):
        scene, world = our_world(peer, 10.0)
        loaded = mitsuba_scene(mi, scene, world, WIDTH, HEIGHT)
        our_picture(world, 1, 0, WIDTH, HEIGHT)
        times = np.empty((TURNS, 2))
        for seed in range(TURNS):
            times[seed, 0] = _seconds(lambda: our_picture(world, 16, seed, WIDTH, HEIGHT))  # noqa: B023
            times[seed, 1] = _seconds(lambda: np.array(mi.render(loaded, spp=16, seed=seed)))  # noqa: B023
        rates = WIDTH * HEIGHT * 16 / np.median(times, axis=0) / 1e6
        ratio = float(np.median(times[:, 1] / times[:, 0]))
        results.append(
            Result(
                f"paths-llvm, {peer.name}",
                round(float(rates[0]), 2),
                "Mpaths/s",
                "mitsuba llvm",
                round(float(rates[1]), 2),
                round(ratio, 2),
                "ratio ≥ 1",
                ratio >= 1,
            )
        )
    return results


def equal_error() -> list[Result]:
    """Time to the RMSE that mitsuba reaches at 64 samples a pixel, against its time, over the peer
    scenes at 240 × 135.

    Error falls at least as fast as 1 / √samples, so from errors and times at 64 samples follows the
    time to any error. Its best sampler is taken scene by scene; ours puts its samples where the
    noise is.
    """
    try:
        mi = llvm()
    except ImportError as fault:
        return [Result("equal-error", 0.0, "ratio of times", f"mitsuba: {fault}", None, None, "≤ 0.5", False)]
    results, ratios = [], []
    for peer in SCENES:
        ours, theirs, sampler = _equal_error(mi, peer)
        ratios.append(ours / theirs)
        results.append(
            Result(
                f"equal-error, {peer.name}",
                round(ours, 2),
                "s",
                f"mitsuba llvm, {sampler}",
                round(theirs, 2),
                round(ours / theirs, 2),
                "≤ 0.5",
                ours <= 0.5 * theirs,
            )
        )
    mean = float(np.exp(np.mean(np.log(ratios))))
    results.append(
        Result(
            "equal-error, geometric mean",
            round(mean, 3),
            "ratio of times",
            None,
            None,
            round(mean, 2),
            "≤ 0.5",
            mean <= 0.5,
        )
    )
    return results


def _equal_error(mi: Any, peer: PeerScene) -> tuple[float, float, str]:
    """(our seconds, its seconds, its sampler) to its RMSE at 64 samples."""
    width, height, spp = 240, 135, 64
    scene, world = our_world(peer, 2.5)
    converged = our_picture(world, 512, 99, width, height)
    loaded = {sampler: mitsuba_scene(mi, scene, world, width, height, sampler) for sampler in SAMPLERS}

    def error_and_time(render: Callable[[int], Array], reference: Array) -> tuple[float, float]:
        render(0)
        errors, seconds = [], []
        for seed in (1, 2):
            started = time.perf_counter()
            picture = render(seed)
            seconds.append(time.perf_counter() - started)
            errors.append(float(np.mean((picture - reference) ** 2)))
        return float(np.mean(errors)), min(seconds)

    own = np.array(mi.render(loaded["independent"], spp=512, seed=50))
    found = {
        sampler: error_and_time(
            lambda seed, s=sampler: np.array(mi.render(loaded[s], spp=spp, seed=seed)), own
        )
        for sampler in SAMPLERS
    }  # type: ignore[misc]
    sampler = min(found, key=lambda name: found[name][0] * found[name][1])
    error, seconds = found[sampler]
    our_error, our_seconds = error_and_time(
        lambda seed: our_adapted_picture(world, spp, seed, width, height), converged
    )
    return our_seconds * our_error / error, seconds, sampler


def growth_letters_render() -> list[Result]:
    """Render time of 1 000 letters against 10, covering as much of the picture, 4 samples."""
    times = []
    for rows, columns, size in ((2, 5, 250), (20, 50, 25)):
        words = "\n".join(("anerostglm" * 5)[:columns] for _ in range(rows))
        block = {
            "words": words,
            "size": size,
            "leading": 1.0,
            "form": {"depth": size / 5, "bevel": {"width": size / 40, "height": size / 40}},
        }
        piece = sample_piece(blocks=[block])
        world = make_world(scene_of(piece))
        _sampled(world, WIDTH, HEIGHT, 1)
        times.append(_seconds(lambda: _sampled(world, WIDTH, HEIGHT, 4), 3))  # noqa: B023
    ratio = times[1] / times[0]
    return [
        Result(
            "growth-letters-render",
            round(times[1], 2),
            "s, 1000",
            "10 letters",
            round(times[0], 2),
            round(ratio, 2),
            "≤ 2",
            ratio <= 2,
        )
    ]


def growth_lamps() -> list[Result]:
    """Render time of 16 lamps against one, 4 samples."""
    times = []
    for count in (1, 16):
        lamps = [
            {"id": f"l{n}", "bearing": 22.5 * n, "elevation": 30 + 2 * n, "strength": -3}
            for n in range(count)
        ]
        world = make_world(scene_of(sample_piece(light={"lamps": lamps, "surround": {"kind": "studio"}})))
        _sampled(world, WIDTH, HEIGHT, 1)
        times.append(_seconds(lambda: _sampled(world, WIDTH, HEIGHT, 4), 3))  # noqa: B023
    ratio = times[1] / times[0]
    return [
        Result(
            "growth-lamps",
            round(times[1], 2),
            "s, 16",
            "one lamp",
            round(times[0], 2),
            round(ratio, 2),
            "≤ 2",
            ratio <= 2,
        )
    ]


MEMORY = """
import resource, sys
from benchmarks.render import sample_piece
from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.output.pictures import encode
picture = render_piece(sample_piece(3840, 2160), FinalOrder(samples=2))
data = encode(picture, "png")
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
"""


def memory_4k() -> list[Result]:
    """Most memory that a process held while it made a PNG of 3840 × 2160."""
    answer = subprocess.run(
        [sys.executable, "-c", MEMORY],
        capture_output=True,
        text=True,
        check=True,
        cwd=Path(__file__).parents[1],
    )
    megabytes = float(answer.stdout)
    return [Result("memory-4k", round(megabytes), "MB", None, None, None, "≤ 1500 MB", megabytes <= 1500)]


def tree() -> list[Result]:
    """The tree over a body of 100 000 triangles."""
    side = 224
    u, v = np.meshgrid(np.linspace(0, 2 * np.pi, side + 1), np.linspace(0, 2 * np.pi, side + 1))
    ring = np.stack(
        [(200 + 60 * np.cos(v)) * np.cos(u), (200 + 60 * np.cos(v)) * np.sin(u), 60 * np.sin(v)], axis=-1
    )
    a, b, c, d = ring[:-1, :-1], ring[1:, :-1], ring[1:, 1:], ring[:-1, 1:]
    corners = np.concatenate([np.stack(t, axis=-2).reshape(-1, 3, 3) for t in ((a, b, c), (a, c, d))]).astype(
        np.float32
    )
    low, high = corners.min(axis=1), corners.max(axis=1)
    build_tree(low, high)
    ms = _seconds(lambda: build_tree(low, high), 5) * 1000
    return [
        Result(f"tree, {len(corners)} triangles", round(ms, 1), "ms", None, None, None, "≤ 60 ms", ms <= 60)
    ]


def place_edit() -> list[Result]:
    """From a moved block of forty letters, itself turned, to a world ready for its first ray: the median."""
    words = "Lanterns on the water\nand boats along four quays"
    assert len("".join(words.split())) == 40
    times = []
    for number in range(3 + 4 * EDITS):
        place = {"x": number, "y": 3, "turn": {"x": 10, "y": 20, "z": 5}}
        piece = resolve(sample_piece(blocks=[{"words": words, "size": 60, "place": place}]))
        started = time.perf_counter()
        scene = build_scene(piece)
        make_world(scene)
        assert scene.keys.bodies
        times.append((time.perf_counter() - started) * 1000)
    ms = float(np.median(times[3:]))
    return [Result("place-edit, forty letters", round(ms, 2), "ms", None, None, None, "≤ 2 ms", ms <= 2)]


def draft() -> list[Result]:
    """A draft of 960 × 540, twelve letters with glass among them, after edits of each kind, bodies
    known: the median."""
    gold, glass = {"face": {"kind": "metal"}}, {"face": {"kind": "glass", "tint": "#9fd0c0"}}
    blocks = [
        {
            "id": "one",
            "words": "Port",
            "size": 190,
            "place": {"y": 95},
            "surface": gold,
            "form": {"bevel": {"profile": "ovolo"}},
        },
        {
            "id": "two",
            "words": "Sorrelan",
            "size": 190,
            "place": {"y": -95},
            "surface": glass,
            "form": {"bevel": {"profile": "ovolo"}},
        },
    ]

    def piece(number: int, kind: str) -> Piece:
        lamp = {"kelvin": 5500, "bearing": 120 + (number if kind == "lamp" else 0)}
        strength = number / 10 if kind == "strength" else 0
        if kind == "material":
            blocks[0]["surface"] = {"face": {"kind": "metal", "roughness": 0.2 + number / 100}}
        turn = {"y": -15 + (number if kind == "view" else 0)}
        return sample_piece(
            blocks=blocks,
            view={"turn": turn},
            light={"lamps": [{**lamp, "strength": strength}], "surround": {"kind": "studio"}},
        )

    results = []
    for kind in ("strength", "lamp", "material", "view"):
        sketcher, found = Sketcher(), []
        for number in range(2 + EDITS):
            edited = piece(number, kind)
            started = time.perf_counter()
            scene = scene_of(edited)
            layers = sketcher.draw(scene, WIDTH, HEIGHT, pool=shared_pool())
            finished_bytes(layers, scene.finish, scene, pool=shared_pool())
            found.append((time.perf_counter() - started) * 1000)
        ms = float(np.median(found[2:]))
        results.append(Result(f"draft, {kind}", round(ms, 1), "ms", None, None, None, "≤ 80 ms", ms <= 80))
    return results
