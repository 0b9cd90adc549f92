"""What an export consists of: a fixed grid of segments, whatever the number of workers."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from fractions import Fraction
from typing import Any, Literal

import velvetdrum.deliver.formats  # noqa: F401  (makes the formats known)
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.video_format import FORMATS, Speed
from velvetdrum.picture.frame.render import VERSION
from velvetdrum.scene.document import Document, parse
from velvetdrum.scene.frames import FrameSize, parse_rate, rate_text

SEAM_S = 0.75
"""How long a loop's end fades into its start."""

LEAST_BITS = 300_000
"""Bits a second, sound included, that a video of a given size has at the least."""


@dataclass(frozen=True)
class ExportPlan:
    """Frames first to last (exclusive) of a project at a size, cut into segments.

    The plan and the document decide every byte of the pictures; workers only decide who draws them.
    """

    width: int
    height: int
    rate: str
    first: int
    last: int
    format: str = "mp4"
    speed: Speed = "balanced"
    transparent: bool = False
    loudness: float | None = None
    """Integrated loudness that the sound is brought to, in LUFS; None leaves it as it is."""
    true_peak: float = -1.0
    """What the true peak then does not pass, in dBTP."""
    captions: Literal["", "inside"] = ""
    """Whether the project's first cue track goes into the file as a text track."""
    fade_in: float = 0.0
    """Seconds in which its sound comes."""
    fade_out: float = 0.0
    """Seconds in which its sound goes."""
    seam: float = 0.0
    """Seconds at its end in which it fades, picture and sound, into what comes before its start, so that it can go
    round without a seam; 0 for an end that is one."""
    megabytes: float | None = None
    """What size the file is brought to; None for an even quality."""
    moments: int = 9
    """How many moments a contact sheet shows."""

    @classmethod
    def stored(cls, values: dict[str, Any]) -> ExportPlan:
        """A plan from what was stored of one, perhaps by an earlier version.

        Parameters
        ----------
        values
            What was stored of one.
        """
        return cls(**{field.name: values[field.name] for field in fields(cls) if field.name in values})

    @property
    def fraction(self) -> Fraction:
        """Frames a second, exactly."""
        return Fraction(self.rate)

    @property
    def frames(self) -> int:
        """How many frames are made."""
        return self.last - self.first

    @property
    def segments(self) -> list[tuple[int, int]]:
        """First and last (exclusive) frame of each segment."""
        return FORMATS[self.format].parts(self)

    @property
    def start_s(self) -> Fraction:
        """Where it begins, in exact seconds of the project."""
        return self.first / self.fraction

    @property
    def stop_s(self) -> Fraction:
        """Where it ends, in exact seconds of the project."""
        return self.last / self.fraction

    def key(self, document: Document) -> str:
        """Hash of everything that the pictures depend on, the renderer's version among it; segments of equal keys are
        interchangeable.

        Parameters
        ----------
        document
            The project's document.
        """
        text = json.dumps([VERSION, asdict(self), document], sort_keys=True, separators=(",", ":"))
        return hashlib.sha256(text.encode()).hexdigest()


