"""Render the converged pictures that tests/core/test_clean.py compares with: many samples, not denoised; or
measure how near to them so many other samples come, denoised: no aim can ask for less.

.venv/bin/python tools/converge.py [--samples N] [DEMO ...]
.venv/bin/python tools/converge.py --floor [--samples N] [DEMO ...]
"""

import sys
from pathlib import Path

import click
from PIL import Image

sys.path.insert(0, str(Path(__file__).parents[1]))
from halvex.core.finish.picture import Picture, finish
from halvex.core.output.pictures import to_integers
from halvex.core.render.assembling import make_world
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.layers import develop
from halvex.core.render.work import shared_pool
from halvex.core.scene import scene_of
from tests.core.test_clean import CONVERGED, HEIGHT, SCENES, WIDTH, flip_apart, unfinished

# Far from the seeds of the pictures that are compared with these.
SEED = 777_777
# Far from these.
FLOOR_SEED = 31_337


@click.command()
@click.option("--samples", default=1024, show_default=True)
@click.option(
    "--floor", is_flag=True, help="FLIP of other samples, denoised, to the pictures that are there."
)
@click.argument("wanted", nargs=-1)
def main(samples: int, floor: bool, wanted: tuple[str, ...]) -> None:
    """Render converged pictures, or measure against them."""
    CONVERGED.mkdir(exist_ok=True)
    for name in wanted or SCENES:
        if floor:
            mean, worst = flip_apart(name, rendered(name, samples, FLOOR_SEED, clean="high").display)
            print(f"{name}: FLIP {mean:.4f}, 99th percentile {worst:.3f}", flush=True)
        else:
            pixels = to_integers(rendered(name, samples, SEED, clean=None))
            Image.fromarray(pixels).save(CONVERGED / f"{name}.png", optimize=True)
            print(name, flush=True)


def rendered(name: str, samples: int, seed: int, clean: str | None) -> Picture:
    piece = unfinished(name)
    scale = WIDTH / piece.canvas.width
    scene = scene_of(piece, px_scale=scale).for_picture(WIDTH, HEIGHT, scale)
    world = make_world(scene)
    levels = light_levels(world)
    film = Film(WIDTH, HEIGHT, len(levels))
    add_samples(world, film, samples, pool=shared_pool(), seed=seed)
    layers = develop(film, levels, scene.finish, transparent=False, clean=clean, pool=shared_pool())
    return finish(layers, scene.finish)


if __name__ == "__main__":
    main()
