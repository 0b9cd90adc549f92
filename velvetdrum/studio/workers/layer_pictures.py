"""Small pictures of layers alone: each at a moment at which there is something of it to see, cut to what it paints."""

from __future__ import annotations

import struct

import cv2
import numpy as np

from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.picture.frame.render import ProjectView, encode_still
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Project
from velvetdrum.studio.workers.scenes import Scene, project_of

ENOUGH = 0.03
"""Share of the frame that is painted from which on no livelier moment is looked for."""

_SEEN = 14
"""Level, of 255, from which on a pixel counts as painted."""
_MARGIN, _LEAST = 0.12, 0.3
"""What is left around the painted part, and how small a part of the frame is shown at the least, of its sides."""


def draw_layer(scene: Scene, sources: Sources | None, frames: list[int], width: int) -> bytes:
    """A scene in which one layer is drawn alone, at the first of the frames at which enough of it is painted, else at
    that with the most; packed as `tasks.draw_frames` packs frames. `width`: pixels across."""
    project = project_of(scene)
    view = ProjectView(project, used_part(project, sources), sources.small if sources else None)
    best, most, seen = frames[0], -1.0, None
    for number in [*frames, *_cue_frames(project)]:
        pixels = _drawn(project, view, number, width)
        painted = pixels[..., :3].max(axis=2) > _SEEN
        share = float(painted.mean())
        if share > most:
            best, most, seen = number, share, painted
        if share >= ENOUGH:
            break
    data = encode_still(_cut(project, view, best, width, seen), "jpeg")
    return struct.pack("<II", 0, len(data)) + data


def _cue_frames(project: Project) -> list[int]:
    """The middles of a few cues: words are seen only there."""
    track = project.cue_track("")
    row = track.row if track else ()
    chosen = [row[len(row) * part // 4] for part in (1, 2, 3)] if len(row) > 3 else list(row)
    middles = [((cue.start_s + cue.end_s) / 2 - project.begin_s) * project.rate for cue in chosen]
    return [int(middle) for middle in middles if 0 <= middle < project.frame_count]


def _drawn(project: Project, view: ProjectView, number: int, width: int) -> Pixels:
    size = project.frame.scaled_to(min(width, project.frame.width))
    canvas = Canvas(size.width, size.height)
    view.at(project.time_of(number), size).draw_frame(canvas)
    return canvas.pixels


def _cut(project: Project, view: ProjectView, number: int, width: int, painted: np.ndarray | None) -> Pixels:
    """The frame, or the part of it that is painted, in the shape of the frame, `width` pixels across."""
    if painted is None or not painted.any():
        return _drawn(project, view, number, width)
    rows, columns = np.flatnonzero(painted.any(axis=1)), np.flatnonzero(painted.any(axis=0))
    low = np.array([columns[0] / painted.shape[1], rows[0] / painted.shape[0]])
    high = np.array([(columns[-1] + 1) / painted.shape[1], (rows[-1] + 1) / painted.shape[0]])
    side = float(max((high - low).max() * (1 + 2 * _MARGIN), _LEAST))
    if side >= 1:
        return _drawn(project, view, number, width)
    begin = np.clip((low + high) / 2 - side / 2, 0.0, 1.0 - side)
    large = _drawn(project, view, number, round(width / side))
    height, across = large.shape[:2]
    left, top = round(begin[0] * across), round(begin[1] * height)
    part = large[top : top + max(round(side * height), 2), left : left + max(round(side * across), 2)]
    shown = round(width * height / across)
    return np.ascontiguousarray(cv2.resize(part, (width, max(shown, 2)), interpolation=cv2.INTER_AREA))
