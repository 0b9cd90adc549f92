"""Base shapes against closed forms and another library: lengths, even steps, outward, no seam."""

import numpy as np
import pytest
import skia
from hypothesis import given
from hypothesis import strategies as st

from velvetdrum.picture.figures.base_shape import BASES, PathRun
from velvetdrum.picture.media.svg.outline_file import svg_path_data
from velvetdrum.picture.outlines import curves
from velvetdrum.picture.outlines.outline import Outline
from velvetdrum.picture.outlines.paths import PathError, fitted, path_outline
from velvetdrum.picture.typesetting.shaping import text_outline

CLOSED = {
    "ring": (curves.ring(80.0), 160 * np.pi),
    "triangle": (curves.polygon(80.0, 3), 3 * 160 * np.sin(np.pi / 3)),
    "polygon": (curves.polygon(80.0, 11), 11 * 160 * np.sin(np.pi / 11)),
    "rectangle": (curves.rounded_rectangle(200.0, 90.0, 0.0), 580.0),
    "rounded": (curves.rounded_rectangle(200.0, 90.0, 30.0), 2 * (140 + 30) + 60 * np.pi),
}
OPEN = {
    "line": (curves.line(120.0), 120.0),
    "arc": (curves.arc(80.0, 210.0), 80 * np.deg2rad(210)),
}
MIRRORS = st.sampled_from([(False, False), (True, False), (True, True)])
"""Whether a run is mirrored, and whether from its middle."""
HEART = "M10 30A20 20 0 0 1 50 30A20 20 0 0 1 90 30Q90 60 50 90Q10 60 10 30Z"


@pytest.mark.parametrize("name", [*CLOSED, *OPEN])
def test_lengths_are_those_of_the_formula(name):
    outline, length = (CLOSED | OPEN)[name]
    assert outline.length == pytest.approx(length, rel=2e-6)
    assert outline.closed is (name in CLOSED)


@pytest.mark.parametrize("name", list(CLOSED))
def test_outward_is_away_from_the_middle(name):
    points, normals, tangents = CLOSED[name][0].at(np.linspace(0, 1, 97))
    assert ((points * normals).sum(axis=1) > 0).all()
    assert np.allclose((normals * tangents).sum(axis=1), 0, atol=1e-9)
    assert np.allclose(np.hypot(*normals.T), 1)


def test_up_is_outward_from_a_line_and_an_arc_swells_at_its_top():
    assert np.allclose(curves.line(10).at(np.array([0.3]))[1], [[0, -1]])
    points, normals, _ = curves.arc(50, 90).at(np.array([0.0, 0.5, 1.0]))
    assert np.allclose(points[1], [0, -50]) and np.allclose(normals[1], [0, -1])
    assert np.allclose(points[0][0], -points[2][0])


@pytest.mark.parametrize("data", [HEART, "M0 0C100 0 0 100 100 100S40 180 10 90", "m5 5h40v30l-20 25z"])
def test_steps_along_a_path_are_even_by_another_librarys_measure(data):
    outline = path_outline(data)
    path = skia.Path()
    for piece in outline.pieces:
        path.addPath(skia.Path.Polygon([skia.Point(*point) for point in piece.points.tolist()], False))
    measure = skia.PathMeasure(path, False, 8.0)
    assert measure.getLength() == pytest.approx(outline.length, rel=1e-4)
    places = np.linspace(0.01, 0.99, 40)
    points, _, tangents = outline.at(places)
    for place, point, tangent in zip(places, points, tangents, strict=True):
        position, direction = measure.getPosTan(float(place * measure.getLength()))
        assert np.allclose(point, [position.x(), position.y()], atol=0.02)
        # At a corner two directions are right.
        if abs(direction.x() * tangent[0] + direction.y() * tangent[1]) < 0.9:
            near = outline.at(np.array([place - 1e-3, place + 1e-3]))[2]
            assert abs(near[0] @ near[1]) < 0.999


def test_an_arc_command_is_the_circle_that_it_says():
    points, normals, _ = path_outline("M-50 0A50 50 0 0 1 50 0A50 50 0 0 1 -50 0Z").at(np.linspace(0, 1, 50))
    assert np.allclose(np.hypot(*points.T), 50, atol=0.02)
    assert np.allclose(normals, points / 50, atol=0.01)


@given(st.integers(4, 512), st.sampled_from(list(CLOSED)), MIRRORS, st.floats(-1, 1), st.booleans())
def test_a_closed_shape_has_no_seam_and_no_doubled_bar(count, name, mirrored, start, reverse):
    outline, _ = CLOSED[name]
    mirror, middle = mirrored
    places, indices = PathRun(start, reverse, mirror, 1, middle=middle).spots(count)
    total = count * (2 if mirror else 1)
    assert len(places) == total
    # All the way round, the seam among them, each step is as long as any other.
    steps = np.diff(np.concatenate([places, [places[0] + 1]]))
    assert np.allclose(steps, 1 / total, atol=1e-9)
    assert np.array_equal(np.bincount(indices), np.full(count, 2 if mirror else 1))
    points = outline.at(places)[0]
    apart = np.hypot(*(points - np.roll(points, -1, axis=0)).T)
    assert apart.min() > 0.3 * outline.length / total


