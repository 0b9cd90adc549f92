"""Notes of an instrument: when each begins and ends, its pitch, how hard it is played, and on which channel."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

MOST_NOTES = 20_000

Times = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class NoteList:
    """Notes in order of time, under a name: arrays of one length. Times in seconds of the timeline; pitches as MIDI
    numbers, 60 is middle C; velocities 1 to 127; channels 1 to 16."""

    id: str
    name: str
    begins: Times
    ends: Times
    pitches: NDArray[np.int64]
    velocities: NDArray[np.int64]
    channels: NDArray[np.int64]
    tempo_bpm: float | None = None
    bar: int = 4

    @cached_property
    def longest_s(self) -> float:
        """How long the longest note lasts, in seconds."""
        return float((self.ends - self.begins).max()) if len(self.begins) else 0.0

    def chosen(self, low: int, high: int, channel: int, softest: int) -> NoteList:
        """Those of a range of pitches, of a channel (0: all) and at least so hard.

        Parameters
        ----------
        low
            Lowest pitch.
        high
            Highest pitch.
        channel
            1 to 16, or 0 for all.
        softest
            Least velocity.
        """
        mask = (self.pitches >= low) & (self.pitches <= high) & (self.velocities >= softest)
        if channel:
            mask &= self.channels == channel
        return replace(
            self,
            begins=self.begins[mask],
            ends=self.ends[mask],
            pitches=self.pitches[mask],
            velocities=self.velocities[mask],
            channels=self.channels[mask],
        )


def note_list(ident: str, name: str, rows: list[list[float]], tempo_bpm: float | None = None, bar: int = 4) -> NoteList:
    """A list of notes from rows of begin, length (seconds), pitch, velocity and channel.

    Parameters
    ----------
    ident
        Its id.
    name
        Its name.
    rows
        The notes, in any order.
    tempo_bpm
        Their tempo, where it is known.
    bar
        Beats of a bar.
    """
    table = np.array(sorted(rows), float).reshape(-1, 5)
    pitches, velocities, channels = (table[:, place].astype(np.int64) for place in (2, 3, 4))
    ends = table[:, 0] + table[:, 1]
    return NoteList(ident, name, table[:, 0], ends, pitches, velocities, channels, tempo_bpm, bar)


@dataclass(frozen=True)
class NoteLists:
    """All lists of a project."""

    lists: tuple[NoteList, ...] = field(default=())

    def named(self, ident: str) -> NoteList | None:
        """The list with an id, the first one where that is empty; None where there is none.

        Parameters
        ----------
        ident
            The id.
        """
        return next((notes for notes in self.lists if ident in ("", notes.id)), None)
