"""Try a running Halvex hard: kills, races, full disks, silent windows, exports under edits. Prints
a table at the end.

.venv/bin/python tools/soak.py [--kills 200] [--only TRIAL ...]

A disk is filled on a small file system in memory, which only root can mount; without that the trial
is reported as skipped. Exit status 1 if anything was lost.
"""

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import click
from simple_websocket import Client, ConnectionClosed

sys.path.insert(0, str(Path(__file__).parents[1]))
from tests.browser.workshop import Server

DOCUMENT = {"canvas": {"width": 160, "height": 90}, "blocks": [{"words": "i", "size": 60}]}
TINY_DISK = "24m"
PATIENCE_S = 120
# Edits of a burst, and how long a server lives before it is killed.
BURST, LIFE_S = 400, (0.05, 1.5)


@dataclass
class Row:
    """What a trial did, how often, and what went wrong."""

    trial: str
    tries: str
    lost: int
    note: str


class Hand:
    """A window that edits one piece and remembers what was acknowledged."""

    def __init__(self, server: Server, ident: str):
        self.client = Client.connect(f"ws://127.0.0.1:{server.port}/live")
        self.seq = 0
        self.acknowledged = -1.0
        self._send({"type": "open", "piece": ident, "width": 64, "height": 36})
        self._answer()

    def edit(self, number: float) -> bool:
        """Send one edit and wait for its answer; whether it was taken."""
        self._send({"type": "edit", "edits": [{"op": "replace", "path": "/view/turn/x", "value": number}]})
        if self._answer()["type"] != "state":
            return False
        self.acknowledged = number
        return True

    def _send(self, message: dict[str, Any]) -> None:
        self.seq += 1
        self.client.send(json.dumps({**message, "seq": self.seq}))

    def _answer(self) -> dict[str, Any]:
        deadline = time.monotonic() + PATIENCE_S
        while time.monotonic() < deadline:
            message = self.client.receive(timeout=PATIENCE_S)
            if (
                isinstance(message, str)
                and (values := json.loads(message)).get("seq") == self.seq
                and values["type"] != "problem"
            ):
                return dict(values)
        raise TimeoutError("no answer")


def ask(server: Server, method: str, path: str, body: object = None) -> dict[str, Any]:
    request = urllib.request.Request(
        f"{server.address}/api{path}",
        None if body is None else json.dumps(body).encode(),
        {"Content-Type": "application/json"},
        method=method,
    )
    with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
        return dict(json.load(answer))


def new_piece(server: Server) -> str:
    return str(ask(server, "POST", "/pieces", {"document": DOCUMENT})["id"])


def turn_of(server: Server, ident: str) -> float:
    return float(server.get(f"/api/pieces/{ident}")["document"]["view"]["turn"]["x"])


def children(process: int) -> list[int]:
    """Processes below one, the nearest first."""
    found = []
    for task in Path(f"/proc/{process}/task").glob("*/children"):
        with suppress(OSError):
            found += [int(word) for word in task.read_text().split()]
    return [*found, *(below for child in found for below in children(child))]


def kills(folder: Path, count: int) -> Row:
    """Kill the server, or its worker, while edits arrive; whatever was acknowledged must be there
    afterwards."""
    server, dice = Server(folder), random.Random(1)
    server.start()
    ident = new_piece(server)
    lost = edits = 0
    for number in range(count):
        hand = Hand(server, ident)

        def burst(hand: Hand = hand, begin: int = number) -> None:
            with suppress(ConnectionClosed, OSError, TimeoutError):
                for step in range(1, BURST):
                    if not hand.edit(begin + step / 1000):
                        return

        thread = threading.Thread(target=burst)
        thread.start()
        time.sleep(dice.uniform(*LIFE_S))
        assert server.process is not None
        if dice.random() < 0.5:
            server.kill()
        else:
            # The worker alone; its master starts another. Then the master too, so that the folder is free.
            for child in children(server.process.pid)[:1]:
                with suppress(ProcessLookupError):
                    os.kill(child, signal.SIGKILL)
            time.sleep(0.2)
            server.kill()
        thread.join(PATIENCE_S)
        server.start()
        stored = turn_of(server, ident)
        # One edit more than was acknowledged may have been stored; never less.
        if hand.acknowledged >= 0:
            edits += 1
            lost += stored < hand.acknowledged - 1e-9
    server.kill()
    return Row("kills", f"{count} kills, {edits} with edits acknowledged", lost, "acknowledged edits missing")


