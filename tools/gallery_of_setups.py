"""Render one word in every lighting setup and four materials into docs/gallery/setups, for docs/light.md.

.venv/bin/python tools/gallery_of_setups.py [SETUP ...]
"""

import sys
from pathlib import Path

from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.output.pictures import encode
from halvex.core.piece import Lettering, Piece
from halvex.core.piece.backdrop import Backdrop
from halvex.core.piece.form import Bevel, Form
from halvex.core.piece.light import FittedSetup, Light
from halvex.core.piece.material import AnyMaterial, Glass, Metal, Plastic, Stone, Surface
from halvex.core.piece.model import Canvas
from halvex.core.piece.resolving import resolve
from halvex.core.piece.view import Turn, View
from halvex.core.scene.setups import SETUPS, lit_by

FOLDER = Path(__file__).parents[1] / "docs/gallery/setups"
WIDTH, HEIGHT, SAMPLES = 320, 180, 24
MATERIALS: dict[str, AnyMaterial] = {
    "gold": Metal(roughness=0.1),
    "plastic": Plastic(colour="#b8382c"),
    "glass": Glass(tint="#bfe6d8", tint_depth=60),
    "stone": Stone(stone="sandstone", colour="#c9b48c", second="#8f7650"),
}


def piece(material: AnyMaterial, setup: str) -> Piece:
    """The word before a wall, in a material and a setup."""
    words = Lettering(
        words="Quay",
        size=96,
        form=Form(depth=26, bevel=Bevel(profile="ovolo", width=6, height=6)),
        surface=Surface(face=material),
    )
    plain = Piece(
        canvas=Canvas(width=WIDTH, height=HEIGHT),
        blocks=(words,),
        view=View(turn=Turn(x=-8, y=-14)),
        light=Light(tone="rich"),
        backdrop=Backdrop(colour="#24414a"),
    )
    light = lit_by(plain.light, FittedSetup.model_validate({"name": setup}), resolve(plain))
    return plain.model_copy(update={"light": light})


def file_of(setup: str, material: str) -> str:
    return f"{setup.replace(' ', '-')}-{material}.webp"


def page() -> str:
    """The gallery as a page: a row for each setup."""
    lines = [
        "# Lighting setups",
        "",
        "Made by `tools/gallery_of_setups.py`: the same word under every setup.",
        "",
        f"| setup | {' | '.join(MATERIALS)} |",
        f"| --- |{' --- |' * len(MATERIALS)}",
    ]
    for name in SETUPS:
        cells = [f"![{name}, {material}]({file_of(name, material)})" for material in MATERIALS]
        lines.append(f"| {name} | {' | '.join(cells)} |")
    return "\n".join([*lines, ""])


def main(wanted: list[str]) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name in wanted or SETUPS:
        for material, made in MATERIALS.items():
            picture = render_piece(piece(made, name), FinalOrder(samples=SAMPLES))
            (FOLDER / file_of(name, material)).write_bytes(encode(picture, "webp"))
        print(name, flush=True)
    (FOLDER / "README.md").write_text(page())


if __name__ == "__main__":
    main(sys.argv[1:])
