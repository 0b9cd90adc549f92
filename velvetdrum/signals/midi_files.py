"""Standard MIDI Files as notes: formats 0 and 1, with their map of tempos; broken ones as far as they go."""

from __future__ import annotations

import io
from collections import defaultdict
from dataclasses import dataclass
from typing import Any

import mido

from velvetdrum.signals.midi_tempo import is_meter, tempo_rows_of
from velvetdrum.signals.notes import MOST_NOTES

MOST_BYTES = 4_000_000
_LONGEST_S = 3 * 3600.0
_MOST_EVENTS = 400_000
_TEMPO_US = 500_000
"""Microseconds a quarter note where a file does not say: 120 beats a minute."""
_LEAST_S = 0.01


class MidiError(ValueError):
    """A file can't be used. The text is a sentence."""


@dataclass(frozen=True)
class MidiNotes:
    """What a file holds: rows of begin and length in seconds, pitch, velocity and channel (1 to 16); the first tempo in
    beats a minute and the beats of a bar; rows of a tempo map where tempo or meter change; and what a person should
    know of how it was read."""

    rows: list[list[float]]
    tempo_bpm: float
    bar: int
    map: list[dict[str, Any]]
    notes: list[str]


def read_midi(data: bytes) -> MidiNotes:
    """The notes of a Standard MIDI File.

    Parameters
    ----------
    data
        The file.

    Raises
    ------
    MidiError
        With a sentence where nothing of it can be used.
    """
    if len(data) > MOST_BYTES:
        raise MidiError("This file is larger than 4 MB, which is more than any piece of music needs as notes.")
    if not data.startswith(b"MThd"):
        raise MidiError("This is not a Standard MIDI File: it begins with something else. Export notes as .mid.")
    said: list[str] = []
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except Exception:
        file = _as_far_as_it_goes(data)
        said.append("The file is damaged or cut off: notes up to that place were read.")
    if file is None:
        raise MidiError("This MIDI file is damaged, and no track of it can be read. Export it anew.")
    if file.type == 2:
        raise MidiError("This MIDI file holds several patterns (format 2). Export it as format 0 or 1.")
    if file.ticks_per_beat <= 0 or file.ticks_per_beat >= 0x8000:
        raise MidiError("This MIDI file counts in frames of SMPTE time. Export it with ticks per quarter note.")
    return _notes_of(file, said)


def _as_far_as_it_goes(data: bytes) -> Any:
    """A file whose tracks are read one by one, up to the first event that can't be; None where there is none."""
    result = mido.MidiFile(ticks_per_beat=max(int.from_bytes(data[12:14], "big"), 1))
    at = 14
    while (begin := data.find(b"MTrk", at)) >= 0:
        body = data[begin + 8 : begin + 8 + int.from_bytes(data[begin + 4 : begin + 8], "big")]
        at = begin + 8
        track = _track(body[: _whole_events(body)])
        if track is not None:
            result.tracks.append(track)
        if len(result.tracks) > 64:
            break
    return result if any(len(track) for track in result.tracks) else None


def _whole_events(body: bytes) -> int:
    """How many bytes of a track are whole events, from its begin on: each a time of variable length, a status byte that
    may be that of the one before, and its data (Standard MIDI Files 1.0)."""
    at = whole = 0
    status = 0
    try:
        while at < len(body):
            _, at = _length(body, at)
            if body[at] & 0x80:
                status, at = body[at], at + 1
            if status == 0xFF:
                size, at = _length(body, at + 1)
            elif status in (0xF0, 0xF7):
                size, at = _length(body, at)
            elif 0x80 <= status < 0xF0:
                size = 1 if 0xC0 <= status < 0xE0 else 2
                if any(value & 0x80 for value in body[at : at + size]):
                    return whole
            else:
                return whole
            at += size
            if at > len(body):
                return whole
            whole = at
    except IndexError:
        pass
    return whole


def _length(body: bytes, at: int) -> tuple[int, int]:
    """A number of variable length, up to four bytes, and where it ends."""
    value = 0
    for _ in range(4):
        value = value << 7 | (body[at] & 0x7F)
        at += 1
        if not body[at - 1] & 0x80:
            break
    return value, at


def _track(body: bytes) -> Any:
    end = b"\x00\xff\x2f\x00"
    whole = body + end
    head = b"MThd" + (6).to_bytes(4, "big") + b"\x00\x00\x00\x01\x01\xe0"
    try:
        return mido.MidiFile(file=io.BytesIO(head + b"MTrk" + len(whole).to_bytes(4, "big") + whole), clip=True).tracks[
            0
        ]
    except Exception:
        return None


def _notes_of(file: Any, said: list[str]) -> MidiNotes:
    merged = mido.merge_tracks(file.tracks)
    if len(merged) > _MOST_EVENTS:
        raise MidiError(f"This MIDI file has {len(merged):,} events; up to {_MOST_EVENTS:,} are read.")
    tempo, bar = _TEMPO_US, 4
    tempos: list[tuple[int, float]] = []
    signatures: list[tuple[int, int, int]] = []
    now, tick = 0.0, 0
    open_: dict[tuple[int, int], list[tuple[float, int]]] = defaultdict(list)
    rows: list[list[float]] = []
    for event in merged:
        tick += event.time
        now += mido.tick2second(event.time, file.ticks_per_beat, tempo)
        if event.type == "set_tempo":
            tempo = max(event.tempo, 1)
            tempos.append((tick, tempo))
        elif event.type == "time_signature":
            bar = bar if rows else max(1, min(16, event.numerator))
            if is_meter(event.numerator, event.denominator):
                signatures.append((tick, event.numerator, event.denominator))
        elif event.type == "note_on" and event.velocity > 0:
            open_[event.channel, event.note].append((now, event.velocity))
        elif event.type in ("note_off", "note_on") and open_.get((event.channel, event.note)):
            begin, velocity = open_[event.channel, event.note].pop(0)
            rows.append([begin, max(now - begin, _LEAST_S), event.note, velocity, event.channel + 1])
        if now > _LONGEST_S:
            said.append("Notes after three hours were left out.")
            break
    held = [(key, begin, velocity) for key, row in open_.items() for begin, velocity in row]
    if held:
        said.append(f"{len(held)} notes have no end; they last until the end of the file.")
        rows += [[begin, max(now - begin, _LEAST_S), key[1], velocity, key[0] + 1] for key, begin, velocity in held]
    if not rows:
        raise MidiError("There are no notes in this MIDI file.")
    rows.sort()
    if len(rows) > MOST_NOTES:
        said.append(f"Of {len(rows):,} notes the first {MOST_NOTES:,} were taken.")
        rows = rows[:MOST_NOTES]
    rows = [[round(row[0], 5), round(row[1], 5), *row[2:]] for row in rows]
    first = tempos[0][1] if tempos else _TEMPO_US
    if not tempos or tempos[0][0] > 0:
        tempos.insert(0, (0, _TEMPO_US))
    if not signatures or signatures[0][0] > 0:
        signatures.insert(0, (0, 4, 4))
    laid = tempo_rows_of(tempos, signatures, file.ticks_per_beat, tick)
    if len(laid) > 1:
        said.append(f"Its tempo or its meter changes: a map of {len(laid)} rows can be taken for the beats.")
    # An even count of quarters needs no map.
    plain = len(laid) == 1 and laid[0]["note"] == "1/4"
    return MidiNotes(rows, round(60e6 / first, 4), bar, [] if plain else laid, said)
