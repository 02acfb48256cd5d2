"""The application and its server: Flask under gunicorn, bound to this machine."""

import gc
import os
import sys
import threading
import webbrowser
from pathlib import Path
from typing import Any

from flask import Flask, Response, send_from_directory
from flask_sock import Sock
from gunicorn.app.base import BaseApplication

from halvex.studio.data import open_data
from halvex.studio.exports import Exporter
from halvex.studio.samples import fill_empty_store
from halvex.web import guard, problems
from halvex.web.openapi import openapi
from halvex.web.problems import problem
from halvex.web.routes import api
from halvex.web.sockets import Window

STATIC = Path(__file__).parent / "static"
LOCAL_HOSTS = {"127.0.0.1", "localhost", "::1"}


def make_app(data: Path, *, demo: bool = False, host: str = "127.0.0.1") -> Flask:
    """The WSGI application over a data folder."""
    open_data(data)
    if demo:
        fill_empty_store()
    app = Flask(__name__, static_folder=None)
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.extensions["exporter"] = Exporter(data)
    guard.register(app, LOCAL_HOSTS | {host})
    problems.register(app)
    app.register_blueprint(api)
    sock = Sock(app)

    @sock.route("/live")
    def live(socket: Any) -> None:
        Window(socket).run()

    @app.get("/api/openapi.json")
    def get_openapi() -> dict[str, Any]:
        return openapi()

    @app.get("/")
    @app.get("/piece/<ident>")
    def page(ident: str = "") -> Response:
        if not (STATIC / "index.html").exists():
            return problem(503, "Not built", "the front end is not built; run `make setup`")
        return send_from_directory(STATIC, "index.html", max_age=0)

    @app.get("/<path:name>")
    def static_file(name: str) -> Response:
        return send_from_directory(STATIC, name, max_age=31_536_000 if name.startswith("assets/") else 0)

    return app


class _Server(BaseApplication):
    def __init__(self, options: dict[str, Any], data: Path, demo: bool, host: str):
        self._options, self._data, self._demo, self._host = options, data, demo, host
        super().__init__()

    def load_config(self) -> None:
        for key, value in self._options.items():
            self.cfg.set(key, value)

    def load(self) -> Flask:
        # Loaded in the worker, after the fork: threads and the database belong to it alone.
        app = make_app(self._data, demo=self._demo, host=self._host)
        threading.Thread(target=_warm, daemon=True).start()
        return app


def _warm() -> None:
    """Load the compiled kernels while the first page is on its way."""
    from halvex.core.compiled import compile_all

    compile_all(lambda line: None)
    # What is loaded stays: the collector need not walk it again. Kept bodies are many and hold no cycles, so the oldest
    # generation, whose walk would hold up a frame by 150 ms, is looked at seldom.
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 200)


def _announce(address: str, show: bool) -> None:
    print(f"Halvex is open at {address}", file=sys.stderr, flush=True)
    if show and (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        webbrowser.open(address)


def serve(*, host: str, port: int, data: Path, demo: bool, threads: int, show: bool = False) -> None:
    """Serve until interrupted; `show` opens the page on a desktop. Raises ValueError for a port that cannot be used."""
    if not 1 <= port <= 65_535:
        raise ValueError("--port: take 1 to 65535")
    options = {
        "bind": f"{host}:{port}",
        "workers": 1,
        "worker_class": "gthread",
        "threads": threads,
        "timeout": 0,
        "graceful_timeout": 2,
        "loglevel": "warning",
        "when_ready": lambda server: _announce(f"http://{host}:{port}", show),
    }
    _Server(options, data, demo, host).run()
