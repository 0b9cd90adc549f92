"""What commands have read behind the door: the files of others, and what draws or measures them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from velvetdrum.deliver.bundle import read_bundle
from velvetdrum.deliver.export import Job, Sources, heard_by, used_part
from velvetdrum.deliver.sound import Loudness, measured
from velvetdrum.mix.mix_analysis import analyse_mix
from velvetdrum.mix.mixdown import SourceFiles
from velvetdrum.mix.placed_track import mix_of
from velvetdrum.picture.frame.render import encode_still, render
from velvetdrum.picture.media.clips.preparation import clip_facts, write_sound
from velvetdrum.scene.document import Document, parse
from velvetdrum.scene.frames import FrameSize


def unpack(project: Path, folder: Path) -> tuple[Document, dict[str, Path]]:
    """The document of a project file, and its media by key, unpacked into a folder. Raises as `read_bundle`."""
    return read_bundle(project, folder)


def analyse_sum(mix: dict[str, Any], originals: dict[str, str], analyses: dict[str, str], folder: Path) -> None:
    """Analyse the sum of tracks, or a part of it, into a folder."""
    analyse_mix(mix_of(mix), SourceFiles(originals, analyses), folder)


def clip_sound(path: Path, folder: Path) -> bool:
    """Write the sound of a clip into a folder; False where it has none."""
    if not clip_facts(path).sound:
        return False
    write_sound(path, folder)
    return True


def still(document: Document, sources: Sources, number: int, frame: FrameSize | None) -> bytes:
    """A frame of a project as a PNG picture."""
    project = parse(document)
    use = used_part(project, sources)
    return encode_still(render(project, use, project.time_of(number), frame, media=sources.media))


def is_transparent(job: Job) -> bool:
    """True when something of the first frame of an export is transparent."""
    project, plan = parse(job.document), job.plan
    size = FrameSize(plan.width, plan.height).scaled_to(min(plan.width, 160))
    media = job.sources.media if job.sources else {}
    use = used_part(project, job.sources)
    pixels = render(project, use, project.time_of(plan.first), size, media=media, background="transparent")
    return bool((pixels[..., 3] < 255).any())


def heard_loudness(job: Job) -> Loudness:
    """How loud the sound of an export is before it is brought to a loudness."""
    heard = heard_by(job)
    return measured(heard.blocks(), heard.channels)
