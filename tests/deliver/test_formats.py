"""Every format, decoded again: frames, colours, transparency, captions, chapters, tags; and loudness."""

from __future__ import annotations

import io
import zipfile
from contextlib import contextmanager
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import pytest
import soundfile

from tests.conftest import RATE, sine, write_wav
from tests.deliver.test_video import Here, make_job
from velvetdrum.audio.errors import Cancelled
from velvetdrum.audio.limiter import Limiter
from velvetdrum.audio.loudness import TruePeakMeter, to_decibel
from velvetdrum.deliver.checkpoints import observed
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import join_export, joined_share, run_export
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.sound import HeardSound, encode_sound, sound_of
from velvetdrum.deliver.sound_format import SOUND_FORMATS
from velvetdrum.deliver.video_format import FORMATS, format_for
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_layer, parse
from velvetdrum.scene.frames import FrameSize

ALPHA = [name for name, form in FORMATS.items() if form.alpha]
OPAQUE = [name for name, form in FORMATS.items() if name != "mp4" and form.group == "video"]
SIZE = FrameSize(128, 96)
LOSSLESS = {"apng", "png-sequence", "still-png"}


def soft_shape():
    """A coloured shape with a soft, half transparent edge."""
    shape = new_layer("shape", form="ellipse", width=60.0, height=60.0, plain="#ff7a66", layer_opacity=90.0)
    shape["masks"] = []
    return shape


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """Each format's file and its job, made once."""
    kept = {}

    def make(name, transparent):
        if (name, transparent) not in kept:
            folder = tmp_path_factory.mktemp(f"{name}-{transparent}")
            ground = [] if transparent else [new_layer("backdrop", fill="plain", plain="#123a52")]
            job = make_job(folder, sine(440, 1.0, -20.0), size=(128, 96), layers=[*ground, soft_shape()])
            plan = plan_export(job.document, form=name, transparent=transparent, to_s=0.5)
            job = replace(job, plan=plan)
            path = folder / f"out{FORMATS[name].suffix}"
            run_export(job, Here(), 1, path)
            kept[name, transparent] = job, path
        return kept[name, transparent]

    return make


def pictures(name, path):
    """Straight BGRA pictures of a file."""
    if name == "png-sequence":
        with zipfile.ZipFile(path) as held:
            found = [
                cv2.imdecode(np.frombuffer(held.read(item), np.uint8), cv2.IMREAD_UNCHANGED)
                for item in sorted(held.namelist())
            ]
        return [p if p.shape[2] == 4 else np.dstack([p, np.full(p.shape[:2], 255, np.uint8)]) for p in found]
    if FORMATS[name].group == "still":
        found = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
        return [found if found.shape[2] == 4 else np.dstack([found, np.full(found.shape[:2], 255, np.uint8)])]
    if name == "webp":
        return webp_pictures(path)
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        decoder = av.CodecContext.create("libvpx-vp9", "r") if name == "webm" else stream.codec_context
        out = []
        for packet in container.demux(stream):
            out += [frame.to_ndarray(format="bgra") for frame in decoder.decode(packet)]
        return out


def webp_pictures(path):
    """Animated WebP by OpenCV's reader, which is another library than the one that wrote it."""
    done, animation = cv2.imreadanimation(str(path))
    assert done
    return [frame if frame.shape[2] == 4 else cv2.cvtColor(frame, cv2.COLOR_BGR2BGRA) for frame in animation.frames]


def over(straight, colour):
    alpha = straight[..., 3:].astype(float) / 255
    return straight[..., :3] * alpha + np.array(colour[::-1]) * (1 - alpha)


@pytest.mark.parametrize("name", OPAQUE)
def test_every_format_holds_its_frames_in_its_colours(made, name):
    job, path = made(name, False)
    found = pictures(name, path)
    # Equal pictures are kept once by some of the moving pictures, for longer.
    assert len(found) == 15 or (name in ("webp", "gif", "apng") and 1 <= len(found) <= 15)
    wanted = render(parse(job.document), None, Fraction(0), SIZE)
    off = np.abs(found[0][..., :3].astype(float) - wanted[..., :3])
    assert off[40:56, 56:72].mean() <= 3 and off[:10, :10].mean() <= 3
    assert off.mean() <= 3


@pytest.mark.parametrize("name", [name for name, form in FORMATS.items() if form.group == "video" and form.sound])
def test_a_strict_reader_has_nothing_to_say(made, name):
    _, path = made(name, False)
    av.logging.set_level(av.logging.WARNING)
    try:
        with av.logging.Capture() as said, av.open(str(path), options={"err_detect": "explode"}) as container:
            for stream in container.streams:
                stream.codec_context.options = {"err_detect": "explode"}
            frames = sum(1 for _ in container.decode())
    finally:
        av.logging.set_level(None)
    assert frames > 15 and not [line for level, _, line in said if level <= av.logging.WARNING]


