"""A clip as frames by their number: exact, in any order, whatever its rate, its turn or its colours."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import av
import cv2
import numpy as np
from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace, Interpolation, VideoReformatter

from velvetdrum.limits.cache import SHARED_CACHE, cached
from velvetdrum.picture.media.clips.cursor import Cursor, decoder_of
from velvetdrum.picture.media.clips.fields import deinterlaced
from velvetdrum.picture.media.clips.frame_source import Moving, frame_at
from velvetdrum.picture.media.clips.index import open_clip, read_index
from velvetdrum.picture.media.clips.light import brought_to_709, is_wide, name_of
from velvetdrum.picture.media.clips.pictures import holds_pictures, open_pictures
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.blending import weaken

TIMES = "times.npy"
"""File beside a proxy: when each frame of the original is shown, in seconds from its first one, and its length."""

ALPHA = "alpha.mp4"
"""File beside a proxy: the original's alpha, as a grey clip."""

_LOOKED_AT = 8
_FINE = Interpolation.BICUBIC | Interpolation.FULL_CHR_H_INT | Interpolation.ACCURATE_RND
_MOST_CURSORS = 4
_TURNS = {90: cv2.ROTATE_90_COUNTERCLOCKWISE, 180: cv2.ROTATE_180, 270: cv2.ROTATE_90_CLOCKWISE}


