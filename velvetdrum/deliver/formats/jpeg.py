"""One moment as a JPEG."""

from __future__ import annotations

from typing import ClassVar

import cv2

from velvetdrum.deliver.stills import Still
from velvetdrum.deliver.video_format import known_format


@known_format("still-jpeg", "JPEG picture")
class Jpeg(Still):
    """Small; what channels take as a cover."""

    label: ClassVar[str] = "JPEG"
    about: ClassVar[str] = "Small; what channels take as a cover."
    suffix: ClassVar[str] = ".jpg"
    mime: ClassVar[str] = "image/jpeg"
    alpha: ClassVar[bool] = False
    rank: ClassVar[int] = 9
    coding: ClassVar[tuple[int, ...]] = (cv2.IMWRITE_JPEG_QUALITY, 92)
