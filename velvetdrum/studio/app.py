"""The application factory."""

from __future__ import annotations

from pathlib import Path

from flask import Flask, Response, g

from velvetdrum.studio import export_room, faults, palettes, picture_room, security, signal_room, sound_room, start
from velvetdrum.studio.services import Services

UPLOAD_LIMIT = 8_000_000_000
"""Largest upload in bytes: three hours of 7.1 at 24 bit and 48 kHz are 12.4 GB as WAV and far less as FLAC;
three hours of stereo at 24 bit and 96 kHz are 6.2 GB."""


def create_app(
    data: Path,
    *,
    hosts: list[str] | None = None,
    upload_limit: int = UPLOAD_LIMIT,
    exporters: int | None = None,
) -> Flask:
    """The studio over a data folder. `hosts` are further names under which it may be addressed."""
    app = Flask(__name__)
    app.config["TRUSTED_HOSTS"] = ["127.0.0.1", "localhost", "[::1]", *(hosts or [])]
    app.config["UPLOAD_LIMIT"] = upload_limit
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.jinja_options = {"trim_blocks": True, "lstrip_blocks": True}
    services = Services(data, exporters=exporters)
    app.extensions["services"] = services

    @app.before_request
    def lend_services() -> None:
        g.services = services

    security.protect(app)
    faults.register(app)
    for room in (start, sound_room, signal_room, picture_room, palettes, export_room):
        app.register_blueprint(room.blueprint)

    @app.after_request
    def keep_static(response: Response) -> Response:
        # The page asks for changed files by their time stamp.
        if response.mimetype in ("font/woff2", "image/svg+xml"):
            response.headers["Cache-Control"] = "max-age=86400"
        return response

    return app
