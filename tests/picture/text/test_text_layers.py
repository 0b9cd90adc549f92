"""Text, lyrics, captions and progress in frames: on time, alike at every size, equal in any order."""

from __future__ import annotations

from fractions import Fraction

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from velvetdrum.picture.frame.contrast import cue_contrasts, cue_places
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.picture.text.text_fields import clock_text
from velvetdrum.picture.text.text_motion import MOTIONS
from velvetdrum.scene.cue_tracks import stored_cue
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FrameSize
from velvetdrum.words.cues import Cue, Word

SIZE = FrameSize(320, 180)
CUES = [
    Cue(1.0, 2.0, "slow water", "Kai", (Word(1.0, 1.3, "slow"), Word(1.5, 1.9, "water"))),
    Cue(2.0, 2.7, "turns", "Mara", (Word(2.0, 2.7, "turns"),)),
    Cue(3.5, 4.5, "the light comes round once more", "Kai"),
]


def project(*layers, rate="30", cues=CUES, **more):
    document = new_document("Words", frame=FrameSize(640, 360), rate=Fraction(rate), layers=list(layers))
    document |= {"length_s": 6.0, "tags": {"title": "Lamp", "artist": "Quay"}} | more
    document["cue_tracks"] = {
        "t": {"name": "T", "language": "en", "cues": {f"c{n}": stored_cue(cue) for n, cue in enumerate(cues)}}
    }
    return parse(document)


def frame(found, time, size=SIZE):
    return render(found, None, Fraction(time).limit_denominator(100_000), size).copy()


def inked(pixels) -> bool:
    return bool(pixels[..., :3].max() > 40)


@pytest.mark.parametrize("rate", ["24", "30000/1001", "60"])
@pytest.mark.parametrize("kind", ["lyrics", "captions"])
def test_a_cue_is_on_screen_from_its_first_frame_to_the_frame_before_its_end(rate, kind):
    found = project(new_layer(kind, enter="none", leave="none", plate="none"), rate=rate)
    rate = Fraction(rate)
    for start, end in ((1.0, 2.7), (3.5, 4.5)):
        first = int(np.ceil(start * rate - Fraction(1, 10**6)))
        last = int(np.ceil(end * rate - Fraction(1, 10**6)))
        shown = [inked(frame(found, Fraction(number) / rate)) for number in (first - 1, first, last - 1, last)]
        assert shown == [False, True, True, False]


@pytest.mark.parametrize("rate", ["24", "30000/1001", "60"])
def test_the_spoken_word_changes_with_its_frame(rate):
    found = project(new_layer("lyrics", highlight="word", highlight_colour="#ff0000", enter="none"), rate=rate)
    rate = Fraction(rate)

    def red_x(number):
        pixels = frame(found, Fraction(number) / rate).astype(int)
        columns = np.flatnonzero(((pixels[..., 2] - pixels[..., 1]) > 60).any(axis=0))
        return columns.mean() if len(columns) else None

    change = int(np.ceil(1.5 * rate - Fraction(1, 10**6)))
    assert red_x(change - 1) < 160 < red_x(change)


def test_a_sweep_fills_a_word_as_far_as_it_is_said():
    found = project(new_layer("lyrics", highlight="sweep", highlight_colour="#ff0000", enter="none", size=14.0))

    def red(time):
        pixels = frame(found, time).astype(int)
        return int(((pixels[..., 2] - pixels[..., 1]) > 60).sum())

    amounts = [red(time) for time in (1.0, 1.15, 1.3, 1.45, 1.7, 1.95)]
    assert amounts[0] < amounts[1] < amounts[2] == amounts[3] < amounts[4] < amounts[5]


