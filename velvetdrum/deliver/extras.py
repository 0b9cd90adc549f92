"""What a project says of itself in a file: its title and tags, and chapters from its markers."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.muxer import Chapter, Extras
from velvetdrum.scene.document import Document, Project, new_layer, parse
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.words.cues import CueList

if TYPE_CHECKING:
    from velvetdrum.deliver.export import Job


def extras_of(job: Job) -> Extras:
    """Tags and chapters of an export.

    Parameters
    ----------
    job
        An export: document, sources, plan, folder.
    """
    project = parse(job.document)
    begin, end = float(job.plan.start_s), float(job.plan.stop_s)
    captions = captions_of(project, begin, end) if job.plan.captions else None
    return Extras(tags_of(project), chapters_of(project, begin, end), captions)


def with_captions(document: Document) -> Document:
    """The document with a layer that shows its cues, where it has none yet.

    Parameters
    ----------
    document
        A project's document.
    """
    kind = next(name for name, cls in LAYER_KINDS.items() if cls.burns_captions)
    if any(layer["kind"] == kind and layer["visible"] for layer in document["layers"]):
        return document
    return {**document, "layers": [*document["layers"], new_layer(kind)]}


def captions_of(project: Project, begin_s: float, end_s: float) -> CueList:
    """The cues of a stretch, in seconds from its start; those that begin before it, or end after it, are cut.

    Parameters
    ----------
    project
        The project.
    begin_s
        Seconds of the project at which it begins.
    end_s
        Seconds at which it ends.

    Raises
    ------
    DeliverError
        Where there are none.
    """
    track = next(iter(project.cue_tracks), None)
    offset = (project.track.in_s if project.track else 0.0) + begin_s
    length = end_s - begin_s
    moved = [cue.moved(-offset) for cue in track.row] if track else []
    inside = tuple(
        replace(cue, start_s=max(cue.start_s, 0.0), end_s=min(cue.end_s, length), words=())
        for cue in moved
        if cue.end_s > 0 and cue.start_s < length
    )
    if track is None or not inside:
        raise DeliverError("There are no cues in this part of the project to make captions of. Add them under Words.")
    return CueList(inside, track.language)


def tags_of(project: Project) -> dict[str, str]:
    """The tags of a file, by the names that containers share. Without a title of its own, it has the project's name.

    Parameters
    ----------
    project
        The project.
    """
    own = dict(project.tags)
    return {"title": own.pop("title", "") or project.name, **{name: value for name, value in own.items() if value}}


def chapters_of(project: Project, begin_s: float, end_s: float) -> tuple[Chapter, ...]:
    """A chapter from each marker of a stretch that begins one to the next; the first begins with the stretch.

    Parameters
    ----------
    project
        The project.
    begin_s
        Seconds of the project at which it begins.
    end_s
        Seconds at which it ends.
    """
    inside = [marker for marker in project.markers if marker.chapter and begin_s <= marker.time_s < end_s]
    inside.sort(key=lambda marker: marker.time_s)
    if not inside:
        return ()
    starts = [(marker.time_s - begin_s, marker.text) for marker in inside]
    if starts[0][0] > 0.5:
        starts.insert(0, (0.0, project.name))
    else:
        starts[0] = (0.0, starts[0][1])
    ends = [start for start, _ in starts[1:]] + [end_s - begin_s]
    return tuple(Chapter(start, end, name) for (start, name), end in zip(starts, ends, strict=True))
