"""Try hostile input of every kind, each in a child process with limits; keep what breaks something,
shrunk, in tests/corpus.

.venv/bin/python tools/fuzz.py [--minutes 10] [--inputs N] [--kind KIND ...] [--seed N]
.venv/bin/python tools/fuzz.py FILE ...     inputs that were kept, each tried again

Exit status 1 if anything broke.
"""

import hashlib
import subprocess
import sys
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import click
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis.errors import FlakyFailure

sys.path.insert(0, str(Path(__file__).parents[1]))
from tests.fuzzing.nursery import Nursery, Outcome
from tests.fuzzing.strategies import of_kind

CORPUS = Path(__file__).parents[1] / "tests/corpus"
# What was slow beside other work, to be tried again without it.
SLOW = Path(__file__).parents[1] / "build/slow"
# Documents reach the most code.
SHARES = {
    "document": 8,
    "edit": 3,
    "svg": 4,
    "font": 2,
    "panorama": 1,
    "picture": 2,
    "bundle": 1,
    "message": 1,
}
BATCH = 40
PROGRESS_EVERY = 1000
WORKERS = 3
ENDINGS = {"svg": "svg", "font": "ttf", "panorama": "hdr", "picture": "png", "bundle": "halvex"}


class Run:
    """Counts what was tried until time or inputs are used up."""

    def __init__(self, ends: float, inputs: int, patient: bool):
        self.ends, self.left, self.patient = ends, inputs, patient
        self.results: Counter[str] = Counter()
        self.slowest: dict[str, float] = {}
        self.largest: dict[str, int] = {}
        self.found: list[tuple[str, Path, Outcome]] = []

    @property
    def over(self) -> bool:
        return time.monotonic() > self.ends or self.left <= 0

    def count(self, kind: str, outcome: Outcome) -> None:
        self.left -= 1
        if self.left % PROGRESS_EVERY == 0:
            print(f"{sum(self.results.values()) + 1} inputs, {len(self.found)} broke something", flush=True)
        self.results[f"{kind} {outcome.result}"] += 1
        self.slowest[kind] = max(self.slowest.get(kind, 0.0), outcome.seconds)
        self.largest[kind] = max(self.largest.get(kind, 0), outcome.megabytes)

    def keep(self, kind: str, data: bytes, outcome: Outcome) -> None:
        path = write(CORPUS, kind, data)
        self.found.append((kind, path, outcome))
        print(
            f"\n{path.name}: {outcome.result}, {outcome.seconds} s, {outcome.megabytes} "
            f"MB\n{outcome.text[-1500:]}",
            flush=True,
        )


def write(folder: Path, kind: str, data: bytes) -> Path:
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{kind}-{hashlib.sha256(data).hexdigest()[:12]}.{ENDINGS.get(kind, 'json')}"
    path.write_bytes(data)
    return path


def try_again(files: tuple[Path, ...]) -> bool:
    """Try inputs that were kept, by their names; whether any breaks something."""
    nursery, broke = Nursery(), False
    for path in files:
        outcome = nursery.try_out(path.name.partition("-")[0], path.read_bytes())
        print(f"{path.name}: {outcome.result}, {outcome.seconds:.1f} s, {outcome.megabytes} MB", flush=True)
        broke |= outcome.fault
    nursery.close()
    return broke


def try_batch(run: Run, nursery: Nursery, kind: str, number: int) -> None:
    """A batch of inputs of one kind; the first that breaks something is shrunk and kept."""
    worst: list[tuple[bytes, Outcome]] = []

    @seed(number)
    @settings(
        max_examples=BATCH,
        deadline=None,
        database=None,
        phases=[Phase.generate, Phase.shrink],
        suppress_health_check=list(HealthCheck),
    )
    @given(of_kind(kind))
    def broken_by(data: bytes) -> None:
        outcome = nursery.try_out(kind, data)
        if outcome.result == "slow" and not run.patient:
            # Other work may have slowed it down: what is slow is slow twice.
            outcome = nursery.try_out(kind, data)
        run.count(kind, outcome)
        if outcome.result == "slow" and run.patient:
            write(SLOW, kind, data)
        if outcome.fault and not (run.patient and outcome.result == "slow"):
            worst[:] = [(data, outcome)]
            raise AssertionError

    try:
        broken_by()
    except (AssertionError, FlakyFailure):
        if not worst:
            raise
        run.keep(kind, *worst[0])


def work(run: Run, kinds: list[str], first: int) -> None:
    nursery = Nursery()
    number = first
    try:
        while not run.over:
            try_batch(run, nursery, kinds[number // WORKERS % len(kinds)], number)
            number += WORKERS
    finally:
        nursery.close()


@click.command()
@click.argument("files", nargs=-1, type=click.Path(exists=True, dir_okay=False, path_type=Path))
@click.option("--minutes", type=float, default=10.0, show_default=True)
@click.option("--inputs", type=int, default=10**9, help="Stop after so many.")
@click.option("--kind", "only", type=click.Choice(list(SHARES)), multiple=True)
@click.option(
    "--patient",
    is_flag=True,
    help="Keep what is slow in build/slow, but do not call it broken: the machine has other work.",
)
@click.option(
    "--seed",
    "first",
    type=int,
    default=None,
    help="The same seed tries the same inputs. [default: another every time]",
)
def main(
    files: tuple[Path, ...],
    minutes: float,
    inputs: int,
    only: tuple[str, ...],
    first: int | None,
    patient: bool,
) -> None:
    """Try hostile input of every kind, or FILES again."""
    if files:
        sys.exit(1 if try_again(files) else 0)
    kinds = [kind for kind, share in SHARES.items() for _ in range(share) if not only or kind in only]
    begin = time.time_ns() // 1_000_000 % 2**31 if first is None else first
    print(f"seed {begin}", flush=True)
    if not patient:
        # Kernels that are compiled within the nurseries would count as memory of the inputs.
        subprocess.run([sys.executable, "-m", "halvex.cli", "compile"], check=True)
    run = Run(time.monotonic() + 60 * minutes, inputs, patient)
    with ThreadPoolExecutor(WORKERS) as pool:
        for future in [pool.submit(work, run, kinds, begin + number) for number in range(WORKERS)]:
            future.result()
    total = sum(run.results.values())
    print(f"{total} inputs: " + ", ".join(f"{count} {name}" for name, count in sorted(run.results.items())))
    for kind in run.slowest:
        print(f"{kind}: at most {run.slowest[kind]:.1f} s, {run.largest[kind]} MB")
    print(f"{len(run.found)} broke something")
    sys.exit(1 if run.found else 0)


if __name__ == "__main__":
    main()
