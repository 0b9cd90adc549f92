"""What fits itself to a recording ends where its sound ends, and leaves no bar at rest."""

import av
import numpy as np
import pytest

from tests.conftest import RATE, song
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.looks.default_design import starting_design
from velvetdrum.looks.presets import fitted_settings
from velvetdrum.picture.layers.spectrum import Spectrum
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import sound_end_hz, tilted_levels
from velvetdrum.signals.suggest import suggest


def whole(recording) -> AudioRange:
    return AudioRange(recording, 0.0, recording.facts.duration_s)


def dead(use: AudioRange, settings: dict) -> int:
    """Bars that never pass a twentieth of their height."""
    reads = Spectrum(settings).reads
    levels = tilted_levels(use, reads, 0, use.recording.frames)
    heights = (levels.max(axis=0) - reads.quiet_db) / (reads.loud_db - reads.quiet_db)
    return int((heights < 0.05).sum())


@pytest.mark.parametrize("rate", [8_000, 16_000, 22_050])
def test_bars_of_a_low_rate_end_at_half_of_it(analysed, rate):
    samples = song(4.0, rate)
    samples += 0.01 * np.random.default_rng(1).standard_normal(samples.shape)
    use = whole(analysed(samples, rate))
    assert 0.9 * rate / 2 <= sound_end_hz(use) <= rate / 2
    settings = starting_design(use.recording)[1]["settings"]
    assert settings["high_hz"] <= rate / 2
    assert dead(use, settings) == 0
    assert dead(use, settings | {"high_hz": 16_000.0}) >= 3
    for found in suggest(use, 4.0):
        assert found.settings["high_hz"] <= rate / 2


def test_bars_of_a_coded_file_end_where_its_spectrum_does(tmp_path):
    samples = np.random.default_rng(4).standard_normal((2, RATE * 4)).astype(np.float32) * 0.1
    path = tmp_path / "coded.mp3"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libmp3lame", rate=RATE, layout="stereo")
        stream.bit_rate = 96_000
        for at in range(0, samples.shape[1], 1152):
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples[:, at : at + 1152]), "fltp", "stereo")
            frame.sample_rate, frame.pts = RATE, at
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    use = whole(analyse(path, tmp_path / "analysis"))
    end = sound_end_hz(use)
    assert end < 17_500
    fitted = fitted_settings("spectrum", {"high_hz": 20_000.0}, use)
    assert fitted["high_hz"] <= end
    assert dead(use, fitted) == 0


def test_noise_leaves_no_low_bar_at_rest(analysed):
    use = whole(analysed(0.1 * np.random.default_rng(6).standard_normal(RATE * 4)))
    settings = starting_design(use.recording)[1]["settings"]
    assert settings["tilt_db"] < 3.0
    assert dead(use, settings) == 0


def test_music_keeps_the_usual_tilt_and_range(analysed):
    settings = starting_design(analysed(song(4.0)))[1]["settings"]
    assert settings["tilt_db"] == 3.0
