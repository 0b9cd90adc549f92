"""Effects against closed forms and exact references, and how they stand in a layer's row."""

from __future__ import annotations

from fractions import Fraction

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from tests.picture.effects.effect_sources import applied, busy, context_of, effect
from velvetdrum.declare.settings import curve_at
from velvetdrum.picture.effects import glass_ring
from velvetdrum.picture.effects.corner_pin import perspective
from velvetdrum.picture.frame.joined_effect import JoinedEffect
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.media.cube_files import CubeError, parse_cube
from velvetdrum.picture.raster.colour_tables import in_cube
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.light import SPREADS, SmallLight, added, spread
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.effects import EFFECT_KINDS, new_effect
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.problems import ProjectError

SIZE = FrameSize(160, 90)


def levels(*values):
    """A picture with a row of straight colours (red, green, blue), each a few pixels wide."""
    colours = np.array([value[::-1] for value in values], np.uint8)
    pixels = np.full((64, 64, 4), 255, np.uint8)
    pixels[:, : len(colours) * 4, :3] = np.repeat(colours, 4, axis=0)[None]
    return pixels


def straight(pixels, number):
    """The colour of a row of `levels`, as red, green and blue from 0 to 1."""
    return pixels[32, number * 4 + 1, 2::-1].astype(float) / 255


SOME = ((12, 200, 90), (255, 128, 0), (40, 40, 40), (250, 240, 230), (0, 0, 255), (128, 127, 126))


@pytest.mark.parametrize(
    ("kind", "given_settings", "formula"),
    [
        ("adjust", {"brightness": 60}, lambda c: c * 0.6),
        ("adjust", {"contrast": 150}, lambda c: (c - 0.5) * 1.5 + 0.5),
        ("adjust", {"gamma": 2.2}, lambda c: c ** (1 / 2.2)),
        ("adjust", {"saturation": 0}, lambda c: np.full(3, c @ [0.2126, 0.7152, 0.0722])),
        ("adjust", {"saturation": 180}, lambda c: 1.8 * c - 0.8 * (c @ [0.2126, 0.7152, 0.0722])),
        ("levels", {"black": 10, "white": 80, "middle": 1.5}, lambda c: np.clip((c - 0.1) / 0.7, 0, 1) ** (1 / 1.5)),
        ("levels", {"red_white": 50}, lambda c: np.array([min(c[0] / 0.5, 1), c[1], c[2]])),
        ("invert", {}, lambda c: 1 - c),
        ("posterise", {"levels": 4}, lambda c: np.minimum(np.floor(c * 4), 3) / 3),
    ],
)
def test_colours_follow_their_formula_within_a_level(kind, given_settings, formula):
    found = applied(effect(kind, **given_settings), levels(*SOME))
    for number, colour in enumerate(SOME):
        wanted = np.clip(formula(np.array(colour) / 255), 0, 1)
        assert np.abs(straight(found, number) - wanted).max() <= 1.01 / 255, colour


def test_hue_turns_about_grey_as_filter_effects_says():
    # The matrix of hue-rotate in Filter Effects 1, written out for 90 degrees.
    turn = np.array([[0.0, 0.715 - 0.715, 1.0], [0.356, 0.855, -0.211], [-0.574, 1.430, 0.144]])
    turn[0] = [0.213 - 0.213, 0.715 - 0.715, 0.072 + 0.928]
    turn[1] = [0.213 + 0.143, 0.715 + 0.140, 0.072 - 0.283]
    turn[2] = [0.213 - 0.787, 0.715 + 0.715, 0.072 + 0.072]
    found = applied(effect("adjust", hue=90), levels(*SOME))
    for number, colour in enumerate(SOME):
        wanted = np.clip(turn @ (np.array(colour) / 255), 0, 1)
        assert np.abs(straight(found, number) - wanted).max() <= 1.5 / 255


