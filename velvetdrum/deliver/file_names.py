"""Names of files from a pattern, such as `{project} {frame} {date}`."""

from __future__ import annotations

import re
from datetime import date

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.video_format import FORMATS, SPEEDS
from velvetdrum.scene.frames import FrameSize

PATTERN = "{project} {size}"
MOST = 120
"""Characters of a pattern, and of a name without its suffix."""

_FIELD = re.compile(r"\{([^{}]*)\}")
_UNSAFE = re.compile(r'[\x00-\x1f\x7f<>:"/\\|?*]+')

FIELDS = {
    "project": "the project's name",
    "frame": "wide, square or tall",
    "size": "width and height",
    "date": "the day",
    "format": "the form",
    "speed": "quick, balanced or small",
    "from": "where the part begins",
    "length": "how long it is",
    "edit": "the number of the edit",
}
"""What a pattern may hold, with what each stands for."""


def file_name(pattern: str, plan: ExportPlan, project: str, day: date, edit: int = 0) -> str:
    """The name that a file of a plan has, its suffix included; characters that no file system shares are left out.

    Parameters
    ----------
    pattern
        A name with fields in braces.
    plan
        What is exported: frames, size, rate, format.
    project
        Name of the project.
    day
        The date that stands in the name.
    edit
        Number of the edit that is exported.

    Raises
    ------
    DeliverError
        For a field that is not known, or a name without a letter.
    """
    form = FORMATS[plan.format]
    start, length = float(plan.start_s), float(plan.stop_s - plan.start_s)
    values = {
        "project": project,
        "frame": FrameSize(plan.width, plan.height).shape,
        "size": f"{plan.width}x{plan.height}",
        "date": day.isoformat(),
        "format": form.label + (" transparent" if plan.transparent else ""),
        "speed": SPEEDS[plan.speed][0].lower(),
        "from": f"{int(start // 60)}m{start % 60:04.1f}s",
        "length": f"{length:.0f}s",
        "edit": str(edit),
    }
    unknown = [name for name in _FIELD.findall(pattern) if name not in values]
    if unknown:
        able = ", ".join(f"{{{name}}}" for name in FIELDS)
        raise DeliverError(f"{{{unknown[0]}}} is no field of a name; take {able}.")
    name = _FIELD.sub(lambda found: values[found[1]], pattern[:MOST])
    name = " ".join(_UNSAFE.sub(" ", name).split()).strip(". ")[:MOST].strip(". ")
    if not name:
        raise DeliverError("The name has no letter left; write one, like {project} {frame}.")
    if plan.transparent and "{format}" not in pattern:
        name += " transparent"
    return name + form.suffix


def distinguished(name: str, taken: set[str]) -> str:
    """A name that none of the others has: with a number before its suffix, where it needs one.

    Parameters
    ----------
    name
        Name, as the file or the format has it.
    taken
        Names that are in use; the new one is added.
    """
    if name not in taken:
        return name
    stem, dot, suffix = name.rpartition(".")
    number = 2
    while f"{stem} {number}{dot}{suffix}" in taken:
        number += 1
    return f"{stem} {number}{dot}{suffix}"