@given(st.integers(1, 60), st.integers(1, 8), MIRRORS, st.booleans(), st.floats(-1, 1))
def test_spots_stand_where_the_figure_says_that_they_do(count, repeat, mirrored, reverse, start):
    mirror, middle = mirrored
    run = PathRun(start, reverse, mirror, repeat, middle=middle)
    places, indices = run.spots(count)
    assert len(places) == count * repeat * (2 if mirror else 1)
    assert (np.diff(places) > 0).all() and places[0] >= 0 and places[-1] < 1
    assert np.array_equal(np.minimum((run.figure_place(places) * count).astype(int), count - 1), indices)


@given(st.floats(0.01, 0.99), st.integers(1, 8), MIRRORS, st.booleans(), st.floats(-1, 1))
def test_a_place_in_the_figure_is_found_wherever_the_figure_comes_there(within, repeat, mirrored, reverse, start):
    mirror, middle = mirrored
    run = PathRun(start, reverse, mirror, repeat, middle=middle)
    places = run.places(np.array([within]))
    assert len(places) == repeat * (2 if mirror else 1)
    assert np.allclose(run.figure_place(places), within, atol=1e-9)


def test_left_and_right_have_a_half_each():
    _, indices = PathRun(0.0, False, True, 1).spots(3, halves=True)
    assert indices.tolist() == [0, 1, 2, 5, 4, 3]
    _, indices = PathRun(0.0, False, True, 1, middle=True).spots(3, halves=True)
    assert indices.tolist() == [2, 1, 0, 3, 4, 5]


def test_holes_of_letters_grow_into_themselves():
    for letter, holes in (("L", 0), ("o", 1), ("B", 2)):
        pieces = text_outline(letter, "work-sans-bold").pieces
        assert len(pieces) == holes + 1
        for piece in pieces:
            outline = Outline((piece,))
            points, normals, _ = outline.at(np.linspace(0.01, 0.99, 60))
            off_ink = [sum(_inside(other, point) for other in pieces) % 2 == 0 for point in points + normals * 4]
            assert np.mean(off_ink) > 0.95


def _inside(piece, point):
    x, y = (piece.points - point).T
    angle = np.unwrap(np.arctan2(y, x))
    return abs(angle[-1] - angle[0]) > 3


def test_text_is_kerned_and_lacking_letters_come_from_elsewhere():
    def width(text):
        points = np.concatenate([piece.points for piece in text_outline(text, "work-sans-medium").pieces])
        return np.ptp(points[:, 0])

    assert width("AVAVAV") < 6 * (width("AA") - width("A")) - 20
    assert width("Kai 漢") > width("Kai") + 500
    assert text_outline("\U00013000", "fraunces-semibold").length > 100
    with pytest.raises(PathError, match="type a word"):
        text_outline("  ", "fraunces-semibold")


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ("", "no path data yet"),
        ("L 3 3", "begins with M"),
        ("M 1 2 L 3", "breaks off"),
        ("hello", "no “o”"),
        ("M1 1", "draws nothing"),
        ("M 1 1 L 1e999 2", "too large"),
        ("M1 1 L 1 1 1 1 1 1", "draws nothing"),
        ("M" + "0 " * 60_000, "up to 100,000"),
    ],
)
def test_path_data_that_cannot_be_drawn_is_refused_with_a_sentence(data, words):
    with pytest.raises(PathError, match=words):
        path_outline(data)


@given(st.text(alphabet="MmLlHhVvCcSsQqTtAaZz0123456789.-, e", max_size=60))
def test_any_path_data_is_drawn_or_refused(data):
    try:
        outline = fitted(path_outline(data), 100.0)
    except PathError:
        return
    points, normals, _ = outline.at(np.linspace(0, 1, 33))
    assert np.isfinite(points).all() and np.isfinite(normals).all()
    assert np.abs(points).max() < 51


def test_an_svg_file_gives_its_shapes_and_nothing_else():
    file = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><script>alert(1)</script>
        <g transform="translate(10 5) scale(2)"><rect x="1" y="1" width="4" height="3"/></g>
        <defs><circle r="900"/></defs>
        <image href="http://elsewhere/picture.png"/></svg>"""
    outline = path_outline(svg_path_data(file))
    assert outline.length == pytest.approx(28)
    assert np.allclose(outline.pieces[0].points.min(axis=0), [12, 7])


@pytest.mark.parametrize(
    ("file", "words"),
    [
        (b"<svg", "not well-formed"),
        (b"\x89PNG\r\n", "not well-formed"),
        (b"<html></html>", "first element is not svg"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'><text>Hi</text></svg>", "no shapes"),
        (b"<!DOCTYPE svg [<!ENTITY a 'aaaa'><!ENTITY b '&a;&a;'>]><svg>&b;</svg>", "entities"),
        (b"<svg>" + b" " * 8_000_001 + b"</svg>", "larger than 8 MB"),
        (
            b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0 L'/></svg>",
            "could not be read|no shapes|draws nothing",
        ),
    ],
)
def test_svg_files_that_are_refused(file, words):
    with pytest.raises(PathError, match=words):
        svg_path_data(file)


def test_every_base_shape_is_covered_here_or_drawn_elsewhere():
    assert set(BASES) == {"line", "ring", "arc", "polygon", "rectangle", "path", "text"}
