"""Who may talk to the server: only pages it served itself, on this machine, or from elsewhere with
its access key.

Host is checked against rebinding of names, Origin against other pages in the same browser; answers
carry headers that keep foreign scripts, frames and requests out. A server that is open to other
machines answers no one without its key, whatever name they call it by.
"""

import hashlib
import hmac
import time

from flask import Flask, Response, redirect, render_template, request
from werkzeug.wrappers import Response as AnyResponse

from halvex.web.problems import problem

LARGEST_REQUEST_BYTES = 4_000_000
LARGEST_KEY_BYTES = 1000
COOKIE = "halvex-key"
COOKIE_S = 90 * 24 * 3600
# A wrong key waits so long for its answer.
WRONG_KEY_S = 0.5
POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "X-Frame-Options": "DENY",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def register(app: Flask, hosts: set[str], key: str | None = None) -> None:
    """Refuse requests of another site's pages, and those whose Host is none of `hosts` (names without port).

    With a `key`, requests from anywhere are answered that carry it, and no others.
    """
    app.config["MAX_CONTENT_LENGTH"] = LARGEST_REQUEST_BYTES

    @app.before_request
    def check() -> AnyResponse | None:
        origin = request.headers.get("Origin")
        if origin and origin != f"{request.scheme}://{request.host}":
            return problem(403, "Forbidden", "requests from other sites are refused", "Origin")
        if key is not None:
            return _check_key(key)
        host = request.host.rsplit(":", 1)[0].strip("[]")
        if host not in hosts:
            return problem(
                403,
                "Forbidden",
                f"this server does not answer to the name {host[:80]!r}; open it as http://127.0.0.1",
                "Host",
            )
        return None

    @app.after_request
    def protect(answer: Response) -> Response:
        for name, value in HEADERS.items():
            answer.headers.setdefault(name, value)
        if request.path.startswith("/api/"):
            answer.headers.setdefault("Cache-Control", "no-store")
        return answer


def _check_key(key: str) -> AnyResponse | None:
    """None for a request with the key's cookie; else the page that asks for the key, or what
    follows its answer."""
    token = _token(key)
    if hmac.compare_digest(request.cookies.get(COOKIE, "").encode(), token.encode()):
        return None
    if request.method == "POST" and request.path == "/key":
        request.max_content_length = LARGEST_KEY_BYTES
        if hmac.compare_digest(_token(request.form.get("key", "")), token):
            answer = redirect("/", 303)
            answer.set_cookie(
                COOKIE, token, max_age=COOKIE_S, httponly=True, samesite="Strict", secure=request.is_secure
            )
            return answer
        time.sleep(WRONG_KEY_S)
        return _ask("This is not the key. It stands in the terminal in which Halvex was started.")
    if request.path.startswith(("/api/", "/live")):
        return problem(
            401,
            "Unauthorized",
            "this Halvex asks for its access key; open its page in a browser first",
            "key",
        )
    return _ask("")


def _ask(fault: str) -> Response:
    # Without a referrer a form is sent from no origin at all, which is refused.
    return Response(
        render_template("key.html", fault=fault),
        401,
        {"Referrer-Policy": "same-origin"},
        mimetype="text/html",
    )


def _token(key: str) -> str:
    """What the cookie holds for a key, so that the cookie does not give the key away."""
    return hashlib.sha256(b"halvex " + key.encode()).hexdigest()
