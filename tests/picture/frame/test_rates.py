"""Rates: what they drive moves by their integral, never by their value times the time."""

import math
import re
from fractions import Fraction

import numpy as np
import pytest

from tests.picture.media.clips import numbered, write_clip
from tests.picture.rate_scenes import LATE_S, SCENES, UNSEEN, declared_rates, frames_of, project_of, steps_of
from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.parts import PART_SORTS
from velvetdrum.signals.births import STEP_S
from velvetdrum.signals.rates import RateIntegral

AGED = "counts from the birth of a particle, whose age ends"
HELD = "how fast a level falls, solved ahead"
PITCH = "a frequency of sound, or a slope over frequencies"
NO_RATES = {
    **dict.fromkeys(["low_hz", "high_hz", "tilt_db"], PITCH),
    **dict.fromkeys(["gravity", "drag", "wind", "orbit", "wander_rate", "turning", "attract"], AGED),
    **dict.fromkeys(["fall_db_s", "hold_fall_db_s", "cap_fall"], HELD),
    ("particles", "speed"): AGED,
}
PER_TIME = re.compile(r"/(s|min)²?$|^1/s$|Hz$|turns|dB/oct")


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    """Two seconds of numbered frames."""
    return write_clip(tmp_path_factory.mktemp("clip") / "clip.mp4", 50, frames=numbered)


@pytest.fixture(scope="module")
def pattern(tmp_path_factory):
    """A clip that stands still: waves both ways, alike everywhere."""
    y, x = np.mgrid[:180, :320]
    pixels = (127 + 60 * np.sin(x / 6) + 60 * np.sin(y / 6)).astype(np.uint8)
    still = np.repeat(pixels[..., None], 3, axis=2)
    return write_clip(tmp_path_factory.mktemp("clip") / "pattern.mp4", 4, frames=lambda _: still)


def test_every_setting_with_a_unit_per_time_is_a_rate_or_says_why_not():
    kinds = {**LAYER_KINDS, **{f"{s.name}:{k}": cls for s in PART_SORTS.values() for k, cls in s.kinds.items()}}
    for kind, cls in kinds.items():
        for name, setting in cls.settings.items():
            if PER_TIME.search(setting.unit) and not setting.per_time:
                assert name in NO_RATES or (kind, name) in NO_RATES, (kind, name, setting.unit)


def test_every_rate_has_its_scene():
    painted = {("shape", "drift"), ("shape", "hue_drift")}
    declared = {(kind, name) for kind, name in declared_rates() if name not in ("drift", "hue_drift")} | painted
    assert declared == set(SCENES)


@pytest.mark.parametrize(("kind", "name"), [scene for scene in SCENES if scene not in UNSEEN])
def test_a_step_is_as_large_late_as_it_is_early(kind, name, clip, pattern):
    shown = clip if name == "speed" else pattern
    early, late = steps_of(kind, name, shown if kind == "footage" else None)
    assert early > 0.01
    assert late == pytest.approx(early, rel=0.1)


@pytest.mark.parametrize(("kind", "name"), [("shape", "drift"), ("haze", "boil"), ("effect:wave", "speed")])
def test_frames_are_equal_in_any_order(kind, name):
    project = project_of(kind, name)
    forward = frames_of(project, LATE_S, 5)
    alone = frames_of(project, LATE_S + 4 / 24, 1)[0]
    assert np.array_equal(forward[4], alone)


@pytest.mark.parametrize(("kind", "name"), [scene for scene in SCENES if scene not in UNSEEN and scene[0] != "footage"])
def test_a_rate_that_is_held_by_a_signal_looks_as_a_constant_one(kind, name):
    """The integral of what stays is the value times the time, as it always was."""
    scene = SCENES[kind, name]
    middle = (scene.low + scene.high) / 2
    still = project_of(kind, name, moved=False, **{name: middle})
    kept = project_of(kind, name)
    (layer,) = [placed for placed in kept.layers if placed.patches]
    patch = layer.patches[0]
    object.__setattr__(layer, "patches", (type(patch)(**{**vars(patch), "low": middle, "high": middle}),))
    for time in (2, 9.5, LATE_S):
        one, other = (frames_of(project, time, 1)[0] for project in (still, kept))
        assert np.abs(one - other).max() <= 2


