"""What formats for moving pictures without sound have in common: all pictures are at hand when the file is written."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.muxer import Extras
from velvetdrum.deliver.picture_codec import keep_pictures, kept_pictures
from velvetdrum.deliver.video_format import VideoFormat
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.transparency import straight

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


Pictures = Callable[[], Iterator[NDArray[np.uint8]]]
"""A way to go through pictures, more than once where a format needs that."""


class MovingPicture(VideoFormat):
    """Base of formats that are written in one go: segments keep pictures without loss until then."""

    alpha: ClassVar[bool] = True
    part_suffix: ClassVar[str] = ".mkv"
    rewrites: ClassVar[bool] = True

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
        def pictures() -> Iterator[NDArray[np.uint8]]:
            for pixels in kept_pictures(segments):
                yield straight(pixels) if plan.transparent else pixels

        with written_whole(path, "The pictures") as beside:
            self.write(pictures, beside, plan)

    def write(self, pictures: Pictures, path: Path, plan: ExportPlan) -> None:
        """Write all pictures; `pictures()` gives them in order, straight BGRA, as often as it is called.

        Parameters
        ----------
        pictures
            Gives BGRA pictures in order, as often as it is called.
        path
            The file that is written.
        plan
            What is asked for.
        """
        raise NotImplementedError
