"""The tracks of a project: recordings with their places, levels and what is done to them, and the sum that they are."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, TypeGuard

from velvetdrum.declare.schema import Declared
from velvetdrum.declare.settings import choice, flag, is_content_key, is_number, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.mix.placed_track import FADES, PARTS, Ducking, MixSpec, PlacedTrack, VoiceChain
from velvetdrum.scene.problems import Problem, report_unknown

LONGEST_S = 3 * 3600.0
MOST_TRACKS = 32
MOST_POINTS = 2000
ROLES = {
    "": "None",
    "voice": "Voice",
    "bed": "Bed",
    "kick": "Kick",
    "snare": "Snare",
    "hats": "Hats",
    "drums": "Drums",
    "bass": "Bass",
    "keys": "Keys",
    "guitar": "Guitar",
    "strings": "Strings",
}
"""What a track is in the sum, by what projects store."""
COLOURS = ("#e0ac55", "#5fc4b4", "#a99bff", "#ff7a66", "#7cc0f2", "#a8cf6a")
"""Colours of tracks that have none of their own, in turn."""
VOICE = "voice"
_KNOWN = {"id", "media", "name", "in_s", "out_s", "at_s", "length_s", "colour", "settings", "gain"}
_DUCKED = ("ducked", (True,))


class TrackSettings(Declared):
    """What is done to a recording before it is added to the others."""

    title = "Track"

    role: str = choice("", ROLES, help="What it is in the sum: beds go down under voices, words are found in voices.")
    gain_db: float = number(0, lo=-60, hi=24, unit="dB", step=0.1, label="Gain", help="How much louder it is.")
    muted: bool = flag(False, label="Mute", help="It is not in the sum.")
    solo: bool = flag(False, label="Solo", help="While any track is solo, only those are in the sum.")
    pan: float = number(
        0,
        lo=-100,
        hi=100,
        unit="%",
        step=1,
        help="Left or right; a mono track keeps its loudness, of a stereo one the other side is turned down.",
    )
    fade_in_s: float = number(0, lo=0, hi=60, unit="s", step=0.05, label="Fade in", help="From silence, at its begin.")
    fade_out_s: float = number(0, lo=0, hi=60, unit="s", step=0.05, label="Fade out", help="To silence, at its end.")
    fade: str = choice("power", FADES, label="Fade curve", help="How its fades go.", advanced=True)
    ducked: bool = flag(False, label="Down under voices", group="motion", help="It goes down while a voice speaks.")
    depth_db: float = number(
        12, lo=0, hi=40, unit="dB", step=0.5, label="Depth", group="motion", when=_DUCKED, help="How far it goes down."
    )
    threshold_db: float = number(
        -24,
        lo=-40,
        hi=-3,
        unit="dB",
        step=0.5,
        label="Threshold",
        group="motion",
        when=_DUCKED,
        advanced=True,
        help="What counts as speech, below the loud syllables of each voice.",
    )
    attack_ms: float = number(
        150,
        lo=5,
        hi=2000,
        unit="ms",
        step=5,
        label="Attack",
        group="motion",
        when=_DUCKED,
        help="How long it takes to go down; it is down when the first syllable comes.",
    )
    hold_ms: float = number(
        500,
        lo=0,
        hi=5000,
        unit="ms",
        step=10,
        label="Hold",
        group="motion",
        when=_DUCKED,
        help="How long it stays down after a voice; pauses that are shorter do not lift it.",
    )
    release_ms: float = number(
        600,
        lo=5,
        hi=5000,
        unit="ms",
        step=10,
        label="Release",
        group="motion",
        when=_DUCKED,
        help="How long it takes to come back.",
    )
    high_pass_hz: float = number(
        0,
        lo=0,
        hi=300,
        unit="Hz",
        step=1,
        label="High-pass",
        group="sound",
        help="Leaves out rumble and blows below this frequency, 12 dB an octave; 0 leaves it as it is.",
    )
    level: float = percent(0, step=1, label="Even sentences", group="sound", help="Brings sentences to one loudness.")
    gate: float = percent(0, step=1, label="Quiet in pauses", group="sound", help="Turns it down where nobody speaks.")
    deess: float = percent(0, step=1, label="De-ess", group="sound", help="Holds sharp s and sh down.")

    @property
    def chain(self) -> VoiceChain:
        """What makes a voice even."""
        return VoiceChain(self.high_pass_hz, self.level / 100, self.gate / 100, self.deess / 100)


@dataclass(frozen=True)
class Track:
    """A recording in the project. Second `at_s` of the timeline is second `in_s` of the recording; it goes on for
    `length_s` seconds, again and again where that is more than from `in_s` to `out_s`."""

    id: str
    media: str
    name: str
    in_s: float
    out_s: float
    at_s: float
    length_s: float
    colour: str = ""
    settings: TrackSettings | None = None
    gain: tuple[tuple[float, float], ...] = ()
    """Seconds of the timeline and gains in dB, in order of time."""

    @property
    def plain(self) -> bool:
        """True for one that is heard as its recording lies on the disk."""
        as_it_lies = self.at_s == self.in_s and self.length_s == self.out_s - self.in_s
        neutral = self.settings is None or placed(self, ()) == placed(self, ()).alone
        return as_it_lies and not self.gain and neutral


@dataclass(frozen=True)
class Tracks:
    """All tracks of a project and what is used of their sum, in seconds of the timeline."""

    tracks: tuple[Track, ...]
    in_s: float
    out_s: float

    @property
    def single(self) -> bool:
        """True where the sum is one recording as it lies on the disk."""
        return len(self.tracks) == 1 and self.tracks[0].plain

    @property
    def mix(self) -> MixSpec:
        """The sum: tracks that are not muted, and voices that others go down under."""
        return mix_of_tracks(self.tracks)

    @property
    def key(self) -> str:
        """The content hash of the one recording, or the name of the sum."""
        return self.tracks[0].media if self.single else self.mix.key

    @property
    def voices(self) -> MixSpec | None:
        """The voices alone, before their faders: where words are found. None where the sum is all that there is."""
        named = [track for track in self.tracks if track.settings is not None and track.settings.role == VOICE]
        return MixSpec(tuple(placed(track, ()).alone for track in named)) if named and not self.single else None

    def heard(self, name: str) -> MixSpec | None:
        """What a name of a heard sound stands for: the empty one for the sum, an id for a track before its fader, each
        with `/percussive` or `/harmonic` for a part. None where there is no such track or part.

        Parameters
        ----------
        name
            The name.
        """
        ident, _, part = name.partition("/")
        if (part or "all") not in PARTS:
            return None
        if not ident:
            return MixSpec(self.mix.tracks, part or "all")
        track = next((track for track in self.tracks if track.id == ident), None)
        return None if track is None else MixSpec((placed(track, ()).alone,), part or "all")


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


def placed(track: Track, voices: Sequence[str], *, heard: bool = True) -> PlacedTrack:
    """A track as the mix takes it.

    Parameters
    ----------
    track
        The track.
    voices
        Ids of tracks that it goes down under.
    heard
        False for one that only others go down under.
    """
    own = track.settings or TrackSettings(TrackSettings.defaults())
    ducking = None
    if own.ducked and voices:
        ducking = Ducking(own.depth_db, own.threshold_db, own.attack_ms, own.hold_ms, own.release_ms, tuple(voices))
    return PlacedTrack(
        track.id,
        track.media,
        track.at_s,
        track.in_s,
        track.out_s,
        track.length_s,
        own.gain_db,
        own.pan / 100,
        own.fade_in_s,
        own.fade_out_s,
        own.fade,
        track.gain,
        own.chain,
        ducking,
        heard,
    )


def mix_of_tracks(tracks: Sequence[Track]) -> MixSpec:
    """The sum of tracks.

    Parameters
    ----------
    tracks
        All of them.
    """
    own = {track.id: track.settings or TrackSettings(TrackSettings.defaults()) for track in tracks}
    solo = any(settings.solo for settings in own.values())
    heard = {ident for ident, settings in own.items() if not settings.muted and (settings.solo or not solo)}
    voices = [track.id for track in tracks if own[track.id].role == VOICE and not own[track.id].muted]
    out = []
    for track in tracks:
        by = [ident for ident in voices if ident != track.id]
        needed = track.id in voices and any(own[other].ducked for other in heard if other != track.id)
        if track.id in heard or needed:
            out.append(placed(track, by, heard=track.id in heard))
    return MixSpec(tuple(out))


def listened(document: dict[str, Any]) -> set[str]:
    """Names of the sounds beside the sum that layers, signals and beats of a document listen to.

    Parameters
    ----------
    document
        The document.
    """
    rows: list[dict[str, Any]] = [*document.get("signals", []), *document.get("layers", [])]
    names = [row.get("settings", {}).get("listens", "") for row in rows]
    names.append(document.get("beats", {}).get("listens", ""))
    return {name for name in names if isinstance(name, str) and name}


def listening_to_the_sum(document: dict[str, Any]) -> dict[str, Any]:
    """A document whose layers, signals and beats listen to the sum in place of single tracks, for other recordings than
    its own; parts stay parts.

    Parameters
    ----------
    document
        The document; it is not written to.
    """
    names = {name: f"/{name.partition('/')[2]}".rstrip("/") for name in listened(document) if name[0] != "/"}

    def changed(settings: dict[str, Any]) -> dict[str, Any]:
        name = settings.get("listens", "")
        return settings | {"listens": names[name]} if name in names else settings

    if not names:
        return document
    out = dict(document)
    for row in ("signals", "layers"):
        if row in out:
            out[row] = [item | {"settings": changed(item.get("settings", {}))} for item in out[row]]
    if "beats" in out:
        out["beats"] = changed(out["beats"])
    return out


def parse_tracks(document: dict[str, Any], problems: list[Problem]) -> Tracks | None:
    """The tracks of a document; None where there are none, or where something is wrong with one.

    Parameters
    ----------
    document
        The document.
    problems
        What is wrong with it; what is found is added.
    """
    given = document.get("tracks")
    if not isinstance(given, list):
        problems.append(Problem("/tracks", "A project has a list of tracks, empty where it has no sound yet."))
        return None
    if len(given) > MOST_TRACKS:
        problems.append(Problem("/tracks", f"A project has up to {MOST_TRACKS} tracks, not {len(given)}."))
        return None
    before = len(problems)
    tracks = [_track(item, f"/tracks/{index}", problems) for index, item in enumerate(given)]
    if len({track.id for track in tracks if track}) < len(tracks) == len([track for track in tracks if track]):
        problems.append(Problem("/tracks", "Two tracks have the same id."))
    used = _used(document.get("used"), problems)
    if len(problems) > before or not tracks:
        return None
    whole = tuple(track for track in tracks if track)
    if used is None and len(whole) == 1:
        used = whole[0].at_s, whole[0].at_s + whole[0].length_s
    if used is None:
        used = min(track.at_s for track in whole), max(track.at_s + track.length_s for track in whole)
    return Tracks(whole, *used)


def tracks_schema() -> dict[str, Any]:
    """The tracks of a document as JSON Schema."""
    seconds = {"type": "number", "minimum": 0, "maximum": LONGEST_S + 1}
    point = {
        "type": "object",
        "required": ["time_s", "value"],
        "additionalProperties": False,
        "properties": {"time_s": seconds, "value": {"type": "number", "minimum": -60, "maximum": 24}},
    }
    return {
        "type": "array",
        "maxItems": MOST_TRACKS,
        "items": {
            "type": "object",
            "required": ["id", "media", "name", "in_s", "out_s"],
            "additionalProperties": False,
            "properties": {
                "id": {"type": "string", "minLength": 1, "maxLength": 64},
                "media": {"type": "string", "pattern": "^[0-9a-f]{64}$"},
                "name": {"type": "string", "maxLength": 300},
                "in_s": seconds,
                "out_s": seconds,
                "at_s": seconds | {"description": "Where its in point lies on the timeline; as in_s without it."},
                "length_s": seconds | {"description": "How long it goes on, looped where that is longer."},
                "colour": {"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"},
                "settings": TrackSettings.schema(),
                "gain": {"type": "array", "maxItems": MOST_POINTS, "items": point},
            },
        },
    }


def used_schema() -> dict[str, Any]:
    """What is used of the timeline, as JSON Schema."""
    seconds = {"type": "number", "minimum": 0, "maximum": LONGEST_S + 1}
    return {
        "type": "object",
        "required": ["in_s", "out_s"],
        "additionalProperties": False,
        "description": "The used part of the timeline; without it all of the tracks.",
        "properties": {"in_s": seconds, "out_s": seconds},
    }


def _used(given: Any, problems: list[Problem]) -> tuple[float, float] | None:
    if given is None:
        return None
    report_unknown(given, {"in_s", "out_s"}, "/used", "The used part", problems)
    low, high = (given.get("in_s"), given.get("out_s")) if isinstance(given, dict) else (None, None)
    if not is_seconds(low) or not is_seconds(high) or high - low < 0.05:
        problems.append(Problem("/used", "The used part goes from a second to one at least 0.05 s later."))
        return None
    return float(low), float(high)


def _track(item: Any, place: str, problems: list[Problem]) -> Track | None:
    given = item if isinstance(item, dict) else {}
    low, high = given.get("in_s"), given.get("out_s")
    texts = all(isinstance(given.get(key), str) for key in ("id", "media", "name"))
    if not texts or not is_seconds(low) or not is_seconds(high):
        problems.append(Problem(place, "A track needs its media, a name, and in and out points in seconds."))
        return None
    if high - low < 0.05:
        problems.append(Problem(f"{place}/out_s", "The out point must lie at least 0.05 s after the in point."))
        return None
    if not is_content_key(given["media"]):
        problems.append(Problem(f"{place}/media", "The track's media is the content hash of a recording."))
        return None
    report_unknown(given, _KNOWN, place, "A track", problems)
    if not 0 < len(given["id"]) <= 64 or "/" in given["id"] or len(given["name"]) > 300:
        problems.append(Problem(place, "A track's id has up to 64 characters without a slash, its name up to 300."))
        return None
    at_s, length_s = given.get("at_s", low), given.get("length_s", high - low)
    if not is_seconds(at_s) or not is_seconds(length_s) or length_s < 0.05 or at_s + length_s > LONGEST_S + 1:
        problems.append(Problem(place, "A track begins within 3 hours and lasts at least 0.05 s, up to their end."))
        return None
    colour = given.get("colour", "")
    if not isinstance(colour, str) or (colour and not _is_hex(colour)):
        problems.append(Problem(f"{place}/colour", "A track's colour is written as #rrggbb."))
        return None
    settings = None
    if given.get("settings"):
        if not isinstance(given["settings"], dict):
            problems.append(Problem(f"{place}/settings", "A track's settings are an object."))
            return None
        settings, wrong = TrackSettings.checked(TrackSettings.defaults() | given["settings"])
        problems += [Problem(f"{place}/settings/{name}", sentence) for name, sentence in wrong]
    gain = _gain(given.get("gain", []), f"{place}/gain", problems)
    return Track(
        given["id"],
        given["media"],
        given["name"],
        float(low),
        float(high),
        float(at_s),
        float(length_s),
        colour,
        settings,
        gain,
    )


def _gain(given: Any, place: str, problems: list[Problem]) -> tuple[tuple[float, float], ...]:
    sentence = f"Gains are up to {MOST_POINTS} points, each a time in seconds and -60 to 24 dB, in order of time."
    if not isinstance(given, list) or len(given) > MOST_POINTS:
        problems.append(Problem(place, sentence))
        return ()
    out: list[tuple[float, float]] = []
    for item in given:
        time, value = (item.get("time_s"), item.get("value")) if isinstance(item, dict) else (None, None)
        if not is_seconds(time) or not is_number(value) or not -60 <= value <= 24 or len(item) > 2:
            problems.append(Problem(place, sentence))
            return ()
        if out and time <= out[-1][0]:
            problems.append(Problem(place, sentence))
            return ()
        out.append((float(time), float(value)))
    return tuple(out)


def is_seconds(value: Any) -> TypeGuard[float]:
    """True for a time in seconds that a project may have.

    Parameters
    ----------
    value
        What was given.
    """
    return is_number(value) and 0 <= value <= LONGEST_S + 1


def _is_hex(text: str) -> bool:
    return len(text) == 7 and text[0] == "#" and all(sign in "0123456789abcdefABCDEF" for sign in text[1:])
