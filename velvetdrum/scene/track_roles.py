"""What new tracks of a project are: their roles by the names of files, and the patch that adds one."""

from __future__ import annotations

import re
from typing import Any

from velvetdrum.scene.tracks import COLOURS
from velvetdrum.scene.tracks_section import parse_tracks

_ROLE_WORDS = (
    ("voice", ("voice", "vocal", "vox", "speech", "host", "talk", "narrat", "spoken", "notice")),
    ("kick", ("kick", "bassdrum", "bd")),
    ("snare", ("snare", "clap", "sd", "rim")),
    ("hats", ("hat", "hats", "hh", "cymbal", "shaker", "ride")),
    ("drums", ("drum", "drums", "perc", "percussion", "beat", "toms")),
    ("bass", ("bass", "sub", "808")),
    ("keys", ("keys", "piano", "synth", "organ", "rhodes", "lead")),
    ("guitar", ("guitar", "gtr")),
    ("strings", ("string", "pad", "pads", "violin", "cello", "choir")),
    ("bed", ("bed", "music", "underscore", "backing", "ambience", "atmo")),
)
"""Words in the names of files by which roles are guessed, in the order in which they are looked for."""


def guessed_role(name: str) -> str:
    """The role that the name of a file suggests; empty where it says nothing.

    Parameters
    ----------
    name
        The name.
    """
    words = re.split(r"[^a-z0-9]+", name.rsplit(".", 1)[0].lower())
    spaced = f" {' '.join(words)}"
    for role, parts in _ROLE_WORDS:
        # Short ones are words of their own, longer ones begin one.
        if any(f" {part}" in spaced if len(part) > 4 else part in words for part in parts):
            return role
    return ""


def added_track(document: dict[str, Any], track: dict[str, Any], duration_s: float) -> list[dict[str, Any]]:
    """The patch (RFC 6902) that adds a recording to a project: from the begin of the used part on, and no longer than
    that; with the role that its name suggests. The first of a project is used whole.

    Parameters
    ----------
    document
        The document.
    track
        The new track: its id, media, name, in and out points.
    duration_s
        How long its recording is, in seconds.
    """
    tracks = document.get("tracks", [])
    role = guessed_role(track["name"])
    made = track | {"colour": COLOURS[len(tracks) % len(COLOURS)], "settings": {"role": role} if role else {}}
    known = parse_tracks(document, []) if tracks else None
    if known is None:
        return [{"op": "add", "path": "/tracks/-", "value": made}]
    steps: list[dict[str, Any]] = []
    first = tracks[0]
    if len(tracks) == 1 and not first.get("settings") and guessed_role(first["name"]):
        steps.append({"op": "add", "path": "/tracks/0/settings", "value": {"role": guessed_role(first["name"])}})
    if document.get("used") is None:
        steps.append({"op": "add", "path": "/used", "value": {"in_s": known.in_s, "out_s": known.out_s}})
    # A stem of the same length lies where the others lie.
    alike = all(
        abs(other.out_s - other.in_s - duration_s) < 0.05 and other.at_s == other.in_s for other in known.tracks
    )
    if not alike:
        length = min(duration_s, max(known.out_s - known.in_s, 0.05))
        made |= {"at_s": known.in_s, "in_s": 0.0, "out_s": length}
    return [*steps, {"op": "add", "path": "/tracks/-", "value": made}]
