"""A project whose sound is replaced: levels, frequencies, what was moved by hand, and what no longer fits in time."""

from fractions import Fraction

import numpy as np
import pytest

from tests.conftest import RATE, song, write_wav
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.looks.refit import out_of_time, refitted
from velvetdrum.scene.document import new_document, new_layer, new_patch, new_track, parse
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import bar_heights
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.signals.signal_set import SignalSet

SECONDS = 6.0
BANDS = sorted(kind for kind, cls in LAYER_KINDS.items() if {"quiet_db", "loud_db"} <= cls.settings.keys())
FITTED = sorted(kind for kind, cls in LAYER_KINDS.items() if cls.fits)


def strings(seconds=SECONDS):
    """A solo instrument in a room: notes with thirty harmonics, one after the other, over a noise at -72 dBFS."""
    time = np.arange(round(seconds * RATE)) / RATE
    since, note = time % 0.75, np.floor(time / 0.75)
    hz = 196.0 * 2 ** ((note * 5 % 12) / 12)
    tone = sum(np.sin(2 * np.pi * hz * n * since) / n for n in range(1, 31))
    return 0.1 * tone * np.exp(-since * 2.0) + 0.00025 * np.random.default_rng(5).standard_normal(len(time))


def voice(seconds=SECONDS):
    """Something like speech: syllables of a buzz with two formants, pauses between sentences, a breath of noise."""
    time = np.arange(round(seconds * RATE)) / RATE
    noise = np.random.default_rng(3).standard_normal(len(time))
    buzz = sum(np.sin(2 * np.pi * 130.0 * n * time) / (1 + abs(n - 5) + abs(n - 14) / 3) for n in range(1, 40))
    syllables = np.maximum(np.sin(2 * np.pi * 3.1 * time), 0) ** 0.7 * (time % 2.0 < 1.5)
    return 0.2 * buzz * syllables + 0.02 * noise * (0.1 + syllables)


def sounds():
    music = song(SECONDS)
    return {
        "louder": np.clip(music * 10 ** (8 / 20), -1, 1),
        "quieter": music * 10 ** (-16 / 20),
        "quiet": music * 10 ** (-26 / 20),
        "dense": np.tanh(music * 8) * 0.95,
        "solo": strings(),
        "voice": voice(),
    }


@pytest.fixture(scope="module")
def uses(tmp_path_factory):
    """The music, and other sounds by their names, analysed."""
    folder = tmp_path_factory.mktemp("refit")

    def used(name, samples):
        recording = analyse(write_wav(folder / f"{name}.wav", samples), folder / name, key=name)
        return AudioRange(recording, 0.0, len(samples) / RATE)

    return {name: used(name, samples) for name, samples in {"music": song(SECONDS), **sounds()}.items()}


def scene(use, kind="spectrum", **settings):
    layer = fitted_layer(kind, kind, settings, use)
    pickup = new_signal("pickup", "Lead", low_hz=150.0, high_hz=2500.0)
    pickup["settings"] |= SIGNAL_KINDS["pickup"](pickup["settings"]).fitted(use, use.out_s, 0.0, use.out_s)
    track = new_track("0" * 64, "song.wav", use.out_s)
    return new_document("Quay", frame=FRAMES["wide"], rate=Fraction(30), layers=[layer], track=track, signals=[pickup])


def heights(document, use):
    reads = LAYER_KINDS[document["layers"][0]["kind"]](document["layers"][0]["settings"]).reads
    return np.array([bar_heights(use, reads, Fraction(n, 30)) for n in range(int(use.out_s * 30))])


@pytest.mark.parametrize("name", sounds())
@pytest.mark.parametrize("kind", BANDS)
def test_bars_stand_as_tall_in_another_sound_and_stick_nowhere(uses, kind, name):
    document = scene(uses["music"], kind)
    moved = refitted(document, uses["music"], uses[name])
    before, after = heights(document, uses["music"]), heights(moved, uses[name])
    assert (after.max(axis=1) >= 0.999).mean() <= 0.01
    assert after.mean() == pytest.approx(before.mean(), abs=0.06)
    parse(moved)


