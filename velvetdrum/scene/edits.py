"""Edits are JSON Patches (RFC 6902). Applying one gives the new document and the patch that undoes it."""

from __future__ import annotations

from typing import Any

import jsonpatch
import jsonpointer

from velvetdrum.scene.document import parse
from velvetdrum.scene.migrate import upgraded
from velvetdrum.scene.problems import Document, Problem, ProjectError

Patch = list[dict[str, Any]]


def apply(document: Document, patch: Patch) -> tuple[Document, Patch]:
    """The edited document, and the patch that leads back.

    Raises ProjectError when the patch does not fit the document, or when the result would not be a valid
    project; the document that was passed in is never changed.
    """
    document = upgraded(document)
    try:
        edited = jsonpatch.apply_patch(document, patch, in_place=False)
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, KeyError) as problem:
        raise ProjectError(
            [Problem("", "This edit does not fit the project as it is now; something in it has gone or moved.")]
        ) from problem
    parse(edited)
    return edited, jsonpatch.make_patch(edited, document).patch
