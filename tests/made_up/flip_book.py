"""A video format: the pictures one under another, in one portable pixmap."""

from pathlib import Path
from typing import ClassVar

import numpy as np

from velvetdrum.deliver.moving_picture import MovingPicture, Pictures
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.video_format import known_format


@known_format("flip-book", "Flip book (PPM)")
class FlipBook(MovingPicture):
    """Pages to print and cut."""

    label: ClassVar[str] = "Flip book"
    about: ClassVar[str] = "Pages to print and cut."
    suffix: ClassVar[str] = ".ppm"
    mime: ClassVar[str] = "image/x-portable-pixmap"
    alpha: ClassVar[bool] = False

    def write(self, pictures: Pictures, path: Path, plan: ExportPlan) -> None:
        with path.open("wb") as out:
            out.write(b"P6 %d %d 255\n" % (plan.width, plan.height * plan.frames))
            for pixels in pictures():
                out.write(np.ascontiguousarray(pixels[..., 2::-1]).tobytes())
