"""The page: what the front end's build left in `static`."""

from pathlib import Path

from flask import Flask, Response, send_from_directory

from halvex.web.problems import problem

STATIC = Path(__file__).parent / "static"


def register(app: Flask) -> None:
    """Serve the page at the addresses it knows, and its files."""

    @app.get("/")
    @app.get("/piece/<ident>")
    def page(ident: str = "") -> Response:
        if not (STATIC / "index.html").exists():
            return problem(503, "Not built", "the front end is not built; run `make setup`")
        return send_from_directory(STATIC, "index.html", max_age=0)

    @app.get("/<path:name>")
    def static_file(name: str) -> Response:
        return send_from_directory(STATIC, name, max_age=31_536_000 if name.startswith("assets/") else 0)
