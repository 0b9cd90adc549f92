"""The sound of clips: at its time, its speed and its strength, in the mix and in the exported file."""

from fractions import Fraction

import av
import numpy as np
import pytest
import soundfile

from tests.conftest import RATE, sine, write_wav
from tests.picture.media.clips import write_clip
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.deliver.sound import HeardSound, encode_sound
from velvetdrum.deliver.sound_mix import mixed, voices
from velvetdrum.picture.media.clips.preparation import SOUND, prepare_clip
from velvetdrum.scene.document import new_document, new_layer, new_track, parse
from velvetdrum.scene.frames import FRAMES
from velvetdrum.signals.audio_range import AudioRange

KEY = "d" * 64


@pytest.fixture
def prepared(tmp_path):
    """A clip of two seconds whose sound is known to the sample: it counts up."""
    path = write_clip(tmp_path / "clip.mp4", 50)
    folder = tmp_path / "clip"
    prepare_clip(path, folder)
    ramp = (np.arange(2 * RATE) / (2 * RATE) * 30_000).astype("<i2")
    (folder / SOUND).write_bytes(np.stack([ramp, -ramp], axis=1).tobytes())
    return {KEY: str(folder)}


def project(**settings):
    layer = new_layer("footage", clip=KEY, **{"sound": "mixed", "gain_db": 0.0} | settings)
    return parse(new_document("Mix", frame=FRAMES["wide"], rate=Fraction(25), layers=[layer]) | {"length_s": 10.0})


def heard(made, clips, first_s, count=480):
    return mixed(made, None, voices(made, None, clips), round(first_s * RATE), count)


def value(second):
    return second / 2 * 30_000 / 32_767


def test_a_clip_is_heard_at_its_time_to_the_sample(prepared):
    made = project(from_at="time", from_s=1.0)
    assert np.abs(heard(made, prepared, 0.9)).max() == 0
    edge = heard(made, prepared, 0.995)
    assert np.flatnonzero(edge[0] > 0)[0] == pytest.approx(240, abs=6)
    found = heard(made, prepared, 2.0)
    assert found[0, 0] == pytest.approx(value(1.0), abs=1e-4) and found[1, 0] == pytest.approx(-value(1.0), abs=1e-4)
    assert heard(made, prepared, 3.5)[0, 0] == pytest.approx(value(0.5), abs=1e-4)  # it loops


@pytest.mark.parametrize(
    ("settings", "at", "expected"),
    [
        ({"speed": 50.0}, 2.0, 1.0),
        ({"in_s": 0.5}, 1.0, 1.5),
        ({"out_s": 0.8}, 1.0, 0.2),
        ({"over": "ping-pong"}, 3.0, 1.0),
    ],
)
def test_sound_and_picture_follow_the_same_timing(prepared, settings, at, expected):
    assert heard(project(**settings), prepared, at)[0, 0] == pytest.approx(value(expected), abs=1e-3)


def test_a_speed_that_changes_is_heard_by_its_integral(prepared):
    document = new_document("Mix", frame=FRAMES["wide"], rate=Fraction(25), layers=[])
    layer = new_layer("footage", clip=KEY, sound="mixed", gain_db=0.0, over="hold")
    layer["keyframes"] = {
        "speed": [{"time_s": 0.0, "value": 20, "ease": "linear"}, {"time_s": 4.0, "value": 60, "ease": "linear"}]
    }
    made = parse(document | {"layers": [layer], "length_s": 10.0})
    for at in (1.0, 2.0, 4.0):
        assert heard(made, prepared, at)[0, 0] == pytest.approx(value(0.2 * at + 0.05 * at**2), abs=1e-3)


def test_gain_fades_and_groups_count_and_muted_clips_do_not(prepared):
    assert heard(project(gain_db=-6.0), prepared, 1.0)[0, 0] == pytest.approx(value(1.0) * 10 ** (-6 / 20), abs=1e-3)
    faded = project(fade_in_s=2.0)
    assert heard(faded, prepared, 1.0)[0, 0] == pytest.approx(value(1.0) * 0.5, abs=2e-3)
    assert voices(project(sound="muted"), None, prepared) == []
    group = new_layer("group", to_at="time", to_s=0.5)
    layer = new_layer("footage", clip=KEY, sound="mixed", gain_db=0.0) | {"group": group["id"]}
    document = new_document("G", frame=FRAMES["wide"], rate=Fraction(25), layers=[group, layer]) | {"length_s": 10.0}
    assert (
        np.abs(heard(parse(document), prepared, 0.6)).max() == 0
        and np.abs(heard(parse(document), prepared, 0.4)).max() > 0
    )


def test_an_exported_sound_holds_the_track_and_the_clip(prepared, tmp_path):
    tone = write_wav(tmp_path / "tone.wav", sine(1000, 4.0, -20.0))
    recording = analyse(tone, tmp_path / "analysis")
    clip_tone = np.rint(sine(3000, 2.0, -20.0) * 32_767).astype("<i2")
    (tmp_path / "clip" / SOUND).write_bytes(np.stack([clip_tone, clip_tone], axis=1).tobytes())
    layer = new_layer("footage", clip=KEY, sound="mixed", gain_db=0.0, from_at="time", from_s=2.0, over="hold")
    track = new_track("e" * 64, "Tone", 4.0)
    made = parse(new_document("X", frame=FRAMES["wide"], rate=Fraction(25), layers=[layer], track=track))
    use = AudioRange(recording, 0.0, 4.0)
    heard = HeardSound(tone, 0.0, 4.0, Fraction(0), Fraction(4), made, use, prepared)
    encode_sound(heard, tmp_path / "out.mp4")
    with av.open(str(tmp_path / "out.mp4")) as container:
        samples = np.concatenate([frame.to_ndarray() for frame in container.decode(audio=0)], axis=1)
    assert samples.shape[0] == 2
    for start, both in ((0.5, False), (2.5, True)):
        piece = samples[0, round(start * RATE) : round(start * RATE) + RATE]
        levels = np.abs(np.fft.rfft(piece * np.hanning(RATE))) / RATE * 4
        assert 20 * np.log10(levels[1000]) == pytest.approx(-20, abs=0.5)
        assert bool(20 * np.log10(levels[3000] + 1e-9) > -22) is both
    soundfile.write(tmp_path / "x.wav", samples.T, RATE)
