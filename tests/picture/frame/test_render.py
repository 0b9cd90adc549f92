"""Pictures: colours, edges, bars at their height, and the same bytes in any order."""

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.conftest import RATE, sine, write_wav
from tests.picture.scenes import SMALL, black, project, similarity
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.declare.oklab import from_oklab, parse_hex, ramp, to_oklab
from velvetdrum.looks.default_design import starting_design
from velvetdrum.picture.frame.moments import moments_of
from velvetdrum.picture.frame.render import encode_still, render
from velvetdrum.scene.document import new_document, new_layer, new_track, parse
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.signals.audio_range import AudioRange


def test_oklab_of_published_colours():
    # B. Ottosson's reference values for the sRGB primaries.
    for rgb, lab in (
        ((1, 0, 0), (0.6280, 0.2249, 0.1258)),
        ((0, 1, 0), (0.8664, -0.2339, 0.1795)),
        ((0, 0, 1), (0.4520, -0.0325, -0.3115)),
        ((1, 1, 1), (1, 0, 0)),
    ):
        assert np.allclose(to_oklab(np.array(rgb, float)), lab, atol=5e-4)
        assert np.allclose(from_oklab(to_oklab(np.array(rgb, float))), rgb, atol=1e-4)


def test_a_ramp_begins_holds_and_ends_as_told():
    stops = ((0.25, "#ff0000"), (0.5, "#00ff00"), (0.5, "#0000ff"), (1.0, "#ffffff"))
    table = ramp(stops, 101, "srgb")
    assert np.allclose(table[:26], parse_hex("#ff0000"))
    assert np.allclose(table[49], parse_hex("#00ff00"), atol=0.05)
    assert np.allclose(table[50], parse_hex("#0000ff"), atol=1e-6)
    assert np.allclose(table[75], [0.5, 0.5, 1.0])
    steps = ramp(stops, 101, "srgb", True)
    assert len(np.unique(steps, axis=0)) == 3


def test_a_plain_backdrop_is_exactly_its_colour():
    picture = render(project(new_layer("backdrop", fill="plain", plain="#d8402a")), None, Fraction(0), SMALL)
    assert np.all(picture == [0x2A, 0x40, 0xD8, 255])


def test_dark_ramps_have_no_bands():
    dark = [{"at": 0, "colour": "#0c1022"}, {"at": 1, "colour": "#182240"}]
    layer = new_layer("backdrop", fill="linear", start_x=0, start_y=50, end_x=100, end_y=50, colours=dark)
    picture = render(project(layer), None, Fraction(0), FRAMES["wide"]).astype(float)
    # The mean of each column follows the ramp to a fraction of a step: there is no flat run followed by a jump.
    blue = picture[..., 0].mean(axis=0)
    smooth = np.convolve(blue, np.ones(41) / 41, "valid")
    assert np.abs(np.diff(smooth)).max() < 0.12
    table = ramp(((0.0, "#0c1022"), (1.0, "#182240")), 1920)[:, 2] * 255
    assert np.abs(blue - table).max() < 0.25


@pytest.mark.parametrize(("fill", "ends"), [("linear", (20, 20, 80, 70)), ("radial", (50, 50, 90, 50))])
def test_gradient_ends_are_where_they_were_put(fill, ends):
    x0, y0, x1, y1 = ends
    stops = [{"at": 0, "colour": "#ff0000"}, {"at": 1, "colour": "#0000ff"}]
    layer = new_layer("backdrop", fill=fill, start_x=x0, start_y=y0, end_x=x1, end_y=y1, colours=stops, mix="srgb")
    picture = render(project(layer), None, Fraction(0), SMALL)
    start = picture[round(1.8 * y0), round(3.2 * x0)]
    end = picture[min(179, round(1.8 * y1) + 4), min(319, round(3.2 * x1) + 4)]
    assert start[2] > 250
    assert end[0] > 250


def level_bars(**more):
    values = {
        "bands": 8,
        "gap": 0,
        "corner": 0,
        "least": 0,
        "width": 100,
        "reach": 100,
        "tilt_db": 0,
        "quiet_db": -60,
        "loud_db": -10,
        "attack_ms": 0,
        "release_ms": 0,
        "colours": [{"at": 0, "colour": "#ffffff"}],
    }
    return new_layer("spectrum", **values | more)


