"""One moment as a WebP."""

from __future__ import annotations

from typing import ClassVar

import cv2

from velvetdrum.deliver.stills import Still
from velvetdrum.deliver.video_format import known_format


@known_format("still-webp", "WebP picture")
class WebpStill(Still):
    """Small, and with transparency, for pages."""

    label: ClassVar[str] = "WebP still"
    about: ClassVar[str] = "Small, and with transparency, for pages."
    suffix: ClassVar[str] = ".webp"
    mime: ClassVar[str] = "image/webp"
    alpha: ClassVar[bool] = True
    rank: ClassVar[int] = 9
    coding: ClassVar[tuple[int, ...]] = (cv2.IMWRITE_WEBP_QUALITY, 92)
