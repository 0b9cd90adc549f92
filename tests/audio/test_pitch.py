"""Pitch against synthesised voices, whose pitch is known at every moment."""

import numpy as np
import pytest
import scipy.signal

from tests.conftest import RATE
from velvetdrum.audio.pitch import HOPS, pitch_of

SECONDS = 4.0
TIMES = np.arange(round(SECONDS * RATE)) / RATE


def voice(hz, formants=((600, 90), (1200, 120), (2600, 160)), noise=0.003, seed=1):
    """A glottal pulse train of a pitch through formants, with breath."""
    phase = np.cumsum(hz) / RATE
    saw = 2 * (phase % 1.0) - 1.0
    pulse = np.convolve(np.where(np.diff(phase % 1.0, prepend=0) < 0, 1.0, 0.0), np.hanning(40), "same") + 0.2 * saw
    out = pulse - pulse.mean()
    for middle, width in formants:
        b, a = scipy.signal.iirpeak(middle, middle / width, fs=RATE)
        out = out + 1.5 * scipy.signal.lfilter(b, a, pulse)
    out = out / np.abs(out).max() * 0.5
    return out + noise * np.random.default_rng(seed).standard_normal(len(out))


VOICES = {
    "low, with vibrato": 110 * 2 ** (0.5 / 12 * np.sin(2 * np.pi * 5.5 * TIMES)),
    "middle, gliding": 180 * 2 ** (TIMES / SECONDS),
    "high, with vibrato": 420 * 2 ** (0.7 / 12 * np.sin(2 * np.pi * 6 * TIMES)),
    "speech": 140 * 2 ** (0.35 * np.sin(2 * np.pi * 0.9 * TIMES) + 0.1 * np.sin(2 * np.pi * 2.7 * TIMES)),
}


@pytest.mark.parametrize("name", list(VOICES))
def test_95_of_100_voiced_readings_lie_within_20_cents(analysed, name):
    hz = VOICES[name]
    samples = voice(hz)
    spoken = (TIMES % 1.3) < 1.0
    curve = pitch_of(analysed(np.where(spoken, samples, 0.001 * np.random.default_rng(3).standard_normal(len(TIMES)))))
    places = np.arange(10, round(SECONDS * HOPS) - 10)
    inside = np.array([spoken[(n - 4) * RATE // HOPS : (n + 5) * RATE // HOPS].all() for n in places])
    outside = np.array([not spoken[(n - 4) * RATE // HOPS : (n + 5) * RATE // HOPS].any() for n in places])
    cents = 1200 * np.log2(curve.hz[places] / hz[places * RATE // HOPS])
    right = np.abs(cents[inside]) < 20
    octaves = np.abs(np.abs(cents[inside]) - 1200) < 100
    assert right.mean() >= 0.95, f"{right.mean():.3f} within 20 cents, {octaves.mean():.3f} an octave off"
    assert octaves.mean() < 0.01
    assert curve.voiced[places][inside].mean() > 0.95 and curve.voiced[places][outside].mean() < 0.1


def test_noise_and_silence_have_no_pitch_and_it_is_kept(analysed):
    recording = analysed(np.concatenate([np.zeros(RATE), 0.2 * np.random.default_rng(1).standard_normal(RATE * 2)]))
    curve = pitch_of(recording)
    assert curve.voiced.mean() < 0.05
    assert (recording.folder / "pitch-1.f32").exists()
    assert len(curve.hz) == 3 * HOPS + 1
