"""What a render is asked for by the name of its file: a video, moving pictures, one picture, or sound alone."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import cv2

from velvetdrum.cli.sentences import Sentence
from velvetdrum.deliver.export import Job, used_part
from velvetdrum.deliver.extras import captions_of
from velvetdrum.deliver.sound import HeardSound, Loudness, encode_sound, measured, sound_of
from velvetdrum.deliver.sound_format import SOUND_FORMATS
from velvetdrum.deliver.video_format import FORMATS, format_for
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.transparency import straight
from velvetdrum.picture.render import encode_still, render
from velvetdrum.scene.document import Document, new_layer, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.words.reading import write_cues

STILLS = {".png": "png", ".jpg": "jpeg", ".jpeg": "jpeg"}
"""Suffixes of single pictures, and the forms that they are written in."""


@dataclass(frozen=True)
class Asked:
    """The format of `FORMATS` that is asked for; or a picture, or a format of `SOUND_FORMATS`."""

    form: str = "mp4"
    still: str = ""
    sound: str = ""

    @classmethod
    def of(cls, output: Path, codec: str | None, transparent: bool, captions: str | None) -> Asked:
        """What goes with the suffix of a file. Raises Sentence with the reason where something does not."""
        suffix = output.suffix.lower()
        if suffix in STILLS:
            if transparent and STILLS[suffix] == "jpeg":
                raise Sentence("A JPEG can't hold transparency; take .png.")
            return cls(still=STILLS[suffix])
        if suffix[1:] in SOUND_FORMATS:
            if transparent or captions in ("inside", "burnt"):
                raise Sentence(f"{output.name} holds sound alone: transparency and captions in it have no place there.")
            return cls(sound=suffix[1:])
        found = format_for(suffix, codec or "")
        if found is None and format_for(suffix) is not None:
            able = ", ".join(form.codec for form in FORMATS.values() if form.suffix == suffix and form.codec)
            raise Sentence(f"{suffix} can't hold {codec}; it takes {able or 'no other codec than its own'}.")
        if found is None:
            known = sorted({form.suffix for form in FORMATS.values()} | set(STILLS) | {f".{n}" for n in SOUND_FORMATS})
            raise Sentence(f"{output.name} has no suffix that is known; take one of {', '.join(known)}.")
        if transparent and not found.alpha:
            able = ", ".join(sorted({form.suffix for form in FORMATS.values() if form.alpha}))
            raise Sentence(f"{found.title} can't hold transparency; take one of {able}.")
        if captions == "inside" and not found.sound:
            raise Sentence(f"{found.title} has no place for a text track; take --captions beside or burnt.")
        return cls(found.name)


def with_captions(document: Document) -> Document:
    """The document with a layer that shows its cues, where it has none yet."""
    kind = next(name for name, cls in LAYER_KINDS.items() if cls.title == "Captions")
    if any(layer["kind"] == kind and layer["visible"] for layer in document["layers"]):
        return document
    return {**document, "layers": [*document["layers"], new_layer(kind)]}


def write_beside(job: Job, output: Path) -> list[Path]:
    """The cues of an export as SubRip and WebVTT files beside it."""
    cues = captions_of(parse(job.document), float(job.plan.start_s), float(job.plan.stop_s))
    found = []
    for suffix in ("srt", "vtt"):
        path = output.with_suffix(f".{suffix}")
        path.write_text(write_cues(cues, suffix), encoding="utf-8")
        found.append(path)
    return found


def draw_still(job: Job, output: Path, transparent: bool) -> None:
    """The first frame of an export as one picture."""
    project, plan = parse(job.document), job.plan
    size = FrameSize(plan.width, plan.height)
    use = used_part(project, job.sources)
    media = job.sources.media if job.sources else {}
    background = "transparent" if transparent else "opaque"
    pixels = render(project, use, project.time_of(plan.first), size, Canvas(size.width, size.height), media, background)  # type: ignore[arg-type]
    if transparent:
        output.write_bytes(cv2.imencode(".png", straight(pixels))[1].tobytes())
    else:
        output.write_bytes(encode_still(pixels, STILLS[output.suffix.lower()]))


def write_sound_alone(job: Job, output: Path, form: str) -> None:
    """The sound of an export, as mixed, and at a loudness where one is asked for."""
    encode_sound(_heard(job), output, form=form, lufs=job.plan.loudness, ceiling_db=job.plan.true_peak)


def _heard(job: Job) -> HeardSound:
    project = parse(job.document)
    if project.track is None or job.sources is None:
        raise Sentence("There is no sound in this project.")
    plan, track = job.plan, project.track
    use = used_part(project, job.sources)
    return HeardSound(
        Path(job.sources.original), track.in_s, track.out_s, plan.start_s, plan.stop_s, project, use, job.sources.clips
    )


def told(job: Job, output: Path, asked: Asked) -> list[str]:
    """What was made, in sentences; with the numbers of a sound that was brought to a loudness, measured again."""
    plan = job.plan
    if asked.still:
        return [f"{output}: one picture, {plan.width}x{plan.height}."]
    lines = []
    if asked.sound:
        lines.append(f"{output}: {float(plan.stop_s - plan.start_s):.2f} s of sound.")
    else:
        lines.append(f"{output}: {plan.frames} frames, {plan.width}x{plan.height}.")
        if job.sources and job.sources.original and not FORMATS[plan.format].sound:
            lines.append(f"{FORMATS[plan.format].title} has no sound; it is left out.")
    if plan.transparent and not _through(job):
        lines.append("A layer fills the frame, so that nothing in it is transparent; hide it, then render again.")
    if plan.loudness is not None and (asked.sound or FORMATS[plan.format].sound):
        heard = _heard(job)
        before, after = measured(heard.blocks(), heard.channels), sound_of(output)
        lines.append(f"Sound: {_told(before)} before, {_told(after)} now.")
    return lines


def _through(job: Job) -> bool:
    """True when something of the first frame is transparent."""
    project, plan = parse(job.document), job.plan
    size = FrameSize(plan.width, plan.height).scaled_to(min(plan.width, 160))
    media = job.sources.media if job.sources else {}
    use = used_part(project, job.sources)
    pixels = render(project, use, project.time_of(plan.first), size, media=media, background="transparent")
    return bool((pixels[..., 3] < 255).any())


def _told(found: Loudness) -> str:
    level = "silence" if found.lufs is None else f"{found.lufs:.1f} LUFS"
    return f"{level}, {found.peak_dbtp:.1f} dBTP"
