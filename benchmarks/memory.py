"""What a long day leaves in memory: a number dragged through thousands of values, each of which
makes new bodies."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from simple_websocket import Client

from benchmarks.live import create, server
from benchmarks.result import Result

VALUES = 2000
PHRASE = {
    "canvas": {"width": 640, "height": 360},
    "blocks": [{"words": "Port\nSorrel", "size": 120}],
    "view": {"turn": {"y": -15}},
}
TUBES = {**PHRASE, "blocks": [{"words": "Port\nSorrel", "size": 120, "form": {"kind": "tube"}}]}
MB = 1e6

Edits = Callable[[int], list[dict[str, Any]]]


def resident_mb(port: str) -> float:
    """MB that the server listening on a port, and all its processes, hold."""
    total = 0
    for status in Path("/proc").glob("[0-9]*/status"):
        try:
            command = status.with_name("cmdline").read_bytes().split(b"\0")
            if port.encode() in command:
                total += (
                    int(
                        next(
                            line for line in status.read_text().splitlines() if line.startswith("VmRSS")
                        ).split()[1]
                    )
                    * 1024
                )
        except (OSError, StopIteration):
            continue
    return total / MB


def _drag(client: Client, first: int, make: Edits) -> int:
    """Send VALUES edits of one gesture, each after the state that answers the one before."""
    for number in range(VALUES):
        seq = first + number
        client.send(
            json.dumps(
                {
                    "type": "edit",
                    "seq": seq,
                    "edits": make(number),
                    "gesture": f"g{first}",
                    "moving": number < VALUES - 1,
                }
            )
        )
        while True:
            message = client.receive(timeout=120)
            if isinstance(message, str) and json.loads(message)["seq"] >= seq:
                break
    return first + VALUES


def _replace(path: str, begin: float, step: float) -> Edits:
    return lambda number: [{"op": "replace", "path": path, "value": round(begin + step * number, 4)}]


DRAGS: tuple[tuple[dict[str, Any], Edits], ...] = (
    (PHRASE, _replace("/blocks/0/form/depth", 10, 0.05)),
    (PHRASE, _replace("/blocks/0/size", 60, 0.06)),
    (PHRASE, _replace("/blocks/0/form/bevel/width", 1, 0.005)),
    (TUBES, _replace("/blocks/0/form/tube/radius", 2, 0.004)),
)


def memory_drag() -> list[Result]:
    """MB that dragging depth, size, bevel width and tube radius through 2,000 values each leaves
    over the start."""
    with server() as (address, _):
        port = address.rsplit(":", 1)[1]
        client = Client.connect(f"ws://{address}/live")
        seq = 1
        start = 0.0
        for document, make in DRAGS:
            client.send(
                json.dumps(
                    {
                        "type": "open",
                        "piece": create(address, document),
                        "width": 640,
                        "height": 360,
                        "seq": seq,
                    }
                )
            )
            while (
                not isinstance(message := client.receive(timeout=120), str)
                or json.loads(message)["seq"] < seq
            ):
                pass
            start = start or resident_mb(port)
            seq = _drag(client, seq + 1, make)
        grown = resident_mb(port) - start
        client.close()
    return [
        Result(
            "memory-drag", round(grown), f"MB over {start:.0f}", None, None, None, "< 1000 MB", grown < 1000
        )
    ]
