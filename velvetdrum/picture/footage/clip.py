"""A clip as frames by their number: exact, in any order, whatever its rate, its turn or its colours."""

from __future__ import annotations

import bisect
from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import av
import cv2
import numpy as np
from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace, Interpolation, VideoReformatter
from numpy.typing import NDArray

from velvetdrum.audio.decode import CLOSED_WORLD
from velvetdrum.picture.canvas import Pixels

TIMES = "times.npy"
"""File beside a proxy: when each frame of the original is shown, in seconds from its first one, and its length."""

ALPHA = "alpha.mp4"
"""File beside a proxy: the original's alpha, as a grey clip."""

LONGEST_SIDE = 8192
_KEPT_BYTES = 48_000_000
_TURNS = {90: cv2.ROTATE_90_COUNTERCLOCKWISE, 180: cv2.ROTATE_180, 270: cv2.ROTATE_90_CLOCKWISE}


class ClipError(ValueError):
    """A clip that cannot be used. The text is a sentence for the person who brought it."""


@dataclass(frozen=True)
class Index:
    """Where the frames of a clip are, in the order in which they are shown."""

    pts: tuple[int, ...]
    times: NDArray[np.float64]
    """Seconds from the first frame, shape (frames,)."""
    keys: tuple[int, ...]
    """Times of the frames that can be decoded by themselves, as pts."""
    length_s: float
    """From the first frame to the end of the last one."""


