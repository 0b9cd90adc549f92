"""What routes read from requests: declared, bounded before it is read, and checked."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import wraps
from typing import Any, TypeVar
from urllib.parse import unquote

from flask import abort, g, request

from velvetdrum.limits.json_text import JsonError, read_json
from velvetdrum.scene.edits import parsed
from velvetdrum.scene.migrate import VERSION, upgraded
from velvetdrum.store import projects
from velvetdrum.store.imports import ImportRow
from velvetdrum.store.projects import ProjectRow
from velvetdrum.studio.http.fields import Field, FieldError, JsonPatch, ObjectOf, Real, Whole
from velvetdrum.studio.services import Services
from velvetdrum.studio.workers.scenes import NamedScene

UPLOAD_LIMIT = 8_000_000_000
"""Largest upload in bytes: three hours of 7.1 at 24 bit and 48 kHz are 12.4 GB as WAV and far less as FLAC;
three hours of stereo at 24 bit and 96 kHz are 6.2 GB."""

MOST_JSON = 1 << 20
MOST_EDIT = 4 << 20
"""A drawn curve of 50,000 points takes 2.6 MB."""
MOST_TABLE = 20_000_000

View = TypeVar("View", bound=Callable[..., Any])


@dataclass(frozen=True)
class Asked:
    """What a route takes: the parts of its JSON body, or a file as its body; the parts of its query."""

    body: ObjectOf | None = None
    most_bytes: int = 0
    file: str = ""
    """What the body is when it is a file, in a few words."""
    query: ObjectOf | None = None


def requested_by(view: Callable[..., Any]) -> Asked:
    """What a view declares that it takes; nothing when it declares nothing."""
    return getattr(view, "asked", Asked())


def takes(most_bytes: int = MOST_JSON, /, **parts: Field) -> Callable[[View], View]:
    """Decorator of a view: its body is a JSON object with these parts, which it gets as `given`."""
    body = ObjectOf(parts)

    def declare(view: View) -> View:
        @wraps(view)
        def checked(*args: Any, **named: Any) -> Any:
            return view(*args, given=_read_body(body, most_bytes), **named)

        return _declared(checked, view, body=body, most_bytes=most_bytes)

    return declare


def takes_file(what: str, most_bytes: int) -> Callable[[View], View]:
    """Decorator of a view: its body is a file of up to so many bytes. It reads it with `file_bytes` or `chunks`."""

    def declare(view: View) -> View:
        @wraps(view)
        def passed(*args: Any, **named: Any) -> Any:
            return view(*args, **named)

        return _declared(passed, view, file=what, most_bytes=most_bytes)

    return declare


def queries(**parts: Field) -> Callable[[View], View]:
    """Decorator of a view: its query has these parts, which it gets as `query`. Others are passed over."""
    query = ObjectOf(parts)

    def declare(view: View) -> View:
        @wraps(view)
        def checked(*args: Any, **named: Any) -> Any:
            return view(*args, query=_read_query(query), **named)

        return _declared(checked, view, query=query)

    return declare


def _declared(made: Any, view: Any, **parts: Any) -> Any:
    made.asked = replace(requested_by(view), **parts)
    return made


def _read_body(body: ObjectOf, most_bytes: int) -> dict[str, Any]:
    data = request.stream.read(most_bytes + 1)
    if len(data) > most_bytes:
        abort(413, f"The request is larger than {most_bytes >> 20} MB, which is the most that is taken here.")
    try:
        # No body says as much as an empty object.
        return body.read(read_json(data, most_bytes=most_bytes) if data else {}, "The request")
    except (JsonError, FieldError) as problem:
        abort(400, str(problem))


def _read_query(query: ObjectOf) -> dict[str, Any]:
    out = {}
    try:
        for name, part in query.parts.items():
            text = request.args.get(name)
            if text is None and part.required:
                raise FieldError(f"The address needs {name}{f': {part.about}' if part.about else ''}.")
            out[name] = part.default if text is None else part.from_text(text, name)
    except FieldError as problem:
        abort(400, str(problem))
    return out


def services() -> Services:
    """The server's services."""
    return g.services


