"""What a file format for videos is: how pictures are encoded in segments, and how segments become one file."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, Literal, TypeVar

from velvetdrum.declare.registry import make_known
from velvetdrum.deliver.muxer import Extras
from velvetdrum.deliver.segments import Segment, segment_grid
from velvetdrum.picture.raster.areas import Pixels

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan

Speed = Literal["quick", "balanced", "small"]

SPEEDS: dict[Speed, tuple[str, str]] = {
    "quick": ("Quick", "Done first; the file is larger."),
    "balanced": ("Balanced", "Between the two."),
    "small": ("Small", "The smallest file; takes several times as long."),
}
"""How an export weighs time against size: title and one line of help. All look the same to the eye."""


class VideoFormat:
    """Base of all formats, each one module of `velvetdrum.deliver.formats`."""

    name: ClassVar[str] = ""
    title: ClassVar[str] = ""
    label: ClassVar[str] = ""
    """Its title where there is little room."""
    about: ClassVar[str] = ""
    """What it is for, in a line."""
    suffix: ClassVar[str] = ""
    mime: ClassVar[str] = ""
    alpha: ClassVar[bool] = False
    """True when it can hold transparent pixels."""
    codec: ClassVar[str] = ""
    """What it is asked for by, where several formats have one suffix."""
    rank: ClassVar[int] = 1
    """Of the formats with one suffix the lowest is taken, where none is asked for."""
    sound: ClassVar[str] = ""
    """Suffix of the sound format that goes into it (`SOUND_FORMATS`); empty for a format without sound."""
    part_suffix: ClassVar[str] = ""
    """Suffix of its segments, where it is another than that of the file."""
    group: ClassVar[str] = "video"
    """Where it is chosen: among `video`, `still` or `sound`."""
    rewrites: ClassVar[bool] = False
    """True when all pictures are written anew at the end, one after another."""
    many: ClassVar[bool] = False
    """True when it shows as many moments as are asked for."""
    sized: ClassVar[bool] = False
    """True when it can be brought to a size in megabytes, in two passes."""

    def passes(self, plan: ExportPlan) -> int:
        """How often all of its pictures are gone through when the file is put together.

        Parameters
        ----------
        plan
            What is asked for.
        """
        return 1

    def parts(self, plan: ExportPlan) -> list[Segment]:
        """The segments of a plan.

        Parameters
        ----------
        plan
            What is asked for.
        """
        return segment_grid(plan.first, plan.last, plan.fraction)

    def encode(self, frames: Iterable[Pixels], path: Path, plan: ExportPlan) -> None:
        """Encode BGRA pictures of a plan's size to a file that can be joined to others.

        Parameters
        ----------
        frames
            BGRA pictures in order.
        path
            The file that is written.
        plan
            What is asked for.
        """
        raise NotImplementedError

    def join(
        self,
        segments: Sequence[tuple[Path, int]],
        sound: Path | None,
        plan: ExportPlan,
        path: Path,
        extras: Extras | None = None,
    ) -> None:
        """Write `path` from segments (file, first frame counted from the start of the video) and a sound file.

        Raises DeliverError when the disk is full.

        Parameters
        ----------
        segments
            Files with their first frames, counted from the start of the video.
        sound
            The sound file, or None.
        plan
            What is asked for.
        path
            The file that is written.
        extras
            What stands in the file beside pictures and sound.
        """
        raise NotImplementedError


def format_for(suffix: str, codec: str = "") -> VideoFormat | None:
    """The format of a file's suffix, and of a codec where one is asked for; None when there is none.

    Parameters
    ----------
    suffix
        Ending of the file's name, with its dot.
    codec
        Name of the coder as the library has it.
    """
    fitting = [form for form in FORMATS.values() if form.suffix == suffix and codec in ("", form.codec)]
    return min(fitting, key=lambda form: form.rank, default=None)


FORMATS: dict[str, VideoFormat] = {}
"""Every known format by its name. Filled when `velvetdrum.deliver.formats` is imported."""

Format = TypeVar("Format", bound=type[VideoFormat])


def known_format(name: str, title: str) -> Callable[[Format], Format]:
    """Class decorator: makes a format known under a name, with a title.

    Parameters
    ----------
    name
        Name, as the file or the format has it.
    title
        The title, as the page shows it.
    """

    def register(cls: Format) -> Format:
        cls.name, cls.title = name, title
        make_known(FORMATS, name, cls())
        return cls

    return register