@pytest.mark.parametrize("name", sounds())
def test_every_patch_reaches_its_end(uses, name):
    moved = refitted(scene(uses["music"]), uses["music"], uses[name])
    signals = SignalSet(parse(moved).signals, parse(moved).beats, uses[name], SECONDS)
    times = np.arange(0, SECONDS, 1 / 30)
    assert 0.9 <= signals.values(moved["signals"][0]["id"], times).max() <= 1.0


def test_the_same_music_at_another_level_is_the_same_picture(uses):
    document = scene(uses["music"])
    moved = refitted(document, uses["music"], uses["quieter"])
    assert heights(moved, uses["quieter"]) == pytest.approx(heights(document, uses["music"]), abs=0.03)
    back = refitted(moved, uses["quieter"], uses["music"])
    for name in ("quiet_db", "loud_db"):
        assert back["layers"][0]["settings"][name] == pytest.approx(document["layers"][0]["settings"][name], abs=1.0)


@pytest.mark.parametrize("kind", FITTED)
def test_what_was_moved_by_hand_keeps_its_distance(uses, kind):
    document = scene(uses["music"], kind)
    names = [name for name in ("loud_db", "gain_db", "top_db") if name in document["layers"][0]["settings"]]
    plain = refitted(document, uses["music"], uses["quieter"])["layers"][0]["settings"]
    hotter = {**document["layers"][0]["settings"], names[0]: document["layers"][0]["settings"][names[0]] - 3.0}
    moved = refitted(
        document | {"layers": [document["layers"][0] | {"settings": hotter}]}, uses["music"], uses["quieter"]
    )
    assert moved["layers"][0]["settings"][names[0]] == pytest.approx(plain[names[0]] - 3.0, abs=0.1)


def test_patches_and_keyframes_go_with_the_setting_that_they_move(uses):
    document = scene(uses["music"])
    layer, signal = document["layers"][0], document["signals"][0]
    layer["patches"] = [new_patch("loud_db", signal, -20.0, -10.0), new_patch("loud_db", signal, 0.0, 3.0, "add")]
    layer["keyframes"] = {"loud_db": [{"time_s": 0.0, "value": -18.0, "ease": "linear"}]}
    moved = refitted(document, uses["music"], uses["quieter"])["layers"][0]
    by = moved["settings"]["loud_db"] - layer["settings"]["loud_db"]
    assert by == pytest.approx(-16.0, abs=1.0)
    assert moved["patches"][0]["from"] == -20.0 + by and moved["patches"][0]["to"] == -10.0 + by
    assert moved["patches"][1] == layer["patches"][1]
    assert moved["keyframes"]["loud_db"][0]["value"] == -18.0 + by


def test_a_meter_with_numbers_stays_and_one_without_goes_with_the_loudness(uses):
    def ends(scale):
        document = scene(uses["music"])
        document["layers"].append(new_layer("meter", scale=scale))
        moved = refitted(document, uses["music"], uses["quieter"])["layers"][1]["settings"]
        return moved["low_db"] - document["layers"][1]["settings"]["low_db"]

    assert ends(True) == 0 and ends(False) == pytest.approx(-16, abs=1)


def test_what_no_longer_lies_in_the_sound_is_said():
    document = new_document("Quay", frame=FRAMES["wide"], rate=Fraction(30), layers=[new_layer("shape")])
    document["length_s"] = 10.0
    document["markers"] = [{"time_s": 2.0, "text": "Bell"}, {"time_s": 8.0, "text": "Fog"}]
    document["layers"][0]["keyframes"] = {
        "x": [{"time_s": at, "value": 50.0, "ease": "linear"} for at in (1.0, 7.0, 9.0)]
    }
    assert out_of_time(document, 6.0) == [
        "1 marker lies after the end of the new sound.",
        "2 keyframes lie after the end of the new sound.",
    ]
    assert out_of_time(document, 10.0) == []
