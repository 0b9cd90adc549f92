"""The trace read back from its pixels."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from tests.picture.scenes import black, project
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.frames import FrameSize

SIZE = FrameSize(640, 360)
HERTZ = {
    "id": "s1", "kind": "lfo", "name": "One hertz", "colour": "#5fc4b4",
    "settings": {"rate_hz": 1, "shape": "sine", "phase": 0},
}  # fmt: skip
SLOW = HERTZ | {"id": "s2", "name": "Half a hertz", "settings": {"rate_hz": 0.5, "shape": "sine", "phase": 0}}
PLAIN = {
    "x": 50, "y": 50, "width": 50, "height": 50, "line": 1.0, "head": 0, "fade": 0, "thin": 0, "adds": False,
    "colours": [{"at": 0, "colour": "#ffffff"}, {"at": 1, "colour": "#ffffff"}], "period": 2, "tail_s": 2,
}  # fmt: skip


def scene(*others, patches=(("level", "s1"),), length=12.0, **settings):
    made = new_layer("trace", **(PLAIN | settings))
    made["patches"] = [{"setting": name, "signal": ident, "from": 0, "to": 100} for name, ident in patches]
    return project(black(), *others, made, frame=SIZE, length=length, signals=[HERTZ, SLOW])


def picture(made, at):
    return render(made, None, Fraction(at).limit_denominator(1000), SIZE).copy()


def middles(pixels, columns):
    """The middle of what is bright in each of some columns, by how bright it is; NaN where nothing is."""
    levels = pixels[:, columns, 1].astype(float)
    sums = levels.sum(axis=0)
    return np.where(
        sums > 200, (levels * (np.arange(SIZE.height) + 0.5)[:, None]).sum(axis=0) / np.maximum(sums, 1), np.nan
    )


def sine(times, rate=1.0):
    """What an LFO of this rate says, 0 to 1."""
    return 0.5 - 0.5 * np.cos(2 * np.pi * rate * np.asarray(times))


def heights(values):
    """Where levels stand, in pixels: 180 pixels for all of them, about the middle of the frame."""
    return 180 + 90 - 180 * np.asarray(values)


def test_a_sweep_shows_a_signal_of_one_hertz_within_a_pixel():
    """Two seconds over 320 pixels, from the left: a column is 1/160 s; the head is at 1.5 s of the third sweep."""
    columns = np.arange(164, 396)
    found = middles(picture(scene(), 5.5), columns)
    times = (columns + 0.5 - 160) / 160
    assert np.abs(found - heights(sine(4 + times))).max() < 1
    # Beyond the head the sweep before it is still there, as long as its tail.
    before = np.arange(404, 476)
    assert np.abs(middles(picture(scene(), 5.5), before) - heights(sine(2 + (before + 0.5 - 160) / 160))).max() < 1
    gone = middles(picture(scene(tail_s=1.0), 5.5), before)
    assert np.isnan(gone).all()


def test_a_strip_moves_past_its_head_within_a_pixel():
    columns = np.arange(164, 476)
    for at in (5.0, 5.3):
        found = middles(picture(scene(form="strip", span_s=2), at), columns)
        ages = (480 - columns - 0.5) / 160
        assert np.abs(found - heights(sine(at - ages))).max() < 1


def test_a_ring_and_two_levels_against_each_other_stand_where_they_should():
    ring = picture(scene(form="ring", radius=20, height=10, period=4, tail_s=4), 8.0)
    for angle in (30, 100, 200, 290):
        way = np.array([np.sin(np.deg2rad(angle)), -np.cos(np.deg2rad(angle))])
        reaches = np.arange(50, 140, 0.5)
        levels = [ring[round(180 + way[1] * r - 0.5), round(320 + way[0] * r - 0.5), 1] for r in reaches]
        wanted = (20 + 10 * sine(4 + angle / 90)) * 3.6
        assert np.average(reaches, weights=levels) == pytest.approx(wanted, abs=1.2)
    pair = picture(scene(form="pair", patches=(("level", "s1"), ("level_2", "s2")), tail_s=2), 6.0)
    times = np.linspace(4.05, 5.95, 60)
    x = np.rint(320 + (2 * sine(times) - 1) * 160 - 0.5).astype(int)
    y = np.rint(heights(sine(times, 0.5)) - 0.5).astype(int)
    assert pair[y, x, 1].min() > 120


def test_a_tail_fades_thins_and_takes_its_colours_by_age():
    settings = {
        "form": "strip", "span_s": 4, "tail_s": 4, "fade": 100, "thin": 100, "line": 4,
        "colours": [{"at": 0, "colour": "#ff0000"}, {"at": 1, "colour": "#0000ff"}],
    }  # fmt: skip
    made = scene(patches=(), **settings)
    pixels = picture(made, 8.0)
    sums = pixels[..., [2, 0]].astype(float).sum(axis=0)
    red, blue = sums.T
    whole = red + blue
    assert whole[470] > whole[400] > whole[320] > whole[240] > whole[180] > 0
    assert red[470] > 4 * blue[470] and blue[200] > red[200]


def test_a_layer_is_followed_on_its_way():
    dot = new_layer("shape", form="ellipse", width=2, height=2, plain="#ff0000", x=50, y=50)
    dot["keyframes"] = {
        "x": [{"time_s": 0.0, "value": 20.0}, {"time_s": 4.0, "value": 80.0}],
        "y": [{"time_s": 0.0, "value": 20.0}, {"time_s": 4.0, "value": 80.0}],
    }
    pixels = picture(scene(dot, form="way", source=dot["id"], tail_s=2, patches=()), 4.0)
    for share in np.linspace(0.05, 0.9, 12):
        place = 0.5 + 0.3 * share
        assert pixels[round(360 * place - 0.5), round(640 * place - 0.5), 1] > 120
    assert pixels[:150, :300].max() < 255 or not pixels[:90, :200, 1].any(), "nothing older than the tail"


def test_a_sweep_locks_to_beats_or_says_that_it_cannot():
    def notes(made):
        frame = ProjectView(made, None).at(Fraction(1), SIZE)
        item = frame.shown(made.layers[-1])
        return item.layer.notes(frame.moment(item.layer, item.placed))

    free = scene(unit="beats", period=4)
    (told,) = notes(free)
    assert "no steady beat" in told and "4 s" in told
    assert np.array_equal(picture(free, 5.5), picture(scene(period=4), 5.5))
    assert notes(scene()) == []
    (told,) = notes(scene(patches=()))
    assert "No level moves yet" in told
    (told,) = notes(scene(form="way", patches=()))
    assert "choose the one" in told


def test_traces_stand_in_lanes_or_over_each_other_and_a_grid_is_labelled():
    two = {"lines": 2, "patches": (("level", "s1"), ("level_2", "s1"))}
    apart = picture(scene(stacked="apart", **two), 5.5)
    assert apart[90:180, 200:380, 1].any() and apart[181:270, 200:380, 1].any()
    both, one = picture(scene(**two), 5.5)[..., 1] > 0, picture(scene(), 5.5)[..., 1] > 0
    assert np.array_equal(both, one), "one over the other is the same line"
    plain, ruled, bare = (picture(scene(**more), 5.5) for more in ({}, {"grid": True}, {"grid": True, "labels": False}))
    assert np.abs(bare.astype(int) - plain).sum() > 0
    below = ruled[272:, :, 1].astype(int).sum() - bare[272:, :, 1].astype(int).sum()
    assert below > 1000, "times stand under the field"


def test_frames_are_equal_in_any_order():
    made = scene(fade=80, thin=50, head=3)
    forth = {at: picture(made, at) for at in (0.0, 0.7, 3.3, 9.0)}
    for at in (9.0, 0.0, 3.3, 0.7):
        assert np.array_equal(forth[at], picture(made, at))
