"""Compiled loops against the formulas of their standards in float64, and against plain numpy."""

import cv2
import numpy as np
import pytest
from hypothesis import given, seed, settings
from hypothesis import strategies as st

from velvetdrum.declare.oklab import ramp
from velvetdrum.picture.bases.image_placement import _resampled
from velvetdrum.picture.outlines import curves
from velvetdrum.picture.raster import colour, light
from velvetdrum.picture.raster.areas import words_of
from velvetdrum.picture.raster.blending import blend, tint, weaken
from velvetdrum.picture.raster.colour_tables import byte_shares, shares_by_luminance
from velvetdrum.picture.raster.grading import graded
from velvetdrum.picture.raster.kernels import build, lighting
from velvetdrum.picture.raster.planes import to_bt709
from velvetdrum.scene.kinds import BLEND_MODES


def noise(seed, height, width, *, opaque=False):
    """Premultiplied pixels with all that can be: clear, faint, solid."""
    rng = np.random.default_rng(seed)
    alpha = rng.choice([0, 1, 2, 77, 128, 254, 255], (height, width)) if not opaque else np.full((height, width), 255)
    colours = rng.integers(0, 256, (height, width, 3))
    out = np.empty((height, width, 4), np.uint8)
    out[..., :3] = np.minimum(np.rint(colours * alpha[..., None] / 255), alpha[..., None])
    out[..., 3] = alpha
    return out


# The formulas of W3C Compositing and Blending, level 1, sections 10 and 13, as they stand there.


def _lum(c):
    return c @ np.array([0.11, 0.59, 0.3])


def _sat(c):
    return c.max(axis=-1) - c.min(axis=-1)


def _clipped(c):
    lum, low, high = _lum(c)[..., None], c.min(axis=-1)[..., None], c.max(axis=-1)[..., None]
    with np.errstate(all="ignore"):
        c = np.where(low < 0, lum + (c - lum) * lum / (lum - low), c)
        return np.where(high > 1, lum + (c - lum) * (1 - lum) / (high - lum), c)


def _with_lum(c, lum):
    return _clipped(c + (lum - _lum(c))[..., None])


def _with_sat(c, sat):
    low, spread = c.min(axis=-1)[..., None], _sat(c)[..., None]
    with np.errstate(all="ignore"):
        return np.where(spread > 0, (c - low) * sat[..., None] / spread, 0.0)


def _hard(cb, cs):
    return np.where(cs <= 0.5, cb * 2 * cs, cb + (2 * cs - 1) - cb * (2 * cs - 1))


def _soft(cb, cs):
    curve = np.where(cb <= 0.25, ((16 * cb - 12) * cb + 4) * cb, np.sqrt(cb))
    return np.where(cs <= 0.5, cb - (1 - 2 * cs) * cb * (1 - cb), cb + (2 * cs - 1) * (curve - cb))


def _dodge(cb, cs):
    with np.errstate(all="ignore"):
        return np.where(cb == 0, 0.0, np.where(cs >= 1, 1.0, np.minimum(1.0, cb / (1 - cs))))


def _burn(cb, cs):
    with np.errstate(all="ignore"):
        return np.where(cb >= 1, 1.0, np.where(cs == 0, 0.0, 1 - np.minimum(1.0, (1 - cb) / cs)))


FORMULAS = {
    "normal": lambda cb, cs: cs,
    "multiply": lambda cb, cs: cb * cs,
    "screen": lambda cb, cs: cb + cs - cb * cs,
    "overlay": lambda cb, cs: _hard(cs, cb),
    "darken": np.minimum,
    "lighten": np.maximum,
    "color-dodge": _dodge,
    "color-burn": _burn,
    "hard-light": _hard,
    "soft-light": _soft,
    "difference": lambda cb, cs: np.abs(cb - cs),
    "exclusion": lambda cb, cs: cb + cs - 2 * cb * cs,
    "hue": lambda cb, cs: _with_lum(_with_sat(cs, _sat(cb)), _lum(cb)),
    "saturation": lambda cb, cs: _with_lum(_with_sat(cb, _sat(cs)), _lum(cb)),
    "color": lambda cb, cs: _with_lum(cs, _lum(cb)),
    "luminosity": lambda cb, cs: _with_lum(cb, _lum(cs)),
}


