"""Keeping a draft up to date: only what an edit has changed is traced again (see draft/__init__.py)."""

import itertools
import math
from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass, field, replace
from functools import partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.colour import luminance
from halvex.core.optics.material import GLASS, RECOLOURED
from halvex.core.references import Held
from halvex.core.render.assembling import make_world
from halvex.core.render.cover import may_show_letters
from halvex.core.render.draft.glowlight import light_beads
from halvex.core.render.draft.grid import GRID
from halvex.core.render.draft.ground import (
    ground_light,
    sky_memory,
    sky_on_ground,
    spread_ground,
    spreading_memory,
    unshadowed,
)
from halvex.core.render.draft.known import NOTHING_KNOWN, Known, as_on_canvas, in_detail, known_by
from halvex.core.render.draft.raster import draw_letters, rows_to_draw
from halvex.core.render.draft.shade import Look, Painted, Recoloured, Sheet, shade
from halvex.core.render.draft.shadows import visibility
from halvex.core.render.draft.sky import PARTS, Sky, sky_of
from halvex.core.render.draft.surfaces import Surfaces, depths, no_surfaces, primary_hits
from halvex.core.render.film import light_levels
from halvex.core.render.layers import DARKEST, FAR_OFF, LETTERS, RenderLayers
from halvex.core.render.work import Steps, held_scratch, thread_count
from halvex.core.render.world import World, projections_of
from halvex.core.scene import Scene
from halvex.core.scene.camera import lettering_to_picture

# Bands of a picture: so many, but of no fewer rows.
BANDS, LEAST_ROWS = 16, 12
# Pixels from one place of the ground's grid to the next.
STEP_PX = 2 * GRID

Array = NDArray[np.float32]


class _Job(NamedTuple):
    """A draft that is wanted: a scene, its world, the picture's size in px, and what draws it."""

    scene: Scene
    world: World
    width: int
    height: int
    pool: Executor
    cancelled: Callable[[], bool]


@dataclass
class _Lit:
    """A draft at the levels (lights, 3) of its lights, and what one more of each light's level
    adds, where that is known."""

    of: tuple[object, ...]
    levels: Array
    layers: RenderLayers
    adds: dict[int, Array] = field(default_factory=dict)


def _blank(*shape: int) -> Array:
    return np.empty(shape, np.float32)


