"""What leads and bounds particles, and layers as their pictures, against closed forms and step-by-step references."""

from __future__ import annotations

from fractions import Fraction

import cv2
import numpy as np
import pytest

from tests.picture.scenes import black, project
from velvetdrum.picture.figures.emission.motion import attracted, bounced, folded
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.frames import FrameSize

SIZE = FrameSize(400, 400)
PLAIN = {
    "form": "disc", "life": 2.0, "life_spread": 0, "speed": 0, "speed_spread": 0, "wander": 0, "drag": 0, "dot": 2,
    "dot_spread": 0, "base": "ring", "radius": 0.5, "rate": 60, "adds": False,
    "size_life": [{"at": 0, "value": 100}, {"at": 1, "value": 100}],
    "opacity_life": [{"at": 0, "value": 100}, {"at": 1, "value": 100}],
}  # fmt: skip


def scene(*others, keyframes=None, **settings):
    made = new_layer("particles", **(PLAIN | settings)) | {"keyframes": keyframes or {}}
    return project(black(), *others, made, frame=SIZE)


def places(made, at=4.0):
    """Where particles are in pixels and how old, of the front layer."""
    frame = ProjectView(made, None).at(Fraction(at).limit_denominator(1000), SIZE)
    item = frame.shown(made.layers[-1])
    moment = frame.moment(item.layer, item.placed)
    from velvetdrum.picture.raster.viewport import Viewport

    view = Viewport(SIZE.width, SIZE.height)
    born = item.layer.born(moment)
    where, share, _ = item.layer.flights(view, born, moment)
    alive = (share >= 0) & (share < 1)
    return where[alive, :2] * 4 + 200, born.ages[alive]


def picture(made, at=4.0):
    return render(made, None, Fraction(at).limit_denominator(1000), SIZE).copy()


def test_an_emitter_that_moves_leaves_its_particles_along_its_way():
    """30 % of the width in a second: those that are a second old lie 120 pixels behind."""
    way = {"x": [{"time_s": 3.0, "value": 20.0}, {"time_s": 4.0, "value": 50.0}]}
    trail, ages = places(scene(keyframes=way, stays=True))
    wanted = np.where(ages < 1, 200 - 120 * ages, 80)
    assert np.abs(trail[:, 0] - wanted).max() < 4
    carried, _ = places(scene(keyframes=way))
    assert np.abs(carried[:, 0] - 200).max() < 4
    # With how large and how far turned the shape was then.
    grown = {"radius": [{"time_s": 2.0, "value": 10.0}, {"time_s": 4.0, "value": 30.0}]}
    rings, ages = places(scene(keyframes=grown, stays=True))
    assert np.hypot(*(rings - 200).T) == pytest.approx((30 - 10 * ages) * 4, abs=1)


def test_particles_are_there_from_the_start_where_they_had_run_before():
    assert len(places(scene(), 0.0)[1]) <= 1
    now, ages = places(scene(before_s=5), 0.0)
    assert len(now) == pytest.approx(120, abs=2) and ages.max() == pytest.approx(2, abs=0.05)


@pytest.mark.parametrize("kept", [0.0, 0.3, 0.7, 0.95, 1.0])
def test_a_floor_throws_back_as_it_does_step_by_step(kept):
    """Against steps of 20 microseconds with a bounce in each that passes the floor."""
    start, speed, gravity, floor, step = -30.0, -20.0, 100.0, 20.0, 2e-5
    y, v, reference = start, speed, []
    for count in range(1, 150_001):
        y, v = y + v * step + gravity * step**2 / 2, v + gravity * step
        if y > floor:
            y, v = floor - (y - floor) * kept, -v * kept
        if count % 7500 == 0:
            reference.append(min(y, floor))
    times = np.arange(1, 21) * 0.15
    found = bounced(np.full(20, start), np.full(20, speed), gravity, floor, kept, times)
    assert found == pytest.approx(np.array(reference), abs=0.15)
    assert found.max() <= floor + 1e-9


