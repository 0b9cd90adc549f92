"""Many moments on one sheet, with their times: what a video holds, at a look."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.deliver.segments import Segment, moments_grid
from velvetdrum.deliver.stills import Still
from velvetdrum.deliver.video_format import known_format

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan

_WIDTH = 640
"""Pixels of the longer side of one picture on it, at the most."""
_GAP, _FOOT = 12, 34
_GROUND, _INK = (24, 18, 28), (222, 214, 228)


@known_format("contact-sheet", "Contact sheet (JPEG)")
class ContactSheet(Still):
    """Moments evenly spread over what is exported."""

    label: ClassVar[str] = "Contact sheet"
    about: ClassVar[str] = "Many moments on one picture, to look through or to show."
    suffix: ClassVar[str] = ".jpg"
    mime: ClassVar[str] = "image/jpeg"
    rank: ClassVar[int] = 10
    many: ClassVar[bool] = True
    coding: ClassVar[tuple[int, ...]] = (cv2.IMWRITE_JPEG_QUALITY, 92)

    def parts(self, plan: ExportPlan) -> list[Segment]:
        return moments_grid(plan.first, plan.last, plan.moments)

    def laid(self, pictures: list[NDArray[np.uint8]], plan: ExportPlan) -> NDArray[np.uint8]:
        scale = min(_WIDTH / max(plan.width, plan.height), 1.0)
        width, height = max(round(plan.width * scale), 1), max(round(plan.height * scale), 1)
        columns = max(round(math.sqrt(len(pictures) * height / width)), 1)
        rows = math.ceil(len(pictures) / columns)
        size = (rows * (height + _FOOT) + _GAP, columns * (width + _GAP) + _GAP, 3)
        sheet = np.full(size, _GROUND, np.uint8)
        for number, (picture, (frame, _)) in enumerate(zip(pictures, plan.segments, strict=True)):
            left = _GAP + number % columns * (width + _GAP)
            top = _GAP + number // columns * (height + _FOOT)
            small = cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA)
            sheet[top : top + height, left : left + width] = small
            seconds = float(frame / plan.fraction)
            said = f"{int(seconds // 60)}:{seconds % 60:05.2f}"
            place = (left, top + height + 17)
            cv2.putText(sheet, said, place, cv2.FONT_HERSHEY_SIMPLEX, 0.45, _INK, 1, cv2.LINE_AA)
        return sheet
