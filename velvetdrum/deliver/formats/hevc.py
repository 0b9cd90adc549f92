"""MP4 with HEVC in 10 bits and AAC: smaller than H.264, for channels that take it."""

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

WORK: dict[Speed, tuple[str, float]] = {
    "quick": ("ultrafast", 19.0),
    "balanced": ("veryfast", 19.0),
    "small": ("medium", 20.0),
}
"""The encoder's preset and constant rate factor at each speed."""


@known_format("mp4-hevc", "MP4 (HEVC 10 bit, AAC)")
class Hevc(JoinedFormat):
    """HEVC Main 10 in an MP4, with the index at its front."""

    label: ClassVar[str] = "HEVC"
    about: ClassVar[str] = "Smaller at the same look; newer devices."
    suffix: ClassVar[str] = ".mp4"
    mime: ClassVar[str] = "video/mp4"
    codec: ClassVar[str] = "hevc"
    sound: ClassVar[str] = "m4a"
    options: ClassVar[dict[str, str]] = {"movflags": "faststart"}

    def encode(self, frames: Iterable[Pixels], path: Path, plan: ExportPlan) -> None:
        preset, crf = WORK[plan.speed]
        key = round(2 * plan.fraction)
        params = f"log-level=error:open-gop=0:bframes=2:keyint={key}:pools=none:frame-threads=1"
        encode_pictures(
            frames,
            path,
            plan,
            container="mp4",
            codec="libx265",
            pixels="yuv420p10le",
            options={"preset": preset, "crf": str(crf), "x265-params": params},
            tag="hvc1",
        )