def test_the_integral_is_exact_for_straight_lines_and_jumps_and_near_for_waves():
    line = RateIntegral.of(lambda t: 2.0 + 0.5 * t, 10.0)
    times = np.array([0.0, 0.0031, 1.7, 9.99])
    assert line.at(times) == pytest.approx(2 * times + 0.25 * times**2, abs=1e-9)
    jump = RateIntegral.of(lambda t: np.where(t < 3.00417, 1.0, 5.0), 10.0, [3.00417])
    assert jump.between(0, 7) == pytest.approx(3.00417 + 5 * (7 - 3.00417), abs=1e-6)
    wave = RateIntegral.of(lambda t: np.sin(2 * math.pi * t), 180.0)
    assert wave.between(0.0, 170.25) == pytest.approx(1 / (2 * math.pi), abs=1e-4)
    # Beyond its ends the rate is as there.
    assert line.at(np.array([-2.0]))[0] == pytest.approx(-4.0)
    assert line.between(10.0 + 2 * STEP_S, 20.0) == pytest.approx((20 - 10 - 2 * STEP_S) * line.rates[-1], rel=1e-6)


def test_a_clock_of_its_own_goes_on_in_place_of_seconds():
    bars = RateIntegral.of(lambda t: np.full(len(t), 3.0), 8.0, clock=lambda t: t / 2)
    assert bars.between(0.0, 4.0) == pytest.approx(12.0)


def test_a_camera_that_goes_round_by_bars_does_not_jump():
    project = project_of("space", "orbit_turns", orbit_per="bar")
    view = ProjectView(project, None)
    (space,) = [placed for placed in project.layers if placed.patches]
    curves = SettingCurves(space, view.signals, "wide", view.solved)
    run = curves.integral("orbit_turns", project.length_s, lambda times: times / 2, "bar")
    early, late = (run.between(at, at + 1 / 48) for at in (1.0, 85.0))
    assert late == pytest.approx(early, rel=1e-3)


def test_ten_thousand_turns_a_second_are_drawn():
    project = project_of("shape", "drift", drift=LAYER_KINDS["shape"].settings["drift"].hi)
    (frame,) = frames_of(project, LATE_S, 1)
    assert np.isfinite(frame).all()
    extreme = RateIntegral.of(lambda t: np.full(len(t), 1e4), 180.0)
    assert extreme.between(0, 170) == pytest.approx(1.7e6)


def test_a_zoom_goes_on_at_the_pace_of_its_rate():
    project = project_of("footage", "zoom_rate", "c" * 64)
    view = ProjectView(project, None)
    layer = view.at(Fraction(LATE_S), project.frame).shown(project.layers[0]).layer
    early, late = (layer.integral("zoom_rate", at + 1 / 24, at) for at in (2.0, float(LATE_S)))
    assert late == pytest.approx(early, rel=1e-4)
    assert layer.integral("zoom_rate", 60.0) == pytest.approx(40 * 60, rel=1e-3)


def test_the_speed_of_a_clip_is_integrated_in_picture_and_sound(clip):
    project = project_of("footage", "speed", "c" * 64)
    view = ProjectView(project, None, {"c" * 64: str(clip)})
    frame = view.at(Fraction(170), project.frame)
    layer = frame.shown(project.layers[0]).layer
    timing = layer.timing(0.0, 2.0, 0.0)
    mean = 1.1  # between 20 and 200 per cent, by a sine
    expected = (170 * mean) % 2.0
    assert timing.source(np.array([170.0]))[0] == pytest.approx(expected, abs=0.02)
    step = timing.source(np.array([170.0, 170.0 + 1 / 24]))
    assert np.diff(step)[0] == pytest.approx(layer.speed / 100 / 24, rel=0.05)
