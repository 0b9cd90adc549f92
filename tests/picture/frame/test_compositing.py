"""Layers as wholes: blend modes against another library and their formulas, places, masks, spans and fades."""

from fractions import Fraction

import numpy as np
import pytest
import skia
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import RATE, sine
from tests.picture.scenes import SMALL, black, blended, drawn, lit, project, similarity
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.layers.backdrop import Backdrop
from velvetdrum.picture.space.placement import matrix
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.kinds import BLEND_MODES
from velvetdrum.scene.masks import new_mask
from velvetdrum.signals.audio_range import AudioRange

ELSEWHERE = {
    "normal": "kSrcOver",
    "multiply": "kMultiply",
    "screen": "kScreen",
    "overlay": "kOverlay",
    "darken": "kDarken",
    "lighten": "kLighten",
    "color-dodge": "kColorDodge",
    "color-burn": "kColorBurn",
    "hard-light": "kHardLight",
    "soft-light": "kSoftLight",
    "difference": "kDifference",
    "exclusion": "kExclusion",
    "hue": "kHue",
    "saturation": "kSaturation",
    "color": "kColor",
    "luminosity": "kLuminosity",
    "plus-lighter": "kPlus",
}


def premultiplied(seed, opaque):
    rng = np.random.default_rng(seed)
    pixels = rng.integers(0, 256, (24, 24, 4)).astype(np.uint16)
    pixels[:4, :, :3] = rng.choice([0, 255], (4, 24, 3))
    pixels[..., 3] = 255 if opaque else rng.choice([0, 60, 128, 255], (24, 24))
    pixels[..., :3] = (pixels[..., :3] * pixels[..., 3:] + 127) // 255
    return pixels.astype(np.uint8)


