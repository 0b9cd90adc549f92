"""Cue tracks of a project: rows of timed text, one a language, their cues by id; and its tags: title, artist and so on.

Cues stand under their ids, so that one edit is a small patch. Their times are seconds of the recording: what is cut
off it is not lost.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeGuard

from velvetdrum.declare.settings import is_number
from velvetdrum.scene.problems import Document, Problem
from velvetdrum.words.cues import LONGEST_S, LONGEST_SPEAKER, LONGEST_TEXT, MOST_CUES, MOST_WORDS, Cue, Word

MOST_TRACKS = 12
LONGEST_TAG = 200
TAGS = {"title": "Title", "artist": "Artist", "speaker": "Speaker", "date": "Date"}
"""What a project says of itself, for texts that show it."""
_CUE = {"start_s", "end_s", "text", "speaker", "words"}
_EDGE_S = 1e-6


@dataclass(frozen=True)
class CueTrack:
    """A row of cues in one language, by their ids, in order of time."""

    id: str
    name: str
    language: str
    cues: Mapping[str, Cue] = field(default_factory=dict)

    @cached_property
    def row(self) -> tuple[Cue, ...]:
        """The cues in order of time."""
        return tuple(self.cues.values())

    @cached_property
    def _starts(self) -> list[float]:
        return [cue.start_s for cue in self.row]

    def index_at(self, time_s: float) -> int:
        """Place of the last cue that has begun at a time, in seconds of the recording; -1 before the first."""
        return bisect_right(self._starts, time_s + _EDGE_S) - 1

    def at(self, time_s: float) -> Cue | None:
        """The cue that stands at a time: from its start on, no more at its end. Of two that overlap the later one."""
        for index in range(self.index_at(time_s), -1, -1):
            cue = self.row[index]
            if time_s + _EDGE_S < cue.end_s:
                return cue
            if index and self.row[index - 1].end_s <= cue.end_s:
                return None
        return None

    def all_at(self, time_s: float, most: int = 8) -> list[Cue]:
        """All cues that stand at a time, the earliest first, up to a number."""
        last = self.index_at(time_s)
        return [cue for cue in self.row[max(last - 40, 0) : last + 1] if time_s + _EDGE_S < cue.end_s][-most:]


def parse_cue_tracks(
    given: Any, problems: list[Problem], like: tuple[Document, tuple[CueTrack, ...]] | None = None
) -> tuple[CueTrack, ...]:
    """The cue tracks of a document; tells what is wrong with each. `like` are cue tracks, as they stand and parsed: a
    cue that both have, the very same object, is not parsed again."""
    if not isinstance(given, dict) or len(given) > MOST_TRACKS:
        problems.append(Problem("/cue_tracks", f"A project has up to {MOST_TRACKS} cue tracks, each under its id."))
        return ()
    out, count = [], 0
    known = {track.id: track for track in like[1]} if like else {}
    for ident, item in given.items():
        path = f"/cue_tracks/{ident[:64]}"
        if not isinstance(item, dict) or not 0 < len(ident) <= 64:
            problems.append(Problem(path, "A cue track is an object under an id of up to 64 characters."))
            continue
        name, language, cues = item.get("name", ""), item.get("language", ""), item.get("cues", {})
        texts = isinstance(name, str) and len(name) <= 120 and isinstance(language, str) and len(language) <= 35
        if not texts or not isinstance(cues, dict) or item.keys() - {"name", "language", "cues"}:
            problems.append(Problem(path, "A cue track has a name, a language and cues by their ids."))
            continue
        count += len(cues)
        before = like[0].get(ident) if like else None
        stood = before["cues"] if ident in known and isinstance(before, dict) and "cues" in before else {}
        parsed = known[ident].cues if ident in known else {}
        out.append(CueTrack(ident, name, language, _rows(cues, stood, parsed, path, problems)))
    if count > MOST_CUES:
        problems.append(Problem("/cue_tracks", f"A project has up to {MOST_CUES} cues; this one has {count}."))
    return tuple(out)


def _rows(
    cues: Document, stood: Document, parsed: Mapping[str, Cue], path: str, problems: list[Problem]
) -> Mapping[str, Cue]:
    """Cues in order of time; those that stood there before, the very same objects, are taken over as they were parsed
    then."""
    if cues is stood:
        return parsed
    changed = [key for key, cue in cues.items() if stood.get(key) is not cue]
    made = {key: _cue(key, cues[key], f"{path}/cues/{key[:64]}", problems) for key in changed}
    same_order = len(cues) == len(stood) and all(
        cue and key in parsed and parsed[key].start_s == cue.start_s for key, cue in made.items()
    )
    if same_order:
        return {**parsed, **{key: cue for key, cue in made.items() if cue}}
    rows = [(key, cue) for key in cues if (cue := made[key] if key in made else parsed.get(key))]
    return dict(sorted(rows, key=lambda row: row[1].start_s))


def parse_tags(given: Any, problems: list[Problem]) -> dict[str, str]:
    """A document's tags; tells what is wrong with them."""
    right = isinstance(given, dict) and all(
        name in TAGS and isinstance(text, str) and len(text) <= LONGEST_TAG for name, text in given.items()
    )
    if not right:
        named = ", ".join(TAGS)
        problems.append(Problem("/tags", f"Tags are {named}, each a text of up to {LONGEST_TAG} characters."))
        return {}
    return dict(given)


