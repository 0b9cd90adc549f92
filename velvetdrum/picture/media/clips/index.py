"""Where the frames of a file are, read from its packets: nothing is decoded for it.

Three sorts of files need care. MPEG transport streams have no index, may begin in the middle of a group, and may be two
recordings one after the other: their frames are found by byte, and their clocks are joined. AVI says nothing of the
order in which frames are shown: they are counted. Files that were trimmed hold frames that are decoded, but not shown.
"""

from __future__ import annotations

import bisect
from dataclasses import dataclass, replace
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits import openers
from velvetdrum.limits.cache import cached

LONGEST_SIDE = 8192
_BACK_S, _AHEAD_S = 0.5, 10.0
"""A clock that goes back, or ahead, by more than this begins another recording."""


class ClipError(ValueError):
    """A clip that cannot be used. The text is a sentence for the person who brought it."""


@dataclass(frozen=True)
class Index:
    """Where the frames of a clip are, in the order in which they are shown."""

    pts: tuple[int, ...]
    """What each frame is known by: its presentation time in ticks of the stream, or its count where `counted`."""
    times: NDArray[np.float64]
    """Seconds from the first frame, shape (frames,)."""
    keys: tuple[int, ...]
    """Frames that can be decoded by themselves, also such as are not shown, as `pts`."""
    length_s: float
    """From the first frame to the end of the last one."""
    counted: bool = False
    starts: tuple[int, ...] = ()
    """For each of `keys`, what to seek to: its decoding time where frames are counted, its place in bytes where the
    file can only be entered by byte; empty where `keys` serve."""
    by_byte: bool = False
    parts: tuple[tuple[int, int], ...] = ()
    """Where recordings begin in bytes, and how many ticks their clocks are shifted by."""

    def shift_at(self, byte: int) -> int:
        """By how many ticks the clock is shifted of what lies at a byte of the file."""
        result = bisect.bisect_right(self.parts, (byte, 1 << 62)) - 1
        return self.parts[max(result, 0)][1] if self.parts else 0


@dataclass(frozen=True)
class _Packet:
    at: int
    dts: int
    byte: int
    key: bool
    shown: bool
    duration: int


def open_clip(path: Path) -> av.container.InputContainer:
    """An open file with at least one stream of pictures. Raises ClipError."""
    try:
        container = openers.media(path)
    except (av.error.FFmpegError, ValueError, OSError) as problem:
        raise ClipError(
            "This is no video that can be read, or it is damaged. MP4, MOV, MKV, WebM, AVI and MPEG files work."
        ) from problem
    if not container.streams.video:
        container.close()
        raise ClipError("This file has no pictures in it. Choose a video; sounds belong on the page itself.")
    context = container.streams.video[0].codec_context
    if context is None:
        container.close()
        raise ClipError("This video is coded in a way that is not read. Save it as H.264, HEVC, VP9 or AV1.")
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


@cached
def read_index(path: Path) -> Index:
    """Where the frames of a file are. Raises ClipError."""
    packets: list[_Packet] = []
    with open_clip(path) as container:
        stream = container.streams.video[0]
        try:
            for packet in container.demux(stream):
                at = packet.pts if packet.pts is not None else packet.dts
                if at is None or not packet.size:
                    continue
                dts = packet.dts if packet.dts is not None else at
                packets.append(
                    _Packet(
                        at,
                        dts,
                        packet.pos if packet.pos is not None else -1,
                        packet.is_keyframe,
                        not packet.is_discard,
                        packet.duration or 0,
                    )
                )
        except av.error.FFmpegError:
            # The file breaks off: what came before can be shown.
            pass
        base = stream.time_base
        rate = stream.average_rate or stream.guessed_rate
        form = container.format.name
    if not any(packet.shown for packet in packets) or base is None:
        raise ClipError("No picture could be found in this video; it is damaged. Save it anew.")
    tick = float(base)
    usual = float(1 / rate) if rate else 0.04
    if form == "avi":
        return _counted(packets, tick, usual)
    if form == "mpegts":
        return _by_byte(packets, tick, usual)
    return _index(packets, tick, usual)


def _index(packets: list[_Packet], tick: float, usual: float, **more: object) -> Index:
    listed = tuple(sorted({packet.at for packet in packets if packet.shown}))
    end = max(packet.at + packet.duration for packet in packets if packet.shown)
    times = (np.array(listed, np.float64) - listed[0]) * tick
    length = max((end - listed[0]) * tick, float(times[-1]) + (0.0 if end > listed[-1] else usual))
    keys = tuple(sorted({packet.at for packet in packets if packet.key})) or (listed[0],)
    return Index(listed, times, keys, length, **more)  # type: ignore[arg-type]


def _counted(packets: list[_Packet], tick: float, usual: float) -> Index:
    """Frames in the order of their packets; decoding times are even, and so are the times at which they are shown."""
    times = np.array([packet.dts - packets[0].dts for packet in packets], np.float64) * tick
    keys = tuple(number for number, packet in enumerate(packets) if packet.key) or (0,)
    starts = tuple(packets[number].dts for number in keys)
    return Index(tuple(range(len(packets))), times, keys, float(times[-1]) + usual, counted=True, starts=starts)


def _by_byte(packets: list[_Packet], tick: float, usual: float) -> Index:
    parts: list[tuple[int, int]] = []
    joined: list[_Packet] = []
    shift, last, entered = 0, None, False
    ends = 0
    for packet in packets:
        gap = 0.0 if last is None else (packet.dts - last) * tick
        if last is None or gap < -_BACK_S or gap > _AHEAD_S:
            if last is not None:
                ends = max(item.at + (item.duration or round(usual / tick)) for item in joined) if joined else packet.at
                ahead = next((item.at for item in packets[packets.index(packet) :] if item.key), packet.at)
                shift = ends - ahead
            parts.append((packet.byte, shift))
            entered = False
        last = packet.dts
        entered = entered or packet.key
        # What comes before the first frame that stands by itself can't be decoded.
        if entered:
            joined.append(replace(packet, at=packet.at + shift, dts=packet.dts + shift, shown=True))
    if not joined:
        raise ClipError("No picture of this video can be decoded by itself; it is damaged. Save it anew.")
    first = {
        part: min((item.at for item in joined if item.key and _part(parts, item.byte) == part), default=0)
        for part in range(len(parts))
    }
    shown = [item for item in joined if item.at >= first[_part(parts, item.byte)]]
    by_key = {item.at: item.byte for item in reversed(shown) if item.key}
    starts = tuple(by_key[at] for at in sorted(by_key))
    return _index(shown, tick, usual, starts=starts, by_byte=True, parts=tuple(parts))


def _part(parts: list[tuple[int, int]], byte: int) -> int:
    return max(bisect.bisect_right(parts, (byte, 1 << 62)) - 1, 0)
