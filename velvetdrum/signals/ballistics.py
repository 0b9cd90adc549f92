"""Level meters by their standards: how a meter's reading rises and falls with the sound.

| Ballistics | Standard | Rise | Fall |
|---|---|---|---|
| sample peak | IEC 60268-18 | at once | chosen, in dB per second |
| quasi-peak, type I | IEC 60268-10 | 5 ms burst: -2 dB | 20 dB in 1.7 s |
| quasi-peak, type II | IEC 60268-10 | 10 ms burst: -2.5 dB | 24 dB in 2.8 s |
| VU | IEC 60268-17 | 99 % in 300 ms, 1 to 1.5 % beyond | the same |
| RMS | AES17 | mean of a chosen time | the same |
| momentary, short-term | EBU Tech 3341, ITU-R BS.1770 | mean of 0.4 s, of 3 s | the same |

Readings are dBFS (AES17: a full-scale sine reads 0), or LUFS for the two loudnesses. A meter looks back, as the real
ones do. Each chunk of the track is solved on its own, from far enough before it, so that any worker, in any order,
gets the same numbers.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import cache

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.audio.decode import RATE
from velvetdrum.audio.loudness import k_weighted, k_weighting, to_lufs
from velvetdrum.signals.array_cache import KeptArrays
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.spectrum import BandSet
from velvetdrum.signals.waves import stereo

BALLISTICS = {
    "peak": "Sample peak",
    "quasi-1": "Quasi-peak, type I",
    "quasi-2": "Quasi-peak, type II",
    "vu": "VU",
    "rms": "RMS",
    "momentary": "Momentary",
    "short": "Short-term",
}
"""What a meter can show, by what projects store."""

LOUDNESS_S = {"momentary": 0.4, "short": 3.0}
FLOOR_DB = -120.0

METER_RATE = 240
"""Readings a second."""

_BLOCK = RATE // METER_RATE
_CHUNK = 8 * METER_RATE
_SPAN_DB = 90.0  # what fell by more than this no longer shows
_SETTLING = METER_RATE // 2  # readings after which the K-weighting has forgotten that it began
_VU_DAMPING = 0.8127  # overshoot exp(-pi z / sqrt(1 - z^2)) = 1.25 %
_VU_RISE_S = 0.3

_Array = NDArray[np.float64]
_kept = KeptArrays("signals.readings")


@dataclass(frozen=True)
class QuasiPeak:
    """A rectifier that charges fast and discharges slowly. `charges`: (share, time constant in s) of what adds up to
    the reading; fall in dB per second."""

    charges: tuple[tuple[float, float], ...]
    fall_db_s: float


QUASI_PEAK = {
    # Fitted to the standard's tone bursts of 5 kHz: type I 10 ms -1, 5 ms -2, 3 ms -4, 0.4 ms -15 dB; type II
    # 10 ms -2.5, 5 ms -4, 1.5 ms -9, 0.5 ms -17 dB. No single time constant meets all of type II's.
    "quasi-1": QuasiPeak(((1.0, 0.0013),), 20 / 1.7),
    "quasi-2": QuasiPeak(((0.6, 0.0012), (0.4, 0.008)), 24 / 2.8),
}


@dataclass(frozen=True)
class MeterInput:
    """What one column of a meter reads: mix, left or right, and a band in Hz (None: all)."""

    channel: str
    band: tuple[float, float] | None = None


@dataclass(frozen=True)
class Meter:
    """A meter's ballistics. Times in ms, falls in dB per second; `fall_db_s` is that of the sample peak, the hold that
    of the mark for the last top."""

    ballistics: str
    fall_db_s: float = 20 / 1.7
    rms_ms: float = 300.0
    hold_ms: float = 1000.0
    hold_fall_db_s: float = 20.0


def meter_reading(use: AudioRange, meter: Meter, source: MeterInput, time: Fraction) -> tuple[float, float]:
    """Reading and held top of a meter at `time`, in seconds of the project, in dBFS or LUFS; never below FLOOR_DB.

    `use` is the used part of the recording, `meter` its ballistics with their times in ms and rates in dB a second,
    `source` the channels and the band in Hz that it reads. Formulas are those of the standards named at the head of
    this module: a quasi-peak is a sum of stages that charge by v += (|x| - v) * (1 - exp(-1 / (rate * tau))) while |x|
    is above v and fall by so many dB a second else; a VU needle is a second-order low-pass of |x|; RMS is the root of
    the mean square (AES17: plus 3.01 dB, so that a full-scale sine reads 0); loudness is -0.691 + 10 * log10 of the
    weighted mean square (ITU-R BS.1770-4). Between readings, METER_RATE a second, it goes in a straight line in dB.

    Parameters
    ----------
    use
        The used stretch of a recording.
    meter
        The ballistics, and what it reads.
    source
        What is read.
    time
        Seconds from the in point.
    """
    position = (Fraction(round(use.in_s * RATE), RATE) + time) * METER_RATE
    index = position.numerator // position.denominator
    part = float(position - index)
    result = []
    for curve in (_reading, _held):
        first = curve(use, meter, source, index)
        result.append(first + part * (curve(use, meter, source, index + 1) - first) if part > 1e-6 else first)
    return result[0], result[1]


def _reading(use: AudioRange, meter: Meter, source: MeterInput, index: int) -> float:
    number, offset = divmod(index, _CHUNK)
    return float(_chunk(use, meter, source, number)[offset])


def _held(use: AudioRange, meter: Meter, source: MeterInput, index: int) -> float:
    number, offset = divmod(index, _CHUNK)
    hold = round(meter.hold_ms * METER_RATE / 1000)
    past = hold + int(_SPAN_DB / max(meter.hold_fall_db_s, 1.0) * METER_RATE)
    back = -(-past // _CHUNK)

    def make() -> NDArray[np.float32]:
        curve = np.concatenate([_chunk(use, meter, source, number - step) for step in range(back, -1, -1)])
        tops = scipy.ndimage.maximum_filter1d(curve, hold + 1, origin=hold - (hold + 1) // 2, mode="nearest")
        return _falling(tops.astype(np.float64), meter.hold_fall_db_s)[-_CHUNK:].astype(np.float32)

    key = ("held", use.recording.identity, use.in_s, use.out_s, meter, source, number)
    return float(_kept.get(key, make)[offset])


def _chunk(use: AudioRange, meter: Meter, source: MeterInput, number: int) -> NDArray[np.float32]:
    """Readings of one chunk, shape (_CHUNK,); reading n belongs to the end of its 1/240 s."""
    key = (use.recording.identity, use.in_s, use.out_s, meter, source, number)
    read = _band_readings if source.band else _sample_readings
    start = number * _CHUNK
    if source.band is None and meter.ballistics in LOUDNESS_S:
        read = _loudness_readings
    return _kept.get(key, lambda: read(use, meter, source, start, start + _CHUNK).astype(np.float32))


def _falling(levels: _Array, fall_db_s: float, rate: int = METER_RATE) -> _Array:
    """Levels in dB that rise at once and fall evenly: the largest of x(n - k) - k times the fall."""
    slope = np.arange(len(levels)) * (max(fall_db_s, 0.1) / rate)
    return np.maximum.accumulate(levels + slope) - slope


def _decibel(amplitude: _Array) -> _Array:
    return np.maximum(20.0 * np.log10(np.maximum(amplitude, 1e-9)), FLOOR_DB)


def _blocks(use: AudioRange, source: MeterInput, start: int, stop: int, join: Callable[[_Array], _Array]) -> _Array:
    """One value for each reading's 200 samples, made by `join` from magnitudes of shape (readings, 200, channels)."""
    wave = np.abs(stereo(use, (start - 1) * _BLOCK, (stop - start) * _BLOCK))
    if source.channel in ("left", "right"):
        wave = wave[:, :1] if source.channel == "left" else wave[:, 1:]
    return join(wave.reshape(stop - start, _BLOCK, -1).astype(np.float64))