def by_formula(below, above, mode, share):
    """The blended pixels in float64, 0 to 255; `share` is mask and opacity, 0 to 1."""
    b, s = below / 255.0, above / 255.0
    if mode == "plus-lighter":
        return np.minimum(s * share[..., None] + b, 1.0) * 255
    ab, a_s = b[..., 3:], s[..., 3:]
    with np.errstate(all="ignore"):
        cb = np.where(ab > 0, b[..., :3] / ab, 0.0)
        cs = np.where(a_s > 0, s[..., :3] / a_s, 0.0)
    a_s = a_s * share[..., None]
    mixed = (1 - ab) * cs + ab * FORMULAS[mode](np.clip(cb, 0, 1), np.clip(cs, 0, 1))
    return np.concatenate([a_s * mixed + (1 - a_s) * b[..., :3], a_s + ab * (1 - a_s)], axis=2) * 255


@pytest.mark.parametrize("opaque", [True, False], ids=["on a solid ground", "on any ground"])
@pytest.mark.parametrize("mode", BLEND_MODES)
def test_every_mode_is_within_a_level_of_its_formula(mode, opaque):
    below, above = noise(1, 60, 90, opaque=opaque), noise(2, 60, 90)
    mask = np.random.default_rng(3).integers(0, 256, (60, 90)).astype(np.uint8)
    for cover, opacity in ((None, 1.0), (mask, 1.0), (None, 0.37), (mask, 0.8)):
        found = below.copy()
        blend(found, above, mode, cover, opacity)
        share = (np.ones((60, 90)) if cover is None else cover / 255) * opacity
        away = np.abs(found - by_formula(below, above, mode, share))
        # Half a level of rounding; where mask and opacity are both bytes of a byte, as much again.
        assert away.max() <= (1.0 if mode not in ("normal", "plus-lighter") else 1.51)
        assert np.percentile(away, 99) <= 1.0


def test_blending_reaches_only_its_area():
    whole = noise(4, 40, 50, opaque=True)
    before, above = whole.copy(), noise(5, 40, 50)
    blend(whole[7:20, 11:30], above[3:16, 5:24], "overlay", np.full((40, 50), 200, np.uint8)[1:14, 2:21])
    inside = np.zeros((40, 50), bool)
    inside[7:20, 11:30] = True
    assert np.array_equal(whole[~inside], before[~inside]) and not np.array_equal(whole[inside], before[inside])
    alone = np.ascontiguousarray(before[7:20, 11:30])
    blend(alone, np.ascontiguousarray(above[3:16, 5:24]), "overlay", np.full((13, 19), 200, np.uint8))
    assert np.array_equal(alone, whole[7:20, 11:30])


@given(st.integers(0, 2**32 - 1), st.integers(1, 40), st.integers(1, 40))
@seed(1)
@settings(max_examples=30, deadline=None)
def test_weakened_and_tinted_pixels_are_rounded_products(number, height, width):
    rng = np.random.default_rng(number)
    pixels, mask = noise(number, height, width), rng.integers(0, 256, (height, width)).astype(np.uint8)
    weak = pixels.copy()
    weaken(weak, mask)
    assert np.abs(weak - pixels * (mask[..., None] / 255)).max() <= 0.5 + 1e-9
    ground = noise(number + 1, height, width, opaque=True)
    tinted = ground.copy()
    tint(tinted, 0x80402010, mask)
    word = np.broadcast_to(np.array([0x10, 0x20, 0x40, 0x80], np.uint8), pixels.shape)
    assert np.abs(tinted - by_formula(ground, word, "normal", mask / 255)).max() <= 1.0


def test_frames_become_planes_as_bt709_says():
    pixels = noise(6, 36, 54, opaque=True)
    luma, blue, red = (np.zeros(shape, np.uint8) for shape in ((36, 64), (18, 32), (18, 40)))
    to_bt709(pixels, (luma.reshape(-1), blue.reshape(-1), red.reshape(-1)), (64, 32, 40))
    b, g, r = (pixels[..., channel] / 255.0 for channel in range(3))
    y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    assert np.abs(luma[:, :54] - (16 + 219 * y)).max() <= 0.51
    for plane, part, spread in ((blue, b, 1.8556), (red, r, 1.5748)):
        mean = ((part - y) / spread).reshape(18, 2, 27, 2).mean(axis=(1, 3))
        assert np.abs(plane[:, :27] - (128 + 224 * mean)).max() <= 0.52
    assert not luma[:, 54:].any() and not blue[:, 27:].any()


