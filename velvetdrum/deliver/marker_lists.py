"""Markers, chapters and cues as lists that other programs read, and back: CSV and OpenTimelineIO."""

from __future__ import annotations

import csv
import io
import math
import re
from dataclasses import dataclass, replace
from typing import Any

import opentimelineio as otio

from velvetdrum.limits import openers
from velvetdrum.scene.document import MOST_MARKERS, Project

MOST_BYTES = 4_000_000
LONGEST_TEXT = 200
_LONGEST_S = 3 * 3600.0
_COLUMNS = ("time_s", "end_s", "kind", "text")
KINDS = ("marker", "chapter", "cue", "in", "out")
_CLOCK = re.compile(r"(?:(\d+):)?(\d{1,2}):(\d{1,2}(?:[.,]\d+)?)$")
_NAMESPACE = "velvetdrum"
_DEEPEST = 60


class ListError(ValueError):
    """A list can't be used. The text is a sentence."""


@dataclass(frozen=True)
class Entry:
    """A line of a list: from a time of the project on, in seconds, to an end where it has one."""

    time_s: float
    end_s: float | None
    kind: str
    text: str


def entries_of(project: Project) -> list[Entry]:
    """All markers, chapters and cues of a project, and where it begins and ends, in order of time.

    Parameters
    ----------
    project
        The project.
    """
    result = [Entry(0.0, None, "in", ""), Entry(project.length_s, None, "out", "")]
    for marker in project.markers:
        result.append(Entry(marker.time_s, None, "chapter" if marker.chapter else "marker", marker.text))
    for row in project.cue_tracks[:1]:
        for cue in row.row:
            begin, end = cue.start_s - project.begin_s, cue.end_s - project.begin_s
            if end > 0 and begin < project.length_s:
                result.append(Entry(max(begin, 0.0), end, "cue", cue.text.replace("\n", " ")))
    return sorted(result, key=lambda entry: (entry.time_s, KINDS.index(entry.kind)))