def test_exposure_doubles_light():
    found = applied(effect("adjust", exposure=1), levels((100, 60, 20)))

    def light(c):
        return ((c + 0.055) / 1.055) ** 2.4

    for channel, value in enumerate((100, 60, 20)):
        assert light(straight(found, 0)[channel]) == pytest.approx(2 * light(value / 255), abs=0.006)


@pytest.mark.parametrize("points", [2, 17, 33])
def test_a_cube_is_read_as_another_library_reads_it(points):
    """Trilinear interpolation of scipy agrees on a table that is linear in every cell; tetrahedra of their own else."""
    from scipy.interpolate import RegularGridInterpolator

    grid = np.linspace(0, 1, points)
    blue, green, red = np.meshgrid(grid, grid, grid, indexing="ij")
    cube = np.stack([0.8 * red + 0.1, 0.5 * green + 0.3 * blue, 1 - 0.7 * blue], axis=-1).astype(np.float32)
    pixels = busy(96, 64)
    found = in_cube(pixels, cube, np.zeros(3), np.ones(3))
    reference = RegularGridInterpolator((grid, grid, grid), cube)(pixels[..., :3].astype(float) / 255)
    assert np.abs(found[..., 2::-1].astype(float) - reference * 255).max() <= 1.01


def test_a_curved_cube_is_close_to_its_function():
    text = ['TITLE "Quay"', "LUT_3D_SIZE 33"]
    axis = np.linspace(0, 1, 33)
    text += [f"{r**1.4:.6f} {g**0.8:.6f} {b:.6f}" for b in axis for g in axis for r in axis]
    table = parse_cube("\n".join(text).encode())
    assert table.title == "Quay" and table.size == 33
    found = in_cube(levels(*SOME), table.points, np.zeros(3), np.ones(3))
    for number, (r, g, b) in enumerate(SOME):
        wanted = [(r / 255) ** 1.4, (g / 255) ** 0.8, b / 255]
        assert np.abs(straight(found, number) - wanted).max() < 2.5 / 255


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (b"LUT_3D_SIZE 2\n" + b"0 0 0\n" * 7, "8 lines; it has 7"),
        (b"LUT_3D_SIZE 2\n" + b"0 0 nan\n" * 8, "no number"),
        (b"LUT_3D_SIZE 999\n", "from 2 to 129"),
        (b"hello there\n", "none of a .cube file"),
        (b"", "LUT_1D_SIZE or LUT_3D_SIZE once"),
        (b"LUT_1D_SIZE 2\n0 0\n1 1\n", "three numbers"),
        (b"LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 0 0\n0 0 0\n1 1 1\n", "below its DOMAIN_MAX"),
        (b"LUT_3D_SIZE 2\n" + b"0 0 0\n" * 3_000_000, "more than"),
    ],
)
def test_tables_that_are_none_are_refused_with_a_sentence(data, sentence):
    with pytest.raises(CubeError, match=sentence):
        parse_cube(data)


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=400), st.text(alphabet="LUT_3DSIZE 0123.\nnaif-", max_size=300))
def test_noise_is_a_table_or_a_sentence(data, text):
    for given_data in (data, text.encode()):
        try:
            parse_cube(given_data)
        except CubeError as problem:
            said = str(problem)
        else:
            continue
        assert said.endswith((".", "?"))


def psnr(found, reference):
    return 10 * np.log10(255**2 / np.mean((np.asarray(found, float) - np.asarray(reference, float)) ** 2))


def exact_gaussian(picture, sigma):
    """A Gaussian by direct convolution in float64; beyond the edges is nothing."""
    reach = int(np.ceil(sigma * 5))
    kernel = np.exp(-(np.arange(-reach, reach + 1) ** 2) / (2 * sigma**2))
    kernel /= kernel.sum()
    framed = np.pad(picture.astype(float), ((reach, reach), (reach, reach), (0, 0)))
    rows = sum(weight * framed[n : n + picture.shape[0]] for n, weight in enumerate(kernel))
    return sum(weight * rows[:, n : n + picture.shape[1]] for n, weight in enumerate(kernel))