def test_the_ends_of_bt709_are_reached_and_not_passed():
    for word, expected in ((0, (16, 128, 128)), (255, (235, 128, 128))):
        pixels = np.full((2, 2, 4), word, np.uint8)
        pixels[..., 3] = 255
        planes = [np.zeros(4, np.uint8), np.zeros(1, np.uint8), np.zeros(1, np.uint8)]
        to_bt709(pixels, tuple(planes), (2, 1, 1))
        assert tuple(int(plane[0]) for plane in planes) == expected


def test_colours_are_looked_up_and_dithered_as_in_numpy():
    table = colour.packed_ramp(ramp(((0.0, "#102030"), (0.4, "#e0ac55"), (1.0, "#f4eadb")), 512))
    places = np.random.default_rng(7).integers(0, 512, (300, 270)).astype(np.int32)
    tile = colour.noise_tile()
    words = table[places] + np.tile(tile, (2, 2))[:300, :270]
    plain = words.view(np.uint8).reshape(300, 270, 8)[..., 1::2]
    assert np.array_equal(colour.looked_up(table, places), plain)
    assert np.array_equal(colour.dithered(table[places]), plain)


def laid(colours, cut=(0, 0, 0, 0)):
    """Colours over nothing, wholly shown, in a part of their area."""
    left, top, right, bottom = (edge + by for edge, by in zip(colours.area, cut, strict=True))
    pixels = np.zeros((bottom - top, right - left, 4), np.uint8)
    colours.lay(pixels, (left, top), np.full(pixels.shape[:2], 255, np.uint8), 1.0)
    return pixels


@pytest.mark.parametrize("kind", ["table", "circle", "line", "picture"])
def test_colours_through_a_mask_are_those_of_the_whole_blended(kind):
    """Whatever part is asked for, each pixel has its colour, as the blend of the whole picture would show it."""
    table = colour.packed_ramp(np.random.default_rng(5).random((512, 3)))
    rng, area = np.random.default_rng(6), (-9, 4, 221, 104)
    places = rng.integers(0, 512, (100, 230)).astype(np.int32)
    colours = {
        "table": colour.TableColours(table, places, area),
        "circle": colour.CircleColours(table, area, (88.4, 70.9), 31.7, (40.0, 25.0)),
        "line": colour.LineColours(table, area, (88.4, 70.9), (np.sin(0.7), -np.cos(0.7)), (40.0, 25.0)),
        "picture": colour.PictureColours(colour.looked_up(table, places), area),
    }[kind]
    whole = laid(colours)
    if kind == "table":
        assert np.array_equal(whole, colour.looked_up(table, places))
    mask = np.where(rng.random((80, 190)) < 0.1, rng.integers(0, 256, (80, 190)), 0).astype(np.uint8)
    mask[:, 64:150] = 0
    pixels = noise(3, 80, 190)
    expected = pixels.copy()
    blend(expected, np.ascontiguousarray(whole[11:91, 17:207]), "normal", mask, 0.7)
    colours.lay(pixels, (8, 15), mask, 0.7)
    assert np.array_equal(pixels, expected)


@pytest.mark.parametrize("reach", [(40.0, 25.0), (40.0, 0.0), (0.0, 30.0)])
def test_colours_by_distance_are_those_of_the_distance(reach):
    table = colour.packed_ramp(np.linspace([0, 0, 0], [1, 1, 1], 1024))
    area, centre, radius = (13, 7, 163, 137), (88.4, 70.9), 31.7
    y, x = np.mgrid[area[1] : area[3], area[0] : area[2]] + 0.5
    away = np.hypot(x - centre[0], y - centre[1]) - radius
    out, inward = reach
    level = np.clip(np.where(away >= 0, away / out if out else 0.0, -away / inward if inward else 0.0), 0, 1)
    found = laid(colour.CircleColours(table, area, centre, radius, reach))
    assert np.abs(found[..., 0] - level * 255).max() < 1.5
    up = (np.sin(0.7), -np.cos(0.7))
    away = (x - centre[0]) * up[0] + (y - centre[1]) * up[1]
    level = np.clip(np.where(away >= 0, away / out if out else 0.0, -away / inward if inward else 0.0), 0, 1)
    found = laid(colour.LineColours(table, area, centre, up, reach))
    assert np.abs(found[..., 0] - level * 255).max() < 1.5


