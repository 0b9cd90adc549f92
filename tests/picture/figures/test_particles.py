"""Particles: births, places, forms, and frames that need no others."""

from __future__ import annotations

from fractions import Fraction

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from velvetdrum.picture.figures.emission.motion import strays
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.picture.layers.particles import MOST_ALIVE, Particles
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.particles import draw_discs, draw_sprites, premultiplied
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize

SIZE = FrameSize(160, 90)
PLAIN = {"life_spread": 0.0, "speed_spread": 0.0, "spread": 0.0, "wander": 0.0, "dot_spread": 0.0}


def project(layers, length=20.0):
    document = new_document("x", frame=SIZE, rate=Fraction(30), layers=layers)
    document["length_s"] = length
    return parse(document)


def alive(given_settings, time, **more):
    """The layer, where its particles are, and which of them live, at a time."""
    found = project([new_layer("particles", **given_settings) | more])
    stage = ProjectView(found, None).at(Fraction(time), SIZE)
    placed = found.layers[0]
    layer = stage.shown(placed).layer
    at = stage.moment(layer, placed)
    born = layer.born(at)
    places, share, _ = layer.flights(Viewport(SIZE.width, SIZE.height), born, at)
    return layer, born, 80 + places[:, 0] * 0.9, 45 + places[:, 1] * 0.9, share


def test_as_many_are_born_as_the_rate_says():
    _, born, *_ = alive({"rate": 30.0, "life": 2.0} | PLAIN, 5)
    assert born.total == 60 and born.ages.max() < 2.0 and born.ages.min() >= 0
    # A rate that keyframes move: 0 to 60 over 4 s has an integral of 7.5 t^2.
    frames = [{"time_s": 0.0, "value": 0.0, "ease": "linear"}, {"time_s": 4.0, "value": 60.0, "ease": "linear"}]
    _, born, *_ = alive({"life": 30.0} | PLAIN, 4, keyframes={"rate": frames})
    assert born.total == 120


def test_a_point_lets_them_out_any_way_from_one_place():
    given_settings = PLAIN | {"source": "point", "rate": 400.0, "life": 1.0, "speed": 0.0, "x": 40.0, "y": 60.0}
    _, born, x, y, _ = alive(given_settings, 3)
    assert len(born.numbers) == 400 and np.allclose(x, 64.0, atol=1e-6) and np.allclose(y, 54.0, atol=1e-6)
    _, born, x, y, _ = alive(given_settings | {"speed": 20.0}, 3)
    angles = np.arctan2(y - 54.0, x - 64.0)[born.ages > 0.1]
    assert np.histogram(angles, 8, (-np.pi, np.pi))[0].min() > 20


def test_places_are_a_closed_form_of_age():
    given_settings = {
        "base": "line",
        "width": 1.0,
        "heading": "fixed",
        "direction": 90.0,
        "speed": 20.0,
        "drag": 1.5,
        "gravity": 10.0,
        "wind": 4.0,
        "rate": 10.0,
        "life": 3.0,
    } | PLAIN
    _, born, x, y, _ = alive(given_settings, 6)
    t, k = born.ages, 1.5
    way = (1 - np.exp(-k * t)) / k
    assert np.abs(x - (80 + (20 * way + 4 * t) * 0.9)).max() < 0.05 + 0.8  # the line is 1 % of the frame long
    assert np.abs(y - (45 + 10 * (t - way) / k * 0.9)).max() < 0.05


def test_a_speed_is_that_of_the_birth():
    frames = [{"time_s": 0.0, "value": 10.0, "ease": "hold"}, {"time_s": 3.0, "value": 40.0, "ease": "hold"}]
    given_settings = {"heading": "fixed", "drag": 0.0, "rate": 20.0, "life": 4.0, "base": "line", "width": 1.0} | PLAIN
    _, born, _, y, _ = alive(given_settings, 4, keyframes={"speed": frames})
    speeds = (45 - y) / 0.9 / np.maximum(born.ages, 1e-9)
    old, young = born.times < 2.9, (born.times > 3.1) & (born.ages > 0.01)
    assert np.allclose(speeds[old], 10, atol=0.01) and np.allclose(speeds[young], 40, atol=0.05)


