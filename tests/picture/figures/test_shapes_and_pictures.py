"""Shapes, pictures and haze: areas and lengths by formula, colours where they belong, motion without jumps."""

from fractions import Fraction

import cv2
import numpy as np
import pytest

from tests.picture.scenes import SMALL, black, drawn, lit, project
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.media.picture_decoder import decoded
from velvetdrum.picture.media.pictures import PictureError, check_picture
from velvetdrum.picture.outlines import curves
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.frames import FrameSize

WHITE = {"plain": "#ffffff"}


@pytest.mark.parametrize(
    ("settings", "area"),
    [
        ({"form": "rectangle", "width": 100.0, "height": 50.0}, 180 * 90),
        ({"form": "rectangle", "width": 50.0, "height": 50.0, "corner": 25.0}, np.pi * 45**2),
        ({"form": "ellipse", "width": 100.0, "height": 50.0}, np.pi * 90 * 45),
        ({"form": "ring", "radius": 40.0, "hole": 50.0}, np.pi * 72**2 * 0.75),
        ({"form": "polygon", "radius": 40.0, "sides": 6}, 1.5 * np.sqrt(3) * 72**2),
        ({"form": "star", "radius": 40.0, "sides": 5, "hole": 50.0}, 5 * 72 * 36 * np.sin(np.pi / 5)),
        ({"form": "path", "path": "M0 0H10V10H0ZM3 3V7H7V3Z"}, 72 * 72 * 0.84),
    ],
)
def test_a_filled_shape_has_the_area_of_its_formula(settings, area):
    assert drawn(None, "shape", **WHITE, **settings)[..., 0].sum() / 255 == pytest.approx(area, rel=0.01)
    turned = drawn(None, "shape", turn=33.0, **WHITE, **settings)
    assert turned[..., 0].sum() / 255 == pytest.approx(area, rel=0.01)


def test_an_ellipse_is_gone_round_at_an_even_pace():
    outline = curves.ellipse(200.0, 80.0)
    # Ramanujan's second formula for the length of an ellipse.
    h = ((100 - 40) / 140) ** 2
    assert outline.length == pytest.approx(np.pi * 140 * (1 + 3 * h / (10 + np.sqrt(4 - 3 * h))), rel=1e-5)
    points = outline.at(np.linspace(0, 1, 101))[0]
    steps = np.hypot(*np.diff(points, axis=0).T)
    assert steps.max() / steps.min() < 1.02


@pytest.mark.parametrize(("begin", "end", "share"), [(0, 100, 1.0), (0, 25, 0.25), (80, 130, 0.5), (-10, 10, 0.2)])
def test_a_stroke_is_drawn_on_as_far_as_it_says(begin, end, share):
    common = {"form": "ellipse", "width": 60.0, "height": 60.0, "filled": False, "stroked": True, "stroke": 3.0}
    picture = drawn(None, "shape", draw_from=begin, draw_to=end, **common, **WHITE)
    ends = 0 if share == 1 else np.pi * 2.7**2
    assert picture[..., 0].sum() / 255 == pytest.approx(share * np.pi * 108 * 5.4 + ends, rel=0.03)


def test_dashes_fill_their_share_evenly_round_a_closed_shape():
    common = {"form": "rectangle", "width": 80.0, "height": 60.0, "filled": False, "stroked": True, "stroke": 0.6}
    whole = drawn(None, "shape", **common, **WHITE)[..., 0].sum()
    dashed = drawn(None, "shape", dash=4.0, dash_gap=50.0, **common, **WHITE)[..., 0].sum()
    assert dashed / whole == pytest.approx(0.57, abs=0.06)


@pytest.fixture
def flag(tmp_path):
    """A picture of 40 by 20: left half solid red, right half half-clear blue; the hash that stands for it."""
    pixels = np.zeros((20, 40, 4), np.uint8)
    pixels[:, :20], pixels[:, 20:] = (0, 0, 255, 255), (255, 0, 0, 128)
    path = tmp_path / "flag.png"
    cv2.imwrite(str(path), pixels)
    return {"f" * 64: str(path)}


def shown(flag, **settings):
    return drawn(None, "picture", media=flag, image="f" * 64, **settings)


@pytest.mark.parametrize(("fit", "box"), [("contain", (160, 80)), ("cover", (160, 144)), ("stretch", (160, 144))])
def test_a_picture_fits_its_box(flag, fit, box):
    picture = lit(shown(flag, fit=fit, width=50.0, height=80.0), 60)
    rows, columns = np.flatnonzero(picture.any(axis=1)), np.flatnonzero(picture.any(axis=0))
    assert (np.ptp(columns) + 1, np.ptp(rows) + 1) == pytest.approx(box, abs=1)


def test_clear_parts_let_through_what_is_behind_and_edges_do_not_darken(flag):
    made = project(
        new_layer("backdrop", fill="plain", plain="#ffffff"),
        new_layer("picture", image="f" * 64, width=100.0, height=100.0, fit="stretch"),
    )
    picture = render(made, None, Fraction(0), SMALL, media=flag)
    assert picture[90, 40, 2::-1].tolist() == [255, 0, 0]
    assert np.allclose(picture[90, 280, 2::-1], (127, 127, 255), atol=2)
    # Across the border red, blue and the white behind mix in straight lines: 191 is the middle of both.
    assert picture[90, :, :3].max(axis=1).min() >= 180


