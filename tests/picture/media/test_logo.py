"""Logos and SVG pictures: sharp at any size, clear space, a pulse that is never cut, other colours; and what is refused."""

import contextlib
from fractions import Fraction

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.picture.scenes import SMALL, black, drawn, lit, project
from velvetdrum.demo.pictures import lamp_svg
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.layers.logo import Logo
from velvetdrum.picture.media.pictures import PictureError, check_picture
from velvetdrum.picture.media.svg.drawn import SvgError, check_svg
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.frames import FrameSize

KEY = "e" * 64
DISC = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 50"><style>.a, .b { fill: #ff0000 } /* x */</style>
<rect class="a" width="50" height="50"/><rect x="50" width="50" height="50" style="fill:#0000ff"/></svg>"""


@pytest.fixture
def lamp(tmp_path):
    path = tmp_path / "lamp.svg"
    path.write_text(lamp_svg())
    return {KEY: str(path)}


@pytest.fixture
def flag(tmp_path):
    path = tmp_path / "flag.svg"
    path.write_text(DISC)
    return {KEY: str(path)}


def logo(media, frame=SMALL, **settings):
    made = project(black(), new_layer("logo", image=KEY, **settings), frame=frame)
    return render(made, None, Fraction(0), frame, media=media)[..., 2::-1].astype(int)


def test_an_svg_is_a_picture_of_its_own_shape_and_its_style_sheet_counts(flag):
    facts = check_picture(DISC.encode())
    assert (facts.width, facts.height, facts.suffix) == (100, 50, ".svg")
    picture = drawn(None, "picture", 0.0, media=flag, image=KEY, width=50.0, height=100.0)
    rows, columns = np.flatnonzero(lit(picture).any(axis=1)), np.flatnonzero(lit(picture).any(axis=0))
    assert (np.ptp(columns) + 1, np.ptp(rows) + 1) == (160, 80)
    assert picture[90, 100].tolist() == [255, 0, 0] and picture[90, 220].tolist() == [0, 0, 255]
    cut = drawn(None, "picture", 0.0, media=flag, image=KEY, width=50.0, height=100.0, crop_left=50.0)
    assert cut[90, 160].tolist() == [0, 0, 255] and not (cut[..., 0] > 100).any()


def test_an_svg_is_as_sharp_at_any_size(lamp):
    small = logo(lamp, FrameSize(256, 256), size=90.0, inside=False)
    large = logo(lamp, FrameSize(2048, 2048), size=90.0, inside=False)
    shrunk = cv2.resize(large.astype(np.uint8), (256, 256), interpolation=cv2.INTER_AREA)
    assert np.abs(shrunk.astype(int) - small).mean() < 1.0
    edge = large[1024, :, 0]
    first = np.argmax(edge > 100)
    # From ground to disc within two pixels: nothing was enlarged.
    assert edge[first - 2] < 10 and edge[first + 2] > 230


@given(
    x=st.floats(-20, 120),
    y=st.floats(-20, 120),
    size=st.floats(5, 140),
    clear=st.floats(0, 40),
    pulse=st.floats(0, 100),
    by=st.floats(0, 60),
    tall=st.booleans(),
)
def test_a_logo_and_its_clear_space_are_never_cut(x, y, size, clear, pulse, by, tall):
    canvas = Canvas(*((180, 320) if tall else (320, 180)))
    values = {"x": x, "y": y, "size": size, "clear": clear, "pulse": pulse, "pulse_by": by}
    box = Logo(values).extent(canvas, RenderContext(Fraction(0), None))
    space = clear / 100 * size * canvas.short / 100
    if canvas.width > 2.2 * space and canvas.height > 2.2 * space:
        assert box.left >= space - 1e-6 and box.top >= space - 1e-6
        assert box.right <= canvas.width - space + 1e-6 and box.bottom <= canvas.height - space + 1e-6
    else:
        assert box.right > box.left


def test_a_pulse_grows_evenly_about_the_middle(lamp):
    widths = []
    for pulse in (0.0, 25.0, 50.0, 75.0, 100.0):
        picture = logo(lamp, FrameSize(400, 400), size=60.0, pulse=pulse, pulse_by=20.0)[..., 0].astype(float)
        widths.append(picture[200].sum() / 244)
        x, _ = np.arange(400) + 0.5, 0
        assert (picture.sum(axis=0) * x).sum() / picture.sum() == pytest.approx(200, abs=0.3)
    assert np.diff(widths) == pytest.approx(np.diff(widths).mean(), rel=0.12)
    assert widths[-1] / widths[0] == pytest.approx(1.2, rel=0.02)


def test_a_logo_comes_in_one_colour_and_with_one_colour_changed(lamp):
    plain = logo(lamp, size=80.0, recolour="alpha", plain="#00ff00")
    assert plain[90, 160].tolist() == [0, 255, 0] and not (plain[..., 0] > 10).any()
    swapped = logo(lamp, size=80.0, recolour="replace", replaced="#f4eadb", plain="#3366ff", near=8.0)
    own = logo(lamp, size=80.0)
    ground, tower = own.sum(axis=2) > 690, (own.sum(axis=2) < 90) & (own.sum(axis=2) > 40)
    assert np.abs(swapped[ground] - (0x33, 0x66, 0xFF)).max() < 40
    assert np.abs(swapped[tower] - own[tower]).max() < 30


def test_a_missing_or_damaged_logo_does_not_stop_the_frame(tmp_path):
    broken = tmp_path / "broken.svg"
    broken.write_text("<svg")
    for media in ({}, {KEY: str(tmp_path / "gone.svg")}, {KEY: str(broken)}):
        made = project(new_layer("logo", image=KEY), new_layer("picture", image=KEY))
        assert render(made, None, Fraction(0), SMALL, media=media).shape == (180, 320, 4)


HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 9 9">'


@pytest.mark.parametrize(
    ("file", "words"),
    [
        (HEAD + "<script>fetch('x')</script></svg>", "script"),
        (HEAD + '<rect onload="x()" width="3" height="3"/></svg>', "script"),
        (HEAD + '<foreignObject><p xmlns="http://www.w3.org/1999/xhtml">x</p></foreignObject></svg>', "foreign"),
        (HEAD + '<use href="http://elsewhere/a.svg#b"/></svg>', "outside of itself"),
        (HEAD + '<use xlink:href="file:///etc/passwd"/></svg>', "outside of itself"),
        (HEAD + '<rect width="3" height="3" fill="url(http://elsewhere/a#b)"/></svg>', "outside of itself"),
        (HEAD + "<style>@import 'http://elsewhere/a.css';</style></svg>", "outside of itself"),
        ('<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]>' + HEAD + "&b;</svg>", "entities"),
        (
            ('<?xml version="1.0" encoding="UTF-16"?><!DOCTYPE svg [<!ENTITY a "x">]>' + HEAD + "&a;</svg>").encode(
                "utf-16"
            ),
            "entities",
        ),
        (HEAD + "<g>" * 300 + "</g>" * 300 + "</svg>", "nests too deep"),
        (HEAD + '<image href="data:image/png;base64,AAAA"/></svg>', "damaged"),
        ('<svg xmlns="http://www.w3.org/2000/svg"><rect width="3" height="3"/></svg>', "how large"),
        ("<html><body/></html>", "first element is not svg"),
        (HEAD + "<rect", "not well-formed"),
        (b"<svg>" + b" " * 8_000_001 + b"</svg>", "larger than 8 MB"),
    ],
)
def test_svg_files_that_run_lead_outside_or_grow_are_refused(file, words):
    data = file if isinstance(file, bytes) else file.encode()
    with pytest.raises(SvgError, match=words):
        check_svg(data)
    with pytest.raises(PictureError):
        check_picture(data)


@given(st.binary(max_size=400))
def test_no_bytes_do_worse_than_a_sentence(data):
    for piece in (data, b"<svg " + data, HEAD.encode() + data + b"</svg>"):
        with contextlib.suppress(PictureError):
            facts = check_picture(piece)
            assert facts.width > 0 and facts.height > 0
