"""Motion blur against the integral that it stands for."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from tests.picture.scenes import black, project
from velvetdrum.picture.frame import render as renderer
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.motion import movement_px
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FrameSize

SIZE = FrameSize(320, 180)
RATE = 30
ACROSS = {"x": [{"time_s": 0.0, "value": 20.0}, {"time_s": 1.0, "value": 80.0}]}
"""60 % of 320 pixels in a second: 6.4 pixels a frame."""


def scene(keyframes=None, whole=False, angle=360.0, **more):
    """A white square that moves over black; blurred by itself, or by a layer over the whole picture."""
    blur = new_effect("shutter", angle=angle, **more)
    square = new_layer("shape", form="rectangle", width=20, height=20, plain="#ffffff")
    square |= {"keyframes": keyframes or {}, "effects": [] if whole else [blur]}
    layers = [black(), square]
    if whole:
        layers.append(new_layer("whole-picture") | {"effects": [blur]})
    return project(*layers, length=2.0)


def frame(project, number, **more):
    return render(project, None, Fraction(number, RATE), SIZE, **more).copy()


@pytest.fixture(scope="module")
def moving():
    return scene(ACROSS)


def mean_of(angle, number, count=256):
    """The mean of many pictures without blur over the shutter's open time about a frame."""
    project = scene(ACROSS, angle=0)
    offsets = ((np.arange(count) + 0.5) / count - 0.5) * angle / 360 / RATE
    times = [Fraction(number, RATE) + Fraction(float(offset)).limit_denominator(10**7) for offset in offsets]
    view = ProjectView(project, None)
    total = np.zeros((SIZE.height, SIZE.width, 4))
    for time in times:
        canvas = Canvas(SIZE.width, SIZE.height)
        view.at(time, SIZE).draw_frame(canvas)
        total += canvas.pixels
    return total / count


@pytest.mark.parametrize("angle", [180, 360, 1080])
def test_it_is_the_mean_over_the_open_time(angle):
    picture = frame(scene(ACROSS, angle=angle), 15).astype(float)
    wanted = mean_of(angle, 15)
    # The steps between sub-frames are 2.5 px at the most: half of one at each edge of the ramp may differ.
    assert np.abs(picture - wanted).mean() < 0.6
    row, reference = picture[90, :, 1], wanted[90, :, 1]
    assert np.abs(row - reference).max() <= 255 * 2.5 / (angle / 360 * 6.4) * 0.75


@pytest.mark.parametrize("whole", [False, True])
def test_an_edge_becomes_a_ramp_as_long_as_the_way_in_the_open_time(whole):
    row = frame(scene(ACROSS, whole=whole, angle=720), 15)[90, :, 1].astype(float)
    ramp = np.flatnonzero((row > 3) & (row < 252))
    ramp = ramp[ramp < np.argmax(row)]
    # Twice a frame's way of 6.4 px.
    assert len(ramp) == pytest.approx(12.8, abs=2)


def test_what_rests_is_drawn_as_it_is(moving):
    assert np.array_equal(frame(scene(), 15), frame(scene(angle=0), 15))
    assert np.array_equal(frame(moving, 45), frame(scene(ACROSS, angle=0), 45)), "after the last keyframe"


def test_frames_are_equal_in_any_order(moving):
    forth = {number: frame(moving, number) for number in (0, 1, 14, 29)}
    for number in (29, 0, 14, 1):
        assert np.array_equal(forth[number], frame(moving, number))


def test_more_sub_frames_are_drawn_where_things_move_farther(monkeypatch):
    """Counted by the pictures that are drawn: 2 at rest, and more the faster it goes."""

    def drawn_for(keyframes, **more):
        counted = renderer.ProjectFrame
        times = set()

        class Counting(counted):
            def __init__(self, view, time, size):
                times.add(time)
                super().__init__(view, time, size)

        monkeypatch.setattr(renderer, "ProjectFrame", Counting)
        frame(scene(keyframes, **more), 15)
        monkeypatch.undo()
        return len(times) - 1

    slow = {"x": [{"time_s": 0.0, "value": 45.0}, {"time_s": 1.0, "value": 55.0}]}
    fast = {"x": [{"time_s": 0.4, "value": -40.0}, {"time_s": 0.6, "value": 140.0}]}
    assert drawn_for(None) == 2
    assert drawn_for(slow) == 4
    assert drawn_for(fast) == 16
    assert drawn_for(fast, most=6) == 6
    assert 4 < drawn_for(ACROSS, angle=720) <= 8


@pytest.mark.parametrize("size", [(1, 1), (1, 700), (700, 1), (3, 3), (20, 160), (31, 33), (90, 8), (130, 127)])
def test_movement_is_read_of_pictures_of_any_size(size):
    rng = np.random.default_rng(2)
    one = rng.integers(0, 256, (*size, 4)).astype(np.uint8)
    far = movement_px(one, np.roll(one, 3, axis=1))
    assert np.isfinite(far) and far >= 0
    assert movement_px(one, one) == 0


@pytest.mark.parametrize("far", [4, 16, 40])
def test_movement_is_about_as_far_as_a_disc_went(far):
    y, x = np.mgrid[:180, :320]
    pictures = []
    for place in (100, 100 + far):
        cover = np.clip(30.5 - np.hypot(x - place, y - 90), 0, 1)
        pictures.append(np.repeat((cover * 255).astype(np.uint8)[..., None], 4, axis=2))
    assert movement_px(*pictures) == pytest.approx(far, rel=0.5)