class Clip:
    """An open clip. Not for more than one thread at a time."""

    def __init__(self, path: str) -> None:
        """Raises ClipError with a sentence when there is no clip to read."""
        self.path = path
        self._container = open_clip(Path(path))
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "NONE"
        self.index = read_index(Path(path))
        self.times, self.length_s = self.index.times, self.index.length_s
        told = Path(path).with_name(TIMES)
        if told.exists():
            # A proxy has a frame for each of its original, shown when that one is.
            listed = np.load(told)
            self.times, self.length_s = listed[:-1], float(listed[-1])
        alpha = Path(path).with_name(ALPHA)
        self._alpha = opened(str(alpha)) if alpha.exists() and alpha != Path(path) else None
        self._coming: Iterator[VideoFrame] = iter(())
        self._last: VideoFrame | None = None
        self._waiting: VideoFrame | None = None
        self._convert = VideoReformatter()
        self._kept: OrderedDict[tuple[int, int, int], Pixels] = OrderedDict()

    @property
    def frames(self) -> int:
        return min(len(self.times), len(self.index.pts))

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels as it is shown: upright, its pixels square."""
        context = self._stream.codec_context
        aspect = self._stream.sample_aspect_ratio or 1
        width, height = max(round(context.width * float(aspect)), 1), context.height
        return (height, width) if self.turn in (90, 270) else (width, height)

    @property
    def turn(self) -> int:
        """How far a frame must be turned to stand upright, counterclockwise, in degrees: 0, 90, 180 or 270."""
        return turn_of(self.path)

    def number_at(self, seconds: float) -> int:
        """The frame that is shown at a second of the clip: the last one that has begun."""
        found = int(np.searchsorted(self.times[: self.frames], seconds + 1e-6, side="right")) - 1
        return min(max(found, 0), self.frames - 1)

    def pixels(self, number: int, size: tuple[int, int] | None = None) -> Pixels:
        """Frame `number` upright, premultiplied BGRA, at its own size or scaled to (width, height). Not to be written
        to. A frame that cannot be decoded shows the last one before it that can."""
        width, height = size or self.size
        key = (number, width, height)
        found = self._kept.get(key)
        if found is None:
            found = self._converted(self._decoded(number), width, height)
            if self._alpha is not None:
                cover = self._alpha.pixels(min(number, self._alpha.frames - 1), (width, height))[..., :3].max(axis=2)
                found = np.asarray(cv2.multiply(found, cv2.merge([cover] * 4), scale=1 / 255), np.uint8)
            self._kept[key] = found
            while len(self._kept) > 1 and sum(item.nbytes for item in self._kept.values()) > _KEPT_BYTES:
                self._kept.popitem(last=False)
        else:
            self._kept.move_to_end(key)
        return found

    def _decoded(self, number: int) -> VideoFrame:
        """The frame as it comes from the decoder: on from the last one where that is near, else from its key frame."""
        target = self.index.pts[number]
        key = self.index.keys[max(bisect.bisect_right(self.index.keys, target) - 1, 0)]
        last = self._last
        if last is None or last.pts is None or last.pts > target or last.pts < key:
            self._seek(key)
        while True:
            frame = self._waiting or self._next()
            self._waiting = None
            if frame is None:
                break
            if frame.pts is not None and frame.pts > target:
                if self._last is None:
                    # The seek went too far: from the start, once.
                    self._last = frame
                self._waiting = frame
                break
            self._last = frame
            if frame.pts == target:
                break
        if self._last is None:
            raise ClipError("No frame of this clip could be read.")
        return self._last

    def _seek(self, pts: int) -> None:
        self._last = self._waiting = None
        try:
            self._container.seek(pts, stream=self._stream, backward=True)
        except av.error.FFmpegError:
            self._container.seek(0)
        self._coming = self._container.decode(self._stream)
        first = self._next()
        if first is not None and first.pts is not None and first.pts > pts:
            self._container.close()
            self._container = open_clip(Path(self.path))
            self._stream = self._container.streams.video[0]
            self._stream.thread_type = "NONE"
            self._coming = self._container.decode(self._stream)
            first = self._next()
        self._waiting = first

    def _next(self) -> VideoFrame | None:
        for _ in range(64):
            try:
                return next(self._coming, None)
            except av.error.EOFError:
                return None
            except av.error.FFmpegError:
                # A damaged frame: the decoder goes on after it.
                self._coming = self._container.decode(self._stream)
        return None

    def _converted(self, frame: VideoFrame, width: int, height: int) -> Pixels:
        turn = self.turn
        across, down = (height, width) if turn in (90, 270) else (width, height)
        alpha = any(component.is_alpha for component in frame.format.components)
        found: Pixels = self._convert.reformat(
            frame,
            width=across,
            height=down,
            format="bgra",
            src_colorspace=_matrix(frame),
            dst_colorspace=Colorspace.ITU709,
            src_color_range=ColorRange.JPEG if frame.color_range == ColorRange.JPEG else ColorRange.MPEG,
            dst_color_range=ColorRange.JPEG,
            interpolation=Interpolation.AREA if across < frame.width else Interpolation.BICUBIC,
            threads=1,
        ).to_ndarray()  # type: ignore[assignment]
        if alpha:
            cover = found[..., 3].astype(np.uint16)
            found[..., :3] = (found[..., :3].astype(np.uint16) * cover[..., None] + 127) // 255
        else:
            found[..., 3] = 255
        if turn:
            found = np.asarray(cv2.rotate(found, _TURNS[turn]), np.uint8)
        return np.ascontiguousarray(found, np.uint8)


def open_clip(path: Path) -> av.container.InputContainer:
    """An open file with at least one stream of pictures. Raises ClipError."""
    try:
        container = av.open(str(path), mode="r", metadata_errors="ignore", options=CLOSED_WORLD)
    except (av.error.FFmpegError, ValueError, OSError) as problem:
        raise ClipError(
            "This is no video that can be read, or it is damaged. MP4, MOV, MKV, WebM, AVI and MPEG files work."
        ) from problem
    if not container.streams.video:
        container.close()
        raise ClipError("This file has no pictures in it. Choose a video; sounds belong on the page itself.")
    context = container.streams.video[0].codec_context
    if not context.width or not context.height:
        container.close()
        raise ClipError("This video does not say how large its pictures are; it is damaged. Save it anew.")
    if max(context.width, context.height) > LONGEST_SIDE:
        container.close()
        raise ClipError(
            f"This video has {context.width} × {context.height} pixels; up to {LONGEST_SIDE} each way can be used. "
            "Make it smaller."
        )
    return container


@lru_cache(maxsize=12)
def read_index(path: Path) -> Index:
    """Where the frames of a file are, from its packets; nothing is decoded. Raises ClipError."""
    pts, keys, end = [], [], 0
    with open_clip(path) as container:
        stream = container.streams.video[0]
        try:
            for packet in container.demux(stream):
                at = packet.pts if packet.pts is not None else packet.dts
                if at is None or not packet.size or packet.is_discard:
                    continue
                pts.append(at)
                end = max(end, at + (packet.duration or 0))
                if packet.is_keyframe:
                    keys.append(at)
        except av.error.FFmpegError:
            # The file breaks off: what came before can be shown.
            pass
        base = stream.time_base
        rate = stream.average_rate or stream.guessed_rate
    if not pts or base is None:
        raise ClipError("No picture could be found in this video; it is damaged. Save it anew.")
    listed = tuple(sorted(set(pts)))
    times = (np.array(listed, np.float64) - listed[0]) * float(base)
    usual = float(1 / rate) if rate else float(np.median(np.diff(times))) if len(times) > 1 else 0.04
    length = max((end - listed[0]) * float(base), float(times[-1]) + (0.0 if end > listed[-1] else usual))
    return Index(listed, times, tuple(sorted(set(keys))) or (listed[0],), length)


@lru_cache(maxsize=32)
def turn_of(path: str) -> int:
    """The turn that the first frame of a file asks for; see `Clip.turn`."""
    with open_clip(Path(path)) as container:
        try:
            frame = next(container.decode(video=0), None)
        except av.error.FFmpegError:
            frame = None
    return round((frame.rotation if frame is not None else 0) / 90) * 90 % 360


@lru_cache(maxsize=6)
def opened(path: str) -> Clip:
    """A clip that stays open in this process for as long as it is among those used last."""
    return Clip(path)


def _matrix(frame: VideoFrame) -> Colorspace:
    """The colour matrix of a frame; where none is said, BT.601 below 720 lines and BT.709 from there."""
    known = {int(value): value for value in Colorspace} | {6: Colorspace.ITU601}  # SMPTE 170M has the same numbers
    unsaid = Colorspace.ITU709 if frame.height >= 720 else Colorspace.ITU601
    return known.get(int(frame.colorspace), unsaid)
