"""Segments and sound joined into one file, without encoding anything again; with captions, chapters and tags."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
from av.subtitles.subtitle import SubtitleSet

from velvetdrum.deliver.checkpoints import checkpoint
from velvetdrum.deliver.files import written_whole
from velvetdrum.limits import openers
from velvetdrum.words.cue_files import write_cues
from velvetdrum.words.cues import CueList

_MS = Fraction(1, 1000)
_ASS_HEADER = b"""[Script Info]
ScriptType: v4.00+

[V4+ Styles]
Format: Name, Fontname, Fontsize, PrimaryColour, SecondaryColour, OutlineColour, BackColour, Bold, Italic, Underline,\
 StrikeOut, ScaleX, ScaleY, Spacing, Angle, BorderStyle, Outline, Shadow, Alignment, MarginL, MarginR, MarginV, Encoding
Style: Default,Sans,16,&Hffffff,&Hffffff,&H0,&H0,0,0,0,0,100,100,0,0,1,1,0,2,10,10,10,1

[Events]
Format: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text
"""


@dataclass(frozen=True)
class Chapter:
    """A named stretch, in seconds from the file's start."""

    start_s: float
    end_s: float
    title: str


@dataclass(frozen=True)
class Extras:
    """What goes into a file beside pictures and sound: tags (title, artist, language and so on), and chapters."""

    tags: dict[str, str] = field(default_factory=dict)
    chapters: tuple[Chapter, ...] = ()
    captions: CueList | None = None
    """A text track; None for none."""


def joined(
    segments: Sequence[tuple[Path, int]],
    sound: Path | None,
    rate: Fraction,
    path: Path,
    *,
    container: str,
    options: dict[str, str],
    extras: Extras | None = None,
) -> None:
    """Write `path` from segments (file, first frame counted from the start of the video) and a sound file.

    Parameters
    ----------
    segments
        Files of the segments, each with its number of frames.
    sound
        The file of the sound; None for none.
    rate
        Frames or samples a second.
    path
        The file.
    container
        Name of the container as the library has it.
    options
        Options of the coder, as the library has them.
    extras
        Captions, chapters and tags; None for none.

    Raises
    ------
    DeliverError
        When the disk is full.
    """
    # A tick that every frame time is a whole number of.
    scale = rate.numerator if rate.numerator >= 10_000 else rate.numerator * 512
    timed = {"video_track_timescale": str(scale)} if container in ("mp4", "mov") else {}
    with (
        written_whole(path, "The video") as beside,
        av.open(str(beside), "w", format=container, options=options | timed) as out,
    ):
        with openers.own_media(segments[0][0]) as first:
            # Packets alone are handed on: what decodes them need not be able to encode.
            video = out.add_stream_from_template(first.streams.video[0], opaque=True)
        video.time_base = Fraction(1, scale)
        streams = [_video(segments, rate)]
        targets: list[Any] = [video]
        if sound is not None:
            with openers.own_media(sound) as first:
                targets.append(out.add_stream_from_template(first.streams.audio[0]))
            streams.append(_packets(sound))
        if extras is not None and extras.captions is not None and extras.captions.cues:
            stream, packets = _text(out, extras.captions, container)
            targets.append(stream)
            streams.append(packets)
        tell(out, extras)
        interleave(out, streams, targets)


def tell(out: av.container.OutputContainer, extras: Extras | None) -> None:
    """Give a file its tags and chapters.

    Parameters
    ----------
    out
        The container that is written.
    extras
        Captions, chapters and tags; None for none.
    """
    if extras is None:
        return
    for name, value in extras.tags.items():
        if value:
            out.metadata[name] = value
    if extras.chapters:
        out.set_chapters(
            [
                {
                    "id": number,
                    "start": round(chapter.start_s * 1000),
                    "end": round(chapter.end_s * 1000),
                    "time_base": _MS,
                    "metadata": {"title": chapter.title},
                }
                for number, chapter in enumerate(extras.chapters)
            ]
        )


def interleave(
    out: av.container.OutputContainer, streams: Sequence[Iterator[av.Packet]], targets: Sequence[av.stream.Stream]
) -> None:
    """Mux packets of several streams in the order of their times.

    Parameters
    ----------
    out
        The container that is written.
    streams
        Packets of each stream.
    targets
        The streams that packets go to, in the same order.
    """
    waiting = [next(stream, None) for stream in streams]
    while any(packet is not None for packet in waiting):
        index = min(
            (i for i, packet in enumerate(waiting) if packet is not None),
            key=lambda i: _when(waiting[i]),
        )
        packet = waiting[index]
        assert packet is not None
        packet.stream = targets[index]
        out.mux(packet)
        waiting[index] = next(streams[index], None)


def _text(out: av.container.OutputContainer, captions: CueList, container: str) -> tuple[Any, Iterator[av.Packet]]:
    """A text track: WebVTT in WebM, and what players of MP4 read there (3GPP TS 26.245) in all others."""
    if container == "webm":
        source: Any = av.open(io.BytesIO(write_cues(captions, "vtt").encode()), format="webvtt")
        stream = out.add_stream_from_template(source.streams.subtitles[0])
        if captions.language:
            stream.metadata["language"] = captions.language
        return stream, (packet for packet in source.demux() if packet.dts is not None)
    made: Any = out.add_stream("mov_text")
    made.time_base = _MS
    if captions.language:
        made.metadata["language"] = captions.language
    made.codec_context.subtitle_header = _ASS_HEADER
    return made, _timed_text(made, captions)


def _timed_text(stream: Any, captions: CueList) -> Iterator[av.Packet]:
    for number, cue in enumerate(captions.cues):
        text = cue.text.replace("\n", "\\N")
        length = round((cue.end_s - cue.start_s) * 1000)
        line = f"{number},0,Default,,0,0,0,,{text}".encode()
        packet = stream.codec_context.encode_subtitle(SubtitleSet.create(line, 0, length))
        packet.time_base = _MS
        packet.pts = packet.dts = round(cue.start_s * 1000)
        packet.duration = length
        yield packet


def _when(packet: av.Packet | None) -> Fraction:
    assert packet is not None and packet.dts is not None and packet.time_base is not None
    return packet.dts * packet.time_base


def _packets(path: Path) -> Iterator[av.Packet]:
    with openers.own_media(path) as container:
        for packet in container.demux():
            if packet.dts is not None:
                checkpoint()
                yield packet


def _video(segments: Sequence[tuple[Path, int]], rate: Fraction) -> Iterator[av.Packet]:
    """All segments' packets, their times counted in frames from the start of the video.

    Decoding times go on one by one from segment to segment, as late before the pictures as the segment that needs it
    most. A short last segment holds back fewer pictures than the others; with its own decoding times one packet
    would seem to last three frames, and the file's mean frame rate would not be its rate.
    """
    delay = max((_delay(path, rate) for path, _ in segments), default=0)
    number = 0
    for path, first in segments:
        for packet in _packets(path):
            assert packet.time_base is not None and packet.pts is not None
            pts = round(packet.pts * packet.time_base * rate) + first
            packet.time_base = 1 / rate
            packet.pts, packet.dts, packet.duration = pts, number - delay, 1
            number += 1
            yield packet


def _delay(path: Path, rate: Fraction) -> int:
    """By how many frames a segment's first packet is decoded before it is shown."""
    for packet in _packets(path):
        assert packet.time_base is not None and packet.pts is not None and packet.dts is not None
        return round((packet.pts - packet.dts) * packet.time_base * rate)
    return 0
