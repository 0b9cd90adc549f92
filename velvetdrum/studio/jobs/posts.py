"""Posting finished files to channels: in the background, resumed where they stopped."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

from velvetdrum.channels.client import Interrupted, NotReached, Refused, Service
from velvetdrum.channels.limits import Channel, known_channels
from velvetdrum.store import exports, posts
from velvetdrum.store.posts import PostRow
from velvetdrum.studio.jobs.background import BackgroundJob

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

ADDRESS = "VELVETDRUM_CHANNELS"
"""Environment variable with the address of the channels' service."""

USUAL = "http://127.0.0.1:8790"
OWN = "channels.json"
"""A user's own description of channels, in the data folder."""


class Posts(BackgroundJob[PostRow]):
    """Finished files that are sent to channels, on from where they stopped."""

    rows = posts
    said_in = "answer"
    refusals = (NotReached,)
    heavy = no_room = "The file can't be read just now. Try it again."
    fault = "Something went wrong while it was sent. Try it again."

    def __init__(self, services: Services) -> None:
        super().__init__(services)
        self.service = Service(os.environ.get(ADDRESS, USUAL).rstrip("/"))

    @property
    def channels(self) -> tuple[Channel, ...]:
        """All channels that are known. Raises ChannelError where the user's own file can't be read."""
        return known_channels(self._services.data / OWN)

    def of_export(self, export_id: str) -> list[PostRow]:
        """The posts of an export, as they are by now."""
        return self.by_now(lambda: posts.of_export(self._services.db, export_id))

    def begin(self, export_id: str, channel: str, title: str) -> str:
        """Post a finished file; gives the id under which to ask how far it is."""
        ident = posts.create(self._services.db, export_id, channel, title)
        self.run(ident)
        return ident

    def again(self, ident: str) -> None:
        """Send one again, on from where it stopped."""
        posts.set_running(self._services.db, ident)
        self.run(ident)

    def work(self, row: PostRow) -> dict[str, Any]:
        here = self._services
        made = exports.find(here.db, row.export_id)
        if made is None:
            raise NotReached("The export was deleted. Make it again, then post it.")
        try:
            result = self.service.post(
                row.channel,
                here.exports.file(made),
                made.name,
                row.title,
                upload=row.upload,
                captions=bool(made.plan.get("captions")) or bool(made.document.get("cue_tracks")),
                sent=lambda count, upload: posts.set_sent(here.db, row.id, count, upload),
                cancelled=lambda: self.is_stopped(row.id),
            )
        except Interrupted:
            return {"state": "cancelled", "answer": "Stopped before all of it was sent."}
        except Refused as problem:
            return {"state": "failed", "answer": f"Refused: {problem}"}
        except FileNotFoundError:
            return {"state": "failed", "answer": "The file was cleaned up. Make it again, then post it."}
        at = result.get("address")
        return {"answer": f"Posted as {at}." if isinstance(at, str) else "Posted."}

    def write(self, ident: str, outcome: dict[str, Any]) -> None:
        posts.end(self._services.db, ident, outcome["state"], outcome["answer"])
