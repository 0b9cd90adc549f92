"""WebM with AV1 and Opus: open in all its parts, and small."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.deliver.formats.av1 import Av1
from velvetdrum.deliver.video_format import known_format


@known_format("webm-av1", "WebM (AV1, Opus)")
class WebmAv1(Av1):
    """AV1 Main in 10 bits, with Opus."""

    label: ClassVar[str] = "WebM AV1"
    about: ClassVar[str] = "Open in all its parts, and small."
    suffix: ClassVar[str] = ".webm"
    mime: ClassVar[str] = "video/webm"
    sound: ClassVar[str] = "opus"
    container: ClassVar[str] = "webm"
    options: ClassVar[dict[str, str]] = {}
    part_suffix: ClassVar[str] = ".mp4"
