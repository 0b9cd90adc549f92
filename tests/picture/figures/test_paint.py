"""Paint: the colour that stands where it is said to stand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.picture.scenes import drawn, lit
from velvetdrum.declare.oklab import parse_hex, ramp, to_oklab
from velvetdrum.picture.figures.paint.paint import TABLE, Painted
from velvetdrum.picture.figures.paint.palettes import SHIPPED, PaletteError, palette_of, parse_palette
from velvetdrum.picture.raster.canvas import Canvas

FULL = {
    "quiet_db": -120.0,
    "loud_db": -110.0,
    "tilt_db": 0.0,
    "least": 0.0,
    "gap": 0.0,
    "corner": 0.0,
    "bands": 64,
    "attack_ms": 0.0,
}
RED_BLUE = [{"at": 0, "colour": "#ff0000"}, {"at": 1, "colour": "#0000ff"}]


def full(use, **settings):
    """A field of full bars over the whole frame."""
    return drawn(use, "spectrum", **FULL | {"grow": "out", "y": 100.0, "width": 100.0, "reach": 100.0} | settings)


@pytest.mark.parametrize("style", ["bars", "area"])
def test_along_goes_from_the_first_band_to_the_last(use, style):
    row = full(use, style=style, paint="along", colours=RED_BLUE, mix="srgb")[90]
    x = np.array([40, 160, 280])
    assert np.allclose(row[x, 0], 255 * (1 - (x + 0.5) / 320), atol=5)
    assert np.allclose(row[x, 2], 255 * (x + 0.5) / 320, atol=5)


@pytest.mark.parametrize("style", ["bars", "area", "segments"])
def test_by_level_goes_from_the_foot_to_the_full_height(use, style):
    column = full(use, style=style, paint="level", colours=RED_BLUE, mix="srgb", segments=60, segment_gap=0.0)[:, 162]
    y = np.array([20, 90, 160])
    assert np.allclose(column[y, 2], 255 * (1 - (y + 0.5) / 180), atol=6)


@pytest.mark.parametrize(
    ("settings", "places"),
    [
        (
            {"field": "linear", "field_turn": 90.0, "field_size": 320 / 1.8},
            {(0, 90): 0.0, (160, 90): 0.5, (319, 90): 1.0},
        ),
        ({"field": "linear", "field_turn": 0.0, "field_size": 100.0}, {(100, 179): 0.0, (100, 90): 0.5, (100, 0): 1.0}),
        ({"field": "radial", "field_size": 100.0}, {(160, 90): 0.0, (160, 45): 0.5, (205, 90): 0.5, (10, 90): 1.0}),
        ({"field": "angular", "field_turn": 0.0}, {(200, 90): 0.25, (160, 150): 0.5, (100, 90): 0.75}),
    ],
)
def test_a_fixed_field_lies_behind_the_bars(use, settings, places):
    picture = full(use, paint="field", colours=RED_BLUE, mix="srgb", **settings)
    for (x, y), place in places.items():
        assert picture[y, x, 2] == pytest.approx(255 * place, abs=5), (x, y)


def test_four_corners(use):
    picture = full(
        use,
        paint="field",
        field="corners",
        corner_1="#ff0000",
        corner_2="#00ff00",
        corner_3="#0000ff",
        corner_4="#ffffff",
        mix="srgb",
    )
    for (x, y), colour in {
        (0, 0): (255, 0, 0),
        (319, 0): (0, 255, 0),
        (319, 179): (0, 0, 255),
        (0, 179): (255,) * 3,
    }.items():
        assert np.allclose(picture[y, x], colour, atol=6)
    assert np.allclose(picture[90, 160], (127, 127, 127), atol=4)


def test_over_time_and_drift_are_turns_a_minute(use):
    # Six turns a minute: after 2.5 s a quarter, which there and back is the gradient's middle.
    at = {"paint": "time", "drift": 6.0, "colours": RED_BLUE, "mix": "srgb"}
    assert full(use, at=0, **at)[90, 160].tolist() == [255, 0, 0]
    assert np.allclose(full(use, at=2.5, **at)[90, 160], (127, 0, 127), atol=2)
    assert np.allclose(full(use, at=5.0, **at)[90, 160], (0, 0, 255), atol=2)
    steps = full(use, at=2.5, paint="along", drift=6.0, steps="steps", colours=RED_BLUE)[90]
    assert set(map(tuple, steps.tolist())) <= {(255, 0, 0), (0, 0, 255)}


def test_hard_steps_hold_each_colour(use):
    stops = [{"at": 0, "colour": "#ff0000"}, {"at": 0.5, "colour": "#00ff00"}]
    row = full(use, paint="along", steps="steps", colours=stops)[90]
    assert row[80].tolist() == [255, 0, 0] and row[240].tolist() == [0, 255, 0]


def test_hue_turns_across_the_figure_and_keeps_lightness_and_chroma(use):
    row = full(use, paint="one", plain="#c06a72", hue=180.0)[90]
    labs = to_oklab(row[[2, 160, 317]] / 255)
    start = to_oklab(parse_hex("#c06a72"))
    assert np.allclose(labs[:, 0], start[0], atol=0.01)
    angles = np.rad2deg(np.unwrap(np.arctan2(labs[:, 2], labs[:, 1]))) - np.rad2deg(np.arctan2(start[2], start[1]))
    assert np.allclose(angles, [1.4, 90, 178.6], atol=3)
    mirrored = full(use, paint="one", plain="#c06a72", hue=180.0, hue_back=True)[90]
    assert np.allclose(mirrored[2], mirrored[317], atol=3)


def test_hues_drift_by_turns_a_minute(use):
    drifting = {"paint": "one", "plain": "#c06a72", "hue_drift": 20.0}
    start, quarter, whole = (to_oklab(full(use, at=at, **drifting)[90, 160] / 255) for at in (0.0, 0.75, 3.0))
    angle = np.rad2deg(np.arctan2(quarter[2], quarter[1]) - np.arctan2(start[2], start[1]))
    assert angle % 360 == pytest.approx(90, abs=3)
    assert np.allclose(start, whole, atol=0.01)


def test_there_and_back_has_no_seam_on_a_ring(use):
    picture = drawn(use, "spectrum", base="ring", back=True, reach=12.0, grow="out", **FULL | {"bands": 200})
    left, right = picture[30, 157], picture[30, 162]
    assert lit(picture)[30, 160]
    assert np.abs(left - right).max() < 25


def test_oklab_and_srgb_are_those_of_the_ramp(use):
    for mix in ("oklab", "srgb"):
        middle = full(use, paint="along", colours=RED_BLUE, mix=mix, bands=65)[90, 160]
        expected = ramp(((0.0, "#ff0000"), (1.0, "#0000ff")), 3, mix)[1] * 255
        assert np.allclose(middle, expected, atol=2)


def test_translucent_bars_of_one_colour_do_not_show_where_they_overlap(use):
    common = FULL | {"bands": 40, "gap": 0.0}
    picture = drawn(
        use,
        "spectrum",
        base="ring",
        grow="in",
        radius=20.0,
        reach=15.0,
        paint="one",
        plain="#ffffff",
        opacity=50.0,
        **common,
    )
    assert picture.max() in (127, 128)


def test_soft_edges_fade_over_their_width(use):
    hard, soft = (
        full(use, width=40.0, paint="one", plain="#ffffff", softness=softness)[90, :, 0] for softness in (0.0, 8.0)
    )
    assert ((hard > 10) & (hard < 245)).sum() <= 4
    assert ((soft > 10) & (soft < 245)).sum() > 12
    assert abs(int(soft[96]) - 127) < 40


@given(st.floats(0, 1), st.booleans(), st.booleans(), st.floats(-60, 60), st.floats(0, 500))
def test_a_table_is_always_made_of_the_gradients_colours(place, back, steps, drift, time):
    layer = Painted({"back": back, "steps": "steps" if steps else "smooth", "drift": drift, "paint": "along"})
    table = layer.ink(Canvas(64, 64), time).table()
    assert table.shape == (TABLE, 3) and table.min() >= 0 and table.max() <= 1
    known = ramp(layer.colours, 4 * TABLE, "oklab", steps)
    assert np.abs(known - table[round(place * (TABLE - 1))]).sum(axis=1).min() < 1e-9


@pytest.mark.parametrize(
    ("text", "stops"),
    [
        ("red, gold , #5fc4b4", ((0, "#ff0000"), (0.5, "#ffd700"), (1, "#5fc4b4"))),
        ("#fff #000", ((0, "#ffffff"), (1, "#000000"))),
        (
            "linear-gradient(90deg, red, blue 30% 60%, lime)",
            ((0, "#ff0000"), (0.3, "#0000ff"), (0.6, "#0000ff"), (1, "#00ff00")),
        ),
        ("background: radial-gradient(circle at 50%, #111, #222)", ((0, "#111111"), (1, "#222222"))),
        ("conic-gradient(from 20deg, red 0deg, lime 1turn)", ((0, "#ff0000"), (1, "#00ff00"))),
        ("linear-gradient(red 60%, blue 20%)", ((0.6, "#ff0000"), (0.6, "#0000ff"))),
        ("hsl(120deg 100% 25%)", ((0, "#008000"),)),
    ],
)
def test_css_becomes_stops(text, stops):
    assert parse_palette(text) == stops


@given(st.text(max_size=80))
def test_any_text_is_a_palette_or_refused(text):
    try:
        stops = parse_palette(text)
    except PaletteError:
        return
    assert all(0 <= place <= 1 and parse_hex(colour).shape == (3,) for place, colour in stops)


def test_a_pictures_palette_leaves_out_what_is_clear():
    picture = np.zeros((30, 30, 4), np.uint8)
    picture[:10] = (0, 0, 255, 255)
    assert palette_of(picture, 4) == ((0.0, "#ff0000"),)
    with pytest.raises(PaletteError, match="transparent"):
        palette_of(np.zeros((9, 9, 4), np.uint8))
    assert all(len(colours) > 2 for colours in SHIPPED.values())
