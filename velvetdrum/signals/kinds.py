"""Signal kinds: each is one class that declares its settings beside the code that computes its curve."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.schema import Declared, known_as
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatGrid
from velvetdrum.signals.notes import NoteLists

Times = NDArray[np.float64]
Values = NDArray[np.float64]

SOLVED_RATE = 240
"""Values a second at which a signal is read by one that is solved ahead."""


@dataclass(frozen=True)
class SignalContext:
    """What a signal may read: the sound, the beats, the length of the project, notes, and other signals by their id."""

    use: AudioRange | None
    grid: BeatGrid | None
    length_s: float
    other: Callable[[str, Times], Values]
    markers: tuple[float, ...] = ()
    notes: NoteLists = field(default_factory=NoteLists)
    solved: dict[Any, Any] = field(default_factory=dict, compare=False)
    """What was solved ahead over the whole project, by whom and what: made once, never changed."""

    @property
    def even_times(self) -> Times:
        """Times of the project, `SOLVED_RATE` a second, from 0 to its end."""
        return np.arange(int(np.ceil(self.length_s * SOLVED_RATE)) + 2) / SOLVED_RATE

    def sampled(self, ident: str) -> Values:
        """Another signal at `even_times`; not to be written to.

        Parameters
        ----------
        ident
            Id of a signal.
        """
        return self.once(ident, lambda: self.other(ident, self.even_times))

    def once(self, key: Any, make: Callable[[], Any]) -> Any:
        """What `make` gives, made at the first call with a key.

        Parameters
        ----------
        key
            Names it within this project.
        make
            Makes it.
        """
        if key not in self.solved:
            self.solved[key] = make()
        return self.solved[key]


class Signal(Declared):
    """Base of all signal kinds: a curve over the project, 0 to 1 unless its settings let it overshoot."""

    order: ClassVar[int] = 100
    """Where it stands among those that are offered: the least first, then by name."""
    follows_band: ClassVar[bool] = False
    """True for a kind that follows a band of the sound: from `low_hz` to `high_hz`, `quiet_db` to `loud_db`."""
    keeps_beats: ClassVar[bool] = False
    """True for a kind that needs the project's beats."""
    follows_voice: ClassVar[bool] = False
    """True for a kind that is made for a voice: a new one listens to the voice among several tracks."""

    def values(self, times: Times, context: SignalContext) -> Values:
        """The curve at `times` in seconds of the project. A pure function; nothing is kept between calls.

        Parameters
        ----------
        times
            Times in seconds of the project.
        context
            The project that it is read in.
        """
        raise NotImplementedError

    def advice(self, at_0: float, at_1: float, spread: float) -> str:
        """What to do about a curve of which such shares of its frames (0 to 1) stand at 0 and at 1, and that moves over
        so much; empty when it is well.

        Parameters
        ----------
        at_0
            Share of frames at 0, 0 to 1.
        at_1
            Share of frames at 1, 0 to 1.
        spread
            How far the rest moves, 0 to 1.
        """
        return ""

    def unshaped(self, use: AudioRange, length_s: float) -> NDArray[np.floating[Any]] | None:
        """What it reads of a sound before it is shaped over time, `READ_RATE` values a second; None where there is no
        such thing.

        Parameters
        ----------
        use
            The used part of the recording.
        length_s
            Length of the project in seconds.
        """
        return None

    def fitted(self, use: AudioRange, length_s: float, start_s: float, stop_s: float) -> dict[str, Any]:
        """Settings that suit a stretch of a sound, in seconds of the project; empty for kinds that read no levels.

        Parameters
        ----------
        use
            The used part of the recording.
        length_s
            Length of the project in seconds.
        start_s
            Where it begins, in seconds.
        stop_s
            Where it ends, in seconds.
        """
        return {}

    def refitted(self, before: AudioRange, after: AudioRange) -> dict[str, Any]:
        """What of its settings changes when another sound takes the place of one: each stays as far from what fits as
        it was.

        Parameters
        ----------
        before
            The used part of the recording that they were set for.
        after
            The used part of the new one.
        """
        was, now = (self.fitted(use, use.out_s - use.in_s, 0.0, use.out_s - use.in_s) for use in (before, after))
        return {name: getattr(self, name) + now[name] - was[name] for name in was.keys() & now.keys()}

    def sound_advice(self, use: AudioRange) -> str:
        """What to do where a sound has nothing to read for it; empty where it has.

        Parameters
        ----------
        use
            The used part of the recording.
        """
        return ""

    def inputs(self) -> tuple[str, ...]:
        """Ids of the signals that this one reads."""
        return ()


SIGNAL_KINDS: dict[str, type[Signal]] = {}
"""Every known kind by its name. Filled when `velvetdrum.signals.sources` is imported."""

signal_kind = partial(known_as, SIGNAL_KINDS)
"""Class decorator with a name and a title: makes a signal kind known."""
