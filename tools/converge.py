"""Render the converged pictures that tests/core/test_clean.py compares with: many samples, not denoised.

.venv/bin/python tools/converge.py [--samples N] [DEMO ...]
"""

import sys
from pathlib import Path

import click
from PIL import Image

sys.path.insert(0, str(Path(__file__).parents[1]))
from halvex.core.finish.picture import finish
from halvex.core.output.pictures import to_integers
from halvex.core.render.assembling import make_world
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.layers import develop
from halvex.core.render.work import shared_pool
from halvex.core.scene import scene_of
from tests.core.test_clean import CONVERGED, HEIGHT, SCENES, WIDTH, unfinished

# Far from the seeds of the pictures that are compared with these.
SEED = 777_777


@click.command()
@click.option("--samples", default=1024, show_default=True)
@click.argument("wanted", nargs=-1)
def main(samples: int, wanted: tuple[str, ...]) -> None:
    """Render converged pictures."""
    CONVERGED.mkdir(exist_ok=True)
    for name in wanted or SCENES:
        piece = unfinished(name)
        scale = WIDTH / piece.canvas.width
        scene = scene_of(piece, px_scale=scale).for_picture(WIDTH, HEIGHT, scale)
        world = make_world(scene)
        levels = light_levels(world)
        film = Film(WIDTH, HEIGHT, len(levels))
        add_samples(world, film, samples, pool=shared_pool(), seed=SEED)
        layers = develop(film, levels, scene.finish, transparent=False, clean=None, pool=shared_pool())
        Image.fromarray(to_integers(finish(layers, scene.finish))).save(
            CONVERGED / f"{name}.png", optimize=True
        )
        print(name, flush=True)


if __name__ == "__main__":
    main()