def test_crop_cuts_and_recolour_colours(flag):
    box = {"width": 100.0, "height": 100.0, "fit": "stretch"}
    assert np.allclose(shown(flag, crop_left=50.0, **box)[90, 20], (0, 0, 128), atol=2)
    plain = shown(flag, recolour="alpha", plain="#00ff00", **box)
    assert plain[90, 20].tolist() == [0, 255, 0] and np.allclose(plain[90, 300], (0, 128, 0), atol=2)
    half = shown(flag, recolour="alpha", plain="#00ff00", amount=50.0, **box)
    assert np.allclose(half[90, 20], (128, 128, 0), atol=2)


def test_a_tint_works_on_black_too(tmp_path):
    path = tmp_path / "ramp.png"
    cv2.imwrite(str(path), np.tile(np.linspace(0, 255, 256).astype(np.uint8), (8, 1)))
    row = drawn(
        None,
        "picture",
        media={"a" * 64: str(path)},
        image="a" * 64,
        width=100.0,
        height=100.0,
        fit="stretch",
        recolour="tint",
        plain="#ff0000",
    )[90]
    assert row[2, 0] > 60 and row[2, 1] < 5
    assert np.allclose(row[317], 255, atol=6)
    assert (np.diff(row.sum(axis=1)) >= -2).all()


def test_pictures_that_are_too_large_or_none_are_refused():
    import struct
    import zlib

    def chunk(name, data):
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", 30_000, 30_000, 8, 2, 0, 0, 0))
    body = chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    with pytest.raises(PictureError, match="30000 × 30000"):
        check_picture(head + body)
    with pytest.raises(PictureError, match="no picture"):
        check_picture(b"hello")
    with pytest.raises(PictureError):
        decoded(head + body)


@pytest.mark.parametrize("code", range(1, 9))
def test_a_photograph_stands_upright(code):
    # A JPEG whose EXIF note says how it was turned; upright it is red on top.
    upright = np.zeros((32, 32, 3), np.uint8)
    upright[:16], upright[16:] = (0, 0, 255), (255, 0, 0)
    undo = {
        1: lambda p: p,
        2: lambda p: p[:, ::-1],
        3: lambda p: p[::-1, ::-1],
        4: lambda p: p[::-1],
        5: lambda p: p.transpose(1, 0, 2),
        6: lambda p: np.rot90(p),
        7: lambda p: p[::-1, ::-1].transpose(1, 0, 2),
        8: lambda p: np.rot90(p, -1),
    }[code]
    jpeg = cv2.imencode(".jpg", np.ascontiguousarray(undo(upright)), [cv2.IMWRITE_JPEG_QUALITY, 98])[1].tobytes()
    note = b"Exif\0\0II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0" + bytes([code, 0, 0, 0]) + b"\0\0\0\0"
    marked = jpeg[:2] + b"\xff\xe1" + (len(note) + 2).to_bytes(2, "big") + note + jpeg[2:]
    found = decoded(marked)
    assert found[4, 16, 2] > 200 and found[28, 16, 0] > 200


def test_haze_drifts_and_changes_without_a_jump_and_is_alike_at_any_size():
    still = {"speed": 0.0, "boil": 0.0, "density": 100.0}
    assert np.array_equal(drawn(None, "haze", 1.0, **still), drawn(None, "haze", 9.0, **still))
    assert not np.array_equal(drawn(None, "haze", **still), drawn(None, "haze", seed=2, **still))
    steps = [
        np.abs(drawn(None, "haze", t, boil=1.0) - drawn(None, "haze", t + 1 / 60, boil=1.0)).max()
        for t in (0.98, 0.995, 1.0, 1.5)
    ]
    assert max(steps) < 24
    # Drifting to the right by 18 pixels a second.
    first, later = (drawn(None, "haze", t, boil=0.0, speed=10.0, heading=90.0, density=100.0) for t in (2.0, 4.0))
    assert np.abs(first[:, 20:260] - later[:, 56:296]).mean() < 2
    small = drawn(None, "haze", 2.0, **still).astype(float)
    large = drawn(None, "haze", 2.0, size=FrameSize(960, 540), **still).astype(float)
    assert np.abs(large.reshape(180, 3, 320, 3, 3).mean(axis=(1, 3)) - small).mean() < 2


def test_haze_lets_through_what_is_behind():
    made = project(black(), new_layer("haze", density=50.0, veil=50.0, thick="#ffffff", thin="#ffffff"))
    assert np.allclose(render(made, None, Fraction(1), SMALL)[..., :3], 128, atol=2)


def test_backdrops_with_corners_and_turns():
    corners = drawn(
        None,
        "backdrop",
        fill="corners",
        mix="srgb",
        corner_1="#ff0000",
        corner_2="#00ff00",
        corner_3="#0000ff",
        corner_4="#ffffff",
    )
    assert np.allclose(corners[0, 0], (255, 0, 0), atol=3) and np.allclose(corners[90, 160], 127, atol=3)
    stops = [{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff"}]
    turn = drawn(
        None, "backdrop", fill="angular", mix="srgb", colours=stops, start_x=50.0, start_y=50.0, end_x=50.0, end_y=0.0
    )[..., 0]
    for (x, y), share in {(200, 90): 0.25, (160, 150): 0.5, (100, 90): 0.75}.items():
        assert turn[y, x] == pytest.approx(255 * share, abs=4)
