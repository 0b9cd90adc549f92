"""Notes of a MIDI file as a curve: while they sound, as envelopes, by their pitch, or by how many sound."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, note_row, number, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.notes import NoteList

_ENVELOPE = ("reads", ("envelope",))
_FALLING = ("reads", ("envelope", "onset"))
_GAP_S = 0.012
"""How long before the next note a pulse is over: what counts hits sees each of them."""


@signal_kind("notes", "Notes")
class Notes(Signal):
    """Follows the notes of a MIDI file."""

    order: ClassVar[int] = 12
    summary: ClassVar[str] = "{reads}"

    row: str = note_row(label="Notes", help="The file whose notes are followed.")
    reads: str = choice(
        "envelope",
        {
            "gate": "While they sound",
            "onset": "Onset of each",
            "envelope": "Envelope",
            "pitch": "Pitch",
            "count": "How many sound",
        },
        help="1 while any sounds; a pulse at each, however close; an envelope; the last one's pitch; how many sound.",
    )
    low: int = whole(0, lo=0, hi=127, label="Lowest pitch", help="As a MIDI number: 60 is middle C.")
    high: int = whole(127, lo=0, hi=127, label="Highest pitch", help="As a MIDI number.")
    channel: int = whole(0, lo=0, hi=16, help="1 to 16; 0 takes all of them.", advanced=True)
    softest: int = whole(1, lo=1, hi=127, label="Least velocity", help="Softer notes are passed over.", advanced=True)
    by_velocity: float = percent(
        60, step=1, label="By velocity", group="motion", help="How much lower soft notes reach.", when=_ENVELOPE
    )
    attack_ms: float = number(
        5, lo=0, hi=5000, unit="ms", step=1, label="Attack", group="motion", help="Time of the rise.", when=_ENVELOPE
    )
    decay_ms: float = number(
        200,
        lo=0,
        hi=10_000,
        unit="ms",
        step=1,
        label="Decay",
        group="motion",
        help="Fall of a pulse by 63 %, or of an envelope to its sustain.",
        when=_FALLING,
    )
    sustain: float = percent(40, group="motion", help="Level while a note is held.", when=_ENVELOPE)
    release_ms: float = number(
        250, lo=0, hi=10_000, unit="ms", step=1, label="Release", group="motion", help="Fall after it.", when=_ENVELOPE
    )
    glide_ms: float = number(
        0,
        lo=0,
        hi=5000,
        unit="ms",
        step=1,
        label="Glide",
        group="motion",
        help="Time of the way from one pitch to the next.",
        when=("reads", ("pitch",)),
    )
    full: int = whole(
        4, lo=1, hi=32, label="Full at", help="How many notes make 1.", when=("reads", ("count",)), group="motion"
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        if values["low"] > values["high"]:
            return [("high", "The highest pitch must not lie below the lowest.")]
        return []

    def values(self, times: Times, context: SignalContext) -> Values:
        given = context.notes.named(self.row)
        if given is None:
            return np.zeros(len(times))
        notes = context.once(
            (id(self), "chosen"), lambda: given.chosen(self.low, self.high, self.channel, self.softest)
        )
        if not len(notes.begins):
            return np.zeros(len(times))
        # Notes stand on the timeline, times count from the project's start.
        at = times + (context.use.in_s if context.use else 0.0)
        if self.reads == "pitch":
            return self._pitch(at, notes)
        if self.reads == "onset":
            return self._onsets(at, notes)
        if self.reads == "envelope":
            return self._envelope(at, notes)
        ends = context.once((id(self), "ends"), lambda: np.sort(notes.ends))
        count = np.searchsorted(notes.begins, at, "right") - np.searchsorted(ends, at, "right")
        return np.clip(count / (self.full if self.reads == "count" else 1), 0.0, 1.0)

    def _pitch(self, at: Times, notes: NoteList) -> Values:
        """The pitch of the note that began last, 0 at the lowest and 1 at the highest that there are."""
        low, high = int(notes.pitches.min()), int(notes.pitches.max())
        places = (notes.pitches - low) / max(high - low, 1)
        index = np.maximum(np.searchsorted(notes.begins, at, "right") - 1, 0)
        before = places[np.maximum(index - 1, 0)]
        share = np.clip((at - notes.begins[index]) * 1000 / max(self.glide_ms, 1e-6), 0.0, 1.0)
        return np.asarray(before + (places[index] - before) * share)

    def _onsets(self, at: Times, notes: NoteList) -> Values:
        """A pulse at the begin of each note; chords are one."""
        begins = np.unique(notes.begins)
        index = np.searchsorted(begins, at + 1e-9, "right")
        since = at - np.append(-1e9, begins)[index]
        until = np.append(begins, np.inf)[index] - at
        values = np.exp(-np.maximum(since, 0.0) * 1000 / max(self.decay_ms, 1.0))
        return np.where((index > 0) & (until > np.minimum(_GAP_S, since)), values, 0.0)

    def _envelope(self, at: Times, notes: NoteList) -> Values:
        """The highest of the envelopes of all notes."""
        attack, decay, release = (max(ms, 1e-3) / 1000 for ms in (self.attack_ms, self.decay_ms, self.release_ms))
        sustain, dynamic = self.sustain / 100, self.by_velocity / 100
        result = np.zeros(len(at))
        span = notes.longest_s + attack + release
        order = np.argsort(at, kind="stable")
        lined = at[order]
        out = np.zeros(len(at))
        for begin, end, velocity in zip(notes.begins, notes.ends, notes.velocities, strict=True):
            first, last = np.searchsorted(lined, (begin, min(end, begin + span) + release + attack))
            if last <= first:
                continue
            since = lined[first:last] - begin
            over = max(end - begin, attack)
            held = np.minimum(since, over)
            level = np.where(held < attack, held / attack, 1 - (1 - sustain) * np.minimum((held - attack) / decay, 1.0))
            level = level * np.clip(1 - (since - over) / release, 0.0, 1.0)
            out[first:last] = np.maximum(out[first:last], level * (1 - dynamic * (1 - velocity / 127)))
        result[order] = out
        return result
