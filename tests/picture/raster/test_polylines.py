"""Lines one before another: areas by exact coverage, strokes against another rasteriser."""

from __future__ import annotations

import numpy as np
import pytest
import skia
from hypothesis import given, settings
from hypothesis import strategies as st

from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.polylines import draw_lines

WHITE = 0xFFFFFFFF


def drawn(points, feet, fill=WHITE, width=0.0, colour=0):
    canvas = Canvas(120, 60)
    canvas.clear_through()
    points, feet = np.array([points], float), np.array([feet], float)
    colours = np.full((1, points.shape[1] - 1), colour, np.uint32)
    draw_lines(canvas, points, feet, np.array([fill], np.uint32), np.array([width]), colours)
    return canvas.pixels[..., 3].astype(float) / 255


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(1, 119), st.floats(1, 59)), min_size=3, max_size=3))
def test_a_filled_triangle_covers_its_area(corners):
    (ax, ay), (bx, by), (cx, cy) = corners
    area = abs((bx - ax) * (cy - ay) - (cx - ax) * (by - ay)) / 2
    # 8 bits a pixel: half a level of each pixel on an edge.
    assert drawn(corners[:2], corners[2:]).sum() == pytest.approx(area, abs=0.6)


def test_an_area_that_leaves_the_canvas_is_cut():
    shown = drawn([(-50.0, 20.5), (500.0, 20.5)], [(-50.0, 500.0), (500.0, 500.0)])
    assert shown[:20].max() == 0 and shown[21:].min() == 1 and np.allclose(shown[20], 0.5, atol=0.005)


@settings(max_examples=60, deadline=None)
@given(st.tuples(st.floats(10, 110), st.floats(10, 50)), st.tuples(st.floats(10, 110), st.floats(10, 50)))
@pytest.mark.parametrize("width", [1.5, 2.5, 8.0])
def test_a_stroke_covers_its_length_times_its_width(width, one, other):
    length = np.hypot(one[0] - other[0], one[1] - other[1])
    area = length * width + np.pi * width**2 / 4
    assert drawn([one, other], [one, other], 0, width, WHITE).sum() == pytest.approx(area, rel=0.07, abs=2.0)


def test_strokes_are_those_of_another_rasteriser():
    points = [(8.0, 40.0), (22.0, 12.0), (30.0, 30.0), (34.0, 8.0), (60.0, 52.0), (90.0, 20.0), (112.0, 33.0)]
    for width in (1.5, 3.0, 7.0):
        found = drawn(points, points[:1] + points[-1:], 0, width, WHITE)
        pixels = np.zeros((60, 120, 4), np.uint8)
        surface = skia.Surface(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
        paint = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=width, Color=WHITE)
        paint.setStrokeCap(skia.Paint.kRound_Cap)
        paint.setStrokeJoin(skia.Paint.kRound_Join)
        builder = skia.PathBuilder()
        builder.addPolygon([skia.Point(*point) for point in points], False)
        surface.getCanvas().drawPath(builder.detach(), paint)
        off = np.abs(found - pixels[..., 3].astype(float) / 255)
        assert off.max() < 0.4 and off.mean() < 0.005


def test_each_segment_has_its_colour_and_the_last_line_lies_on_top():
    canvas = Canvas(120, 60)
    canvas.clear()
    rows = np.array([[(10.0, 30.0), (60.0, 30.0), (110.0, 30.0)], [(60.0, 5.0), (60.0, 30.0), (60.0, 55.0)]])
    colours = np.array([[0xFFFF0000, 0xFF00FF00], [0xFF0000FF, 0xFF0000FF]], np.uint32)
    draw_lines(canvas, rows, rows[:, [0, -1]], np.zeros(2, np.uint32), np.array([4.0, 4.0]), colours)
    assert canvas.pixels[30, 30].tolist() == [0, 0, 255, 255]
    assert canvas.pixels[30, 90].tolist() == [0, 255, 0, 255]
    assert canvas.pixels[30, 60].tolist() == [255, 0, 0, 255]


def ridges(seed, lines, opaque, tilt=0.0):
    """Lines over level feet, each nearer and lower than the one before; their feet may lie askew."""
    rng = np.random.default_rng(seed)
    xs = np.linspace(-12.3, 171.9, 40)
    base = np.linspace(40.2, 118.7, lines)
    points = np.stack([np.stack([xs, base[n] - rng.random(40) * 45], axis=1) for n in range(lines)])
    feet = np.stack([[[-14.0, base[n] + 9.4], [174.0, base[n] + 9.4 + tilt]] for n in range(lines)])
    alphas = np.where(opaque, 255, rng.integers(30, 255, lines)).astype(np.uint32)
    fills = alphas << 24 | (rng.integers(0, 30, lines).astype(np.uint32) * 0x010101)
    return points, feet, fills, rng.random(lines) * 4 + 0.5, np.full((lines, 39), 0xFFE0AC55, np.uint32)


@pytest.mark.parametrize("opaque", [True, False, [False, False, True, True, False, True]])
def test_what_lies_behind_an_opaque_area_is_left_out_and_not_missed(opaque):
    """All lines at once give the very pixels of each drawn by itself, where nothing is known of those before it."""
    whole, single = Canvas(160, 120), Canvas(160, 120)
    for seed in range(6):
        points, feet, fills, widths, colours = ridges(seed, 6, opaque)
        for canvas in (whole, single):
            canvas.clear("#203040")
        draw_lines(whole, points, feet, fills, widths, colours)
        for n in range(6):
            draw_lines(single, *(part[n : n + 1] for part in (points, feet, fills, widths, colours)))
        assert np.array_equal(whole.pixels, single.pixels)


def test_an_area_over_level_feet_is_that_over_any_feet():
    level, askew = Canvas(160, 120), Canvas(160, 120)
    for seed in range(6):
        for canvas, tilt in ((level, 0.0), (askew, 0.002)):
            canvas.clear("#203040")
            points, feet, fills, _, colours = ridges(seed, 1, False, tilt)
            draw_lines(canvas, points, feet, fills, np.zeros(1), np.zeros_like(colours))
        away = np.abs(level.pixels.astype(int) - askew.pixels)
        # The columns at the canvas's edges hold what lies beside them, in the one way only.
        assert away[:, 1:-1].max() <= 1
