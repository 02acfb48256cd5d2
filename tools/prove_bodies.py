"""Make the body of every letter at every width, profile and corner, and count what is not a closed solid.

.venv/bin/python tools/prove_bodies.py [--characters ¥¢] [TYPEFACE or FILE ...]

Printable ASCII and Latin-1 of every shipped typeface, or of those and the font files named; widths
of 1 %, 5 % of the em and to the ridge; every profile; mitred and rounded. The tests take some of
these; here is every one of them. Debian's packages fonts-dejavu, fonts-liberation and fonts-hack
bring many that do not ship.
"""

import itertools
import json
import sys
import tempfile
from multiprocessing import Pool
from pathlib import Path
from typing import Any

import click
import numpy as np

from halvex.core.assets import INDEX, SHIPPED, Assets
from halvex.core.lettering import LetteringError, set_block
from halvex.core.lettering.own_typefaces import read_fonts
from halvex.core.lettering.typefaces import opened
from halvex.core.piece import Lettering
from halvex.core.piece.form import Bevel, Form
from halvex.core.solids import Mesh, SolidError
from halvex.core.solids.bodies import ink_of
from halvex.core.solids.body import outline_body
from halvex.core.solids.profiles import PROFILES

SIZE_PX = 200.0
ALPHABET = [chr(code) for code in (*range(33, 127), *range(0xA1, 0x100))]
SHAPES: tuple[dict[str, Any], ...] = (
    {"width": 0.01 * SIZE_PX},
    {"width": 0.05 * SIZE_PX, "back": True},
    {"to_ridge": True},
)


def fault(mesh: Mesh) -> str:
    """What keeps a mesh from being a closed, two-manifold, outward body, or nothing."""
    starts, ends = (
        mesh.triangles.ravel().astype(np.int64),
        mesh.triangles[:, [1, 2, 0]].ravel().astype(np.int64),
    )
    span = len(mesh.positions)
    forward, backward = np.sort(starts * span + ends), np.sort(ends * span + starts)
    if (forward[1:] == forward[:-1]).any() or (forward != backward).any():
        return "not closed and two-manifold"
    a, b, c = (mesh.positions[mesh.triangles[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    if (np.einsum("ij,ij->i", normal, normal) < (2e-12) ** 2).any():
        return "triangles without area"
    return "" if mesh.volume > 0 else "inside out"


def prove(task: tuple[str, str, Assets]) -> tuple[str, int, list[str]]:
    """(typeface, bodies made, what is wrong with which) of a typeface's characters."""
    typeface, characters, assets = task
    made, wrong = 0, []
    for character in characters:
        if not any(ord(character) in file.coverage for file in opened(assets.typefaces[typeface])):
            continue
        try:
            inks = ink_of(
                set_block(Lettering(words=character, typeface=typeface, size=SIZE_PX), assets=assets), Form()
            )
        except LetteringError:
            continue  # a soft hyphen has no ink
        for ink, corner, profile, shape in itertools.product(inks, ("mitred", "rounded"), PROFILES, SHAPES):
            bevel = Bevel.model_validate({"profile": profile, "corner": corner, **shape})
            made += 1
            try:
                found = fault(outline_body(ink.key, size=SIZE_PX, depth=40, bevel=bevel))
            except SolidError as reason:
                found = str(reason)
            if found:
                wrong.append(f"{typeface} {character} {corner} {profile} {shape}: {found}")
    return typeface, made, wrong


def brought(files: list[Path], folder: Path) -> Assets:
    """The fonts of files, unpacked into a folder of typefaces."""
    listed = []
    for path in files:
        for number, face in enumerate(read_fonts(path.read_bytes())):
            ident = f"{path.stem.lower()}-{number}"
            (folder / ident).mkdir()
            (folder / ident / "font.ttf").write_bytes(face.data)
            listed.append({"id": ident, "name": face.name, "kind": "own", "files": ["font.ttf"]})
    (folder / INDEX).write_text(json.dumps(listed))
    return Assets.of(typefaces=folder, panoramas=folder, pictures=folder)


@click.command()
@click.option(
    "--characters", default="".join(ALPHABET), help="Which to make. [default: printable ASCII and Latin-1]"
)
@click.argument("wanted", nargs=-1)
def main(characters: str, wanted: tuple[str, ...]) -> None:
    """Make the bodies of typefaces, and of font files."""
    total, failures = 0, 0
    files = [Path(name) for name in wanted if Path(name).is_file()]
    with tempfile.TemporaryDirectory() as folder:
        own = brought(files, Path(folder))
        named = [*(name for name in wanted if not Path(name).is_file()), *own.typefaces]
        with Pool() as pool:
            for typeface, made, wrong in pool.imap_unordered(
                prove, [(name, characters, SHIPPED | own) for name in named or SHIPPED.typefaces]
            ):
                total, failures = total + made, failures + len(wrong)
                print(f"{typeface}: {made} bodies, {len(wrong)} wrong", flush=True)
                for line in wrong[:20]:
                    print(f"  {line}", flush=True)
    print(f"{total} bodies, {failures} wrong")
    sys.exit(1 if failures else 0)


if __name__ == "__main__":
    main()