@pytest.mark.parametrize("radius", [6.0, 14.0, 40.0])
def test_light_spreads_as_the_exact_sum_of_gaussians(radius):
    picture = busy(240, 136, opaque=False)
    light = spread(LayerImage(0, 0, picture), (0, 0, 240, 136), radius, np.ones(1021))
    size = (light.values.shape[1] * light.cell, light.values.shape[0] * light.cell)
    large = cv2.resize(light.values, size, interpolation=cv2.INTER_LINEAR)[-light.top :, -light.left :][:136, :240]
    exact = sum(weight * exact_gaussian(picture, max(share * radius, 0.3)) for share, weight in SPREADS)
    assert psnr(large, exact) > 45


@pytest.mark.parametrize("kind", ["glow", "light-rays"])
@pytest.mark.parametrize("opaque", [True, False])
def test_light_only_adds_and_more_of_it_adds_more(kind, opaque):
    pixels = busy(320, 180, opaque=opaque)
    some, much = (applied(effect(kind, gain=gain, level=10), pixels).astype(int) for gain in (100, 800))
    assert np.all(some >= pixels) and np.all(much + 1 >= some)


def on_film(picture, light):
    """The roll-off in float64: the brightest channel along x / (1 + x) from its knee to 250, the light held back."""
    there, most = (values[..., :3].max(axis=2) for values in (picture, light))
    knee = np.maximum(there, 160)
    room, over = np.maximum(250 - knee, 0), np.maximum(there + most - knee, 0)
    top = np.minimum(there + most, knee) + over * room / (room + over + 1e-9)
    return picture[..., :3] + light[..., :3] * ((top - there) / (most + 1e-9))[..., None]


@pytest.mark.parametrize("gain", [0.05, 0.6, 3.0])
def test_light_on_film_rolls_off_before_white_and_keeps_its_hue(gain):
    picture, source = busy(600, 40), busy(600, 40, seed=2)
    strong = (gain, gain, gain, 0.0)
    result = added(LayerImage(0, 0, picture), (0, 0, 600, 40), SmallLight(source, 1, 0, 0), strong, film=True)
    exact = on_film(picture.astype(float), source * gain)
    # A level of dither, and a 32nd.
    assert np.abs(result[..., :3] - exact).max() < 1.05
    assert np.all(result >= picture) and result[..., :3][picture[..., :3] < 250].max() <= 251


@pytest.mark.parametrize("kind", [name for name, one in EFFECT_KINDS.items() if "response" in one.settings])
def test_fresh_light_clips_nothing_and_hard_light_does(kind):
    picture = busy(320, 180)
    before, film, hard = (
        np.mean(pixels[..., :3].max(axis=2) >= 254)
        for pixels in (picture, applied(effect(kind), picture), applied(effect(kind, response="hard"), picture))
    )
    assert film <= before + 0.001 < hard


def test_a_soft_blur_is_the_exact_one():
    picture = busy(240, 136, opaque=False)
    found = applied(effect("soft-blur", radius=5.0, edges="clear"), picture)
    assert psnr(found, exact_gaussian(picture, 5.0 * 1.36)) > 45


def smooth(width=160, height=90):
    """A picture whose channels are its coordinates, so that where a pixel came from can be read in it."""
    x = np.broadcast_to((np.arange(width) + 0.5)[None, :], (height, width))
    y = np.broadcast_to((np.arange(height) + 0.5)[:, None], (height, width))
    planes = [x * 1.5, y * 2.5, np.full((height, width), 90.0), np.full((height, width), 255.0)]
    return np.rint(np.stack(planes, axis=2)).astype(np.uint8)


def places(pixels):
    """Where each pixel of a bent `smooth` came from, in pixels of the frame."""
    return pixels[..., 0] / 1.5, pixels[..., 1] / 2.5


GRID = np.mgrid[0:90, 0:160] + 0.5


