"""Outlines to bodies: the roof against CGAL's skeleton, whole bodies, and phrases as they are typed
and changed."""

import json
import statistics
import subprocess
import sys
import time
from collections.abc import Callable

from benchmarks.result import Result
from halvex.core.assets import SHIPPED
from halvex.core.lettering import Outline, set_block
from halvex.core.lettering.outlines import glyph_outline
from halvex.core.piece.form import Bevel, Form
from halvex.core.piece.lettering import Lettering
from halvex.core.solids import areas, body, inks, slope
from halvex.core.solids.bodies import block_bodies
from halvex.core.solids.roof import OutlineKey, roof_or_fault, roof_over

LETTERS = "HamburgefonstivQRS&8"
PHRASE = "Port Sorrel Lantern Regatta by Night 1892"
LEAST_POINTS = 100
FORM = Form(bevel=Bevel(profile="ovolo"))

# CGAL runs in a process of its own: it can crash on hard input.
CGAL_TIMES = """
import json, sys, time
from compas_cgal.straight_skeleton_2 import interior_straight_skeleton, interior_straight_skeleton_with_holes
times = []
for rings in json.load(sys.stdin):
    outer, *holes = [[[x, y, 0] for x, y in ring] for ring in rings]
    started = time.perf_counter()
    interior_straight_skeleton_with_holes(outer, holes) if holes else interior_straight_skeleton(outer)
    times.append(time.perf_counter() - started)
print(json.dumps(times))
"""


def forget() -> None:
    """Empty every cache between words and bodies."""
    for cached in (
        glyph_outline,
        roof_or_fault,
        slope.inset_slope,
        slope.outset_slope,
        slope.surrounding_roof,
        body._outline_body,
        areas._joined,
        areas._offset,
        inks.outline_box,
        inks._overlap_em,
        inks._polygon,
    ):
        cached.cache_clear()


def _outlines() -> list[Outline]:
    letters = [
        letter.outline
        for face in SHIPPED.typefaces
        for letter in set_block(Lettering(words=LETTERS, typeface=face)).letters
    ]
    return [outline for outline in {outline.digest: outline for outline in letters}.values()]


def _simple(outline: Outline) -> bool:
    """One outer ring, which stands first: what CGAL's binding takes."""
    from halvex.core.lettering.outlines import signed_area

    return signed_area(outline.rings[0]) > 0 and all(signed_area(ring) < 0 for ring in outline.rings[1:])


def _seconds(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def roof() -> list[Result]:
    """The roof of glyphs of 100 points and more against CGAL's straight skeleton of the same
    outlines, glyph by glyph."""
    outlines = [o for o in _outlines() if _simple(o) and sum(map(len, o.rings)) >= LEAST_POINTS]
    roof_over(outlines[0].rings)
    ours = [_seconds(lambda o=o: roof_over(o.rings)) for o in outlines]
    question = json.dumps([[ring.tolist() for ring in outline.rings] for outline in outlines])
    answer = subprocess.run(
        [sys.executable, "-c", CGAL_TIMES], input=question, capture_output=True, text=True
    )
    name, unit, goal = f"roof, {len(outlines)} glyphs", "ms median", "ratio ≤ 0.1"
    ms = round(statistics.median(ours) * 1000, 2)
    if answer.returncode:
        return [
            Result(
                name,
                ms,
                unit,
                f"CGAL: {'not installed' if 'ModuleNotFound' in answer.stderr else 'failed'}",
                None,
                None,
                goal,
                False,
            )
        ]
    theirs = json.loads(answer.stdout)
    ratio = statistics.median(a / b for a, b in zip(ours, theirs, strict=True))
    return [
        Result(
            name,
            ms,
            unit,
            "CGAL straight skeleton",
            round(statistics.median(theirs) * 1000, 2),
            round(ratio, 3),
            goal,
            ratio <= 0.1,
        )
    ]


def whole_body() -> list[Result]:
    """A bevelled body of a glyph never seen before, its roof included."""
    outlines = _outlines()
    forget()
    block_bodies(set_block(Lettering(words="a")), FORM)

    def make(outline: Outline) -> object:
        return body.outline_body(OutlineKey(outline), size=200, depth=60, bevel=FORM.bevel)

    ms = statistics.median(_seconds(lambda o=o: make(o)) for o in outlines) * 1000
    return [Result("body, new glyph", round(ms, 2), "ms median", None, None, None, "≤ 6 ms", ms <= 6)]


def phrase() -> list[Result]:
    """A phrase of 40 letters from words to bodies, the first time and when one letter changes; and
    its triangles."""
    block_bodies(set_block(Lettering(words="a")), FORM)
    forget()
    first = _seconds(lambda: block_bodies(set_block(Lettering(words=PHRASE, size=60)), FORM)) * 1000
    changed = []
    for number, letter in enumerate("zxkvwqjyEDFGJK"):
        words = PHRASE[: 3 + number] + letter + PHRASE[4 + number :]
        changed.append(
            _seconds(lambda words=words: block_bodies(set_block(Lettering(words=words, size=60)), FORM))
            * 1000
        )
    after = statistics.median(changed)
    triangles = [
        sum(
            len(b.mesh.triangles)
            for b in block_bodies(set_block(Lettering(words=PHRASE, size=60), px_scale=s), FORM, px_scale=s)
        )
        for s in (1, 4)
    ]
    return [
        Result("phrase-first, 40 letters", round(first, 1), "ms", None, None, None, "≤ 150 ms", first <= 150),
        Result(
            "phrase-next, 1 changed", round(after, 1), "ms median", None, None, None, "≤ 10 ms", after <= 10
        ),
        Result(
            "triangles, 4× the size",
            triangles[1] / 1000,
            "thousand",
            "at 1×",
            triangles[0] / 1000,
            round(triangles[1] / triangles[0], 2),
            "reported",
            True,
        ),
    ]


def growth_letters() -> list[Result]:
    """Time for 400 letters against 40, and for a depth of 5000 px against 50: linear in letters,
    none for depth."""

    def spent(count: int, depth: float) -> float:
        words = "\n".join((PHRASE * 10)[k : k + 40] for k in range(0, count, 40))
        best = 1e9
        for _ in range(3):
            forget()
            best = min(
                best,
                _seconds(
                    lambda: block_bodies(
                        set_block(Lettering(words=words, size=60)), FORM.model_copy(update={"depth": depth})
                    )
                ),
            )
        return best

    few, many, deep = spent(40, 50), spent(400, 50), spent(40, 5000)
    return [
        Result(
            "growth-letters, ×10",
            round(many * 1000, 1),
            "ms",
            "40 letters",
            round(few * 1000, 1),
            round(many / few, 2),
            "ratio ≤ 10",
            many / few <= 10,
        ),
        Result(
            "growth-depth, ×100",
            round(deep * 1000, 1),
            "ms",
            "50 px deep",
            round(few * 1000, 1),
            round(deep / few, 2),
            "ratio ≤ 1.25",
            deep / few <= 1.25,
        ),
    ]
