"""The array: copies where they should be, each with its own part of the sound and its own time."""

from __future__ import annotations

from fractions import Fraction

import cv2
import numpy as np
import pytest

from tests.conftest import RATE
from tests.picture.scenes import black, project
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.picture.layers.array import MOST_TIMES
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.problems import ProjectError
from velvetdrum.signals.audio_range import AudioRange

SIZE = FrameSize(400, 400)


def dot(**more):
    """A hidden disc of 10 % of the frame, as what is shown many times."""
    return new_layer("shape", form="ellipse", width=10, height=10, plain="#ffffff", x=30, y=70) | {
        "visible": False,
        **more,
    }


def scene(source, *others, signals=(), patches=(), **settings):
    made = new_layer("array", source=source["id"], **({"hear": "none", "copy_size": 5} | settings))
    made["patches"] = list(patches)
    return project(black(), source, *others, made, frame=SIZE, signals=signals)


def picture(made, at=2.0, use=None):
    return render(made, use, Fraction(at).limit_denominator(1000), SIZE).copy()


def blobs(pixels, over=100):
    """Middles and areas of what is bright, by their angle about the frame's middle, clockwise from the top."""
    mask = (pixels[..., 1] > over).astype(np.uint8)
    count, _, stats, middles = cv2.connectedComponentsWithStats(mask, connectivity=4)
    rows = [(x + 0.5, y + 0.5, area) for (x, y), area in zip(middles[1:count], stats[1:count, 4], strict=True)]
    return sorted(rows, key=lambda row: np.arctan2(row[0] - 200, 200 - row[1]) % (2 * np.pi) + 1e-6)


def test_copies_stand_evenly_along_a_shape_wherever_their_layer_stands():
    rows = blobs(picture(scene(dot(), count=8, base="ring", radius=30, start=-6.25)))
    assert len(rows) == 8
    angles = np.arange(8) * np.pi / 4
    wanted = np.stack([200 + 120 * np.sin(angles), 200 - 120 * np.cos(angles)], axis=1)
    found = np.array(sorted((round(x), round(y)) for x, y, _ in rows))
    assert np.abs(found - np.array(sorted((round(x), round(y)) for x, y in wanted))).max() <= 1
    # 5 % of 400 pixels across.
    assert [area for *_, area in rows] == pytest.approx([np.pi * 10**2] * 8, rel=0.08)


@pytest.mark.parametrize(
    ("settings", "wanted"),
    [
        ({"arrange": "grid", "count": 6, "columns": 3, "gap_x": 20, "gap_y": 30}, {(120, 140), (200, 140), (280, 140)}),
        ({"arrange": "rings", "count": 4, "rings": 1, "outer": 25}, {(200, 100), (300, 200), (200, 300), (100, 200)}),
        ({"arrange": "spiral", "count": 2, "spiral_turns": 1, "inner": 10, "outer": 40}, {(200, 160), (200, 40)}),
    ],
)
def test_other_arrangements_stand_where_they_should(settings, wanted):
    found = {(round(x), round(y)) for x, y, _ in blobs(picture(scene(dot(), **settings)))}
    assert len(found) == settings["count"]
    for x, y in wanted:
        assert min(abs(x - a) + abs(y - b) for a, b in found) <= 2, (x, y)


def test_a_sunflower_gives_all_the_same_room():
    rows = blobs(picture(scene(dot(), arrange="sunflower", count=60, outer=45, copy_size=2)))
    places = np.array([row[:2] for row in rows])
    apart = np.hypot(*(places[:, None] - places[None]).transpose(2, 0, 1)) + np.eye(len(places)) * 1e9
    nearest = apart.min(axis=1)
    assert len(rows) == 60
    assert nearest.std() / nearest.mean() < 0.2


