"""Sizes, seams, fades, single pictures and sound alone: what an export may be besides a plain video."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import av
import cv2
import numpy as np
import pytest
import soundfile

from tests.conftest import RATE, sine
from tests.deliver.test_video import Here, clicks, make_job, white_bars
from velvetdrum.audio.decode import decode_blocks
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import run_export
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.segments import moments_grid, segment_grid
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.effects import new_effect


@pytest.fixture(scope="module")
def job(tmp_path_factory):
    """Something that moves and sounds, for six seconds."""
    folder = tmp_path_factory.mktemp("ends")
    turning = new_layer("shape", form="polygon", radius=34.0, plain="#ff7a66")
    turning["keyframes"] = {
        "spin": [{"time_s": 0.0, "value": 0.0, "ease": "linear"}, {"time_s": 6.0, "value": 400.0, "ease": "linear"}]
    }
    ground = new_layer("backdrop", fill="plain", plain="#123a52")
    return make_job(folder, sine(440, 6.0, -20.0), size=(160, 96), layers=[ground, turning, white_bars()])


def made(job, folder, **part):
    plan = plan_export(job.document, **part)
    other = replace(job, plan=plan, folder=str(folder / "work"))
    path = folder / f"out{FORMATS[plan.format].suffix}"
    run_export(other, Here(), 1, path)
    return plan, path


def luma(path):
    with av.open(str(path)) as container:
        return [frame.to_ndarray(format="gray").astype(float) for frame in container.decode(video=0)]


def samples(path):
    return np.concatenate(list(decode_blocks(path)), axis=1)


def test_segments_cover_all_frames_once_and_end_short():
    for first, last in ((0, 1), (0, 30), (7, 260), (0, 5000)):
        found = segment_grid(first, last, 30)
        assert found[0][0] == first and found[-1][1] == last
        assert all(a[1] == b[0] and a[1] > a[0] for a, b in pairwise(found))
        lengths = [b - a for a, b in found]
        assert max(lengths) <= 120 and lengths[-1] <= 30
    assert [b - a for a, b in segment_grid(0, 480, 30)] == [120, 120, 60, 60, 30, 30, 30, 30]
    assert moments_grid(10, 100, 3) == [(25, 26), (55, 56), (85, 86)] and moments_grid(4, 9, 1) == [(4, 5)]


@pytest.fixture(scope="module")
def grainy(tmp_path_factory):
    """What is hard to encode, so that every size is too small for it."""
    ground = new_layer("backdrop", fill="plain", plain="#5a7a92")
    ground["effects"] = [new_effect("grain", amount=60.0)]
    return make_job(tmp_path_factory.mktemp("grain"), sine(440, 6.0, -20.0), size=(320, 192), layers=[ground])


@pytest.mark.parametrize("megabytes", [0.5, 1.2])
def test_a_size_that_is_given_is_met_in_two_passes(tmp_path, grainy, megabytes):
    job = grainy
    other = tmp_path / "pictures.mp4"
    other.write_bytes(b"somebody's own")
    _, path = made(job, tmp_path, megabytes=megabytes, speed="quick")
    assert other.read_bytes() == b"somebody's own"
    assert 0.9 < path.stat().st_size / (megabytes * 1e6) <= 1.0
    assert len(luma(path)) == 180
    assert not [p.name for p in tmp_path.iterdir() if p.suffix in (".log", ".mbtree", ".temp")]


def test_a_size_that_can_not_be_met_is_refused(job):
    with pytest.raises(DeliverError, match=r"need 0\.2 MB at the least"):
        plan_export(job.document, megabytes=0.1)
    with pytest.raises(DeliverError, match="can't be brought to a size; take MP4"):
        plan_export(job.document, form="webm", megabytes=5.0)


def test_a_loop_closes_without_a_seam(tmp_path, job):
    plan, path = made(job, tmp_path, from_s=2.0, to_s=5.0, seamless=True)
    _, plain = made(job, tmp_path / "p" if (tmp_path / "p").mkdir() is None else tmp_path, from_s=2.0, to_s=5.0)
    frames, before = luma(path), luma(plain)
    step = np.median([np.abs(a - b).mean() for a, b in pairwise(frames)])
    assert np.abs(before[-1] - before[0]).mean() > 3 * step
    assert np.abs(frames[-1] - frames[0]).mean() < 2.5 * step
    # Its body is left as it was.
    assert np.abs(frames[30] - before[30]).mean() < 0.5 and len(frames) == len(before) == plan.frames


def test_sound_fades_over_the_seam_into_what_comes_before(tmp_path):
    tone = np.concatenate([sine(300, 2.0, -20.0), sine(700, 3.0, -20.0)])
    job = make_job(tmp_path, tone, size=(64, 64), layers=[new_layer("backdrop")])
    _, path = made(job, tmp_path, form="sound-wav", from_s=2.0, to_s=5.0, seamless=True)
    found = samples(path)[0]
    assert len(found) == 3 * RATE

    def share(part, hz):
        turn = np.exp(-2j * np.pi * hz * np.arange(len(part)) / RATE)
        return abs((part * turn).mean())

    end = found[-RATE // 10 :]
    assert share(end, 300) > 5 * share(end, 700) and share(found[:RATE], 700) > 20 * share(found[:RATE], 300)
    # Equal power: what is heard in the seam's middle is as loud as before it.
    middle = found[-round(0.45 * RATE) : -round(0.3 * RATE)]
    assert np.sqrt((middle**2).mean()) == pytest.approx(np.sqrt((found[:RATE] ** 2).mean()), rel=0.1)


def test_a_loop_from_the_very_start_fades_into_silence(tmp_path, job):
    _, path = made(job, tmp_path, form="sound-wav", from_s=0.0, to_s=3.0, seamless=True)
    assert np.abs(samples(path)[0][-200:]).max() < 0.01


def test_fades_have_the_form_of_a_raised_cosine(tmp_path, job):
    _, path = made(job, tmp_path, form="sound-flac", fades=(1.0, 2.0))
    found, _ = soundfile.read(path)
    found = found if found.ndim == 1 else found[:, 0]
    level = np.array([np.sqrt((found[n : n + 480] ** 2).mean()) for n in range(0, len(found), 480)])
    level = level / np.median(level)
    wanted = 0.5 - 0.5 * np.cos(np.pi * (np.arange(100) + 0.5) / 100)
    assert np.allclose(level[:100], wanted, atol=0.02)
    assert np.allclose(level[-200:][::-1], 0.5 - 0.5 * np.cos(np.pi * (np.arange(200) + 0.5) / 200), atol=0.02)
    with pytest.raises(DeliverError, match="longer than"):
        plan_export(job.document, fades=(4.0, 3.0))


def test_a_contact_sheet_holds_its_moments_with_their_times(tmp_path, job):
    plan, path = made(job, tmp_path, form="contact-sheet", moments=6)
    sheet = cv2.imread(str(path))
    assert plan.segments == [(15, 16), (45, 46), (75, 76), (105, 106), (135, 136), (165, 166)]
    height, width = sheet.shape[:2]
    assert (width - 12) % (160 + 12) == 0 and (height - 12) % (96 + 34) == 0
    assert (width - 12) // 172 * ((height - 12) // 130) == 6


@pytest.mark.parametrize("form", ["still-png", "still-jpeg", "still-webp"])
def test_a_still_is_the_first_frame_of_the_part(tmp_path, job, form):
    _, path = made(job, tmp_path, form=form, from_s=3.0)
    found = cv2.imread(str(path))
    (tmp_path / "v").mkdir()
    _, video = made(job, tmp_path / "v", from_s=3.0, to_s=3.5)
    with av.open(str(video)) as container:
        wanted = next(container.decode(video=0)).to_ndarray(format="bgr24")
    assert np.abs(found.astype(int) - wanted).mean() < 3


def test_sound_alone_is_in_every_format(tmp_path):
    job = make_job(tmp_path, clicks(2.0, [0.5, 1.2]), size=(64, 64), layers=[new_layer("backdrop")])
    for name in [name for name, form in FORMATS.items() if form.group == "sound"]:
        (tmp_path / name).mkdir()
        _, path = made(job, tmp_path / name, form=name)
        found = np.abs(samples(path)[0])
        assert abs(found.argmax() / RATE - 0.5) < 0.05 or abs(found.argmax() / RATE - 1.2) < 0.05


def test_a_frame_that_equals_the_last_one_is_not_drawn_again(tmp_path, monkeypatch):
    shape = new_layer("shape", form="ellipse", width=40.0, height=40.0)
    ground = new_layer("backdrop", fill="plain", plain="#123a52")
    still = make_job(tmp_path / "still", sine(440, 2.0, -20.0), size=(64, 64), layers=[ground, shape])
    turned = dict(
        shape,
        id="moving",
        keyframes={
            "spin": [{"time_s": 0.0, "value": 0.0, "ease": "linear"}, {"time_s": 1.0, "value": 90.0, "ease": "linear"}]
        },
    )
    moving = make_job(tmp_path / "moving", sine(440, 2.0, -20.0), size=(64, 64), layers=[ground, turned])
    drawn = []
    from velvetdrum.picture.frame.render import ProjectFrame

    real = ProjectFrame.draw_frame
    monkeypatch.setattr(ProjectFrame, "draw_frame", lambda self, *rest: (drawn.append(self.time), real(self, *rest))[1])
    for job, least, most in ((still, 1, 6), (moving, 60, 60)):
        drawn.clear()
        (tmp_path / f"out{most}").mkdir()
        _, path = made(job, tmp_path / f"out{most}")
        assert len(luma(path)) == 60 and least <= len(drawn) <= most
