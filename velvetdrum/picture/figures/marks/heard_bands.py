"""Settings of layers that read a row of bands at many moments: which bands, which levels, how fast."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, heard_sound, number, whole
from velvetdrum.declare.vocabulary import TILT_UNIT, attack, loud, quiet, release
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import BarSettings, bar_heights, fit_bars, refit_bars

CHANNELS = {"mix": "Mix", "left": "Left", "right": "Right", "side": "Side"}


def range_problems(values: dict[str, Any]) -> list[tuple[str, str]]:
    """What is wrong with a range of frequencies and one of levels, as `Declared.check` says it."""
    result = []
    if values["high_hz"] < values["low_hz"] * 1.05:
        result.append(("high_hz", "Highest must lie above Lowest: raise it, or lower the other."))
    if values["loud_db"] < values["quiet_db"] + 1:
        result.append(("loud_db", "Loud must lie at least 1 dB above Quiet."))
    return result


def fitted_range(own: BarSettings, use: AudioRange) -> dict[str, Any]:
    """Levels, tilt and the end of the range that suit a recording, as settings; what stays is left out."""
    fitted = fit_bars(use, own)
    result: dict[str, Any] = {"quiet_db": fitted.quiet_db, "loud_db": fitted.loud_db}
    if fitted.high_hz != own.high_hz:
        result["high_hz"] = fitted.high_hz
    if fitted.tilt_db != own.tilt_db:
        result["tilt_db"] = fitted.tilt_db
    return result


def refitted_range(own: BarSettings, before: AudioRange, after: AudioRange) -> dict[str, Any]:
    """What of levels, tilt and the end of the range changes with another sound, as settings."""
    fitted = refit_bars(own, before, after)
    names = ("quiet_db", "loud_db", "high_hz", "tilt_db")
    return {name: getattr(fitted, name) for name in names if getattr(fitted, name) != getattr(own, name)}


class HearsBands(DrawnLayer):
    """Base of layers that read bands at many moments."""

    fits = True

    bands: int = whole(32, lo=2, hi=256, group="sound", help="How many bands are read.")
    low_hz: float = number(
        40,
        lo=20,
        hi=10_000,
        unit="Hz",
        step=1,
        curve="log",
        label="Lowest",
        group="sound",
        help="Lowest frequency of the first band.",
    )
    high_hz: float = number(
        12_000,
        lo=40,
        hi=20_000,
        unit="Hz",
        step=1,
        curve="log",
        label="Highest",
        group="sound",
        help="Highest frequency of the last band.",
    )
    listens: str = heard_sound()
    channel: str = choice("mix", CHANNELS, group="sound", help="Part of the stereo sound that is heard.", advanced=True)
    quiet_db: float = quiet(-60, hi=0, help="The level that shows nothing.")
    loud_db: float = loud(-18, lo=-100, hi=6, help="The level that shows all.")
    tilt_db: float = number(
        3,
        lo=-12,
        hi=12,
        unit=TILT_UNIT,
        step=0.5,
        label="Tilt",
        group="sound",
        help="Raises high bands, about 1 kHz.",
        advanced=True,
    )
    attack_ms: float = attack(8, of="a band", group="sound")
    release_ms: float = release(180, of="a band", group="sound")

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        return super().check(values) + range_problems(values)

    @property
    def reads(self) -> BarSettings:
        """What is read of the sound."""
        return BarSettings(
            count=self.bands,
            low_hz=self.low_hz,
            # Patches can move the two past each other.
            high_hz=max(self.high_hz, self.low_hz * 1.05),
            spacing="log",
            channel=self.channel,
            quiet_db=self.quiet_db,
            loud_db=max(self.loud_db, self.quiet_db + 1),
            tilt_db=self.tilt_db,
            attack_ms=self.attack_ms,
            release_ms=self.release_ms,
        )

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        """Levels, tilt and the end of the range."""
        return fitted_range(cls(settings).reads, use)

    @classmethod
    def refitted(cls, settings: dict[str, Any], before: AudioRange, after: AudioRange) -> dict[str, Any]:
        return refitted_range(cls(settings).reads, before, after)

    def heights(self, at: RenderContext, times: list[float]) -> NDArray[np.float64]:
        """Heights of the bands at times in seconds of the project, 0 to 1, shape (times, bands); nothing before the
        project's start."""
        out = np.zeros((len(times), self.bands))
        if at.use is None:
            return out
        for row, time in enumerate(times):
            if time >= 0:
                out[row] = np.clip(bar_heights(at.use, self.reads, Fraction(time).limit_denominator(96_000)), 0, 1)
        return out


def rows_of_time(at: RenderContext, count: int, step: float, unit: str) -> tuple[list[float], float]:
    """Moments of `count` rows that move back one by one, the latest first, in seconds: the latest is the present, the
    others stay what they were; and how far each has moved on, 0 to 1. Steps are milliseconds or beats, on a grid from
    the project's start; without beats, a beat is half a second."""
    now = float(at.time)
    if unit == "beats" and at.beats is not None:
        beat = float(at.beats.beat_at(np.array([now]))[0]) / max(step, 1e-3)
        whole_ = np.floor(beat)
        times = at.beats.time_of((whole_ - np.arange(count - 1)) * step).tolist()
        return [now, *times], float(beat - whole_)
    seconds = step / 1000 if unit == "ms" else step * 0.5
    place = now / seconds
    whole_ = np.floor(place + 1e-9)
    return [now, *((whole_ - np.arange(count - 1)) * seconds).tolist()], float(max(place - whole_, 0.0))
