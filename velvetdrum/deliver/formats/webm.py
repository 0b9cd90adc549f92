"""WebM with VP9 and Opus: open, and with transparency where it is asked for."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from velvetdrum.deliver.joined_format import JoinedFormat
from velvetdrum.deliver.picture_codec import encode_pictures
from velvetdrum.deliver.video_format import Speed, known_format
from velvetdrum.picture.raster.areas import Pixels

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan

WORK: dict[Speed, dict[str, str]] = {
    "quick": {"deadline": "realtime", "cpu-used": "8", "crf": "20"},
    "balanced": {"deadline": "good", "cpu-used": "5", "crf": "22"},
    "small": {"deadline": "good", "cpu-used": "2", "crf": "28"},
}
"""The encoder's settings at each speed."""


@known_format("webm", "WebM (VP9, Opus)")
class Webm(JoinedFormat):
    """VP9 in 8 bits, with a second stream of alpha where it is transparent."""

    label: ClassVar[str] = "WebM"
    about: ClassVar[str] = "Open; the one for transparency on pages."
    suffix: ClassVar[str] = ".webm"
    mime: ClassVar[str] = "video/webm"
    alpha: ClassVar[bool] = True
    codec: ClassVar[str] = "vp9"
    sound: ClassVar[str] = "opus"
    container: ClassVar[str] = "webm"

    def encode(self, frames: Iterable[Pixels], path: Path, plan: ExportPlan) -> None:
        # Without hidden frames: with alpha, both streams must have a picture each at every time.
        options = {"b": "0", "auto-alt-ref": "0", "lag-in-frames": "0", "row-mt": "0", "threads": "1"}
        encode_pictures(
            frames,
            path,
            plan,
            container="webm",
            codec="libvpx-vp9",
            pixels="yuva420p" if plan.transparent else "yuv420p",
            options=options | WORK[plan.speed],
        )
