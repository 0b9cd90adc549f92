"""The project document: plain JSON, and its parsed form that the renderer reads."""

from __future__ import annotations

import math
import secrets
from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from typing import Any

from velvetdrum.declare.settings import is_content_key, is_number
from velvetdrum.scene.cue_tracks import CueTrack, cue_tracks_schema, parse_cue_tracks, parse_tags, tags_schema
from velvetdrum.scene.frames import FrameError, FrameSize, parse_rate, rate_text
from velvetdrum.scene.keyframes import keyframe_schema
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.look_section import LookSection, colours_schema, look_schema, parse_colours, parse_look
from velvetdrum.scene.migrate import VERSION, upgraded
from velvetdrum.scene.notes_section import notes_schema, parse_notes
from velvetdrum.scene.parts import PART_SORTS, part_schema
from velvetdrum.scene.patches import MOST_PATCHES, patch_schema
from velvetdrum.scene.placed_layers import MOST_LAYERS, PlacedLayer, layer_schemas, parse_layers
from velvetdrum.scene.problems import Document, Problem, ProjectError, report_unknown
from velvetdrum.scene.signal_part import parse_beats, parse_signals, signal_schema
from velvetdrum.scene.tracks import LONGEST_S, Tracks
from velvetdrum.scene.tracks_section import is_seconds, parse_tracks, tracks_schema, used_schema
from velvetdrum.scene.tree import members_by_group
from velvetdrum.scene.workspace import check_workspace, workspace_schema
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.notes import NoteLists
from velvetdrum.signals.signal_set import NamedSignal

FORMAT = "velvetdrum-project"
MOST_MARKERS = 1000


@dataclass(frozen=True)
class HeardTrack:
    """What is heard of a project, as one recording: that of its only track, or the sum of all, under its name. The used
    part is in_s to out_s, in seconds of it; the timeline's of the sum."""

    media: str
    name: str
    in_s: float
    out_s: float


@dataclass(frozen=True)
class Marker:
    """A named place in time, in seconds of the project."""

    time_s: float
    text: str
    chapter: bool = False
    """True for the beginning of a chapter."""


@dataclass(frozen=True)
class Project:
    """A parsed document. Layers are in drawing order, the furthest back first."""

    name: str
    frame: FrameSize
    rate: Fraction
    length_s: float
    sound: Tracks | None
    layers: tuple[PlacedLayer, ...]
    signals: tuple[NamedSignal, ...] = ()
    beats: BeatSettings = field(default_factory=lambda: BeatSettings({}))

    markers: tuple[Marker, ...] = ()
    cue_tracks: tuple[CueTrack, ...] = ()
    tags: Mapping[str, str] = field(default_factory=dict)
    colours: Mapping[str, str] = field(default_factory=dict)
    look: LookSection | None = None
    notes: NoteLists = field(default_factory=NoteLists)

    @cached_property
    def track(self) -> HeardTrack | None:
        """What is heard as one recording; None in a project without a sound."""
        if self.sound is None:
            return None
        return HeardTrack(self.sound.key, self.sound.tracks[0].name, self.sound.in_s, self.sound.out_s)

    @property
    def begin_s(self) -> float:
        """Where the used part begins, in seconds of the recording: what cues count from."""
        return self.track.in_s if self.track else 0.0

    def cue_track(self, ident: str) -> CueTrack | None:
        """The cue track with an id, the first one where that is empty; None where there is none."""
        return next((track for track in self.cue_tracks if ident in ("", track.id)), None)

    @cached_property
    def drawn(self) -> dict[str, tuple[PlacedLayer, ...]]:
        """The layers that are drawn, back to front, by the group that they are in; those in none under the empty
        text. While any is solo, only solo ones are drawn, with the groups that they are in and their members."""
        return members_by_group(self.layers)

    @cached_property
    def by_id(self) -> dict[str, PlacedLayer]:
        """The layer with an id; None when there is none."""
        return {placed.id: placed for placed in self.layers}

    @property
    def media(self) -> set[str]:
        """Content hashes of the pictures and clips that layers show."""
        owners = [
            owner
            for placed in self.layers
            for owner in (placed.layer, *(item.part for row in placed.parts.values() for item in row))
        ]
        values = [getattr(owner, name) for owner in owners for name in owner.media_settings()]
        return {value for value in values if is_content_key(value)}

    @property
    def frame_count(self) -> int:
        """Frames that begin before the end; frame n is shown from n / rate."""
        return max(1, math.ceil(Fraction(self.length_s).limit_denominator(48_000) * self.rate))

    def time_of(self, frame: int) -> Fraction:
        """Start of a frame in seconds."""
        return frame / self.rate


