"""Heights of spectrum bars at any time: levels, tilt, range and envelope, 0 to 1."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import replace
from fractions import Fraction

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.bands import FRAME_RATE, band_edges
from velvetdrum.limits.cache import SHARED_CACHE, cached
from velvetdrum.signals.array_cache import KeptArrays
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bar_levels import BarSettings, own_ranges, stretches, tilted_levels
from velvetdrum.signals.envelope import CHUNK, Curve, chunk_of, follow

_REACH_DB, _INAUDIBLE_DB = 80.0, -112.0
"""What lies further under the loudest band, or under that level, is the noise of a coder, or of its rounding."""

_NARROWEST_DB, _WIDEST_DB = 6.0, 90.0
"""Between quiet and loud, where they are found by what is seen."""

_MEAN_CHUNKS = 5
_TOP = 99.7
"""Per cent of the readings that stay below the loud level where nothing is to stick."""

_CLIFF_BANDS, _CLIFF_DB = 3, 35.0


_chunks = KeptArrays("signals.bars")
_samples = KeptArrays("signals.bars samples")


def bar_heights(use: AudioRange, settings: BarSettings, time: Fraction) -> Curve:
    """Heights at `time` (seconds from the in point), shape (bars,), 0 at the quiet level and 1 at the loud.

    Between two readings the heights lie on a straight line.

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that it has.
    time
        Seconds from the in point.
    """
    return _between(use, time, lambda index: _reading(use, settings, index))


def cap_heights(use: AudioRange, settings: BarSettings, hold_ms: float, fall_per_s: float, time: Fraction) -> Curve:
    """Heights of caps at `time`, shape (bars,): each stays at the last top for `hold_ms`, then falls by `fall_per_s`
    of the full height each second, or is met by its bar before.

    The tallest of max over k of h(n - k) - fall max(0, k - hold): a maximum over the hold, then one that falls.

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that it has.
    hold_ms
        Time that a cap stays, in ms.
    fall_per_s
        Shares of the full height that caps fall a second.
    time
        Seconds from the in point.
    """
    return _between(use, time, lambda index: _cap_reading(use, settings, hold_ms, fall_per_s, index))


def _between(use: AudioRange, time: Fraction, reading: Callable[[int], Curve]) -> Curve:
    position = (Fraction(round(use.in_s * 48_000), 48_000) + time) * FRAME_RATE
    index = position.numerator // position.denominator
    part = float(position - index)
    first = reading(index)
    if part < 1e-6:
        return first
    following = reading(index + 1)
    return first + np.float32(part) * (following - first)


def fit_range(use: AudioRange, settings: BarSettings) -> tuple[float, float]:
    """Quiet and loud level in dB that suit the used stretch, rounded to whole dB.

    Loud: passed by the tallest bar in 1 of 100 readings. Quiet: the level under which a quarter of all bars lie,
    between 28 and 42 dB below loud, so that the range neither sticks nor shows noise.

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that it has.
    """
    return _range_of(_sampled_levels(use, settings))


def fit_bars(use: AudioRange, settings: BarSettings) -> BarSettings:
    """The settings with what suits the used stretch: they end where its sound ends, have its range, and a tilt that
    leaves no bar at rest.

    The tilt is lowered only where that brings all bars to life, as with noise; what has no low sounds keeps its own.

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that it has.
    """
    end = SHARED_CACHE.get(("signals.bars end", _name_of(use)), lambda: sound_end_hz(use))
    if end < 0.98 * settings.high_hz:
        settings = replace(settings, high_hz=max(_rounded_down(end), settings.low_hz * 2))
    quiet, loud = fit_range(use, settings)
    fitted = replace(settings, quiet_db=quiet, loud_db=loud)
    if settings.spacing not in ("log", "linear", "mel") or not _at_rest(use, fitted).any():
        return fitted
    for tilt in (settings.tilt_db / 2, 0.0, -settings.tilt_db):
        other = replace(settings, tilt_db=tilt)
        quiet, loud = fit_range(use, other)
        other = replace(other, quiet_db=quiet, loud_db=loud)
        if tilt < settings.tilt_db and not _at_rest(use, other).any():
            return other
    return fitted


def refit_bars(settings: BarSettings, before: AudioRange, after: AudioRange) -> BarSettings:
    """The settings for another sound: their loud level stays as far from the fitted one as it was, and the quiet one
    is where bars stand as tall as before, in the mean.

    Parameters
    ----------
    settings
        The settings as they are for the sound before.
    before
        The used stretch of the sound that they were set for.
    after
        The used stretch of the new one.
    """
    own, fitted = fit_bars(before, settings), fit_bars(after, settings)
    moved = unstuck(after, fitted)
    moved = replace(moved, loud_db=round(moved.loud_db + settings.loud_db - own.loud_db, 1))
    mean = mean_height(before, settings)
    lowest, highest = moved.loud_db - _WIDEST_DB, moved.loud_db - _NARROWEST_DB
    for _ in range(10):
        middle = (lowest + highest) / 2
        if mean_height(after, replace(moved, quiet_db=middle)) > mean:
            lowest = middle
        else:
            highest = middle
    return replace(moved, quiet_db=round((lowest + highest) / 2, 1))


def unstuck(use: AudioRange, settings: BarSettings) -> BarSettings:
    """Fitted settings whose tallest bar sticks in fewer readings than the one in a hundred that a fit lets: a dense or
    very short sound has many readings near its top.

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that were fitted.
    """
    top = float(np.percentile(_sampled_levels(use, settings).max(axis=1), _TOP))
    return replace(settings, loud_db=max(settings.loud_db, float(np.ceil(top * 10) / 10)))


def mean_height(use: AudioRange, settings: BarSettings) -> float:
    """Mean height of the bars over the used stretch, or over five places of a long one, 0 to 1.

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that it has.
    """
    levels = _sampled_levels(use, settings)
    chunks = len(levels) // CHUNK
    if chunks > _MEAN_CHUNKS:
        places = np.linspace(0, chunks - 1, _MEAN_CHUNKS).astype(int)
        levels = np.concatenate([levels[place * CHUNK : (place + 1) * CHUNK] for place in places])
    heights = _risen(use, levels, settings)
    return float(follow(heights, settings.attack_ms, settings.release_ms, heights[0]).mean())


def sound_end_hz(use: AudioRange) -> float:
    """The frequency above which the used stretch has nothing to hear: half its own sample rate, or where its spectrum
    ends before that, as that of many coded files does at 16 kHz.

    Parameters
    ----------
    use
        The used stretch of a recording.
    """
    power = np.concatenate([use.recording.power("mix", *stretch) for stretch in stretches(use)])
    levels = 10.0 * np.log10(np.maximum(np.percentile(power, 99.0, axis=0), 1e-16))
    heard = np.flatnonzero((levels > levels.max() - _REACH_DB) & (levels > _INAUDIBLE_DB))
    last = int(heard[-1]) if len(heard) else len(levels) - 1
    # A coder's filter is a cliff, as no instrument and no room has one; what lies beyond it is its rounding.
    for band in range(len(levels) - _CLIFF_BANDS - 1, 0, -1):
        if levels[band] - levels[band + _CLIFF_BANDS :].max() > _CLIFF_DB:
            last = min(last, band + 1)
            break
    return min(float(band_edges()[last + 1]), use.recording.facts.sample_rate / 2)


def _at_rest(use: AudioRange, settings: BarSettings) -> NDArray[np.bool_]:
    """Which bars hardly rise in any of 50 readings."""
    tops = np.percentile(_sampled_levels(use, settings), 98.0, axis=0)
    return np.asarray(tops < settings.quiet_db + 0.03 * (settings.loud_db - settings.quiet_db))


def _sampled_levels(use: AudioRange, settings: BarSettings) -> Curve:
    """Levels of the used stretch, or of samples of a long one; many designs read the same bands."""
    # Neither the range nor the envelope has a part in them.
    read = replace(settings, quiet_db=0.0, loud_db=0.0, attack_ms=0.0, release_ms=0.0, own_range=False)
    key = (_name_of(use), read)
    return _samples.get(key, lambda: np.concatenate([tilted_levels(use, read, *stretch) for stretch in stretches(use)]))


def _name_of(use: AudioRange) -> Hashable:
    return use.recording.identity, use.in_s, use.out_s


def _range_of(levels: Curve) -> tuple[float, float]:
    tallest = levels.max(axis=1)
    sounding = tallest > tallest.max() - 60.0
    loud = float(np.percentile(tallest[sounding], 99.0))
    quiet = float(np.percentile(levels[sounding], 25.0))
    loud = float(np.clip(np.rint(loud), -90.0, 20.0))
    return float(np.clip(np.rint(quiet), loud - 42.0, loud - 28.0)), loud


def _rounded_down(hz: float) -> float:
    """A frequency with two digits that are not zero, not above another."""
    step = 10 ** (np.floor(np.log10(hz)) - 1)
    return float(np.floor(hz / step + 1e-9) * step)


@cached
def smoothing(count: int, width: float) -> Curve:
    """A kernel across bands as a matrix, shape (count, count): Gaussian, `width` bands wide at half its height.

    Reflected at both ends, so that rows and columns all add up to one: the sum of the heights is kept.

    Parameters
    ----------
    count
        How many.
    width
        Width in bands.
    """
    sigma = max(width, 1e-3) / 2.3548
    places = np.arange(count)
    out = np.zeros((count, count))
    for turn in range(-2, 3):
        for image in (2 * turn * count + places, 2 * turn * count - 1 - places):
            out += np.exp(-0.5 * ((places[:, None] - image[None, :]) / sigma) ** 2)
    # Rows that the five images do not fill to exactly the same sum are evened out, both ways at once.
    for _ in range(30):
        out /= out.sum(axis=1, keepdims=True)
        out /= out.sum(axis=0, keepdims=True)
    return out.astype(np.float32)


def _reading(use: AudioRange, settings: BarSettings, index: int) -> Curve:
    number, offset = divmod(index, CHUNK)
    return _chunk(use, settings, number)[offset]


def _chunk(use: AudioRange, settings: BarSettings, number: int) -> Curve:
    key = (use.recording.identity, use.in_s, use.out_s, settings, number)
    return _chunks.get(
        key,
        lambda: chunk_of(
            lambda start, stop: _unfollowed(use, settings, start, stop),
            number,
            settings.attack_ms,
            settings.release_ms,
        ),
    )


def _cap_reading(use: AudioRange, settings: BarSettings, hold_ms: float, fall_per_s: float, index: int) -> Curve:
    number, offset = divmod(index, CHUNK)
    key = (use.recording.identity, use.in_s, use.out_s, settings, number, hold_ms, fall_per_s)

    def make() -> Curve:
        hold = round(hold_ms * FRAME_RATE / 1000.0)
        fall = max(fall_per_s, 0.02) / FRAME_RATE
        # A full-height top has fallen to nothing after this many readings.
        past = hold + int(np.ceil(1.0 / fall))
        chunks = -(-past // CHUNK)
        heights = np.concatenate([_chunk(use, settings, number - back) for back in range(chunks, -1, -1)])
        tops = _trailing_max(heights, hold)
        slope = (np.arange(len(tops)) * fall)[:, None]
        caps = np.maximum.accumulate(tops + slope, axis=0) - slope
        return caps[-CHUNK:].astype(np.float32)

    return _chunks.get(key, make)[offset]


def _trailing_max(values: Curve, reach: int) -> Curve:
    """The largest of each value and the `reach` before it, along the first axis."""
    # Windows of n = reach + 1: the filter centres them on n // 2; its origin moves them back to end at the value.
    return np.asarray(
        scipy.ndimage.maximum_filter1d(values, reach + 1, axis=0, origin=reach - (reach + 1) // 2, mode="nearest")
    )


def _unfollowed(use: AudioRange, settings: BarSettings, start: int, stop: int) -> Curve:
    heights = _risen(use, tilted_levels(use, settings, start, stop), settings)
    if settings.smooth_bands > 0 and settings.neighbours_by == "highest":
        width = 2 * int(np.ceil(settings.smooth_bands / 2)) + 1
        heights = np.asarray(scipy.ndimage.maximum_filter1d(heights, width, axis=1, mode="nearest"))
    elif settings.smooth_bands > 0:
        heights = heights @ smoothing(heights.shape[1], settings.smooth_bands)
    frames: NDArray[np.int64] = np.arange(start, stop)
    outside = (frames < round(use.in_s * FRAME_RATE)) | (frames > round(use.out_s * FRAME_RATE))
    heights[outside] = 0.0
    return heights


def _risen(use: AudioRange, levels: Curve, settings: BarSettings) -> Curve:
    """Heights of levels in the range, or each band in its own, before their envelope."""
    quiet: Curve | float = settings.quiet_db
    span: Curve | float = max(settings.loud_db - settings.quiet_db, 0.1)
    if settings.own_range:
        quiet, span = own_ranges(use, settings)
    heights = np.clip((levels - quiet) / span, 0.0, 1.0).astype(np.float32)
    # The tilt must not lift silence into view.
    heights[levels <= -120.0] = 0.0
    return heights
