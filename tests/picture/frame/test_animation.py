"""Patched settings: numbers, colours and gradients as signals move them."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from velvetdrum.declare.oklab import from_oklab, parse_hex, ramp, to_oklab
from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.picture.frame.animation import resolve_layer
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.layers.backdrop import Backdrop
from velvetdrum.picture.layers.spectrum import Spectrum
from velvetdrum.scene.document import new_document, new_layer, new_patch, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.keyframes import Keyframe
from velvetdrum.scene.patches import Patch
from velvetdrum.scene.placed_layers import PlacedLayer
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.signals.signal_set import NamedSignal, SignalSet

SMALL = FrameSize(320, 180)
# Rises from 0 to 1 over ten seconds.
RISE = SignalSet(
    (NamedSignal("rise", "Rise", "#ff7a66", SIGNAL_KINDS["lfo"]({"shape": "saw", "rate_hz": 0.1})),),
    BeatSettings({}),
    None,
    10.0,
)


def at(time, *patches, kind=Spectrum, **settings):
    return resolve_layer(PlacedLayer("l", "L", True, kind(settings), tuple(patches)), RISE, Fraction(time), "wide")[0]


def patch(setting, low, high, join="replace", on=True, lag_ms=0.0, along=()):
    return Patch(setting, "rise", low, high, join, on, lag_ms, along)


@pytest.mark.parametrize(
    ("join", "low", "high", "expected"),
    [("replace", 10.0, 30.0, 20.0), ("add", -10.0, 30.0, 60.0), ("multiply", 0.5, 1.5, 50.0)],
)
def test_a_number_moves_between_its_two_ends(join, low, high, expected):
    assert at(5, patch("reach", low, high, join), reach=50.0).reach == pytest.approx(expected, abs=1e-3)


def test_patches_apply_in_their_order_and_stay_in_range():
    add, double = patch("reach", 10.0, 10.0, "add"), patch("reach", 2.0, 2.0, "multiply")
    assert at(5, add, double, reach=20.0).reach == 60.0
    assert at(5, double, add, reach=20.0).reach == 50.0
    assert at(5, patch("reach", 0.0, 500.0, "add"), reach=20.0).reach == Spectrum.settings["reach"].hi
    assert at(5, patch("reach", 1.0, 2.0, on=False), reach=20.0).reach == 20.0


def test_whole_numbers_stay_whole_and_lags_move():
    assert at(5, patch("bands", 10.0, 21.0)).bands in (15, 16)
    assert isinstance(at(5, patch("bands", 10.0, 21.0)).bands, int)
    assert at(5, patch("reach", 0.0, 100.0, lag_ms=1000)).reach == pytest.approx(40, abs=1e-3)


def test_colours_move_evenly_to_the_eye_or_along_a_gradient():
    middle = at(5, patch("plain", "#ff0000", "#0000ff"), kind=Backdrop).plain
    expected = from_oklab((to_oklab(parse_hex("#ff0000")) + to_oklab(parse_hex("#0000ff"))) / 2)
    assert np.abs(parse_hex(middle) - expected).max() < 0.01
    along = ((0.0, "#ff0000"), (0.5, "#00ff00"), (1.0, "#0000ff"))
    half = at(5, patch("plain", "#000000", "#000000", along=along), kind=Backdrop).plain
    assert np.abs(parse_hex(half) - parse_hex("#00ff00")).max() < 0.03
    added = at(0, patch("plain", "#102030", "#ffffff", "add"), kind=Backdrop, plain="#f01010").plain
    assert added == "#ff3040"
    assert at(0, patch("plain", "#ffffff", "#000000", "multiply"), kind=Backdrop, plain="#345678").plain == "#345678"


def test_gradients_move_stop_by_stop_or_at_the_places_of_both():
    low, high = ((0.0, "#000000"), (1.0, "#ffffff")), ((0.5, "#ff0000"), (1.0, "#0000ff"))
    moved = at(5, patch("colours", low, high)).colours
    assert moved[0][0] == pytest.approx(0.25, abs=1e-3)
    three = ((0.0, "#000000"), (0.5, "#ff0000"), (1.0, "#ffffff"))
    assert [place for place, _ in at(5, patch("colours", low, three)).colours] == [0.0, 0.5, 1.0]
    assert np.allclose(ramp(at(0, patch("colours", low, three)).colours, 8), ramp(low, 8), atol=0.01)


def test_a_patch_is_seen_in_the_picture_and_every_frame_stands_alone():
    rise = new_signal("lfo", shape="saw", rate_hz=0.1)
    ground = new_layer("backdrop", fill="plain")
    ground["patches"] = [new_patch("plain", rise, "#000000", "#ffffff")]
    project = parse(new_document("T", frame=SMALL, rate=Fraction(30), layers=[ground], signals=[rise]))
    forth = [render(project, None, Fraction(frame, 30), SMALL).copy() for frame in range(0, 290, 40)]
    back = [render(project, None, Fraction(frame, 30), SMALL).copy() for frame in reversed(range(0, 290, 40))]
    assert all(np.array_equal(a, b) for a, b in zip(forth, back[::-1], strict=True))
    light = [int(picture[0, 0, 0]) for picture in forth]
    assert light == sorted(set(light))


@pytest.mark.parametrize("by", ["along", "level"])
def test_bars_turned_a_quarter_are_the_upright_ones_turned(by):
    def picture(turn):
        layer = new_layer("spectrum", bands=8, least=12.0, width=80.0, turn=turn, paint=by, corner=0.0)
        project = parse(new_document("T", frame=FrameSize(200, 200), rate=Fraction(30), layers=[layer]))
        return render(project, None, Fraction(0)).astype(int)

    turned = np.rot90(picture(0.0), -1)
    assert np.abs(turned - picture(90.0)).mean() < 1.0


def test_settings_that_patches_move_past_each_other_still_draw():
    flip = new_signal("lfo", shape="square", rate_hz=1)
    layer = new_layer("spectrum")
    layer["patches"] = [new_patch("low_hz", flip, 40.0, 20_000.0), new_patch("quiet_db", flip, -60.0, 20.0)]
    project = parse(new_document("T", frame=SMALL, rate=Fraction(30), layers=[layer], signals=[flip]))
    assert render(project, None, Fraction(1, 10), SMALL).shape == (180, 320, 4)


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_a_setting_over_time_is_what_is_drawn_at_each_time(data):
    """What particles are born by is worked out over all times at once; it must not differ from the setting."""
    name = data.draw(st.sampled_from(["reach", "bands"]))
    setting = Spectrum.settings[name]
    number = st.floats(setting.lo, setting.hi).map(lambda value: round(value) if name == "bands" else value)
    times = sorted(data.draw(st.lists(st.floats(0.0, 9.0), max_size=4, unique_by=lambda time: round(time, 2))))
    eases = st.sampled_from(["linear", "hold", "ease-in-out"])
    frames = tuple(Keyframe(time, data.draw(number), data.draw(eases)) for time in times)
    joins = st.sampled_from(["replace", "add", "multiply", "poses"])
    ends = st.floats(-3.0, 3.0)
    patches = [
        patch(name, data.draw(ends), data.draw(ends), data.draw(joins), lag_ms=data.draw(st.sampled_from([0, 400])))
        for _ in range(data.draw(st.integers(0, 3)))
    ]
    overrides = {"wide": {name: data.draw(number)}} if data.draw(st.booleans()) else {}
    layer = Spectrum({name: data.draw(number)})
    keyframes = {name: frames} if frames else {}
    placed = PlacedLayer("l", "L", True, layer, tuple(patches), keyframes=keyframes, overrides=overrides)
    moments = [Fraction(n, 7) for n in range(60)]
    drawn = [getattr(resolve_layer(placed, RISE, moment, "wide")[0], name) for moment in moments]
    whole = SettingCurves(placed, RISE, "wide").values(name, np.array([float(moment) for moment in moments]))
    assert np.allclose(whole, drawn, atol=1e-6), whole - drawn
