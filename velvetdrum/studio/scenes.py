"""Documents as tasks are given them: parsed once in each process, and known by a name from then on."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from threading import Lock

from cachetools import LRUCache

from velvetdrum.scene.document import Document, Project, parse


@dataclass(frozen=True)
class Scene:
    """A document as text, and a name that no other document has: what is sent to a worker is read there only once."""

    name: str
    text: str

    @classmethod
    def of(cls, document: Document) -> Scene:
        """A scene by its content."""
        text = json.dumps(document)
        return cls(hashlib.sha256(text.encode()).hexdigest(), text)

    @property
    def document(self) -> Document:
        """The document anew."""
        found: Document = json.loads(self.text)
        return found


class Scenes:
    """The scenes that were asked for last, parsed. Safe for several threads."""

    def __init__(self, most: int) -> None:
        self._parsed: LRUCache[str, Project] = LRUCache(most)
        self._lock = Lock()

    def project(self, scene: Scene) -> Project:
        """A scene parsed. Raises ProjectError."""
        with self._lock:
            found = self._parsed.get(scene.name)
        if found is None:
            found = parse(scene.document)
            with self._lock:
                self._parsed[scene.name] = found
        return found
