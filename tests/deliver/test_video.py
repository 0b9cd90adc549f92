"""Exported files, decoded again: colours, tags, sync, and the same pictures from any worker."""

from concurrent.futures import Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import numpy as np
import pytest
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter

from tests.conftest import RATE, write_wav
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.audio.errors import Cancelled
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job, Sources, make_segment, run_export, segment_path
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.video_format import FORMATS, VideoFormat
from velvetdrum.limits.process import worker_context
from velvetdrum.scene.document import new_document, new_layer, new_track
from velvetdrum.scene.frames import FrameSize, parse_rate


class Here(Executor):
    """Runs each task at once, in this thread."""

    def submit(self, fn, /, *args, **kwargs):
        future: Future = Future()
        try:
            future.set_result(fn(*args, **kwargs))
        except BaseException as problem:
            future.set_exception(problem)
        return future


def make_job(folder: Path, samples: np.ndarray, rate: str = "30", size=(160, 90), layers=None, in_s=0.0, **part) -> Job:
    folder.mkdir(parents=True, exist_ok=True)
    sound = write_wav(folder / "sound.wav", samples, subtype="PCM_16")
    recording = analyse(sound, folder / "analysis", key=str(folder))
    track = new_track("0" * 64, "sound.wav", recording.facts.duration_s) | {"in_s": in_s}
    layers = layers or [new_layer("backdrop", fill="plain", plain="#000000"), white_bars()]
    document = new_document("Test", frame=FrameSize(*size), rate=parse_rate(rate), layers=layers, track=track)
    return Job(
        document,
        Sources(str(sound), str(folder / "analysis")),
        plan_export(document, **part),
        str(folder / "export"),
    )


def white_bars():
    return new_layer(
        "spectrum",
        bands=8,
        colours=[{"at": 0, "colour": "#ffffff"}],
        attack_ms=0,
        release_ms=60,
        reach=100,
        width=100,
        gap=0,
        quiet_db=-60,
        loud_db=-30,
        least=0,
    )


def decoded(path: Path):
    """Luma means with their times, and the sound as (start, samples)."""
    with av.open(str(path)) as container:
        pictures = [(float(f.time), f.to_ndarray(format="gray").mean()) for f in container.decode(video=0)]
    with av.open(str(path)) as container:
        frames = list(container.decode(audio=0))
    return pictures, float(frames[0].time), np.concatenate([f.to_ndarray() for f in frames], axis=1)


def clicks(seconds: float, at: list[float]) -> np.ndarray:
    samples = np.random.default_rng(5).standard_normal(round(seconds * RATE)) * 1e-4
    for second in at:
        first = round(second * RATE)
        samples[first : first + 96] = 0.9
    return samples


@pytest.mark.parametrize("rate", ["24", "30000/1001", "30", "60"])
def test_sound_and_picture_arrive_together(tmp_path, rate):
    job = make_job(tmp_path, clicks(6.0, [1.0, 5.2]), rate)
    output = tmp_path / "out.mp4"
    run_export(job, Here(), 1, output)
    pictures, start, sound = decoded(output)
    frame = 1 / float(Fraction(rate))
    for click in (1.0, 5.2):
        heard = [i for i in np.flatnonzero(np.abs(sound[0]) > 0.4) if abs(start + i / RATE - click) < 0.2]
        heard_at = start + heard[0] / RATE
        seen_at = next(t for t, light in pictures if light > 40 and abs(t - click) < 0.3)
        assert abs(heard_at - click) < 0.001
        assert abs(seen_at - heard_at) <= frame + 1e-6