@pytest.mark.parametrize("opaque", [True, False])
@pytest.mark.parametrize("mode", BLEND_MODES)
def test_blend_modes_are_those_of_another_library(mode, opaque):
    below, above = premultiplied(1, opaque), premultiplied(2, False)
    expected = below.copy()
    surface = skia.Surface(expected, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
    image = skia.Image.fromarray(above.copy(), skia.kBGRA_8888_ColorType, alphaType=skia.kPremul_AlphaType)
    surface.getCanvas().drawImage(
        image, 0, 0, skia.SamplingOptions(), skia.Paint(BlendMode=getattr(skia.BlendMode, ELSEWHERE[mode]))
    )
    surface.flushAndSubmit()
    found = blended(below, above, mode).astype(int)
    away = np.abs(found - expected.astype(int))
    # Hue and saturation of greys, and the steep ends of dodge and burn, turn on the last bit.
    steep = mode in ("hue", "saturation", "color-dodge", "color-burn", "color", "luminosity", "soft-light")
    assert np.quantile(away, 0.98 if steep else 1.0) <= (3 if steep else 2)


def channel(mode, cb, cs):
    """B(Cb, Cs) of one channel, written from the text of the standard."""
    match mode:
        case "multiply":
            return cb * cs
        case "screen":
            return 1 - (1 - cb) * (1 - cs)
        case "overlay":
            return channel("hard-light", cs, cb)
        case "darken":
            return min(cb, cs)
        case "lighten":
            return max(cb, cs)
        case "color-dodge":
            return 0 if cb == 0 else 1 if cs == 1 else min(1, cb / (1 - cs))
        case "color-burn":
            return 1 if cb == 1 else 0 if cs == 0 else 1 - min(1, (1 - cb) / cs)
        case "hard-light":
            return cb * 2 * cs if cs <= 0.5 else channel("screen", cb, 2 * cs - 1)
        case "soft-light":
            d = ((16 * cb - 12) * cb + 4) * cb if cb <= 0.25 else cb**0.5
            return cb - (1 - 2 * cs) * cb * (1 - cb) if cs <= 0.5 else cb + (2 * cs - 1) * (d - cb)
        case "difference":
            return abs(cb - cs)
        case "exclusion":
            return cb + cs - 2 * cb * cs
    return cs


@given(st.sampled_from(BLEND_MODES[:12]), st.integers(0, 255), st.integers(0, 255), st.integers(1, 255))
def test_blend_modes_are_those_of_the_standard(mode, backdrop, source, alpha):
    below = np.full((1, 1, 4), (backdrop, backdrop, backdrop, 255), np.uint8)
    solid = round(source * alpha / 255)
    above = np.full((1, 1, 4), (solid, solid, solid, alpha), np.uint8)
    cb, a = backdrop / 255, alpha / 255
    cs = min(solid / alpha, 1.0)
    expected = (1 - a) * cb + a * channel(mode, cb, cs)
    tolerance = 2.5 if mode not in ("color-dodge", "color-burn") else 6
    assert int(blended(below, above, mode)[0, 0, 0]) == pytest.approx(expected * 255, abs=tolerance)


FLAT = {"fill": "plain", "plain": "#ff0000"}


@pytest.mark.parametrize(
    ("settings", "shares"),
    [
        ({"form": "rectangle", "width": 100.0, "height": 50.0}, 180 * 90),
        ({"form": "ellipse", "width": 100.0, "height": 50.0}, np.pi / 4 * 180 * 90),
        ({"form": "ring", "width": 80.0, "height": 80.0, "hole": 50.0}, np.pi * 72**2 * 0.75),
        ({"form": "ellipse", "width": 50.0, "height": 50.0, "invert": True}, 320 * 180 - np.pi * 45**2),
        ({"form": "polygon", "radius": 40.0, "sides": 6}, 1.5 * 3**0.5 * 72**2),
        ({"form": "path", "path": "M0 0h40v20h-40z", "size": 80.0, "turn": 30.0}, 144 * 72),
    ],
)
def test_masks_show_as_much_as_they_say(settings, shares):
    picture = drawn(None, "backdrop", masks=[new_mask("shape", **settings)], **FLAT)
    assert picture[..., 0].sum() / 255 == pytest.approx(shares, rel=0.005)
    feathered = drawn(None, "backdrop", masks=[new_mask("shape", **settings, feather=10.0)], **FLAT)
    assert feathered[..., 0].sum() / 255 == pytest.approx(shares, rel=0.03)
    between = (feathered[..., 0] > 20) & (feathered[..., 0] < 235)
    assert between.sum() > 5 * ((picture[..., 0] > 20) & (picture[..., 0] < 235)).sum()


def test_a_span_begins_fades_and_ends(analysed):
    typed = FLAT | {"from_at": "time", "to_at": "time", "from_s": 1.0, "to_s": 3.0, "fade_in_s": 0.5, "fade_out_s": 1.0}
    for at, level in ((0.9, 0), (1.0, 0), (1.25, 127), (1.5, 255), (2.0, 255), (2.5, 127), (2.9, 25), (3.0, 0)):
        assert drawn(None, "backdrop", at, **typed)[90, 160, 0] == pytest.approx(level, abs=2), at
    use = AudioRange(analysed(np.concatenate([np.zeros(RATE), sine(400, 2.0, -12.0), np.zeros(RATE)])), 0.0, 4.0)
    for at, there in ((0.9, False), (1.1, True), (2.9, True), (3.1, False)):
        assert bool(lit(drawn(use, "backdrop", at, from_at="sound", to_at="sound", **FLAT)).any()) is there


def test_layer_opacity_fades_the_whole_and_not_its_parts():
    solid = drawn(None, "graticule", opacity=100.0, axes=True, line=1.0)
    half = drawn(None, "graticule", opacity=100.0, axes=True, line=1.0, layer_opacity=50.0)
    assert np.abs(half - solid / 2).max() <= 2


@given(
    st.floats(-20, 20),
    st.floats(-20, 20),
    st.floats(50, 160),
    st.floats(50, 160),
    st.floats(-90, 90),
    st.floats(-30, 30),
)
def test_a_moved_layer_lies_where_its_matrix_says(move_x, move_y, scale_x, scale_y, spin, skew):
    settings = {
        "move_x": move_x,
        "move_y": move_y,
        "scale_x": scale_x,
        "scale_y": scale_y,
        "spin": spin,
        "skew_x": skew,
    }
    dot = {"mask": "round", "x": 56.0, "y": 45.0, "radius": 1.5, "line": 3.0, "spacing": 1.0, "opacity": 100.0}
    picture = drawn(None, "graticule", **dot, **settings)[..., 0].astype(float)
    place = matrix(Backdrop(settings), 320, 180) @ (0.56 * 320, 0.45 * 180, 1.0)
    if picture.sum() < 255:
        return
    y, x = np.mgrid[0:180, 0:320] + 0.5
    middle = (x * picture).sum() / picture.sum(), (y * picture).sum() / picture.sum()
    if 8 < place[0] < 312 and 8 < place[1] < 172:
        assert np.hypot(*(np.array(middle) - place[:2])) < 0.5


def test_a_foot_stays_where_it_is_when_a_layer_grows_from_it(use):
    foot = {
        "y": 80.0,
        "grow": "out",
        "anchor_x": 50.0,
        "anchor_y": 80.0,
        "paint": "one",
        "plain": "#ffffff",
        "least": 1.0,
    }
    tall = lit(drawn(use, "spectrum", scale_y=150.0, **foot))
    plain = lit(drawn(use, "spectrum", **foot))
    assert abs(int(np.flatnonzero(tall.any(axis=1)).max()) - int(np.flatnonzero(plain.any(axis=1)).max())) <= 1
    assert np.flatnonzero(tall.any(axis=1)).min() < np.flatnonzero(plain.any(axis=1)).min() - 10


def test_a_layer_that_is_scaled_up_is_as_sharp_as_one_drawn_larger(use):
    common = {"base": "ring", "grow": "out", "paint": "one", "plain": "#ffffff", "gap": 40.0}
    scaled = drawn(use, "spectrum", radius=12.0, reach=12.0, least=0.3, scale_x=200.0, scale_y=200.0, **common)
    large = drawn(use, "spectrum", radius=24.0, reach=24.0, least=0.6, **common)
    assert similarity(scaled, large) > 0.97


def test_edges_have_no_dark_fringe():
    # White over white through a feathered mask and a turn: nothing may show.
    over = new_layer("backdrop", fill="plain", plain="#ffffff", spin=30.0, scale_x=70.0)
    made = project(
        new_layer("backdrop", fill="plain", plain="#ffffff"), over | {"masks": [new_mask("shape", feather=6.0)]}
    )
    assert render(made, None, Fraction(0), SMALL)[..., :3].min() >= 253


def test_a_layer_can_be_hidden_by_a_patch_and_blends_with_all_behind_it(use):
    made = project(
        new_layer("backdrop", fill="plain", plain="#808080"),
        new_layer("backdrop", fill="plain", plain="#4080ff", blend="multiply"),
    )
    assert np.allclose(render(made, use, Fraction(1), SMALL)[0, 0, 2::-1], (32, 64, 128), atol=1)
    gone = project(black(), new_layer("backdrop", **FLAT, layer_opacity=0.0))
    assert not lit(render(gone, use, Fraction(1), SMALL)[..., 2::-1]).any()


def test_while_a_layer_is_solo_only_solo_ones_are_drawn():
    red, green = new_layer("backdrop", **FLAT), new_layer("shape", plain="#00ff00", width=20.0, height=20.0)
    both = render(project(red, green), None, Fraction(0), SMALL)
    alone = render(project(red, green | {"solo": True}), None, Fraction(0), SMALL)
    assert both[0, 0, 2::-1].tolist() == [255, 0, 0] and alone[0, 0, 2::-1].tolist() == [0, 0, 0]
    assert alone[90, 160, 2::-1].tolist() == [0, 255, 0]
    hidden = render(project(red, green | {"solo": True, "visible": False}), None, Fraction(0), SMALL)
    assert hidden[0, 0, 2::-1].tolist() == [255, 0, 0]
