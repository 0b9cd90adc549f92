"""A small service that stands in for channels: it publishes their limits, takes files in pieces, checks what came by
decoding it, and says why it refuses one."""

from __future__ import annotations

import hashlib
import json
import re
import secrets
import shutil
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from flask import Flask, abort, jsonify, request
from werkzeug.exceptions import HTTPException

from velvetdrum.channels.limits import Channel, against_file
from velvetdrum.deliver.checks.report import Report, check_sound, check_video
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.limits import door
from velvetdrum.limits.json_text import JsonError, read_json

PIECE = 4 << 20
"""Bytes of a piece, at the most."""

MOST_JSON = 1 << 16
MOST_OPEN = 40
MOST_ENDED = 1000
"""Uploads that ended, and can still be asked for."""
LEFT_S = 600.0
"""After so long without a piece an upload is given up, and what came of it is deleted."""
_MOST_MEGABYTES = 8_000.0
_NAME = re.compile(r"[^\w .()-]+")
_IDENT = re.compile(r"[0-9a-f]{16}")


@dataclass(frozen=True)
class Faults:
    """How the service misbehaves, to try what posts to it: seconds that answers come late, every how many pieces one is
    refused for the moment, and whether it answers in a way that nobody understands."""

    late_s: float = 0.0
    every: int = 0
    garbled: bool = False


@dataclass
class _Upload:
    channel: Channel
    name: str
    title: str
    size: int
    sha256: str
    path: Path
    captions: bool
    received: int = 0
    touched: float = 0.0
    state: str = "open"
    reasons: list[str] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)


def most_body(method: str, path: str) -> int:
    """Bytes that the body of a request may have."""
    return PIECE if method == "PUT" and path.startswith("/uploads/") else MOST_JSON


