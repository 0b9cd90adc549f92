"""Checks of finished videos: planted flashes, a black second, a silence; and what is no flash."""

from __future__ import annotations

import json
from fractions import Fraction

import av
import numpy as np
import pytest
from click.testing import CliRunner

from tests.conftest import RATE, sine
from velvetdrum.cli import main
from velvetdrum.deliver.checks.flashes import FlashMeter
from velvetdrum.deliver.checks.report import check_video
from velvetdrum.deliver.errors import DeliverError

SIZE = (128, 72)


def flat(level, red=False):
    picture = np.zeros((SIZE[1], SIZE[0], 3), np.uint8)
    picture[..., 2 if red else slice(None)] = level
    return picture


def rate_of(pictures, fps=30.0, kind="general"):
    meter = FlashMeter()
    for number, picture in enumerate(pictures):
        meter.feed(picture, number / fps)
    return meter.rates(kind).max(), meter.spans()


@pytest.mark.parametrize(("per_s", "many"), [(2, False), (3, False), (4, True), (6, True), (10, True)])
def test_general_flashes_are_counted_by_the_second(per_s, many):
    pictures = [flat(200 if int(number * per_s * 2 / 30) % 2 else 20) for number in range(90)]
    rate, spans = rate_of(pictures)
    assert rate == pytest.approx(per_s, abs=1) and bool(spans) is many
    if many:
        assert spans[0].kind == "general" and spans[0].end_s > 1.5


def test_what_is_weak_light_small_or_slow_is_no_flash():
    def blink(low, high, part=1.0):
        out = []
        for number in range(90):
            picture = flat(20)
            side = int(SIZE[0] * part**0.5), int(SIZE[1] * part**0.5)
            picture[: side[1], : side[0]] = high if number // 3 % 2 else low
            out.append(picture)
        return out

    assert rate_of(blink(20, 200))[1]
    # A change of relative luminance of less than a tenth: sRGB 150 and 160 differ by 0.05.
    assert not rate_of(blink(150, 160))[1]
    # Both states lighter than 0.80 of relative luminance: sRGB 232 has 0.806.
    assert not rate_of(blink(232, 255))[1]
    # A quarter of a window of a third of each side is 1/36 of the picture.
    assert not rate_of(blink(20, 200, 0.02))[1]
    assert rate_of(blink(20, 200, 0.04))[1]