def test_a_colour_by_speed_does_not_change_when_the_fastest_one_goes():
    frames = [{"time_s": at, "value": speed, "ease": "hold"} for at, speed in ((0.0, 10.0), (3.0, 40.0), (3.5, 10.0))]
    given_settings = {"rate": 20.0, "life": 2.0, "by": "speed"} | PLAIN

    def colours(time):
        found = project([new_layer("particles", **given_settings) | {"keyframes": {"speed": frames}}])
        stage = ProjectView(found, None).at(Fraction(time), SIZE)
        layer = stage.shown(found.layers[0]).layer
        (cloud,) = layer.clouds(Viewport(SIZE.width, SIZE.height), stage.moment(layer, found.layers[0]))
        return {tuple(row) for row in np.round(cloud.colours, 6).tolist()}

    with_fast, without = colours(4), colours(7)
    assert len(with_fast) == 2 and len(without) == 1 and without < with_fast


@settings(max_examples=15, deadline=None)
@given(st.sampled_from([design.name for design in Particles.designs]), st.permutations([0.5, 3.0, 7.7, 12.0]))
def test_a_frame_is_the_same_alone_and_in_any_order(name, times):
    design = next(design for design in Particles.designs if design.name == name)
    layers = [new_layer("backdrop"), new_layer("particles", **design.settings)]

    def drawn(order):
        found = project(layers)
        return {time: render(found, None, Fraction(time), SIZE).copy() for time in order}

    one, other = drawn(sorted(times)), drawn(times)
    alone = render(project(layers), None, Fraction(times[0]), SIZE)
    assert all(np.array_equal(one[time], other[time]) for time in times) and np.array_equal(alone, one[times[0]])


@pytest.mark.parametrize("radius", [1.0, 2.5, 6.3, 14.0])
def test_a_disc_covers_its_area(radius):
    canvas = Canvas(64, 64)
    canvas.clear_through()
    white = premultiplied(np.ones((1, 3)), np.ones(1))
    draw_discs(canvas, np.array([31.3]), np.array([32.6]), np.array([radius]), white, "disc", False)
    assert canvas.pixels[..., 3].sum() / 255 == pytest.approx(np.pi * radius**2, rel=0.01)


def test_light_adds_up_and_colours_lie_over_each_other_as_compositing_says():
    colour = premultiplied(np.array([[0.9, 0.4, 0.2]]), np.array([0.6]))
    for adds, mode in ((True, "plus-lighter"), (False, "normal")):
        canvas = Canvas(32, 32)
        canvas.clear("#406080")
        below = canvas.pixels.copy()
        draw_discs(canvas, np.array([16.0]), np.array([16.0]), np.array([40.0]), colour, "disc", adds)
        above = np.broadcast_to(colour.view(np.uint8).reshape(1, 1, 4), below.shape).copy()
        blend(below, above, mode)
        assert np.abs(canvas.pixels.astype(int) - below).max() <= 1


def test_a_sprite_at_rest_is_its_picture_and_a_tint_shows_on_black():
    picture = np.zeros((20, 20, 4), np.uint8)
    picture[4:16, 6:14] = (0, 0, 0, 255)
    canvas = Canvas(40, 40)
    canvas.clear_through()
    red = premultiplied(np.array([[1.0, 0.0, 0.0]]), np.ones(1))
    size = np.array([20.0])
    middle = np.array([20.0])
    draw_sprites(canvas, picture, middle, middle, (size, size), np.zeros(1), red, tint="form", adds=False)
    assert canvas.pixels[20, 20].tolist() == [0, 0, 255, 255] and canvas.pixels[12, 12, 3] == 0
    assert canvas.pixels[..., 3].sum() / 255 == pytest.approx(12 * 8, rel=0.03)


def test_what_is_capped_is_said_with_the_number():
    found = project([new_layer("particles", rate=5000.0, life=60.0)], 90.0)
    stage = ProjectView(found, None).at(Fraction(80), SIZE)
    placed = found.layers[0]
    layer = stage.shown(placed).layer
    at = stage.moment(layer, placed)
    (said,) = layer.notes(at)
    assert f"{MOST_ALIVE:,}" in said and layer.born(at).total > MOST_ALIVE
    assert len(layer.born(at).numbers) <= MOST_ALIVE
    # Nothing, and a size of almost nothing, are drawn without a fault.
    render(project([new_layer("particles", rate=0.0), new_layer("particles", dot=0.05)]), None, Fraction(3), SIZE)


@pytest.mark.parametrize(("base", "inside"), [("ring", True), ("text", True), ("rectangle", True), ("path", False)])
def test_particles_are_born_within_their_shape(base, inside):
    given_settings = {"base": base, "inside": inside, "rate": 300.0, "life": 2.0, "speed": 0.0} | PLAIN
    layer, _, x, y, _ = alive(given_settings, 4)
    mask = np.zeros((SIZE.height, SIZE.width), np.uint8)
    outline = layer.ground(Viewport(SIZE.width, SIZE.height)).outline
    lines = [np.rint(piece.points * 256).astype(np.int32) for piece in outline.pieces]
    if inside:
        cv2.fillPoly(mask, lines, 255, shift=8)
    cv2.polylines(mask, lines, base != "path", 255, 2, shift=8)
    assert mask[y.astype(int), x.astype(int)].mean() > 250
    if base == "ring":
        # Even over the area: half of them within the radius that has half of it.
        away = np.hypot(x - 80, y - 45) / (layer.radius * 0.9)
        assert (away < np.sqrt(0.5)).mean() == pytest.approx(0.5, abs=0.05)