def test_a_mirror_shows_its_right_side_on_both():
    u, v = places(applied(effect("mirror", angle=90), smooth()))
    wanted = np.where(GRID[1] <= 80, GRID[1], 160 - GRID[1])
    assert np.abs(u - wanted).max() < 1 and np.abs(v - GRID[0]).max() < 0.7
    # About any line: twice mirrored is at the same place.
    u, v = places(applied(effect("mirror", angle=30, x=45, y=40), smooth()))
    n = np.array([-np.sin(np.pi / 6), np.cos(np.pi / 6)])
    away = np.minimum((GRID[1] - 72) * n[0] + (GRID[0] - 36) * n[1], 0)
    inside = (slice(20, 70), slice(40, 120))
    wanted_u, wanted_v = GRID[1] - 2 * away * n[0], GRID[0] - 2 * away * n[1]
    fits = (wanted_u > 1) & (wanted_u < 159) & (wanted_v > 1) & (wanted_v < 89)
    assert np.abs(u - wanted_u)[inside][fits[inside]].max() < 1


def test_polar_and_back():
    u, v = places(applied(effect("polar", way="rolled", radius=45, angle=-90), smooth()))
    dx, dy = GRID[1] - 80, GRID[0] - 45
    away = np.hypot(dx, dy) / (0.45 * 90)
    share = ((np.arctan2(dy, dx) + np.pi / 2) / (2 * np.pi)) % 1
    fits = (away > 0.2) & (away < 0.95) & (share > 0.03) & (share < 0.97)
    assert np.abs(u - share * 160)[fits].max() < 1.2 and np.abs(v - (1 - away) * 90)[fits].max() < 1.2


def test_what_is_rolled_to_rings_and_unrolled_again_lies_where_it_lay():
    width, height = 480, 270
    y, x = np.mgrid[0:height, 0:width] + 0.5
    picture = np.stack([x * 255 / width, y * 255 / height, 90 + 0 * x, 255 + 0 * x], axis=2).round().astype(np.uint8)
    rings = applied(effect("polar", way="rolled", radius=49, angle=30), picture)
    rows = applied(effect("polar", way="unrolled", radius=49, angle=30), rings).astype(float)
    # Near the centre a ring has fewer pixels than a row, and left and right meet in one of them.
    fits = (slice(int(height * 0.04), int(height * 0.6)), slice(6, -6))
    assert np.abs(rows[..., 0] * width / 255 - x)[fits].max() < 2.5
    assert np.abs(rows[..., 1] * height / 255 - y)[fits].max() < 1.5
    assert not np.array_equal(rings, picture)


def test_a_displacement_moves_as_its_map_says_and_there_and_back_again():
    moved = {"by": "channels", "source": "map", "edges": "clear"}
    level = np.zeros((90, 160, 4), np.uint8)
    level[..., 2], level[..., 1], level[..., 3] = 255, 64, 255
    there = applied(effect("displacement", amount=8, **moved), smooth(), others=level)
    inside = (slice(10, -10), slice(10, -10))
    u, v = places(there)
    across, down = 0.08 * 90, 0.08 * 90 * 2 * (64 / 255 - 0.5)
    assert np.abs(u - GRID[1] - across)[inside].max() < 0.7 and np.abs(v - GRID[0] - down)[inside].max() < 0.7
    again = applied(effect("displacement", amount=-8, **moved), there, others=level)
    inside = (slice(16, -16), slice(16, -16))
    assert np.abs(again.astype(int) - smooth())[inside].max() <= 2
    # A map of waves: each pixel comes from as far as the wave is high there.
    wave = level.copy()
    wave[..., 2] = np.rint(127.5 + 100 * np.sin(GRID[0] / 9))
    wave[..., 1] = np.rint(127.5 + 100 * np.cos(GRID[1] / 11))
    u, v = places(applied(effect("displacement", amount=8, **moved), smooth(), others=wave))
    inside = (slice(10, -10), slice(10, -10))
    for seen, plane, grid_ in ((u, 2, GRID[1]), (v, 1, GRID[0])):
        distance = (wave[..., plane] / 255 - 0.5) * 2 * 0.08 * 90
        assert np.abs(seen - grid_ - distance)[inside].max() < 0.8