def new_document(
    name: str,
    *,
    frame: FrameSize,
    rate: Fraction,
    layers: list[Document],
    track: Document | None = None,
    signals: list[Document] | None = None,
) -> Document:
    """A document with the given layers; the length follows the used part of the track."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "name": name,
        "frame": {"width": frame.width, "height": frame.height},
        "rate": rate_text(rate),
        "length_s": None,
        "tracks": [track] if track else [],
        "beats": {},
        "signals": signals or [],
        "markers": [],
        "cue_tracks": {},
        "tags": {},
        "layers": layers,
    }


def new_layer(kind: str, name: str | None = None, **settings: Any) -> Document:
    """A layer of a kind with its defaults, and the given settings in their stored form."""
    cls = LAYER_KINDS[kind]
    return {
        "id": secrets.token_hex(4),
        "kind": kind,
        "name": name or cls.title,
        "visible": True,
        "settings": cls.defaults() | settings,
        "patches": [],
        "group": "",
        **{sort.listed: [] for sort in PART_SORTS.values()},
        "keyframes": {},
        "frames": {},
    }


def new_patch(setting: str, signal: Document, low: Any, high: Any, join: str = "replace", **more: Any) -> Document:
    """A patch from a signal to a setting of the layer that it is put into."""
    return {
        "setting": setting,
        "signal": signal["id"],
        "from": low,
        "to": high,
        "join": join,
        "on": True,
        "lag_ms": 0.0,
    } | more


def new_track(media: str, name: str, duration_s: float) -> Document:
    """A track that uses the whole recording."""
    return {"id": secrets.token_hex(4), "media": media, "name": name, "in_s": 0.0, "out_s": duration_s}


def media_keys(document: Document, sort: str = "") -> set[str]:
    """Content hashes of the files that a document's layers show: of one sort (picture, footage), or of all."""
    return {key for layer in document.get("layers", []) for key in layer_media(layer, sort)}


def layer_media(layer: Document, sort: str = "") -> set[str]:
    """Content hashes of the files that a layer shows, with its masks and effects: of one sort, or of all."""
    result = set()
    rows = [(parts.kinds, item) for parts in PART_SORTS.values() for item in layer.get(parts.listed, [])]
    for known, item in [(LAYER_KINDS, layer), *rows]:
        cls = known.get(item.get("kind"))
        for name, setting in cls.settings.items() if cls else []:
            value = item.get("settings", {}).get(name)
            if setting.media and sort in ("", setting.media) and is_content_key(value):
                result.add(value)
    return result


def parse(document: Any, like: tuple[Document, Project] | None = None) -> Project:
    """Parse a document of this version or an older one. Raises ProjectError with every problem found.

    `like` is a document in the present form, with its project, that this one was made from without writing to it: what
    both have in common, the very same objects, is not parsed again.
    """
    problems: list[Problem] = []
    document = upgraded(document)
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ProjectError([Problem("", "This is not a Velvet Drum project.")])
    if document.get("version") != VERSION:
        raise ProjectError(
            [
                Problem(
                    "/version",
                    f"This project has format version {str(document.get('version'))[:20]}; "
                    f"this program reads version {VERSION}. Open it with a newer Velvet Drum.",
                )
            ]
        )
    known = {
        "format",
        "version",
        "name",
        "frame",
        "rate",
        "length_s",
        "tracks",
        "used",
        "beats",
        "signals",
        "layers",
        "markers",
        "cue_tracks",
        "tags",
        "colours",
        "look",
        "workspace",
        "notes",
    }
    report_unknown(document, known, "", "A project", problems)
    name = document.get("name")
    if not isinstance(name, str) or not name.strip() or len(name) > 200:
        problems.append(Problem("/name", "A project needs a name of up to 200 characters."))
    frame, rate = _frame(document, problems), _rate(document, problems)
    sound = parse_tracks(document, problems)
    length = _length(document, sound, problems)
    before, alike = like or ({}, None)
    signals = parse_signals(
        document.get("signals", []), problems, (before.get("signals", []), alike.signals) if alike else None
    )
    beats = parse_beats(document.get("beats", {}), problems)
    same_signals = alike is not None and before.get("signals") is document.get("signals")
    layers = parse_layers(document, problems, (before, alike.layers) if alike and same_signals else None)
    markers = _markers(document.get("markers", []), problems)
    rows = (before.get("cue_tracks", {}), alike.cue_tracks) if alike else None
    cues, tags = (
        parse_cue_tracks(document.get("cue_tracks", {}), problems, rows),
        parse_tags(document.get("tags", {}), problems),
    )
    colours = parse_colours(document.get("colours", {}), problems)
    idents = {placed.id for placed in layers}, {named.id for named in signals}
    look = parse_look(document, *idents, problems)
    notes = parse_notes(document.get("notes", {}), problems)
    check_workspace(document.get("workspace", {}), problems)
    if problems:
        raise ProjectError(problems)
    assert frame and rate and isinstance(name, str)
    return Project(name, frame, rate, length, sound, layers, signals, beats, markers, cues, tags, colours, look, notes)


