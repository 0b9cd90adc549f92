"""Clips that are pictures one after the other: animated GIF, PNG and WebP, and numbered pictures in a ZIP."""

from __future__ import annotations

import re
from itertools import count
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from velvetdrum.limits import openers
from velvetdrum.limits.archive import ArchiveError, looks_like_archive, open_archive
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.media.clips.frame_source import frame_at
from velvetdrum.picture.media.clips.index import ClipError
from velvetdrum.picture.media.picture_decoder import (
    DAMAGE,
    PictureError,
    decoded,
    opened_picture,
    picture_facts,
    premultiplied,
    upright,
)
from velvetdrum.picture.raster.areas import Pixels

MOST_FRAMES = 5000
MOST_PIXELS = 6_000_000_000
"""Pixels of all frames together."""

SEQUENCE_RATE = 30
"""Frames a second of numbered pictures, which say nothing of it."""

_MOST_BYTES = 8 << 30
_ONE_PICTURE = 200_000_000
_SHORTEST_MS, _UNSAID_MS = 11, 100
_numbers = count()
"""What the frames of an open clip are kept under."""
_SIGNATURES = (b"GIF8", b"\x89PNG", b"RIFF")
_NAMED = re.compile(r"(\d+)(?=\D*$)")


def holds_pictures(path: Path) -> bool:
    """True for a file that one of the classes here reads."""
    with path.open("rb") as file:
        head = file.read(12)
    return looks_like_archive(path) or (head[:4] in _SIGNATURES and (head[:4] != b"RIFF" or head[8:] == b"WEBP"))


def open_pictures(path: Path) -> AnimatedPicture | PictureSequence:
    """An open clip of pictures. Raises ClipError with a sentence."""
    return PictureSequence(path) if looks_like_archive(path) else AnimatedPicture(path)


class _Pictures:
    """What both kinds share: times, sizes, and the frames that were shown last."""

    def __init__(self, size: tuple[int, int], times: list[float], length_s: float) -> None:
        if len(times) > MOST_FRAMES or len(times) * size[0] * size[1] > MOST_PIXELS:
            raise ClipError(
                f"This clip has {len(times)} frames of {size[0]} × {size[1]} pixels, which is more than is read. "
                "Save it as a video."
            )
        self.size, self.length_s = size, length_s
        self.times = np.array(times, np.float64)
        self._name = next(_numbers)

    @property
    def opaque(self) -> bool:
        return False

    @property
    def frames(self) -> int:
        return len(self.times)

    def number_at(self, seconds: float) -> int:
        return frame_at(self.times, seconds)

    def pixels(self, number: int, size: tuple[int, int] | None = None) -> Pixels:
        result = SHARED_CACHE.get(("moving picture", self._name, number), lambda: self._read(number))
        wanted = size or self.size
        if result.shape[1::-1] == wanted:
            return result
        smaller = wanted[0] < result.shape[1] or wanted[1] < result.shape[0]
        scaled = cv2.resize(result, wanted, interpolation=cv2.INTER_AREA if smaller else cv2.INTER_CUBIC)
        return np.minimum(np.asarray(scaled, np.uint8), scaled[..., 3:])

    def _read(self, number: int) -> Pixels:
        raise NotImplementedError


class AnimatedPicture(_Pictures):
    """An animated GIF, PNG or WebP. Frames say how long they are shown; what says nothing is shown for 100 ms."""

    def __init__(self, path: Path) -> None:
        try:
            facts = picture_facts(path)
            with opened_picture(path) as result:
                if facts.frames > MOST_FRAMES:
                    raise ClipError(f"This clip has {facts.frames} frames; up to {MOST_FRAMES} are read.")
                if facts.frames < 2:
                    raise ClipError("This picture does not move. Bring it in as a picture.")
                lasting = []
                for number in range(facts.frames):
                    result.seek(number)
                    if result.format == "WEBP":
                        # This form says how long a frame lasts once it is decoded.
                        result.load()
                    told = float(result.info.get("duration") or 0)
                    lasting.append((told if told >= _SHORTEST_MS else _UNSAID_MS) / 1000)
        except ClipError:
            raise
        except PictureError as problem:
            raise ClipError(str(problem)) from problem
        except DAMAGE as problem:
            raise ClipError("This clip is damaged: a frame of it can't be read. Save it anew.") from problem
        ends = np.cumsum(lasting)
        super().__init__((facts.width, facts.height), [0.0, *ends[:-1].tolist()], float(ends[-1]))
        self._path = path
        self._open: Image.Image | None = None

    def _read(self, number: int) -> Pixels:
        try:
            # Each frame stands on those before it: on from the last one, or from the start.
            if self._open is None or self._open.tell() > number:
                self._open = openers.picture(self._path, ("PNG", "WEBP", "GIF"))
            for step in range(self._open.tell(), number + 1):
                self._open.seek(step)
                self._open.load()
            return premultiplied(np.asarray(upright(self._open.convert("RGBA"))))
        except DAMAGE as problem:
            self._open = None
            raise ClipError("A frame of this clip can't be read; it is damaged. Save it anew.") from problem


class PictureSequence(_Pictures):
    """Numbered pictures in a ZIP, in the order of the last number in their names."""

    def __init__(self, path: Path) -> None:
        self._path = path
        try:
            with open_archive(path, most_bytes=_MOST_BYTES, most_entries=MOST_FRAMES + 100) as archive:
                names = [name for name in archive.entries if _is_numbered(name)]
                if len(names) < 2:
                    raise ClipError("This ZIP holds no numbered pictures: PNG, JPEG or WebP named like 0001.png.")
                self._names = sorted(names, key=lambda name: (int(_NAMED.findall(_stem(name))[-1]), name))
                facts = picture_facts(archive.read(self._names[0], _ONE_PICTURE))
        except (ArchiveError, PictureError) as problem:
            raise ClipError(str(problem)) from problem
        count = len(self._names)
        times = [number / SEQUENCE_RATE for number in range(count)]
        super().__init__((facts.width, facts.height), times, count / SEQUENCE_RATE)

    def _read(self, number: int) -> Pixels:
        try:
            with open_archive(self._path, most_bytes=_MOST_BYTES, most_entries=MOST_FRAMES + 100) as archive:
                return decoded(archive.read(self._names[number], _ONE_PICTURE))
        except (ArchiveError, PictureError) as problem:
            raise ClipError(f"Picture {number + 1} of this clip: {problem}") from problem


def _stem(name: str) -> str:
    return name.rsplit("/", 1)[-1].rsplit(".", 1)[0]


def _is_numbered(name: str) -> bool:
    last = name.rsplit("/", 1)[-1]
    if last.startswith(".") or not last.lower().endswith((".png", ".jpg", ".jpeg", ".webp")):
        return False
    result = _NAMED.findall(_stem(name))
    return bool(result) and len(result[-1]) < 12
