"""Edits are JSON Patches (RFC 6902). Applying one gives the new document and the patch that undoes it."""

from __future__ import annotations

from typing import Any

import jsonpatch
import jsonpointer

from velvetdrum.limits.json_text import JsonError, check_value, copied
from velvetdrum.scene.document import parse
from velvetdrum.scene.migrate import VERSION, upgraded
from velvetdrum.scene.problems import Document, Problem, ProjectError

Patch = list[dict[str, Any]]

MOST_STEPS = 1000
MOST_VALUES = 1_000_000
"""Values in a document: five drawn curves of 50,000 points each."""


def apply(document: Document, patch: Patch) -> tuple[Document, Patch]:
    """The edited document, and the patch that leads back.

    Raises ProjectError when the patch does not fit the document, when what it makes would be too large (known before
    it is made), or when the result would not be a valid project; the document that was passed in is never changed.
    """
    document = upgraded(document)
    edited = tried(document, patch)
    return edited, jsonpatch.make_patch(edited, document).patch


def tried(document: Document, patch: Patch) -> Document:
    """The edited document alone, for what is looked at and not kept. Raises ProjectError as `apply` does."""
    edited: Document = upgraded(_patched(upgraded(document), patch))
    parse(edited)
    return edited


def replayed(document: Document, patch: Patch) -> tuple[Document, Patch]:
    """The document with a stored step made or taken back on it, in the form in which it was stored: a step of an older
    version of documents fits those of that version. The way back is stored beside the step, so none is given.

    Raises ProjectError as `apply` does.
    """
    edited = _patched(document, patch)
    parse(edited)
    return edited, []


def upgrade_step(document: Document) -> tuple[Document, Patch, Patch] | None:
    """A document of an older version in the present one, with the patches that lead there and back; None for one of the
    present version."""
    if document.get("version") == VERSION:
        return None
    present = upgraded(document)
    return present, jsonpatch.make_patch(document, present).patch, jsonpatch.make_patch(present, document).patch


def _patched(document: Document, patch: Patch) -> Any:
    if not isinstance(patch, list) or not all(isinstance(step, dict) for step in patch) or len(patch) > MOST_STEPS:
        raise ProjectError([Problem("", f"An edit is a JSON Patch of up to {MOST_STEPS} steps.")])
    try:
        count = check_value(document)
        edited: Any = copied(document)
        for step in patch:
            count += check_value(_added(edited, step), most_values=MOST_VALUES)
            if count > MOST_VALUES:
                raise ProjectError([Problem("", "This edit would make the project larger than it may be.")])
            # The value is copied: later steps may change it where it was put, and the patch is kept as it came.
            edited = jsonpatch.JsonPatch([copied(step)]).apply(edited, in_place=True)
    except (
        jsonpatch.JsonPatchException,
        jsonpointer.JsonPointerException,
        TypeError,
        KeyError,
        AttributeError,
        ValueError,
        IndexError,
    ) as problem:
        if isinstance(problem, ProjectError):
            raise
        if isinstance(problem, JsonError):
            raise ProjectError([Problem("", str(problem))]) from problem
        raise ProjectError(
            [Problem("", "This edit does not fit the project as it is now; something in it has gone or moved.")]
        ) from problem
    return edited


def _added(document: Any, step: dict[str, Any]) -> Any:
    """What a step adds to a document."""
    if step.get("op") == "copy":
        return jsonpointer.resolve_pointer(document, step["from"])
    return step.get("value")