def test_grades_are_those_of_the_matrix_and_stay_within_alpha():
    pixels = noise(8, 50, 60)
    matrix = np.random.default_rng(9).uniform(-0.5, 1.5, (3, 4)).astype(np.float32)
    exact = np.clip(pixels.astype(np.float64) @ matrix.T.astype(np.float64), 0, pixels[..., 3:])
    found = graded(pixels, matrix)
    assert np.abs(found[..., :3] - exact).max() <= 0.51 and np.array_equal(found[..., 3], pixels[..., 3])


@given(
    st.floats(0.4, 3.0),
    st.floats(0.4, 3.0),
    st.floats(-40, 40),
    st.floats(-40, 40),
    st.integers(1, 60),
    st.integers(1, 60),
)
@seed(2)
@settings(max_examples=40, deadline=None)
def test_resampled_pictures_are_those_of_another_library(across, down, x, y, width, height):
    pixels = noise(10, 33, 41)
    move = np.array([[across, 0.0, x], [0.0, down, y]])
    exact = cv2.warpAffine(pixels, move, (width, height), flags=cv2.INTER_LINEAR, borderValue=(0, 0, 0, 0))
    # 256 steps between two pixels: half a step of a full swing is half a level.
    assert np.abs(_resampled(pixels, move, width, height).astype(int) - exact).max() <= 2


def test_places_along_a_curve_are_those_between_its_points():
    piece = curves.rounded_rectangle(200.0, 90.0, 30.0).pieces[0]
    for ways in (np.linspace(0, piece.length, 777), np.random.default_rng(3).uniform(0, piece.length, 500)):
        points, normals, tangents = piece.at(ways)
        for column in range(2):
            exact = np.interp(ways, piece.along, piece.points[:, column])
            assert np.abs(points[:, column] - exact).max() < 1e-9
        assert np.abs(np.hypot(*tangents.T) - 1).max() < 1e-12
        assert np.abs((normals * tangents).sum(axis=1)).max() < 1e-12


def test_the_folder_of_loops_is_named_by_their_sources(monkeypatch, tmp_path):
    first = build.fingerprint()
    here = tmp_path / "kernels"
    here.mkdir()
    for path in build._HERE.glob("*.py"):
        (here / path.name).write_bytes(path.read_bytes())
    monkeypatch.setattr(build, "_HERE", here)
    copied = build.fingerprint()
    assert copied != first, "equal files of another checkout are compiled anew"
    (here / "words.py").write_text((here / "words.py").read_text() + "\n# another\n")
    changed = build.fingerprint()
    assert changed not in (first, copied)
    monkeypatch.setenv(build.FOLDER, str(tmp_path / "kept"))
    assert build.kept_folder.__wrapped__().parent == tmp_path / "kept"
    (tmp_path / "file").write_text("no folder")
    monkeypatch.setenv(build.FOLDER, str(tmp_path / "file"))
    assert build.kept_folder.__wrapped__() is None


def test_without_a_folder_loops_are_compiled_and_it_is_said(tmp_path):
    """In a process of its own, with loops that are quick to compile."""
    import os
    import subprocess
    import sys

    (tmp_path / "file").write_text("no folder")
    code = (
        "from velvetdrum.picture.raster.kernels import preparation\n"
        "preparation.kernels.loop_modules = lambda: [preparation.kernels.__name__ + '.grading']\n"
        "preparation.prepare(print)\n"
        "from velvetdrum.picture.raster.kernels.grading import transform\n"
        "print(len(transform.signatures))\n"
    )
    env = os.environ | {build.FOLDER: str(tmp_path / "file"), "PYTHONDONTWRITEBYTECODE": "1"}
    told = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True).stdout
    assert told.splitlines() == [
        __import__("velvetdrum.picture.raster.kernels.preparation", fromlist=["x"]).NOT_KEPT,
        "1",
    ]


def test_what_must_not_be_written_to_can_be_read():
    below, above = noise(11, 20, 30, opaque=True), noise(12, 20, 30)
    mask = np.full((20, 30), 100, np.uint8)
    expected = below.copy()
    blend(expected, above, "screen", mask)
    for array in (above, mask):
        array.flags.writeable = False
    blend(below, above, "screen", mask)
    assert np.array_equal(below, expected)
    with pytest.raises(TypeError):
        blend(above, below)


