"""Footage as cameras and programs leave it: transport streams, trimmed files, fields, wide light, moving pictures."""

import io
import zipfile

import av
import cv2
import numpy as np
import pytest
from av.video.reformatter import ColorPrimaries, ColorTrc
from PIL import Image

from tests.picture.media.clips import HEIGHT, WIDTH, numbered, read_number, write_clip
from velvetdrum.picture.media.clips.clip import Clip, opened, traits_of
from velvetdrum.picture.media.clips.index import ClipError
from velvetdrum.picture.media.clips.light import REFERENCE_WHITE, hlg_light, pq_light, rolled_off
from velvetdrum.picture.media.clips.pictures import SEQUENCE_RATE
from velvetdrum.picture.media.clips.preparation import ALPHA, PROXY, clip_facts, prepare_clip


def shuffled(clip) -> list[int]:
    """The numbers in a clip's frames, asked for in any order, in their own."""
    order = np.random.default_rng(3).permutation(clip.frames)
    found = {int(number): read_number(clip.pixels(int(number))) for number in order}
    return [found[number] for number in range(clip.frames)]


def trimmed(source, path, frames):
    """An MP4 from which frames were cut at the front by an edit list, as trimming without encoding does."""
    options = {"avoid_negative_ts": "disabled", "use_editlist": "1"}
    with av.open(str(source)) as given, av.open(str(path), "w", format="mp4", options=options) as out:
        stream = given.streams.video[0]
        target = out.add_stream_from_template(stream)
        back = round(frames / (stream.time_base * 25))
        for packet in given.demux(stream):
            if packet.dts is not None:
                packet.pts, packet.dts, packet.stream = packet.pts - back, packet.dts - back, target
                out.mux(packet)
    return path


@pytest.mark.parametrize(
    ("name", "codec"),
    [
        ("a.ts", "libx264"),
        ("a.m2ts", "libx264"),
        ("a.mpg", "mpeg2video"),
        ("b.mpg", "mpeg1video"),
        ("a.avi", "libx264"),
    ],
)
def test_streams_without_an_index_and_counted_ones_are_exact_in_any_order(tmp_path, name, codec):
    found = Clip(str(write_clip(tmp_path / name, 60, codec=codec)))
    assert shuffled(found) == list(range(60))
    assert found.length_s == pytest.approx(2.4, abs=0.05)


