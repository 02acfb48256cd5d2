"""Compiling all kernels ahead of use: those of drafts, for which the page waits, then the integrator's."""

import multiprocessing
import time
from collections.abc import Callable, Mapping
from concurrent.futures import ProcessPoolExecutor
from contextlib import suppress
from pathlib import Path

from halvex.core.cache import cache_folder, cache_name

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
# The groups of kernels (cache.py) that a draft needs.
FOR_DRAFTS = ("solids", "draft", "finish")
# On two cores at 2.5 GHz: the integrator, and all that drafts need.
USUAL_S, USUAL_DRAFTS_S = 150.0, 180.0


def load_for_drafts() -> None:
    """Load the kernels of drafts into this process, or compile them, by using each once on a tiny piece."""
    _render("draft")


def load_integrator() -> None:
    """The same for those of the path integrator."""
    _render("final", samples=1)
    _mark("light").touch()


def compile_integrator() -> None:
    """Compile the integrator's kernels in a process of its own, for this one to load."""
    process = multiprocessing.get_context("spawn").Process(target=_integrator)
    process.start()
    process.join()


def compile_kernels(report: Callable[[str], None], *, integrator: bool = True) -> None:
    """Compile all kernels for later processes, on two cores: solids and effects first, then drafts and the
    integrator, which make use of what the first two left. Without the `integrator` only those of drafts.
    `report` gets a line for each step."""
    steps = {"solids": _build, "effects": _finish, "painting of drafts": _paint, "drafts": _see}
    if integrator:
        steps["path integrator"] = _integrator
    with ProcessPoolExecutor(2, multiprocessing.get_context("spawn"), max_tasks_per_child=1) as pool:
        for name, (line, seconds) in zip(steps, pool.map(_taken, steps.keys(), steps.values()), strict=True):
            report(line)
            if name == "drafts":
                _draft_seconds().write_text(f"{seconds:.1f}")
                for group in FOR_DRAFTS:
                    _mark(group).touch()


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
    """Go through a step; returns its name with how long it took, and that in seconds."""
    started = time.perf_counter()
    act()
    seconds = time.perf_counter() - started
    return f"{step}: {seconds:.1f} s", seconds


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


def _draft() -> None:
    """Make a draft without a bevel, whose kernels may not be there yet, and one with it."""
    _render("draft", FLAT)
    _render("draft", LAYERED)


# The kernels of a draft's steps but for that which paints it and takes as long to compile as all of these.
SEEING = ("unshadowed", "primary_hits", "visibility", "ground_light", "sky_on_ground", "spread_ground")


def _paint() -> None:
    """Make drafts that see nothing, as what they see is compiled by another process."""
    _leave_out(*SEEING)
    _draft()


def _see() -> None:
    """Find all that drafts paint without painting it, likewise."""
    from halvex.core.piece import piece_from_values
    from halvex.core.render.draft.sketch import Sketcher
    from halvex.core.render.work import shared_pool
    from halvex.core.scene import scene_of

    _leave_out("shade")
    for values in (FLAT, LAYERED):
        Sketcher().draw(scene_of(piece_from_values(values)), 64, 36, pool=shared_pool())


def _leave_out(*kernels: str) -> None:
    """Have drafts of this process, which is for compiling alone, do without some of their kernels."""
    from halvex.core.render.draft import sketch

    for name in kernels:
        setattr(sketch, name, lambda *given: None)


def _integrator() -> None:
    """Make pictures, and use what else looks at the integrator's world but need not be loaded at start-up."""
    _render("final", samples=1, transparent=True, layers=True)
    _compare()
    _look_at_a_spot()
    load_integrator()


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