def _cue(ident: str, item: Any, path: str, problems: list[Problem]) -> Cue | None:
    if not isinstance(item, dict) or not 0 < len(ident) <= 64 or item.keys() - _CUE:
        problems.append(Problem(path, "A cue has start_s, end_s, text, speaker and words, and an id of its own."))
        return None
    start, end, text, speaker = item.get("start_s"), item.get("end_s"), item.get("text", ""), item.get("speaker", "")
    if not _is_time(start) or not _is_time(end) or not start < end:
        problems.append(Problem(path, "A cue's end_s lies after its start_s, both in seconds from 0 to a day."))
        return None
    if not isinstance(text, str) or len(text) > LONGEST_TEXT or not isinstance(speaker, str):
        problems.append(Problem(f"{path}/text", f"A cue's text has up to {LONGEST_TEXT} characters."))
        return None
    if len(speaker) > LONGEST_SPEAKER:
        problems.append(Problem(f"{path}/speaker", f"A speaker's name has up to {LONGEST_SPEAKER} characters."))
        return None
    rows = item.get("words", [])
    if not isinstance(rows, list) or len(rows) > MOST_WORDS or not all(_is_word(row) for row in rows):
        sentence = f"A cue has up to {MOST_WORDS} words, each as start, end, text and confidence."
        problems.append(Problem(f"{path}/words", sentence))
        return None
    words = tuple(Word(float(row[0]), float(row[1]), row[2], float(row[3])) for row in rows)
    return Cue(float(start), float(end), text, speaker, words)


def _is_word(row: Any) -> bool:
    return (
        isinstance(row, list)
        and len(row) == 4
        and _is_time(row[0])
        and _is_time(row[1])
        and row[0] <= row[1]
        and isinstance(row[2], str)
        and len(row[2]) <= 300
        and is_number(row[3])
        and 0 <= row[3] <= 1
    )


def _is_time(value: Any) -> TypeGuard[float]:
    return is_number(value) and 0 <= value <= LONGEST_S


def stored_cue(cue: Cue) -> Document:
    """A cue in its stored form, times in thousandths of a second."""
    out: Document = {
        "start_s": round(cue.start_s, 4),
        "end_s": round(max(cue.end_s, cue.start_s + 0.001), 4),
        "text": cue.text,
    }
    if cue.speaker:
        out["speaker"] = cue.speaker
    if cue.words:
        out["words"] = [
            [round(word.start_s, 4), round(word.end_s, 4), word.text[:300], round(word.confidence, 3)]
            for word in cue.words
        ]
    return out


def cue_tracks_schema() -> dict[str, Any]:
    """The cue tracks as JSON Schema."""
    seconds = {"type": "number", "minimum": 0, "maximum": LONGEST_S}
    word = {
        "type": "array",
        "prefixItems": [
            seconds,
            seconds,
            {"type": "string", "maxLength": 300},
            {"type": "number", "minimum": 0, "maximum": 1},
        ],
        "minItems": 4,
        "maxItems": 4,
        "description": "Start and end in seconds of the recording, the word, and how sure its place is.",
    }
    cue = {
        "type": "object",
        "required": ["start_s", "end_s"],
        "additionalProperties": False,
        "properties": {
            "start_s": seconds,
            "end_s": seconds,
            "text": {"type": "string", "maxLength": LONGEST_TEXT},
            "speaker": {"type": "string", "maxLength": LONGEST_SPEAKER},
            "words": {"type": "array", "maxItems": MOST_WORDS, "items": word},
        },
    }
    track = {
        "type": "object",
        "additionalProperties": False,
        "properties": {
            "name": {"type": "string", "maxLength": 120},
            "language": {"type": "string", "maxLength": 35, "description": "BCP 47, like en."},
            "cues": {
                "type": "object",
                "additionalProperties": cue,
                "description": "By id; times are of the recording.",
            },
        },
    }
    return {"type": "object", "maxProperties": MOST_TRACKS, "additionalProperties": track}


def tags_schema() -> dict[str, Any]:
    """The tags as JSON Schema."""
    text = {"type": "string", "maxLength": LONGEST_TAG}
    return {"type": "object", "additionalProperties": False, "properties": dict.fromkeys(TAGS, text)}
