"""The application and its server: Flask under gunicorn, bound to this machine by default."""

import ipaddress
import os
import socket
import struct
import sys
import threading
import webbrowser
from collections.abc import Callable
from pathlib import Path
from typing import Any

from flask import Flask, Response, request
from gunicorn.app.base import BaseApplication
from gunicorn.workers.gthread import TConn, ThreadWorker
from simple_websocket import ConnectionClosed

from halvex.core.allocation import collect_rarely
from halvex.core.compiled import (
    are_drafts_compiled,
    compile_integrator,
    integrator_seconds,
    is_integrator_compiled,
    load_for_drafts,
    load_integrator,
)
from halvex.core.render import gate
from halvex.studio.data import open_data
from halvex.studio.exports import Exporter
from halvex.studio.folder import claim
from halvex.studio.samples import fill_empty_store
from halvex.web import guard, page, problems
from halvex.web.api import api
from halvex.web.openapi import openapi
from halvex.web.opening import OpeningServer
from halvex.web.problems import problem
from halvex.web.sockets import Window
from halvex.web.websocket import WebSocket

LOCAL_HOSTS = {"127.0.0.1", "localhost", "::1"}
# Windows that may be open at once. They have threads of their own beside those of requests, so that
# neither starve the other.
MOST_WINDOWS = 48
# A request that stops arriving for so long is given up.
ARRIVAL_S = 20


def make_app(data: Path, *, demo: bool = False, host: str = "127.0.0.1", key: str | None = None) -> Flask:
    """The WSGI application over a data folder. With a `key`, it answers nobody without it."""
    open_data(data)
    if demo:
        fill_empty_store()
    app = Flask(__name__, static_folder=None)
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.extensions["exporter"] = Exporter(data)
    guard.register(app, LOCAL_HOSTS | {host}, key)
    problems.register(app)
    app.register_blueprint(api)
    windows = threading.Semaphore(MOST_WINDOWS)

    @app.route("/live", websocket=True)
    def live() -> Response:
        if not windows.acquire(blocking=False):
            return problem(
                503, "Too many windows", f"{MOST_WINDOWS} windows are open; close one first", "live"
            )
        try:
            _serve_window()
        finally:
            windows.release()
        return _Answered()

    @app.get("/api/openapi.json")
    def get_openapi() -> dict[str, Any]:
        return openapi()

    page.register(app)
    return app


class _Answered(Response):
    """What stands for the answer of a connection that a window has used and closed: gunicorn sends
    nothing then."""

    def __call__(self, *given: Any, **named: Any) -> Any:
        raise StopIteration


def _serve_window() -> None:
    try:
        wire = WebSocket(request.environ)
        Window(wire).run()
        wire.close()
    except (ConnectionClosed, ConnectionError, OSError):
        return


class _Worker(ThreadWorker):
    """gunicorn's threads, with a bound on how long a connection may keep one waiting for the rest
    of a request."""

    def enqueue_req(self, conn: TConn) -> None:
        conn.sock.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", ARRIVAL_S, 0))
        super().enqueue_req(conn)


class _Server(BaseApplication):
    def __init__(self, options: dict[str, Any], **app: Any):
        self._options, self._app = options, app
        super().__init__()

    def load_config(self) -> None:
        for key, value in self._options.items():
            self.cfg.set(key, value)

    def load(self) -> Flask | OpeningServer:
        # Loaded in the worker, after the fork: threads and the database belong to it alone.
        if are_drafts_compiled():
            return self._whole(compile_integrator, integrator_seconds())
        return OpeningServer(LOCAL_HOSTS | {self._app["host"]}, self._app["key"], self._whole)

    def _whole(self, compile_rest: Callable[[], object], seconds: float) -> Flask:
        """The application; where the integrator's kernels are missing, compile_rest takes so many seconds."""
        app = make_app(**self._app)
        if not is_integrator_compiled():
            gate.shut(seconds)
        threading.Thread(target=_warm, args=(compile_rest,), daemon=True).start()
        return app


def _warm(compile_rest: Callable[[], object]) -> None:
    """Load the compiled kernels while the first page is on its way. Those of the integrator, where they are
    not there yet, are compiled by a process of their own: it would hold up every answer here."""
    load_for_drafts()
    if not gate.is_open():
        # Whatever became of it, this process compiles what is still missing.
        compile_rest()
        gate.open_up()
    load_integrator()
    collect_rarely()


def is_local(host: str) -> bool:
    """Whether only this machine reaches a server bound to this host."""
    try:
        return host in LOCAL_HOSTS or ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def _announce(address: str, key: str | None, show: bool) -> None:
    print(f"Halvex is open at {address}", file=sys.stderr, flush=True)
    if key is not None:
        print(f"Access key: {key}", file=sys.stderr, flush=True)
    if show and (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        webbrowser.open(address)


def serve(
    *, host: str, port: int, data: Path, demo: bool, threads: int, key: str | None, show: bool = False
) -> None:
    """Serve until interrupted; `show` opens the page on a desktop.

    Raises StoreError for a data folder that cannot be used.
    """
    place = f"[{host}]:{port}" if ":" in host else f"{host}:{port}"
    address = f"http://{place}"
    options = {
        "bind": place,
        "workers": 1,
        "worker_class": _Worker,
        "threads": threads + MOST_WINDOWS,
        "timeout": 0,
        "graceful_timeout": 2,
        "loglevel": "warning",
        "when_ready": lambda server: _announce(address, key, show),
    }
    with claim(data, address):
        _Server(options, data=data, demo=demo, host=host, key=key).run()
