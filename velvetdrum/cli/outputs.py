"""What a render is asked for by the name of its file: a video, moving pictures, one picture, or sound alone."""

from __future__ import annotations

from pathlib import Path

from velvetdrum.cli import readers
from velvetdrum.cli.sentences import Sentence
from velvetdrum.deliver.export import Job
from velvetdrum.deliver.extras import captions_of
from velvetdrum.deliver.sound import Loudness, sound_of
from velvetdrum.deliver.video_format import FORMATS, VideoFormat, format_for
from velvetdrum.limits import door
from velvetdrum.scene.document import parse
from velvetdrum.words.cue_files import write_cues


def form_of(
    output: Path, codec: str | None, transparent: bool, captions: str | None, moments: int | None
) -> VideoFormat:
    """The format that goes with the suffix of a file. Raises Sentence with the reason where something does not."""
    suffix = {".jpeg": ".jpg"}.get(output.suffix.lower(), output.suffix.lower())
    result = format_for(suffix, codec or "")
    if moments is not None:
        sheets = [form for form in FORMATS.values() if form.suffix == suffix and form.many]
        if not sheets:
            able = ", ".join(form.suffix for form in FORMATS.values() if form.many)
            raise Sentence(f"Several moments go on a sheet, which is written as {able}.")
        result = sheets[0]
    if result is None and format_for(suffix) is not None:
        able = ", ".join(form.codec for form in FORMATS.values() if form.suffix == suffix and form.codec)
        raise Sentence(f"{suffix} can't hold {codec}; it takes {able or 'no other codec than its own'}.")
    if result is None:
        known = sorted({form.suffix for form in FORMATS.values()})
        raise Sentence(f"{output.name} has no suffix that is known; take one of {', '.join(known)}.")
    if result.group == "sound" and (transparent or captions in ("inside", "burnt")):
        raise Sentence(f"{output.name} holds sound alone: transparency and captions in it have no place there.")
    if transparent and not result.alpha:
        able = ", ".join(sorted({form.suffix for form in FORMATS.values() if form.alpha}))
        raise Sentence(f"{result.title} can't hold transparency; take one of {able}.")
    if captions == "inside" and not result.sound:
        raise Sentence(f"{result.title} has no place for a text track; take --captions beside or burnt.")
    return result


def write_beside(job: Job, output: Path) -> list[Path]:
    """The cues of an export as SubRip and WebVTT files beside it."""
    cues = captions_of(parse(job.document), float(job.plan.start_s), float(job.plan.stop_s))
    result = []
    for suffix in ("srt", "vtt"):
        path = output.with_suffix(f".{suffix}")
        path.write_text(write_cues(cues, suffix), encoding="utf-8")
        result.append(path)
    return result


def report_lines(job: Job, output: Path) -> list[str]:
    """What was made, in sentences; with the numbers of a sound that was brought to a loudness, measured again."""
    plan, form = job.plan, FORMATS[job.plan.format]
    seconds = float(plan.stop_s - plan.start_s)
    lines = {
        "still": [f"{output}: {len(plan.segments)} of its pictures, {plan.width}x{plan.height}."],
        "sound": [f"{output}: {seconds:.2f} s of sound."],
    }.get(form.group, [f"{output}: {plan.frames} frames, {plan.width}x{plan.height}."])
    if form.group == "still" and len(plan.segments) == 1:
        lines = [f"{output}: one picture, {plan.width}x{plan.height}."]
    if form.group == "video" and job.has_track and not form.sound:
        lines.append(f"{form.title} has no sound; it is left out.")
    if plan.transparent and not door.read(readers.is_transparent, job, bounds=door.RECORDING):
        lines.append("A layer fills the frame, so that nothing in it is transparent; hide it, then render again.")
    if plan.loudness is not None and form.sound:
        before = door.read(readers.heard_loudness, job, bounds=door.RECORDING)
        after = door.read(sound_of, output, bounds=door.RECORDING)
        lines.append(f"Sound: {_describe_loudness(before)} before, {_describe_loudness(after)} now.")
    return lines


def _describe_loudness(found: Loudness) -> str:
    level = "silence" if found.lufs is None else f"{found.lufs:.1f} LUFS"
    return f"{level}, {found.peak_dbtp:.1f} dBTP"
