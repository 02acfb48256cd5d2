"""Who may talk to the server: only pages it served itself, on this machine.

Host is checked against rebinding of names, Origin against other pages in the same browser; answers
carry headers that keep foreign scripts, frames and requests out.
"""

from flask import Flask, Response, request

from halvex.web.problems import problem

LARGEST_REQUEST_BYTES = 4_000_000
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


def register(app: Flask, hosts: set[str]) -> None:
    """Refuse requests whose Host is none of `hosts` (names without port) or whose Origin is another site."""
    app.config["MAX_CONTENT_LENGTH"] = LARGEST_REQUEST_BYTES

    @app.before_request
    def check() -> Response | None:
        host = request.host.rsplit(":", 1)[0].strip("[]")
        if host not in hosts:
            return problem(403, "Forbidden", f"this server does not answer to the name {host[:80]!r}; open it as http://127.0.0.1", "Host")
        origin = request.headers.get("Origin")
        if origin and origin != f"{request.scheme}://{request.host}":
            return problem(403, "Forbidden", "requests from other sites are refused", "Origin")
        return None

    @app.after_request
    def protect(answer: Response) -> Response:
        for name, value in HEADERS.items():
            answer.headers.setdefault(name, value)
        if request.path.startswith("/api/"):
            answer.headers.setdefault("Cache-Control", "no-store")
        return answer
