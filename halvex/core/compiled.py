"""Compiling all kernels ahead of use: those of drafts, for which the page waits, and the integrator's."""

import multiprocessing
import time
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor, as_completed
from contextlib import ExitStack, contextmanager, suppress
from multiprocessing.connection import Connection
from pathlib import Path
from types import ModuleType
from typing import TYPE_CHECKING

from halvex.core.allocation import collect_rarely
from halvex.core.cache import cache_folder, cache_name

if TYPE_CHECKING:
    from halvex.core.solids.bodies import PlacedBody

TINY = {"canvas": {"width": 64, "height": 36}, "blocks": [{"words": "i", "size": 30}]}
FLAT = {**TINY, "blocks": [{"words": "i", "size": 30, "form": {"bevel": {"width": 0}}}]}
# With a pattern and a picture, and an effect that asks how far off things are.
LAYERS = [{"kind": "pattern"}, {"kind": "picture", "picture": "harbour"}]
FACE = {"kind": "paint", "colour": {"base": "#ffffff", "layers": LAYERS}}
LAYERED = {
    **TINY,
    "blocks": [{"words": "i", "size": 30, "surface": {"face": FACE}}],
    "finish": [{"kind": "blur"}],
}
# Gold before a pale wall, to which it sends light enough for a map.
THROWING = {
    **TINY,
    "blocks": [{"words": "i", "size": 30, "surface": {"face": {"kind": "metal", "metal": "gold"}}}],
    "light": {"lamps": [{"id": "key", "name": "key", "strength": 6}]},
    "backdrop": {"ground": "wall", "colour": "#ffffff"},
}
# The groups of kernels (cache.py) that a draft needs.
FOR_DRAFTS = ("solids", "draft", "finish")
# The step after which drafts are there.
PAINTING = "painting of drafts"
# On two cores at 2.5 GHz: the integrator alone; all that drafts need; what is left of the integrator then.
USUAL_S, USUAL_DRAFTS_S, USUAL_REST_S = 100.0, 140.0, 10.0


def load_for_drafts() -> None:
    """Load the kernels of drafts into this process, or compile them, by using each once on a tiny piece."""
    _render("draft")


def load_integrator() -> None:
    """The same for those of the path integrator."""
    _render("final", samples=1)
    _throw_light()
    _mark("light").touch()


def compile_integrator() -> None:
    """Compile the integrator's kernels in a process of its own, for this one to load."""
    process = multiprocessing.get_context("spawn").Process(target=_integrator)
    process.start()
    process.join()


def compile_kernels(
    report: Callable[[str], None], drafts_are_there: Callable[[], None] = lambda: None
) -> None:
    """Compile all kernels for later processes, on two cores. `report` gets a line for each step;
    `drafts_are_there` is called as soon as later processes need not compile anything for drafts.

    Raises RuntimeError if the process that compiles fails; it has said why on standard error.
    """
    context = multiprocessing.get_context("spawn")
    steps, sender = context.Pipe(duplex=False)
    process = context.Process(target=_compile_all, args=(sender,))
    process.start()
    sender.close()
    with steps, suppress(EOFError):
        while True:
            step, seconds = steps.recv()
            report(f"{step}: {seconds:.1f} s")
            if step == PAINTING:
                drafts_are_there()
    process.join()
    if process.exitcode != 0:
        raise RuntimeError(f"the process that compiles kernels ended with {process.exitcode}")


def _compile_all(sender: Connection) -> None:
    """Go through all steps, and send what `_taken` returns of each.

    Two thirds of the time are numba's work on helpers, which it does once in a process. So what paints drafts
    and the integrator are compiled by copies of the process that has compiled what drafts see.
    """
    collect_rarely()
    fork = multiprocessing.get_context("fork")
    with ProcessPoolExecutor(1, fork) as copies:
        others = [copies.submit(_taken, "solids", _build), copies.submit(_taken, "effects", _finish)]
        seen = _taken("what drafts see", _see)
    for step in (*(each.result() for each in others), seen):
        sender.send(step)
    _draft_seconds().write_text(f"{seen[1]:.1f}")
    with ProcessPoolExecutor(2, fork) as copies:
        last = {PAINTING: _paint, "path integrator": _integrator}
        for each in as_completed([copies.submit(_taken, *step) for step in last.items()]):
            sender.send(each.result())


def is_integrator_compiled() -> bool:
    """Whether a process need only load the integrator's kernels."""
    return _mark("light").exists()


def are_drafts_compiled() -> bool:
    """The same of the kernels of drafts."""
    return all(_mark(group).exists() for group in FOR_DRAFTS)


def _mark(group: str) -> Path:
    """What is written beside a group's kernels once all of them are there."""
    return Path(cache_folder(group)) / f"{cache_name(group)}.compiled"


def integrator_seconds() -> float:
    """How long compiling the integrator takes, by how long this machine took for drafts: as long."""
    try:
        return float(_draft_seconds().read_text())
    except (OSError, ValueError):
        return USUAL_S


def _draft_seconds() -> Path:
    return Path(cache_folder("draft")) / "seconds"


def _taken(step: str, act: Callable[[], None]) -> tuple[str, float]:
    """Go through a step; returns its name with how many seconds it took."""
    started = time.perf_counter()
    act()
    return step, time.perf_counter() - started


def _build() -> None:
    from halvex.core.piece import piece_from_values
    from halvex.core.scene import scene_of

    scene_of(piece_from_values(TINY))