def test_particles_are_born_in_the_opaque_area_of_a_picture(tmp_path):
    picture = np.zeros((40, 80, 4), np.uint8)
    picture[:, :20] = 255
    path = tmp_path / "left.png"
    path.write_bytes(cv2.imencode(".png", picture)[1].tobytes())
    key = "a" * 64
    made = new_layer("particles", source="picture", source_image=key, source_size=80.0, rate=200.0, speed=0.0) | {}
    made["settings"] |= PLAIN | {"life": 2.0}
    found = project([made])
    stage = ProjectView(found, None, {key: str(path)}).at(Fraction(4), SIZE)
    layer, at = stage.shown(found.layers[0]).layer, stage.moment(stage.shown(found.layers[0]).layer, found.layers[0])
    places, _, _ = layer.flights(Viewport(SIZE.width, SIZE.height), layer.born(at), at)
    # A quarter of a picture that is 80 % of the short side wide, about the middle.
    assert places[:, 0].min() >= -40.3 and places[:, 0].max() <= -19.7 and np.ptp(places[:, 1]) > 30


def test_curves_over_life_say_how_large_and_how_solid():
    curve = [{"at": 0, "value": 0}, {"at": 0.5, "value": 100}, {"at": 1, "value": 0}]
    found = project([new_layer("particles", rate=50.0, life=2.0, size_life=curve, opacity_life=curve, **PLAIN)])
    stage = ProjectView(found, None).at(Fraction(5), SIZE)
    placed = found.layers[0]
    layer, at = stage.shown(placed).layer, stage.moment(stage.shown(placed).layer, placed)
    (cloud,) = layer.clouds(Viewport(SIZE.width, SIZE.height), at)
    ages = layer.born(at).ages / 2
    ages = ages[ages < 1]
    middle = int(np.argmin(abs(ages - 0.5)))
    assert cloud.sizes[middle] == pytest.approx(layer.dot, rel=0.01) and cloud.alphas[middle] > 0.99
    assert cloud.sizes[-1] < 0.2 * layer.dot and cloud.sizes.max() <= layer.dot + 1e-9


def test_whirls_neither_gather_nor_thin():
    """The curl of a potential has no divergence: by central differences, it is nothing beside the slopes themselves."""
    numbers = np.arange(400)
    grid = np.random.default_rng(3).uniform(-40, 40, (400, 3))
    times, step = np.full(400, 1.7), 0.05

    def at(dx, dy):
        return strays(5, numbers, grid + np.array([dx, dy, 0]), times, 25.0)

    across = (at(step, 0)[:, 0] - at(-step, 0)[:, 0]) / (2 * step)
    down = (at(0, step)[:, 1] - at(0, -step)[:, 1]) / (2 * step)
    assert np.abs(across + down).mean() < 0.03 * np.abs(across).mean()


def test_letters_and_several_pictures_are_shared_out():
    found = project([new_layer("particles", form="letters", letters="A B", rate=200.0, life=2.0)])
    stage = ProjectView(found, None).at(Fraction(4), SIZE)
    placed = found.layers[0]
    layer, at = stage.shown(placed).layer, stage.moment(stage.shown(placed).layer, placed)
    clouds = layer.clouds(Viewport(SIZE.width, SIZE.height), at)
    assert len(clouds) == 2 and sum(len(cloud.sizes) for cloud in clouds) > 200
    assert 0.4 < len(clouds[0].sizes) / len(clouds[1].sizes) < 2.5


def test_documents_of_the_version_before_keep_how_particles_fade():
    old = new_document("x", frame=SIZE, rate=Fraction(30), layers=[new_layer("particles")])
    old["version"] = 5
    own = old["layers"][0]["settings"]
    for name in ("size_life", "opacity_life", "tint"):
        del own[name]
    own |= {"dot_end": 50.0, "opacity_in": 20.0, "opacity_out": 30.0, "tinted": False}
    layer = parse(old).layers[0].layer
    assert layer.tint == "none" and layer.size_life == ((0.0, 100.0), (1.0, 50.0))
    assert layer.opacity_life == ((0.0, 0.0), (0.2, 100.0), (0.7, 100.0), (1.0, 0.0))