@pytest.mark.parametrize("name", ALPHA)
def test_transparent_files_laid_over_colours_are_what_the_renderer_makes(made, name):
    job, path = made(name, True)
    found = pictures(name, path)[0]
    project = parse(job.document)
    plain = render(project, None, Fraction(0), SIZE, background="transparent")
    if name != "gif":
        assert np.abs(found[..., 3].astype(int) - plain[..., 3]).max() <= (
            2 if name in LOSSLESS | {"mov", "webp"} else 8
        )
    for colour in ((255, 255, 255), (0, 0, 0), (20, 160, 60)):
        share = plain[..., 3:].astype(float) / 255
        wanted = plain[..., :3] + np.array(colour[::-1]) * (1 - share)
        off = np.abs(over(found, colour) - wanted)
        assert off.mean() <= (3 if name != "gif" else 6), (name, colour)
        if name in LOSSLESS:
            assert off.max() <= 2
        # No fringe: where the edge is, it is no darker or lighter than either side by much.
        edge = (plain[..., 3] > 20) & (plain[..., 3] < 200)
        assert name == "gif" or off[edge].mean() <= 6, (name, colour)


def test_a_text_track_chapters_and_tags_are_read_back(tmp_path):
    for name, codec in (("mp4", "mov_text"), ("webm", "webvtt")):
        job = make_job(tmp_path / name, sine(440, 3.0, -20.0), size=(64, 64), layers=[new_layer("backdrop")])
        document = job.document | {
            "tags": {"title": "Evening at the quay", "artist": "Harbour office"},
            "markers": [
                {"time_s": 0.0, "text": "Opening", "chapter": True},
                {"time_s": 1.5, "text": "The notice", "chapter": True},
                {"time_s": 2.0, "text": "only a marker"},
            ],
            "cue_tracks": {
                "a": {
                    "name": "English",
                    "language": "en",
                    "cues": {
                        "x": {"start_s": 0.25, "end_s": 1.0, "text": "Good evening"},
                        "y": {"start_s": 1.25, "end_s": 2.5, "text": "Lantern Quay"},
                    },
                }
            },
        }
        job = replace(job, document=document, plan=plan_export(document, form=name, captions="inside", speed="quick"))
        path = tmp_path / name / f"out{FORMATS[name].suffix}"
        run_export(job, Here(), 1, path)
        with av.open(str(path)) as found:
            assert [stream.type for stream in found.streams][:3] == ["video", "audio", "subtitle"]
            assert found.streams.subtitles[0].codec_context.name == codec
            assert found.metadata["title"] == "Evening at the quay"
            names = {key.lower(): value for key, value in found.metadata.items()}
            assert names["artist"] == "Harbour office"
            chapters = [(round(c["start"] * c["time_base"] * 1000), c["metadata"]["title"]) for c in found.chapters()]
            assert chapters == [(0, "Opening"), (1500, "The notice")]
            cues = [
                (float(p.pts * p.time_base), bytes(p))
                for p in found.demux(subtitles=0)
                if p.pts is not None and p.size > 2
            ]
        assert [round(start, 2) for start, _ in cues] == [0.25, 1.25]
        assert b"Good evening" in cues[0][1] and b"Lantern Quay" in cues[1][1]


def test_captions_that_are_not_there_are_told(tmp_path):
    job = make_job(tmp_path, sine(440, 1.0, -20.0), size=(64, 64), layers=[new_layer("backdrop")])
    job = replace(job, plan=replace(job.plan, captions="inside"))
    with pytest.raises(DeliverError, match="no cues"):
        run_export(job, Here(), 1, tmp_path / "out.mp4")
    assert not (tmp_path / "out.mp4").exists()


def test_what_can_not_be_transparent_says_which_can():
    document = {"layers": []}
    with pytest.raises(DeliverError, match=r"can't hold transparency; take one of .*\.mov.*\.webm"):
        plan_export(document, transparent=True)
    assert format_for(".mp4", "hevc").name == "mp4-hevc" and format_for(".mp4").name == "mp4"
    assert format_for(".mp4", "vp9") is None


def bursts(seconds=6.0, level=-6.0):
    """A tone with loud strokes on it, whose peaks lie between samples."""
    time = np.arange(round(seconds * RATE)) / RATE
    tone = sine(220, seconds, -24.0)
    stroke = np.sin(2 * np.pi * (RATE / 8) * time + np.pi / 8) * 10 ** (level / 20)
    gate = (time % 0.5) < 0.05
    return (tone + stroke * gate).astype(np.float32)