def _sample_readings(use: AudioRange, meter: Meter, source: MeterInput, start: int, stop: int) -> _Array:
    match meter.ballistics:
        case "peak":
            run_up = int(_SPAN_DB / max(meter.fall_db_s, 0.5) * METER_RATE)
            peaks = _blocks(use, source, start - run_up, stop, lambda wave: wave.max(axis=(1, 2)))
            return _falling(_decibel(peaks), meter.fall_db_s)[run_up:]
        case "vu":
            run_up = 3 * METER_RATE
            # A full-scale sine has a mean of 2/pi and reads 0 dB.
            means = _blocks(use, source, start - run_up, stop, lambda wave: wave.mean(axis=(1, 2))) * np.pi / 2
            return _decibel(_needle(means, METER_RATE)[run_up:])
        case "rms":
            return _decibel(
                np.sqrt(
                    2
                    * _trailing_mean(
                        lambda low, high: _blocks(use, source, low, high, lambda wave: (wave**2).mean(axis=(1, 2))),
                        start,
                        stop,
                        meter.rms_ms * METER_RATE / 1000,
                    )
                )
            )
        case _:
            law = QUASI_PEAK[meter.ballistics]
            run_up = int(_SPAN_DB / law.fall_db_s * METER_RATE)
            wave = _blocks(use, source, start - run_up, stop, lambda wave: wave.max(axis=2))
            return _decibel(_charged(wave, law) / _steady(meter.ballistics))[run_up:]


