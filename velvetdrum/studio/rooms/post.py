"""Channels: what they take, whether an export will fit, and posting what is made."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, abort, jsonify

from velvetdrum.channels.limits import Channel, ChannelError, against_plan
from velvetdrum.deliver.plan import plan_wanted
from velvetdrum.store import exports
from velvetdrum.store.posts import PostRow
from velvetdrum.studio.http.fields import Text
from velvetdrum.studio.http.requests import is_ident, project_or_404, services, takes
from velvetdrum.studio.rooms.export import WANTED

blueprint = Blueprint("post", __name__)


@blueprint.get("/channels")
def listed() -> Any:
    """The channels that are known, with what each takes."""
    return jsonify([_described(channel) for channel in _channels()])


@blueprint.post("/projects/<ident>/fitting")
@takes(**WANTED, channel=Text(40, "A channel's id", least=1))
def fitting(ident: str, given: dict[str, Any]) -> Any:
    """What a channel would refuse of an export, before it is made; an empty list when it takes it."""
    row, here = project_or_404(ident), services()
    channel = _channel(given["channel"])
    plan = plan_wanted(row.document, given)
    tracks = row.document["tracks"]
    recording = here.recording(tracks[0]["media"]) if tracks else None
    facts = recording.facts if recording else None
    problems = against_plan(
        channel,
        plan,
        loudness_lufs=facts.loudness_lufs if facts else None,
        peak_dbtp=facts.true_peak_dbtp if facts else None,
        captions=bool(plan.captions) or bool(row.document.get("cue_tracks")),
    )
    return jsonify(problems=problems)


@blueprint.post("/exports/<ident>/posts")
@takes(channel=Text(40, "A channel's id", least=1), title=Text(200, "What it is called there", default=""))
def begin(ident: str, given: dict[str, Any]) -> Any:
    """Post a finished file to a channel, in the background."""
    row = services().exports.find(ident) if is_ident(ident) else None
    if row is None or row.state != "done" or row.removed_at is not None:
        abort(404, "There is no such finished file.")
    channel = _channel(given["channel"])
    key = services().posts.begin(row.id, channel.id, given["title"] or row.name.rpartition(".")[0])
    return jsonify(_shown(_post(key))), 202


@blueprint.get("/exports/<ident>/posts")
def of_export(ident: str) -> Any:
    """A file's posts, the newest first."""
    return jsonify([_shown(row) for row in services().posts.of_export(ident)] if is_ident(ident) else [])


@blueprint.get("/posts/<ident>")
def state(ident: str) -> Any:
    """How far a post is, and what came back."""
    return jsonify(_shown(_post(ident)))


@blueprint.post("/posts/<ident>/cancel")
@takes()
def cancel(ident: str, given: dict[str, Any]) -> Any:
    """Stop sending a post; what was sent is kept."""
    services().posts.cancel(_post(ident).id)
    return jsonify(cancelled=ident)


@blueprint.post("/posts/<ident>/again")
@takes()
def again(ident: str, given: dict[str, Any]) -> Any:
    """Send a post again, on from where it stopped."""
    row = _post(ident)
    if row.state in ("failed", "cancelled"):
        services().posts.again(ident)
    return jsonify(_shown(_post(ident))), 202


def _channels() -> tuple[Channel, ...]:
    try:
        return services().posts.channels
    except ChannelError as problem:
        abort(422, f"Your own channels can't be read. {problem}")


def _channel(ident: str) -> Channel:
    result = next((channel for channel in _channels() if channel.id == ident), None)
    return result or abort(404, "There is no such channel.")


def _post(ident: str) -> PostRow:
    row = services().posts.find(ident) if is_ident(ident) else None
    return row or abort(404, "There is no such post.")


def _shown(row: PostRow) -> dict[str, Any]:
    made = exports.find(services().db, row.export_id)
    return {
        "id": row.id,
        "export": row.export_id,
        "channel": row.channel,
        "state": row.state,
        "sent": row.sent,
        "bytes": made.bytes if made else None,
        "answer": row.answer,
    }


def _described(channel: Channel) -> dict[str, Any]:
    ranges = {
        name: {word: value for word, value in (("least", item.least), ("most", item.most)) if abs(value) < 1e300}
        for name, item in channel.ranges.items()
    }
    lists = {name: list(words) for name, words in channel.lists.items()}
    return {
        "id": channel.id,
        "name": channel.name,
        "about": channel.about,
        "limits": ranges | lists | {"captions": channel.captions},
    }