def schema() -> dict[str, Any]:
    """The published JSON Schema (2020-12) of `project.json`, made from the declared kinds."""
    seconds = {"type": "number", "minimum": 0, "maximum": LONGEST_S + 1}
    side = {"type": "integer", "minimum": 64, "maximum": 4096, "multipleOf": 2}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Velvet Drum project",
        "$defs": {
            "patches": {"type": "array", "maxItems": MOST_PATCHES, "items": patch_schema()},
            **{sort.listed: part_schema(sort) for sort in PART_SORTS.values()},
            "keyframes": keyframe_schema(),
        },
        "type": "object",
        "required": ["format", "version", "name", "frame", "rate", "tracks", "layers"],
        "additionalProperties": False,
        "properties": {
            "format": {"const": FORMAT},
            "version": {"const": VERSION},
            "name": {"type": "string", "minLength": 1, "maxLength": 200},
            "frame": {
                "type": "object",
                "required": ["width", "height"],
                "additionalProperties": False,
                "properties": {"width": side, "height": side},
            },
            "rate": {"type": "string", "pattern": r"^\d+(/\d+)?$", "description": "Frames per second, exact."},
            "length_s": {
                "oneOf": [{"type": "null"}, seconds],
                "description": "Null: as long as the used part of the track.",
            },
            "tracks": tracks_schema(),
            "used": used_schema(),
            "beats": BeatSettings.schema(),
            "signals": signal_schema(),
            "markers": {
                "type": "array",
                "maxItems": MOST_MARKERS,
                "items": {
                    "type": "object",
                    "required": ["time_s", "text"],
                    "additionalProperties": False,
                    "properties": {
                        "time_s": seconds,
                        "text": {"type": "string", "maxLength": 200},
                        "chapter": {"type": "boolean", "description": "True for the beginning of a chapter."},
                    },
                },
            },
            "cue_tracks": cue_tracks_schema(),
            "tags": tags_schema(),
            "colours": colours_schema(),
            "look": look_schema(),
            "workspace": workspace_schema(),
            "notes": notes_schema(),
            "layers": {"type": "array", "maxItems": MOST_LAYERS, "items": {"oneOf": layer_schemas()}},
        },
    }


def _frame(document: Document, problems: list[Problem]) -> FrameSize | None:
    frame = document.get("frame")
    report_unknown(frame, {"width", "height"}, "/frame", "A frame", problems)
    sides = [frame.get("width"), frame.get("height")] if isinstance(frame, dict) else [None]
    if not all(isinstance(side, int) and not isinstance(side, bool) for side in sides):
        problems.append(Problem("/frame", "The frame needs a width and a height in whole pixels."))
        return None
    try:
        return FrameSize(*sides)
    except FrameError as problem:
        problems.append(Problem("/frame", str(problem)))
        return None


def _rate(document: Document, problems: list[Problem]) -> Fraction | None:
    try:
        return parse_rate(str(document.get("rate")))
    except FrameError as problem:
        problems.append(Problem("/rate", str(problem)))
        return None


def _length(document: Document, track: Tracks | None, problems: list[Problem]) -> float:
    length = document.get("length_s")
    if length is None:
        return track.out_s - track.in_s if track else 10.0
    if not is_seconds(length) or not 0.05 <= length <= LONGEST_S:
        problems.append(Problem("/length_s", "The length goes from 0.05 s to 3 hours."))
        return 10.0
    return float(length)


def _markers(given: Any, problems: list[Problem]) -> tuple[Marker, ...]:
    if not isinstance(given, list) or len(given) > MOST_MARKERS:
        problems.append(Problem("/markers", f"A project has a list of up to {MOST_MARKERS} markers."))
        return ()
    out = []
    for index, item in enumerate(given):
        time_s, text = (item.get("time_s"), item.get("text")) if isinstance(item, dict) else (None, None)
        if not is_number(time_s) or not 0 <= time_s <= LONGEST_S or not isinstance(text, str) or len(text) > 200:
            sentence = "A marker has a time from 0 s to 3 hours and a text of up to 200 characters."
            problems.append(Problem(f"/markers/{index}", sentence))
            continue
        report_unknown(item, {"time_s", "text", "chapter"}, f"/markers/{index}", "A marker", problems)
        if not isinstance(item.get("chapter", False), bool):
            problems.append(Problem(f"/markers/{index}/chapter", "Whether a marker begins a chapter is true or false."))
            continue
        out.append(Marker(float(time_s), text, item.get("chapter", False)))
    return tuple(sorted(out, key=lambda marker: marker.time_s))
