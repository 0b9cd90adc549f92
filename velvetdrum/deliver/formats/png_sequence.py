"""A PNG for each frame, in a zip: for any other program; without sound."""

from __future__ import annotations

import zipfile
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

import cv2

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.moving_picture import MovingPicture, Pictures
from velvetdrum.deliver.video_format import known_format

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


@known_format("png-sequence", "PNG sequence (zip)")
class PngSequence(MovingPicture):
    """frame-00000.png and so on, straight alpha in 8 bits."""

    label: ClassVar[str] = "PNGs"
    about: ClassVar[str] = "A picture a frame, for other programs."
    suffix: ClassVar[str] = ".zip"
    mime: ClassVar[str] = "application/zip"

    def write(self, pictures: Pictures, path: Path, plan: ExportPlan) -> None:
        # What is stored is packed already.
        with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as out:
            for number, pixels in enumerate(pictures()):
                shown = pixels if plan.transparent else pixels[..., :3]
                done, data = cv2.imencode(".png", shown, [cv2.IMWRITE_PNG_COMPRESSION, 3])
                if not done:
                    raise DeliverError(f"Frame {number} could not be written as PNG.")
                out.writestr(f"frame-{number:05d}.png", data.tobytes())