class Clip:
    """An open clip. Not for more than one thread at a time."""

    def __init__(self, path: str) -> None:
        """Raises ClipError with a sentence when there is no clip to read."""
        self.path = path
        self.index = read_index(Path(path))
        # Those who look back, and layers that show one clip at several times, each come on from where they were.
        self._cursors = [Cursor(path, self.index)]
        self.times, self.length_s = self.index.times, self.index.length_s
        told = Path(path).with_name(TIMES)
        if told.exists():
            # A proxy has a frame for each of its original, shown when that one is.
            listed = np.load(told)
            self.times, self.length_s = listed[:-1], float(listed[-1])
        alpha = Path(path).with_name(ALPHA)
        self._alpha: Moving | None = opened(str(alpha)) if alpha.exists() and alpha != Path(path) else None
        self._convert = VideoReformatter()

    @property
    def frames(self) -> int:
        """How many frames it has."""
        return min(len(self.times), len(self.index.pts))

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels as it is shown: upright, its pixels square."""
        stream = self._cursors[-1].stream
        context = stream.codec_context
        aspect = stream.sample_aspect_ratio or 1
        width, height = max(round(context.width * float(aspect)), 1), context.height
        return (height, width) if self.turn in (90, 270) else (width, height)

    @property
    def opaque(self) -> bool:
        """True when no pixel of it lets anything through."""
        return self._alpha is None and not self.traits.alpha

    @property
    def traits(self) -> Traits:
        """What the page is told of it: size, rate, length in seconds, what was done to it."""
        return traits_of(self.path)

    @property
    def turn(self) -> int:
        """How far a frame must be turned to stand upright, counterclockwise, in degrees: 0, 90, 180 or 270."""
        return self.traits.turn

    def number_at(self, seconds: float) -> int:
        """The frame that is shown at a second of the clip: the last one that has begun."""
        return frame_at(self.times[: self.frames], seconds)

    def pixels(self, number: int, size: tuple[int, int] | None = None) -> Pixels:
        """Frame `number` upright, premultiplied BGRA, at its own size or scaled to (width, height). Not to be written
        to. A frame that cannot be decoded shows the last one before it that can."""
        width, height = size or self.size
        return SHARED_CACHE.get(("clip", self.path, number, width, height), lambda: self._made(number, width, height))

    def _made(self, number: int, width: int, height: int) -> Pixels:
        result = self._converted(self._whole(number), width, height)
        if self._alpha is not None:
            cover = self._alpha.pixels(min(number, self._alpha.frames - 1), (width, height))[..., :3].max(axis=2)
            weaken(result, np.ascontiguousarray(cover))
        return result

    def _decoded(self, number: int) -> VideoFrame:
        """The frame as it comes from a decoder: the one that has it, or that is nearest before it, or another one."""
        target = self.index.pts[number]
        for cursor in self._cursors:
            held = cursor.holds(target)
            if held is not None:
                return held
        ways = [(way, cursor) for cursor in self._cursors if (way := cursor.way_to(target)) is not None]
        if ways:
            chosen = min(ways, key=lambda item: item[0])[1]
        elif len(self._cursors) < _MOST_CURSORS:
            chosen = Cursor(self.path, self.index)
        else:
            chosen = self._cursors[0]
        # The one that was used last stands at the end.
        self._cursors = [cursor for cursor in self._cursors if cursor is not chosen] + [chosen]
        return chosen.decoded(target)

    def _whole(self, number: int) -> VideoFrame:
        """A frame with both of its fields at one time."""
        frame = self._decoded(number)
        if not self.traits.interlaced:
            return frame
        before = self._decoded(max(number - 1, 0))
        frame = self._decoded(number)
        return deinterlaced(before, frame, self._decoded(min(number + 1, self.frames - 1)))

    def _converted(self, frame: VideoFrame, width: int, height: int) -> Pixels:
        turn = self.turn
        across, down = (height, width) if turn in (90, 270) else (width, height)
        alpha = any(component.is_alpha for component in frame.format.components)
        if is_wide(frame) and not alpha:
            result = brought_to_709(frame, across, down, self._convert)
        else:
            result = self._convert.reformat(
                frame,
                width=across,
                height=down,
                format="bgra",
                src_colorspace=_matrix(frame),
                dst_colorspace=Colorspace.ITU709,
                src_color_range=ColorRange.JPEG if frame.color_range == ColorRange.JPEG else ColorRange.MPEG,
                dst_color_range=ColorRange.JPEG,
                # At full size chroma is brought to the size of luma by the same filter, not by doubling it.
                interpolation=Interpolation.AREA if across < frame.width else _FINE,
                threads=1,
            ).to_ndarray()  # type: ignore[assignment]
        if alpha:
            cover = result[..., 3].astype(np.uint16)
            result[..., :3] = (result[..., :3].astype(np.uint16) * cover[..., None] + 127) // 255
        else:
            result[..., 3] = 255
        if turn:
            result = np.asarray(cv2.rotate(result, _TURNS[turn]), np.uint8)
        return np.ascontiguousarray(result, np.uint8)


@dataclass(frozen=True)
class Traits:
    """What the first frames of a file say of all of them."""

    turn: int = 0
    """How far they must be turned to stand upright, counterclockwise, in degrees."""
    interlaced: bool = False
    alpha: bool = False
    light: str = ""
    """PQ, HLG or BT.2020; empty for what BT.709 describes."""


@cached
def traits_of(path: str) -> Traits:
    """The traits of a file. Raises ClipError."""
    result: list[VideoFrame] = []
    with open_clip(Path(path)) as container:
        stream = container.streams.video[0]
        decoder = decoder_of(stream)
        try:
            for packet in container.demux(stream):
                result += [frame for frame in decoder.decode(packet) if isinstance(frame, VideoFrame)]
                if len(result) >= _LOOKED_AT:
                    break
        except av.error.FFmpegError:
            pass
    if not result:
        return Traits()
    first = result[0]
    return Traits(
        round(first.rotation / 90) * 90 % 360,
        sum(frame.interlaced_frame for frame in result) * 2 > len(result),
        any(part.is_alpha for part in first.format.components),
        name_of(first),
    )


@lru_cache(maxsize=6)
def opened(path: str) -> Moving:
    """A clip that stays open in this process for as long as it is among those used last. Raises ClipError."""
    return open_pictures(Path(path)) if holds_pictures(Path(path)) else Clip(path)


def _matrix(frame: VideoFrame) -> Colorspace:
    """The colour matrix of a frame; where none is said, BT.601 below 720 lines and BT.709 from there."""
    known = {int(value): value for value in Colorspace} | {6: Colorspace.ITU601}  # SMPTE 170M has the same numbers
    unsaid = Colorspace.ITU709 if frame.height >= 720 else Colorspace.ITU601
    return known.get(int(frame.colorspace), unsaid)