@pytest.mark.parametrize("cell", [2, 4, 16, 32])
def test_what_shines_is_gathered_as_the_mean_of_each_cell(cell):
    """A picture that ends within cells, gathered into a larger copy; equal to means of what shines, pixel by pixel."""
    pixels = noise(11, 70, 93)
    shares = np.linspace(0.0, 1.0, 1021) ** 2
    bright = shares_by_luminance(pixels, shares)
    rows, columns = -(-70 // cell), -(-93 // cell)
    framed = np.zeros((rows * cell, columns * cell, 4))
    framed[:70, :93] = bright
    expected = framed.reshape(rows, cell, columns, cell, 4).mean(axis=(1, 3))
    out = np.full((rows + 3, (columns + 5) * 4), -1, np.float32)
    lighting.bright_means(*words_of(pixels), 93, 70, byte_shares(shares), cell, 3, 2, out)
    inside = out.reshape(rows + 3, columns + 5, 4)[2 : 2 + rows, 3 : 3 + columns]
    assert np.allclose(inside, expected, atol=1e-4)
    inside[:] = -1
    assert np.all(out == -1)


def test_gradients_over_a_frame_follow_the_formula_and_parts_of_it_are_equal():
    table = colour.packed_ramp(np.linspace([0, 0, 0], [1, 1, 1], 4096))
    y, x = np.mgrid[0:120, 0:200] + 0.5
    level = {
        "point": np.clip(np.hypot(x - 61.3, y - 48.8) / 90, 0, 1),
        "line": np.clip(((x - 20) * 130 + (y - 90) * -70) / (130**2 + 70**2), 0, 1),
    }

    def filled(form, left, top, width, height):
        pixels = np.zeros((height, width, 4), np.uint8)
        if form == "point":
            colour.fill_around_point(pixels, (left, top), table, (61.3, 48.8), 90)
        else:
            colour.fill_along_line(pixels, (left, top), table, (20, 90), (150, 20))
        return pixels

    for form in ("point", "line"):
        whole = filled(form, 0, 0, 200, 120)
        # Noise of a level, rounded down: at the most a level away.
        assert np.abs(whole[..., 0] - level[form] * 255).max() <= 1.1 and np.all(whole[..., 3] == 255)
        assert np.abs(whole[..., 1].mean() - level[form].mean() * 255) < 0.1
        assert np.array_equal(filled(form, 37, 11, 100, 80), whole[11:91, 37:137])


def test_rays_are_the_mean_of_the_picture_seen_from_nearer():
    """A step of the doubling against each pixel looked up by itself, in float64."""
    rng = np.random.default_rng(12)
    words = rng.integers(0, 65536, (40, 60, 4)).astype(np.uint16)
    for centre, scale in (((25.3, 11.8), 0.83), ((-9.0, 50.0), 0.9), ((30.0, 20.0), 1.0)):
        result = light._drawn_out(words, centre, scale, 0.4)
        y = (np.arange(40) + 0.5 - centre[1]) * scale + centre[1] - 0.5
        x = (np.arange(60) + 0.5 - centre[0]) * scale + centre[0] - 0.5
        padded = np.pad(words.astype(float), ((1, 2), (1, 2), (0, 0)))
        i, j = (np.clip(np.floor(at), -1, n).astype(int) for at, n in ((y, 40), (x, 60)))
        fy, fx = ((at - np.floor(at)) * ((at > -1) & (at < n)) for at, n in ((y, 40), (x, 60)))
        fy, fx = fy[:, None, None], fx[None, :, None]
        rows, columns = np.where(y <= -1, 41, i + 1)[:, None], np.where(x <= -1, 61, j + 1)[None, :]
        upper = padded[rows, columns] * (1 - fx) + padded[rows, columns + 1] * fx
        lower = padded[rows + 1, columns] * (1 - fx) + padded[rows + 1, columns + 1] * fx
        expected = words * 0.6 + 0.4 * (upper * (1 - fy) + lower * fy)
        # Places are kept to 256ths of a pixel: two of them, each of at most the whole range.
        assert np.abs(result - expected).max() < 0.4 * 65535 * 2 / 256 + 2
