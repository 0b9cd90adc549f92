"""Tempo and beats of a recording, from its onset strength.

Which of several tempi is the beat (half, the same, double)? A listener taps where the heavy strokes are, so each
candidate period is held against the accents: how much of them falls on its beats (coverage), and how many of its
beats carry one (occupancy). Then the beats are placed by dynamic programming (after D. Ellis, "Beat tracking by
dynamic programming", 2007): the path through the strokes whose steps stay near the period. At last each beat is
drawn onto the line through its neighbours, which takes out the grid of the readings.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.onsets import ONSET_RATE

SLOWEST_BPM, FASTEST_BPM = 55.0, 215.0
STEADY = 0.3
"""Confidence below which a recording is said to have no steady beat."""

_LATE_S = 0.0015  # by how much a stroke's reading lies behind the stroke, measured on clicks and drums
_WEIGHTS = np.array([1.0, 0.8, 0.25])  # low, middle, high: kick and snare carry the beat, hats divide it
_FAINT = 0.5  # a rise of about 2 dB in all bands: less is no stroke, however quiet the rest is
_FAINTEST = 0.25  # of music without strokes, such as strings: its own rises are all there is
_FAVOURITE_BPM = 116.0
_OTHERS = 2
# Whether so many beats make up what repeats: two, four, eight are common, three and six less so.
_METRE = {1: 0.92, 2: 1.0, 3: 0.85, 4: 1.0, 5: 0.5, 6: 0.5, 7: 0.5, 8: 1.0, 12: 0.5, 16: 1.0}
_UNEVEN = 0.45
_WINDOW_S = 8.0
_TIGHTNESS = 260.0

# How many tatums make up a beat, and how usual that is.
_RATIOS = ((1, 0.95), (2, 1.0), (3, 0.9), (4, 0.88), (6, 0.75), (8, 0.62), (0.5, 0.7), (1.5, 0.85), (0.75, 0.6))

Strengths = NDArray[np.float64]


@dataclass(frozen=True)
class Beats:
    """Measured beats. Without a steady beat `tempo_bpm` is None and `times_s` empty; `confidence` is 0 to 1."""

    tempo_bpm: float | None
    confidence: float
    times_s: NDArray[np.float64]
    others: tuple[Beats, ...] = ()
    """Further tempos that a listener may tap, the likeliest first."""


def find_beats(strength: NDArray[np.float32], first_s: float, last_s: float) -> Beats:
    """Beats of a recording, and the one or two other tempos that are likeliest: whether a triplet's third or its beat
    is tapped is a matter of taste.

    `strength` is onset strength, shape (readings, 3), of low, middle and high sound at ONSET_RATE readings a second;
    `first_s` and `last_s` are the first and the last sound in seconds. Times are in seconds of the recording, tempos
    in beats a minute; without a steady beat the tempo is None and there are no times.

    The period p comes first, from the autocorrelation of the accents: of every candidate the product of coverage (how
    much of the accents falls on its beats), occupancy (how many of its beats carry one) and how usual its tempo is.
    Then the beats t_i are those with the largest sum of accent(t_i) - T * ln((t_i - t_(i-1)) / p)^2, found by dynamic
    programming (D. Ellis, "Beat tracking by dynamic programming", J. New Music Research 36, 2007), and each is drawn
    onto the line through its neighbours. `confidence` is the root of how clear the pulse is times how well they fit.

    Parameters
    ----------
    strength
        Onset strength by reading, shape (n,).
    first_s
        Seconds at which the stretch begins.
    last_s
        Seconds at which the stretch ends.
    """
    first, last = int(max(first_s - 0.1, 0) * ONSET_RATE), int((last_s + 0.1) * ONSET_RATE) + 1
    accents = _evened(strength[first:last].astype(np.float64) @ _WEIGHTS)
    if len(accents) < 3 * ONSET_RATE or accents.max() <= 0:
        return Beats(None, 0.0, np.empty(0))
    every = _evened(strength[first:last].astype(np.float64).sum(axis=1))
    rhythm = _rhythm(every)
    tatum, clarity = _tatum(rhythm)
    scored = _beat_periods(accents, rhythm, tatum)
    strokes = (first + np.flatnonzero(every >= 0.15)) / ONSET_RATE

    def placed(period: float, share: float) -> Beats:
        places = _path(accents + 0.15 * every, period)
        times, fit = _smoothed(accents, every, places, period)
        confidence = float(np.sqrt(np.clip(clarity, 0, 1) * fit))
        if confidence < STEADY or len(times) < 4 or not len(strokes):
            return Beats(None, round(confidence, 3), np.empty(0))
        times = _extended(times + first / ONSET_RATE - _LATE_S, strokes[0], strokes[-1])
        return Beats(round(_tempo(times), 3), round(confidence * share, 3), np.round(times, 4))

    best = placed(scored[0][1], 1.0)
    if best.tempo_bpm is None:
        return best
    others = [placed(period, score / scored[0][0]) for score, period in scored[1 : 1 + _OTHERS]]
    kept = [other for other in others if other.tempo_bpm is not None]
    return replace(best, others=tuple(sorted(kept, key=lambda other: -other.confidence)))


def _evened(raw: Strengths) -> Strengths:
    """Strength against its surroundings: quiet passages count as much as loud ones, steady noise not at all."""
    local = scipy.ndimage.uniform_filter1d(raw, int(0.4 * ONSET_RATE))
    rises = raw - local
    faint = float(np.clip(0.8 * np.percentile(rises, 98), _FAINTEST, _FAINT))
    bare = np.maximum(rises - 0.4 * faint, 0.0)
    loud = scipy.ndimage.uniform_filter1d(scipy.ndimage.maximum_filter1d(bare, 2 * ONSET_RATE), 2 * ONSET_RATE)
    return bare / np.maximum(loud, max(0.08 * bare.max(), faint))


def _rhythm(strength: Strengths) -> Strengths:
    """Mean autocorrelation over windows of 8 s, normalised to 1 at lag 0; up to 4.5 s. A drifting tempo stays
    visible because each window sees only a little of the drift."""
    size = int(_WINDOW_S * ONSET_RATE)
    lags = int(4.5 * ONSET_RATE)
    smooth = scipy.ndimage.gaussian_filter1d(strength, 1.0)
    total = np.zeros(lags)
    starts = range(0, max(len(smooth) - size // 2, 1), size // 2)
    for start in starts:
        part = smooth[start : start + size]
        if part.max() < 0.2:
            continue
        part = part - part.mean()
        spectrum = np.abs(np.fft.rfft(part, 2 * size)) ** 2
        result = np.fft.irfft(spectrum)[:lags]
        if result[0] > 0:
            overlap = np.maximum(len(part) - np.arange(lags), 1) / len(part)
            total += np.where(overlap > 0.25, result / result[0] / overlap, 0.0)
    return total / max(total[0], 1e-12)


def _comb(rhythm: Strengths, period: float) -> float:
    """Mean of the autocorrelation at the first multiples of a period in readings, each to the nearest peak."""
    values = []
    for multiple in (1, 2, 3, 4):
        place = period * multiple
        reach = max(1, round(0.012 * place))
        low, high = int(place) - reach, int(place) + reach + 2
        if high < len(rhythm):
            values.append(rhythm[max(low, 1) : high].max())
    return float(np.mean(values)) if values else 0.0


def _tatum(rhythm: Strengths) -> tuple[float, float]:
    """The shortest period that repeats well, in readings, and how clear the best period is, 0 to 1."""
    low, high = int(0.1 * ONSET_RATE), int(60 / SLOWEST_BPM * ONSET_RATE)
    peaks, _ = scipy.signal.find_peaks(rhythm[: high + 2], height=0.02)
    peaks = peaks[peaks >= low]
    if not len(peaks):
        return 60 / _FAVOURITE_BPM * ONSET_RATE, 0.0
    exact = [_parabola(rhythm, int(peak)) for peak in peaks]
    scores = np.array([_comb(rhythm, place) for place in exact])
    good = np.flatnonzero(scores >= 0.6 * scores.max())
    return exact[good[0]], float(scores.max())


def _parabola(curve: Strengths, peak: int) -> float:
    """Place of a peak between readings."""
    if not 0 < peak < len(curve) - 1:
        return float(peak)
    before, here, after = curve[peak - 1 : peak + 2]
    bend = before - 2 * here + after
    return peak + (0.5 * (before - after) / bend if bend < 0 else 0.0)


def _beat_periods(accents: Strengths, rhythm: Strengths, tatum: float) -> list[tuple[float, float]]:
    """Scores and periods in readings that a listener may tap, the best first: multiples of the tatum, judged by the
    accents, by how the pattern repeats, and by habit. Periods are at least a tenth apart."""
    pattern = _pattern(rhythm)
    result: list[tuple[float, float]] = []
    for ratio, habit in _RATIOS:
        period = _nearest_peak(rhythm, tatum * ratio)
        tempo = 60 * ONSET_RATE / period
        if not SLOWEST_BPM <= tempo <= FASTEST_BPM:
            continue
        if ratio not in (1, 2, 3, 4, 6, 8) and rhythm[min(round(period), len(rhythm) - 1)] < 0.35:
            # Between the tatums only where something repeats there.
            continue
        prior = np.exp(-0.5 * (np.log2(tempo / _FAVOURITE_BPM) / 0.5) ** 2) ** 0.35
        support = max(_comb(rhythm, period), 0.01) ** 0.35
        score = float(_taps(accents, period) * habit * prior * support * _metre(pattern, period))
        result.append((score, period))
    result.sort(key=lambda item: -item[0])
    kept: list[tuple[float, float]] = []
    for score, period in result:
        if all(abs(np.log(period / other)) > 0.1 for _, other in kept):
            kept.append((score, period))
    return kept or [(1.0, tatum)]


def _pattern(rhythm: Strengths) -> float:
    """Length in readings of what repeats best, the shortest of nearly equal ones; 0 where nothing does."""
    low = round(0.9 * ONSET_RATE)
    peaks, _ = scipy.signal.find_peaks(rhythm[low:], height=0.1)
    if not len(peaks):
        return 0.0
    heights = rhythm[peaks + low]
    first = peaks[np.flatnonzero(heights >= 0.96 * heights.max())[0]] + low
    return _parabola(rhythm, int(first))


def _metre(pattern: float, period: float) -> float:
    """How usual it is that a pattern is so many beats long."""
    if not pattern:
        return 1.0
    beats = pattern / period
    whole = max(round(beats), 1)
    return _METRE.get(whole, 0.5) if abs(beats - whole) < 0.06 * whole else _UNEVEN


def _nearest_peak(rhythm: Strengths, place: float) -> float:
    """The autocorrelation's peak near a lag, made exact on its fourth multiple where that is clear."""
    for multiple in (1, 2, 4):
        at = place * multiple
        reach = max(2, round(0.02 * at))
        low, high = max(1, int(at) - reach), min(len(rhythm) - 1, int(at) + reach + 1)
        if high - low < 3:
            break
        peak = low + int(rhythm[low:high].argmax())
        if low < peak < high - 1 and rhythm[peak] > 0.05:
            place = _parabola(rhythm, peak) / multiple
    return place


