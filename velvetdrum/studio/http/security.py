"""Headers and checks that every answer and every changing request goes through."""

from __future__ import annotations

import ipaddress
from urllib.parse import urlsplit

from flask import Flask, Response, abort, current_app, request

from velvetdrum.studio.http.page_header import MARK
from velvetdrum.studio.http.server import REFUSED

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
_LOCAL = {"localhost", "127.0.0.1", "::1"}
_UNKNOWN = (
    "The studio is not known under this name. Open it under the address that it printed at its start, or start it with "
    "--allow-host and this name."
)
_EARLY = {
    401: "You are not signed in. Sign in, then try again.",
    403: "This request did not come from the studio's own page. Reload the page and try again.",
    413: "This is larger than what is taken here.",
    503: "The data folder can't be read just now. Try it again.",
}


def protect(app: Flask) -> None:
    """Refuse requests under other names and changing requests from other sites; send the policy with every answer."""

    @app.before_request
    def refuse_others() -> None:
        if not is_our_name(request.headers.get("Host", "")):
            abort(400, _UNKNOWN)
        refused = request.environ.get(REFUSED, 0)
        if refused in _EARLY:
            abort(refused, _EARLY[refused])
        if request.method in ("GET", "HEAD", "OPTIONS"):
            return
        foreign = not same_origin(request.headers.get("Origin"), request.headers.get("Host", ""))
        # The form for signing in can't send the mark: for it the origin is what counts.
        marked = request.endpoint == "access.sign_in" or request.headers.get(MARK) == "1"
        if foreign or not marked:
            abort(403, _EARLY[403])

    @app.after_request
    def add_headers(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if response.mimetype in ("text/html", "application/json") and request.endpoint != "static":
            # What is shown is of this moment: no copy of it is kept by browsers or on the way.
            response.headers.setdefault("Cache-Control", "no-store")
        return response


def is_our_name(host: str) -> bool:
    """True for a Host header under which the studio may be asked: this machine's own names, those that were allowed at
    the start, and, where other machines may come in, addresses by number, which no foreign site can take."""
    name = host_name(host)
    if name is None:
        return False
    allowed = current_app.config["HOSTS"]
    return name in _LOCAL or name in allowed or (current_app.config["OPEN"] and _is_number(name))


def host_name(host: str) -> str | None:
    """The name in a Host header without its port, in lower case; None where it is damaged."""
    if not host or len(host) > 300 or any(c in host for c in "/@\\ ?#") or not host.isascii():
        return None
    try:
        result = urlsplit(f"//{host}")
        if result.port is not None and not 0 < result.port < 65536:
            return None
        return result.hostname
    except ValueError:
        return None


def same_origin(origin: str | None, host: str) -> bool:
    """True for a request without an origin, or from a page of this server."""
    if origin is None:
        return True
    try:
        return urlsplit(origin).netloc == host
    except ValueError:
        return False


def _is_number(name: str) -> bool:
    try:
        ipaddress.ip_address(name)
    except ValueError:
        return False
    return True
