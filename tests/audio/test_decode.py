"""Every kind of file that people have, and every kind that can't be used."""

import os
import resource
import struct
import subprocess
import sys
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import signal

from tests.conftest import RATE, sine, song, write_wav
from velvetdrum.audio import decode
from velvetdrum.audio.analysis import is_current
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.audio.decode import decode_blocks, probe, stereo
from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.audio.filters import RateConverter
from velvetdrum.audio.loudness import LoudnessMeter, TruePeakMeter, integrated_lufs, to_decibel


def clicked(rate: int, channels: int = 2) -> np.ndarray:
    """Two quiet seconds with a click at 1.000 s."""
    samples = np.random.default_rng(2).standard_normal((2 * rate, channels)) * 1e-3
    samples[rate : rate + max(2, rate // 4000)] = 0.8
    return samples


def write_av(path: Path, codec: str, samples: np.ndarray, rate: int = RATE, video: bool = False, form="fltp") -> Path:
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=rate, layout="stereo")
        if video:
            picture = container.add_stream("libx264", rate=10, width=64, height=64, pix_fmt="yuv420p")
            for _ in range(20):
                frame = av.VideoFrame.from_ndarray(np.zeros((64, 64, 3), np.uint8), format="rgb24")
                container.mux(picture.encode(frame))
            container.mux(picture.encode(None))
        size = stream.codec_context.frame_size or 1024
        for start in range(0, len(samples), size):
            piece = np.ascontiguousarray(samples[start : start + size].T.astype(np.float32))
            if form == "flt":
                piece = np.ascontiguousarray(piece.T).reshape(1, -1)
            frame = av.AudioFrame.from_ndarray(piece, format=form, layout="stereo")
            frame.sample_rate, frame.pts = rate, start
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def decoded(path: Path) -> np.ndarray:
    return np.concatenate(list(decode_blocks(path)), axis=1)


def click_at(samples: np.ndarray) -> float:
    return float(np.flatnonzero(np.abs(samples[0]) > 0.35)[0] / RATE)


LOSSLESS = [
    ("a.wav", "WAV", "PCM_U8"),
    ("b.wav", "WAV", "PCM_16"),
    ("c.wav", "WAV", "PCM_24"),
    ("d.wav", "WAV", "PCM_32"),
    ("e.wav", "WAV", "FLOAT"),
    ("f.wav", "WAV", "DOUBLE"),
    ("g.flac", "FLAC", "PCM_24"),
    ("h.aiff", "AIFF", "PCM_16"),
]


@pytest.mark.parametrize(("name", "form", "subtype"), LOSSLESS)
def test_lossless_files_arrive_sample_by_sample(tmp_path, name, form, subtype):
    samples = clicked(RATE)
    soundfile.write(tmp_path / name, samples, RATE, format=form, subtype=subtype)
    found = decoded(tmp_path / name)
    assert found.shape == (2, 2 * RATE)
    assert np.abs(found.T - samples).max() < (0.01 if subtype == "PCM_U8" else 1e-4)


@pytest.mark.parametrize(("name", "form", "subtype"), [("a.mp3", "MP3", None), ("b.ogg", "OGG", "VORBIS")])
def test_lossy_files_keep_their_time(tmp_path, name, form, subtype):
    soundfile.write(tmp_path / name, clicked(44_100), 44_100, format=form, subtype=subtype)
    assert abs(click_at(decoded(tmp_path / name)) - 1.0) < 0.002


@pytest.mark.parametrize(
    ("name", "codec", "video", "form"),
    [("a.m4a", "aac", False, "fltp"), ("b.opus", "libopus", False, "flt"), ("c.mp4", "aac", True, "fltp")],
)
def test_streams_of_other_containers(tmp_path, name, codec, video, form):
    path = write_av(tmp_path / name, codec, clicked(RATE), video=video, form=form)
    assert abs(click_at(decoded(path)) - 1.0) < 0.002


@pytest.mark.parametrize("rate", [8000, 11_025, 22_050, 32_000, 37_800, 44_100, 47_999, 88_200, 96_000, 192_000])
def test_every_sample_rate_keeps_time_and_level(tmp_path, rate):
    path = write_wav(tmp_path / "a.wav", clicked(rate, 1), rate)
    found = decoded(path)
    assert found.shape[1] == pytest.approx(2 * RATE, abs=64)
    # The click's first sample is at 1.000 s; its rounded shoulder may stand up to a sample earlier.
    assert abs(click_at(found) - 1.0) < max(2 / rate, 0.0003)
    tone = write_wav(tmp_path / "b.wav", sine(1000, 1.0, -6, rate), rate)
    middle = decoded(tone)[0, RATE // 4 : -RATE // 4]
    assert 10 * np.log10(2 * np.mean(middle**2)) == pytest.approx(-6.0, abs=0.05)


@pytest.mark.parametrize("channels", [1, 2, 3, 4, 5, 6, 7, 8])
def test_mono_to_seven_point_one(tmp_path, channels):
    path = write_wav(tmp_path / "a.wav", clicked(RATE, channels))
    info = probe(path)
    assert info.channels == channels
    folded = stereo(decoded(path), info.channel_names)
    assert len(folded) == min(channels, 2)
    recording = analyse(path, tmp_path / "analysis")
    assert recording.facts.channels == channels


def test_a_surround_recording_keeps_left_left():
    names = ("FL", "FR", "FC", "LFE", "BL", "BR")
    only = np.zeros((6, 4), np.float32)
    only[4] = 1.0
    left, right = stereo(only, names)
    assert left[0] > 0.4
    assert right[0] == 0.0


@settings(max_examples=20, deadline=None)
@given(st.sampled_from([8000, 22_050, 44_100, 96_000]), st.lists(st.integers(1, 9000), min_size=1, max_size=5))
def test_rate_conversion_does_not_depend_on_the_blocks(rate, sizes):
    samples = np.random.default_rng(sum(sizes)).standard_normal((2, sum(sizes))).astype(np.float32)
    whole = RateConverter(rate, RATE)
    expected = np.concatenate([whole.feed(samples), whole.finish()], axis=1)
    parts, at = RateConverter(rate, RATE), 0
    found = []
    for size in sizes:
        found.append(parts.feed(samples[:, at : at + size]))
        at += size
    found.append(parts.finish())
    joined = np.concatenate(found, axis=1)
    assert joined.shape == (2, int(np.ceil(sum(sizes) * RATE / rate)))
    assert np.abs(joined - expected).max() < 1e-4


def test_rate_conversion_agrees_with_another_implementation():
    # Below both filters' slopes, where they may differ, they must not.
    below = signal.butter(10, 14_000, fs=44_100, output="sos")
    samples = signal.sosfilt(below, song(1.0, 44_100).T[:1]).astype(np.float32)
    ours = RateConverter(44_100, RATE)
    found = np.concatenate([ours.feed(samples), ours.finish()], axis=1)[0]
    theirs = signal.resample_poly(samples[0].astype(float), 160, 147, window=("kaiser", 9.0))
    inside = slice(2000, len(found) - 2000)
    error = found[inside] - theirs[inside]
    assert 10 * np.log10(np.mean(error**2) / np.mean(theirs**2)) < -70


def _noise_file(path: Path, name: str, subtype: str | None, rate: int) -> Path:
    samples = np.random.default_rng(5).uniform(-0.5, 0.5, (12 * rate, 2))
    soundfile.write(path / f"long.{name}", samples, rate, format=name, subtype=subtype)
    return path / f"long.{name}"


@pytest.mark.parametrize(
    ("name", "subtype", "rate"),
    [
        (*form, rate)
        for form in (("WAV", "PCM_16"), ("WAV", "FLOAT"), ("FLAC", None))
        for rate in (44_100, 48_000, 96_000)
    ]
    + [("MP3", None, 44_100)],
)
def test_a_recording_is_read_from_a_sample_on_as_in_one_pass(tmp_path, monkeypatch, name, subtype, rate):
    path = _noise_file(tmp_path, name, subtype, rate)
    all_of_it = decoded(path)
    whole = all_of_it.shape[1]
    sought = []
    real = decode._sought
    monkeypatch.setattr(decode, "_sought", lambda *given: sought.append(real(*given)) or sought[-1])
    for first in (0, 1, 4 * RATE, 6 * RATE + 17, 11 * RATE + 5003, whole - 1, whole + RATE):
        found = list(decode_blocks(path, first=first, whole=whole))
        here = np.concatenate(found, axis=1) if found else np.zeros((2, 0))
        assert here.shape[1] == max(whole - first, 0)
        np.testing.assert_allclose(here, all_of_it[:, first:], rtol=0, atol=1e-6)
        # What is far from the beginning of a file without loss is not reached by decoding all before it.
        if first > 6 * RATE and first < whole - RATE:
            assert (sought[-1] is not None) == (name != "MP3")
            assert name == "MP3" or sought[-1] > 5 * rate


def test_a_recording_in_which_something_is_missing_is_read_from_its_beginning(tmp_path):
    path = _noise_file(tmp_path, "FLAC", None, RATE)
    data = bytearray(path.read_bytes())
    data[len(data) // 4 : len(data) // 4 + 30_000] = bytes(30_000)
    path.write_bytes(data)
    all_of_it = decoded(path)
    # Samples are told by what is there, so that the sound stays with what was measured of it.
    assert all_of_it.shape[1] < 12 * RATE
    first = 8 * RATE
    here = np.concatenate(list(decode_blocks(path, first=first, whole=all_of_it.shape[1])), axis=1)
    np.testing.assert_array_equal(here, all_of_it[:, first:])


def text(path: Path) -> None:
    path.write_text("This is a shopping list. " * 200)


def empty(path: Path) -> None:
    path.touch()


def noise(path: Path) -> None:
    path.write_bytes(np.random.default_rng(1).bytes(60_000))


def pictures_only(path: Path) -> None:
    with av.open(str(path), "w", format="mp4") as container:
        stream = container.add_stream("libx264", rate=10, width=64, height=64, pix_fmt="yuv420p")
        frame = av.VideoFrame.from_ndarray(np.zeros((64, 64, 3), np.uint8), format="rgb24")
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def playlist(path: Path) -> None:
    write_wav(path.with_name("secret.raw"), song(1.0))
    path.write_text(f"#EXTM3U\n#EXT-X-TARGETDURATION:2\n#EXTINF:1,\n{path.with_name('secret.raw')}\n#EXT-X-ENDLIST\n")
    path.with_name("secret.raw").unlink()


def truncated(path: Path) -> None:
    soundfile.write(path, song(4.0), RATE, format="WAV", subtype="PCM_16")
    path.write_bytes(path.read_bytes()[:200_000])


def truncated_flac(path: Path) -> None:
    soundfile.write(path, song(4.0), RATE, format="FLAC")
    path.write_bytes(path.read_bytes()[:60_000])


def silent(path: Path) -> None:
    soundfile.write(path, np.zeros((RATE, 2)), RATE, format="WAV")


def too_long(path: Path) -> None:
    size = 8000 * (3 * 3600 + 60)
    head = struct.pack(
        "<4sI4s4sIHHIIHH4sI", b"RIFF", size + 36, b"WAVE", b"fmt ", 16, 1, 1, 8000, 8000, 1, 8, b"data", size
    )
    with path.open("wb") as file:
        file.write(head)
        file.truncate(size + 44)


def strange_rate(path: Path) -> None:
    soundfile.write(path, np.ones((4000, 1)) * 0.1, 4000, format="WAV")


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (text, "not a sound"),
        (empty, "empty"),
        (noise, "not a sound|damaged"),
        (playlist, "not a sound"),
        (pictures_only, "no sound"),
        (truncated, "ends early"),
        (truncated_flac, "ends early|damaged"),
        (silent, "silent"),
        (too_long, "3 hours"),
        (strange_rate, "sample rate"),
    ],
)
def test_unusable_files_get_a_sentence_and_leave_nothing(tmp_path, make, words):
    path = tmp_path / "file.wav"
    make(path)
    with pytest.raises(SoundError, match=words) as caught:
        analyse(path, tmp_path / "analysis")
    assert str(caught.value).endswith(".")
    assert [entry.name for entry in tmp_path.iterdir()] == ["file.wav"]


def test_odd_names_are_only_names(tmp_path):
    path = write_wav(tmp_path / "ひかり — ‘lamp’ #1 % 'x';--.wav", song(0.5))
    assert analyse(path, tmp_path / "analysis").facts.duration_s == pytest.approx(0.5)


def test_a_full_disk_is_a_sentence_and_leaves_nothing(tmp_path):
    path = write_wav(tmp_path / "a.wav", song(20.0), subtype="PCM_16")
    code = (
        "import sys, pathlib\nfrom velvetdrum.audio.analysis_writer import *\nfrom velvetdrum.audio.errors import SoundError\n"
        "try: analyse(pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2]))\n"
        "except SoundError as problem: print(problem); sys.exit(7)\n"
    )

    def small_disk() -> None:
        resource.setrlimit(resource.RLIMIT_FSIZE, (1_000_000, 1_000_000))

    done = subprocess.run(
        [sys.executable, "-c", code, str(path), str(tmp_path / "analysis")],
        preexec_fn=small_disk,
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
    )
    assert done.returncode == 7, done.stderr
    assert "disk" in done.stdout
    assert [entry.name for entry in tmp_path.iterdir()] == ["a.wav"]


def test_a_cancelled_analysis_leaves_nothing(tmp_path):
    path = write_wav(tmp_path / "a.wav", song(12.0), subtype="PCM_16")

    def stop(share: float) -> None:
        if share > 0.4:
            raise Cancelled

    with pytest.raises(Cancelled):
        analyse(path, tmp_path / "analysis", progress=stop)
    assert not is_current(tmp_path / "analysis")
    assert [entry.name for entry in tmp_path.iterdir()] == ["a.wav"]


def test_first_and_last_sound_and_length(tmp_path):
    samples = np.concatenate([np.zeros(12_000), sine(440, 1.0, -12), np.zeros(36_000)])
    recording = analyse(write_wav(tmp_path / "a.wav", samples), tmp_path / "analysis")
    facts = recording.facts
    assert facts.duration_s == pytest.approx(2.0)
    assert facts.first_sound_s == pytest.approx(0.25, abs=0.0005)
    assert facts.last_sound_s == pytest.approx(1.25, abs=0.0005)


def test_the_stored_loudness_is_what_the_facts_say(tmp_path):
    recording = analyse(write_wav(tmp_path / "a.wav", song(5.0)), tmp_path / "analysis")
    assert len(recording.loudness_energies) == 50
    assert integrated_lufs(recording.loudness_energies) == pytest.approx(recording.facts.loudness_lufs, abs=0.01)


def test_the_first_seconds_alone_read_as_they_do_in_the_whole(tmp_path):
    path = write_wav(tmp_path / "a.wav", song(12.0))
    whole, opening = analyse(path, tmp_path / "whole"), analyse(path, tmp_path / "opening", most_s=4.0)
    assert 4.0 <= opening.facts.duration_s < 10.0
    assert np.array_equal(opening.overview(0.0, 3.0, 300), whole.overview(0.0, 3.0, 300))
    assert opening.facts.tempo_bpm == pytest.approx(whole.facts.tempo_bpm, rel=0.02)


def test_the_overview_shows_true_peaks_at_every_zoom(tmp_path):
    samples = np.random.default_rng(4).uniform(-0.2, 0.2, 5 * RATE)
    samples[100_000] = 0.95
    recording = analyse(write_wav(tmp_path / "a.wav", samples), tmp_path / "analysis")
    for columns in (1, 3, 50, 777, 4000):
        table = recording.overview(0.0, 5.0, columns)
        assert table[:, 1].max() == pytest.approx(0.95, abs=1e-3)
        assert table[:, 1].argmax() == pytest.approx(100_000 / (5 * RATE) * columns, abs=1.01)
        assert np.all(table[:, 2] <= np.maximum(table[:, 1], -table[:, 0]) + 1e-3)
    close = recording.overview(100_000 / RATE, 100_010 / RATE, 10)
    assert close[0, 1] == pytest.approx(0.95, abs=1e-3)
    assert np.allclose(close[1:, 1], samples[100_001:100_010], atol=1e-3)
    beyond = recording.overview(4.9, 5.9, 100)
    assert not beyond[12:].any()


@pytest.mark.parametrize("rate", [8000, 11_025, 16_000, 22_050, 32_000])
def test_loudness_and_peak_of_low_rates_are_those_of_what_was_sampled(tmp_path, rate):
    """White noise, whose top octave a converter with a wide transition would lose, against its exact interpolation."""
    samples = np.random.default_rng(1).standard_normal(rate * 4) * 0.1
    heard = np.concatenate(list(decode_blocks(write_wav(tmp_path / "noise.wav", samples, rate))), axis=1)
    spectrum = np.fft.rfft(samples)
    count = len(samples) * 48_000 // rate
    whole = np.zeros(count // 2 + 1, complex)
    whole[: len(spectrum)] = spectrum * count / len(samples)
    meters = [LoudnessMeter(("FC",)) for _ in range(2)]
    for meter, part in zip(meters, (heard, np.fft.irfft(whole, count)[None].astype(np.float32)), strict=True):
        meter.feed(part)
    found, exact = (integrated_lufs(meter.energies) for meter in meters)
    assert found == pytest.approx(exact, abs=0.04)
    if rate == 8000:
        finer = np.zeros(len(samples) * 16 + 1, complex)
        finer[: len(spectrum)] = spectrum * 32
        peak = TruePeakMeter()
        peak.feed(heard.astype(np.float32))
        assert to_decibel(peak.true_peak) == pytest.approx(to_decibel(np.abs(np.fft.irfft(finer)).max()), abs=0.1)