def test_sound_and_picture_arrive_together_after_an_hour(tmp_path):
    # An hour at 24000/1001: the place where a rounded rate would have drifted by seconds.
    samples = np.zeros(3604 * 8000, np.float32)
    samples[3601 * 8000 : 3601 * 8000 + 16] = 0.9
    samples[:8] = 0.5
    folder = tmp_path / "hour"
    folder.mkdir()
    sound = write_wav(folder / "sound.wav", samples, 8000, "PCM_16")
    analyse(sound, folder / "analysis", key="hour")
    layers = [new_layer("backdrop", fill="plain", plain="#000000"), white_bars()]
    track = new_track("0" * 64, "sound.wav", 3604.0)
    document = new_document("Hour", frame=FrameSize(64, 64), rate=parse_rate("24000/1001"), layers=layers, track=track)
    plan = plan_export(document, from_s=3598.0, to_s=3604.0)
    job = Job(document, Sources(str(sound), str(folder / "analysis")), plan, str(folder / "export"))
    output = tmp_path / "out.mp4"
    run_export(job, Here(), 1, output)
    pictures, start, heard = decoded(output)
    heard_at = start + np.flatnonzero(np.abs(heard[0]) > 0.3)[0] / RATE
    seen_at = next(t for t, light in pictures if light > 40)
    expected = 3601.0 - float(plan.start_s)
    assert abs(heard_at - expected) < 0.003
    assert abs(seen_at - heard_at) <= 1001 / 24000


def test_a_colour_arrives_as_it_was_chosen(tmp_path):
    layers = [new_layer("backdrop", fill="plain", plain="#d8402a")]
    job = make_job(tmp_path, clicks(1.0, [0.5]), layers=layers, size=(320, 180))
    output = tmp_path / "out.mp4"
    run_export(job, Here(), 1, output)
    with av.open(str(output)) as container:
        stream = container.streams.video[0]
        frame = next(container.decode(stream))
        context = stream.codec_context
        assert (context.codec.name, context.profile, context.pix_fmt) == ("h264", "High", "yuv420p")
        assert (frame.color_primaries, frame.color_trc, frame.colorspace) == (1, 1, 1)
        assert frame.color_range == ColorRange.MPEG
        back = (
            VideoReformatter()
            .reformat(frame, format="rgb24", src_colorspace=Colorspace.ITU709, src_color_range=ColorRange.MPEG)
            .to_ndarray()
        )
    assert np.abs(back.astype(int) - [0xD8, 0x40, 0x2A]).max() <= 3
    audio = av.open(str(output)).streams.audio[0].codec_context
    assert (audio.codec.name, audio.sample_rate) == ("aac", 48_000)


def test_the_index_stands_before_the_media(tmp_path):
    job = make_job(tmp_path, clicks(1.0, [0.5]))
    run_export(job, Here(), 1, tmp_path / "out.mp4")
    data = (tmp_path / "out.mp4").read_bytes()
    assert 0 < data.index(b"moov") < data.index(b"mdat")


def test_pictures_do_not_depend_on_who_draws_them(tmp_path):
    samples = clicks(5.0, [0.5, 1.9, 2.2, 4.0])
    one, other = make_job(tmp_path / "a", samples), make_job(tmp_path / "b", samples)
    other = Job(one.document, one.sources, one.plan, other.folder)
    run_export(one, Here(), 1, tmp_path / "a.mp4")
    for number in reversed(range(len(one.plan.segments))):
        Path(other.folder).mkdir(parents=True, exist_ok=True)
        make_segment(other, number)
    for number in range(len(one.plan.segments)):
        first = segment_path(Path(one.folder), number, one.plan).read_bytes()
        assert first == segment_path(Path(other.folder), number, other.plan).read_bytes()


