"""What opens the files of others: media, pictures, typefaces, archives, XML, tables and timed text.

These are the only calls of the libraries that do (a test of the syntax tree holds that). They run in a worker, behind
`limits.door`; where a process or a thread has to do with people instead, `kept_outside` turns them off.
"""

from __future__ import annotations

import csv
import io
import tarfile
import zipfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import TYPE_CHECKING, Any
from xml.etree import ElementTree

if TYPE_CHECKING:
    import av.container
    from fontTools.ttLib import TTFont
    from PIL import Image

CLOSED_WORLD = {
    "protocol_whitelist": "file",
    "format_whitelist": "wav,w64,flac,mp3,aac,ogg,mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,aiff,au,caf,avi,asf,flv,"
    "mpegts,mpeg,mpegvideo,ac3,eac3,dts,amr,wv,ape,tta,voc,mxf",
}
"""Formats that hold their pictures and sounds in themselves. Playlists and the like, which could make the reader open
other files or addresses, are not among them."""

PICTURES = ("PNG", "JPEG", "WEBP", "GIF")
"""Formats of pictures that are read."""

_OUTSIDE: ContextVar[bool] = ContextVar("outside", default=False)


class OutsideError(RuntimeError):
    """A file of others was about to be opened where people wait. This is a fault of ours."""


@contextmanager
def kept_outside() -> Iterator[None]:
    """Let nothing of others be opened in the block by this thread: requests and commands are answered in it."""
    token = _OUTSIDE.set(True)
    try:
        yield
    finally:
        _OUTSIDE.reset(token)


def _admit(what: str) -> None:
    if _OUTSIDE.get():
        raise OutsideError(f"{what} is read in a worker, through limits.door.")


def media(path: Path, *, more: str = "") -> av.container.InputContainer:
    """A recording or a video, open to be read; `more` formats beside those of the closed list, parted by commas. Raises
    what PyAV raises."""
    import av

    _admit("A media file")
    options = CLOSED_WORLD | {"format_whitelist": ",".join(filter(None, (CLOSED_WORLD["format_whitelist"], more)))}
    return av.open(str(path), mode="r", metadata_errors="ignore", options=options)


def own_media(path: Path) -> av.container.InputContainer:
    """A file that this program wrote a moment ago, in whatever format."""
    import av

    return av.open(str(path))


def midi(source: io.BytesIO) -> Any:
    """A Standard MIDI File. Raises what mido raises."""
    import mido

    _admit("A MIDI file")
    return mido.MidiFile(file=source, clip=True)


def timeline(text: str) -> Any:
    """An OpenTimelineIO timeline. Raises what the library raises."""
    import opentimelineio

    _admit("A timeline")
    return opentimelineio.adapters.read_from_string(text, "otio_json")


def picture(source: Path | io.BytesIO, formats: Iterable[str] = PICTURES) -> Image.Image:
    """A picture, its head read and nothing decoded yet. Raises what Pillow raises."""
    from PIL import Image

    _admit("A picture")
    return Image.open(source, formats=tuple(formats))


def typeface(data: bytes, *, lazy: bool) -> TTFont:
    """The tables of a typeface. Raises what fontTools raises."""
    from fontTools.ttLib import TTFont

    _admit("A typeface")
    return TTFont(io.BytesIO(data), lazy=lazy)


def face(data: Any) -> Any:
    """A typeface as the shaper takes it, from bytes or from one of its blobs."""
    import uharfbuzz as hb

    _admit("A typeface")
    return hb.Face(data)


def own_face(data: bytes) -> Any:
    """A typeface that ships, as the shaper takes it."""
    import uharfbuzz as hb

    return hb.Face(data)


def archive(path: Path) -> zipfile.ZipFile:
    """A ZIP, its directory read. Raises what `zipfile` raises."""
    _admit("An archive")
    return zipfile.ZipFile(path)


def tar(data: bytes) -> tarfile.TarFile:
    """A tar archive. Raises what `tarfile` raises."""
    _admit("An archive")
    return tarfile.open(fileobj=io.BytesIO(data))


def xml(data: bytes) -> ElementTree.Element:
    """The root of an XML document that declares no entities: whoever calls has looked. Raises ParseError, ValueError
    and LookupError."""
    _admit("XML")
    return ElementTree.fromstring(data)


def table(lines: Iterable[str], delimiter: str) -> Iterator[list[str]]:
    """The rows of a CSV table. Raises `csv.Error`, while it is read, too."""
    _admit("A table")
    yield from csv.reader(lines, delimiter=delimiter)


def subtitles(text: str, form: str) -> Any:
    """Timed text as pysubs2 reads it. Raises what pysubs2 raises."""
    import pysubs2

    _admit("Timed text")
    return pysubs2.SSAFile.from_string(text, format_=form)
