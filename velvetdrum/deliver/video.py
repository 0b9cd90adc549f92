"""One segment of video: frames drawn and encoded, on its own, on one core."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

import velvetdrum.deliver.formats  # noqa: F401  (makes the formats known)
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.render import ProjectView
from velvetdrum.scene.document import Document, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange

Step = Callable[[int], None]


def encode_segment(
    document: Document,
    use: AudioRange | None,
    plan: ExportPlan,
    number: int,
    path: Path,
    step: Step = lambda done: None,
    media: Mapping[str, str] | None = None,
) -> None:
    """Draw and encode segment `number` of a plan. The file appears under `path` only when it is whole.

    `step` is called with the frames done so far and may raise `Cancelled`. Raises DeliverError when the disk
    is full.
    """
    project = parse(document)
    first, last = plan.segments[number]
    size = FrameSize(plan.width, plan.height)
    canvas, view = Canvas(size.width, size.height), ProjectView(project, use, media)

    def frames() -> Iterable[Pixels]:
        for index in range(first, last):
            step(index - first)
            view.at(project.time_of(index), size).draw_frame(canvas, "transparent" if plan.transparent else "opaque")
            yield canvas.pixels

    with written_whole(path, "The video") as beside:
        FORMATS[plan.format].encode(frames(), beside, plan)
    step(last - first)
