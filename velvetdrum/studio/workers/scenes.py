"""Documents as tasks are given them: known by a name, parsed once in each process, and changed there by patches.

The name comes from the content: a draft that becomes an edit, and an edit that is taken back, are known already. A
worker that holds the scene that a patch was made on makes the patch on what it has parsed; one that does not begins
with the text that the scene goes back to.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from threading import Lock
from typing import Any

import orjson
from cachetools import LRUCache

from velvetdrum.scene.document import Document, Project
from velvetdrum.scene.edits import parsed, tried

Patch = list[dict[str, Any]]

_MOST_PATCHES, _MOST_PATCH_TEXT = 24, 1 << 18
"""Patches after which a scene is told by its whole text again, and how long they are together at the most."""

_DEPTH = 4
"""How deep in a document parts have digests of their own: a cue, a layer's keyframes, a drawn curve."""


@dataclass(frozen=True)
class Scene:
    """A document by its name: the text that it goes back to, under that text's name, and the patches made since, each
    with the name of what it led to."""

    name: str
    text: str
    base: str
    patches: tuple[tuple[str, str], ...] = ()


class NamedScene:
    """A document with its scene, and the digests of its parts, which what is made from it takes over."""

    def __init__(self, document: Document, before: NamedScene | None = None, patch: Patch | None = None) -> None:
        self.document = document
        self._known = before._digests if before else {}
        self._digests: dict[int, tuple[Any, bytes]] = {}
        name = self._digest(document, 0).hex()
        self._known = {}
        if before is not None and patch is not None and (told := _with_patch(before.scene, name, patch)):
            self.scene: Scene = told
        else:
            self.scene = Scene(name, orjson.dumps(document).decode(), name)

    @property
    def project(self) -> Project:
        """The document parsed."""
        return parsed(self.document)

    def drafted(self, patch: Patch) -> NamedScene:
        """The document as it would be after a patch. Raises ProjectError."""
        return NamedScene(tried(self.document, patch), self, patch)

    def changed(self, document: Document) -> NamedScene:
        """Another document that shares parts with this one."""
        return NamedScene(document, self)

    def _digest(self, value: Any, depth: int) -> bytes:
        if not isinstance(value, dict | list):
            return hashlib.sha256(orjson.dumps(value)).digest()
        known = self._known.get(id(value))
        if known is None or known[0] is not value:
            known = value, self._digest_of_parts(value, depth)
        else:
            self._keep(value, depth)
        self._digests[id(value)] = known
        return known[1]

    def _digest_of_parts(self, value: Any, depth: int) -> bytes:
        if depth >= _DEPTH:
            return hashlib.sha256(orjson.dumps(value)).digest()
        seen = hashlib.sha256(b"{" if isinstance(value, dict) else b"[")
        for key, part in value.items() if isinstance(value, dict) else enumerate(value):
            seen.update(orjson.dumps(key) + self._digest(part, depth + 1))
        return seen.digest()

    def _keep(self, value: Any, depth: int) -> None:
        """Take over the digests of a part that is the same."""
        if depth >= _DEPTH:
            return
        for part in value.values() if isinstance(value, dict) else value:
            if isinstance(part, dict | list) and (known := self._known.get(id(part))):
                self._digests[id(part)] = known
                self._keep(part, depth + 1)


def _with_patch(scene: Scene, name: str, patch: Patch) -> Scene | None:
    """A scene with one more patch; None where they have become too many or too long."""
    patches = (*scene.patches, (name, orjson.dumps(patch).decode()))
    if len(patches) > _MOST_PATCHES or sum(len(text) for _, text in patches) > _MOST_PATCH_TEXT:
        return None
    return Scene(name, scene.text, scene.base, patches)


class Scenes:
    """The scenes that were asked for last, parsed. Safe for several threads."""

    def __init__(self, most: int) -> None:
        self._held: LRUCache[str, Document] = LRUCache(most)
        self._lock = Lock()

    def document(self, scene: Scene) -> Document:
        """The document of a scene, which nobody may write to. Raises ProjectError."""
        made = len(scene.patches)
        while (document := self._find(scene.patches[made - 1][0] if made else scene.base)) is None and made:
            made -= 1
        if document is None:
            document = self._keep(scene.base, orjson.loads(scene.text))
        for name, patch in scene.patches[made:]:
            document = self._keep(name, tried(document, orjson.loads(patch)))
        return document

    def project(self, scene: Scene) -> Project:
        """A scene parsed. Raises ProjectError."""
        return parsed(self.document(scene))

    def _find(self, name: str) -> Document | None:
        with self._lock:
            return self._held.get(name)

    def _keep(self, name: str, document: Document) -> Document:
        with self._lock:
            self._held[name] = document
        return document


_SCENES = Scenes(16)
"""Those of this process."""


def document_of(scene: Scene) -> Document:
    """Worker: the document of a scene, which nobody may write to. Raises ProjectError."""
    return _SCENES.document(scene)


def project_of(scene: Scene) -> Project:
    """Worker: a scene parsed; while it plays, all ask for the same one. Raises ProjectError."""
    return _SCENES.project(scene)
