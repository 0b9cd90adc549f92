"""Gradients whose stops have an opacity: a fade to nothing is what a mask that fades as far would leave."""

from fractions import Fraction

import numpy as np
import pytest

from tests.picture.figures.test_paint import full
from tests.picture.scenes import SMALL, black, project
from velvetdrum.declare.oklab import opacity_ramp, parse_hex, ramp
from velvetdrum.declare.settings import SettingError, parse_stops
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.kinds import LAYER_KINDS

WIDTH, HEIGHT = 320, 180
SOLID = [{"at": 0, "colour": "#e0ac55"}, {"at": 1, "colour": "#e0ac55"}]
FADE = [{"at": 0, "colour": "#e0ac55"}, {"at": 1, "colour": "#e0ac5500"}]
ACROSS = {"paint": "field", "field": "linear", "field_turn": 90.0, "field_size": 100 * WIDTH / HEIGHT}
SOME = {
    "spectrum": {"quiet_db": -120.0, "loud_db": -110.0, "tilt_db": 0.0, "y": 90.0, "width": 90.0},
    "shape": {"size": 80.0},
    "progress": {"ground_opacity": 0.0, "head": False, "cap": "flat"},
    "meter": {"zones": "off", "low_db": -90.0, "scale": False, "stands": "lying", "length": 150.0, "hold": False},
    "text": {"text": "Quay", "size": 40.0, "shadow": 0.0},
    "phase": {},
}


def alpha(places):
    return 1 - places


@pytest.mark.parametrize("kind", sorted(set(LAYER_KINDS) & set(SOME)))
def test_a_fade_across_the_frame_is_what_a_mask_leaves(use, kind):
    solid, fade = (
        render(
            project(black(), new_layer(kind, **SOME[kind], **ACROSS, colours=colours), frame=SMALL),
            use,
            Fraction(3),
            SMALL,
        )[..., 2::-1].astype(int)
        for colours in (SOLID, FADE)
    )
    assert solid.max() > 150
    expected = solid * alpha((np.arange(WIDTH) + 0.5) / WIDTH)[None, :, None]
    assert np.abs(fade - expected).max() <= 3


@pytest.mark.parametrize("style", ["bars", "area", "segments"])
@pytest.mark.parametrize("paint", ["along", "level"])
def test_items_fade_by_place_and_by_level(use, style, paint):
    settings = {"style": style, "paint": paint, "segments": 60, "segment_gap": 0.0}
    solid, fade = full(use, **settings, colours=SOLID), full(use, **settings, colours=FADE)
    if paint == "along":
        part = ((np.arange(WIDTH) + 0.5) / WIDTH)[None, :, None]
    else:
        part = (1 - (np.arange(HEIGHT) + 0.5) / HEIGHT)[:, None, None]
    # A bar has one colour along the row, a segment one up the column.
    step = 255 / 64 if (paint, style) == ("along", "bars") else 255 / 60 if style == "segments" else 3
    assert np.abs(fade - solid * alpha(part)).mean() <= max(1.5, step / 2)


@pytest.mark.parametrize("fill", ["linear", "radial", "angular"])
def test_a_backdrop_lets_what_is_behind_it_through(use, fill):
    wall = new_layer("backdrop", fill="plain", plain="#ffffff")
    place = {"fill": fill, "start_x": 0, "start_y": 50, "end_x": 100, "end_y": 50}

    def over_white(colours):
        made = project(wall, new_layer("backdrop", **place, colours=colours), frame=SMALL)
        return render(made, use, Fraction(1), SMALL)[..., 2::-1].astype(float)

    solid, fade = over_white(SOLID), over_white(FADE)
    clear = over_white([{"at": 0, "colour": "#ff000000"}, {"at": 1, "colour": "#ff000000"}])
    assert (clear == 255).all()
    shares = (255 - fade) / np.maximum(255 - solid, 1e-6)
    if fill == "linear":
        expected = np.broadcast_to(alpha((np.arange(WIDTH) + 0.5) / WIDTH)[None, :, None], fade.shape)
        assert np.abs(fade - (solid * expected + 255 * (1 - expected))).max() <= 3
    assert shares[..., 2].min() < 0.1 and shares[..., 2].max() > 0.9


def test_what_is_clear_lends_no_colour():
    """CSS Color 4: colours are mixed premultiplied, so red that fades to clear green stays red."""
    stops = ((0.0, "#ff0000"), (1.0, "#00ff0000"))
    assert np.allclose(ramp(stops, 9, "srgb")[:8], parse_hex("#ff0000"))
    assert np.allclose(opacity_ramp(stops, 9), np.linspace(1, 0, 9))
    assert opacity_ramp(((0.0, "#ff0000"), (1.0, "#00ff00")), 9) is None
    half = opacity_ramp(((0.0, "#ff000080"), (0.5, "#ff0000")), 5, steps=True)
    assert half == pytest.approx([128 / 255, 128 / 255, 1, 1, 1])


def test_only_gradients_that_can_be_clear_take_an_opacity():
    assert parse_stops([{"at": 0, "colour": "#AABBCCFF"}], "It", clear=True) == ((0.0, "#aabbcc"),)
    assert parse_stops([{"at": 0, "colour": "#aabbcc80"}], "It", clear=True) == ((0.0, "#aabbcc80"),)
    with pytest.raises(SettingError, match="colour like"):
        parse_stops([{"at": 0, "colour": "#aabbcc80"}], "It")
