"""What is made of a clip when it comes: a small proxy for previews, the times of its frames, and its sound."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE, decode_blocks, probe, stereo
from velvetdrum.audio.errors import SoundError
from velvetdrum.picture.media.clips.clip import ALPHA, TIMES, Clip, opened, traits_of
from velvetdrum.picture.media.clips.index import ClipError, Index, open_clip, read_index
from velvetdrum.picture.media.clips.pictures import AnimatedPicture, PictureSequence, holds_pictures, open_pictures
from velvetdrum.picture.raster.areas import Pixels

PROXY, SOUND = "proxy.mp4", "sound.i16"
PROXY_SIDE = 960
"""Longest side of a proxy in pixels."""

LONGEST_S = 3 * 3600.0
MOST_FRAMES = 700_000


@dataclass(frozen=True)
class ClipFacts:
    """What is known of a clip. Times are seconds, sizes pixels as it is shown, `rate` frames per second on average."""

    width: int
    height: int
    length_s: float
    frames: int
    rate: float
    varying: bool
    """True when its frames do not come evenly."""
    turn: int
    alpha: bool
    sound: bool
    interlaced: bool = False
    """True when its fields are made whole."""
    light: str = ""
    """PQ, HLG or BT.2020: what is brought to BT.709; empty where nothing is."""


def clip_facts(path: Path) -> ClipFacts:
    """Read what a clip is. Raises ClipError with a sentence when it can't be used."""
    if holds_pictures(path):
        return _facts_of_pictures(path)
    index = read_index(path)
    if index.length_s > LONGEST_S or len(index.pts) > MOST_FRAMES:
        raise ClipError("This clip is longer than 3 hours; cut it into parts first.")
    clip = Clip(str(path))
    try:
        first = clip.pixels(0)
    except av.error.FFmpegError as problem:
        raise ClipError("No picture of this video can be decoded; it is damaged. Save it anew.") from problem
    traits = traits_of(str(path))
    try:
        probe(path)
        sound = True
    except SoundError:
        sound = False
    return ClipFacts(
        first.shape[1],
        first.shape[0],
        index.length_s,
        len(index.pts),
        len(index.pts) / index.length_s,
        _varies(index.times),
        traits.turn,
        traits.alpha,
        sound,
        traits.interlaced,
        traits.light,
    )


def _facts_of_pictures(path: Path) -> ClipFacts:
    clip = open_pictures(path)
    # Alpha in any of a few frames is alpha.
    looked = {0, clip.frames // 2, clip.frames - 1}
    alpha = any(int(clip.pixels(number)[..., 3].min()) < 255 for number in sorted(looked))
    width, height = clip.size
    return ClipFacts(
        width,
        height,
        clip.length_s,
        clip.frames,
        clip.frames / clip.length_s,
        _varies(clip.times),
        0,
        alpha,
        sound=False,
    )


def _varies(times: NDArray[np.float64]) -> bool:
    steps = np.diff(times)
    return len(steps) > 2 and bool(np.max(np.abs(steps - np.median(steps))) > 0.2 * np.median(steps))


def prepare_clip(path: Path, folder: Path, progress: Callable[[float], None] = lambda share: None) -> ClipFacts:
    """Make the proxy, the times and the sound of a clip in a folder that appears when all of it is there.

    Raises ClipError when the clip can't be used, and whatever `progress` raises to stop.
    """
    facts = clip_facts(path)
    beside = folder.with_name(f"{folder.name}.part-{id(path):x}")
    shutil.rmtree(beside, ignore_errors=True)
    beside.mkdir(parents=True)
    try:
        _write_proxy(path, beside, facts, lambda share: progress(share * (0.9 if facts.sound else 1.0)))
        if facts.sound:
            write_sound(path, beside)
        timed: Index | AnimatedPicture | PictureSequence
        timed = open_pictures(path) if holds_pictures(path) else read_index(path)
        np.save(beside / TIMES, np.append(timed.times, timed.length_s))
        shutil.rmtree(folder, ignore_errors=True)
        beside.rename(folder)
    finally:
        shutil.rmtree(beside, ignore_errors=True)
    progress(1.0)
    return facts


def _write_proxy(path: Path, folder: Path, facts: ClipFacts, progress: Callable[[float], None]) -> None:
    scale = min(PROXY_SIDE / max(facts.width, facts.height), 1.0)
    size = (max(round(facts.width * scale / 2) * 2, 2), max(round(facts.height * scale / 2) * 2, 2))
    clip = opened(str(path))
    outputs = [_Output(folder / PROXY, size)]
    if facts.alpha:
        outputs.append(_Output(folder / ALPHA, size))
    try:
        for number in range(clip.frames):
            pixels = clip.pixels(number, size)
            cover = pixels[..., 3:]
            if facts.alpha:
                outputs[1].write(np.ascontiguousarray(np.broadcast_to(cover, pixels.shape)), number)
                pixels = pixels.copy()
                pixels[..., :3] = np.minimum(pixels[..., :3] * (255.0 / np.maximum(cover, 1)), 255)
            outputs[0].write(pixels, number)
            if number % 8 == 0:
                progress(number / clip.frames)
    finally:
        for output in outputs:
            output.close()


class _Output:
    """A small H.264 file in which every frame is quickly reached; frame n is shown at n / 25 s."""

    def __init__(self, path: Path, size: tuple[int, int]) -> None:
        self._container = av.open(str(path), "w", format="mp4")
        self._stream = self._container.add_stream("libx264", rate=25)
        context = self._stream.codec_context
        context.width, context.height = size
        context.pix_fmt = "yuv420p"
        context.thread_count = 1
        context.gop_size = 8
        context.colorspace, context.color_range = 1, 1
        context.options = {"preset": "veryfast", "crf": "18", "x264-params": "bframes=0:open-gop=0"}

    def write(self, pixels: Pixels, number: int) -> None:
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="bgra")
        frame = frame.reformat(format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG")
        frame.pts, frame.time_base = number, Fraction(1, 25)
        self._container.mux(self._stream.encode(frame))

    def close(self) -> None:
        self._container.mux(self._stream.encode(None))
        self._container.close()


def _lead_s(path: Path) -> float:
    """By how many seconds a clip's sound begins after its first picture; below zero where it begins before."""
    with open_clip(path) as container:
        video, audio = container.streams.video[0], container.streams.best("audio")
        if audio is None or audio.start_time is None or audio.time_base is None or video.time_base is None:
            return 0.0
        lead = float(audio.start_time * audio.time_base) - read_index(path).pts[0] * float(video.time_base)
    return lead if abs(lead) < LONGEST_S else 0.0


def write_sound(path: Path, folder: Path) -> None:
    """Write the clip's sound into a folder as interleaved 16-bit stereo at 48 kHz, from its first picture on."""
    names = probe(path).channel_names
    lead = round(_lead_s(path) * RATE)
    with (folder / SOUND).open("wb") as file:
        file.write(bytes(4 * max(lead, 0)))
        before = max(-lead, 0)
        for block in decode_blocks(path):
            heard = stereo(block, names)[:, before:]
            before = max(before - block.shape[1], 0)
            both = heard if heard.shape[0] == 2 else np.repeat(heard, 2, axis=0)
            file.write(np.rint(np.clip(both, -1, 1) * 32767).astype("<i2").T.tobytes())


def clip_sound(folder: Path) -> np.ndarray | None:
    """The prepared sound of a clip, shape (n, 2), 16-bit, 48 kHz; None when it has none."""
    path = folder / SOUND
    if not path.exists() or path.stat().st_size < 4:
        return None
    return np.memmap(path, "<i2", "r").reshape(-1, 2)
