"""Single pictures as exports: a moment, or many on a sheet."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.muxer import Extras
from velvetdrum.deliver.picture_codec import keep_pictures, kept_pictures
from velvetdrum.deliver.segments import Segment, moments_grid
from velvetdrum.deliver.video_format import VideoFormat
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.transparency import straight

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


class Still(VideoFormat):
    """Base of formats of one picture: the first frame of what is exported."""

    group: ClassVar[str] = "still"
    part_suffix: ClassVar[str] = ".mkv"
    rewrites: ClassVar[bool] = True
    coding: ClassVar[tuple[int, ...]] = ()
    """What the writer of pictures is told."""

    def parts(self, plan: ExportPlan) -> list[Segment]:
        return moments_grid(plan.first, plan.last, 1)

    def encode(self, frames: Iterable[Pixels], path: Path, plan: ExportPlan) -> None:
        keep_pictures(frames, path, plan.fraction)

    def join(
        self,
        segments: Sequence[tuple[Path, int]],
        sound: Path | None,
        plan: ExportPlan,
        path: Path,
        extras: Extras | None = None,
    ) -> None:
        result = [straight(pixels) if plan.transparent else pixels[..., :3] for pixels in kept_pictures(segments)]
        data = cv2.imencode(self.suffix, self.laid(result, plan), self.coding)[1]
        with written_whole(path, "The picture") as beside:
            beside.write_bytes(data.tobytes())

    def laid(self, pictures: list[NDArray[np.uint8]], plan: ExportPlan) -> NDArray[np.uint8]:
        """The picture that is written, from those that were drawn.

        Parameters
        ----------
        pictures
            The pictures that were drawn.
        plan
            What is asked for.
        """
        return np.ascontiguousarray(pictures[0])