class Sketcher:
    """Draws drafts of one piece as it is edited, keeping primary hits, shadows and single lights
    between them."""

    def __init__(self) -> None:
        self._known = NOTHING_KNOWN
        nothing = _blank(0, 0, 3)
        painted = Painted(nothing, nothing, nothing)
        self._sheet = Sheet(
            no_surfaces(0, 0),
            _blank(0, 0, 1, 3),
            _blank(2, 2, 2, 3),
            Sky(_blank(0, 3), _blank(0, PARTS, 3), _blank(0, PARTS, 3)),
            _blank(1, 0, 0, 3),
            _blank(2, 2, 1, 3),
            _blank(1, 0, 0, 3),
            _blank(1, 0, 0, 3),
            Look(nothing, nothing, np.empty((0, 0), np.int32)),
            Recoloured(nothing, nothing),
            np.empty((0, 0), np.int32),
            painted,
        )
        # It is filled in pixel by pixel, and holds also where a draft is cancelled.
        self._look, self._look_of = self._sheet.look, NOTHING_KNOWN.look
        self._lit: _Lit | None = None

    def draw(
        self,
        scene: Scene,
        width: int,
        height: int,
        *,
        pool: Executor,
        cancelled: Callable[[], bool] = lambda: False,
    ) -> RenderLayers:
        """The layers of a draft of so many px. Raises CancelledError."""
        world = make_world(scene, sampled=False)
        light_beads(world)
        job = _Job(scene, world, width, height, pool, cancelled)
        levels, of = (
            light_levels(world),
            (
                scene.film_key,
                float(world.flat_gain),
                scene.finish.has_effects,
                scene.finish.covers,
                width,
                height,
            ),
        )
        kept = self._lit
        if kept is not None and kept.of == of:
            changed = np.flatnonzero((levels != kept.levels).any(axis=1))
            if len(changed) <= 1:
                return self._with_shares(self._relit(kept, changed.tolist(), levels, job), kept, levels, job)
        layers = self._traced(job)
        self._lit = _Lit(of, levels, layers)
        return self._with_shares(layers, self._lit, levels, job)

    def _relit(self, kept: _Lit, changed: list[int], levels: Array, job: _Job) -> RenderLayers:
        """The kept draft with one light at another level. Light is linear in it, so two drafts give
        all others."""
        seen = kept.layers.light
        for light in changed:
            more = (levels[light] - kept.levels[light]) * self._added_by(light, kept, job)
            seen = np.maximum(seen + more, np.float32(0))
        return replace(kept.layers, light=seen)

    def _added_by(self, light: int, kept: _Lit, job: _Job) -> Array:
        """What one more of a light's level adds to the kept draft (h, w, 3)."""
        if light not in kept.adds:
            # Twice as bright, so that the difference keeps its digits.
            step = np.float32(max(float(kept.levels[light].max()), 1.0))
            raised = self._traced(job._replace(world=_at_levels(job.world, kept.levels, light, step)))
            kept.adds[light] = (raised.light - kept.layers.light) / step
        return kept.adds[light]

    def _with_shares(self, layers: RenderLayers, kept: _Lit, levels: Array, job: _Job) -> RenderLayers:
        """The layers with the share of each px that a light makes, where effects ask for it."""
        found: dict[str, Array] = {}
        for target, of, light in job.scene.finish.covers:
            if of == "light" and light >= 0 and layers.covers is not None:
                own = luminance(levels[light] * self._added_by(light, kept, job))
                share = own / np.maximum(luminance(layers.light), DARKEST)
                found[target] = np.asarray(np.clip(share, 0.0, 1.0), np.float32)
        return replace(layers, covers={**layers.covers, **found}) if layers.covers and found else layers

    def _traced(self, job: _Job) -> RenderLayers:
        """Shade all pixels; before, bring surfaces, visibilities and the ground's light up to date
        where anything that they depend on has changed."""
        before, known = self._known, known_by(job.scene, job.world, job.width, job.height)
        fresh, relit = known.geometry != before.geometry, known.ground != before.ground
        sheet, wanted = self._room(known, job, fresh, relit)
        if fresh:
            # Surfaces are written anew: until they all are, nothing is known of them.
            self._known = NOTHING_KNOWN
        _steps(job.world, sheet, wanted, fresh, relit).run(job.pool, job.cancelled)
        self._known, self._sheet = known, sheet
        covers = _covers(job, sheet.surfaces) if job.scene.finish.has_effects else None
        return RenderLayers(*sheet.painted, covers=covers)

    def _room(self, known: Known, job: _Job, fresh: bool, relit: bool) -> tuple[Sheet, NDArray[np.uint8]]:
        """A sheet with what is still true of the last one, and which lights' visibilities are not."""

        def space(before: Array, *shape: int) -> Array:
            # Of a fresh draft all is written anew, where it lay before: memory that is new to the process
            # would cost a few ms.
            return before if fresh and before.shape == shape else _blank(*shape)

        lights = known.lights
        half = (job.height + 1) // 2, (job.width + 1) // 2
        surfaces, grid, sky = self._sheet.surfaces, self._sheet.grid, self._sheet.sky
        from_sky, spread = self._sheet.from_sky, self._sheet.spread
        if fresh and surfaces.material.shape != (2 * half[0], 2 * half[1]):
            surfaces = no_surfaces(job.height, job.width)
        if relit:
            images, entries = (3, 2) if in_detail(job.scene) else (1, 1)
            grid = space(grid, half[0] // GRID + 2, half[1] // GRID + 2, entries * (len(lights) + 1), 3)
            from_sky = space(from_sky, *grid.shape[:2], images, 3)
            spread = space(spread, images, half[0] + 1, half[1] + 1, 3)
        seen, wanted = space(self._sheet.seen, *half, len(lights), 3), np.ones(len(lights), np.uint8)
        before = {} if fresh else {light: index for index, light in enumerate(self._known.lights)}
        for index, light in enumerate(lights):
            if light in before:
                seen[:, :, index], wanted[index] = self._sheet.seen[:, :, before[light]], 0
        if wanted[-1]:
            sky = sky_of(job.world)
        painted = Painted(*(_blank(job.height, job.width, 3) for _ in Painted._fields))
        recoloured, ends = self._sheet.recoloured, self._sheet.ends
        size = (job.height, job.width) if (job.scene.materials.evenness == RECOLOURED).any() else (0, 0)
        if recoloured.glare.shape[:2] != size:
            recoloured = Recoloured(_blank(*size, 3), _blank(*size, 3))
        lit = np.zeros((len(spread), *half, 3), np.float32)
        own = half if len(job.world.beads.instance) else (0, 0)
        glow = np.zeros((min(len(spread), 2), *own, 3), np.float32)
        size = (job.height, job.width) if (job.scene.materials.kind == GLASS).any() else (0, 0)
        if ends.shape != size:
            ends = np.empty(size, np.int32)
        if self._look_of != known.look:
            size = (job.height, job.width) if known.look else (0, 0)
            tilted = size if known.look and not as_on_canvas(job.scene) else (0, 0)
            self._look = Look(_blank(*size, 3), _blank(*tilted, 3), np.full(size, -1, np.int32))
            self._look_of = known.look
        light = grid, sky, lit, from_sky, glow, spread
        return Sheet(surfaces, seen, *light, self._look, recoloured, ends, painted), wanted


def _covers(job: _Job, surfaces: Surfaces) -> dict[str, Array]:
    """What effects ask for besides light, but for shares of it: covers and z (h, w)."""
    rows, columns = slice(job.height), slice(job.width)
    seen, world = surfaces.material[rows, columns], job.world
    letters = (seen >= 0) & (seen != world.ground.material)
    found = {LETTERS: letters.astype(np.float32)}
    triangle, instance = surfaces.triangle[rows, columns], surfaces.instance[rows, columns]
    for target, of, number in job.scene.finish.covers:
        shown = np.zeros_like(letters)
        if of == "depth":
            depth = np.full(surfaces.material.shape, FAR_OFF, np.float32)
            depths(world, surfaces, depth)
            found[target] = np.ascontiguousarray(depth[rows, columns])
            continue
        if of == "part":
            shown[letters] = world.letters.bodies.part[triangle[letters]] == number
        elif of == "block":
            shown[letters] = world.frame_of[instance[letters]] == number
        found[target] = shown.astype(np.float32)
    return found


def _steps(world: World, sheet: Sheet, wanted: NDArray[np.uint8], fresh: bool, relit: bool) -> Steps:
    """The steps that fill a sheet: its surfaces if `fresh`, the visibilities of the lights that are
    `wanted`, the ground's light if `relit`, and the picture. What one step has written is in the cache
    for the next."""
    surfaces, seen, grid, sky, lit, from_sky, glow, spread = sheet[:8]
    rows = 2 * len(seen)
    cover, drawing = letters_seen(world, surfaces) if fresh else (None, [])
    held_world, held_sheet = Held(world), Held(sheet)
    held_surfaces, held_sky = Held(surfaces), Held(sky)

    def without_shadows(y0: int, y1: int) -> None:
        unshadowed(held_world, grid, y0, y1, held_scratch())

    def look(y0: int, y1: int) -> None:
        if fresh:
            primary_hits(held_world, cover, held_surfaces, y0, y1, held_scratch())
        if wanted.any():
            visibility(held_world, held_surfaces, held_sky, seen, wanted, y0 // 2, y1 // 2, held_scratch())
        if relit:
            ground_light(held_world, held_surfaces, seen, grid, lit, glow, y0 // 2, y1 // 2)

    def light_of_sky(y0: int, y1: int) -> None:
        memory = sky_memory(from_sky.shape[1])
        sky_on_ground(held_world, held_surfaces, held_sky, seen, grid, memory, from_sky, y0, y1)

    def even_out(y0: int, y1: int) -> None:
        last = y1 // 2 + 1 if y1 >= rows else y1 // 2
        memory = spreading_memory(lit.shape[2])
        for image in range(len(lit)):
            own = glow[image] if image < len(glow) else glow[0, :0, :0]
            spread_ground(
                held_world,
                held_surfaces,
                lit[image],
                from_sky,
                image,
                own,
                memory,
                spread[image],
                y0 // 2,
                last,
            )

    def paint(y0: int, y1: int) -> None:
        shade(held_world, held_sheet, y0, min(y1, len(sheet.painted.light)), held_scratch())

    steps, bands = Steps(), _bands(rows)
    looked: list[int] = []
    evened: list[int] = []
    begun = [steps.add(work) for work in drawing]
    if relit:
        begun += [steps.add(partial(without_shadows, *band)) for band in _bands(len(grid))]
    if fresh or wanted.any() or relit:
        looked = [steps.add(partial(look, *band), begun) for band in bands]
    if relit:
        places = _bands(len(grid))
        skies = [
            steps.add(
                partial(light_of_sky, y0, y1), _meeting(looked, bands, STEP_PX * (y0 - 1), STEP_PX * y1)
            )
            for y0, y1 in places
        ]
        evened = [
            steps.add(
                partial(even_out, y0, y1),
                [
                    *_around(looked, n),
                    *_meeting(skies, places, y0 // STEP_PX, y1 // STEP_PX + 2),
                ],
            )
            for n, (y0, y1) in enumerate(bands)
        ]
    for n, band in enumerate(bands):
        # Through glass the ground is seen elsewhere.
        spread_before = evened if world.has_glass else _around(evened, n)
        steps.add(partial(paint, *band), [*_around(looked, n), *spread_before])
    return steps


def letters_seen(world: World, surfaces: Surfaces) -> tuple[NDArray[np.uint8], list[Callable[[], None]]]:
    """Where `primary_hits` looks for letters with rays (H, W), and the work that draws them instead, where
    that is quicker: then it looks nowhere (0, 0)."""
    height, width = surfaces.material.shape
    projection = lettering_to_picture(world.camera, world.turn)
    span = rows_to_draw(world, projection, width, height)
    if span is None:
        return may_show_letters(world, width, height), []
    near, drawn = (
        np.empty((height, width), np.float32),
        (surfaces.triangle, surfaces.instance, surfaces.weights),
    )
    projections = projections_of(world.letters, projection)
    # Each band looks at every triangle of the letters that it shows: one for each thread, as full
    # as the others.
    cuts = [
        0,
        *(round(span[0] + (span[1] - span[0]) * n / thread_count()) for n in range(1, thread_count())),
        height,
    ]
    drawing: list[Callable[[], None]] = [
        partial(draw_letters, world.letters, projections, near, drawn, *rows)
        for rows in itertools.pairwise(cuts)
    ]
    return np.empty((0, 0), np.uint8), drawing


def _around(steps: list[int], n: int) -> list[int]:
    """A band's step and those of the bands beside it, where there are steps."""
    return steps[max(n - 1, 0) : n + 2]


def _meeting(steps: list[int], bands: list[tuple[int, int]], first: int, end: int) -> list[int]:
    """The steps whose bands have rows from first to end - 1."""
    return [step for step, (y0, y1) in zip(steps, bands, strict=True) if y0 < end and y1 > first]


def _at_levels(world: World, levels: Array, light: int, more: np.float32) -> World:
    """The world with its lights at `levels` (lights, 3), one of them raised by `more`."""
    raised = levels.copy()
    raised[light] += more
    lamps = len(world.lamps.kind)
    return world._replace(
        lamps=world.lamps._replace(level=raised[:lamps]),
        surround=world.surround._replace(level=raised[lamps, 0]),
    )


def _bands(rows: int) -> list[tuple[int, int]]:
    """Bands of an even number of rows, (first, one after the last)."""
    step = max(LEAST_ROWS, 2 * math.ceil(rows / (2 * BANDS)))
    return [(y, min(y + step, rows)) for y in range(0, rows, step)]