def csv_of(entries: list[Entry]) -> str:
    """A list as CSV with a heading: time_s, end_s, kind, text.

    Parameters
    ----------
    entries
        The lines.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(_COLUMNS)
    for entry in entries:
        end = "" if entry.end_s is None else f"{entry.end_s:.4f}"
        writer.writerow([f"{entry.time_s:.4f}", end, entry.kind, entry.text])
    return out.getvalue()


def otio_of(entries: list[Entry], project: Project) -> str:
    """A list as an OpenTimelineIO timeline: one track with a gap as long as the project, and markers on it.

    Parameters
    ----------
    entries
        The lines.
    project
        The project, for its name, its rate and its length.
    """
    rate = float(project.rate)

    def span(begin: float, end: float | None) -> Any:
        length = 0.0 if end is None else max(end - begin, 0.0)
        first, count = (otio.opentime.RationalTime(round(second * rate), rate) for second in (begin, length))
        return otio.opentime.TimeRange(first, count)

    gap = otio.schema.Gap(source_range=span(0.0, project.length_s))
    for entry in entries:
        if entry.kind in ("in", "out"):
            continue
        said = {_NAMESPACE: {"kind": entry.kind}}
        place = span(entry.time_s, entry.end_s)
        gap.markers.append(otio.schema.Marker(name=entry.text, marked_range=place, metadata=said))
    track = otio.schema.Track("Markers", children=[gap])
    timeline = otio.schema.Timeline(project.name, tracks=[track])
    return str(otio.adapters.write_to_string(timeline, "otio_json"))


def read_list(data: bytes) -> list[Entry]:
    """The entries of a CSV table or an OpenTimelineIO file, in order of time.

    Parameters
    ----------
    data
        The file.

    Raises
    ------
    ListError
        With a sentence where it can't be used.
    """
    if len(data) > MOST_BYTES:
        raise ListError("This file is larger than 4 MB, which is more than any list of markers.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise ListError("This is no text. Bring a CSV table or an OpenTimelineIO file in.") from None
    entries = _from_otio(text) if text.lstrip().startswith("{") else _from_csv(text)
    entries = [entry for entry in entries if 0 <= entry.time_s <= _LONGEST_S]
    if not entries:
        raise ListError("There is no line with a time in this file. Write time and text in columns, like 12.5, Chorus.")
    if len(entries) > MOST_MARKERS:
        raise ListError(f"This list has {len(entries):,} entries; a project has up to {MOST_MARKERS:,} markers.")
    return sorted(entries, key=lambda entry: entry.time_s)


def seconds_of(text: str) -> float | None:
    """Seconds from a number or from hours:minutes:seconds; None where it is neither.

    Parameters
    ----------
    text
        What stands in a cell.
    """
    given = text.strip().replace(",", ".")
    clock = _CLOCK.match(given)
    if clock:
        return float(clock[1] or 0) * 3600 + float(clock[2]) * 60 + float(clock[3])
    try:
        value = float(given)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def _from_csv(text: str) -> list[Entry]:
    lines = text.splitlines()
    if any(len(line) > 10_000 for line in lines):
        raise ListError("A line of this table is longer than 10,000 characters; is it a CSV table?")
    mark = next((mark for mark in (";", "\t", ",") if any(mark in line for line in lines[:5])), ",")
    try:
        rows = [row for row in openers.table(lines, mark) if any(cell.strip() for cell in row)]
    except csv.Error:
        raise ListError("A line of this table can't be read: a quoted cell in it does not end.") from None
    if not rows:
        return []
    head = [cell.strip().lower() for cell in rows[0]]
    titled = seconds_of(rows[0][0]) is None
    place = {name: head.index(name) for name in _COLUMNS if titled and name in head}
    time, words = place.get("time_s", 0), place.get("text", 1 if not place else -1)
    out = []
    for number, row in enumerate(rows[1:] if titled else rows, 2 if titled else 1):
        second = seconds_of(row[time]) if time < len(row) else None
        if second is None:
            raise ListError(f"Line {number} has no time where one is needed; write seconds, or minutes:seconds.")
        kind = row[place["kind"]].strip().lower() if place.get("kind", len(row)) < len(row) else "marker"
        end = seconds_of(row[place["end_s"]]) if place.get("end_s", len(row)) < len(row) else None
        said = row[words] if 0 <= words < len(row) else ""
        out.append(Entry(second, end, kind if kind in KINDS else "marker", said.strip()[:LONGEST_TEXT]))
    return out


def _from_otio(text: str) -> list[Entry]:
    depth = most = 0
    for sign in text:
        depth += (sign in "{[") - (sign in "}]")
        most = max(most, depth)
    if most > _DEEPEST:
        raise ListError("This timeline is nested deeper than any is.")
    try:
        timeline = openers.timeline(text)
        tracks = [*timeline.tracks]
    except Exception:
        raise ListError("This is no OpenTimelineIO file that can be read. Export the timeline as .otio.") from None
    out: list[Entry] = []
    cuts: list[Entry] = []
    parts: list[Entry] = []
    for track in tracks:
        at = 0.0
        for item in track:
            try:
                length = item.duration().to_seconds() if not isinstance(item, otio.schema.Transition) else 0.0
                begin = item.source_range.start_time.to_seconds() if getattr(item, "source_range", None) else 0.0
                for marker in getattr(item, "markers", []):
                    first = at + marker.marked_range.start_time.to_seconds() - begin
                    long = marker.marked_range.duration.to_seconds()
                    kind = dict(marker.metadata.get(_NAMESPACE, {})).get("kind", "marker")
                    end = first + long if long > 0 else None
                    out.append(Entry(first, end, kind if kind in KINDS else "marker", marker.name[:LONGEST_TEXT]))
            except Exception:
                raise ListError("A clip of this timeline has no length that can be read.") from None
            if isinstance(item, otio.schema.Clip):
                parts = [Entry(begin, None, "in", ""), Entry(begin + length, None, "out", "")]
                cuts.append(Entry(at, at + length, "marker", (item.name or "Cut")[:LONGEST_TEXT]))
            at += length
    # A timeline of one clip says which part of a recording is used; of several, without markers, it lists cuts.
    if len(cuts) == 1 and not any(entry.kind in ("in", "out") for entry in out):
        begin = parts[0].time_s
        moved = [replace(one, time_s=one.time_s + begin, end_s=one.end_s and one.end_s + begin) for one in out]
        return [*moved, *parts]
    return out or cuts
