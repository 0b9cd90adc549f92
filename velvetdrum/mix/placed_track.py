"""What is mixed: recordings with their places on the timeline and what is done to them, as plain values."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass, replace
from functools import cached_property
from typing import Any

from velvetdrum.audio.decode import RATE

PARTS = {"all": "All of it", "percussive": "Percussive part", "harmonic": "Harmonic part"}
"""What may be heard of a sound, by what projects store."""
FADES = {"linear": "Linear", "power": "Equal power", "smooth": "Smooth", "level": "Even in dB"}
"""Curves of fades, by what projects store."""


@dataclass(frozen=True)
class Ducking:
    """How far a track goes down under voices. Levels in dB, times in ms."""

    depth_db: float
    threshold_db: float
    attack_ms: float
    hold_ms: float
    release_ms: float
    by: tuple[str, ...]
    """Ids of the tracks that it goes down under."""


@dataclass(frozen=True)
class VoiceChain:
    """What makes a voice even: the corner of a high-pass in Hz (0: none), and how much of the rest, 0 to 1."""

    high_pass_hz: float = 0.0
    level: float = 0.0
    gate: float = 0.0
    deess: float = 0.0

    @property
    def idle(self) -> bool:
        """True when it changes nothing."""
        return not (self.high_pass_hz or self.level or self.gate or self.deess)


@dataclass(frozen=True)
class PlacedTrack:
    """A recording on the timeline. Second `at_s` of the timeline is second `in_s` of the recording; it goes on for
    `length_s` seconds, from `out_s` on again from `in_s`."""

    id: str
    media: str
    at_s: float
    in_s: float
    out_s: float
    length_s: float
    gain_db: float = 0.0
    pan: float = 0.0
    """-1 is left, 1 is right."""
    fade_in_s: float = 0.0
    fade_out_s: float = 0.0
    fade: str = "power"
    points: tuple[tuple[float, float], ...] = ()
    """Seconds of the timeline and gains in dB, in order of time: straight lines between."""
    voice: VoiceChain = VoiceChain()
    ducking: Ducking | None = None
    heard: bool = True
    """False for one that is not in the sum, but that others may go down under."""

    @property
    def span(self) -> tuple[int, int]:
        """First sample of the timeline at which it is, and the one at which it is no longer."""
        first = round(self.at_s * RATE)
        return first, first + round(self.length_s * RATE)

    @property
    def cut(self) -> tuple[int, int]:
        """First sample of the recording that is used, and how many are."""
        first = round(self.in_s * RATE)
        return first, max(round(self.out_s * RATE) - first, 1)

    @property
    def alone(self) -> PlacedTrack:
        """It as it is before its fader: in its place, and nothing more."""
        return PlacedTrack(self.id, self.media, self.at_s, self.in_s, self.out_s, self.length_s)


@dataclass(frozen=True)
class MixSpec:
    """All that a sum is made of."""

    tracks: tuple[PlacedTrack, ...]
    part: str = "all"

    @cached_property
    def key(self) -> str:
        """A name of 64 hexadecimal digits for what it sounds like, whatever its tracks are called."""
        ids = {track.id: str(number) for number, track in enumerate(self.tracks)}
        tracks = [
            asdict(
                replace(
                    track,
                    id=ids[track.id],
                    ducking=track.ducking
                    and replace(track.ducking, by=tuple(sorted(ids[one] for one in track.ducking.by if one in ids))),
                )
            )
            for track in self.tracks
        ]
        text = json.dumps(["sum", 1, self.part, tracks], sort_keys=True)
        return hashlib.sha256(text.encode()).hexdigest()

    @property
    def media(self) -> tuple[str, ...]:
        """Content hashes of the recordings that it is made of, each once."""
        return tuple(dict.fromkeys(track.media for track in self.tracks))

    @property
    def end_s(self) -> float:
        """Where the last of its tracks ends, in seconds of the timeline."""
        return max((track.at_s + track.length_s for track in self.tracks), default=0.0)

    def plain(self) -> dict[str, Any]:
        """It as values that JSON has."""
        return asdict(self)


def mix_of(given: dict[str, Any]) -> MixSpec:
    """A mix from what `MixSpec.plain` gave.

    Parameters
    ----------
    given
        The values.
    """
    tracks = []
    for one in given["tracks"]:
        ducking = one["ducking"] and Ducking(**(one["ducking"] | {"by": tuple(one["ducking"]["by"])}))
        points = tuple((float(time), float(value)) for time, value in one["points"])
        changed = {"voice": VoiceChain(**one["voice"]), "ducking": ducking, "points": points}
        tracks.append(PlacedTrack(**(one | changed)))
    return MixSpec(tuple(tracks), given["part"])
