"""MOV with ProRes 4444 and uncompressed sound: for editing, in 10 bits, with transparency."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from velvetdrum.deliver.joined_format import JoinedFormat
from velvetdrum.deliver.picture_codec import encode_pictures
from velvetdrum.deliver.video_format import known_format
from velvetdrum.picture.raster.areas import Pixels

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


@known_format("mov", "MOV (ProRes 4444)")
class ProRes(JoinedFormat):
    """Every picture by itself, 4:4:4 in 10 bits, with alpha in 16; the file is large at every speed."""

    label: ClassVar[str] = "ProRes"
    about: ClassVar[str] = "For editing: 10 bits, exact, large."
    suffix: ClassVar[str] = ".mov"
    mime: ClassVar[str] = "video/quicktime"
    alpha: ClassVar[bool] = True
    codec: ClassVar[str] = "prores"
    sound: ClassVar[str] = "wav"
    container: ClassVar[str] = "mov"

    def encode(self, frames: Iterable[Pixels], path: Path, plan: ExportPlan) -> None:
        encode_pictures(
            frames,
            path,
            plan,
            container="mov",
            codec="prores_ks",
            pixels="yuva444p10le" if plan.transparent else "yuv444p10le",
            options={"profile": "4444", "alpha_bits": "16", "vendor": "apl0"},
        )
