"""Pictures that hold nothing fine, drawn at half the frame's size in a quick export, beside the exact ones."""

from fractions import Fraction

import numpy as np
import pytest

from tests.picture.scenes import SMALL, black, project
from velvetdrum.picture.frame.render import HALVED_FROM, ProjectView
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import new_layer, new_patch
from velvetdrum.scene.effects import EFFECT_KINDS, new_effect
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.signal_part import new_signal

KEEPING = sorted(kind for kind, effect in EFFECT_KINDS.items() if effect.keeps_blur)
LEAST_DB = 40.0


def scene(*layers):
    """Layers of which the last one sways from side to side."""
    sway = new_signal("lfo", "Sway", rate_hz=0.7)
    *rest, last = layers
    last["patches"] = [new_patch("move_x", sway, -5.0, 5.0)]
    return project(*rest, last, signals=[sway])


def drawn(document, quick, at=2.0, size=SMALL):
    canvas = Canvas(size.width, size.height)
    ProjectView(document, None, quick=quick).at(Fraction(at).limit_denominator(10_000), size).draw_frame(canvas)
    return canvas.pixels[..., :3].astype(float)


def halved(document, size=SMALL):
    stage = ProjectView(document, None, quick=True).at(Fraction(2), size)
    canvas = Canvas(size.width, size.height)
    return [stage._part(canvas, stage.shown(placed)).halved for placed in document.layers]


def decibels(one, other):
    """Peak signal-to-noise ratio."""
    return 10 * np.log10(255**2 / max(((one - other) ** 2).mean(), 1e-9))


def soft(*effects, **given):
    """A blurred ring that grows, in a colour of its own."""
    ring = new_layer("shape", "Ring", paint="one", plain="#e0ac55", **{"form": "ring", "width": 60.0} | given)
    sigma = 1.6 * HALVED_FROM / SMALL.height * 100
    return ring | {"effects": [new_effect("soft-blur", radius=sigma), *effects]}


@pytest.mark.parametrize("kind", KEEPING)
def test_what_keeps_a_blur_is_near_to_the_exact_picture(kind):
    document = scene(black(), soft(new_effect(kind)))
    assert halved(document) == [False, True]
    exact, quick = drawn(document, False), drawn(document, True)
    assert exact.max() > 40 and LEAST_DB <= decibels(exact, quick) < 80


@pytest.mark.parametrize(
    "layer",
    [
        new_layer("haze"),
        soft(scale_x=60.0, scale_y=60.0, spin=20.0, opacity=50.0),
        new_layer("shape", "Lines", form="star", paint="one", plain="#ffffff")
        | {"effects": [new_effect("light-rays", what="light", length=60)]},
    ],
    ids=["haze", "placed", "rays"],
)
def test_soft_kinds_are_near_to_the_exact_picture(layer):
    document = scene(black(), layer)
    assert halved(document) == [False, True]
    assert decibels(drawn(document, False), drawn(document, True)) >= LEAST_DB


def test_a_flare_is_near_where_its_streak_is_wide_enough():
    document, large = scene(black(), new_layer("flare", facets=8, blend="plus-lighter")), FrameSize(960, 540)
    assert halved(document) == [False, False] and halved(document, large) == [False, True]
    assert decibels(drawn(document, False, size=large), drawn(document, True, size=large)) >= LEAST_DB


@pytest.mark.parametrize(
    "layer",
    [
        new_layer("shape"),
        soft(new_effect("grain")),
        soft(new_effect("soft-blur", radius=3.0, strength=60)) | {"effects": [new_effect("soft-blur", strength=60)]},
        soft(new_effect("glow")),
        new_layer("whole-picture") | {"effects": [new_effect("soft-blur", radius=5.0)]},
    ],
    ids=["sharp", "grain", "half a blur", "glow", "what is behind"],
)
def test_what_may_hold_something_fine_is_drawn_as_ever(layer):
    document = scene(black(), new_layer("spectrum"), layer)
    assert not any(halved(document))
    assert np.array_equal(drawn(document, False), drawn(document, True))


def test_what_rests_is_made_once_at_its_full_size():
    document = project(black(), soft())
    assert not any(halved(document))
    assert np.array_equal(drawn(document, False), drawn(document, True))


def test_frames_are_equal_in_any_order():
    document = scene(black(), new_layer("haze"), soft(new_effect("wave")))
    view, canvas = ProjectView(document, None, quick=True), Canvas(SMALL.width, SMALL.height)
    result = []
    for time in (0.3, 3.0, 0.7, 0.3):
        view.at(Fraction(time).limit_denominator(100), SMALL).draw_frame(canvas)
        result.append(canvas.pixels[..., :3].copy())
    assert np.array_equal(result[0], result[3]) and not np.array_equal(result[0], result[1])
    assert np.array_equal(result[2], drawn(document, True, at=0.7))


def test_light_that_moves_by_tenths_of_a_pixel_does_not_shimmer():
    sums = []
    for tenth in range(21):
        place = 50 + tenth / 10 / SMALL.width * 100
        dot = soft(form="ellipse", x=place, width=4.0, height=4.0)
        sums.append(drawn(scene(black(), dot), True).sum())
    assert np.ptp(sums) <= 0.02 * np.mean(sums)