def project_or_404(ident: str) -> ProjectRow:
    """A project, or a 404 with a sentence. Raises ProjectError for one that can't be read."""
    row = projects.find(services().db, ident) if is_ident(ident) else None
    if row is None:
        abort(404, "There is no such project; it may have been deleted.")
    parsed(row.document)
    # Projects that an older version stored come in the present form, and are stored in it with the next edit.
    return row if row.document.get("version") == VERSION else replace(row, document=upgraded(row.document))


def drafted(ident: str, given: Mapping[str, Any] | None = None) -> NamedScene:
    """A project, as it would be after the draft of a request (see DRAFT).

    The draft is made on the revision that it names, for as long as that is known: edits that it has among its steps
    may have been kept in the meantime, and are not to be made twice.
    """
    row, patch, revision = project_or_404(ident), (given or {}).get("draft"), (given or {}).get("revision")
    named = services().named(row)
    if not patch:
        return named
    return (services().named_earlier(row.id, revision) or named).drafted(patch)


def import_or_404(ident: str) -> ImportRow:
    """What is on its way in, as it is by now."""
    row = services().imports.find(ident) if is_ident(ident) else None
    if row is None:
        abort(404, "There is no such import.")
    return row


def is_ident(text: str) -> bool:
    """True for what can be an id of a project, an import, an export or a palette: all are made by the store."""
    return 0 < len(text) <= 64 and text.isascii() and text.isalnum()


def is_key(text: str) -> bool:
    """True for what can be the content hash of a file."""
    return len(text) == 64 and text.isascii() and text.isalnum()


def file_bytes(most: int, what: str) -> bytes:
    """The request's body; a 413 when it is larger than `most` bytes."""
    data = request.stream.read(most + 1)
    if len(data) > most:
        abort(413, f"The {what} is larger than {most / 1e6:.0f} MB; save it smaller.")
    return data


def uploaded_name(otherwise: str) -> str:
    """The name of the file that the body is, percent-coded in the header X-File-Name; shown only, never a path."""
    given = unquote(request.headers.get("X-File-Name", otherwise)[:2000], errors="replace")
    return one_line(given) or otherwise


def one_line(text: str) -> str:
    """A name as it may stand in headers, tables and archives: without control characters."""
    return "".join(sign if sign.isprintable() else " " for sign in text).strip()


def chunks() -> Iterator[bytes]:
    """The request's body, piece by piece."""
    while chunk := request.stream.read(1 << 20):
        yield chunk


SECONDS: Mapping[str, Field] = {
    "from": Real(-1e5, 1e5, "s", "Begin of the stretch, in seconds."),
    "to": Real(-1e5, 1e5, "s", "End of the stretch, in seconds."),
}
REVISION = Whole(1, 1 << 53, "The revision that it is made on")
DRAFT: Mapping[str, Field] = {
    "draft": JsonPatch("A JSON Patch that is drawn but not kept", default=None),
    "revision": Whole(1, 1 << 53, "The revision that the draft is made on; the present one without it", default=None),
}
"""What a slider shows while it is dragged, and edits that are still on their way."""
FRAME = Whole(0, 1 << 31, "Number of a frame")
CHOICE_RUN = {
    "first": Whole(0, 10_000, "The place of the first one in the list of all"),
    "count": Whole(1, 12, "How many of them"),
}
"""Pictures of what can be chosen are asked for in runs, so that those in sight are there first."""


def state_of(row: ProjectRow) -> dict[str, Any]:
    """A project as the page keeps it; after a change that its patch tells, that in place of the document."""
    whole = {"document": row.document} if row.patch is None else {"patch": row.patch}
    return {
        "id": row.id,
        "revision": row.revision,
        **whole,
        "undo": row.undo,
        "redo": row.redo,
        "changed_at": row.changed_at,
    }
