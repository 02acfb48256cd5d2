"""Child processes in which hostile input is tried, with limits on time and memory.

A nursery is a process that has everything loaded and forks a child for every few inputs: what a child
does to its memory, or to itself, ends with it.
"""

import gc
import json
import os
import resource
import select
import signal
import struct
import subprocess
import sys
import traceback
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import IO, BinaryIO

MOST_S, MOST_MB = 5.0, 1500
# Of address space, beyond what the nursery itself has: a child that wants more is refused memory.
MOST_ADDRESSES = 6_000_000_000
# Waited for at most: a child that sleeps takes no time of the processor. Other work may leave it little.
MOST_WALL_S = 300
# Inputs for each child.
MOST_TRIED = 20
TINY = b'{"canvas": {"width": 64, "height": 36}, "blocks": [{"words": "i", "size": 30}]}'

ROOT = Path(__file__).parents[2]


@dataclass(frozen=True)
class Outcome:
    """What became of an input: taken, refused, or one of the faults; what was said; seconds of the
    processor, and MB at the peak."""

    result: str
    text: str
    seconds: float
    megabytes: int

    @property
    def fault(self) -> bool:
        return self.result not in ("taken", "refused")


class Nursery:
    """Tries inputs one after another. `checked` lets compiled kernels check all bounds."""

    def __init__(self, *, checked: bool = False):
        environment = {
            **os.environ,
            "PYTHONPATH": str(ROOT),
            "PYTHONWARNINGS": "ignore",
            **({"NUMBA_BOUNDSCHECK": "1"} if checked else {}),
        }
        command = [sys.executable, "-m", "tests.fuzzing.nursery"]
        self._process = subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, env=environment, cwd=ROOT
        )

    def try_out(self, kind: str, data: bytes) -> Outcome:
        assert self._process.stdin is not None and self._process.stdout is not None
        _sent(self._process.stdin, kind, data)
        answer = self._process.stdout.readline()
        if not answer:
            raise RuntimeError(f"the nursery itself has ended with {self._process.wait()}")
        return Outcome(**json.loads(answer))

    def close(self) -> None:
        self._process.kill()
        self._process.communicate()


def _whole(stream: BinaryIO, count: int) -> bytes:
    data = stream.read(count)
    if len(data) < count:
        sys.exit(0)
    return data


def _sent(out: IO[bytes], kind: str, data: bytes) -> None:
    name = kind.encode()
    out.write(struct.pack("<II", len(name), len(data)) + name + data)
    out.flush()


def _received(source: BinaryIO) -> tuple[str, bytes]:
    name, length = struct.unpack("<II", _whole(source, 8))
    return _whole(source, name).decode(), _whole(source, length)


def _cpu_seconds() -> float:
    used = resource.getrusage(resource.RUSAGE_SELF)
    return used.ru_utime + used.ru_stime


def _forget_peak() -> None:
    """Let `_peak_mb` begin anew. Where that is not allowed (proc(5)), it counts from the start."""
    with suppress(OSError):
        Path("/proc/self/clear_refs").write_text("5")


def _peak_mb() -> int:
    """The most memory that this process has had."""
    status = Path("/proc/self/status").read_text()
    return int(status.partition("VmHWM:")[2].split()[0]) // 1024


def _child(orders: BinaryIO, said: int) -> None:
    """Try inputs as they come, each answered with a line of JSON, until one is a fault."""
    from tests.fuzzing.targets import refusal_of

    used = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (used + MOST_ADDRESSES, used + MOST_ADDRESSES))
    result = "taken"
    while result in ("taken", "refused"):
        kind, data = _received(orders)
        begun = _cpu_seconds()
        resource.setrlimit(resource.RLIMIT_CPU, (int(begun + MOST_S) + 2, resource.RLIM_INFINITY))
        _forget_peak()
        try:
            text = refusal_of(kind, data)
            result = "refused" if text else "taken"
        except BaseException:
            text, result = traceback.format_exc(), "fault"
        seconds, megabytes = _cpu_seconds() - begun, _peak_mb()
        if result != "fault":
            result = "slow" if seconds > MOST_S else "large" if megabytes > MOST_MB else result
        answer = Outcome(result, text[-3000:], round(seconds, 2), megabytes)
        os.write(said, json.dumps(answer.__dict__).encode() + b"\n")
    os._exit(0)


