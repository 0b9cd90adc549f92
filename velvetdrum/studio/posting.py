"""Posting finished files to channels: in the background, gone on with where it stopped."""

from __future__ import annotations

import logging
import os
import sqlite3
from typing import TYPE_CHECKING

from velvetdrum.channels.client import Interrupted, NotReached, Refused, Service
from velvetdrum.channels.limits import Channel, known_channels
from velvetdrum.store import exports, posts
from velvetdrum.store.posts import PostRow
from velvetdrum.studio.outcomes import Outcomes

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

ADDRESS = "VELVETDRUM_CHANNELS"
"""Environment variable with the address of the channels' service."""

USUAL = "http://127.0.0.1:8790"
OWN = "channels.json"
"""A user's own description of channels, in the data folder."""


class Posts:
    """Posts, each in a thread of its own that sends."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._cancelled: set[str] = set()
        self._outcomes = Outcomes(services.stopping)
        self.service = Service(os.environ.get(ADDRESS, USUAL).rstrip("/"))

    @property
    def channels(self) -> tuple[Channel, ...]:
        """All channels that are known. Raises ChannelError where the user's own file can't be read."""
        return known_channels(self._services.data / OWN)

    def find(self, ident: str) -> PostRow | None:
        """The post with an id, as it is by now; None when there is none."""
        row = posts.find(self._services.db, ident)
        return self._outcomes.of(row) if row else None

    def of_export(self, export_id: str) -> list[PostRow]:
        """The posts of an export, as they are by now."""
        return [self._outcomes.of(row) for row in posts.of_export(self._services.db, export_id)]

    def resume(self) -> None:
        """Go on with those that a stopped server left."""
        for row in posts.unfinished(self._services.db):
            self._services.start(self._run, row.id)

    def begin(self, export_id: str, channel: str, title: str) -> str:
        """Post a finished file; gives the id under which to ask how far it is."""
        ident = posts.create(self._services.db, export_id, channel, title)
        self._services.start(self._run, ident)
        return ident

    def again(self, ident: str) -> None:
        """Send one again, on from where it stopped."""
        self._cancelled.discard(ident)
        posts.set_running(self._services.db, ident)
        self._outcomes.forget(ident)
        self._services.start(self._run, ident)

    def cancel(self, ident: str) -> None:
        """Stop sending."""
        self._cancelled.add(ident)

    def _run(self, ident: str) -> None:
        here = self._services
        row = self._outcomes.read(lambda: posts.find(here.db, ident))
        made = self._outcomes.read(lambda: exports.find(here.db, row.export_id)) if row else None
        if row is None or made is None:
            return
        state, answer = "failed", "Something went wrong while it was sent. Try it again."
        try:
            found = self.service.post(
                row.channel,
                here.exports.file(made),
                made.name,
                row.title,
                upload=row.upload,
                captions=bool(made.plan.get("captions")) or bool(made.document.get("cue_tracks")),
                sent=lambda count, upload: posts.set_sent(here.db, ident, count, upload),
                cancelled=lambda: ident in self._cancelled or here.stopping.is_set(),
            )
            state = "done"
            answer = f"Posted as {found['address']}." if isinstance(found.get("address"), str) else "Posted."
        except Interrupted:
            if here.stopping.is_set():
                return  # the next start goes on with it
            state, answer = "cancelled", "Stopped before all of it was sent."
        except Refused as problem:
            answer = f"Refused: {problem}"
        except NotReached as problem:
            answer = str(problem)
        except FileNotFoundError:
            answer = "The file was cleaned up. Make it again, then post it."
        except (OSError, sqlite3.Error):
            answer = "The file can't be read just now. Try it again."
        except Exception:
            logging.getLogger(__name__).exception("post")
        told = {"state": state, "answer": answer}
        self._outcomes.settle(ident, told, lambda: posts.end(here.db, ident, state, answer))
