"""Run benchmarks by name and print them as a table or as JSON.

A benchmark is a function that returns Results; a peer that is not installed is said, not skipped.
"""

import json
import platform
import sys
from collections.abc import Callable
from dataclasses import asdict

from benchmarks import denoised, effects, hand, live, memory, pictures, render, solids, sources
from benchmarks.result import Result
from halvex.core.allocation import collect_rarely
from halvex.core.render.work import thread_count

Benchmark = Callable[[], list[Result]]


def run(names: list[str], *, as_json: bool) -> None:
    """Run the named benchmarks, or all. Raises ValueError for an unknown name."""
    known: dict[str, Benchmark] = {
        "draft-edit": live.draft_edit,
        "word-edit": live.word_edit,
        "draft": render.draft,
        "place-edit": render.place_edit,
        "draft-browser": live.draft_browser,
        "hand-move": hand.hand_move,
        "hand-word": hand.hand_word,
        "many": hand.many,
        "typefaces": hand.typefaces,
        "clean-540": pictures.clean_540,
        "clean-1080": pictures.clean_1080,
        "final-720": pictures.final_720,
        "clean-llvm": denoised.clean_llvm,
        "sourced": sources.sourced,
        "many-pictures": sources.many_pictures,
        "photograph": live.photograph,
        "effects": effects.effects,
        "rays-embree": render.rays_embree,
        "paths-llvm": render.paths_llvm,
        "equal-error": render.equal_error,
        "growth-letters-render": render.growth_letters_render,
        "growth-lamps": render.growth_lamps,
        "memory-4k": render.memory_4k,
        "memory-drag": memory.memory_drag,
        "tree": render.tree,
        "start": live.start,
        "roof": solids.roof,
        "body": solids.whole_body,
        "phrase": solids.phrase,
        "growth-letters": solids.growth_letters,
    }
    for name in names:
        if name not in known:
            raise ValueError(f"there is no benchmark “{name}”; take of {', '.join(known)}")
    # As in a server.
    collect_rarely()
    if as_json:
        results = [asdict(result) for name in names or known for result in known[name]()]
        # Some values are numpy's.
        print(json.dumps({"machine": machine(), "results": results}, indent=1, default=lambda n: n.item()))
        return
    print(machine())
    print(f"{'benchmark':34} {'ours':>10} {'unit':28} {'theirs':>10} {'ratio':>7}  goal", flush=True)
    for name in names or known:
        for result in known[name]():
            print(_row(result), flush=True)


def _row(r: Result) -> str:
    theirs = f"{r.theirs:.2f}" if r.theirs is not None else "-"
    ratio = f"{r.ratio:.2f}" if r.ratio is not None else "-"
    peer = f" ({r.peer})" if r.peer else ""
    met = "met" if r.met else "missed"
    return f"{r.name:34} {r.ours:10.2f} {r.unit:28} {theirs:>10} {ratio:>7}  {r.goal}{peer} {met}"


def machine() -> str:
    return (
        f"{platform.machine()}, {thread_count()} threads, Python {platform.python_version()}, {sys.platform}"
    )