@pytest.mark.parametrize("form", sorted(SOUND_FORMATS))
def test_sound_is_brought_to_its_loudness_under_its_ceiling(tmp_path, form):
    source = write_wav(tmp_path / "in.wav", bursts())
    heard = HeardSound(source, 0.0, 6.0, Fraction(0), Fraction(6))
    path = tmp_path / f"out.{form}"
    encode_sound(heard, path, form=form, lufs=-14.0, ceiling_db=-1.5)
    after = sound_of(path)
    assert after.lufs == pytest.approx(-14.0, abs=0.3)
    assert after.peak_dbtp <= -1.5 + 0.05


@pytest.mark.parametrize("form", ["wav", "flac"])
def test_sound_without_loss_is_the_recording(tmp_path, form):
    samples = bursts()
    heard = HeardSound(write_wav(tmp_path / "in.wav", samples), 0.0, 6.0, Fraction(1), Fraction(3))
    encode_sound(heard, tmp_path / f"out.{form}", form=form)
    found, rate = soundfile.read(tmp_path / f"out.{form}")
    assert rate == RATE and len(found) == 2 * RATE
    assert np.abs(found - samples[RATE : 3 * RATE]).max() < 2**-22


@pytest.mark.parametrize("block", [480, 4801, 144_000])
def test_a_limiter_holds_its_ceiling_and_leaves_the_rest_alone(block):
    draws = np.random.default_rng(4)
    samples = np.stack([bursts(3.0, 4.0), draws.normal(0, 0.25, 3 * RATE)]).astype(np.float32)
    samples[:, :RATE] *= 0.1
    limiter = Limiter(2, -1.0)
    parts = [limiter.feed(samples[:, at : at + block]) for at in range(0, samples.shape[1], block)]
    out = np.concatenate([*parts, limiter.finish()], axis=1)
    meter = TruePeakMeter()
    meter.feed(out)
    assert out.shape == samples.shape and to_decibel(meter.true_peak) <= -1.0
    # Before anything was loud, samples are as they were; how it was cut into blocks changes nothing.
    assert np.array_equal(out[:, : RATE - 600], samples[:, : RATE - 600])
    whole = Limiter(2, -1.0)
    assert np.allclose(np.concatenate([whole.feed(samples), whole.finish()], axis=1), out, atol=1e-6)


def test_a_sequence_has_a_name_for_each_frame(made):
    _, path = made("png-sequence", True)
    with zipfile.ZipFile(path) as held:
        assert sorted(held.namelist())[0] == "frame-00000.png" and len(held.namelist()) == 15
        picture = cv2.imdecode(np.frombuffer(io.BytesIO(held.read("frame-00003.png")).read(), np.uint8), -1)
    assert picture.shape == (96, 128, 4) and Path(path).suffix == ".zip"


MOVING = [name for name, form in FORMATS.items() if form.group == "video" or name == "contact-sheet"]


@pytest.mark.parametrize(("name", "size_mb"), [(name, None) for name in MOVING] + [("mp4", 0.2)])
def test_putting_together_says_how_far_it_is_and_stops_at_the_next_picture(made, tmp_path, monkeypatch, name, size_mb):
    """The end of an export is looked at from outside at each picture: what it says, and that a cancel ends it there."""
    job, _ = made(name, False)
    if size_mb is not None:
        job = replace(job, plan=plan_export(job.document, form=name, megabytes=size_mb, to_s=0.5), folder=str(tmp_path))
        run_export(job, Here(), 1, tmp_path / "first")
    folder, shares, stopped = Path(job.folder), [], []

    @contextmanager
    def watched(step):
        def at_each():
            step()
            shares.append(float(joined_share(folder).read_text()))
            if len(shares) == 3 and stopped:
                (folder / "cancel").touch()

        with observed(at_each):
            yield

    monkeypatch.setattr("velvetdrum.deliver.export.observed", watched)
    monkeypatch.setattr("velvetdrum.deliver.export._SAID_S", 0.0)
    join_export(job, str(tmp_path / "whole"))
    assert len(shares) >= sum(last - first for first, last in job.plan.segments), "once a picture"
    assert shares == sorted(shares) and shares[-1] == 1.0 and shares[0] < 0.5
    assert not joined_share(folder).exists()
    shares.clear()
    stopped.append(True)
    with pytest.raises(Cancelled):
        join_export(job, str(tmp_path / "stopped"))
    (folder / "cancel").unlink()
    assert len(shares) == 3
    assert not joined_share(folder).exists() and not (tmp_path / "stopped").exists()
