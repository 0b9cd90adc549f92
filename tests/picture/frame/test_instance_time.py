"""An instance shows its layer later, earlier, held, backward: byte for byte what the layer is at that time."""

from fractions import Fraction

import numpy as np
import pytest

from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_document, new_layer, new_patch, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.signal_part import new_signal

SIZE = FrameSize(128, 72)
LENGTH_S = 8.0
MOVED = {
    "keyframes": {"x": [{"time_s": 0.0, "value": 10, "ease": "linear"}, {"time_s": 8.0, "value": 90, "ease": "linear"}]}
}


def picture(at, *layers, signals=()):
    made = new_document("Later", frame=SIZE, rate=Fraction(30), layers=list(layers), signals=list(signals))
    return render(parse({**made, "length_s": LENGTH_S}), None, Fraction(at).limit_denominator(48_000), SIZE).copy()


def shape(visible=True, **more):
    return new_layer("shape", width=12, height=30) | {"id": "a", "visible": visible} | MOVED | more


def instance(**settings):
    return new_layer("instance", source="a", **settings) | {"id": "b"}


@pytest.mark.parametrize(
    ("settings", "at", "then"),
    [
        ({"delay_s": 1.5}, 4.0, 2.5),
        ({"delay_s": -2.0}, 4.0, 6.0),
        ({"delay_s": 1 / 30}, 4.0, 4.0 - 1 / 30),
        ({"runs": "held", "held_s": 3.25}, 6.0, 3.25),
        ({"runs": "back"}, 6.0, 2.0),
        ({"runs": "back", "delay_s": 0.5}, 6.0, 1.5),
        ({}, 6.0, 6.0),
    ],
)
def test_it_is_what_the_layer_was_then(settings, at, then):
    hidden = shape(visible=False)
    assert np.array_equal(picture(at, hidden, instance(**settings)), picture(then, shape()))


def test_both_are_seen_at_once_each_at_its_time():
    both = picture(4.0, shape(), instance(delay_s=1.0))
    alone, before = picture(4.0, shape()), picture(3.0, shape())
    assert np.array_equal(both, np.maximum(alone, before))


def test_a_held_time_that_is_keyed_runs_the_layer_as_one_likes():
    keys = [{"time_s": 0.0, "value": 8, "ease": "linear"}, {"time_s": 8.0, "value": 0, "ease": "linear"}]
    again = instance(runs="held") | {"keyframes": {"held_s": keys}}
    assert np.array_equal(picture(2.0, shape(visible=False), again), picture(6.0, shape()))


def test_a_signal_moves_how_much_later_it_is():
    hit = new_signal("lfo", "Sway", shape="square", rate_hz=0.25)
    again = instance() | {"patches": [new_patch("delay_s", hit, 0.0, 2.0)]}
    shown = [picture(at, shape(visible=False), again, signals=[hit]) for at in (1.0, 3.0)]
    expected = [picture(then, shape()) for then in (1.0, 3.0, -1.0, 1.0)]
    assert all(any(np.array_equal(one, other) for other in expected) for one in shown)


def test_one_of_an_instance_goes_through_both_delays():
    twice = new_layer("instance", source="b", delay_s=1.0) | {"id": "c"}
    hidden = shape(visible=False), instance(delay_s=2.0) | {"visible": False}
    assert np.array_equal(picture(5.0, *hidden, twice), picture(2.0, shape()))


def test_frames_are_equal_in_any_order():
    scene = shape(), instance(delay_s=0.7)
    first = picture(3.0, *scene)
    picture(6.0, *scene)
    assert np.array_equal(picture(3.0, *scene), first)