def races(folder: Path, count: int) -> Row:
    """Two windows edit, a third undoes over HTTP, exports write: every acknowledged edit is a state
    of the history."""
    server = Server(folder)
    server.start()
    ident = new_piece(server)
    acknowledged: set[float] = set()
    refused: list[str] = []

    def edits(begin: int) -> None:
        hand = Hand(server, ident)
        for number in range(begin, begin + count):
            if hand.edit(number):
                acknowledged.add(number)
            else:
                refused.append("edit")
        hand.client.close()

    def undoing() -> None:
        for number in range(count // 4):
            with suppress(urllib.error.HTTPError):
                ask(server, "POST", f"/pieces/{ident}/{'redo' if number % 2 else 'undo'}", {})

    def exporting() -> None:
        for _ in range(8):
            ask(server, "POST", f"/pieces/{ident}/exports", {"samples": 4, "width": 320})

    threads = [
        threading.Thread(target=work) for work in (lambda: edits(0), lambda: edits(1000), undoing, exporting)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    import sqlite3

    with sqlite3.connect(folder / "halvex.sqlite") as database:
        rows = database.execute("SELECT document FROM revision WHERE piece_id = ?", (ident,)).fetchall()
    stored = {json.loads(document)["view"]["turn"]["x"] for (document,) in rows}
    server.kill()
    return Row(
        "races",
        f"{2 * count} edits, {count // 4} undos, 8 exports",
        len(acknowledged - stored) + len(refused),
        "edits missing or refused",
    )


def has_status(server: Server, export: str, *wanted: str) -> bool:
    """Whether an export has come to one of these."""
    return server.get(f"/api/exports/{export}")["status"] in wanted


def exporter_killed(folder: Path, count: int) -> Row:
    """Kill the process that makes exports: the export says so, and the next one is made."""
    server = Server(folder)
    server.start()
    ident = new_piece(server)
    wrong = 0
    for _ in range(count):
        export = ask(server, "POST", f"/pieces/{ident}/exports", {"width": 1920, "noise": 0.002})["id"]
        wait(partial(has_status, server, export, "rendering"))
        assert server.process is not None
        for child in children(server.process.pid):
            if b"export_worker" in Path(f"/proc/{child}/cmdline").read_bytes():
                os.kill(child, signal.SIGKILL)
        wait(partial(has_status, server, export, "failed"))
        after = ask(server, "POST", f"/pieces/{ident}/exports", {"width": 64, "quality": "draft"})["id"]
        wait(partial(has_status, server, after, "done", "failed"))
        wrong += server.get(f"/api/exports/{after}")["status"] != "done"
    server.kill()
    return Row("exporter killed", f"{count} times", wrong, "exports after it that failed")


def wait(condition: Callable[[], bool]) -> None:
    deadline = time.monotonic() + PATIENCE_S
    while not condition():
        if time.monotonic() > deadline:
            raise TimeoutError("it never came to that")
        time.sleep(0.05)


def full_disk(folder: Path) -> Row:
    """Fill the disk: an edit and an export say so, nothing stored is lost, and both go on when
    there is room."""
    disk = folder / "disk"
    disk.mkdir()
    if subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={TINY_DISK}", "tmpfs", str(disk)], capture_output=True
    ).returncode:
        return Row("full disk", "skipped", 0, "only root can mount a small disk")
    try:
        server = Server(disk / "data")
        server.start()
        ident = new_piece(server)
        hand = Hand(server, ident)
        assert hand.edit(1)
        filler = disk / "filler"
        with suppress(OSError), filler.open("wb") as file:
            while True:
                file.write(b"x" * 65536)
        faults = 0
        refusal = ""
        for number in range(2, 400):
            hand._send(
                {
                    "type": "edit",
                    "edits": [{"op": "replace", "path": "/name", "value": f"{number} {'x' * 100}"}],
                }
            )
            answer = hand._answer()
            if answer["type"] == "error":
                refusal = answer["problem"]["detail"]
                break
        faults += "full" not in refusal
        with suppress(urllib.error.HTTPError):
            export = ask(server, "POST", f"/pieces/{ident}/exports", {"width": 1600, "samples": 1})["id"]
            time.sleep(3)
        faults += any((disk / "data/exports").glob("*.part"))
        filler.unlink()
        faults += not hand.edit(7)
        export = ask(server, "POST", f"/pieces/{ident}/exports", {"width": 320, "samples": 1})["id"]
        wait(lambda: server.get(f"/api/exports/{export}")["status"] == "done")
        faults += turn_of(server, ident) != 7
        server.kill()
        return Row("full disk", "once", faults, f"said: {refusal}")
    finally:
        subprocess.run(["umount", "-l", str(disk)], capture_output=True)


def silent_windows(folder: Path, count: int) -> Row:
    """Windows that open a piece and never read: another window's edits must not wait for them."""
    server = Server(folder)
    server.start()
    ident = new_piece(server)
    silent = []
    for _ in range(16):
        client = Client.connect(f"ws://127.0.0.1:{server.port}/live")
        client.send(json.dumps({"type": "open", "piece": ident, "width": 1600, "height": 900, "seq": 1}))
        # Nothing is read from now on.
        client.connected = False
        silent.append(client)
    hand = Hand(server, ident)
    slowest, started = 0.0, time.monotonic()
    for number in range(count):
        before = time.monotonic()
        hand.edit(number)
        slowest = max(slowest, time.monotonic() - before)
    server.kill()
    took = time.monotonic() - started
    return Row(
        "silent windows",
        f"16 windows, {count} edits",
        int(slowest > 10),
        f"{count / took:.0f} edits a second, the slowest {slowest:.1f} s",
    )


@click.command()
@click.option("--kills", "kill_count", default=200, show_default=True)
@click.option("--only", multiple=True)
def main(kill_count: int, only: tuple[str, ...]) -> None:
    """Try a running Halvex hard."""
    trials: dict[str, Callable[[Path], Row]] = {
        "kills": lambda folder: kills(folder, kill_count),
        "races": lambda folder: races(folder, 400),
        "exporter": lambda folder: exporter_killed(folder, 5),
        "disk": full_disk,
        "silent": lambda folder: silent_windows(folder, 200),
    }
    rows = []
    for name, trial in trials.items():
        if only and name not in only:
            continue
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
            rows.append(trial(Path(folder)))
        row = rows[-1]
        print(f"{row.trial:18} {row.tries:42} {row.lost:5}  {row.note}", flush=True)
    sys.exit(1 if any(row.lost for row in rows) else 0)


if __name__ == "__main__":
    main()
