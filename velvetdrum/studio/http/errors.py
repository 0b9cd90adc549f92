"""Every failure as a sentence: JSON for the page's scripts, a page for people."""

from __future__ import annotations

import logging
import sqlite3
from concurrent.futures.process import BrokenProcessPool
from typing import Any

from flask import Flask, jsonify, render_template, request
from werkzeug.exceptions import HTTPException

from velvetdrum.audio.errors import SoundError
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.marker_lists import ListError
from velvetdrum.limits.door import Unreadable
from velvetdrum.picture.figures.paint.palettes import PaletteError
from velvetdrum.picture.media.clips.index import ClipError
from velvetdrum.picture.media.cube_files import CubeError
from velvetdrum.picture.media.pictures import PictureError
from velvetdrum.picture.outlines.paths import PathError
from velvetdrum.picture.typesetting.typeface_files import TypefaceError
from velvetdrum.scene.document import ProjectError
from velvetdrum.scene.frames import FrameError
from velvetdrum.signals.midi_files import MidiError
from velvetdrum.signals.tables import TableError
from velvetdrum.store.db import Moved, StoreError
from velvetdrum.store.media import TooLarge
from velvetdrum.store.projects import Conflict
from velvetdrum.words.cues import CueError

_SENTENCES = {
    400: "The request could not be understood. Reload the page and try again.",
    404: "There is nothing at this address. It may have been deleted.",
    405: "This address does not take that kind of request.",
    413: "The file is larger than what is taken.",
    500: "Something went wrong here, not with what you did. What you did last was not done; try again.",
}


_DATABASE = {
    "SQLITE_BUSY": (503, "This was not saved: another program holds the data folder. It is tried again."),
    "SQLITE_LOCK": (503, "This was not saved: another program holds the data folder. It is tried again."),
    "SQLITE_FULL": (507, "This was not saved: the disk is full. Make room; it is tried again."),
    "SQLITE_IOER": (507, "This was not saved: the disk is full or can't be written. Make room; it is tried again."),
    "SQLITE_READ": (507, "This was not saved: the data folder can't be written. Allow that; it is tried again."),
    "SQLITE_CANT": (507, "This was not saved: the data folder can't be opened. Make room; it is tried again."),
}
_MOVED = (
    "This was not saved: the file of the database was deleted or replaced while the studio runs. Put it back, or start "
    "the studio again; it is tried again."
)
_DATABASE_ELSE = (500, "This was not saved: the data folder can't be read. It is tried again.")


def register(app: Flask) -> None:
    """Install the handlers."""

    @app.errorhandler(ProjectError)
    def project_error(problem: ProjectError) -> Any:
        result = [{"path": item.path, "sentence": item.sentence} for item in problem.problems]
        return _answer(422, str(problem), problems=result)

    @app.errorhandler(Conflict)
    def conflict(problem: Conflict) -> Any:
        return _answer(409, str(problem), revision=problem.revision)

    @app.errorhandler(TooLarge)
    def too_large(problem: TooLarge) -> Any:
        return _answer(413, str(problem))

    @app.errorhandler(sqlite3.Error)
    def unsaved(problem: sqlite3.Error) -> Any:
        logging.getLogger(__name__).exception("database")
        if isinstance(problem, Moved):
            return _answer(503, _MOVED)
        code, sentence = _DATABASE.get(getattr(problem, "sqlite_errorname", "")[:11], _DATABASE_ELSE)
        return _answer(code, sentence)

    @app.errorhandler(StoreError)
    def gone(problem: StoreError) -> Any:
        return _answer(410, str(problem))

    @app.errorhandler(SoundError)
    @app.errorhandler(DeliverError)
    @app.errorhandler(FrameError)
    @app.errorhandler(MidiError)
    @app.errorhandler(ListError)
    @app.errorhandler(TableError)
    @app.errorhandler(PaletteError)
    @app.errorhandler(Unreadable)
    @app.errorhandler(PictureError)
    @app.errorhandler(ClipError)
    @app.errorhandler(PathError)
    @app.errorhandler(CueError)
    @app.errorhandler(TypefaceError)
    @app.errorhandler(CubeError)
    def unusable(problem: Exception) -> Any:
        return _answer(422, str(problem))

    @app.errorhandler(TimeoutError)
    def late(problem: TimeoutError) -> Any:
        return _answer(503, "This could not be drawn in time. Close other heavy work, then try again.")

    @app.errorhandler(HTTPException)
    def http(problem: HTTPException) -> Any:
        code = problem.code or 500
        standard = type(problem).description
        said = problem.description if problem.description and problem.description != standard else None
        return _answer(code, said or _SENTENCES.get(code, "This could not be done."))

    @app.errorhandler(OSError)
    def disk(problem: OSError) -> Any:
        logging.getLogger(__name__).exception("disk")
        reason = problem.strerror or problem
        return _answer(507, f"This was not saved: {reason}. Make room on the disk, then try again.")

    @app.errorhandler(BrokenProcessPool)
    @app.errorhandler(MemoryError)
    def ended(problem: Exception) -> Any:
        return _answer(503, "A worker process ended early. Try again; if it happens again, make the picture simpler.")

    @app.errorhandler(Exception)
    def unexpected(problem: Exception) -> Any:
        logging.getLogger(__name__).exception("unexpected")
        return _answer(500, _SENTENCES[500])


def _answer(code: int, sentence: str, **more: Any) -> Any:
    wants_page = (
        request.method == "GET"
        and request.accept_mimetypes.best_match(["application/json", "text/html"]) == "text/html"
    )
    if wants_page:
        return render_template("fault.html", code=code, sentence=sentence), code
    return jsonify(error=sentence, **more), code