def _charged(wave: _Array, law: QuasiPeak) -> _Array:
    """What a quasi-peak rectifier shows at the most in each row of magnitudes, shape (readings, samples)."""
    decay = 10 ** (-law.fall_db_s / 20 / RATE)
    whole = decay ** wave.shape[1]
    stages = [(share, 1.0 - float(np.exp(-1.0 / (RATE * tau)))) for share, tau in law.charges]
    values = [0.0] * len(stages)
    tops = wave.max(axis=1)
    out = np.empty(len(wave))
    for index, row in enumerate(wave):
        out[index] = sum(share * value for (share, _), value in zip(stages, values, strict=True))
        if tops[index] <= min(values) * whole:
            # Nothing in here charges any stage: all of them fall.
            values = [value * whole for value in values]
            continue
        curves = np.zeros(len(row))
        samples = row.tolist()
        for number, (share, step) in enumerate(stages):
            value = values[number]
            course = []
            for sample in samples:
                value = value + step * (sample - value) if sample > value else value * decay
                course.append(value)
            values[number] = value
            curves += share * np.array(course)
        out[index] = max(out[index] * whole, float(curves.max()))
    return out


@cache
def _steady(ballistics: str) -> float:
    """What the rectifier shows of a steady full-scale sine of 1 kHz: that reads 0 dB."""
    wave = np.abs(np.sin(2 * np.pi * np.arange(RATE // 5) / 48.0)).reshape(-1, _BLOCK)
    return float(_charged(wave, QUASI_PEAK[ballistics])[-1])


def _needle(means: _Array, rate: int) -> _Array:
    """The VU movement: a mass on a spring, damped, at the end of each step of constant `means`."""
    top, bottom = _vu_filter(rate)
    return np.maximum(scipy.signal.lfilter(top, bottom, means), 0.0)


@cache
def _vu_filter(rate: int) -> tuple[_Array, _Array]:
    frequency = _vu_frequency()
    system = ([frequency**2], [1.0, 2 * _VU_DAMPING * frequency, frequency**2])
    top, bottom, _ = scipy.signal.cont2discrete(system, 1.0 / rate, method="zoh")
    # The reading belongs to the end of its step.
    return np.asarray(top).reshape(-1)[1:], np.asarray(bottom)


@cache
def _vu_frequency() -> float:
    """Natural frequency in rad/s with which 99 % are reached after 300 ms."""
    z = _VU_DAMPING
    swing = np.sqrt(1 - z * z)
    x = np.linspace(0.1, 12, 20_000)
    step = 1 - np.exp(-z * x) * (np.cos(swing * x) + z / swing * np.sin(swing * x))
    return float(x[np.argmax(step >= 0.99)] / _VU_RISE_S)


def _trailing_mean(read: Callable[[int, int], _Array], start: int, stop: int, length: float) -> _Array:
    """Means over the last `length` readings, which need not be whole, at readings start to stop."""
    length = max(length, 1.0)
    back = int(np.ceil(length))
    sums = np.concatenate([[0.0], np.cumsum(read(start - back, stop))])
    ends = np.arange(back + 1, back + 1 + stop - start, dtype=np.float64)
    return (
        np.maximum(
            np.interp(ends, np.arange(len(sums)), sums) - np.interp(ends - length, np.arange(len(sums)), sums), 0.0
        )
        / length
    )


def _loudness_readings(use: AudioRange, meter: Meter, source: MeterInput, start: int, stop: int) -> _Array:
    """Loudness of the whole programme as it is heard, all channels together."""
    channels = use.recording.pcm.shape[1]

    def energies(low: int, high: int) -> _Array:
        wave = stereo(use, (low - _SETTLING - 1) * _BLOCK, (high - low + _SETTLING) * _BLOCK)[:, :channels]
        weighted = k_weighted(wave.T.astype(np.float64))[:, _SETTLING * _BLOCK :]
        return np.asarray((weighted**2).sum(axis=0).reshape(high - low, _BLOCK).mean(axis=1))

    mean = _trailing_mean(energies, start, stop, LOUDNESS_S[meter.ballistics] * METER_RATE)
    return np.maximum(to_lufs(mean), FLOOR_DB)


def _band_readings(use: AudioRange, meter: Meter, source: MeterInput, start: int, stop: int) -> _Array:
    """Readings of one band, from the stored bands 60 times a second, with straight lines between."""
    assert source.band is not None
    bands = BandSet.from_edges([source.band])
    ratio = METER_RATE // FRAME_RATE
    first, last = start // ratio - 1, stop // ratio + 2

    def power(low: int, high: int) -> _Array:
        result = (use.recording.power(source.channel, low, high) @ bands.weights())[:, 0].astype(np.float64)
        places = np.arange(low, high)
        result[(places < round(use.in_s * FRAME_RATE)) | (places > round(use.out_s * FRAME_RATE))] = 0.0
        return result

    match meter.ballistics:
        case "vu":
            run_up = 3 * FRAME_RATE
            levels = _decibel(_needle(np.sqrt(power(first - run_up, last)), FRAME_RATE)[run_up:])
        case "rms":
            levels = _decibel(np.sqrt(_trailing_mean(power, first, last, meter.rms_ms * FRAME_RATE / 1000)))
        case "momentary" | "short":
            gain = float(k_weighting(bands.centres_hz)[0])
            # Stored power counts double (AES17); a stereo mix is the mean of its two channels, loudness their sum.
            gain *= 1.0 if use.recording.pcm.shape[1] == 2 else 0.5
            mean = _trailing_mean(power, first, last, LOUDNESS_S[meter.ballistics] * FRAME_RATE)
            levels = np.maximum(to_lufs(mean * gain), FLOOR_DB)
        case _:
            fall = meter.fall_db_s if meter.ballistics == "peak" else QUASI_PEAK[meter.ballistics].fall_db_s
            run_up = int(_SPAN_DB / max(fall, 0.5) * FRAME_RATE)
            levels = _falling(_decibel(np.sqrt(power(first - run_up, last))), fall, FRAME_RATE)[run_up:]
    return np.interp(np.arange(start, stop) / ratio, np.arange(first, last), levels)
