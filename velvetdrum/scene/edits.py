"""Edits are JSON Patches (RFC 6902). Applying one gives the new document and the patch that undoes it.

A document that is edited is never written to: the new one shares with it all that no step touches, and what was parsed
of that is taken over. So a small edit costs by its own size, whatever the project's.
"""

from __future__ import annotations

from dataclasses import dataclass
from threading import Lock
from typing import Any, NamedTuple

import jsonpatch
import jsonpointer
from cachetools import LRUCache

from velvetdrum.limits.json_text import JsonError, check_value
from velvetdrum.scene.document import Project, parse
from velvetdrum.scene.migrate import VERSION, upgraded
from velvetdrum.scene.problems import Document, Problem, ProjectError

Patch = list[dict[str, Any]]

MOST_STEPS = 1000
MOST_VALUES = 1_000_000
"""Values in a document: five drawn curves of 50,000 points each."""

_NO_FIT = "This edit does not fit the project as it is now; something in it has gone or moved."


class Edited(NamedTuple):
    """What an edit made: the new document, the patch that leads back, and whether the edit's patch alone, on the
    document as it was stored, gives the same document again."""

    document: Document
    backward: Patch
    exact: bool


@dataclass(frozen=True)
class _Held:
    """A document in the present form with what is known of it."""

    given: Document
    document: Document
    project: Project
    values: int


_HELD: LRUCache[int, _Held] = LRUCache(12)
_LOCK = Lock()


def parsed(document: Document) -> Project:
    """A document that nobody writes to, parsed once for as long as it is asked for. Raises ProjectError."""
    return _held(document).project


def apply(document: Document, patch: Patch) -> Edited:
    """Make an edit on a document, which nobody may write to from then on.

    Raises ProjectError when the patch does not fit the document, when what it makes would be too large (known before
    it is made), or when the result would not be a valid project; the document that was passed in is never changed.
    """
    held = _held(document)
    made, backward, values = _patched(held.document, patch, held.values)
    present = upgraded(made)
    held = _hold(present, parse(present, like=(held.document, held.project)), values)
    return Edited(held.document, backward, present is made and upgraded(document) is document)


def tried(document: Document, patch: Patch) -> Document:
    """The edited document alone, for what is looked at and not kept. Raises ProjectError as `apply` does."""
    held = _held(document)
    made, _, values = _patched(held.document, patch, held.values)
    present = upgraded(made)
    return _hold(present, parse(present, like=(held.document, held.project)), values).document


def replayed(document: Document, patch: Patch) -> Edited:
    """The document with a stored step made or taken back on it, in the form in which it was stored: a step of an older
    version of documents fits those of that version. The way back is stored beside the step, so none is given.

    Raises ProjectError as `apply` does.
    """
    held = _held(document)
    made, _, values = _patched(document, patch, held.values)
    _hold(made, parse(made, like=(held.document, held.project)), values)
    return Edited(made, [], True)


def upgrade_step(document: Document) -> tuple[Document, Patch, Patch] | None:
    """A document of an older version in the present one, with the patches that lead there and back; None for one of the
    present version."""
    if document.get("version") == VERSION:
        return None
    present = upgraded(document)
    return present, jsonpatch.make_patch(document, present).patch, jsonpatch.make_patch(present, document).patch


def _held(document: Document) -> _Held:
    with _LOCK:
        result = _HELD.get(id(document))
    if result is not None and result.given is document:
        return result
    present = upgraded(document)
    return _hold(document, parse(present), check_value(present), present)


def _hold(given: Document, project: Project, values: int, present: Document | None = None) -> _Held:
    held = _Held(given, given if present is None else present, project, values)
    with _LOCK:
        _HELD[id(given)] = held
    return held


def _patched(document: Document, patch: Patch, values: int) -> tuple[Any, Patch, int]:
    """The document with a patch made on it, the way back, and about how many values are in it."""
    if not isinstance(patch, list) or not all(isinstance(step, dict) for step in patch) or len(patch) > MOST_STEPS:
        raise ProjectError([Problem("", f"An edit is a JSON Patch of up to {MOST_STEPS} steps.")])
    work = _Work(document)
    try:
        for step in patch:
            values += check_value(_added(work.document, step), most_values=MOST_VALUES)
            if values > MOST_VALUES:
                # What was taken away is not counted from step to step: perhaps it fits all the same.
                values = check_value(work.document) + check_value(_added(work.document, step))
            if values > MOST_VALUES:
                raise ProjectError([Problem("", "This edit would make the project larger than it may be.")])
            work.make(step)
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
        raise ProjectError([Problem("", _NO_FIT)]) from problem
    return work.document, work.backward, values


