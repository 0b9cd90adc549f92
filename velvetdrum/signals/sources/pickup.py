"""The pickup: follows a part of the sound."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, flag, heard_sound, number, whole
from velvetdrum.declare.vocabulary import CHANNELS, attack, loud, quiet, release
from velvetdrum.signals.array_cache import KeptArrays
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.detect import READ_RATE, BandLevels, DetectedBand, level_db
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.level_shape import Curve, LevelShape, mapped, shaped

NYQUIST_HZ = 24_000.0

_curves = KeptArrays("signals.curves")


@signal_kind("pickup", "Pickup")
class Pickup(Signal):
    """Follows how loud a part of the sound is, or how hard it attacks."""

    order: ClassVar[int] = 1
    follows_band: ClassVar[bool] = True
    summary: ClassVar[str] = "{low_hz} – {high_hz} · {detector}"

    low_hz: float = number(
        40,
        lo=10,
        hi=24_000,
        unit="Hz",
        step=1,
        label="Low cut-off",
        group="sound",
        curve="log",
        help="Lower edge of the band.",
    )
    high_hz: float = number(
        120,
        lo=10,
        hi=24_000,
        unit="Hz",
        step=1,
        label="High cut-off",
        group="sound",
        curve="log",
        help="Upper edge of the band.",
    )
    quiet_db: float = quiet(-50, step=0.5, help="Level that becomes 0.")
    loud_db: float = loud(-12, step=0.5, help="Level that becomes 1.")
    detector: str = choice(
        "level",
        {"level": "Level", "peak": "Peak", "hits": "Hits"},
        group="sound",
        help="RMS level, highest value, or how strongly the sound attacks: a held note then reads 0.",
    )
    attack_ms: float = attack(6, of="the curve")
    release_ms: float = release(180, of="the curve")
    lag_ms: float = number(
        0, lo=-1000, hi=1000, unit="ms", step=1, label="Delay", group="motion", help="Later, or earlier below zero."
    )
    listens: str = heard_sound()
    channel: str = choice(
        "mix",
        CHANNELS,
        group="sound",
        help="The part of the stereo sound that is heard.",
        advanced=True,
    )
    soft_oct: float = number(
        0,
        lo=0,
        hi=2,
        unit="octaves",
        step=0.05,
        label="Edge softness",
        group="sound",
        help="Width over which the band fades out beyond its edges.",
        advanced=True,
    )
    beyond: str = choice(
        "held",
        {"held": "Clamped", "above": "Overshoots above", "both": "Overshoots both ways"},
        label="Clipping",
        group="sound",
        help="What happens above Loud and below Quiet: held at 1 and 0, or left to go on for one more range.",
        advanced=True,
    )
    response: float = number(
        1,
        lo=0.2,
        hi=5,
        unit="",
        step=0.05,
        label="Response",
        group="motion",
        curve="log",
        help="Exponent: above 1 small values shrink, below 1 they grow.",
        advanced=True,
    )
    hold_ms: float = number(
        0,
        lo=0,
        hi=2000,
        unit="ms",
        step=1,
        label="Hold",
        group="motion",
        help="Time for which a peak stands before the release.",
        advanced=True,
    )
    smooth_ms: float = number(
        0,
        lo=0,
        hi=4000,
        unit="ms",
        step=1,
        label="Smoothing",
        group="motion",
        help="Evens the curve out without delaying it; width at half height.",
        advanced=True,
    )
    steps: int = whole(
        0, lo=0, hi=64, group="motion", help="Rounds the curve to so many levels; 0 leaves it smooth.", advanced=True
    )
    invert: bool = flag(False, group="motion", help="Swaps 0 and 1.", advanced=True)

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        result = []
        if values["high_hz"] <= values["low_hz"]:
            result.append(("high_hz", "To must lie above From: raise it, or lower the other."))
        if values["loud_db"] < values["quiet_db"] + 1:
            result.append(("loud_db", "Loud must lie at least 1 dB above Quiet."))
        if values["steps"] == 1:
            result.append(("steps", "One level does not move: choose 2 or more, or 0 for a smooth curve."))
        return result

    @property
    def listening(self) -> DetectedBand:
        """The part of the sound that it follows: band in Hz, channel, slopes."""
        return DetectedBand(self.channel, self.low_hz, self.high_hz, self.soft_oct, self.detector)

    @property
    def shape(self) -> LevelShape:
        """The envelope that its readings are shaped by."""
        return LevelShape(
            self.quiet_db,
            self.loud_db,
            self.beyond,
            self.response,
            self.attack_ms,
            self.hold_ms,
            self.release_ms,
            self.smooth_ms,
        )

    def levels(self, use: AudioRange, length_s: float) -> BandLevels:
        """The level that is heard, dBFS, READ_RATE values a second from the start of the project.

        Parameters
        ----------
        use
            The used part of the recording.
        length_s
            Length of the project in seconds.
        """
        return level_db(use, self.listening, length_s)

    def levels_at(self, times: Times, use: AudioRange, length_s: float) -> Values:
        """The level that is heard at times in seconds of the project, dBFS.

        Parameters
        ----------
        times
            Times in seconds of the project.
        use
            The used part of the recording.
        length_s
            Length of the project in seconds.
        """
        return _between(self.levels(use, length_s), times * READ_RATE)

    def unshaped(self, use: AudioRange, length_s: float) -> Curve:
        """The curve before attack, hold, release and smoothing.

        Parameters
        ----------
        use
            The used part of the recording.
        length_s
            Length of the project in seconds.
        """
        return mapped(self.levels(use, length_s), self.shape)

    def curve(self, use: AudioRange, length_s: float) -> Curve:
        """The curve before lag, steps and inversion, READ_RATE values a second.

        Parameters
        ----------
        use
            The used part of the recording.
        length_s
            Length of the project in seconds.
        """
        key = (use.recording.identity, use.in_s, use.out_s, length_s, self.listening, self.shape)
        return _curves.get(key, lambda: shaped(self.unshaped(use, length_s), self.shape))

    def fitted(self, use: AudioRange, length_s: float, start_s: float, stop_s: float) -> dict[str, Any]:
        from velvetdrum.signals.pickup_fit import fit_pickup

        quiet_db, loud_db = fit_pickup(self, use, length_s, start_s, stop_s)
        return {"quiet_db": quiet_db, "loud_db": loud_db}

    def refitted(self, before: AudioRange, after: AudioRange) -> dict[str, Any]:
        from velvetdrum.signals.pickup_fit import reaching

        moved = Pickup(vars(self) | super().refitted(before, after))
        least = min(float(self.curve(before, before.out_s - before.in_s).max()), 1.0)
        return {"quiet_db": moved.quiet_db, "loud_db": reaching(moved, after, min(least, 0.97))}

    def sound_advice(self, use: AudioRange) -> str:
        nyquist = use.recording.facts.sample_rate / 2
        if self.low_hz < nyquist:
            return ""
        return f"The recording has nothing above {nyquist:g} Hz, half its sample rate: lower the band."

    def advice(self, at_0: float, at_1: float, spread: float) -> str:
        if at_0 > 0.98:
            return "Nothing is heard in this band at this range: lower Quiet, move the band, or press Fit."
        if at_1 > 0.05:
            return "It sticks at the top: raise Loud, or press Fit."
        if at_0 > 0.75:
            return "It rests at 0 most of the time: lower Quiet, or press Fit."
        return "It hardly moves: bring Quiet and Loud closer together, or press Fit." if spread < 0.25 else ""

    def values(self, times: Times, context: SignalContext) -> Values:
        if context.use is None:
            return np.zeros(len(times))
        curve = self.curve(context.use, context.length_s)
        at = (times - self.lag_ms / 1000.0) * READ_RATE
        return self.finished(_between(curve, at))

    def finished(self, values: Values) -> Values:
        """Inversion and steps, which have no memory.

        Parameters
        ----------
        values
            Values from 0 to 1.
        """
        if self.invert:
            values = 1.0 - values
        if self.steps > 1:
            values = np.rint(values * (self.steps - 1)) / (self.steps - 1)
        return values


def _between(curve: Curve, at: Times) -> Values:
    """Linear between readings; the ends hold."""
    at = np.clip(at, 0.0, len(curve) - 1)
    low = np.minimum(at.astype(np.int64), max(len(curve) - 2, 0))
    high = np.minimum(low + 1, len(curve) - 1)
    first, following = curve[low].astype(np.float64), curve[high].astype(np.float64)
    return first + (at - low) * (following - first)
