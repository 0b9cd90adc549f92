"""One segment of video: frames drawn and encoded, on its own, on one core."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

import cv2

import velvetdrum.deliver.formats  # noqa: F401  (makes the formats known)
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.picture.frame.render import Background, ProjectView
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, Project, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange

Step = Callable[[int], None]


@dataclass(frozen=True)
class Seam:
    """The end of a loop, in which what comes before its start is faded in."""

    first: int
    last: int
    frames: int

    @classmethod
    def of(cls, plan: ExportPlan) -> Seam:
        """The seam of a plan; of no frames where it has none.

        Parameters
        ----------
        plan
            What is asked for.
        """
        return cls(plan.first, plan.last, round(plan.seam * plan.fraction))

    def share(self, index: int) -> float:
        """How much of frame `index` is what comes before the start: rising through the seam, all of it at its end.

        Parameters
        ----------
        index
            Number of a frame of the video.
        """
        into = index - (self.last - self.frames)
        if into < 0 or not self.frames:
            return 0.0
        share = (into + 1) / (self.frames + 1)
        return share * share * (3 - 2 * share)

    def other(self, index: int) -> int:
        """The frame that is faded in: as long before the start as `index` is before the end.

        Parameters
        ----------
        index
            Number of a frame of the video.
        """
        return index - (self.last - self.first)


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

    `step` is called with the frames done so far and may raise `Cancelled`.

    Parameters
    ----------
    document
        A project's document.
    use
        The used stretch of a recording.
    plan
        What is exported: frames, size, rate, format.
    number
        Which one, counted from 0.
    path
        The file.
    step
        Called with every frame that is done.
    media
        Paths of the project's files by content hash.

    Raises
    ------
    DeliverError
        When the disk is full.
    """
    project = parse(document)
    first, last = plan.segments[number]
    with written_whole(path, "The video") as beside:
        FORMATS[plan.format].encode(drawn_frames(project, use, plan, first, last, step, media), beside, plan)
    step(last - first)


def drawn_frames(
    project: Project,
    use: AudioRange | None,
    plan: ExportPlan,
    first: int,
    last: int,
    step: Step = lambda done: None,
    media: Mapping[str, str] | None = None,
) -> Iterator[Pixels]:
    """Frames `first` to `last` (exclusive) of a project at the plan's size, drawn into the same memory one after
    another; one that looks as the one before it is the same array again.

    Parameters
    ----------
    project
        The project.
    use
        The used stretch of a recording.
    plan
        What is exported: frames, size, rate, format.
    first
        The first one, counted from 0.
    last
        The last one, counted from 0.
    step
        Called with every frame that is done.
    media
        Paths of the project's files by content hash.
    """
    size = FrameSize(plan.width, plan.height)
    background: Background = "transparent" if plan.transparent else "opaque"
    seam = Seam.of(plan)
    second = Canvas(size.width, size.height) if seam.frames else None
    canvas, view = Canvas(size.width, size.height), ProjectView(project, use, media, quick=plan.speed == "quick")
    name, shown = None, canvas.pixels
    for index in range(first, last):
        step(index - first)
        stage = view.at(project.time_of(index), size)
        before, name = name, None if seam.share(index) > 0 else stage.still_name
        if name is not None and name == before:
            yield shown
            continue
        stage.draw_frame(canvas, background)
        over = seam.share(index)
        if over > 0 and second is not None:
            # What comes before the start shows through, until it is all that is seen.
            view.at(project.time_of(seam.other(index)), size).draw_frame(second, background)
            cv2.addWeighted(canvas.pixels, 1 - over, second.pixels, over, 0, canvas.pixels)
        shown = canvas.pixels.view()
        yield shown
