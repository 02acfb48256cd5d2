"""Render every demo piece into docs/gallery, small, for the pages that show forms.

.venv/bin/python tools/gallery.py [NAME ...]
"""

import sys
from pathlib import Path

from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.output.pictures import encode
from halvex.studio.samples import demo_names, demo_piece

FOLDER = Path(__file__).parents[1] / "docs/gallery"
WIDTH = 800
SAMPLES = 48


def main(wanted: list[str]) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name in wanted or demo_names():
        piece = demo_piece(name)
        picture = render_piece(piece, FinalOrder(width=WIDTH, samples=SAMPLES))
        (FOLDER / f"{name}.webp").write_bytes(encode(picture, "webp", ppi=piece.canvas.ppi, depth=8))
        print(name, flush=True)


if __name__ == "__main__":
    main(sys.argv[1:])