def test_letters_stand_alike_at_every_size():
    found = project(new_layer("text", text="Paper Lighthouse over slow water", size=12.0, shadow=50.0))
    large = frame(found, 1, FrameSize(1280, 720))
    for width in (640, 320):
        small = frame(found, 1, FrameSize(width, width * 9 // 16))
        reduced = cv2.resize(large, small.shape[1::-1], interpolation=cv2.INTER_AREA)
        assert similarity(small, reduced) > 0.97


def similarity(one, other) -> float:
    """Mean structural similarity (Wang et al., 2004), Gaussian window of sigma 1.5."""
    a, b = (cv2.cvtColor(pixels, cv2.COLOR_BGRA2GRAY).astype(float) for pixels in (one, other))

    def blur(plane):
        return cv2.GaussianBlur(plane, (11, 11), 1.5)

    mean_a, mean_b = blur(a), blur(b)
    var_a, var_b = blur(a * a) - mean_a**2, blur(b * b) - mean_b**2
    both = blur(a * b) - mean_a * mean_b
    c1, c2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    top = (2 * mean_a * mean_b + c1) * (2 * both + c2)
    return float((top / ((mean_a**2 + mean_b**2 + c1) * (var_a + var_b + c2))).mean())


@settings(max_examples=25, deadline=None)
@given(st.data())
def test_frames_are_equal_in_any_order(data):
    values = {
        "enter": data.draw(st.sampled_from(sorted(MOTIONS))),
        "leave": data.draw(st.sampled_from(sorted(MOTIONS))),
        "parts": data.draw(st.sampled_from(["letter", "word", "line", "all"])),
        "order": data.draw(st.sampled_from(["forward", "backward", "seeded"])),
        "outline": data.draw(st.sampled_from([0.0, 4.0])),
        "outline_place": data.draw(st.sampled_from(["outside", "middle", "inside"])),
        "shadow": data.draw(st.sampled_from([0.0, 60.0])),
        "plate": data.draw(st.sampled_from(["none", "lines", "whole"])),
        "paint": data.draw(st.sampled_from(["one", "along", "field", "time"])),
    }
    kind = data.draw(st.sampled_from(["text", "lyrics", "captions"]))
    more = {"style": data.draw(st.sampled_from(["line", "pair", "roll", "single"]))} if kind == "lyrics" else {}
    found = project(new_layer(kind, **values, **more))
    view = ProjectView(found, None)
    times = [Fraction(number, 10) for number in (10, 12, 19, 26, 40)]
    once = {time: frame(found, time, FrameSize(160, 90)) for time in times}
    from velvetdrum.picture.raster.canvas import Canvas

    canvas = Canvas(160, 90)
    for time in data.draw(st.permutations(times)):
        view.at(time, FrameSize(160, 90)).draw_frame(canvas)
        assert np.array_equal(canvas.pixels, once[time])


def test_parts_come_within_the_time_that_there_is_and_are_whole_in_the_middle():
    still = project(new_layer("lyrics", enter="none", leave="none"))
    moved = project(new_layer("lyrics", enter="rise", leave="fade", each_s=9.0, stagger_s=3.0, parts="letter"))
    assert np.array_equal(frame(still, 2.35), frame(moved, 2.35))
    assert not np.array_equal(frame(still, 2.05), frame(moved, 2.05))


def test_size_falls_to_a_floor_before_there_are_more_lines():
    long = [Cue(0.0, 5.0, " ".join(["lantern"] * 9))]

    def height(rows, least):
        found = project(new_layer("lyrics", rows=rows, least=least, size=14.0, enter="none"), cues=long)
        rows_inked = np.flatnonzero((frame(found, 1)[..., :3].max(axis=2) > 40).any(axis=1))
        return rows_inked.max() - rows_inked.min()

    assert height(2, 40.0) < height(4, 40.0)
    assert height(1, 90.0) > height(2, 40.0)  # at the floor there are more lines


def test_fields_are_filled_in():
    def text_of(text):
        found = project(new_layer("text", text=text))
        layer = found.layers[0].layer
        view = ProjectView(found, None).at(Fraction(3, 2), SIZE)
        from velvetdrum.picture.text.text_fields import filled

        return filled(text, view.moment(layer))

    assert text_of("{title} by {artist}, {remaining m:ss} of {total h:mm:ss}") == "Lamp by Quay, 0:05 of 0:00:06"
    assert text_of("{elapsed ss.ss} {elapsed f} {cue}/{cues} {speaker}") == "01.50 45 1/3 Kai"
    assert text_of("{unknown} {tempo}") == "{unknown} "


@pytest.mark.parametrize(
    ("seconds", "form", "up", "expected"),
    [
        ("61.5", "m:ss", False, "1:01"),
        ("61.5", "m:ss", True, "1:02"),
        ("3661", "h:mm:ss", False, "1:01:01"),
        ("9.999", "s.ss", False, "9.99"),
        ("2", "f", False, "60"),
        ("0", "m:ss", True, "0:00"),
        ("5", "nonsense", False, "0:05"),
    ],
)
def test_clock_formats(seconds, form, up, expected):
    assert clock_text(Fraction(seconds), form, Fraction(30), up=up) == expected


def test_digits_of_a_timer_do_not_move():
    found = project(new_layer("text", text="{remaining m:ss}", align="center", fit="free", family="work-sans"))
    lefts = {
        int(np.flatnonzero((frame(found, time)[..., :3].max(axis=2) > 40).any(axis=0)).min()) for time in (1, 2, 3)
    }
    assert len(lefts) == 1


@pytest.mark.parametrize("base", ["line", "ring", "arc", "polygon", "rectangle"])
def test_progress_fills_in_proportion(base):
    def amount(value, **more):
        layer = new_layer(
            "progress", base=base, over="value", value=value, ground_opacity=0.0, cap="flat", stroke=4.0, y=50.0, **more
        )
        return int((frame(project(layer), 0)[..., :3].max(axis=2) > 100).sum())

    whole = amount(100.0)
    assert amount(25.0) == pytest.approx(whole / 4, rel=0.06)
    assert amount(25.0, drain=True) == pytest.approx(whole * 3 / 4, rel=0.06)
    assert amount(0.0) == 0


def test_progress_follows_the_time_and_marks_markers():
    plain = project(
        new_layer("progress", y=50.0, ground_opacity=0.0), markers=[{"time_s": 4.5, "text": "x", "chapter": True}]
    )
    ticked = project(
        new_layer("progress", y=50.0, ground_opacity=0.0, ticks=True), markers=[{"time_s": 4.5, "text": "x"}]
    )
    assert plain.markers[0].chapter
    right = [
        np.flatnonzero((frame(plain, time)[..., :3].max(axis=2) > 100).any(axis=0)).max() for time in (1.5, 3, 4.5)
    ]
    assert np.allclose(np.diff(right), 320 * 0.76 / 4, atol=1.5)
    assert inked(frame(ticked, 1)[:, 210:240]) and not inked(frame(plain, 1)[:, 210:240])


def test_letters_that_no_typeface_has_are_told_and_never_make_a_document_invalid():
    found = project(new_layer("text", text="a\U00013000"), new_layer("spectrum", base="text", words="\U00013000"))
    stage = ProjectView(found, None).at(Fraction(1), SIZE)
    notes = found.layers[0].layer.notes(stage.moment(found.layers[0].layer))
    assert "U+13000" in notes[0] and "Bring in a typeface" in notes[0]
    frame(found, 1)


def test_contrast_is_measured_against_what_is_behind():
    light = new_layer("shape", form="rectangle", width=300.0, height=300.0, plain="#ded2c2")
    bare = new_layer("lyrics", enter="none", highlight="none")
    found = cue_contrasts(project(light, bare), None, None, "")
    assert set(found) == {"c0", "c1", "c2"} and all(item["ratio"] < 1.6 for item in found.values())
    plated = new_layer(
        "lyrics", enter="none", highlight="none", plate="lines", plate_opacity=100.0, plate_colour="#000000"
    )
    better = cue_contrasts(project(light, plated), None, None, "")
    assert all(item["ratio"] > 12 for item in better.values())


def test_contrast_is_measured_where_a_group_puts_the_letters():
    dark = new_layer("backdrop", fill="plain", plain="#000000")
    # Light lies where the letters would be without their group, and nowhere else.
    light = new_layer("shape", form="rectangle", width=300.0, height=20.0, y=50.0, plain="#ded2c2")
    group = new_layer("group", "Lines", move_y=30.0, scale_x=60.0, scale_y=60.0)
    bare = new_layer("lyrics", enter="none", highlight="none", style="line") | {"group": group["id"]}
    # What moves the group's effects plays no part.
    group["effects"] = [new_effect("glow")]
    group["keyframes"] = {f"effect:{group['effects'][0]['id']}:gain": [{"time_s": 0.0, "value": 50.0}]}
    moved = cue_contrasts(project(dark, light, group, bare), None, None, "")
    assert moved and all(item["ratio"] > 8 for item in moved.values())


def test_cues_that_do_not_fit_or_lie_under_a_channel_are_told():
    long = [Cue(0.0, 2.0, " ".join(["lantern"] * 30)), Cue(2.0, 3.0, "short")]
    told = cue_places(project(new_layer("lyrics", rows=1, size=14.0), cues=long), None, None, "")
    assert {ident for ident, _ in told} == {"c0"}
    assert any("lines at its smallest size, 1 are allowed, in the wide frame" in sentence for _, sentence in told)
    low = cue_places(project(new_layer("lyrics", y=92.0, size=6.0)), None, None, "")
    assert any("It lies under the channel's caption in the" in sentence and "tall" in sentence for _, sentence in low)


def test_a_layer_shows_the_track_that_it_names():
    document = {
        "other": {"name": "O", "language": "de", "cues": {"x": {"start_s": 0.0, "end_s": 6.0, "text": "anders"}}}
    }
    found = project(new_layer("lyrics", cues="other", enter="none"))
    assert not inked(frame(found, 5))
    both = parse(
        new_document("W", frame=FrameSize(640, 360), rate=Fraction(30), layers=[new_layer("lyrics", cues="other")])
        | {"length_s": 6.0, "cue_tracks": document}
    )
    assert inked(frame(both, 5))
