"""The pitch of a voice or a lead, frame by frame: probabilistic YIN.

After de Cheveigné and Kawahara, YIN (JASA 2002), and Mauch and Dixon, pYIN (ICASSP 2014): the difference function of a
frame, normalised by its running mean, has dips at periods; thresholds drawn from a beta distribution turn its dips into
pitch candidates with probabilities, and the likeliest path through them is found by the Viterbi algorithm.
"""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, rfft
from scipy.signal import decimate
from scipy.stats import beta

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.decode import RATE
from velvetdrum.limits.cache import cached

Values = NDArray[np.float64]

HOPS = 100
"""Readings a second; reading n is centred on second n / 100."""
LOWEST_HZ, HIGHEST_HZ = 60.0, 1000.0
_DOWN = 3
_RATE = RATE // _DOWN
_WINDOW = 768
_LAGS = round(_RATE / LOWEST_HZ) + 2
_SHORTEST = int(_RATE / HIGHEST_HZ) - 1
_CENTS = 10.0
_BINS = int(np.ceil(1200 * np.log2(HIGHEST_HZ / LOWEST_HZ) / _CENTS)) + 1
_THRESHOLDS = (np.arange(100) + 0.5) / 100
_WEIGHTS = np.diff(beta.cdf(np.arange(101) / 100, 2, 18))
"""How likely each threshold is: beta(2, 18), of mean 0.1."""
_LEFT_OVER = 0.01
"""What of a threshold's weight goes to the lowest dip where none is below it."""
_STEP = 18
"""How many bins a pitch may move from one reading to the next: 180 cents."""
_SWITCH = 0.01
"""How likely a voice sets in or stops between two readings."""
_CHUNK = 2000
_FILE = "pitch-1.f32"
_SILENT = 1e-8


@dataclass(frozen=True, eq=False)
class PitchCurve:
    """Readings, `HOPS` a second: pitches in Hz (those of unvoiced readings are the likeliest there), and where a voice
    is."""

    hz: NDArray[np.float32]
    voiced: NDArray[np.bool_]

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        return self.hz.nbytes + self.voiced.nbytes


@cached
def pitch_of(recording: Analysis) -> PitchCurve:
    """The pitch of a recording; found once, and kept beside its analysis.

    Parameters
    ----------
    recording
        Its stored analysis.
    """
    path = recording.folder / _FILE
    count = recording.samples * HOPS // RATE + 1
    try:
        stored = np.fromfile(path, np.float32)
    except OSError:
        stored = np.zeros(0, np.float32)
    if len(stored) != count:
        stored = _found(recording, count)
        _keep(path, stored)
    return PitchCurve(np.abs(stored), stored > 0)


def _keep(path: Path, stored: NDArray[np.float32]) -> None:
    beside = path.with_name(f"{path.name}.{os.getpid()}")
    try:
        stored.tofile(beside)
        beside.rename(path)
    except OSError:
        # It is found anew where it can't be kept.
        beside.unlink(missing_ok=True)


def _found(recording: Analysis, count: int) -> NDArray[np.float32]:
    """Pitches in Hz, below zero where there is no voice."""
    path = _Path()
    for start in range(0, count, _CHUNK):
        stop = min(start + _CHUNK, count)
        path.add(*_candidates(_frames(recording, start, stop)))
    bins, voiced = path.best()
    hz = LOWEST_HZ * 2 ** (bins * _CENTS / 1200)
    # A window is compared with what lies a period later: what is read belongs to half a period after its middle.
    times = np.arange(count) / HOPS
    hz = np.interp(times, np.maximum.accumulate(times + 0.5 / hz), hz)
    return np.where(voiced, hz, -hz).astype(np.float32)


