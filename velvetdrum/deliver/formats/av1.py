"""MP4 with AV1 and AAC: the smallest at the same look, for devices of the last years."""

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

WORK: dict[Speed, tuple[str, str]] = {"quick": ("11", "24"), "balanced": ("9", "25"), "small": ("6", "28")}
"""The encoder's preset and constant rate factor at each speed."""


@known_format("mp4-av1", "MP4 (AV1, AAC)")
class Av1(JoinedFormat):
    """AV1 Main in 10 bits, with the index at its front."""

    label: ClassVar[str] = "AV1"
    about: ClassVar[str] = "The smallest; devices of the last years."
    suffix: ClassVar[str] = ".mp4"
    mime: ClassVar[str] = "video/mp4"
    codec: ClassVar[str] = "av1"
    rank: ClassVar[int] = 2
    sound: ClassVar[str] = "m4a"
    options: ClassVar[dict[str, str]] = {"movflags": "faststart"}

    def encode(self, frames: Iterable[Pixels], path: Path, plan: ExportPlan) -> None:
        preset, crf = WORK[plan.speed]
        key = round(2 * plan.fraction)
        encode_pictures(
            frames,
            path,
            plan,
            container="mp4",
            codec="libsvtav1",
            pixels="yuv420p10le",
            # One thread, and no picture that is only there for others: equal pictures give equal bytes.
            options={"preset": preset, "crf": crf, "svtav1-params": f"lp=1:keyint={key}:pred-struct=1"},
        )
