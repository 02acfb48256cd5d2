"""Child processes in which hostile input is tried, with limits on time and memory.

A nursery is a process that has everything loaded and forks a child for each input: what a child
does to its memory, or to itself, ends with it.
"""

import json
import os
import resource
import select
import signal
import struct
import subprocess
import sys
import traceback
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

MOST_S, MOST_MB = 5.0, 1500
# Of address space, beyond what the nursery itself has: a child that wants more is refused memory.
MOST_ADDRESSES = 6_000_000_000
# Waited for at most: a child that sleeps takes no time of the processor. Other work may leave it little.
MOST_WALL_S = 300
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
        name = kind.encode()
        self._process.stdin.write(struct.pack("<II", len(name), len(data)) + name + data)
        self._process.stdin.flush()
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


def _child(kind: str, data: bytes, said: int) -> None:
    """Try an input and end the process: 0 taken, 3 refused, 4 a fault."""
    from tests.fuzzing.targets import refusal_of

    used = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (used + MOST_ADDRESSES, used + MOST_ADDRESSES))
    resource.setrlimit(resource.RLIMIT_CPU, (int(MOST_S) + 2, int(MOST_S) + 4))
    status = 4
    try:
        text = refusal_of(kind, data)
        status = 3 if text else 0
    except BaseException:
        text = traceback.format_exc()[-3000:]
    os.write(said, text.encode()[-3000:])
    os._exit(status)


def _tried(kind: str, data: bytes) -> Outcome:
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(reading)
        _child(kind, data, writing)
    os.close(writing)
    text = b""
    ready, _, _ = select.select([reading], [], [], MOST_WALL_S)
    if not ready:
        os.kill(child, signal.SIGKILL)
    while part := os.read(reading, 65536):
        text += part
    os.close(reading)
    _, status, used = os.wait4(child, 0)
    seconds, megabytes = used.ru_utime + used.ru_stime, used.ru_maxrss // 1024
    if not ready:
        result = "hung"
    elif os.WIFSIGNALED(status):
        cause = signal.Signals(os.WTERMSIG(status))
        result = (
            "slow"
            if cause in (signal.SIGXCPU, signal.SIGKILL) and seconds > MOST_S
            else f"killed by {cause.name}"
        )
    else:
        result = {0: "taken", 3: "refused"}.get(os.WEXITSTATUS(status), "fault")
    if result in ("taken", "refused"):
        result = "slow" if seconds > MOST_S else "large" if megabytes > MOST_MB else result
    return Outcome(result, text.decode(errors="replace"), round(seconds, 2), megabytes)


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
    while True:
        name, length = struct.unpack("<II", _whole(sys.stdin.buffer, 8))
        kind, data = _whole(sys.stdin.buffer, name).decode(), _whole(sys.stdin.buffer, length)
        answers.write(json.dumps(_tried(kind, data).__dict__) + "\n")
        answers.flush()


if __name__ == "__main__":
    main()
