"""Beats against patterns whose beats are known, judged by mir_eval."""

from __future__ import annotations

import mir_eval
import numpy as np
import pytest

from tests.audio import rhythms
from tests.conftest import sine
from velvetdrum.demo.song import BARS, BEAT, paper_lighthouse

PLAIN = [
    (name, bpm) for name in ("straight", "offbeat_hats") for bpm in (70, 77, 85.5, 99.3, 118.6, 133, 151, 166.7, 180)
]
OTHER = [(name, bpm) for name in ("half_time", "sparse", "syncopated") for bpm in (96, 110, 128)]


def drifting(first_bpm: float, last_bpm: float, count: int) -> np.ndarray:
    periods = 60 / np.linspace(first_bpm, last_bpm, count)
    return 0.4 + np.concatenate([[0], np.cumsum(periods[:-1])])


def errors_ms(reference: np.ndarray, found: np.ndarray) -> np.ndarray:
    nearest = np.array([found[np.argmin(np.abs(found - beat))] - beat for beat in reference]) * 1000
    return nearest[np.abs(nearest) < 70]


def judge(reference: np.ndarray, found: np.ndarray) -> None:
    trimmed = [mir_eval.beat.trim_beats(times) for times in (reference, found)]
    assert mir_eval.beat.f_measure(*trimmed, f_measure_threshold=0.07) >= 0.95
    off = errors_ms(reference, found)
    assert np.median(np.abs(off)) <= 10
    assert abs(np.median(off)) <= 5, "beats lie systematically early or late"


@pytest.mark.parametrize(("pattern", "bpm"), PLAIN + OTHER)
def test_steady_patterns(analysed, pattern, bpm):
    reference = rhythms.steady(bpm)
    facts = analysed(rhythms.played(getattr(rhythms, pattern), reference, seed=int(bpm))).facts
    assert facts.tempo_bpm == pytest.approx(bpm, rel=0.002)
    assert 0.3 < facts.tempo_confidence <= 1
    judge(reference[:-1], np.array(facts.beats_s))


@pytest.mark.parametrize("ends", [(100, 112), (132, 121)])
def test_a_drifting_tempo_is_followed(analysed, ends):
    reference = drifting(*ends, 56)
    facts = analysed(rhythms.played(rhythms.straight, reference)).facts
    judge(reference[:-1], np.array(facts.beats_s))


def test_an_arranged_song(analysed):
    facts = analysed(paper_lighthouse()).facts
    assert facts.tempo_bpm == pytest.approx(118.6, rel=0.002)
    judge(0.15 + np.arange(BARS * 4) * BEAT, np.array(facts.beats_s))


@pytest.mark.parametrize("pattern", ["shuffle", "triplets", "six_rows", "fills", "waltz"])
@pytest.mark.parametrize("bpm", [86, 113, 126])
def test_triplets_swing_fills_and_waltzes(analysed, pattern, bpm):
    facts = analysed(rhythms.played(getattr(rhythms, pattern), rhythms.steady(bpm))).facts
    assert facts.tempo_bpm == pytest.approx(bpm, rel=0.002)


@pytest.mark.parametrize("bpm", [100, 113, 126])
def test_where_two_tempos_can_be_heard_both_are_among_the_choices(analysed, bpm):
    facts = analysed(rhythms.played(rhythms.twelve_eight, rhythms.steady(bpm))).facts
    tempos = [facts.tempo_bpm, *(other["tempo_bpm"] for other in facts.other_tempos)]
    assert any(tempo == pytest.approx(ratio * bpm, rel=0.005) for tempo in tempos for ratio in (1, 1.5))
    assert len(tempos) == 3 and min(abs(np.log(a / b)) for a in tempos for b in tempos if a != b) > 0.1
    confidences = [facts.tempo_confidence, *(other["confidence"] for other in facts.other_tempos)]
    assert all(0 < value <= 1 for value in confidences)
    for other in facts.other_tempos:
        assert 60 / np.median(np.diff(other["beats_s"])) == pytest.approx(other["tempo_bpm"], rel=0.02)


@pytest.mark.parametrize("bpm", [84, 113])
def test_music_without_strokes_has_beats(analysed, bpm):
    facts = analysed(rhythms.soft_notes(bpm)).facts
    assert facts.tempo_bpm == pytest.approx(bpm, rel=0.005)
    assert facts.tempo_confidence >= 0.3


@pytest.mark.parametrize("seed", range(3))
def test_free_speech_has_no_beat(analysed, seed):
    facts = analysed(rhythms.free_speech(seed=seed)).facts
    assert facts.tempo_bpm is None
    assert facts.beats_s == []
    assert facts.tempo_confidence < 0.3


@pytest.mark.parametrize(
    "samples", [sine(440, 8.0, -6), sine(440, 0.4, -6), np.random.default_rng(2).standard_normal(48_000 * 8) * 0.1]
)
def test_sounds_without_strokes_have_no_beat(analysed, samples):
    facts = analysed(samples).facts
    assert facts.tempo_bpm is None
    assert facts.beats_s == []


def test_a_quiet_recording_has_the_same_beats(analysed):
    reference = rhythms.steady(104)
    samples = rhythms.played(rhythms.straight, reference)
    loud, quiet = (np.array(analysed(samples * gain).facts.beats_s) for gain in (1.0, 0.02))
    assert np.median(np.abs(loud[: len(quiet)] - quiet[: len(loud)])) < 0.005
