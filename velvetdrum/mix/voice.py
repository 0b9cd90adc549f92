"""A voice made even: a high-pass, levels of sentences brought together, quiet in pauses, and sharp sibilants held down.

All gains are known ahead from the stored analysis; what is filtered is filtered with a state that a block hands on.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, firwin, sosfilt

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.bands import band_edges, from_centibel
from velvetdrum.audio.decode import RATE
from velvetdrum.audio.filters import Samples
from velvetdrum.audio.speech import READINGS, SPEECH_DB, ramps, sentences, spoken
from velvetdrum.limits.cache import cached
from velvetdrum.mix.placed_track import VoiceChain

Values = NDArray[np.float64]

_MOST_DB = 12.0
"""How far a sentence is lifted or lowered at the most."""
_GATED_DB = 30.0
_GATE = {"bridged": 0.25, "before": 0.02, "after": 0.2}
_SIBILANT_HZ = (5000.0, 11_000.0)
_SIBILANT_DB = -9.0
"""The share of the sibilant band in all of it, in dB, from which on it is held down."""
_HELD_DB = 14.0
_TAPS = 63
_SHARP = firwin(2 * _TAPS + 1, _SIBILANT_HZ[0], pass_zero="highpass", fs=RATE)
"""The sibilant band, in phase with what it is taken from, so that it can be taken away."""
_WARM = RATE // 4
"""Samples before a stretch that its filters run through: what they remember has died down by then."""


@cached
def gains_db(recording: Analysis, chain: VoiceChain) -> Values:
    """What levelling and the gate do, in dB, 60 readings a second of the recording.

    Parameters
    ----------
    recording
        Its stored analysis.
    chain
        How much of each.
    """
    times = np.arange(recording.frames) / READINGS
    result = np.zeros(len(times))
    if chain.level:
        places, loudness = sentences(recording)
        if len(places):
            lengths = np.array([end - begin for begin, end in places])
            # The middle by length: half of what is said is louder.
            order = np.argsort(loudness)
            half = np.searchsorted(np.cumsum(lengths[order]), lengths.sum() / 2)
            wanted = np.clip(loudness[order[half]] - loudness, -_MOST_DB, _MOST_DB) * chain.level
            knots = np.array(places).reshape(-1)
            result += np.interp(times, knots, np.repeat(wanted, 2))
    if chain.gate:
        places = spoken(recording, SPEECH_DB, _GATE["bridged"])
        open_ = ramps(places, _GATE["before"], _GATE["after"])(times)
        result -= _GATED_DB * chain.gate * (1.0 - open_)
    return result


@cached
def sibilants_db(recording: Analysis, chain: VoiceChain) -> Values:
    """How far the sibilant band is held down, in dB (0 or less), 60 readings a second of the recording.

    Parameters
    ----------
    recording
        Its stored analysis.
    chain
        How much of it.
    """
    edges = band_edges()
    low, high = np.searchsorted(edges, _SIBILANT_HZ)
    power = from_centibel(np.ascontiguousarray(recording.bands[:, 0]))
    all_ = power.sum(axis=1).astype(np.float64)
    share = 10 * np.log10(np.maximum(power[:, low:high].sum(axis=1), 1e-12) / np.maximum(all_, 1e-12))
    audible = all_ > all_.max() * 1e-5
    held = np.clip((share - _SIBILANT_DB) / 6.0, 0.0, 1.0) * audible
    kernel = np.array([0.25, 0.5, 0.25])
    return -_HELD_DB * chain.deess * np.convolve(held, kernel, "same")


def made_even(
    pieces: Iterator[Samples], first: int, warmed: int, recording: Analysis, chain: VoiceChain
) -> Iterator[Samples]:
    """A voice, piece by piece, made even.

    Parameters
    ----------
    pieces
        Samples of the recording, each of shape (channels, n), without a gap, and as many more as are looked ahead.
    first
        Which sample of the recording the first of them is.
    warmed
        How many of them only bring the filters to where they would be; they are left out.
    recording
        The stored analysis.
    chain
        What is done.
    """
    high_pass = butter(2, chain.high_pass_hz, "highpass", fs=RATE, output="sos") if chain.high_pass_hz else None
    state: Values | None = None
    tail: Values | None = None
    ahead = looked_ahead(chain)
    at = first - ahead
    warmed += ahead
    for piece in pieces:
        block = piece.astype(np.float64)
        times = (at + np.arange(block.shape[1])) / RATE * READINGS
        if high_pass is not None:
            state = np.zeros((len(high_pass), block.shape[0], 2)) if state is None else state
            block, state = sosfilt(high_pass, block, axis=1, zi=state)
        if chain.deess:
            tail = np.zeros((block.shape[0], 2 * _TAPS)) if tail is None else tail
            joined = np.concatenate([tail, block], axis=1)
            tail = joined[:, -2 * _TAPS :]
            sharp = np.array([np.convolve(row, _SHARP, "valid") for row in joined])
            held = _read(sibilants_db(recording, chain), times)
            block = joined[:, _TAPS:-_TAPS] + sharp * (10 ** (held / 20) - 1.0)
        if chain.level or chain.gate:
            block = block * 10 ** (_read(gains_db(recording, chain), times) / 20)
        at += block.shape[1]
        if warmed:
            cut = min(warmed, block.shape[1])
            block, warmed = block[:, cut:], warmed - cut
        if block.shape[1]:
            yield block.astype(np.float32)


def looked_ahead(chain: VoiceChain) -> int:
    """How many samples after the last one are needed for it.

    Parameters
    ----------
    chain
        What is done.
    """
    return _TAPS if chain.deess else 0


def warm_up(first: int) -> int:
    """How many samples before a place filters are to run through.

    Parameters
    ----------
    first
        The place, as a sample of the recording.
    """
    return min(first, _WARM)


def _read(curve: Values, places: Values) -> Values:
    return np.interp(places, np.arange(len(curve)), curve)
