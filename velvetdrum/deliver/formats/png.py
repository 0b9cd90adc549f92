"""One moment as a PNG."""

from __future__ import annotations

from typing import ClassVar

import cv2

from velvetdrum.deliver.stills import Still
from velvetdrum.deliver.video_format import known_format


@known_format("still-png", "PNG picture")
class Png(Still):
    """Sharp, and with transparency."""

    label: ClassVar[str] = "PNG"
    about: ClassVar[str] = "Sharp, and with transparency."
    suffix: ClassVar[str] = ".png"
    mime: ClassVar[str] = "image/png"
    alpha: ClassVar[bool] = True
    rank: ClassVar[int] = 9
    coding: ClassVar[tuple[int, ...]] = (cv2.IMWRITE_PNG_COMPRESSION, 6)
