"""Layers as paths, in a worker."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.picture.bases.layer import DrawnLayer, LayerPart, LayerPath
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.outlines.paths import LONGEST_PATH, PathError
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.studio.workers.scenes import Scene, project_of

HAIRLINE = 0.4
"""Width of the stroke that draws a filled part on, in per cent of the frame's short side."""


def layer_parts(scene: Scene, sources: Sources | None, layer: str) -> list[dict[str, Any]]:
    """The parts that a layer can be taken apart into, the hindmost first: a name, its settings in place of those of the
    whole, and the settings of its stroke as a path, where it has outlines. Raises PathError with a sentence."""
    shown, moment, port = _at(scene, sources, layer, 0)
    parts = shown.layer.picture_parts(port, moment.moment(shown.layer, shown.placed))
    if not parts:
        raise PathError("This layer has no parts to be taken apart into.")
    return [
        {"name": part.name, "settings": part.settings, "stroke": _stroke(shown.layer, part, port)} for part in parts
    ]


def _stroke(layer: DrawnLayer, part: LayerPart, port: Viewport) -> dict[str, Any] | None:
    path = part.outline
    if path is None or len(path.data) > LONGEST_PATH:
        return None
    width = part.stroke / port.short * 100 or HAIRLINE
    kind = LAYER_KINDS[layer.outlined]
    assert issubclass(kind, DrawnLayer)
    return kind.stroked_path(path.data, *_placed(path, port), round(width, 3), part.colour)


def layer_path(scene: Scene, sources: Sources | None, layer: str, frame: int) -> dict[str, Any]:
    """The outlines of a layer as path data, with the middle of its box in per cent of the frame and its longer side in
    per cent of the short one. Raises PathError with a sentence."""
    shown, moment, port = _at(scene, sources, layer, frame)
    result = shown.layer.outlines(port, moment.moment(shown.layer, shown.placed))
    if result is None:
        raise PathError("There is nothing of this layer to become a path.")
    if len(result.data) > LONGEST_PATH:
        raise PathError(f"Its path would have {len(result.data):,} characters; a shape takes {LONGEST_PATH:,}.")
    x, y, size = _placed(result, port)
    return {"path": result.data, "x": x, "y": y, "size": size}


def _at(scene: Scene, sources: Sources | None, layer: str, frame: int) -> tuple[Any, Any, Viewport]:
    """A layer as it is at a frame, that moment, and the frame that it lies in."""
    project = project_of(scene)
    view = ProjectView(project, used_part(project, sources), sources.small if sources else None)
    moment = view.at(Fraction(project.time_of(frame)), project.frame)
    return moment.shown(project.by_id[layer]), moment, Viewport(project.frame.width, project.frame.height)


def _placed(path: LayerPath, port: Viewport) -> tuple[float, float, float]:
    """The middle of a path in per cent of the frame, and its longer side in per cent of the short one."""
    box = path.box
    return (
        round((box.left + box.right) / 2 / port.width * 100, 4),
        round((box.top + box.bottom) / 2 / port.height * 100, 4),
        round(max(box.right - box.left, box.bottom - box.top) / port.short * 100, 4),
    )
