"""Render every material and every surround into docs/gallery/light, for docs/rendering.md.

.venv/bin/python tools/gallery_of_light.py [NAME ...]
"""

import sys
from pathlib import Path
from typing import Any

from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.output.pictures import encode
from halvex.core.piece import Piece, piece_from_values
from halvex.studio.coupons import COUPONS

FOLDER = Path(__file__).parents[1] / "docs/gallery/light"
WIDTH, HEIGHT, SAMPLES = 360, 216, 64
SURROUNDS: dict[str, dict[str, Any]] = {
    "studio": {"kind": "studio", "strength": 0},
    "horizon": {"kind": "horizon", "strength": 0},
    "horizon, raised and soft": {"kind": "horizon", "strength": 0, "height": 14, "softness": 14},
    "dusk": {"kind": "dusk", "strength": 1},
    "plain": {"kind": "plain", "strength": -1},
    "quayside": {"kind": "panorama", "strength": 1},
    "quayside, turned": {"kind": "panorama", "strength": 1, "turn": 110},
}
KEY = {"id": "key", "bearing": 125, "elevation": 42, "width": 700, "height": 450}
FILL = {
    "id": "fill",
    "kind": "strip",
    "bearing": 10,
    "elevation": 30,
    "width": 120,
    "height": 900,
    "strength": -2,
}


EDGED = {"profile": "ovolo", "width": 7, "height": 7}
# Rounded all over, so that every direction of a surround is seen.
ROUNDED = {"profile": "ovolo", "to_ridge": True, "height": 30}


def piece(
    surface: dict[str, Any], light: dict[str, Any], *, glowing: bool = False, bevel: dict[str, Any] = EDGED
) -> Piece:
    """Two letters of the regatta before a wall."""
    return piece_from_values(
        {
            "canvas": {"width": WIDTH, "height": HEIGHT},
            "blocks": [
                {
                    "words": "Rg",
                    "size": 190,
                    "place": {"y": 14},
                    "surface": surface,
                    "form": {"depth": 34, "bevel": bevel},
                }
            ],
            "view": {"turn": {"x": -8, "y": -22}},
            "light": light,
            "backdrop": {"ground": "wall", "colour": "#3c4b50" if not glowing else "#6b6f70"},
        }
    )


def pieces() -> dict[str, Piece]:
    """Every picture of the gallery by name: coupons under one key, chromium and glass in every surround."""
    found = {}
    for name, coupon in COUPONS.items():
        glowing = coupon.family == "glow"
        light = {
            "lamps": [{**KEY, "strength": -5 if glowing else 0}, FILL],
            "surround": {"kind": "studio", "strength": -4 if glowing else -0.5},
        }
        found[name] = piece({"face": coupon.material.model_dump(mode="json")}, light, glowing=glowing)
    for name, surround in SURROUNDS.items():
        found[f"surround {name}"] = piece(
            {"face": {"kind": "metal", "metal": "chromium", "roughness": 0.05}},
            {"lamps": [], "surround": surround},
            bevel=ROUNDED,
        )
    return found


def main(wanted: list[str]) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    made = pieces()
    for name in wanted or made:
        picture = render_piece(made[name], FinalOrder(samples=SAMPLES))
        (FOLDER / file_of(name)).write_bytes(encode(picture, "webp"))
        print(name, flush=True)
    (FOLDER / "README.md").write_text(page(made))


def file_of(name: str) -> str:
    return f"{name.replace(',', '').replace(' ', '-')}.webp"


def page(made: dict[str, Piece]) -> str:
    """The gallery as a page: three pictures to a row."""
    lines = [
        "# Every material and surround",
        "",
        "Made by `tools/gallery_of_light.py`. Materials under a key and a fill in a dim "
        "studio; surroundings by chromium.",
        "",
    ]
    names = list(made)
    for row in range(0, len(names), 3):
        some = names[row : row + 3]
        lines += ["| " + " | ".join(some) + " |", "| " + " | ".join("---" for _ in some) + " |"]
        lines += ["| " + " | ".join(f"![{name}]({file_of(name)})" for name in some) + " |", ""]
    return "\n".join(lines).rstrip() + "\n"


if __name__ == "__main__":
    main(sys.argv[1:])
