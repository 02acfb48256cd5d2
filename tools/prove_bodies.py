"""Make the body of every letter at every width, profile and corner, and count what is not a closed solid.

.venv/bin/python tools/prove_bodies.py [TYPEFACE ...]

Printable ASCII and Latin-1 of every shipped typeface; widths of 1 %, 5 % of the em and to the ridge; every
profile; mitred and rounded. The tests take these in turn; here is every one of them.
"""

import itertools
import sys
from multiprocessing import Pool

import numpy as np

from halvex.core.lettering import LetteringError, set_block, typefaces
from halvex.core.lettering.typefaces import font_files
from halvex.core.piece import Lettering
from halvex.core.piece.form import Bevel, Form
from halvex.core.solids import Mesh, SolidError
from halvex.core.solids.bodies import ink_of
from halvex.core.solids.body import outline_body
from halvex.core.solids.profiles import PROFILES

SIZE_PX = 200.0
ALPHABET = [chr(code) for code in (*range(33, 127), *range(0xA1, 0x100))]
SHAPES = ({"width": 0.01 * SIZE_PX}, {"width": 0.05 * SIZE_PX, "back": True}, {"to_ridge": True})


def fault(mesh: Mesh) -> str:
    """What keeps a mesh from being a closed, two-manifold, outward body, or nothing."""
    starts, ends = mesh.triangles.ravel().astype(np.int64), mesh.triangles[:, [1, 2, 0]].ravel().astype(np.int64)
    span = len(mesh.positions)
    forward, backward = np.sort(starts * span + ends), np.sort(ends * span + starts)
    if (forward[1:] == forward[:-1]).any() or (forward != backward).any():
        return "not closed and two-manifold"
    a, b, c = (mesh.positions[mesh.triangles[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    if (np.einsum("ij,ij->i", normal, normal) < (2e-12) ** 2).any():
        return "triangles without area"
    return "" if mesh.volume > 0 else "inside out"


def prove(typeface: str) -> tuple[str, int, list[str]]:
    """(typeface, bodies made, what is wrong with which)."""
    made, wrong = 0, []
    for character in ALPHABET:
        if not any(ord(character) in file.coverage for file in font_files(typeface)):
            continue
        try:
            inks = ink_of(set_block(Lettering(words=character, typeface=typeface, size=SIZE_PX)), Form())
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


def main(wanted: list[str]) -> None:
    total, failures = 0, 0
    with Pool() as pool:
        for typeface, made, wrong in pool.imap_unordered(prove, wanted or list(typefaces())):
            total, failures = total + made, failures + len(wrong)
            print(f"{typeface}: {made} bodies, {len(wrong)} wrong", flush=True)
            for line in wrong[:20]:
                print(f"  {line}", flush=True)
    print(f"{total} bodies, {failures} wrong")
    sys.exit(1 if failures else 0)


if __name__ == "__main__":
    main(sys.argv[1:])
