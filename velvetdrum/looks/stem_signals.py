"""A signal for each stem of a song, which hears that stem alone."""

from __future__ import annotations

from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.scene.tracks import COLOURS
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.pickup_fit import fit_pickup
from velvetdrum.signals.sources.pickup import Pickup

_STRUCK = {"kick", "snare", "hats", "drums"}
"""Roles whose strokes are followed, not their levels."""
_BANDS = {"kick": (30.0, 160.0), "bass": (30.0, 400.0), "hats": (4000.0, 16_000.0)}
_WHOLE = (30.0, 16_000.0)


def stem_signal(track: dict[str, Any], recording: Analysis, number: int) -> dict[str, Any]:
    """A signal that follows a stem: its strokes or its level, with a range read from it.

    Parameters
    ----------
    track
        The track in its stored form.
    recording
        Its analysis.
    number
        Which track it is, for a colour.
    """
    role = (track.get("settings") or {}).get("role", "")
    low, high = _BANDS.get(role, _WHOLE)
    settings = {"low_hz": low, "high_hz": high, "detector": "hits" if role in _STRUCK else "level"}
    length = track["out_s"] - track["in_s"]
    use = AudioRange(recording, track["in_s"], track["out_s"])
    quiet, loud = fit_pickup(Pickup(Pickup.defaults() | settings), use, length, 0.0, length)
    return new_signal(
        "pickup",
        track["name"].rsplit(".", 1)[0][:80],
        colour=track.get("colour") or COLOURS[number % len(COLOURS)],
        **settings,
        quiet_db=quiet,
        loud_db=loud,
        listens=track["id"],
    )