def test_a_copy_shows_its_layer_as_much_later_as_its_offset_byte_for_byte():
    """Copies 80 pixels apart; the layer grows and wanders, so that no two times look alike."""
    moving = dot() | {
        "keyframes": {
            "width": [{"time_s": 0.0, "value": 2.0}, {"time_s": 6.0, "value": 18.0}],
            "plain": [{"time_s": 0.0, "value": "#ff0000"}, {"time_s": 6.0, "value": "#0000ff"}],
        }
    }
    still = {"arrange": "grid", "columns": 4, "gap_x": 20, "gap_y": 0, "count": 4, "x": 50.0}
    made = scene(moving, **still, delay_s=0.5)
    late = picture(made, 4.0)
    strips = [late[:, 40 + 80 * n : 120 + 80 * n] for n in range(4)]
    for number in range(1, 4):
        earlier = picture(made, 4.0 - 0.5 * number)[:, 40:120]
        assert np.array_equal(strips[number], earlier)
        assert not np.array_equal(strips[number], strips[0])


def test_each_copy_hears_its_own_band(analysed):
    """A tone in the middle of the third of four bands of 40 to 12,000 Hz lifts the third copy alone."""
    edges = np.geomspace(40, 12_000, 5)
    tone = 0.5 * np.sin(2 * np.pi * np.sqrt(edges[2] * edges[3]) * np.arange(3 * RATE) / RATE)
    use = AudioRange(analysed(np.stack([tone, tone], axis=1)), 0.0, 3.0)
    made = scene(
        dot(), count=4, base="line", hear="bands", size_0=100, size_1=100, lift=20, tilt_db=0, quiet_db=-40, loud_db=-12
    )
    heights = [y for _, y, _ in sorted(blobs(picture(made, 2.0, use)))]
    assert heights[0] == pytest.approx(200, abs=1) and heights[3] == pytest.approx(200, abs=1)
    assert heights[1] == pytest.approx(200, abs=8)
    assert heights[2] == pytest.approx(200 - 80, abs=3)


def test_a_level_runs_along_the_copies():
    ramp = {"id": "s1", "kind": "progress", "name": "Way", "colour": "#5fc4b4", "settings": {}}
    stretch = {"over": "stretch", "from_s": 0, "to_s": 4, "easing": "linear"}
    ramp["settings"] = stretch
    patch = {"setting": "level", "signal": "s1", "from": 0, "to": 100}
    made = scene(
        dot(), count=4, base="line", hear="level", wait_s=0.5, lift=25, size_0=100, size_1=100,
        signals=[ramp], patches=[patch],
    )  # fmt: skip
    heights = [200 - y for _, y, _ in sorted(blobs(picture(made, 2.0)))]
    assert heights == pytest.approx([100 * (2.0 - 0.5 * n) / 4 for n in range(4)], abs=1)


def test_the_waveform_is_drawn_by_copies(analysed):
    """A tone of 50 Hz in a window of 20 ms: one period, from the middle of the window."""
    tone = 0.8 * np.cos(2 * np.pi * 50 * np.arange(3 * RATE) / RATE)
    use = AudioRange(analysed(np.stack([tone, tone], axis=1)), 0.0, 3.0)
    made = scene(dot(), count=16, copy_size=2, base="line", hear="wave", window_ms=20, lift=25, size_0=100, size_1=100)
    rows = sorted(blobs(picture(made, 1.0, use)))
    place = (np.arange(16) + 0.5) / 16 - 0.5
    assert [200 - y for _, y, _ in rows] == pytest.approx(100 * 0.8 * np.cos(2 * np.pi * place), abs=1.5)


