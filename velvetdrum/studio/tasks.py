"""What worker processes do for the studio. Arguments and results are plain values."""

from __future__ import annotations

import struct
import time
from dataclasses import asdict
from pathlib import Path
from typing import Any

from velvetdrum.audio.analysis import Analysis, Cancelled, analyse, is_current
from velvetdrum.audio.guarded import limited_time
from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.picture.render import encode_still, render
from velvetdrum.scene.document import Document, parse


def analyse_sound(source: str, folder: str, key: str, notes: str) -> dict[str, Any]:
    """Analyse a recording under a time limit and give its facts.

    Progress goes to the file `notes` as a share from 0 to 1; the work stops when `notes` + ".cancel" appears.
    """
    path, target, told = Path(source), Path(folder), Path(notes)
    stop = Path(notes + ".cancel")
    last = 0.0

    def progress(share: float) -> None:
        nonlocal last
        if stop.exists():
            raise Cancelled
        if time.monotonic() - last > 0.2:
            last = time.monotonic()
            told.write_text(f"{share:.4f}")

    if is_current(target):
        return asdict(Analysis(target).facts)
    # Two minutes, and what an analysis of that many bytes can need at the most.
    with limited_time(120 + 10 * path.stat().st_size / 1e6):
        return asdict(analyse(path, target, key=key, progress=progress).facts)


def draw_frames(document: Document, sources: Sources | None, frames: list[int], width: int, form: str) -> bytes:
    """Draw frames at a width and pack them: for each, its number and its size as 32-bit little-endian words,
    then the picture."""
    project = parse(document)
    use = used_part(document, sources)
    size = project.frame.scaled_to(min(width, project.frame.width))
    out = []
    for number in frames:
        pixels = render(project, use, project.time_of(number), size)
        data = encode_still(pixels, form)
        out.append(struct.pack("<II", number, len(data)) + data)
    return b"".join(out)