def test_a_stream_that_begins_in_the_middle_of_a_group_begins_at_its_first_whole_frame(tmp_path):
    data = write_clip(tmp_path / "a.ts", 60).read_bytes()
    (tmp_path / "late.ts").write_bytes(data[len(data) // 188 // 5 * 188 :])
    numbers = shuffled(Clip(str(tmp_path / "late.ts")))
    assert numbers == list(range(numbers[0], 60)) and 0 < numbers[0] < 30


def test_two_recordings_in_one_stream_are_shown_one_after_the_other(tmp_path):
    one = write_clip(tmp_path / "one.ts", 40).read_bytes()
    two = write_clip(tmp_path / "two.ts", 30, frames=lambda number: numbered(number + 100)).read_bytes()
    (tmp_path / "both.ts").write_bytes(one + two)
    found = Clip(str(tmp_path / "both.ts"))
    assert shuffled(found) == [*range(40), *range(100, 130)]
    assert np.allclose(np.diff(found.times), 0.04, atol=1e-3)


@pytest.mark.parametrize("cut", [7, 15, 29])
def test_a_trimmed_file_and_its_proxy_show_the_same_exact_frames(tmp_path, cut):
    whole = write_clip(tmp_path / "whole.mp4", 65, options={"x264-params": "scenecut=0:keyint=30:min-keyint=30"})
    path = trimmed(whole, tmp_path / "cut.mp4", cut)
    assert shuffled(Clip(str(path))) == list(range(cut, 65))
    prepare_clip(path, tmp_path / "made")
    assert shuffled(Clip(str(tmp_path / "made" / PROXY))) == list(range(cut, 65))


@pytest.mark.parametrize(("codec", "options"), [("libvpx-vp9", {}), ("libvpx", {"auto-alt-ref": "0"})])
def test_the_alpha_of_vp8_and_vp9_is_read(tmp_path, codec, options):
    def clear(number):
        out = np.zeros((HEIGHT, WIDTH, 4), np.uint8)
        out[..., :3], out[..., 3] = numbered(number), 255
        out[:, WIDTH // 2 :, 3] = number * 12
        return out

    path = tmp_path / "clear.webm"
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=25, options={"crf": "4", "b:v": "2M"} | options)
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuva420p"
        for number in range(20):
            frame = av.VideoFrame.from_ndarray(clear(number), format="bgra").reformat(format="yuva420p")
            frame.pts = number
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    found = Clip(str(path))
    assert traits_of(str(path)).alpha
    for number in (0, 10, 19, 4):
        assert abs(int(found.pixels(number)[40, WIDTH - 20, 3]) - number * 12) <= 8
        assert found.pixels(number)[40, 20, 3] >= 250
    prepare_clip(path, tmp_path / "made")
    assert (tmp_path / "made" / ALPHA).exists()


def test_fields_are_made_whole_and_equal_however_they_are_reached(tmp_path):
    def interlaced(number):
        out = np.zeros((HEIGHT, WIDTH, 3), np.uint8)
        for row in range(HEIGHT):
            left = min((2 * number + row % 2) * 3, WIDTH - 20)
            out[row, left : left + 20] = 255
        return out

    options = {"flags": "+ilme+ildct", "x264-params": "interlaced=1:tff=1"}
    path = write_clip(tmp_path / "fields.mp4", 20, frames=interlaced, options=options)
    assert clip_facts(path).interlaced
    found, back = Clip(str(path)), Clip(str(path))
    combed = np.abs(np.diff(interlaced(8)[20:80, :, 0].astype(int), axis=0)).mean()
    whole = np.abs(np.diff(found.pixels(8)[20:80, :, 0].astype(int), axis=0)).mean()
    assert whole < combed / 5
    assert all(np.array_equal(found.pixels(number), back.pixels(number)) for number in (9, 3, 5, 6, 0, 19))


def test_light_of_pq_and_hlg_is_that_of_its_standard():
    # BT.2100 and BT.2408: PQ 58 % and HLG 75 % are the reference white of 203 cd/m2, PQ 75 % is 983.
    assert pq_light(np.array([0.5807, 0.7518, 1.0])) == pytest.approx([203, 1000, 10_000], rel=0.01)
    assert hlg_light(np.array([0.75, 1.0])) == pytest.approx([203, 1000], rel=0.01)
    grey = rolled_off(np.array([[[0.0] * 3, [1.0] * 3, [1000 / REFERENCE_WHITE] * 3]], np.float32))[0, :, 0]
    assert grey[0] == 0 and 0.45 < grey[1] < 0.6 and grey[2] == pytest.approx(1.0, abs=1e-3)


@pytest.mark.parametrize(("transfer", "name"), [(ColorTrc.SMPTE2084, "PQ"), (ColorTrc.ARIB_STD_B67, "HLG")])
def test_frames_of_wide_light_are_brought_to_bt_709(tmp_path, transfer, name):
    path = tmp_path / "wide.mp4"
    code = 0.5807 if name == "PQ" else 0.75
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx265", rate=25, options={"x265-params": "log-level=none:crf=4"})
        stream.width, stream.height, stream.pix_fmt = 64, 64, "yuv420p10le"
        context = stream.codec_context
        context.color_primaries, context.color_trc, context.colorspace = ColorPrimaries.BT2020, transfer, 9
        for number in range(3):
            frame = av.VideoFrame(64, 64, "yuv420p10le")
            for plane, value in zip(frame.planes, (round(64 + code * 876), 512, 512), strict=True):
                plane.update(np.full(plane.buffer_size // 2, value, "<u2").tobytes())
            frame.pts = number
            frame.color_primaries, frame.color_trc, frame.colorspace = ColorPrimaries.BT2020, transfer, 9
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    assert clip_facts(path).light == name
    found = Clip(str(path)).pixels(1)
    # The reference white comes to lie at about three quarters of the signal, grey and solid.
    assert np.ptp(found[32, 32, :3]) <= 3 and 0.70 * 255 < found[32, 32, 0] < 0.82 * 255 and found[32, 32, 3] == 255


def test_chroma_at_full_size_is_not_doubled(tmp_path):
    def edge(number):
        out = np.full((64, 128, 3), (30, 30, 200), np.uint8)
        out[:, 64:] = (200, 30, 30)
        return out

    path = write_clip(tmp_path / "edge.mp4", 3, frames=edge, options={"crf": "0"})
    row = Clip(str(path)).pixels(1)[32, 54:74, 2].astype(int)
    steps = np.diff(row)
    # Doubled chroma changes every second pixel only.
    assert (steps[6:13] < 0).sum() >= 3 and np.abs(steps).max() < 170


@pytest.mark.parametrize("form", ["GIF", "PNG", "WEBP"])
def test_moving_pictures_are_clips_frame_by_frame(tmp_path, form):
    path = tmp_path / f"moves.{form.lower()}"
    stills = [Image.fromarray(numbered(number)[..., ::-1]) for number in range(12)]
    lasting = [40, 40, 200, *([80] * 9)]
    more = {"lossless": True} if form == "WEBP" else {}
    stills[0].save(path, form, save_all=True, append_images=stills[1:], duration=lasting, loop=0, **more)
    found = opened(str(path))
    assert shuffled(found) == list(range(12))
    assert found.length_s == pytest.approx(sum(lasting) / 1000)
    assert [found.number_at(second) for second in (0.0, 0.05, 0.09, 0.27, 0.29)] == [0, 1, 2, 2, 3]
    facts = prepare_clip(path, tmp_path / "made")
    assert facts.frames == 12 and facts.varying and not facts.sound
    assert shuffled(opened(str(tmp_path / "made" / PROXY))) == list(range(12))


def test_numbered_pictures_in_a_zip_are_a_clip(tmp_path):
    path = tmp_path / "walk.zip"
    with zipfile.ZipFile(path, "w") as out:
        for number in (10, 2, 1, 7):
            data = cv2.imencode(".png", numbered(number))[1].tobytes()
            out.writestr(f"folder/walk 2026 shot{number}.png", data)
        out.writestr("notes.txt", "not a picture")
    found = opened(str(path))
    assert shuffled(found) == [1, 2, 7, 10] and found.length_s == pytest.approx(4 / SEQUENCE_RATE)


def test_pictures_that_do_not_move_and_bad_zips_are_told(tmp_path):
    still = io.BytesIO()
    Image.new("RGB", (8, 8)).save(still, "GIF")
    (tmp_path / "still.gif").write_bytes(still.getvalue())
    with pytest.raises(ClipError, match="does not move"):
        opened(str(tmp_path / "still.gif"))
    with zipfile.ZipFile(tmp_path / "none.zip", "w") as out:
        out.writestr("a.txt", "x")
    with pytest.raises(ClipError, match="numbered pictures"):
        opened(str(tmp_path / "none.zip"))