def test_a_mirrored_shape_has_each_copy_on_both_halves():
    """Three copies there and three back, each as large as its counterpart, and of its time."""
    grown = scene(dot(), count=3, base="ring", radius=30, mirror=True, step_size=60)
    rows = blobs(picture(grown))
    areas = sorted(area for *_, area in rows)
    assert len(rows) == 6
    assert areas[0] == pytest.approx(areas[1], rel=0.1) and areas[4] == pytest.approx(areas[5], rel=0.1)
    assert areas[5] > 4 * areas[0]
    for x, y, area in rows:
        assert min(abs(400 - x - a) + abs(y - b) + abs(area - c) / 50 for a, b, c in rows) < 3
    moving = dot() | {"keyframes": {"width": [{"time_s": 0.0, "value": 2.0}, {"time_s": 6.0, "value": 18.0}]}}
    late = scene(moving, count=3, base="ring", radius=30, mirror=True, delay_s=0.5)
    assert len(blobs(picture(late, 4.0))) == 6


def test_frames_are_equal_in_any_order(use):
    star = dot()
    made = scene(star, count=12, hear="bands", chance_x=8, chance_turn=40, tint="form", by="chance", step_opacity=97)
    forth = {at: picture(made, at, use) for at in (0.5, 1.0, 3.2)}
    for at in (3.2, 0.5, 1.0):
        assert np.array_equal(forth[at], picture(made, at, use))


def test_steps_and_orientation_change_copies_one_by_one():
    bar = new_layer("shape", form="rectangle", width=12, height=2, plain="#ffffff") | {"visible": False}
    made = scene(bar, count=3, arrange="grid", columns=3, gap_x=28, copy_size=20, step_turn=90, step_size=50)
    mask = picture(made)[..., 1] > 100
    boxes = [np.argwhere(mask[:, 25 + 120 * n : 145 + 112 * n]) for n in range(3)]
    sides = [np.ptp(box, axis=0) + 1 for box in boxes]
    assert sides[0][1] == pytest.approx(80, abs=2) and sides[0][0] < 16
    assert sides[1][0] == pytest.approx(40, abs=2) and sides[1][1] < 12
    assert sides[2][1] == pytest.approx(20, abs=2)


def test_in_a_space_the_nearer_copy_hides_the_farther_one():
    """Two copies on one place; the second is nearer, whatever their order."""
    red = dot()
    space = new_layer("space")
    made = new_layer(
        "array", source=red["id"], count=2, arrange="grid", columns=1, gap_y=0, hear="none", copy_size=30,
        step_z=20, tint="form", colours=[{"at": 0.0, "colour": "#ff0000"}, {"at": 1.0, "colour": "#0000ff"}],
    )  # fmt: skip
    pixels = {}
    for front in ("first", "last"):
        array = made | {"group": space["id"], "settings": made["settings"] | {"front": front}}
        pixels[front] = picture(project(black(), red, space, array, frame=SIZE))
    assert np.array_equal(pixels["first"], pixels["last"])
    middle = pixels["first"][200, 200]
    assert middle[0] > 2 * middle[2], "the second copy, which is nearer, is seen"


def test_an_array_of_itself_is_refused_with_the_names():
    one = new_layer("array", name="Boats")
    group = new_layer("group", name="Fleet")
    one["settings"]["source"] = group["id"]
    one["group"] = group["id"]
    with pytest.raises(ProjectError, match=r"Boats.*Fleet|Fleet.*Boats"):
        project(group, one)


def test_too_many_copies_are_capped_and_told():
    moving = dot() | {"keyframes": {"width": [{"time_s": 0.0, "value": 2.0}, {"time_s": 6.0, "value": 18.0}]}}

    def notes(made):
        frame = ProjectView(made, None).at(Fraction(1), SIZE)
        item = frame.shown(made.layers[-1])
        return item.layer.notes(frame.moment(item.layer, item.placed))

    (told,) = notes(scene(moving, count=5000, delay_s=0.01))
    assert "5,000" in told and str(MOST_TIMES) in told
    (told,) = notes(scene(dot(), count=5000, copy_size=60))
    assert "5,000 copies cover too much" in told
    assert notes(scene(dot(), count=5000, copy_size=1)) == []
    (told,) = notes(project(black(), new_layer("array"), frame=SIZE))
    assert "choose" in told