def test_a_glass_ring_bends_only_inside_of_it():
    u, v = places(applied(effect("glass-ring", radius=25, width=16, bend=50, dispersion=0, softness=0.5), smooth()))
    dx, dy = GRID[1] - 80, GRID[0] - 45
    away = np.hypot(dx, dy)
    outside = (away < 25 * 0.9 - 8 * 0.9 - 2) | (away > 25 * 0.9 + 8 * 0.9 + 2)
    assert np.abs(u - GRID[1])[outside].max() < 0.8 and np.abs(v - GRID[0])[outside].max() < 0.8
    across = (away - 22.5) / 7.2
    bent = away - 0.5 * 7.2 * 2 * across * (1 - across**2) * 1.3
    ring = np.abs(across) < 0.8
    found = np.hypot(u - 80, v - 45)
    assert np.abs(found - bent)[ring].max() < 1.2


@pytest.mark.parametrize("facets", [0, 9])
@pytest.mark.parametrize(("radius", "x", "y"), [(34, 50, 50), (34, 12, 90), (6, 50, 50)])
def test_a_ring_that_is_drawn_in_bands_is_the_ring_drawn_whole(monkeypatch, facets, radius, x, y):
    """Only what the ring shows is fetched; the pixels are those of the whole box."""
    pixels = cv2.resize(smooth(), (640, 360))
    chosen = effect(
        "glass-ring", radius=radius, x=x, y=y, width=10, bend=70, turn=20, facets=facets, dispersion=0, softness=0.3
    )
    in_bands = applied(chosen, pixels)
    areas = glass_ring._ring_areas((0, 0, 640, 360), (320.0, 180.0), 90.0, 150.0)
    assert 0.3 < sum((c - a) * (d - b) for a, b, c, d in areas) / (300 * 300) < 0.9
    monkeypatch.setattr(glass_ring, "_ring_areas", lambda box, *_: (box,))
    assert np.array_equal(applied(chosen, pixels), in_bands)


def test_a_corner_pin_is_the_projective_map_of_its_corners():
    ends = np.array([[20.0, 10.0], [150.0, 4.0], [140.0, 84.0], [8.0, 70.0]])
    place = perspective((0, 0, 160, 90), ends)
    for corner, end in zip([(0, 0), (160, 0), (160, 90), (0, 90)], ends, strict=True):
        found = place @ [*corner, 1]
        assert np.abs(found[:2] / found[2] - end).max() < 1e-9
    given_places = {
        f"{axis}{n}": end[i] / (160, 90)[i] * 100 for n, end in enumerate(ends, 1) for i, axis in enumerate("xy")
    }
    pixels = applied(effect("corner-pin", **given_places), smooth())
    u, v = places(pixels)
    back = np.linalg.inv(place)
    flat = np.stack([GRID[1].ravel(), GRID[0].ravel(), np.ones(90 * 160)])
    wanted = back @ flat
    wanted = (wanted[:2] / wanted[2]).reshape(2, 90, 160)
    solid = pixels[..., 3] == 255
    assert solid.sum() > 6000
    assert np.abs(u - wanted[0])[solid].max() < 1.2 and np.abs(v - wanted[1])[solid].max() < 1.2
    # A shape that crosses itself is no picture, and no fault.
    crossed = {**given_places, "x1": 95.0, "x2": 5.0}
    assert applied(effect("corner-pin", **crossed), smooth()).max() == 0


