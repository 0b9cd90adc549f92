"""The part of a document that holds tracks and what is used of their sum, and what of it is listened to."""

from __future__ import annotations

from typing import Any, TypeGuard

from velvetdrum.declare.settings import is_content_key, is_number
from velvetdrum.scene.problems import Problem, report_unknown
from velvetdrum.scene.tracks import LONGEST_S, MOST_POINTS, MOST_TRACKS, Track, Tracks, TrackSettings

_KNOWN = {"id", "media", "name", "in_s", "out_s", "at_s", "length_s", "colour", "settings", "gain"}


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

    out = dict(document)
    if out.get("beats", {}).get("moved"):
        # Beats that were moved are those of the recording that they were dragged on.
        out["beats"] = {name: value for name, value in out["beats"].items() if name != "moved"}
    if not names:
        return out
    for row in ("signals", "layers"):
        if row in out:
            out[row] = [item | {"settings": changed(item.get("settings", {}))} for item in out[row]]
    if "beats" in out:
        out["beats"] = changed(out["beats"])
    return out


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