def create_service(
    channels: tuple[Channel, ...],
    described: bytes,
    folder: Path,
    faults: Faults | None = None,
    clock: Callable[[], float] = time.monotonic,
) -> Flask:
    """The service as a Flask application. `described`: the limits as they are published; `folder`: where files that
    come are kept, under names of its own."""
    app = Flask("velvetdrum.channels", static_folder=None)
    known = {channel.id: channel for channel in channels}
    uploads: dict[str, _Upload] = {}
    wrong = faults or Faults()
    pieces = {"taken": 0}
    folder.mkdir(parents=True, exist_ok=True)

    @app.errorhandler(HTTPException)
    def refused(problem: HTTPException) -> Any:
        return jsonify(error=problem.description), problem.code or 500

    def sweep() -> None:
        """Give up what nobody sends on, and forget what ended longest ago."""
        left = [key for key, item in uploads.items() if item.state == "open" and clock() - item.touched > LEFT_S]
        ended = [key for key, item in uploads.items() if item.state != "open"]
        for key in [*left, *ended[:-MOST_ENDED]]:
            with uploads[key].lock:
                gone = uploads.pop(key)
                gone.state = "ended" if gone.state == "open" else gone.state
                gone.path.unlink(missing_ok=True)

    @app.before_request
    def misbehave() -> Any:
        request.max_content_length = most_body(request.method, request.path)
        if request.environ.get("velvetdrum.refused"):
            abort(413, "This is larger than what is taken here.")
        time.sleep(wrong.late_s)
        return ("Welcome to the harbour!", 200) if wrong.garbled and request.path != "/channels" else None

    @app.get("/channels")
    def listed() -> Any:
        return app.response_class(described, mimetype="application/json")

    @app.post("/channels/<ident>/uploads")
    def begin(ident: str) -> Any:
        channel = known.get(ident) or abort(404, "There is no such channel.")
        sweep()
        try:
            given = read_json(request.get_data(), most_bytes=MOST_JSON)
        except JsonError as problem:
            abort(400, str(problem))
        given = given if isinstance(given, dict) else {}
        name, size, digest = given.get("name"), given.get("bytes"), str(given.get("sha256"))
        if (
            not isinstance(name, str)
            or not 0 < len(name) <= 300
            or not isinstance(size, int)
            or isinstance(size, bool)
            or size < 1
        ):
            abort(400, "An upload needs a name, its bytes, and their sha256.")
        most = channel.ranges["megabytes"].most if "megabytes" in channel.ranges else _MOST_MEGABYTES
        if size > most * 1e6:
            abort(413, f"It has {size / 1e6:.1f} MB; {channel.name} takes at most {most:g} MB")
        if sum(upload.state == "open" for upload in uploads.values()) >= MOST_OPEN:
            abort(503, "Too many uploads are open; come back later.")
        key = secrets.token_hex(8)
        plain = _NAME.sub("_", str(name))[:120]
        title = str(given.get("title") or plain)[:200]
        captions = given.get("captions") is True
        uploads[key] = _Upload(channel, plain, title, size, digest, folder / f"{key}.part", captions, 0, clock())
        uploads[key].path.touch()
        return jsonify(upload=key, piece_bytes=PIECE, received=0), 201

    def upload_of(key: str) -> _Upload:
        result = uploads.get(key) if _IDENT.fullmatch(key) else None
        return result or abort(404, "There is no such upload; begin it anew.")

    @app.get("/uploads/<key>")
    def state(key: str) -> Any:
        upload = upload_of(key)
        return jsonify(received=upload.received, bytes=upload.size, state=upload.state, reasons=upload.reasons)

    @app.put("/uploads/<key>")
    def piece(key: str) -> Any:
        upload = upload_of(key)
        data = request.get_data()
        at = request.args.get("at", "")
        pieces["taken"] += 1
        if wrong.every and pieces["taken"] % wrong.every == 0:
            abort(503, "Not just now.")
        with upload.lock:
            if upload.state != "open" or at != str(upload.received):
                return jsonify(error="This piece does not come next.", received=upload.received), 409
            if upload.received + len(data) > upload.size:
                abort(400, "There are more bytes than were said.")
            with upload.path.open("ab") as file:
                file.write(data)
            upload.received += len(data)
            upload.touched = clock()
        return jsonify(received=upload.received)

    @app.post("/uploads/<key>/finish")
    def finish(key: str) -> Any:
        upload = upload_of(key)
        with upload.lock:
            if upload.state == "open":
                if upload.received != upload.size:
                    return jsonify(error="Bytes are missing.", received=upload.received), 409
                upload.reasons = _judged(upload)
                upload.state = "refused" if upload.reasons else "posted"
                upload.path.unlink(missing_ok=True) if upload.reasons else _keep(upload, folder, key)
        if upload.state == "refused":
            return jsonify(state="refused", reasons=upload.reasons), 422
        return jsonify(state="posted", address=f"/posts/{key}", title=upload.title)

    @app.get("/posts/<key>")
    def post(key: str) -> Any:
        upload = upload_of(key)
        if upload.state != "posted":
            abort(404, "There is no such post.")
        return jsonify(channel=upload.channel.id, title=upload.title, name=upload.name, bytes=upload.size)

    return app


def _judged(upload: _Upload) -> list[str]:
    """Why a file that came whole is refused; nothing for one that is taken."""
    with upload.path.open("rb") as file:
        if hashlib.file_digest(file, "sha256").hexdigest() != upload.sha256:
            return ["The bytes that came are not those that were said; send it again"]
    suffix = Path(upload.name).suffix.lower()
    named = upload.path.with_suffix(suffix if suffix in {form.suffix for form in FORMATS.values()} else ".bin")
    upload.path.rename(named)
    try:
        report = _read(named)
    except DeliverError as problem:
        return [str(problem).removesuffix(".")]
    finally:
        named.rename(upload.path)
    return against_file(upload.channel, report, suffix, upload.size, captions=upload.captions)


def _read(path: Path) -> Report:
    """What was found in a file that came, looked at in a process under limits."""
    try:
        return door.read(check_video, path, bounds=door.RECORDING)
    except DeliverError:
        if path.suffix in {form.suffix for form in FORMATS.values() if form.group == "sound"}:
            return door.read(check_sound, path, bounds=door.RECORDING)
        raise
    except door.Unreadable as problem:
        raise DeliverError("The file takes more time or memory to read than any video needs") from problem


def _keep(upload: _Upload, folder: Path, key: str) -> None:
    shutil.move(upload.path, folder / f"{key}{Path(upload.name).suffix.lower()}")
    (folder / f"{key}.json").write_text(json.dumps({"channel": upload.channel.id, "title": upload.title}))