def test_scenes_with_depth_are_the_same_on_one_two_and_three_workers(tmp_path):
    space = new_layer("space", orbit_turns=1.0, aperture=2.0, shake=2.0, elevation=15.0, fog_to=220.0, floor=True)
    members = [
        new_layer("solids", bands=12, rows=4),
        new_layer("particles", rate=80.0, burst_on="beats"),
        new_layer("ridges", deep=True),
        new_layer("dot-field", columns=20, rows=8),
        new_layer("text", text="Quay", turn_y=30.0),
    ]
    for member in members:
        member["group"] = space["id"]
    layers = [new_layer("backdrop", fill="plain", plain="#000000"), space, *members]
    first = make_job(tmp_path / "1", clicks(9.0, [0.5, 3.3, 4.1, 8.0]), layers=layers)
    run_export(first, Here(), 1, tmp_path / "1.mp4")
    with av.open(str(tmp_path / "1.mp4")) as container:
        frames = [frame.to_ndarray(format="gray") for frame in container.decode(video=0)]
    # Where two segments meet, a picture differs from the next about as much as elsewhere.
    steps = np.array([np.abs(a.astype(int) - b).mean() for a, b in pairwise(frames)])
    assert steps[59] < 2 * np.percentile(steps, 90)
    for workers in (2, 3):
        job = Job(first.document, first.sources, first.plan, str(tmp_path / str(workers)))
        with ProcessPoolExecutor(workers, mp_context=worker_context("velvetdrum.deliver.export")) as pool:
            run_export(job, pool, workers, tmp_path / f"{workers}.mp4")
        assert (tmp_path / f"{workers}.mp4").read_bytes() == (tmp_path / "1.mp4").read_bytes()


def test_an_export_goes_on_where_it_was_stopped(tmp_path):
    job = make_job(tmp_path, clicks(9.0, [1.0]))
    folder = Path(job.folder)
    calls = []

    def stop_after_the_first() -> bool:
        calls.append(1)
        return segment_path(folder, 0, job.plan).exists()

    with ThreadPoolExecutor(1) as pool, pytest.raises(Cancelled):
        run_export(job, pool, 1, tmp_path / "out.mp4", cancelled=stop_after_the_first)
    assert not (tmp_path / "out.mp4").exists()
    kept = segment_path(folder, 0, job.plan).stat().st_mtime_ns
    run_export(job, Here(), 1, tmp_path / "out.mp4")
    assert segment_path(folder, 0, job.plan).stat().st_mtime_ns == kept
    pictures, _, _ = decoded(tmp_path / "out.mp4")
    assert len(pictures) == 270
    assert np.allclose(np.diff([time for time, _ in pictures]), 1 / 30)


def test_a_changed_project_does_not_reuse_old_pictures(tmp_path):
    job = make_job(tmp_path, clicks(1.0, [0.5]))
    run_export(job, Here(), 1, tmp_path / "out.mp4")
    changed = {**job.document, "layers": [new_layer("backdrop", fill="plain", plain="#ffffff")]}
    run_export(Job(changed, job.sources, job.plan, job.folder), Here(), 1, tmp_path / "out.mp4")
    pictures, _, _ = decoded(tmp_path / "out.mp4")
    assert pictures[0][1] > 200


def test_the_used_part_and_what_lies_beyond_it(tmp_path):
    job = make_job(tmp_path, clicks(5.0, [0.5, 2.5]), in_s=2.0)
    run_export(job, Here(), 1, tmp_path / "out.mp4")
    pictures, start, sound = decoded(tmp_path / "out.mp4")
    assert len(pictures) == 90
    assert abs(start + np.flatnonzero(np.abs(sound[0]) > 0.4)[0] / RATE - 0.5) < 0.001
    longer = {**job.document, "length_s": 4.0}
    job = Job(longer, job.sources, plan_export(longer), str(tmp_path / "longer"))
    run_export(job, Here(), 1, tmp_path / "longer.mp4")
    pictures, _, sound = decoded(tmp_path / "longer.mp4")
    assert len(pictures) == 120
    assert np.abs(sound[0][round(3.2 * RATE) :]).max() < 0.001


@pytest.mark.parametrize(("part", "word"), [({"from_s": 5.0, "to_s": 2.0}, "after"), ({"to_s": 99.0}, "inside")])
def test_impossible_parts_are_refused_with_a_sentence(tmp_path, part, word):
    with pytest.raises(DeliverError, match=word):
        make_job(tmp_path, clicks(6.0, [1.0]), **part)