def plan_export(
    document: Document,
    *,
    size: FrameSize | None = None,
    from_s: float | None = None,
    to_s: float | None = None,
    speed: Speed = "balanced",
    form: str = "mp4",
    transparent: bool = False,
    loudness: float | None = None,
    true_peak: float = -1.0,
    captions: Literal["", "inside"] = "",
    fades: tuple[float, float] = (0.0, 0.0),
    seamless: bool = False,
    megabytes: float | None = None,
    moments: int = 9,
) -> ExportPlan:
    """Plan an export of the whole project or of a part, in seconds, in a format of `FORMATS`.

    Parameters
    ----------
    document
        A project's document.
    size
        Size in pixels.
    from_s
        Seconds of the project at which the export begins; None for its start.
    to_s
        Seconds of the project at which the export ends; None for its end.
    speed
        How much time an export may take.
    form
        Name of the form.
    transparent
        True where what is behind shows through.
    loudness
        Integrated loudness of the result, in LUFS; None leaves it as it is.
    true_peak
        The true peak that is not passed, in dBTP.
    captions
        "inside" for a text track in the file, "" for none.
    fades
        Seconds of fade in and fade out.
    seamless
        True where end and beginning run into each other.
    megabytes
        Size of the file, at the most, in MB (10^6 bytes); None for any.
    moments
        Number of moments on a sheet.

    Raises
    ------
    DeliverError
        When the part is empty or lies outside the project, or the format can't hold what is asked for.
    """
    if transparent and not FORMATS[form].alpha:
        able = ", ".join(sorted({other.suffix for other in FORMATS.values() if other.alpha}))
        raise DeliverError(f"{FORMATS[form].title} can't hold transparency; take one of {able}.")
    project = parse(document)
    size = size or project.frame
    start, stop = from_s or 0.0, project.length_s if to_s is None else to_s
    if start < 0 or stop > project.length_s + 1e-6:
        raise DeliverError(f"The project goes from 0 to {project.length_s:.2f} s; choose a part inside of it.")
    if stop - start < float(1 / project.rate) - 1e-6:
        raise DeliverError("The end must lie at least one frame after the start.")
    first = round(Fraction(start).limit_denominator(1_000_000) * project.rate)
    last = project.frame_count if to_s is None else round(Fraction(stop).limit_denominator(1_000_000) * project.rate)
    last = min(max(last, first + 1), project.frame_count)
    length = float((last - first) / project.rate)
    if sum(fades) > length:
        raise DeliverError(f"The fades are longer than the {length:.1f} s that are exported; shorten them.")
    if megabytes is not None:
        least = length * LEAST_BITS / 8e6
        if not FORMATS[form].sized:
            able = " or ".join(other.title for other in FORMATS.values() if other.sized)
            raise DeliverError(f"{FORMATS[form].title} can't be brought to a size; take {able}.")
        if megabytes < least:
            raise DeliverError(f"{length:.0f} s need {least:.1f} MB at the least; allow more, or export a part.")
    fade_in, fade_out = fades
    return ExportPlan(
        width=size.width,
        height=size.height,
        rate=str(project.rate),
        first=first,
        last=last,
        format=form,
        speed=speed,
        transparent=transparent,
        loudness=loudness,
        true_peak=true_peak,
        captions=captions,
        fade_in=fade_in,
        fade_out=fade_out,
        seam=min(SEAM_S, length / 3) if seamless else 0.0,
        megabytes=megabytes,
        moments=moments,
    )


def in_rate(document: Document, wanted: Mapping[str, Any]) -> Document:
    """The document that is exported: in the frames per second that are asked for, `rate`, by name or as a fraction; as
    it is where none are. All else in it goes by time.

    Parameters
    ----------
    document
        A project's document.
    wanted
        What was asked for, as the request has it.

    Raises
    ------
    FrameError
    """
    asked = wanted.get("rate")
    return document | {"rate": rate_text(parse_rate(asked))} if asked else document


def plan_wanted(document: Document, wanted: Mapping[str, Any]) -> ExportPlan:
    """The plan of an export as the Export room, a batch and a post ask for it: `format`, `frame`, `rate`, `from_s`,
    `to_s`, `speed`, `transparent`, `loudness`, `true_peak`, `captions`, `fade_in`, `fade_out`, `seamless`, `megabytes`
    and `moments`.

    Parameters
    ----------
    document
        A project's document.
    wanted
        What was asked for, as the request has it.

    Raises
    ------
    DeliverError
    """
    form = FORMATS[wanted["format"]]
    return plan_export(
        in_rate(document, wanted),
        size=FrameSize.parse(wanted["frame"]) if wanted["frame"] else None,
        from_s=wanted["from_s"],
        to_s=wanted["to_s"],
        speed=wanted["speed"],
        form=wanted["format"],
        transparent=wanted["transparent"] == "yes",
        loudness=wanted["loudness"],
        true_peak=wanted["true_peak"],
        captions="inside" if wanted["captions"] == "inside" and form.sound and form.group == "video" else "",
        fades=(wanted["fade_in"], wanted["fade_out"]),
        seamless=wanted["seamless"] == "yes",
        megabytes=wanted["megabytes"],
        moments=wanted["moments"],
    )
