"""Headers and checks that every answer and every changing request goes through."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, Response, abort, request

MARK = "X-Velvet-Drum"
"""A header that the studio's own pages send. Other sites can't add it without being asked first (CORS)."""

_POLICY = "; ".join(
    [
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "font-src 'self'",
        "img-src 'self' blob: data:",
        "media-src 'self' blob:",
        "connect-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    ]
)


def protect(app: Flask) -> None:
    """Refuse changing requests from other sites, and send the policy headers with every answer."""

    @app.before_request
    def refuse_other_sites() -> None:
        # Reading the host checks it against TRUSTED_HOSTS.
        host = request.host
        if request.method in ("GET", "HEAD", "OPTIONS"):
            return
        origin = request.headers.get("Origin")
        foreign = origin is not None and urlsplit(origin).netloc != host
        if foreign or request.headers.get(MARK) != "1":
            abort(403, "This request did not come from the studio's own page. Reload the page and try again.")

    @app.after_request
    def add_headers(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        return response
