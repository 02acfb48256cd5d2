"""Render a coupon of every pattern into docs/gallery/patterns, for docs/surface.md.

.venv/bin/python tools/gallery_of_patterns.py
"""

from pathlib import Path
from typing import Any

from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.output.pictures import encode
from halvex.core.piece.pattern import PATTERN_NAMES
from halvex.core.piece.reading import piece_from_values

FOLDER = Path(__file__).parents[1] / "docs/gallery/patterns"
WIDTH, SAMPLES = 320, 64
# What shows each at its best; the others are as they start.
SHOWN: dict[str, dict[str, Any]] = {
    "stripes": {"bearing": 45},
    "dots": {"fill": 60},
    "stars": {"fill": 85, "turn_jitter": 100, "size_jitter": 50, "place_jitter": 50},
    "bubbles": {"fill": 60, "paints": ("#16323c", "#8fd8e0", "#3f9fb8", "#d8f4f0")},
    "scales": {"fill": 90, "paints": ("#123a33", "#3aa08c"), "tone_jitter": 40, "hue_jitter": 25},
    "bricks": {"fill": 88, "paints": ("#d8cfc0", "#a8482e"), "tone_jitter": 35},
    "tiles": {"fill": 90, "paints": ("#e8e4da", "#2f6f86"), "tone_jitter": 30, "hue_jitter": 20},
    "terrazzo": {"fill": 80, "paints": ("#efe9dc", "#7a4b3a", "#c9a15a", "#4c5d58")},
    "crystals": {"paints": ("#1a2a44", "#4f8fd0", "#2f5fb0"), "hue_jitter": 25, "tone_jitter": 40},
    "cloud": {"paints": ("#2f6fb8", "#f4f6f8"), "size": 60},
}


def coupon(name: str) -> dict[str, Any]:
    """A plate with a pattern: crystals in silver, all others in plastic."""
    options = dict(SHOWN.get(name, {}))
    if "paints" in options:
        options["paints"] = [{"colour": colour} for colour in options["paints"]]
    source = {"base": "#ffffff", "layers": [{"kind": "pattern", "pattern": name, "size": 26, **options}]}
    face: dict[str, Any] = {"kind": "plastic", "colour": source}
    if name == "crystals":
        face = {"kind": "metal", "metal": "silver", "roughness": 0.12, "tint": source}
    return {
        "canvas": {"width": 240, "height": 180},
        "view": {"turn": {"x": -16, "y": 18}},
        "backdrop": {"ground": "wall", "colour": "#c8c2b6"},
        "blocks": [
            {
                "kind": "shape",
                "shape": "rectangle",
                "width": 180,
                "height": 130,
                "corner_radius": 18,
                "form": {"depth": 40, "bevel": {"profile": "ovolo", "width": 20, "height": 20}},
                "surface": {"face": face},
            }
        ],
    }


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name in PATTERN_NAMES:
        picture = render_piece(piece_from_values(coupon(name)), FinalOrder(width=WIDTH, samples=SAMPLES))
        (FOLDER / f"{name}.webp").write_bytes(encode(picture, "webp", depth=8))
        print(name, flush=True)


if __name__ == "__main__":
    main()
