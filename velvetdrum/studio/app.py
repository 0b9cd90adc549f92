"""The application factory."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from flask import Flask, Response, g

from velvetdrum.limits.openers import kept_outside
from velvetdrum.studio.http import access, security
from velvetdrum.studio.http import errors as error_handlers
from velvetdrum.studio.http.requests import UPLOAD_LIMIT
from velvetdrum.studio.rooms import batch as batch_room
from velvetdrum.studio.rooms import effects, export_settings, history, looks, palettes, start, typefaces
from velvetdrum.studio.rooms import export as export_room
from velvetdrum.studio.rooms import manual as manual_room
from velvetdrum.studio.rooms import picture as picture_room
from velvetdrum.studio.rooms import post as post_room
from velvetdrum.studio.rooms import projects as project_room
from velvetdrum.studio.rooms import review as review_room
from velvetdrum.studio.rooms import signals as signal_room
from velvetdrum.studio.rooms import sound as sound_room
from velvetdrum.studio.rooms import words as words_room
from velvetdrum.studio.services import Services

_HERE = Path(__file__).parent


def _setting_types(folder: str) -> list[str]:
    """Types of settings that have markup in a folder of the templates: a file makes a type known to the page."""
    return sorted(path.stem for path in (_HERE / "templates" / folder).glob("*.html"))


def _setting_scripts() -> list[str]:
    """Types of settings that the page does more with than to set them."""
    return sorted(path.stem for path in (_HERE / "static/js/setting_types").glob("*.js"))


def _kept_outside(wsgi: Callable[..., Iterable[bytes]]) -> Callable[..., Iterable[bytes]]:
    def answer(*request: Any) -> Iterable[bytes]:
        with kept_outside():
            return wsgi(*request)

    return answer


def create_app(
    data: Path,
    *,
    hosts: list[str] | None = None,
    upload_limit: int = UPLOAD_LIMIT,
    exporters: int | None = None,
    guarded: bool = False,
    behind_tls: bool = False,
) -> Flask:
    """The studio over a data folder.

    `hosts` are further names under which it may be addressed. `guarded` asks for the password of the data folder, as
    is needed where other machines can reach it; `behind_tls` says that they do so through TLS.
    """
    app = Flask(__name__)
    app.config.update(
        HOSTS={name.lower() for name in hosts or []}, UPLOAD_LIMIT=upload_limit, OPEN=guarded, BEHIND_TLS=behind_tls
    )
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.jinja_options = {"trim_blocks": True, "lstrip_blocks": True}
    app.jinja_env.globals.update(setting_types=_setting_types, setting_scripts=_setting_scripts)
    services = Services(data, exporters=exporters)
    app.extensions["services"] = services

    # No request opens a file of others: what it has read, workers read.
    app.wsgi_app = _kept_outside(app.wsgi_app)  # type: ignore[method-assign]

    @app.before_request
    def lend_services() -> None:
        g.services = services

    security.protect(app)
    error_handlers.register(app)
    access.guard(app, services.data)
    for room in (
        access,
        start,
        project_room,
        history,
        sound_room,
        signal_room,
        picture_room,
        effects,
        words_room,
        typefaces,
        palettes,
        export_room,
        export_settings,
        batch_room,
        review_room,
        post_room,
        looks,
        manual_room,
    ):
        app.register_blueprint(room.blueprint)

    @app.after_request
    def keep_static(response: Response) -> Response:
        # The page asks for changed files by their time stamp.
        if response.mimetype in ("font/woff2", "image/svg+xml"):
            response.headers["Cache-Control"] = "max-age=86400"
        return response

    return app
