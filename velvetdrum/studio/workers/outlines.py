"""Layers as paths, in a worker."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.outlines.paths import LONGEST_PATH, PathError
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.studio.workers.scenes import Scene, project_of


def layer_parts(scene: Scene, sources: Sources | None, layer: str) -> list[dict[str, str]]:
    """The parts that a layer can be taken apart into, the hindmost first. Raises PathError with a sentence."""
    project = project_of(scene)
    view = ProjectView(project, used_part(project, sources), sources.small if sources else None)
    moment = view.at(Fraction(0), project.frame)
    shown = moment.shown(project.by_id[layer])
    parts = shown.layer.part_names(moment.moment(shown.layer, shown.placed))
    if not parts:
        raise PathError("This layer has no parts to be taken apart into.")
    return [{"part": part, "name": name} for part, name in parts]


def layer_path(scene: Scene, sources: Sources | None, layer: str, frame: int) -> dict[str, Any]:
    """The outlines of a layer as path data, with the middle of its box in per cent of the frame and its longer side in
    per cent of the short one. Raises PathError with a sentence."""
    project = project_of(scene)
    view = ProjectView(project, used_part(project, sources), sources.small if sources else None)
    moment = view.at(Fraction(project.time_of(frame)), project.frame)
    shown = moment.shown(project.by_id[layer])
    port = Viewport(project.frame.width, project.frame.height)
    result = shown.layer.outlines(port, moment.moment(shown.layer, shown.placed))
    if result is None:
        raise PathError("There is nothing of this layer to become a path.")
    if len(result.data) > LONGEST_PATH:
        raise PathError(f"Its path would have {len(result.data):,} characters; a shape takes {LONGEST_PATH:,}.")
    box = result.box
    return {
        "path": result.data,
        "x": round((box.left + box.right) / 2 / port.width * 100, 4),
        "y": round((box.top + box.bottom) / 2 / port.height * 100, 4),
        "size": round(max(box.right - box.left, box.bottom - box.top) / port.short * 100, 4),
    }
