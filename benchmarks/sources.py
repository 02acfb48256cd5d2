"""What sources cost: paths and drafts with three of them on screen, and edits of a piece with a hundred
pictures, against the same in plain colours."""

import time
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
from PIL import Image

from benchmarks.render import HEIGHT, WIDTH, sample_piece
from benchmarks.result import Result
from halvex.core.assets import SHIPPED, Assets
from halvex.core.memory import next_picture
from halvex.core.piece import Piece, piece_from_values
from halvex.core.render.assembling import make_world
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.work import shared_pool
from halvex.core.scene import Scene, scene_of
from halvex.studio.edits import Edit, apply_edits

TURNS = 9
SAMPLES = 4
# Pictures of one megapixel: two on each of so many blocks.
PICTURED_BLOCKS, PICTURE_PX = 50, (1160, 870)


def _lettering(face: Any, bevel: Any, side: Any, kind: str = "plastic") -> Piece:
    parts = {"face": face, "bevel": bevel, "return": side}
    name = "tint" if kind == "glass" else "colour"
    surface = {part: {"kind": kind, name: colour} for part, colour in parts.items()}
    plain = sample_piece().blocks[0].model_dump(mode="json", by_alias=True)
    return sample_piece(blocks=[{**plain, "surface": surface}])


def _gradient(colour: str, **values: Any) -> dict[str, Any]:
    stops = [{"at": 0, "colour": colour}, {"at": 100, "colour": "#202830"}]
    return _layer(colour, kind="gradient", stops=stops, **values)


def _layer(colour: str, **values: Any) -> dict[str, Any]:
    """A colour with a layer that is looked up but does not show: paths in brighter colours are longer."""
    return {"base": colour, "layers": [{**values, "strength": 0}]}


def sourced() -> list[Result]:
    """Gradients over the word, across the bevel and along the depth; a picture, scales and terrazzo; crystals
    and a picture on glass."""
    colours = ("#c8402f", "#e0b040", "#2f5d62")
    plain = _lettering(*colours)
    face, bevel, side = colours
    gradients = _lettering(
        _gradient(face, span="word"), _gradient(bevel, span="across"), _gradient(side, span="depth")
    )
    others = _lettering(
        _layer(face, kind="picture", picture="harbour"),
        _layer(bevel, kind="pattern", pattern="scales", size=8, tone_jitter=40),
        _layer(side, kind="pattern", pattern="terrazzo", size=16, hue_jitter=30),
    )
    tints = ("#d8efe6", "#c4e0ef", "#f0dcd0")
    glass = _lettering(*tints, kind="glass")
    cut = _lettering(
        _layer(tints[0], kind="pattern", pattern="crystals", size=24, tilt=18),
        _layer(tints[1], kind="picture", picture="harbour"),
        tints[2],
        kind="glass",
    )
    return [
        *_against(plain, gradients, "gradients"),
        *_against(plain, others, "picture and patterns"),
        *_against(glass, cut, "crystals and a picture on glass"),
    ]


def _against(plain: Piece, mixed: Piece, what: str) -> list[Result]:
    paths = np.array([[_path_seconds(plain, seed), _path_seconds(mixed, seed)] for seed in range(TURNS)])
    drafts = np.array([[_draft_seconds(plain), _draft_seconds(mixed)] for _ in range(TURNS)])
    rates = WIDTH * HEIGHT * SAMPLES / np.median(paths, axis=0) / 1e6
    share = float(np.median(paths[:, 0] / paths[:, 1]))
    ms = 1000 * np.median(drafts, axis=0)
    slower = float(np.median(drafts[:, 0] / drafts[:, 1]))
    return [
        Result(f"{what}, paths", rates[1], "Mpaths/s", "plain", rates[0], share, "ratio ≥ 0.9", share >= 0.9),
        Result(f"{what}, a view's draft", ms[1], "ms", "plain", ms[0], slower, "≤ 80 ms", ms[1] <= 80),
    ]


def _path_seconds(piece: Piece, seed: int) -> float:
    world = make_world(scene_of(piece))
    film = Film(WIDTH, HEIGHT, len(light_levels(world)))
    started = time.perf_counter()
    add_samples(world, film, SAMPLES, pool=shared_pool(), seed=seed)
    return time.perf_counter() - started


def _draft_seconds(piece: Piece) -> float:
    """The median of a few drafts, each of another view."""
    sketcher, found = Sketcher(), []
    for step in range(5):
        turn = piece.view.turn.model_copy(update={"y": piece.view.turn.y + step})
        seen = piece.model_copy(update={"view": piece.view.model_copy(update={"turn": turn})})
        scene = scene_of(seen)
        started = time.perf_counter()
        sketcher.draw(scene, WIDTH, HEIGHT, pool=shared_pool())
        found.append(time.perf_counter() - started)
    return float(np.median(found[1:]))


def many_pictures() -> list[Result]:
    """One block of fifty moved, with a hundred pictures on them and with a hundred colours: from the edit to
    its draft."""
    with TemporaryDirectory() as folder:
        noise = np.random.default_rng(1)
        for number in range(2 * PICTURED_BLOCKS):
            small = Image.fromarray(noise.integers(0, 255, (30, 40, 3), np.uint8))
            small.resize(PICTURE_PX).save(Path(folder) / f"picture-{number}.jpg")
        own = Path(folder)
        assets = SHIPPED | Assets.of(typefaces=own, panoramas=own, pictures=own)
        sketchers = Sketcher(), Sketcher()
        # A stage holds the scene that it shows.
        shown: list[Scene | None] = [None, None]
        pieces = [_fifty_blocks(pictured=pictured) for pictured in range(2)]
        times = np.zeros((TURNS + 2, 2))
        for step in range(TURNS + 2):
            for pictured, sketcher in enumerate(sketchers):
                next_picture()
                started = time.perf_counter()
                moved, _ = apply_edits(
                    pieces[pictured], [Edit(op="shift", path="/blocks/0", value=[step, 0])]
                )
                scene = scene_of(moved, assets=assets)
                sketcher.draw(scene, WIDTH, HEIGHT, pool=shared_pool())
                times[step, pictured] = time.perf_counter() - started
                shown[pictured] = scene
        turns = times[2:]
    ms = 1000 * np.median(turns, axis=0)
    share = float(np.median(turns[:, 0] / turns[:, 1]))
    name = "a hundred pictures, an edit"
    return [Result(name, ms[1], "ms", "colours", ms[0], share, "ratio ≥ 0.9", share >= 0.9)]


def _fifty_blocks(*, pictured: int) -> Piece:
    def colour(number: int) -> Any:
        base = f"#{40 + number:02x}8060"
        layers = [{"kind": "picture", "picture": f"picture-{number}"}]
        return {"base": base, "layers": layers} if pictured else base

    blocks = [
        {
            "id": f"block-{n}",
            "words": "i",
            "size": 40,
            "place": {"x": 45 * (n % 10) - 200, "y": 80 * (n // 10) - 160},
            "surface": {
                part: {"kind": "plastic", "colour": colour(2 * n + k)}
                for k, part in enumerate(("face", "return"))
            },
        }
        for n in range(PICTURED_BLOCKS)
    ]
    return piece_from_values({"blocks": blocks})