class _Work:
    """A patch being made, step by step: what a step writes to is copied before, once in the patch."""

    def __init__(self, document: Any) -> None:
        self.document = document
        self._ways: list[Patch] = []
        # Kept with what they are of, so that no other object comes to the same place.
        self._own: dict[int, Any] = {}

    @property
    def backward(self) -> Patch:
        """The way back from all steps; none where they changed nothing."""
        return [step for way in reversed(self._ways) for step in way]

    def make(self, step: dict[str, Any]) -> None:
        """Make a step, after its way back was noted."""
        if step.get("op") == "move":
            self._move(step["from"], step["path"])
            return
        way = self._way_back(step)
        if any(isinstance(back.get("value"), dict | list) for back in way):
            # What the way back holds on to is written to no longer.
            self._own.clear()
        self._take(jsonpointer.JsonPointer(step["path"]).parts[:-1])
        # A value is copied where it is put: later steps may change it there, and the patch is kept as it came.
        self.document = jsonpatch.JsonPatch([step]).apply(self.document, in_place=True)
        self._ways.append(way)

    def _move(self, source: str, target: str) -> None:
        """A removal and an addition, as RFC 6902 (4.4) says: either may shift what the other leads to."""
        value = jsonpointer.resolve_pointer(self.document, source)
        if isinstance(value, jsonpointer.EndOfList) or target.startswith(f"{source}/"):
            raise ValueError("nothing stands there, or it would be moved into itself")
        if source != target:
            self.make({"op": "remove", "path": source})
            self.make({"op": "add", "path": target, "value": value})

    def _take(self, keys: list[str]) -> None:
        """Copy what stands along a pointer, so that it may be written to."""
        self.document = at = self._copy(self.document)
        for key in keys:
            place: Any = int(key) if isinstance(at, list) else key
            at[place] = self._copy(at[place])
            at = at[place]

    def _copy(self, node: Any) -> Any:
        if id(node) in self._own or not isinstance(node, dict | list):
            return node
        made: Any = dict(node) if isinstance(node, dict) else list(node)
        self._own[id(made)] = made
        return made

    def _way_back(self, step: dict[str, Any]) -> Patch:
        """Steps that lead back from one, from what stands at its pointers now."""
        op, path = step["op"], step["path"]
        if op == "test":
            return []
        if not path:
            return [{"op": "replace", "path": "", "value": self.document}]
        parent, place, before = self._standing(path)
        if op == "remove":
            return [{"op": "add", "path": path, "value": before}]
        if op == "replace":
            if _is_equal(before, step["value"]):
                return []
            return [{"op": "replace", "path": path, "value": before}]
        if isinstance(parent, dict) and place in parent:
            if op == "add" and _is_equal(before, step["value"]):
                return []
            return [{"op": "replace", "path": path, "value": before}]
        # A list that was added to at its end is shorter again without what stands there now.
        last = f"{path[:-1]}{len(parent)}" if place == "-" else path
        return [{"op": "remove", "path": last}]

    def _standing(self, path: str) -> tuple[Any, Any, Any]:
        """What a pointer leads into, its last part, and what stands there; None for nothing."""
        *keys, last = jsonpointer.JsonPointer(path).parts
        parent = self.document
        for key in keys:
            parent = parent[int(key)] if isinstance(parent, list) else parent[key]
        if isinstance(parent, list):
            inside = last.isascii() and last.isdigit() and int(last) < len(parent)
            return parent, last, parent[int(last)] if inside else None
        return parent, last, parent.get(last)


def _is_equal(one: Any, other: Any) -> bool:
    """Equal as JSON: a truth value is no number."""
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() == other.keys() and all(_is_equal(part, other[key]) for key, part in one.items())
    if isinstance(one, list) and isinstance(other, list):
        return len(one) == len(other) and all(map(_is_equal, one, other))
    return type(one) is type(other) and one == other


def _added(document: Any, step: dict[str, Any]) -> Any:
    """What a step adds to a document."""
    if step.get("op") == "copy":
        return jsonpointer.resolve_pointer(document, step["from"])
    return step.get("value")
