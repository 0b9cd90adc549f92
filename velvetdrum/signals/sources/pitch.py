"""The pitch of a voice or a lead as a curve."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from velvetdrum.audio.pitch import HOPS, pitch_of
from velvetdrum.declare.settings import choice, heard_sound, number
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind


@signal_kind("pitch", "Pitch")
class Pitch(Signal):
    """Follows the pitch of a voice or a lead, by its octaves."""

    follows_voice: ClassVar[bool] = True
    order: ClassVar[int] = 13
    summary: ClassVar[str] = "{low_hz} – {high_hz}"

    listens: str = heard_sound(advanced=False)
    low_hz: float = number(
        110, lo=60, hi=1000, unit="Hz", step=1, curve="log", label="Lowest", group="sound", help="Becomes 0."
    )
    high_hz: float = number(
        440,
        lo=60,
        hi=1000,
        unit="Hz",
        step=1,
        curve="log",
        label="Highest",
        group="sound",
        help="Becomes 1.",
    )
    pauses: str = choice(
        "hold",
        {"hold": "Holds", "zero": "At 0"},
        label="In pauses",
        help="Where there is no voice it holds the last pitch, or stands at 0.",
    )
    glide_ms: float = number(
        60, lo=0, hi=2000, unit="ms", step=1, label="Glide", group="motion", help="Evens the way from one to the next."
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        if values["high_hz"] <= values["low_hz"]:
            return [("high_hz", "The highest pitch must lie above the lowest.")]
        return []

    def values(self, times: Times, context: SignalContext) -> Values:
        if context.use is None:
            return np.zeros(len(times))
        curve = context.once((id(self), "curve"), lambda: self._curve(context))
        return np.interp((times + context.use.in_s) * HOPS, np.arange(len(curve)), curve)

    def _curve(self, context: SignalContext) -> Values:
        """Its value at each reading of the recording."""
        assert context.use is not None
        read = pitch_of(context.use.recording)
        places = np.log2(np.maximum(read.hz, 1.0) / self.low_hz) / np.log2(max(self.high_hz / self.low_hz, 1.001))
        result = np.clip(places, 0.0, 1.0)
        if self.pauses == "zero":
            result = np.where(read.voiced, result, 0.0)
        elif read.voiced.any():
            # Before the first voice stands what it begins with.
            last = np.maximum.accumulate(np.where(read.voiced, np.arange(len(result)), -1))
            result = result[np.where(last >= 0, last, int(np.argmax(read.voiced)))]
        else:
            result = np.zeros(len(result))
        width = max(round(self.glide_ms / 1000 * HOPS), 1)
        if width > 1:
            padded = np.pad(result, (width // 2, width - 1 - width // 2), mode="edge")
            result = np.convolve(padded, np.ones(width) / width, "valid")
        return result
