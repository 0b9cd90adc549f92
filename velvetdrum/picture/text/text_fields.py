"""Fields in a text: what stands in braces is replaced by what it names at a time, like {remaining m:ss} or {title}.

Every field is one function; what is no field stays as it is written.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import date
from fractions import Fraction
from math import ceil, floor

import numpy as np

from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.words.cues import Cue

_FIELD = re.compile(r"\{([a-z]+)(?:[ :]([^{}]{1,80}))?\}")
_CLOCK = re.compile(r"^(h+:)?(m+:)?(s+)(?:\.(s{1,3}))?$")
_MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)

TextField = Callable[[RenderContext, str], str]
FIELDS: dict[str, tuple[TextField, str]] = {}
"""Every field by its name, with a line of help."""


def text_field(name: str, help: str) -> Callable[[TextField], TextField]:
    """Decorator: makes a field known."""

    def register(found: TextField) -> TextField:
        FIELDS[name] = (found, help)
        return found

    return register


def filled(text: str, at: RenderContext) -> str:
    """A text with its fields filled in as they are at a time."""
    if "{" not in text:
        return text

    def value(found: re.Match[str]) -> str:
        known = FIELDS.get(found[1])
        return found[0] if known is None else known[0](at, (found[2] or "").strip())

    return _FIELD.sub(value, text)


def has_fields(text: str) -> bool:
    """True when a text has fields, and so may change over time."""
    return any(result[1] in FIELDS for result in _FIELD.finditer(text))


def clock_text(seconds: Fraction, form: str, rate: Fraction, *, up: bool = False) -> str:
    """Seconds in a format: h:mm:ss, m:ss, ss, with .s to .sss for decimals, or f for frames. `up`: rounded up, for what
    counts down to nothing."""
    whole = ceil if up else floor
    if form == "f":
        return str(max(whole(seconds * rate), 0))
    result = _CLOCK.match(form or "m:ss")
    if not result:
        result = _CLOCK.match("m:ss")
        assert result
    digits = len(result[4] or "")
    units = max(whole(seconds * 10**digits), 0)
    rest, part = divmod(units, 10**digits)
    out = ""
    if result[1]:
        hours, rest = divmod(rest, 3600)
        out += f"{hours:0{len(result[1]) - 1}d}:"
    if result[2]:
        minutes, rest = divmod(rest, 60)
        out += f"{minutes:0{len(result[2]) - 1}d}:"
    out += f"{rest:0{len(result[3])}d}"
    return out + (f".{part:0{digits}d}" if digits else "")


def _length(at: RenderContext) -> Fraction:
    return Fraction(at.project.length_s).limit_denominator(48_000) if at.project else Fraction(0)


def _rate(at: RenderContext) -> Fraction:
    return at.project.rate if at.project else Fraction(30)


def _tag(at: RenderContext, name: str) -> str:
    return at.project.tags.get(name, "") if at.project else ""


@text_field("title", "The title among the project's tags, else the project's name.")
def _title(at: RenderContext, form: str) -> str:
    return _tag(at, "title") or (at.project.name if at.project else "")


@text_field("artist", "The artist among the project's tags.")
def _artist(at: RenderContext, form: str) -> str:
    return _tag(at, "artist")


@text_field("speaker", "Who speaks in the cue that stands now, else the speaker among the tags.")
def _speaker(at: RenderContext, form: str) -> str:
    cue = _cue_at(at)
    return (cue.speaker if cue else "") or _tag(at, "speaker")


@text_field("track", "The name of the recording.")
def _track(at: RenderContext, form: str) -> str:
    return at.project.track.name.rsplit(".", 1)[0] if at.project and at.project.track else ""


@text_field("elapsed", "How long it has gone, as m:ss, h:mm:ss, ss.s or f for frames.")
def _elapsed(at: RenderContext, form: str) -> str:
    return clock_text(at.time, form, _rate(at))


@text_field("remaining", "How long it still goes, in the same formats.")
def _remaining(at: RenderContext, form: str) -> str:
    return clock_text(max(_length(at) - at.time, Fraction(0)), form, _rate(at), up=True)


@text_field("total", "How long all of it is, in the same formats.")
def _total(at: RenderContext, form: str) -> str:
    return clock_text(_length(at), form, _rate(at), up=True)


@text_field("date", "The date among the tags (2026-11-26), as it is or as D Month YYYY, DD.MM.YYYY and the like.")
def _date(at: RenderContext, form: str) -> str:
    text = _tag(at, "date")
    try:
        day = date.fromisoformat(text)
    except ValueError:
        return text
    parts = {
        "YYYY": f"{day.year:04d}",
        "Month": _MONTHS[day.month - 1],
        "Mon": _MONTHS[day.month - 1][:3],
        "MM": f"{day.month:02d}",
        "DD": f"{day.day:02d}",
        "D": str(day.day),
    }
    return re.sub("YYYY|Month|Mon|MM|DD|D", lambda found: parts[found[0]], form) if form else text


@text_field("cue", "The number of the cue that stands now, or stood last.")
def _cue(at: RenderContext, form: str) -> str:
    track = at.project.cue_track("") if at.project else None
    return str(track.index_at(float(at.time) + at.project.begin_s) + 1) if track and at.project else ""


@text_field("cues", "How many cues there are.")
def _cues(at: RenderContext, form: str) -> str:
    track = at.project.cue_track("") if at.project else None
    return str(len(track.row)) if track else ""


@text_field("chapter", "The last marker that was passed.")
def _chapter(at: RenderContext, form: str) -> str:
    passed = [marker.text for marker in (at.project.markers if at.project else ()) if marker.time_s <= at.time + 1e-6]
    return passed[-1] if passed else ""


@text_field("tempo", "The tempo in beats a minute; a number of decimals may follow.")
def _tempo(at: RenderContext, form: str) -> str:
    if at.beats is None:
        return ""
    return f"{at.beats.tempo_bpm:.{_decimals(form, 0)}f}"


@text_field("level", "The level of a signal by its name, in dB for those that follow the sound, else in per cent.")
def _level(at: RenderContext, form: str) -> str:
    named = next((item for item in at.signals.signals.values() if item.name == form), None) if at.signals else None
    if named is None or at.signals is None:
        return "–"
    levels = getattr(named.signal, "levels_at", None)
    if levels and at.use and at.project:
        return f"{float(levels(np.array([float(at.time)]), at.use, at.project.length_s)[0]):.0f} dB".replace(
            "-", "\u2212"
        )
    return f"{100 * at.signals.value(named.id, float(at.time)):.0f} %"


def _decimals(form: str, otherwise: int) -> int:
    return int(form) if form.isdigit() and len(form) == 1 else otherwise


def _cue_at(at: RenderContext) -> Cue | None:
    track = at.project.cue_track("") if at.project else None
    return track.at(float(at.time) + at.project.begin_s) if track and at.project else None
