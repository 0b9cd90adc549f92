"""APNG: moving pictures without loss and with transparency, for pages; without sound."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

import av

from velvetdrum.deliver.moving_picture import MovingPicture, Pictures
from velvetdrum.deliver.video_format import known_format

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


@known_format("apng", "APNG (no loss)")
class Apng(MovingPicture):
    """Every pixel as it was drawn, straight alpha in 8 bits."""

    label: ClassVar[str] = "APNG"
    about: ClassVar[str] = "Without loss, for pages, without sound."
    suffix: ClassVar[str] = ".apng"
    mime: ClassVar[str] = "image/apng"

    def write(self, pictures: Pictures, path: Path, plan: ExportPlan) -> None:
        with av.open(str(path), "w", format="apng", options={"plays": "0"}) as out:
            stream: Any = out.add_stream("apng", rate=plan.fraction)
            stream.width, stream.height, stream.pix_fmt = plan.width, plan.height, "rgba"
            for number, pixels in enumerate(pictures()):
                frame = av.VideoFrame.from_ndarray(pixels, format="bgra").reformat(format="rgba")
                frame.pts, frame.time_base = number, 1 / plan.fraction
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
