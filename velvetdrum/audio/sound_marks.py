"""Marks that a recording brings in itself: the cue points of a WAVE file, and chapters."""

from __future__ import annotations

import struct
from pathlib import Path

from velvetdrum.audio.errors import SoundError
from velvetdrum.limits import openers

MOST_MARKS = 1000
_MOST_CHUNKS = 1000
_MOST_BYTES = 4_000_000
_LONGEST_TEXT = 200

Mark = tuple[float, str]
"""A time in seconds of the recording, and a text."""


_POINTS = {"in": "in", "in point": "in", "out": "out", "out point": "out"}


def point_of(text: str) -> str:
    """Which point of its recording a mark is by its label, "in" or "out"; empty for one that only marks a place.

    Parameters
    ----------
    text
        Its label.
    """
    return _POINTS.get(text.strip().lower(), "")


def sound_marks(path: Path) -> list[Mark]:
    """The marks of a recording, in order of time: the cue points of WAVE with their labels (Multimedia Programming
    Interface 1.0, cue and list chunks), or the chapters of ID3, MP4 and others.

    Parameters
    ----------
    path
        The file.

    Raises
    ------
    SoundError
        Where the file can't be read.
    """
    marks = _wave_cues(path) or _chapters(path)
    return sorted(marks)[:MOST_MARKS]


def _wave_cues(path: Path) -> list[Mark]:
    places: dict[int, int] = {}
    texts: dict[int, str] = {}
    rate = 0
    with path.open("rb") as file:
        head = file.read(12)
        if head[:4] not in (b"RIFF", b"RF64") or head[8:12] != b"WAVE":
            return []
        for _ in range(_MOST_CHUNKS):
            name = file.read(8)
            if len(name) < 8:
                break
            ident, size = name[:4], struct.unpack("<I", name[4:])[0]
            if ident in (b"fmt ", b"cue ", b"LIST") and size <= _MOST_BYTES:
                body = file.read(size)
                if ident == b"fmt " and len(body) >= 8:
                    rate = struct.unpack_from("<I", body, 4)[0]
                elif ident == b"cue ":
                    places |= _cue_points(body)
                elif ident == b"LIST" and body[:4] == b"adtl":
                    texts |= _labels(body[4:])
                file.seek(size % 2, 1)
            else:
                file.seek(size + size % 2, 1)
    if not 1000 <= rate <= 800_000:
        return []
    return [
        (place / rate, texts.get(ident, f"Marker {number}")) for number, (ident, place) in enumerate(places.items(), 1)
    ]


def _cue_points(body: bytes) -> dict[int, int]:
    """Sample offsets by the ids of cue points, each of 24 bytes."""
    count = min(struct.unpack_from("<I", body)[0] if len(body) >= 4 else 0, MOST_MARKS, (len(body) - 4) // 24)
    out = {}
    for number in range(max(count, 0)):
        ident, position, _, _, _, offset = struct.unpack_from("<IIIIII", body, 4 + number * 24)
        out[ident] = offset or position
    return out


def _labels(body: bytes) -> dict[int, str]:
    out: dict[int, str] = {}
    at = 0
    while at + 8 <= len(body) and len(out) < MOST_MARKS:
        ident, size = body[at : at + 4], struct.unpack_from("<I", body, at + 4)[0]
        part = body[at + 8 : at + 8 + size]
        if ident == b"labl" and len(part) >= 4:
            text = part[4:].split(b"\0")[0].decode("utf-8", "replace").strip()
            if text:
                out[struct.unpack_from("<I", part)[0]] = text[:_LONGEST_TEXT]
        at += 8 + size + size % 2
    return out


def _chapters(path: Path) -> list[Mark]:
    try:
        with openers.media(path) as container:
            chapters = container.chapters()[:MOST_MARKS]
    except Exception as problem:
        raise SoundError("The chapters of this recording can't be read.") from problem
    out: list[Mark] = []
    for number, chapter in enumerate(chapters, 1):
        title = str(chapter["metadata"].get("title", f"Chapter {number}"))[:_LONGEST_TEXT]
        out.append((float(chapter["start"] * (chapter["time_base"] or 0)), title))
    return out
