"""What a project says of itself in a file: its title and tags, and chapters from its markers."""

from __future__ import annotations

from typing import TYPE_CHECKING

from velvetdrum.deliver.muxing import Chapter, Extras
from velvetdrum.scene.document import Project, parse

if TYPE_CHECKING:
    from velvetdrum.deliver.export import Job


def extras_of(job: Job) -> Extras:
    """Tags and chapters of an export."""
    project = parse(job.document)
    begin, end = float(job.plan.start_s), float(job.plan.stop_s)
    return Extras(tags_of(project), chapters_of(project, begin, end))


def tags_of(project: Project) -> dict[str, str]:
    """The tags of a file, by the names that containers share. Without a title of its own, it has the project's name."""
    own = dict(project.tags)
    return {"title": own.pop("title", "") or project.name, **{name: value for name, value in own.items() if value}}


def chapters_of(project: Project, begin_s: float, end_s: float) -> tuple[Chapter, ...]:
    """A chapter from each marker of a stretch that begins one to the next; the first begins with the stretch."""
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
