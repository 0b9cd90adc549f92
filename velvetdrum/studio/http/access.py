"""Who may come in: a password where other machines can reach the studio, kept as its argon2 hash."""

from __future__ import annotations

import ipaddress
import os
import secrets
import sqlite3
import threading
import time
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from flask import Blueprint, Flask, abort, current_app, g, jsonify, redirect, render_template, request, url_for
from werkzeug.sansio.http import parse_cookie

from velvetdrum.store import sessions
from velvetdrum.studio.http.requests import services, takes, takes_file

blueprint = Blueprint("access", __name__)

COOKIE = "velvetdrum"
SHORTEST, LONGEST = 8, 200
_TRIES, _ALL_TRIES, _WITHIN_S = 5, 40, 60.0
_OPEN = {"access.sign_in", "access.sign_in_page", "static"}
_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"


class Passwords:
    """The password of a data folder."""

    def __init__(self, data: Path) -> None:
        self._path = data / "password"
        self._hasher = PasswordHasher()
        # One at a time: each check takes 64 MB and a tenth of a second, by intent.
        self._lock = threading.Lock()

    @property
    def is_set(self) -> bool:
        """True when a password is asked for."""
        return self._path.exists()

    def make(self) -> str:
        """Set a password that nobody can guess and give it; only its hash is kept."""
        made = "-".join("".join(secrets.choice(_LETTERS) for _ in range(5)) for _ in range(4))
        self.set(made)
        return made

    def set(self, password: str) -> None:
        """Keep a password's hash (Argon2id, RFC 9106) in place of the one before."""
        beside = self._path.with_name("password.part")
        with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(self._hasher.hash(password))
        beside.replace(self._path)

    def fits(self, password: str) -> bool:
        """True for the password whose hash is kept."""
        with self._lock:
            try:
                return self._hasher.verify(self._path.read_text(), password)
            except (VerificationError, InvalidHashError, OSError):
                return False


class Tries:
    """Tries of the last minute that were not right, by the address that they came from and all of them together: there
    is one password, and many addresses may try it."""

    def __init__(self, within_s: float = _WITHIN_S) -> None:
        self._at: dict[str, list[float]] = {}
        self._lock = threading.Lock()
        self._within_s = within_s

    def begin(self, address: str) -> float:
        """Count a try before it is checked, so that many at once are no more than one after the other. Gives for how
        long no further one is taken; 0 for one that was counted and may be checked."""
        with self._lock:
            now, name = time.monotonic(), _network(address)
            self._at = {
                key: kept
                for key, times in self._at.items()
                if (kept := [at for at in times if now - at < self._within_s])
            }
            own, every = self._at.get(name, []), sorted(at for times in self._at.values() for at in times)
            if len(own) >= _TRIES:
                return self._within_s - (now - own[-_TRIES])
            if len(every) >= _ALL_TRIES:
                return self._within_s - (now - every[-_ALL_TRIES])
            self._at.setdefault(name, []).append(now)
            return 0.0

    def right(self, address: str) -> None:
        """Forget the tries of a client that knows the password."""
        with self._lock:
            self._at.pop(_network(address), None)


def _network(address: str) -> str:
    """What counts as one client: an IPv4 address, and of IPv6 what one line is given (/64, RFC 6177)."""
    try:
        result = ipaddress.ip_address(address)
    except ValueError:
        return address
    if isinstance(result, ipaddress.IPv6Address) and not result.ipv4_mapped:
        return str(ipaddress.ip_network(f"{address.partition('%')[0]}/64", strict=False))
    return str(getattr(result, "ipv4_mapped", None) or result)


def guard(app: Flask, data: Path) -> None:
    """Let nobody in who has not signed in."""
    app.extensions["passwords"] = Passwords(data)
    app.extensions["tries"] = Tries()

    @app.before_request
    def ask_for_password() -> Any:
        g.guarded = current_app.config["OPEN"]
        if not g.guarded or request.endpoint in _OPEN or token_opens(services().db, _own_token()):
            return None
        best = request.accept_mimetypes.best_match(["application/json", "text/html"])
        if request.method == "GET" and best == "text/html":
            return redirect(url_for("access.sign_in_page", then=request.full_path.rstrip("?")))
        abort(401, "You are not signed in. Open the start page in another window, sign in, then try again here.")


def may_enter(app: Flask, headers: Mapping[str, str]) -> bool:
    """Whether a request's headers (as the server keeps them) are of somebody who is signed in."""
    if not app.config["OPEN"]:
        return True
    return token_opens(app.extensions["services"].db, token_in(headers.get("COOKIE", "")))


def token_in(cookies: str) -> str:
    """The token of a session in a Cookie header, as WSGI has it; empty where there is none. What other programs on this
    host keep in theirs is no concern of ours, whatever its letters."""
    return parse_cookie(cookies.encode("latin-1", "replace").decode("utf-8", "replace")).get(COOKIE, "")


def token_opens(db: sqlite3.Connection, token: str) -> bool:
    """True when a request carries a session that has not ended."""
    return 0 < len(token) <= 100 and sessions.is_open(db, token)


@blueprint.get("/sign-in")
def sign_in_page() -> Any:
    """The page that asks for the password."""
    if not current_app.config["OPEN"]:
        return redirect(url_for("start.start_page"))
    return render_template("sign_in.html", then=_inside(request.args.get("then", "/")), fault="")


@blueprint.post("/sign-in")
@takes_file("A form with the password", 4096)
def sign_in() -> Any:
    """Sign in with the password."""
    if not current_app.config["OPEN"]:
        return redirect(url_for("start.start_page"))
    tries: Tries = current_app.extensions["tries"]
    request.max_content_length = 4096
    then, password, address = _inside(request.form.get("then", "/")), request.form.get("password", ""), _address()
    wait = tries.begin(address)
    if wait > 0:
        fault = f"There were too many wrong passwords. Try again in {round(wait) + 1} seconds."
        return render_template("sign_in.html", then=then, fault=fault), 429, {"Retry-After": str(round(wait) + 1)}
    if not 0 < len(password) <= LONGEST or not current_app.extensions["passwords"].fits(password):
        fault = "This is not the password. It was printed when the studio was started for the first time."
        return render_template("sign_in.html", then=then, fault=fault), 403
    tries.right(address)
    answer = redirect(then)
    answer.set_cookie(
        COOKIE,
        sessions.create(services().db),
        max_age=int(sessions.LONGEST_S),
        httponly=True,
        samesite="Lax",
        secure=request.is_secure or current_app.config["BEHIND_TLS"],
    )
    return answer


@blueprint.post("/sign-out")
@takes()
def sign_out(given: dict[str, Any]) -> Any:
    """End this session."""
    sessions.end(services().db, _own_token()[:100])
    answer = jsonify(signed_out=True)
    answer.delete_cookie(COOKIE, httponly=True, samesite="Lax")
    return answer


def _inside(address: str) -> str:
    """An address on this server to go on to; the start page in place of any other."""
    plain = address.startswith("/") and not address.startswith(("//", "/\\")) and address.isprintable()
    return address if plain and len(address) < 1000 else "/"


def _own_token() -> str:
    return token_in(request.headers.get("Cookie", ""))


def _address() -> str:
    return request.remote_addr or ""
