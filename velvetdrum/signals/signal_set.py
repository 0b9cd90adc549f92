"""All signals of a project, and their values at any time."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from graphlib import CycleError, TopologicalSorter

import numpy as np

import velvetdrum.signals.sources  # noqa: F401  (makes the signal kinds known)
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatGrid, BeatSettings
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values
from velvetdrum.signals.notes import NoteLists


@dataclass(frozen=True)
class NamedSignal:
    """A signal of a project: its name, and the colour (#rrggbb) that stands for it everywhere."""

    id: str
    name: str
    colour: str
    signal: Signal


class SignalSet:
    """The signals of a project over the used part of its sound. A pure function of both and of time."""

    def __init__(
        self,
        signals: tuple[NamedSignal, ...],
        beats: BeatSettings,
        use: AudioRange | None,
        length_s: float,
        markers: tuple[float, ...] = (),
        notes: NoteLists | None = None,
    ) -> None:
        """`signals` hold no loops of references (`loop_in`); `length_s` is the project's length, `markers` are times,
        in seconds."""
        self.notes = notes or NoteLists()
        self.signals = {named.id: named for named in signals}
        self.beats, self.use, self.length_s, self.markers = beats, use, length_s, markers
        self._contexts: dict[str, SignalContext] = {}

    @cached_property
    def grid(self) -> BeatGrid | None:
        """The beats of the project, or None without a steady beat."""
        return BeatGrid.of(self.beats, self.use)

    @cached_property
    def context(self) -> SignalContext:
        """What signals are worked out from."""
        return SignalContext(self.use, self.grid, self.length_s, self.values, self.markers, self.notes)

    def values(self, ident: str, times: Times) -> Values:
        """A signal's curve at times in seconds of the project.

        Parameters
        ----------
        ident
            Id of a signal.
        times
            Times in seconds of the project.
        """
        signal = self.signals[ident].signal
        return signal.values(times, self._context_of(signal))

    def _context_of(self, signal: Signal) -> SignalContext:
        """What a signal is worked out from: of one that listens to something else than the sum, that."""
        listens = getattr(signal, "listens", "")
        if not listens or self.use is None:
            return self.context
        if listens not in self._contexts:
            self._contexts[listens] = replace(self.context, use=self.use.heard(listens), solved={})
        return self._contexts[listens]

    def value(self, ident: str, time_s: float) -> float:
        """A signal's value at one time.

        Parameters
        ----------
        ident
            Id of a signal.
        time_s
            A time in seconds.
        """
        return float(self.values(ident, np.array([time_s]))[0])


def loop_in(references: dict[str, tuple[str, ...]]) -> list[str] | None:
    """The ids of a loop of references, its first one repeated at the end; None when there is none.

    `references` maps each id to the ids that it reads; ids that are not in it are left out of account.

    Parameters
    ----------
    references
        Ids that each id refers to.
    """
    graph = {ident: [other for other in others if other in references] for ident, others in references.items()}
    try:
        TopologicalSorter(graph).prepare()
    except CycleError as problem:
        # Its ids lead from what is read to what reads it, from anywhere on: here the other way, from the first on.
        loop: list[str] = problem.args[1][:0:-1]
        order = {ident: number for number, ident in enumerate(references)}
        begin = min(range(len(loop)), key=lambda n: order[loop[n]])
        return [*loop[begin:], *loop[:begin], loop[begin]]
    return None