@pytest.mark.parametrize(
    ("grow", "y", "rows"), [("out", 100, slice(90, 180)), ("in", 0, slice(0, 90)), ("both", 50, slice(45, 135))]
)
def test_a_bar_is_as_long_as_its_level(tmp_path, grow, y, rows):
    edges = np.geomspace(40, 14_000, 9)
    tone = np.sqrt(edges[3] * edges[4])
    path = write_wav(tmp_path / "tone.wav", sine(tone, 2.0, -35.0))
    sound = AudioRange(analyse(path, tmp_path / "analysis", key=str(tmp_path)), 0.0, 2.0)
    picture = render(project(black(), level_bars(grow=grow, y=y)), sound, Fraction(1), SMALL)[..., 1]
    lit = picture[:, 140] > 127
    assert lit[rows].mean() > 0.96
    assert lit.sum() == pytest.approx(90, abs=2)
    assert not (picture[:, 20] > 127).any()


def test_a_growing_bar_does_not_jump_by_pixels(tmp_path):
    path = write_wav(tmp_path / "sweep.wav", sine(1000, 4.0) * np.linspace(0.02, 0.1, 4 * RATE))
    sound = AudioRange(analyse(path, tmp_path / "analysis", key=str(tmp_path)), 0.0, 4.0)
    made = project(black(), level_bars(bands=4, corner=100, release_ms=0), length=4.0)
    light = [render(made, sound, Fraction(n, 60), SMALL)[..., 1].astype(float).sum() / 255 for n in range(60, 200, 3)]
    steps = np.diff(light)
    assert (steps > 0).all()
    assert steps.max() < 4 * np.median(steps)


def test_a_small_picture_looks_like_the_large_one(use):
    made = parse(new_document("T", frame=FRAMES["wide"], rate=Fraction(30), layers=starting_design(use.recording)))
    large = render(made, use, Fraction(3), FRAMES["wide"])
    small = render(made, use, Fraction(3), FrameSize(960, 540))
    shrunk = large.reshape(540, 2, 960, 2, 4).mean(axis=(1, 3))
    assert similarity(shrunk, small) >= 0.97


@pytest.mark.parametrize("frame", list(FRAMES))
@pytest.mark.parametrize("paint", ["along", "level"])
def test_the_starting_design_fills_every_frame_and_leaves_its_edges_free(use, frame, paint):
    _, bars = starting_design(use.recording)
    bars["settings"]["paint"] = paint
    size = FRAMES[frame].scaled_to(240)
    made = project(black(), bars, frame=frame)
    lit = render(made, use, Fraction(3), size)[..., :3].max(axis=2) > 40
    assert 0.03 < lit.mean() < 0.6
    assert not lit[:4].any()
    assert not lit[:, :4].any()


def test_a_lent_canvas_changes_nothing_but_the_memory(use):
    from velvetdrum.picture.raster.canvas import Canvas

    made = project(level_bars(), frame=SMALL)
    lent = Canvas(SMALL.width, SMALL.height)
    for number in (40, 3, 90):
        fresh = render(made, use, Fraction(number, 30))
        assert np.array_equal(fresh, render(made, use, Fraction(number, 30), canvas=lent))


def test_without_sound_and_without_layers_there_is_a_picture():
    assert render(project(), None, Fraction(0), SMALL)[..., :3].max() == 0
    picture = render(project(black(), level_bars(least=5)), None, Fraction(0), SMALL)
    assert picture[90, 10, 0] == 255


def test_moments_are_where_the_sound_is(tmp_path: Path):
    parts = [
        np.zeros(RATE // 2),
        sine(300, 2, -20),
        sine(300, 1, -45),
        sine(300, 1, -3),
        sine(300, 1, -20),
        np.zeros(RATE),
    ]
    recording = analyse(write_wav(tmp_path / "a.wav", np.concatenate(parts)), tmp_path / "analysis")
    track = new_track("0" * 64, "a.wav", recording.facts.duration_s)
    made = new_document("T", frame=SMALL, rate=Fraction(30), layers=[], track=track)
    found = {moment["name"]: moment["frame"] / 30 for moment in moments_of(made, str(tmp_path / "analysis"))}
    assert found["first"] == pytest.approx(0.5, abs=0.05)
    assert 2.5 < found["quietest"] < 3.5
    assert 3.5 <= found["loudest"] <= 4.5
    assert found["last"] == pytest.approx(5.5, abs=0.05)


@pytest.mark.parametrize(("form", "start"), [("png", b"\x89PNG"), ("jpeg", b"\xff\xd8"), ("webp", b"RIFF")])
def test_stills_in_open_formats(form, start):
    assert encode_still(np.zeros((20, 20, 4), np.uint8), form).startswith(start)