@pytest.mark.parametrize("kind", sorted(EFFECT_KINDS))
@pytest.mark.parametrize("size", [(160, 90), (161, 91), (90, 160)])
def test_every_effect_gives_a_sound_picture_at_any_size(kind, size):
    for opaque in (True, False):
        pixels = busy(*size, opaque=opaque)
        before = pixels.copy()
        found = applied(effect(kind), pixels)
        assert found.shape == pixels.shape and np.array_equal(pixels, before), "it wrote to what it was given"
        assert np.all(found[..., :3] <= found[..., 3:]), "colours go beyond alpha"


@pytest.mark.parametrize("kind", sorted(EFFECT_KINDS))
def test_an_effect_at_no_strength_leaves_the_bytes_as_they_were(kind):
    pixels = busy(160, 90, opaque=False)
    assert np.array_equal(applied(effect(kind, strength=0), pixels), pixels)


NEUTRAL = {
    "adjust": {},
    "levels": {},
    "bulge": {"amount": 0},
    "ripple": {"amount": 0},
    "wave": {"amount": 0},
    "turbulence": {"amount": 0},
    "shake": {"amount": 0, "turn": 0},
    "channel-offsets": {"amount": 0},
    "kaleidoscope": None,
}


@pytest.mark.parametrize("kind", [kind for kind, neutral in NEUTRAL.items() if neutral is not None])
@pytest.mark.parametrize("size", [(160, 90), (161, 91), (320, 181)])
def test_nothing_shifts_where_nothing_is_asked_for(kind, size):
    pixels = busy(*size)
    assert np.abs(applied(effect(kind, **NEUTRAL[kind]), pixels).astype(int) - pixels).max() <= 1


def test_half_the_strength_is_the_mean_of_both_and_a_mask_says_where():
    pixels = busy(160, 90)
    whole, half = applied(effect("invert"), pixels), applied(effect("invert", strength=50), pixels)
    assert np.abs(half.astype(int) - (pixels.astype(int) + whole) / 2).max() <= 1
    mask = np.zeros((90, 160, 4), np.uint8)
    mask[:, 80:] = 255
    found = applied(effect("invert", through="m"), pixels, others=mask)
    assert np.array_equal(found[:, :80], pixels[:, :80]) and np.array_equal(found[:, 80:], whole[:, 80:])
    added = applied(effect("invert", joins="multiply"), pixels)
    assert np.abs(added[..., 0].astype(int) - pixels[..., 0].astype(float) * whole[..., 0] / 255).max() <= 1


def test_an_effect_lasts_as_long_as_its_span():
    pixels = busy(160, 90)
    spanned = effect("invert", lasts="time", from_s=1.0, to_s=2.0)
    assert np.array_equal(applied(spanned, pixels, 0.9), pixels)
    assert not np.array_equal(applied(spanned, pixels, 1.0), pixels)
    assert np.array_equal(applied(spanned, pixels, 2.0), pixels)


def test_an_effect_works_on_the_bounds_of_its_layer():
    small = np.zeros((20, 30, 4), np.uint8)
    small[4:16, 5:25] = (40, 90, 200, 255)
    image = LayerImage(60, 30, small)
    for kind in ("glow", "shadow", "outline", "bevel", "adjust", "ripple", "channel-offsets"):
        context = context_of(np.zeros((90, 160, 4), np.uint8))
        found = JoinedEffect(effect(kind), "a", True).apply(image, context)
        margin = effect(kind).margin(context.view) + 8
        left, top, right, bottom = found.bounds
        assert left >= 60 - margin and top >= 30 - margin and right <= 90 + margin and bottom <= 50 + margin, kind


def scene(effects, layer="shape", **more):
    layers = [
        new_layer("backdrop"),
        new_layer(layer) | {"id": "s"} if layer != "text" else new_layer("text", text="Quay"),
    ]
    layers[1] |= {"effects": effects}
    return new_document("x", frame=SIZE, rate=Fraction(30), layers=layers) | more