def test_walls_fold_a_way_and_attraction_ends_at_its_target():
    values = np.array([-5.0, 0.0, 9.0, 11.0, 25.0, 31.0])
    assert folded(values, 0.0, 10.0) == pytest.approx([5, 0, 9, 9, 5, 9])
    start = np.array([[10.0, 0.0, 3.0]])
    half = attracted(start, np.array([[0.0, 4.0]]), 1.0, np.array([np.log(2)]))
    assert half == pytest.approx(np.array([[5.0, 2.0, 3.0]]))


def test_particles_stay_within_the_frame_and_above_a_floor():
    flying = {"speed": 120, "heading": "any"}
    walled, _ = places(scene(walls="frame", **flying))
    assert walled.min() >= 0 and walled.max() <= 400
    assert places(scene(**flying))[0].max() > 420
    fallen, _ = places(scene(walls="floor", floor=75, gravity=200, bounce=50, **flying))
    assert fallen[:, 1].max() <= 300 + 1e-6


def test_particles_are_drawn_to_a_point_and_to_an_outline():
    to_point, ages = places(scene(attract_to="point", attract_x=90, attract_y=50, attract=3))
    assert to_point[:, 0] == pytest.approx(200 + 160 * (1 - np.exp(-3 * ages)), abs=3)
    square = new_layer("shape", form="rectangle", width=50, height=50, plain="#000000")
    near, ages = places(scene(square, attract_to="layer", attract_layer=square["id"], attract=8))
    old = near[ages > 1.5] - 200
    # All lie on the edge of the square of 200 pixels.
    assert np.abs(np.abs(old).max(axis=1) - 100).max() < 3
    assert np.ptp(old, axis=0).min() > 180


def test_a_layer_is_the_picture_of_each_particle_now_or_by_its_age():
    growing = new_layer("shape", form="ellipse", width=10, height=10, plain="#00ff00") | {
        "visible": False,
        "keyframes": {"plain": [{"time_s": 0.0, "value": "#ff0000"}, {"time_s": 2.0, "value": "#0000ff"}]},
    }
    flying = {
        "form": "instance", "picture_layer": growing["id"], "tint": "none", "dot": 6, "rate": 4, "even": True, "base": "line",
        "width": 100, "life": 2, "colours": [{"at": 0, "colour": "#ffffff"}, {"at": 1, "colour": "#ffffff"}],
    }  # fmt: skip
    now = picture(scene(growing, **flying), 1.0)
    shown = now[now[..., 3] > 0][:, :3]
    bright = shown[shown.max(axis=1) > 60]
    assert np.ptp(bright[:, 0].astype(int) - bright[:, 2]) < 60, "all show the layer as it is now"
    aged = picture(scene(growing, picture_time="age", **flying), 3.0)
    count, _, _, middles = cv2.connectedComponentsWithStats((aged[..., :3].max(axis=2) > 60).astype(np.uint8))
    colours = {tuple((aged[round(y), round(x), [2, 0]] // 48).tolist()) for x, y in middles[1:count]}
    assert len(colours) >= 4, "each shows it as it is at its age"
    assert np.array_equal(aged, picture(scene(growing, picture_time="age", **flying), 3.0))


def test_spins_and_starting_angles_are_spread():
    bars = {"form": "streak", "dot": 10, "rate": 20, "radius": 30}
    plain = picture(scene(**(bars | {"form": "square"})))
    turned = picture(scene(**(bars | {"form": "square", "start_angle": 45})))
    spread = picture(scene(**(bars | {"form": "square", "start_spread": 90})))
    spun = picture(scene(**(bars | {"form": "square", "turning": 90})))
    spun_apart = picture(scene(**(bars | {"form": "square", "turning": 90, "turning_spread": 80})))
    pictures = [plain, turned, spread, spun, spun_apart]
    assert all(not np.array_equal(a, b) for i, a in enumerate(pictures) for b in pictures[:i])