def _taps(accents: Strengths, period: float) -> float:
    """Agreement of a tapped period with the accents: harmonic mean of coverage and occupancy, at the best phase,
    averaged over windows."""
    size = int(_WINDOW_S * ONSET_RATE)
    reach = max(2, round(0.03 * ONSET_RATE))
    wide = scipy.ndimage.maximum_filter1d(accents, 2 * reach + 1)
    total = scipy.ndimage.uniform_filter1d(accents, 2 * reach + 1) * (2 * reach + 1)
    result, weights = [], []
    starts = np.arange(0, max(len(accents) - size // 2, 1), size)
    for start in starts[:: max(1, len(starts) // 10)]:
        stop = min(start + size, len(accents))
        energy = accents[start:stop].sum()
        strokes = wide[start:stop][accents[start:stop] >= 0.3]
        if energy <= 0 or not len(strokes):
            continue
        strong = 0.42 * np.percentile(strokes, 80)
        count = int((stop - start) / period)
        if not count:
            continue
        phases = np.arange(0, period, 2.0)[:, None]
        beats = np.rint(start + phases + period * np.arange(count)).astype(int)
        beats = np.minimum(beats, stop - 1)
        coverage = np.minimum(total[beats].sum(axis=1) / energy, 1.0)
        occupancy = np.mean(wide[beats] >= strong, axis=1)
        result.append(float((2 * coverage * occupancy / np.maximum(coverage + occupancy, 1e-9)).max()))
        weights.append(energy)
    return float(np.average(result, weights=weights)) if result else 0.0


def _path(strength: Strengths, period: float) -> NDArray[np.int64]:
    """Readings of the beats: the best path whose steps stay near the period. Sought on every second reading."""
    smooth = scipy.ndimage.gaussian_filter1d(strength, period / 32)
    smooth = smooth[: len(smooth) // 2 * 2].reshape(-1, 2).max(axis=1)
    smooth, period = smooth / max(float(np.std(smooth)), 1e-9), period / 2
    steps = np.arange(-round(1.5 * period), -round(0.65 * period))
    cost = -_TIGHTNESS * np.log(-steps / period) ** 2
    count, reach, pad = len(smooth), len(steps), -int(steps[0])
    score = np.zeros(count + pad)
    back = np.full(count, -1)
    options = np.empty(reach)
    for index in range(count):
        np.add(score[index : index + reach], cost, out=options)
        best = options.argmax()
        gain = options[best]
        if gain > 0:
            score[index + pad] = smooth[index] + gain
            back[index] = index + steps[best]
        else:
            score[index + pad] = smooth[index]
    tail = score[pad + max(count - round(1.5 * period), 0) :]
    at = count - len(tail) + int(tail.argmax())
    places = [at]
    while back[at] >= 0:
        at = int(back[at])
        places.append(at)
    return np.array(places[::-1]) * 2


def _smoothed(
    accents: Strengths, every: Strengths, places: NDArray[np.int64], period: float
) -> tuple[Strengths, float]:
    """Beat times in seconds between readings, and the share of beats that lie on a stroke near the line of their
    neighbours, 0 to 1."""
    both = scipy.ndimage.gaussian_filter1d(accents + 0.3 * every, 1.0)
    reach = round(0.05 * ONSET_RATE)
    exact = np.empty(len(places))
    weight = np.empty(len(places))
    for index, place in enumerate(places):
        low, high = max(place - reach, 0), min(place + reach + 1, len(both))
        peak = low + int(both[low:high].argmax())
        exact[index] = _parabola(both, peak)
        weight[index] = max(both[peak], 1e-3)
    weight = np.minimum(weight / max(np.percentile(weight, 75), 0.15), 1.0)
    out = _through_neighbours(exact, weight)
    on = (weight > 0.25) & (np.abs(out - exact) < 0.018 * ONSET_RATE)
    return out / ONSET_RATE, float(np.mean(on)) if len(on) > 3 else 0.0


def _through_neighbours(places: Strengths, weight: Strengths) -> Strengths:
    """Each place drawn onto a parabola through the seven on each side of it, so that a tempo that drifts is
    followed; places off the parabola lose their say in three rounds."""
    near = np.arange(-7.0, 8.0)
    windows = np.arange(len(places))[:, None] + near.astype(int)
    inside = (windows >= 0) & (windows < len(places))
    windows = np.clip(windows, 0, len(places) - 1)
    values, say = places[windows] - places[:, None], (weight[windows] + 1e-3) * inside
    powers = np.stack([near**0, near, near**2])
    local = say
    for _ in range(3):
        normal = np.einsum("nw,iw,jw->nij", local, powers, powers) + 1e-9 * np.eye(3)
        right = np.einsum("nw,iw,nw->ni", local, powers, values)
        curve = np.linalg.solve(normal, right[..., None])[..., 0]
        off = np.abs(values - curve @ powers)
        local = say / (1 + (off / (0.012 * ONSET_RATE)) ** 2)
    return places + curve[:, 0]


def _line(x: Strengths, y: Strengths, weight: Strengths) -> tuple[float, float]:
    """Slope and base of the weighted least-squares line."""
    total = weight.sum()
    mean_x, mean_y = (weight * x).sum() / total, (weight * y).sum() / total
    spread = (weight * (x - mean_x) ** 2).sum()
    slope = (weight * (x - mean_x) * (y - mean_y)).sum() / max(spread, 1e-12)
    return float(slope), float(mean_y - slope * mean_x)


def _extended(times: Strengths, first_s: float, last_s: float) -> Strengths:
    """Beats carried on to the first and the last stroke at the tempo of the neighbours, and cut there."""
    reach = min(8, len(times) - 1)
    ahead, behind = (times[reach] - times[0]) / reach, (times[-1] - times[-1 - reach]) / reach
    before = times[0] - ahead * np.arange(1, int(max(times[0] - first_s + 0.03, 0) / ahead) + 1)
    after = times[-1] + behind * np.arange(1, int(max(last_s + 0.03 - times[-1], 0) / behind) + 1)
    whole = np.concatenate([before[::-1], times, after])
    return whole[(whole > first_s - 0.6 * ahead) & (whole < last_s + 0.6 * behind)]


def _tempo(times: Strengths) -> float:
    """Beats per minute: the slope of the line through all beats when they lie on one, else the median interval."""
    numbers = np.arange(len(times), dtype=float)
    slope, base = _line(numbers, times, np.ones(len(times)))
    off = np.abs(times - base - slope * numbers).max()
    return 60.0 / (slope if off < 0.05 else float(np.median(np.diff(times))))