def test_a_folder_that_can_not_be_written_is_said(tmp_path):
    job = make_job(tmp_path, clicks(0.5, [0.2]))
    with pytest.raises(DeliverError, match="could not be written"):
        run_export(job, Here(), 1, tmp_path / "missing" / "out.mp4")


@pytest.mark.parametrize("speed", ["quick", "balanced", "small"])
def test_a_dark_ramp_is_still_smooth_in_the_decoded_file(tmp_path, speed):
    stops = [{"at": 0, "colour": "#0c1022"}, {"at": 1, "colour": "#182240"}]
    layer = new_layer("backdrop", fill="linear", start_x=50, start_y=0, end_x=50, end_y=100, colours=stops, mix="srgb")
    job = make_job(tmp_path, clicks(0.5, [0.2]), layers=[layer], size=(640, 360))
    run_export(replace(job, plan=replace(job.plan, speed=speed)), Here(), 1, tmp_path / "out.mp4")
    with av.open(str(tmp_path / "out.mp4")) as container:
        frames = list(container.decode(video=0))
    part = (np.arange(360) + 0.5)[:, None] / 360
    rgb = np.array([0x0C, 0x10, 0x22]) * (1 - part) + np.array([0x18, 0x22, 0x40]) * part
    expected = 16 + 219 / 255 * (rgb @ [0.2126, 0.7152, 0.0722])
    # Flat bands would be half a step off at their edges; dither keeps the means on the ramp.
    smooth = np.ones(9) / 9
    for frame in (frames[0], frames[10]):
        luma = np.frombuffer(frame.planes[0], np.uint8).reshape(360, -1)[:, :640].mean(axis=1)
        error = np.convolve(luma - expected, smooth, "valid")
        assert np.abs(error).max() < 0.35
        assert np.abs(luma - np.rint(luma)).mean() > 0.1


@pytest.mark.parametrize("seconds", [4.02, 4.1, 8.05, 9.0])
@pytest.mark.parametrize("rate", ["30", "30000/1001"])
def test_the_file_says_its_exact_rate_whatever_the_last_segment(tmp_path, seconds, rate):
    job = make_job(tmp_path, clicks(seconds, [1.0]), rate)
    output = tmp_path / "out.mp4"
    run_export(job, Here(), 1, output)
    with av.open(str(output)) as container:
        stream = container.streams.video[0]
        times = [frame.pts * frame.time_base for frame in container.decode(stream)]
        assert stream.average_rate == Fraction(rate)
    assert times == [pytest.approx(n / float(Fraction(rate)), abs=1e-5) for n in range(job.plan.frames)]


def test_the_key_of_a_plan_names_the_renderer(tmp_path, monkeypatch):
    job = make_job(tmp_path, clicks(1.0, [0.5]))
    key = job.plan.key(job.document)
    assert job.plan.key(job.document) == key
    monkeypatch.setattr("velvetdrum.deliver.plan.VERSION", 999)
    assert job.plan.key(job.document) != key


def test_a_format_is_one_class(tmp_path, monkeypatch):
    """A made-up format that writes pictures one after the other goes through planning, segments and joining."""

    class Raw(VideoFormat):
        suffix, mime = ".raw", "application/octet-stream"

        def encode(self, frames, path, plan):
            path.write_bytes(b"".join(frame.tobytes() for frame in frames))

        def join(self, segments, sound, plan, path, extras=None):
            path.write_bytes(b"".join(item.read_bytes() for item, _ in segments))

    monkeypatch.setitem(FORMATS, "raw", Raw())
    job = make_job(tmp_path, clicks(5.0, [0.5]), size=(64, 64))
    job = replace(job, plan=replace(job.plan, format="raw"))
    run_export(job, Here(), 1, tmp_path / "out.raw")
    assert segment_path(Path(job.folder), 1, job.plan).name == "segment-00001.raw"
    data = np.frombuffer((tmp_path / "out.raw").read_bytes(), np.uint8).reshape(-1, 64, 64, 4)
    assert len(data) == job.plan.frames and data[15].max() == 255 and (data[..., 3] == 255).all()