def _finish() -> None:
    """Let every effect work on a plate, with and without alpha, and show it as the stage does."""
    import numpy as np
    import shapely

    from halvex.core.finish.picture import Composed, finished, finished_bytes
    from halvex.core.finish.plate import NothingSeen
    from halvex.core.piece.effects import EFFECT_KINDS, Gloss, Grain, Keyline
    from halvex.core.piece.source import Layered
    from halvex.core.render.layers import RenderLayers
    from halvex.core.render.work import shared_pool
    from halvex.core.scene.finish import DEPTH, Finish
    from halvex.core.scene.outlines import FaceSeen

    light, cover = np.full((80, 128, 3), 2, np.float32), np.ones((80, 128), np.float32)
    covers = {"letters": cover, DEPTH: -100 * cover}
    # In layers, and in a colour that its blend mode does not make the same of all that it lies over.
    others = Keyline(colour=Layered(base="#ffffff")), Gloss(colour="#808080")
    # The last of all is on light, or on encoded values.
    stacks = (*(kind() for kind in EFFECT_KINDS), *others), (Grain(),)

    class OneFace(NothingSeen):
        def faces(self) -> tuple[FaceSeen, ...]:
            return (FaceSeen(shapely.box(20, 20, 90, 60), 0),)

    nothing = np.zeros_like(light)
    for stack in stacks:
        settings = Finish("#ffffff", 0.0, "neutral", stack)
        for alpha in (None, cover.copy()):
            finished(Composed(light.copy(), alpha, covers), settings, OneFace(), shared_pool())
        layers = RenderLayers(light, nothing, nothing, covers=covers)
        finished_bytes(layers, settings, OneFace(), pool=shared_pool())


# The kernels of a draft's last steps, which take as long to compile as the integrator's on top of all others.
PAINTERS = ("visibility", "ground_light", "sky_on_ground", "spread_ground", "shade")


def _see() -> None:
    """Make drafts without their last steps, of bodies whose kernels another process is compiling."""
    from halvex.core.piece import piece_from_values
    from halvex.core.render.draft import sketch
    from halvex.core.render.work import shared_pool
    from halvex.core.scene import instances, scene_of

    with ExitStack() as replaced:
        for name in PAINTERS:
            replaced.enter_context(_instead(sketch, name, lambda *given: None))
        replaced.enter_context(_instead(instances, "block_bodies", _tetrahedron))
        for values in (FLAT, LAYERED):
            sketch.Sketcher().draw(scene_of(piece_from_values(values)), 64, 36, pool=shared_pool())


@contextmanager
def _instead(module: ModuleType, name: str, other: Callable[..., object]) -> Iterator[None]:
    """Let another function stand for one of a module."""
    own = getattr(module, name)
    setattr(module, name, other)
    try:
        yield
    finally:
        setattr(module, name, own)


def _tetrahedron(*given: object, **named: object) -> "list[PlacedBody]":
    import numpy as np

    from halvex.core.solids import Mesh, PartOf
    from halvex.core.solids.bodies import PlacedBody

    corners = np.array([(0.0, 0.0, 0.0), (20.0, 0.0, 0.0), (10.0, 20.0, 0.0), (10.0, 10.0, -10.0)])
    triangles = np.array([(0, 1, 2), (1, 0, 3), (2, 1, 3), (0, 2, 3)], np.int32)
    a, b, c = (corners[triangles[:, k]] for k in range(3))
    normals = np.cross(b - a, c - a)
    normals = np.repeat((normals / np.linalg.norm(normals, axis=1, keepdims=True))[:, None], 3, axis=1)
    parts = np.array([PartOf.FACE, PartOf.BEVEL, PartOf.RETURN, PartOf.BACK], np.uint8)
    uv = corners[triangles][:, :, :2].astype(np.float32)
    return [PlacedBody(Mesh(corners, triangles, parts, normals.astype(np.float32), uv), (0.0, 0.0, 0.0))]


def _paint() -> None:
    """Make a draft without a bevel, whose kernels may not be there yet, and one with it."""
    _render("draft", FLAT)
    _render("draft", LAYERED)
    for group in FOR_DRAFTS:
        _mark(group).touch()


def _integrator() -> None:
    """Make pictures, and use what else looks at the integrator's world but need not be loaded at start-up."""
    _render("final", samples=1, transparent=True, layers=True)
    _compare()
    _look_at_a_spot()
    load_integrator()


def _throw_light() -> None:
    """Map the light that a letter sends to a wall."""
    from halvex.core.piece import piece_from_values
    from halvex.core.render.assembling import make_world
    from halvex.core.render.film import light_levels
    from halvex.core.render.mapping import map_photons
    from halvex.core.render.work import shared_pool
    from halvex.core.scene import scene_of

    world = make_world(scene_of(piece_from_values(THROWING)))
    map_photons(world, light_levels(world), shared_pool(), 0, lambda: False)


def _compare() -> None:
    """Tell two pictures apart, as is done to know when there are samples enough."""
    import numpy as np

    from halvex.core.render.flip import mean_flip

    nothing = np.zeros((8, 8, 3), np.float32)
    mean_flip(nothing, nothing)


def _look_at_a_spot() -> None:
    from halvex.core.piece import piece_from_values
    from halvex.core.render.assembling import make_world
    from halvex.core.render.spots import spot_at
    from halvex.core.scene import SceneError, scene_of

    with suppress(SceneError):
        spot_at(make_world(scene_of(piece_from_values(TINY))), 32, 18)


def _render(quality: str, values: Mapping[str, object] = TINY, **options: object) -> None:
    from halvex.core.finish.orders import order_of
    from halvex.core.finish.render_piece import render_piece
    from halvex.core.piece import piece_from_values

    render_piece(piece_from_values(values), order_of(quality, **options))
