"""The bin: deleted projects, which stay for a while, then go with all that was made of them."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from velvetdrum.store import projects

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

_DAY_S = 86_400.0


class Bin:
    """Deleted projects of a data folder."""

    days = 30
    """How long they stay."""

    def __init__(self, services: Services) -> None:
        self._services = services

    def purge(self, ident: str) -> bool:
        """Forget a deleted project for good, with the files of its exports; False where it is not in the bin."""
        here = self._services
        if ident not in {row.id for row in projects.binned(here.db)}:
            return False
        here.exports.remove(here.exports.of_project(ident))
        return projects.purge(here.db, ident)

    def purge_old(self) -> int:
        """Forget those that have been in the bin for its days; gives how many."""
        before = time.time() - self.days * _DAY_S
        return sum(self.purge(row.id) for row in projects.binned(self._services.db) if row.deleted_at < before)