@settings(max_examples=25, deadline=None)
@given(
    st.lists(st.sampled_from(sorted(EFFECT_KINDS)), min_size=1, max_size=3),
    st.permutations([0.4, 1.0, 1.9]),
    st.sampled_from(["whole-picture", "text"]),
)
def test_frames_are_equal_in_any_order(kinds, times, layer):
    def drawn(order):
        project = parse(scene([new_effect(kind) | {"id": f"e{n}"} for n, kind in enumerate(kinds)], layer))
        return {time: render(project, None, Fraction(time)).copy() for time in order}

    one, other = drawn(sorted(times)), drawn(times)
    assert all(np.array_equal(one[time], other[time]) for time in times)


def test_the_whole_picture_is_all_that_lies_behind_it():
    plain = parse(new_document("x", frame=SIZE, rate=Fraction(30), layers=[new_layer("backdrop")]))
    inverted = parse(scene([new_effect("invert")], "whole-picture"))
    before, after = (render(project, None, Fraction(1)).copy() for project in (plain, inverted))
    assert np.abs(after[..., :3].astype(int) - (255 - before[..., :3])).max() <= 1
    half = scene([new_effect("invert")], "whole-picture")
    half["layers"][1]["settings"]["layer_opacity"] = 50.0
    mixed = render(parse(half), None, Fraction(1))
    assert np.abs(mixed[..., :3].astype(int) - (before[..., :3].astype(int) + after[..., :3]) / 2).max() <= 1.5


def test_an_instance_shows_a_layer_again_and_a_loop_is_refused_by_name():
    shown = new_layer("shape", form="rectangle", width=10.0, height=10.0, x=25.0)
    shown["id"] = "a"
    again = new_layer("instance", source="a", move_x=50.0) | {"id": "b"}
    project = parse(new_document("x", frame=SIZE, rate=Fraction(30), layers=[shown, again]))
    found = render(project, None, Fraction(1))
    assert np.array_equal(found[:, 20:60], found[:, 100:140]) and found[45, 40].max() > 60
    group = new_layer("group") | {"id": "g", "name": "Tide"}
    inside = new_layer("instance", source="g") | {"id": "c", "group": "g", "name": "Echo"}
    with pytest.raises(ProjectError, match=r"Tide needs Echo|Echo needs Tide"):
        parse(new_document("x", frame=SIZE, rate=Fraction(30), layers=[group, inside]))
    with pytest.raises(ProjectError, match="is gone"):
        parse(new_document("x", frame=SIZE, rate=Fraction(30), layers=[new_layer("instance", source="zz")]))


def test_an_effect_whose_map_is_its_own_layer_is_refused():
    with pytest.raises(ProjectError, match="can't lead back to its own layer"):
        parse(scene([new_effect("displacement", source="s")]) | {})


def test_forty_effects_and_radii_beyond_the_frame_are_drawn():
    many = [new_effect("adjust", hue=9.0) for _ in range(39)] + [new_effect("glow", radius=50.0)]
    assert render(parse(scene(many, "whole-picture")), None, Fraction(1)).shape == (90, 160, 4)
    with pytest.raises(ProjectError, match="up to 40 effects"):
        parse(scene([*many, new_effect("invert")], "whole-picture"))


def test_afterimages_are_what_was_there_before():
    moving = new_layer("shape", form="rectangle", width=8.0, height=8.0)
    moving["keyframes"] = {
        "x": [{"time_s": 0.0, "value": 10.0, "ease": "linear"}, {"time_s": 2.0, "value": 90.0, "ease": "linear"}]
    }
    moving["effects"] = [new_effect("afterimages", count=1, step_ms=500.0, fade=0.0)]
    plain = {**moving, "effects": []}
    view = [parse(new_document("x", frame=SIZE, rate=Fraction(30), layers=[layer])) for layer in (moving, plain)]
    both = render(view[0], None, Fraction(1)).astype(int)
    now, then = (render(view[1], None, Fraction(time)).astype(int) for time in (1, Fraction(1, 2)))
    assert np.abs(both - np.maximum(now, then)).max() <= 1
    # Nothing from before the project began.
    assert np.array_equal(render(view[0], None, Fraction(1, 4)), render(view[1], None, Fraction(1, 4)))


