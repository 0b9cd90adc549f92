"""Animated WebP: small moving pictures with transparency, for pages; without sound."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

import av

from velvetdrum.deliver.moving_picture import MovingPicture, Pictures
from velvetdrum.deliver.video_format import Speed, known_format

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan

WORK: dict[Speed, str] = {"quick": "0", "balanced": "2", "small": "5"}
"""How hard the encoder works at each speed, 0 to 6."""


@known_format("webp", "WebP (animated)")
class WebP(MovingPicture):
    """Lossy colours, straight alpha without loss."""

    label: ClassVar[str] = "WebP"
    about: ClassVar[str] = "Small moving pictures for pages, without sound."
    suffix: ClassVar[str] = ".webp"
    mime: ClassVar[str] = "image/webp"

    def write(self, pictures: Pictures, path: Path, plan: ExportPlan) -> None:
        with av.open(str(path), "w", format="webp", options={"loop": "0"}) as out:
            options = {"quality": "88", "compression_level": WORK[plan.speed], "lossless": "0"}
            stream: Any = out.add_stream("libwebp_anim", rate=plan.fraction, options=options)
            stream.width, stream.height, stream.pix_fmt = plan.width, plan.height, "bgra"
            for number, pixels in enumerate(pictures()):
                frame = av.VideoFrame.from_ndarray(pixels, format="bgra")
                frame.pts, frame.time_base = number, 1 / plan.fraction
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
