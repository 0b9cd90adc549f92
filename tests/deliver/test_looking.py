"""What is found of a project before it is exported, how flashes are softened, and which excerpts carry best."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from tests.conftest import RATE, sine
from velvetdrum.deliver.checks.frame_measures import findings_of, keep_seen, kept_seen, see, small_plan
from velvetdrum.deliver.checks.softener import softened
from velvetdrum.deliver.checks.watch_outs import watch_outs
from velvetdrum.deliver.excerpts import excerpts
from velvetdrum.deliver.plan import plan_export
from velvetdrum.scene.document import new_document, new_layer, new_patch, new_track, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatGrid

SIZE = FrameSize(320, 180)


def document(layers, signals=(), length=6.0, **more):
    made = new_document(
        "Quay",
        frame=SIZE,
        rate=Fraction(30),
        layers=layers,
        signals=list(signals),
        track=new_track("0" * 64, "quay.wav", length),
    )
    made["length_s"] = length
    return made | more


def looked(made, use=None):
    plan = small_plan(plan_export(made))
    parts = [see(parse(made), use, plan, *segment) for segment in plan.segments]
    return plan, findings_of(parts, 30.0), parts


def strobe(hz, high=100.0):
    """A white field whose opacity follows a square wave, and a gentle one beside it."""
    square = new_signal("lfo", "Signal lamp", rate_hz=hz, shape="square")
    slow = new_signal("lfo", "Swell", rate_hz=0.2)
    ground = new_layer("backdrop", fill="plain", plain="#101018")
    field = new_layer("backdrop", fill="plain", plain="#ffffff")
    field["name"] = "Flash"
    field["patches"] = [new_patch("layer_opacity", square, 0.0, high)]
    lamp = new_layer("shape", form="ellipse", width=30.0, height=30.0)
    lamp["patches"] = [new_patch("width", slow, 20.0, 40.0)]
    return document([ground, lamp, field], [square, slow])


def test_flashes_are_found_with_their_curve_and_softened_at_their_patch():
    made = strobe(5.0)
    plan, found, _ = looked(made)
    assert found.frames == 180 and found.flashes and max(found.curve[0]) == pytest.approx(5, abs=1)
    assert len(found.curve[0]) == 60
    change = softened(made, None, plan, (found.flashes[0].start_s, found.flashes[0].end_s))
    assert (change.layer, change.patch, change.signal_name, change.layer_name) == (2, 0, "Signal lamp", "Flash")
    assert change.after <= 3 < change.before and 0 < change.to < 100
    changed = strobe(5.0, change.to)
    assert not looked(changed)[1].flashes
    assert not looked(strobe(1.0))[1].flashes


def test_what_was_seen_is_kept_and_read_again(tmp_path):
    _, found, parts = looked(strobe(5.0))
    for number, part in enumerate(parts):
        keep_seen(part, tmp_path / f"{number}.npz")
    again = findings_of([kept_seen(tmp_path / f"{number}.npz") for number in range(len(parts))], 30.0)
    assert again == found


def told(made, use=None, sizes=(SIZE,)):
    plan, found, _ = looked(made, use)
    return {(item.check, item.good): item for item in watch_outs(parse(made), use, plan, found, sizes)}


def test_an_empty_start_a_still_picture_and_silence_are_told(analysed):
    sound = np.concatenate([np.zeros(2 * RATE), sine(440, 3.0, -12.0), np.zeros(RATE)])
    recording = analysed(sound)
    use = AudioRange(recording, 0.0, 6.0)
    lamp = new_layer("shape", form="ellipse", width=60.0, height=60.0)
    lamp["keyframes"] = {
        "layer_opacity": [
            {"time_s": 0.5, "value": 0.0, "ease": "linear"},
            {"time_s": 1.2, "value": 100.0, "ease": "linear"},
        ]
    }
    found = told(document([new_layer("backdrop", fill="plain", plain="#000000"), lamp]), use)
    assert "Silent for 1.0 s at the end" in found["Sound", False].text
    assert found["Sound and picture", False].text.startswith("The picture moves 1.")
    assert "nearly empty" in found["Cover", False].text
    assert "frozen" in found["Picture", False].text and found["Picture", False].target["frame"] >= 30
    assert found["Flashes", True].good


def test_what_lies_under_a_channels_own_words_is_told_for_each_frame():
    title = new_layer("text", text="Lantern Quay", y=92.0)
    title["name"] = "Title"
    made = document([new_layer("backdrop"), title])
    found = told(made, sizes=(SIZE, FrameSize(180, 320)))
    item = found["Words and marks", False]
    assert "Title lies under the channel's" in item.text and item.target["shape"] in ("wide", "tall")


def test_words_that_are_hard_to_read_are_told_with_their_moment():
    def titled(ink):
        title = new_layer("text", text="Lantern Quay", plain=ink, size=9.0)
        title["name"] = "Title"
        ground = new_layer("backdrop", fill="plain", plain="#101018")
        ground["patches"] = []
        # Light comes up behind it in the second half.
        light = new_layer("backdrop", fill="plain", plain="#e8e4d8")
        light["keyframes"] = {
            "layer_opacity": [
                {"time_s": 2.0, "value": 0.0, "ease": "linear"},
                {"time_s": 4.0, "value": 100.0, "ease": "linear"},
            ]
        }
        return told(document([ground, light, title]))

    found = titled("#f4eadb")["Contrast", False]
    assert found.text.startswith("Title is hard to read at 0:0") and ":1 against" in found.text
    assert found.target["frame"] >= 90
    assert titled("#606060").keys() & {("Contrast", False), ("Contrast", True)} == {("Contrast", False)}
    # One that is told apart from both: in the middle of their lightness it is not, at the ends it is.
    still = document([new_layer("backdrop", fill="plain", plain="#101018"), new_layer("text", text="Lantern Quay")])
    assert told(still)["Contrast", True].good


@pytest.fixture
def harbour_song(analysed):
    """Forty seconds at 120 beats a minute: quiet, then loud with strokes from 20 s on, then quiet."""
    draws = np.random.Generator(np.random.PCG64(5))
    quiet, loud = sine(220, 20.0, -34.0), sine(220, 12.0, -20.0)
    strokes = np.zeros(len(loud))
    for beat in range(24):
        at = beat * RATE // 2
        strokes[at : at + 2400] += draws.normal(0, 0.25, 2400) * np.linspace(1, 0, 2400)
    return AudioRange(analysed(np.concatenate([quiet, loud + strokes, sine(220, 8.0, -34.0)])), 0.0, 40.0)


def test_excerpts_begin_and_end_on_bar_lines_where_it_is_loud(harbour_song):
    made = document([new_layer("backdrop")], length=40.0)
    made["beats"] = {"source": "typed", "tempo_bpm": 120.0, "anchor_s": 0.0, "first_bar_s": 0.0}
    project = parse(made)
    grid = BeatGrid.of(project.beats, harbour_song)
    found = excerpts(project, harbour_song, 10.0, grid)
    assert 1 <= len(found) <= 3 and found[0].score == max(item.score for item in found)
    assert 18 <= found[0].start_s <= 22 and found[0].end_s <= 32.5
    for item in found:
        assert item.start_s % 2 == pytest.approx(0, abs=1e-6) and item.end_s % 2 == pytest.approx(0, abs=1e-6)
        assert 7.3 <= item.end_s - item.start_s <= 10.05 and item.why.endswith("from a bar line")
    assert excerpts(project, harbour_song, 60.0, grid)[0].why == "all of it"


def test_excerpts_of_a_voice_begin_after_a_pause(analysed):
    words = []
    draws = np.random.Generator(np.random.PCG64(7))
    for length in (4.0, 6.0, 5.0, 7.0, 4.0):
        words += [draws.normal(0, 0.1, round(length * RATE)), np.zeros(round(0.6 * RATE))]
    sound = np.concatenate(words)
    seconds = len(sound) / RATE
    use = AudioRange(analysed(sound), 0.0, seconds)
    made = document([new_layer("backdrop")], length=round(seconds, 3))
    found = excerpts(parse(made), use, 12.0, None)
    edges = np.cumsum([0.0, 4.6, 6.6, 5.6, 7.6])
    assert found and all(np.abs(edges - item.start_s).min() < 0.25 for item in found)
    assert all(item.why.endswith("after a pause") for item in found)