def test_the_whole_picture_is_seen_at_other_times():
    moving = new_layer("shape", form="rectangle", width=12.0, height=12.0)
    moving["keyframes"] = {
        "x": [{"time_s": 0.0, "value": 10.0, "ease": "linear"}, {"time_s": 2.0, "value": 90.0, "ease": "linear"}]
    }
    layers = [new_layer("backdrop"), moving]
    whole = new_layer("whole-picture")
    whole["effects"] = [new_effect("slit", strips=2, span=500.0)]
    plain, slit = (
        parse(new_document("x", frame=SIZE, rate=Fraction(30), layers=row)) for row in (layers, [*layers, whole])
    )
    now, then = (render(plain, None, Fraction(time)).copy() for time in (1, Fraction(1, 2)))
    found = render(slit, None, Fraction(1))
    assert np.array_equal(found[:45], now[:45]) and np.array_equal(found[45:], then[45:])
    assert not np.array_equal(now[45:], then[45:])


def test_a_still_layer_with_still_effects_is_drawn_once():
    from velvetdrum.limits.cache import SHARED_CACHE

    SHARED_CACHE.clear()
    project = parse(scene([new_effect("glow"), new_effect("bevel")], "text"))
    render(project, None, Fraction(1))
    assert SHARED_CACHE.held().get("still", 0) > 0
    moving = parse(scene([new_effect("ripple")], "text"))
    SHARED_CACHE.clear()
    render(moving, None, Fraction(1))
    assert SHARED_CACHE.held().get("still", 0) == 0 or "still" not in SHARED_CACHE.held()


def test_a_bend_moves_the_same_at_every_size():
    large, small = busy(640, 360), busy(320, 180)
    for kind in ("bulge", "wave", "kaleidoscope", "mirror", "glass-ring"):
        more = {"dispersion": 0} if kind == "glass-ring" else {}
        one = cv2.resize(applied(effect(kind, **more), large), (320, 180), interpolation=cv2.INTER_AREA)
        two = applied(effect(kind, **more), small)
        # Centres agree: the mean over shapes with hard edges differs by little.
        assert np.abs(one.astype(int) - two).mean() < 3.5, kind


def test_curves_go_through_their_points_as_another_librarys_do():
    """Against scipy's monotone interpolation, which follows the same paper."""
    chance = np.random.default_rng(11)
    for count in (2, 3, 5, 9, 24):
        at = np.sort(chance.choice(np.arange(101), count, replace=False)) / 100
        value = chance.uniform(0, 100, count)
        places = np.linspace(at[0], at[-1], 301)
        found = curve_at(tuple(zip(at.tolist(), value.tolist(), strict=True)), places)
        wanted = PchipInterpolator(at, value)(places) if count > 2 else np.interp(places, at, value)
        np.testing.assert_allclose(found, wanted, atol=1e-9)
        assert found.min() >= value.min() - 1e-9 and found.max() <= value.max() + 1e-9


def test_drawn_curves_recolour_each_channel_then_all():
    pixels = np.zeros((1, 256, 4), np.uint8)
    pixels[0, :, :3] = np.arange(256)[:, None]
    pixels[..., 3] = 255
    raised = [{"at": 0, "value": 0}, {"at": 0.5, "value": 75}, {"at": 1, "value": 100}]
    fallen = [{"at": 0, "value": 100}, {"at": 1, "value": 0}]
    out = applied(effect("curves", red=fallen, all=raised), pixels)
    levels = np.arange(256) / 255
    wanted = PchipInterpolator([0, 0.5, 1], [0, 0.75, 1])
    np.testing.assert_allclose(out[0, :, 0], wanted(levels) * 255, atol=1)
    np.testing.assert_allclose(out[0, :, 2], wanted(1 - levels) * 255, atol=1)
    assert np.array_equal(applied(effect("curves"), pixels), pixels)
