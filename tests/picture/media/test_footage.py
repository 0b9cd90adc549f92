"""Footage: every frame exact in any order, uneven and turned clips, proxies, timing, grades, and what is damaged."""

from fractions import Fraction

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import sine
from tests.picture.media.clips import HEIGHT, WIDTH, numbered, read_number, turned_quarter, write_clip
from tests.picture.scenes import SMALL, drawn, project
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.layers.footage import Footage
from velvetdrum.picture.media.clips.clip import Clip, opened
from velvetdrum.picture.media.clips.index import ClipError
from velvetdrum.picture.media.clips.preparation import PROXY, SOUND, clip_facts, clip_sound, prepare_clip
from velvetdrum.picture.media.clips.timing import Timing
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.frames import FrameSize

KEY = "c" * 64


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    return write_clip(tmp_path_factory.mktemp("clip") / "count.mp4", 60)


@pytest.mark.parametrize(
    ("codec", "suffix"),
    [("libx264", "mp4"), ("libx264", "mkv"), ("mpeg4", "avi"), ("mjpeg", "mov"), ("libvpx-vp9", "webm")],
)
def test_every_frame_is_reached_in_any_order(tmp_path, codec, suffix):
    pix_fmt = "yuvj420p" if codec == "mjpeg" else "yuv420p"
    found = Clip(str(write_clip(tmp_path / f"count.{suffix}", 40, codec=codec, pix_fmt=pix_fmt)))
    assert found.frames == 40 and found.size == (WIDTH, HEIGHT)
    assert found.length_s == pytest.approx(1.6, abs=0.01)
    order = np.random.default_rng(3).permutation(40)
    assert [read_number(found.pixels(int(number))) for number in order] == order.tolist()


def test_a_frame_has_equal_bytes_however_it_was_reached(clip):
    forward, back = Clip(str(clip)), Clip(str(clip))
    one = {number: forward.pixels(number).copy() for number in range(60)}
    assert all(np.array_equal(back.pixels(number), one[number]) for number in reversed(range(60)))


@given(st.floats(0, 2.4))
def test_a_second_shows_the_frame_that_has_begun(clip, seconds):
    assert opened(str(clip)).number_at(seconds) == min(int(seconds * 25 + 1e-5), 59)


def test_uneven_frame_times_are_kept(tmp_path):
    pts = [0, 40, 200, 210, 500, 900, 910, 1500]
    path = write_clip(tmp_path / "uneven.mkv", 8, pts=pts)
    facts = clip_facts(path)
    assert facts.varying and facts.frames == 8
    found = Clip(str(path))
    for at, number in ((0.0, 0), (0.039, 0), (0.041, 1), (0.205, 2), (0.499, 3), (0.6, 4), (1.49, 6), (1.6, 7)):
        assert found.number_at(at) == number
        assert read_number(found.pixels(found.number_at(at))) == number


def test_a_turned_clip_stands_upright(tmp_path):
    path = turned_quarter(write_clip(tmp_path / "phone.mp4", 5))
    facts = clip_facts(path)
    assert (facts.width, facts.height) == (HEIGHT, WIDTH) and facts.turn
    upright = Clip(str(path)).pixels(0)
    expected = cv2.rotate(numbered(0), cv2.ROTATE_90_CLOCKWISE)
    assert upright.shape[:2] == (WIDTH, HEIGHT)
    assert np.abs(upright[..., :3].astype(int) - expected).mean() < 6


