"""What is served while the kernels of drafts are compiled, once after each change of them: the page, and how
far they are. Everything else needs them, if only to tell whether a piece can be made."""

import logging
import threading
from collections.abc import Callable, Iterable
from typing import Any

from flask import Flask, request
from werkzeug.wrappers import Response

from halvex.core.compiled import USUAL_DRAFTS_S, USUAL_REST_S, compile_kernels
from halvex.core.render import gate
from halvex.web import guard, page, problems
from halvex.web.problems import problem
from halvex.web.shapes import Opening

PATH = "/api/opening"

log = logging.getLogger(__name__)


def make_opening_app(hosts: set[str], key: str | None) -> Flask:
    """The WSGI application until there are kernels."""
    app = Flask(__name__, static_folder=None)
    guard.register(app, hosts, key)
    problems.register(app)

    @app.before_request
    def only_the_page() -> Response | None:
        if request.path != PATH and request.path.startswith(("/api/", "/live")):
            return problem(503, "Not open yet", "Halvex is still being prepared; try again in a few minutes")
        return None

    @app.get(PATH)
    def get_opening() -> dict[str, Any]:
        # The page goes on at 1: not before all it will ask for is there.
        share = min(gate.share(), gate.MOST_SHARE)
        return Opening(share=share, seconds=gate.seconds_left()).model_dump()

    page.register(app)
    return app


class OpeningServer:
    """An application that is the opening one until the kernels of drafts are there, and then what `make`
    makes. `make` is given how to wait for all other kernels, and how many seconds that will take."""

    def __init__(
        self, hosts: set[str], key: str | None, make: Callable[[Callable[[], object], float], Flask]
    ):
        self._app, self._make = make_opening_app(hosts, key), make
        self._drafts_there, self._all_there = threading.Event(), threading.Event()
        gate.shut(USUAL_DRAFTS_S)
        for work in (self._compile, self._open):
            threading.Thread(target=work, name="opening", daemon=True).start()

    def __call__(self, environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
        return self._app(environ, start_response)

    def _compile(self) -> None:
        try:
            compile_kernels(log.info, self._drafts_there.set)
        except Exception as fault:
            # What is missing is compiled where it is first used.
            log.error("the kernels could not be compiled ahead", exc_info=fault)
        self._drafts_there.set()
        self._all_there.set()

    def _open(self) -> None:
        self._drafts_there.wait()
        gate.open_up()
        self._app = self._make(self._all_there.wait, USUAL_REST_S)