class _Child:
    """A forked process that tries inputs of one kind one after another."""

    def __init__(self, kind: str) -> None:
        self.kind = kind
        orders, to_child = os.pipe()
        from_child, said = os.pipe()
        self.tried = 0
        self._ended: tuple[int, resource.struct_rusage] | None = None
        self._process = os.fork()
        if self._process == 0:
            os.close(to_child)
            os.close(from_child)
            try:
                _child(os.fdopen(orders, "rb"), said)
            finally:
                os._exit(1)
        os.close(orders)
        os.close(said)
        self._orders, self._answers = os.fdopen(to_child, "wb"), os.fdopen(from_child, "rb")

    def try_out(self, data: bytes) -> Outcome:
        self.tried += 1
        with suppress(BrokenPipeError):
            _sent(self._orders, self.kind, data)
        ready, _, _ = select.select([self._answers], [], [], MOST_WALL_S)
        line = self._answers.readline() if ready else b""
        if line:
            return Outcome(**json.loads(line))
        status, used = self.end()
        seconds = round(used.ru_utime + used.ru_stime, 2)
        if not ready:
            return Outcome("hung", "", seconds, used.ru_maxrss // 1024)
        if not os.WIFSIGNALED(status):
            return Outcome("fault", f"ended with {status}", seconds, used.ru_maxrss // 1024)
        cause = signal.Signals(os.WTERMSIG(status))
        result = "slow" if cause == signal.SIGXCPU else f"killed by {cause.name}"
        return Outcome(result, "", seconds, used.ru_maxrss // 1024)

    def end(self) -> tuple[int, resource.struct_rusage]:
        """(status, what it has used) of the process, which is killed if it has not ended."""
        if self._ended is None:
            os.kill(self._process, signal.SIGKILL)
            with suppress(BrokenPipeError):
                self._orders.close()
            self._answers.close()
            _, status, used = os.wait4(self._process, 0)
            self._ended = status, used
        return self._ended


class _Children:
    """Tries inputs in one child after another. To fork one takes longer than most inputs do."""

    def __init__(self) -> None:
        self._child: _Child | None = None

    def try_out(self, kind: str, data: bytes) -> Outcome:
        if self._child is not None and self._child.kind != kind:
            self._child.end()
            self._child = None
        child = self._child = self._child or _Child(kind)
        outcome = child.try_out(data)
        if not outcome.fault and child.tried < MOST_TRIED:
            return outcome
        child.end()
        self._child = None
        if not outcome.fault or child.tried == 1:
            return outcome
        # Time and memory may have gone to what earlier inputs left behind: they count in a fresh child alone.
        again = self.try_out(kind, data)
        return again if again.fault or outcome.result in ("slow", "large") else outcome


def main() -> None:
    """Take inputs from standard input (lengths of kind and data, kind, data) and answer each with a
    line of JSON."""
    answers = os.fdopen(os.dup(sys.stdout.fileno()), "w")
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())
    from halvex.studio.samples import demo_names, demo_piece
    from tests.fuzzing.targets import TARGETS, opened

    # Loads the kernels, which every child then has. No thread may run when it is forked: those of
    # the pool end here. With bounds checked, compiling those of light would take longer than all
    # else.
    checked = os.environ.get("NUMBA_BOUNDSCHECK") == "1"
    TARGETS["bodies" if checked else "document"](TINY)
    if not checked:
        # Edits are made to pieces that are open: their bodies are there already.
        for name in demo_names():
            opened(demo_piece(name))
    from halvex.core.render.work import shared_pool

    shared_pool().shutdown()
    shared_pool.cache_clear()
    # What is loaded stays: a child whose collector walked it would copy all of it.
    gc.collect()
    gc.freeze()
    children = _Children()
    while True:
        outcome = children.try_out(*_received(sys.stdin.buffer))
        answers.write(json.dumps(outcome.__dict__) + "\n")
        answers.flush()


if __name__ == "__main__":
    main()
