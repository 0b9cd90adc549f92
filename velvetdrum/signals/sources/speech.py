"""What a voice does as a curve: while it speaks, how loud each sentence is, where syllables set in."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from velvetdrum.audio.speech import SPEECH_DB, ramps, sentences, spoken, syllable_onsets
from velvetdrum.declare.settings import choice, heard_sound, number
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind

_BRIDGED_S = 0.25
_SETTLED = 1e-4
"""Decays that have come below this are over."""


@signal_kind("speech", "Voice")
class Speech(Signal):
    """Follows a voice: while it speaks, by the loudness of each sentence, or by its syllables."""

    follows_voice: ClassVar[bool] = True
    order: ClassVar[int] = 14
    summary: ClassVar[str] = "{gives}"

    gives: str = choice(
        "sentences",
        {"sentences": "Loudness by sentence", "speaking": "While it speaks", "onsets": "Onsets of syllables"},
        label="Gives",
        help="What of the voice it follows.",
    )
    listens: str = heard_sound(advanced=False)
    quiet_lufs: float = number(
        -36,
        lo=-70,
        hi=0,
        unit="LUFS",
        step=0.5,
        label="Quiet",
        group="sound",
        help="A sentence of this loudness becomes 0.",
        when=("gives", ("sentences",)),
    )
    loud_lufs: float = number(
        -16,
        lo=-70,
        hi=0,
        unit="LUFS",
        step=0.5,
        label="Loud",
        group="sound",
        help="A sentence of this loudness becomes 1.",
        when=("gives", ("sentences",)),
    )
    rise_ms: float = number(
        80,
        lo=0,
        hi=5000,
        unit="ms",
        step=1,
        label="Attack",
        group="motion",
        help="How long before the first syllable it begins to rise.",
        when=("gives", ("sentences", "speaking")),
    )
    fall_ms: float = number(
        300,
        lo=0,
        hi=5000,
        unit="ms",
        step=1,
        label="Release",
        group="motion",
        help="How long after the last syllable it has fallen.",
        when=("gives", ("sentences", "speaking")),
    )
    decay_ms: float = number(
        160,
        lo=5,
        hi=5000,
        unit="ms",
        step=1,
        curve="log",
        label="Decay",
        group="motion",
        help="Time in which it falls by 63 % after an onset.",
        when=("gives", ("onsets",)),
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        if values["loud_lufs"] <= values["quiet_lufs"]:
            return [("loud_lufs", "Loud must lie above Quiet: raise it, or lower the other.")]
        return []

    def values(self, times: Times, context: SignalContext) -> Values:
        if context.use is None:
            return np.zeros(len(times))
        recording, seconds = context.use.recording, times + context.use.in_s
        if self.gives == "onsets":
            onsets = syllable_onsets(recording)
            since = seconds - np.append(-1e9, onsets)[np.searchsorted(onsets, seconds + 1e-6, "right")]
            result = np.exp(-np.maximum(since, 0.0) / (self.decay_ms / 1000))
            return np.where(result < _SETTLED, 0.0, result)
        rise, fall = self.rise_ms / 1000, self.fall_ms / 1000
        if self.gives == "speaking":
            return ramps(spoken(recording, SPEECH_DB, _BRIDGED_S), rise, fall)(seconds)
        places, loudness = sentences(recording)
        heights = np.clip((loudness - self.quiet_lufs) / (self.loud_lufs - self.quiet_lufs), 0.0, 1.0)
        result = np.zeros(len(seconds))
        if not len(seconds):
            return result
        # Only sentences about these times: an hour has a thousand.
        first = int(np.searchsorted([end for _, end in places], seconds.min() - fall))
        last = int(np.searchsorted([begin for begin, _ in places], seconds.max() + rise, "right"))
        for place, height in zip(places[first:last], heights[first:last].tolist(), strict=True):
            near = (seconds > place[0] - rise) & (seconds < place[1] + fall)
            result[near] = np.maximum(result[near], height * ramps([place], rise, fall)(seconds[near]))
        return result