def _frames(recording: Analysis, start: int, stop: int) -> Values:
    """Frames of 16 kHz, shape (readings, window + longest lag): a window about each reading, and what comes then."""
    half, margin = _WINDOW // 2 * _DOWN, 60 * _DOWN
    first = start * RATE // HOPS - half - margin
    last = (stop - 1) * RATE // HOPS + half + _LAGS * _DOWN + margin + 2 * _DOWN
    inside = recording.mono(max(first, 0), max(last, 0))
    before = max(-first, 0)
    whole = np.zeros(last - first)
    whole[before : before + len(inside)] = inside
    small = decimate(whole, _DOWN, ftype="fir")[margin // _DOWN :]
    places = (np.arange(stop - start) * _RATE) // HOPS
    return np.lib.stride_tricks.sliding_window_view(small, _WINDOW + _LAGS)[places]


def _candidates(frames: Values) -> tuple[Values, Values]:
    """How likely each pitch bin is in each frame, shape (frames, bins), and how likely there is a voice, (frames,)."""
    curve = _normalised(frames)
    weights = np.zeros((len(frames), _BINS))
    inner = curve[:, 1:-1]
    dips = (inner < curve[:, :-2]) & (inner <= curve[:, 2:])
    row, lag = np.nonzero(dips)
    lag = lag + 1
    keep = lag >= _SHORTEST
    row, lag = row[keep], lag[keep]
    if not len(row):
        return weights, np.zeros(len(frames))
    before, here, after = curve[row, lag - 1], curve[row, lag], curve[row, lag + 1]
    bend = before - 2 * here + after
    shift = np.where(bend > 1e-12, (before - after) / np.maximum(2 * bend, 1e-12), 0.0)
    period = lag + np.clip(shift, -0.5, 0.5)
    depth = np.clip(here - (before - after) * shift / 4, 0.0, 1.0)
    # Of each threshold the first dip below it is taken: the share of thresholds above this dip, and not above any
    # dip at a shorter lag of the same frame.
    lowest_before = _running_lowest(row, depth)
    cumulative = np.concatenate([[0.0], np.cumsum(_WEIGHTS)])
    share = np.interp(lowest_before, np.arange(101) / 100, cumulative) - np.interp(
        depth, np.arange(101) / 100, cumulative
    )
    share = np.maximum(share, 0.0)
    deepest = np.full(len(frames), np.inf)
    np.minimum.at(deepest, row, depth)
    rest = np.interp(deepest, np.arange(101) / 100, cumulative)
    share += np.where(depth == deepest[row], rest[row] * _LEFT_OVER, 0.0)
    silent = (frames[:, :_WINDOW] ** 2).mean(axis=1) < _SILENT
    share[silent[row]] = 0.0
    bins = 1200 * np.log2(_RATE / period / LOWEST_HZ) / _CENTS
    low = np.floor(bins).astype(int)
    part = bins - low
    for offset, amount in ((0, 1 - part), (1, part)):
        place = low + offset
        good = (place >= 0) & (place < _BINS)
        np.add.at(weights, (row[good], place[good]), (share * amount)[good])
    return weights, np.clip(weights.sum(axis=1), 0.0, 1.0)


def _running_lowest(row: NDArray[np.int64], depth: Values) -> Values:
    """The lowest depth of the dips before each one in its frame; 1 for the first. They come by frame and lag."""
    # Rows are told apart by steps that no depth reaches, so that one running minimum serves all of them.
    lifted = depth - 2.0 * row
    running = np.minimum.accumulate(np.concatenate([[1.0], lifted[:-1]]))
    return np.where(np.concatenate([[True], row[1:] != row[:-1]]), 1.0, running + 2.0 * row)


def _normalised(frames: Values) -> Values:
    """The difference function of each frame, divided by its mean up to each lag, shape (frames, lags)."""
    size = 1 << (_WINDOW + _LAGS - 1).bit_length()
    head = frames[:, :_WINDOW]
    product = irfft(np.conj(rfft(head, size)) * rfft(frames, size), size)[:, :_LAGS]
    squares = np.concatenate([np.zeros((len(frames), 1)), np.cumsum(frames**2, axis=1)], axis=1)
    energy = squares[:, _WINDOW : _WINDOW + _LAGS] - squares[:, :_LAGS]
    difference = np.maximum(energy[:, :1] + energy - 2 * product, 0.0)
    mean = np.cumsum(difference[:, 1:], axis=1) / np.arange(1, _LAGS)
    out = np.ones_like(difference)
    np.divide(difference[:, 1:], mean, out=out[:, 1:], where=mean > 1e-12)
    return out


class _Path:
    """The likeliest path through pitches, with and without a voice, found as frames come."""

    def __init__(self) -> None:
        steps = np.arange(-_STEP, _STEP + 1)
        weights = 1.0 - np.abs(steps) / (_STEP + 1)
        self._moves = np.log(weights / weights.sum())
        self._stay, self._switch = np.log(1 - _SWITCH), np.log(_SWITCH)
        self._scores = np.full((2, _BINS), -np.log(2 * _BINS))
        self._back: list[NDArray[np.int16]] = []

    def add(self, weights: Values, voice: Values) -> None:
        """Frames that come next: how likely each bin, and a voice, is in each."""
        seen = np.log(np.maximum(weights * 0.99, 1e-12))
        unseen = np.log(np.maximum((1 - voice * 0.99) / _BINS, 1e-12))
        for number in range(len(weights)):
            moved, came = self._moved()
            stay, switch = moved + self._stay, moved[::-1] + self._switch
            crossed = switch > stay
            back = np.where(crossed, came[::-1] + _BINS * np.array([[1], [0]]), came + _BINS * np.array([[0], [1]]))
            self._back.append(back.astype(np.int16))
            self._scores = np.where(crossed, switch, stay)
            self._scores[0] += seen[number]
            self._scores[1] += unseen[number]
            self._scores -= self._scores.max()

    def _moved(self) -> tuple[Values, NDArray[np.int64]]:
        """For each state the best score with which it is reached from a near pitch, and that pitch's bin."""
        padded = np.pad(self._scores, ((0, 0), (_STEP, _STEP)), constant_values=-np.inf)
        ways = np.lib.stride_tricks.sliding_window_view(padded, 2 * _STEP + 1, axis=1) + self._moves
        best = ways.argmax(axis=2)
        return np.take_along_axis(ways, best[..., None], 2)[..., 0], best - _STEP + np.arange(_BINS)

    def best(self) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
        """The bin of each frame, and whether there is a voice."""
        state = int(self._scores.reshape(-1).argmax())
        states = np.zeros(len(self._back), np.int64)
        for number in range(len(self._back) - 1, -1, -1):
            states[number] = state
            state = int(self._back[number].reshape(-1)[state])
        return states % _BINS, states < _BINS