def test_red_flashes_are_found_where_luminance_alone_hardly_changes():
    # Saturated red and a dark grey-green of nearly the same luminance.
    red = flat(220, red=True)
    other = flat(0)
    other[..., 1] = 116
    pictures = [red if number // 3 % 2 else other for number in range(90)]
    assert rate_of(pictures, kind="red")[0] >= 4
    assert "red" in {span.kind for span in rate_of(pictures)[1]}


def blinking(low, high, per_s, fps=30.0, seconds=3.0, where=None, size=SIZE):
    """Pictures that go to and fro between two colours, so many times a second, in a part of the picture."""
    out = []
    for number in range(round(seconds * fps)):
        picture = np.full((size[1], size[0], 3), 20, np.uint8)
        place = where(number) if where else (slice(None), slice(None))
        picture[place] = high if int(number / fps * per_s * 2 + 1e-6) % 2 else low
        out.append(picture)
    return out


def swapping(square, size, per_s=6, fps=30.0):
    y, x = np.mgrid[0 : size[1], 0 : size[0]]
    board = ((x // square + y // square) % 2).astype(np.uint8)[..., None] * np.full(3, 255, np.uint8)
    return [255 - board if int(number / fps * per_s * 2) % 2 else board for number in range(60)]


def noise(size):
    draws = np.random.default_rng(3)
    return [draws.integers(0, 256, (size[1], size[0], 1), np.uint8).repeat(3, 2) for _ in range(60)]


def travelling(per_s, fps=30.0, width=0.3, size=SIZE):
    """A light bar that comes by so many times a second."""
    out = []
    for number in range(round(3 * fps)):
        left = (number * per_s / fps) % 1.0
        x = (np.arange(size[0]) / size[0] - left) % 1.0
        picture = np.full((size[1], size[0], 3), 10, np.uint8)
        picture[:, x < width] = 240
        out.append(picture)
    return out


def waves(per_s, low, high, fps=30.0):
    levels = [(low + high) / 2 - (high - low) / 2 * np.cos(2 * np.pi * per_s * n / fps) for n in range(90)]
    return [flat(round(level)) for level in levels]


def halves(per_s, fps=30.0):
    """One half is light while the other is dark."""
    out = []
    for number in range(90):
        picture, on = flat(10), int(number / fps * per_s * 2) % 2
        picture[:, : SIZE[0] // 2] = 240 if on else 10
        picture[:, SIZE[0] // 2 :] = 10 if on else 240
        out.append(picture)
    return out


def burst(count, fps=30.0):
    """So many flashes within a second, then none."""
    pictures = [flat(10)] * 90
    for number in range(count):
        pictures[10 + number * 6 : 12 + number * 6] = [flat(240)] * 2
    return pictures


def red_of(value):
    """A red of a linear light, as a byte."""
    light = 1.055 * value ** (1 / 2.4) - 0.055 if value > 0.0031308 else value * 12.92
    return (0, 0, round(light * 255))


def square(width, height):
    return lambda number: (slice(0, round(SIZE[1] * height)), slice(0, round(SIZE[0] * width)))


def spots(number):
    """Four corners, each too small for itself, and too far from each other."""
    y, x = np.mgrid[0 : SIZE[1], 0 : SIZE[0]]
    return (np.minimum(y, SIZE[1] - 1 - y) < 8) & (np.minimum(x, SIZE[0] - 1 - x) < 12)


WHITE, BLACK, GREY = (255, 255, 255), (10, 10, 10), (128, 128, 128)


@pytest.mark.parametrize(
    ("pictures", "kind", "low", "high"),
    [
        # Rate: more than three in any second.
        (blinking(BLACK, WHITE, 1), "general", 1, 1),
        (blinking(BLACK, WHITE, 2), "general", 2, 2),
        (blinking(BLACK, WHITE, 3), "general", 3, 3),
        (blinking(BLACK, WHITE, 4), "general", 4, 4),
        (blinking(BLACK, WHITE, 5), "general", 5, 5),
        (blinking(BLACK, WHITE, 7.5), "general", 7, 8),
        (blinking(BLACK, WHITE, 15), "general", 14, 15),
        (blinking(BLACK, WHITE, 3, fps=60000 / 1001), "general", 3, 3),
        (blinking(BLACK, WHITE, 25, fps=50), "general", 24, 25),
        (burst(3), "general", 3, 3),
        (burst(4), "general", 4, 4),
        # Depth: a tenth of relative luminance, the darker state under 0.80.
        (blinking((120, 120, 120), (132, 132, 132), 6), "general", 0, 0),
        (blinking((20, 20, 20), (90, 90, 90), 6), "general", 0, 0),
        (blinking((20, 20, 20), (96, 96, 96), 6), "general", 6, 6),
        (blinking((233, 233, 233), WHITE, 6), "general", 0, 0),
        (blinking((200, 200, 200), WHITE, 6), "general", 6, 6),
        # Fades are changes, too, if they come back.
        (waves(5, 10, 240), "general", 5, 5),
        (waves(2, 10, 240), "general", 2, 2),
        (waves(5, 100, 112), "general", 0, 0),
        ([flat(min(n * 3, 255)) for n in range(90)], "general", 0, 0),
        # Area: a quarter of a window of a third of each side.
        (blinking(BLACK, WHITE, 6, where=square(0.15, 0.15)), "general", 0, 0),
        (blinking(BLACK, WHITE, 6, where=square(0.2, 0.2)), "general", 6, 6),
        (blinking(BLACK, WHITE, 6, where=square(1.0, 0.06)), "general", 0, 0),
        (blinking(BLACK, WHITE, 6, where=square(1.0, 0.12)), "general", 6, 6),
        (blinking(BLACK, WHITE, 6, where=spots), "general", 0, 0),
        (halves(5), "general", 5, 5),
        # Fine, balanced patterns; coarse ones are none.
        (swapping(2, (480, 270)), "general", 0, 0),
        (swapping(2, (256, 144)), "general", 0, 0),
        (swapping(1, (480, 270)), "general", 0, 0),
        (swapping(60, (480, 270)), "general", 6, 6),
        (noise((480, 270)), "general", 0, 1),
        # What travels flashes where it comes by, as often as it comes by.
        (travelling(6), "general", 5, 6),
        (travelling(2), "general", 1, 2),
        (travelling(1, width=0.05), "general", 0, 1),
        # Red: (R - G - B) * 320 by more than 20, one state with four fifths of red.
        (blinking(red_of(0.03), red_of(0.055), 6), "red", 0, 0),
        (blinking(red_of(0.05), red_of(0.15), 6), "red", 6, 6),
        (blinking(red_of(0.30), (90, 90, 170), 6), "red", 6, 6),
        (blinking((100, 100, 180), (60, 60, 160), 6), "red", 0, 0),
        # Just under four fifths, and just over: by 8 of 20.
        (blinking((24, 24, 94), (21, 21, 94), 6), "red", 0, 0),
    ],
)
def test_flashes_are_counted_as_wcag_says(pictures, kind, low, high):
    fps = 30.0 if len(pictures) in (60, 90) else len(pictures) / 3.0
    rate, spans = rate_of(pictures, fps, kind)
    assert low <= rate <= high
    assert any(span.kind == kind for span in spans) == (rate > 3)


def write_video(path, pictures, samples):
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=Fraction(30), options={"crf": "12", "preset": "ultrafast"})
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        sound = out.add_stream("aac", rate=RATE, layout="mono")
        for number, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(picture, format="bgr24")
            frame.pts, frame.time_base = number, Fraction(1, 30)
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
        for start in range(0, len(samples) - 1023, 1024):
            frame = av.AudioFrame.from_ndarray(samples[None, start : start + 1024].copy(), format="fltp", layout="mono")
            frame.sample_rate, frame.pts, frame.time_base = RATE, start, Fraction(1, RATE)
            out.mux(sound.encode(frame))
        out.mux(sound.encode(None))


@pytest.fixture(scope="module")
def planted(tmp_path_factory):
    """Six seconds: moving noise, a black second from 1 to 2 s, flashes from 3 to 4.5 s, silence from 2 to 3 s."""
    path = tmp_path_factory.mktemp("planted") / "video.mp4"
    draws = np.random.default_rng(2)
    pictures = []
    for number in range(180):
        second = number / 30
        if 1 <= second < 2:
            pictures.append(flat(0))
        elif 3 <= second < 4.5:
            pictures.append(flat(230 if number // 3 % 2 else 10))
        elif second >= 4.6:
            pictures.append(flat(90))
        else:
            pictures.append(np.kron(draws.integers(60, 120, (9, 16, 3), np.uint8), np.ones((8, 8, 1), np.uint8)))
    samples = sine(440, 6.0, -20.0).astype(np.float32)
    samples[2 * RATE : 3 * RATE] = 0
    write_video(path, pictures, samples)
    return path


def test_what_was_planted_is_found(planted):
    found = check_video(planted)
    assert found.frames == 180 and found.rate == pytest.approx(30) and found.duration_s == pytest.approx(6.0, abs=0.01)
    (black,) = found.black
    assert black == (pytest.approx(1.0, abs=0.04), pytest.approx(2.0, abs=0.04))
    (silence,) = found.silence
    assert silence == (pytest.approx(2.0, abs=0.06), pytest.approx(3.0, abs=0.06))
    assert [span.kind for span in found.flashes] == ["general"]
    assert 2.6 < found.flashes[0].start_s < 3.6 and 4.0 < found.flashes[0].end_s < 5.0
    assert any(begin == pytest.approx(4.6, abs=0.1) and end > 5.9 for begin, end in found.frozen)
    # A sine of -20 dB peak in one channel: its mean square lies 3 dB lower, and the weighting takes 0.7 at 440 Hz.
    assert found.loudness_lufs == pytest.approx(-24.0, abs=0.5) and found.true_peak_dbtp == pytest.approx(-20, abs=1)


def test_the_command_writes_a_report(planted, tmp_path):
    report = tmp_path / "report.json"
    result = CliRunner().invoke(main, ["check", str(planted), "-o", str(report)])
    assert result.exit_code == 0 and "Flashes (general)" in result.output and "Black from 1.00" in result.output
    values = json.loads(report.read_text())
    assert {"flashes", "loudness_lufs", "true_peak_dbtp", "black", "frozen", "silence", "rate", "frames"} <= set(values)
    assert set(values["flashes"][0]) == {"start_s", "end_s", "kind", "per_s"} and values["frames"] == 180


def test_what_is_no_video_is_told(tmp_path):
    bad = tmp_path / "bad.mp4"
    bad.write_bytes(b"no video at all" * 100)
    with pytest.raises(DeliverError, match=r"bad\.mp4 could not be read as a video"):
        check_video(bad)
    result = CliRunner().invoke(main, ["check", str(bad)])
    assert result.exit_code == 1 and "velvetdrum: bad.mp4" in result.output