def test_alpha_is_kept_in_the_original_and_in_the_proxy(tmp_path):
    def half(number):
        out = np.zeros((HEIGHT, WIDTH, 4), np.uint8)
        out[:, WIDTH // 2 :] = (255, 255, 255, 255)
        return out

    path = write_clip(tmp_path / "cut.mov", 4, codec="qtrle", pix_fmt="argb", frames=half)
    facts = prepare_clip(path, tmp_path / "made")
    assert facts.alpha
    for shown in (path, tmp_path / "made" / PROXY):
        pixels = Clip(str(shown)).pixels(2)
        assert pixels[48, 20].tolist() == [0, 0, 0, 0]
        assert pixels[48, 140, 3] > 250 and pixels[48, 140, :3].min() > 245
    seen = drawn(None, "footage", 0.1, media={KEY: str(path)}, clip=KEY, fit="stretch")
    assert seen[90, 40].tolist() == [0, 0, 0] and seen[90, 280].min() > 250


def test_colours_are_those_of_the_file(tmp_path):
    def plain(number):
        return np.broadcast_to(np.array([60, 120, 200], np.uint8), (720, 1280, 3))

    pixels = Clip(str(write_clip(tmp_path / "plain.mp4", 2, frames=plain))).pixels(1)
    # 720 lines without a mark are read as BT.709; the encoder's converter wrote BT.601.
    fixed = np.array([60, 120, 200])
    assert np.abs(pixels[360, 640, :3].astype(int) - fixed).max() < 28
    lower = Clip(str(write_clip(tmp_path / "small.mp4", 2, frames=lambda number: plain(number)[:96, :160]))).pixels(1)
    assert np.abs(lower[48, 80, :3].astype(int) - fixed).max() < 4


def test_a_proxy_shows_the_same_frames_as_its_original(tmp_path):
    pts = [0, 40, 200, 210, 500, 900, 910, 1500]
    path = write_clip(tmp_path / "uneven.mkv", 8, pts=pts)
    prepare_clip(path, tmp_path / "made")
    one, other = Clip(str(path)), Clip(str(tmp_path / "made" / PROXY))
    assert one.length_s == other.length_s and one.frames == other.frames
    for at in np.linspace(0, 1.6, 50):
        assert one.number_at(at) == other.number_at(at)
    assert [read_number(other.pixels(number)) for number in (7, 2, 5, 0)] == [7, 2, 5, 0]


def test_a_large_clip_has_a_small_proxy_and_sound_beside_it(tmp_path):
    def large(number):
        return np.full((720, 1280, 3), number * 20, np.uint8)

    path = write_clip(tmp_path / "large.mp4", 5, frames=large, sound=sine(440, 0.2, -6.0))
    heard = []
    facts = prepare_clip(path, tmp_path / "made", heard.append)
    assert facts.sound and heard[-1] == 1.0
    assert Clip(str(tmp_path / "made" / PROXY)).size == (960, 540)
    samples = clip_sound(tmp_path / "made")
    assert samples.shape[1] == 2 and samples.shape[0] == pytest.approx(9600, abs=2100)
    assert (tmp_path / "made" / SOUND).exists()


@pytest.mark.parametrize(("late", "begins"), [(0, 0.0), (24_000, 0.5)])
def test_sound_lies_where_it_does_beside_the_pictures(tmp_path, late, begins):
    path = write_clip(tmp_path / "late.mkv", 50, sound=sine(440, 1.0, -6.0), sound_late=late)
    prepare_clip(path, tmp_path / "made")
    loud = np.flatnonzero(np.abs(clip_sound(tmp_path / "made")[:, 0].astype(int)) > 3000)
    assert loud[0] / 48_000 == pytest.approx(begins, abs=0.03)


def test_preparing_stops_and_leaves_nothing(tmp_path, clip):
    class Stop(Exception):
        pass

    def stop(share):
        raise Stop

    with pytest.raises(Stop):
        prepare_clip(clip, tmp_path / "made", stop)
    assert list(tmp_path.iterdir()) == []


def test_what_is_no_clip_is_refused_with_a_sentence(tmp_path, clip):
    (tmp_path / "text.mp4").write_text("not a video at all " * 50)
    with pytest.raises(ClipError, match="no video that can be read"):
        clip_facts(tmp_path / "text.mp4")
    (tmp_path / "list.m3u8").write_text("#EXTM3U\n#EXT-X-VERSION:3\nfile:///etc/passwd\n")
    with pytest.raises(ClipError):
        clip_facts(tmp_path / "list.m3u8")
    import soundfile

    soundfile.write(tmp_path / "sound.wav", sine(440, 0.2), 48_000)
    with pytest.raises(ClipError, match="no pictures in it"):
        clip_facts(tmp_path / "sound.wav")
    (tmp_path / "empty.mp4").write_bytes(b"")
    with pytest.raises(ClipError):
        clip_facts(tmp_path / "empty.mp4")


def test_a_damaged_clip_shows_what_can_be_read(tmp_path):
    path = write_clip(tmp_path / "hurt.mkv", 40)
    data = bytearray(path.read_bytes())
    middle = len(data) // 2
    data[middle : middle + 400] = bytes(400)
    path.write_bytes(bytes(data))
    found = Clip(str(path))
    for number in (0, found.frames // 2, found.frames - 1):
        assert found.pixels(number).shape == (HEIGHT, WIDTH, 4)
    short = tmp_path / "short.mkv"
    short.write_bytes(bytes(data[: len(data) * 3 // 4]))
    cut = Clip(str(short))
    assert 0 < cut.frames < 40 and read_number(cut.pixels(0)) == 0


def test_timing_loops_holds_and_runs_back():
    times = np.array([0.0, 1.0, 1.5, 2.0, 2.5, 3.5, 4.25])
    # From second 1 on, the clip's part from 2 to 3 s at half its speed: two seconds long.
    assert Timing(1.0, 2.0, 3.0, 0.5, "loop").source(times) == pytest.approx([2, 2, 2.25, 2.5, 2.75, 2.25, 2.625])
    assert Timing(1.0, 2.0, 3.0, 0.5, "hold").source(times) == pytest.approx([2, 2, 2.25, 2.5, 2.75, 3, 3])
    back = Timing(1.0, 2.0, 3.0, 0.5, "ping-pong").source(times)
    assert back == pytest.approx([2, 2, 2.25, 2.5, 2.75, 2.75, 2.375])


@pytest.mark.parametrize("over", ["loop", "hold", "ping-pong"])
@pytest.mark.parametrize("backward", [False, True])
def test_a_clip_that_is_cut_in_two_goes_on_where_it_was(over, backward):
    """What comes later with as much more slip shows the same pictures at the same times."""
    times = np.arange(3.0, 9.0, 0.25)
    whole = Timing(1.0, 2.0, 3.25, 0.5, over, 0.2, backward).source(times)
    after = Timing(3.0, 2.0, 3.25, 0.5, over, 0.2 + (3.0 - 1.0) * 0.5, backward).source(times)
    assert after == pytest.approx(whole)
    forward = Timing(1.0, 2.0, 3.25, 0.5, over, 0.2).source(times)
    if backward:
        assert whole == pytest.approx(2.0 + 3.25 - forward)


def frame_of(clip, at, **settings):
    picture = drawn(None, "footage", at, media={KEY: str(clip)}, clip=KEY, fit="stretch", **settings)
    return read_number(picture[..., ::-1])


def test_footage_runs_with_its_layer(clip):
    assert [frame_of(clip, at) for at in (0.0, 0.5, 1.0)] == [0, 12, 25]
    assert frame_of(clip, 1.0, in_s=0.4) == 35
    assert frame_of(clip, 1.0, speed=50) == 12
    assert frame_of(clip, 3.0) == 15  # 2.4 s long: it begins again
    assert frame_of(clip, 3.0, over="hold") == 59
    assert frame_of(clip, 1.0, out_s=0.8) == 5
    late = {"from_at": "time", "from_s": 0.6, "to_at": "time", "to_s": 5.0}
    assert frame_of(clip, 1.0, **late) == 10


def test_footage_fits_its_box(clip):
    wide = drawn(None, "footage", 0.0, size=FrameSize(400, 100), media={KEY: str(clip)}, clip=KEY)
    assert wide.shape[:2] == (100, 400) and wide[20, 10, 0] > 180
    held = drawn(None, "footage", 0.0, size=FrameSize(400, 100), media={KEY: str(clip)}, clip=KEY, fit="contain")
    left = (400 - 100 * WIDTH / HEIGHT) / 2
    assert held[20, int(left) - 3].max() < 20 and held[20, int(left) + 4, 0] > 180


def test_a_grade_is_that_of_the_css_filters(tmp_path):
    def plain(number):
        return np.broadcast_to(np.array([90, 140, 200], np.uint8), (96, 160, 3))

    path = write_clip(tmp_path / "plain.mp4", 3, frames=plain)
    own = drawn(None, "footage", 0.0, media={KEY: str(path)}, clip=KEY)[90, 160] / 255
    for settings in (
        {"brightness": 50.0},
        {"contrast": 160.0},
        {"saturation": 0.0},
        {"saturation": 180.0},
        {"brightness": 130.0, "contrast": 70.0, "saturation": 40.0},
    ):
        wanted = own * settings.get("brightness", 100) / 100
        slope = settings.get("contrast", 100) / 100
        wanted = np.clip(wanted * slope + 0.5 - 0.5 * slope, 0, 1)
        luma = wanted @ np.array([0.213, 0.715, 0.072])
        wanted = np.clip(luma + (wanted - luma) * settings.get("saturation", 100) / 100, 0, 1)
        found = drawn(None, "footage", 0.0, media={KEY: str(path)}, clip=KEY, **settings)[90, 160]
        assert found == pytest.approx(wanted * 255, abs=3), settings


def test_shake_stays_within_its_pixels_and_is_the_same_each_time(clip):
    still = drawn(None, "footage", 0.0, size=FrameSize(640, 360), media={KEY: str(clip)}, clip=KEY)
    shaken = {"shake": 12.0, "shake_hz": 8.0, "clip": KEY, "over": "hold", "out_s": 0.04}
    places = []
    for step in range(12):
        picture = drawn(None, "footage", step / 7, size=FrameSize(640, 360), media={KEY: str(clip)}, **shaken)
        assert picture[0, :, :].sum() + picture[-1, :, :].sum() >= 0 and picture.shape == still.shape
        edge = np.argmax(picture[60, :, 0] < 110)
        places.append(edge)
        again = drawn(None, "footage", step / 7, size=FrameSize(640, 360), media={KEY: str(clip)}, **shaken)
        assert np.array_equal(picture, again)
    # 12 px of 1080 lines are 4 px of 360, and a pixel of what it is shown larger.
    assert np.ptp(places) > 1 and max(abs(place - 320) for place in places) <= 5.5


def test_slow_zoom_and_drift_move_without_showing_an_edge(clip):
    settings = {"clip": KEY, "over": "hold", "out_s": 0.04, "zoom": 120.0, "zoom_rate": 60.0, "drift_x": 200.0}
    for at in (0, 2, 5):
        picture = drawn(None, "footage", at, media={KEY: str(clip)}, **settings)
        assert picture[20, 2, 0] > 150  # red to the very edge
    first, later = (drawn(None, "footage", at, media={KEY: str(clip)}, **settings) for at in (0, 5))
    assert np.argmax(later[20, :, 0] < 110) > np.argmax(first[20, :, 0] < 110) + 5


def test_a_missing_clip_is_shown_as_missing_and_breaks_nothing(tmp_path):
    for media in ({}, {KEY: str(tmp_path / "gone.mp4")}):
        made = project(new_layer("footage", clip=KEY), new_layer("shape", plain="#00ff00", width=10.0, height=10.0))
        picture = render(made, None, Fraction(0), SMALL, media=media)
        assert picture[90, 160, 1] > 240
        assert 0 < picture[5:60, 5:60, :3].std() < 60


def test_settings_that_lie_outside_of_the_clip_still_show_it(clip):
    assert Footage({"in_s": 900.0}).timing(0.0, 2.4, 0.0).in_s < 2.4
    assert frame_of(clip, 0.5, in_s=100.0) == 59


def test_a_held_clip_shows_one_time_of_it(clip):
    assert [frame_of(clip, at, runs="held", held_s=0.8) for at in (0.0, 1.7)] == [20, 20]
    assert frame_of(clip, 0.0, runs="held", held_s=100.0) == 59


def test_a_loop_with_a_cross_fade_goes_from_its_end_into_its_beginning(clip):
    """From 1.6 to 2.4 s of the clip, 0.4 s of them over each other: it begins again each 0.4 s."""
    timing = Timing(0.0, 1.6, 2.4, 1.0, "loop", cross_s=0.4)
    assert timing.source(np.array([0.0, 0.3, 0.4, 0.5])) == pytest.approx([1.6, 1.9, 1.6, 1.7])
    assert [timing.crossing(at)[1] for at in (0.0, 0.3)] == [0.0, 0.0]
    over, share = timing.crossing(0.5)
    assert (over, share) == (pytest.approx(2.1), pytest.approx(0.75))
    # Where it begins again, the end alone is seen: no jump from the frame before.
    assert timing.crossing(0.4) == (pytest.approx(2.0), pytest.approx(1.0))
    settings = {"clip": KEY, "fit": "stretch", "in_s": 1.6, "out_s": 2.4}
    files = {KEY: str(clip)}
    mixed = drawn(None, "footage", 0.5, media=files, cross_s=0.4, **settings)
    one = drawn(None, "footage", 0.0, media=files, clip=KEY, fit="stretch", runs="held", held_s=1.7)
    other = drawn(None, "footage", 0.0, media=files, clip=KEY, fit="stretch", runs="held", held_s=2.1)
    assert np.abs(mixed - (0.25 * one + 0.75 * other)).max() <= 2
