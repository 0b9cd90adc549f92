"""How well cues are read against what is behind them: the contrast ratio of WCAG, measured in drawn frames."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import relative_luminance
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.frame.handles import overlay_areas
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.text.cue_text import CueText
from velvetdrum.picture.text.lettering import Lettered
from velvetdrum.scene.document import Project
from velvetdrum.scene.frames import FRAMES, SHAPES, FrameSize
from velvetdrum.scene.parts import split
from velvetdrum.scene.placed_layers import PlacedLayer
from velvetdrum.signals.audio_range import AudioRange

LEAST = 4.5
"""The least contrast of text that WCAG 2.2 asks for (level AA)."""
LEAST_LARGE = 3.0
"""The same for large text."""
_LARGE = 6.0
"""Per cent of the short side from which on letters are large: 24 CSS px of the 390 that a telephone is wide."""
_MOMENTS = (0.1, 0.3, 0.5, 0.7, 0.9)
_MOST_LINES = 24
_WIDTH = 640
_MOST = 150
_SHARES = (0.3, 0.75)
# The plate stays, unseen: letters stand elsewhere without its margin.
_PLAIN = {"plate_opacity": 0.0, "shadow": 0.0, "outline": 0.0, "highlight": "none", "hollow": False}


def cue_contrasts(
    project: Project, use: AudioRange | None, media: Mapping[str, str] | None, track: str
) -> dict[str, dict[str, Any]]:
    """By the ids of a track's cues: `ratio`, the least contrast of their letters with the pixels beside them, from 1 to
    21; `time_s`, when that is, in seconds of the project; and `layer`, the id of the layer that shows them. Cues that
    no layer shows are left out, and so are all past the first 150."""
    cues = project.cue_track(track)
    layers = [placed for placed in project.layers if placed.visible and _shows(placed, track, project)]
    if cues is None or not layers:
        return {}
    size = project.frame.scaled_to(min(_WIDTH, project.frame.width))
    whole = ProjectView(project, use, media)
    alone = {placed.id: ProjectView(_only(project, placed), use, media) for placed in layers}
    canvas, bare = Canvas(size.width, size.height), Canvas(size.width, size.height)
    out: dict[str, dict[str, Any]] = {}
    for ident, cue in list(cues.cues.items())[:_MOST]:
        for share in _SHARES:
            time = cue.start_s + share * (cue.end_s - cue.start_s) - project.begin_s
            if not 0 <= time < project.length_s:
                continue
            at = Fraction(time).limit_denominator(48_000)
            whole.at(at, size).draw_frame(canvas)
            for placed in layers:
                alone[placed.id].at(at, size).draw_frame(bare, "transparent")
                ratio = _ratio(canvas.pixels, bare.pixels)
                if ratio is not None and ratio < out.get(ident, {"ratio": 22.0})["ratio"]:
                    out[ident] = {"ratio": round(ratio, 2), "time_s": round(time, 3), "layer": placed.id}
    return out


def pale_layers(
    project: Project, use: AudioRange | None, media: Mapping[str, str] | None, begin_s: float, end_s: float
) -> list[tuple[PlacedLayer, float, float]]:
    """Layers whose letters are hard to read at some time of a stretch, in seconds of the project: each with its least
    contrast, and when that is. Looked at are five moments, and the middle of up to 24 cues, evenly chosen."""
    layers = [placed for placed in project.layers if placed.visible and isinstance(placed.layer, Lettered)]
    if not layers:
        return []
    size = project.frame.scaled_to(min(_WIDTH, project.frame.width))
    whole = ProjectView(project, use, media)
    alone = {placed.id: ProjectView(_only(project, placed), use, media) for placed in layers}
    canvas, bare = Canvas(size.width, size.height), Canvas(size.width, size.height)
    worst: dict[str, tuple[PlacedLayer, float, float]] = {}
    for time in _looked_at(project, layers, begin_s, end_s):
        at = Fraction(time).limit_denominator(48_000)
        whole.at(at, size).draw_frame(canvas)
        for placed in layers:
            alone[placed.id].at(at, size).draw_frame(bare, "transparent")
            ratio = _ratio(canvas.pixels, bare.pixels)
            if ratio is not None and (placed.id not in worst or ratio < worst[placed.id][1]):
                worst[placed.id] = (placed, ratio, time)
    large = {placed.id: float(getattr(placed.layer, "size", 0.0)) >= _LARGE for placed in layers}
    return [result for ident, result in worst.items() if result[1] < (LEAST_LARGE if large[ident] else LEAST)]


def _looked_at(project: Project, layers: list[PlacedLayer], begin_s: float, end_s: float) -> list[float]:
    """When the letters of layers are looked at, in seconds of the project."""
    times = [begin_s + share * (end_s - begin_s) for share in _MOMENTS]
    shown = {getattr(placed.layer, "cues", None) for placed in layers}
    tracks = {track.id: track for ident in shown if isinstance(ident, str) and (track := project.cue_track(ident))}
    for track in tracks.values():
        middles = [(cue.start_s + cue.end_s) / 2 - project.begin_s for cue in track.cues.values()]
        inside = [time for time in middles if begin_s <= time < end_s]
        times += inside[:: max(-(-len(inside) // _MOST_LINES), 1)]
    return sorted(time for time in times if 0 <= time < project.length_s)


def cue_places(
    project: Project, use: AudioRange | None, media: Mapping[str, str] | None, track: str
) -> list[tuple[str, str]]:
    """What is wrong with where a track's cues stand, in wide, square and tall frames: ids of cues with sentences. All
    past the first 150 are left out."""
    cues = project.cue_track(track)
    layers = [placed for placed in project.layers if placed.visible and _shows(placed, track, project)]
    if cues is None or not layers:
        return []
    view, out = ProjectView(project, use, media), []
    for ident, cue in list(cues.cues.items())[:_MOST]:
        time = (cue.start_s + cue.end_s) / 2 - project.begin_s
        if not 0 <= time < project.length_s:
            continue
        said: dict[str, list[str]] = {}
        for shape in SHAPES:
            stage = view.at(Fraction(time).limit_denominator(48_000), FRAMES[shape])
            for placed in layers:
                item = stage.shown(placed)
                if item.presence > 0 and isinstance(item.layer, CueText):
                    for what in _misplaced(item.layer, stage.moment(item.layer), FRAMES[shape]):
                        said.setdefault(what, []).append(shape)
        out += [(ident, f"{what} in the {' and the '.join(shapes)} frame.") for what, shapes in said.items()]
    return out


def _misplaced(layer: CueText, at: RenderContext, size: FrameSize) -> list[str]:
    """What is wrong with a layer's lines at a time in a frame, as beginnings of sentences."""
    view = Viewport(size.width, size.height)
    box, out = layer.extent(view, at), []
    lines = layer.accepted_lines(view, at)
    if lines > layer.rows:
        out.append(f"It takes {lines} lines at its smallest size, {layer.rows} are allowed,")
    if box.left < -1 or box.right > size.width + 1 or box.top < -1 or box.bottom > size.height + 1:
        out.append("It reaches out")
    for area in overlay_areas(size):
        across = min(box.right, area.left + area.width) - max(box.left, area.left)
        down = min(box.bottom, area.top + area.height) - max(box.top, area.top)
        if across > 2 and down > 2:
            out.append(f"It lies under {area.name}")
    return out


def _shows(placed: PlacedLayer, track: str, project: Project) -> bool:
    shown = getattr(placed.layer, "cues", None)
    result = project.cue_track(shown) if isinstance(shown, str) else None
    return result is not None and result.id == (project.cue_track(track) or result).id


def _only(project: Project, placed: PlacedLayer) -> Project:
    """A project with one layer's letters and nothing else, in the groups that place them."""
    values = {name: getattr(placed.layer, name) for name in placed.layer.settings}
    layer = type(placed.layer)({})
    for name, value in (values | {name: value for name, value in _PLAIN.items() if name in values}).items():
        setattr(layer, name, value)
    above, group = [], placed.group
    while group:
        above.append(project.by_id[group])
        group = above[-1].group
    groups = tuple(_bare(other) for other in project.layers if other in above)
    return replace(project, layers=(*groups, replace(placed, layer=layer, solo=False)))


def _bare(group: PlacedLayer) -> PlacedLayer:
    """A group without masks and effects, and without what moves theirs."""
    return replace(
        group,
        parts={},
        solo=False,
        patches=tuple(patch for patch in group.patches if not split(patch.setting)[0]),
        keyframes={place: frames for place, frames in group.keyframes.items() if not split(place)[0]},
        overrides={
            shape: {place: value for place, value in held.items() if not split(place)[0]}
            for shape, held in group.overrides.items()
        },
    )


def _ratio(drawn: Pixels, letters: Pixels) -> float | None:
    """The contrast of letters (premultiplied, on nothing) with the pixels just beside them; None without letters. Of
    all places the worst tenth counts."""
    solid = letters[..., 3]
    inside = solid > 200
    if inside.sum() < 20:
        return None
    reach = cv2.dilate((solid > 8).astype(np.uint8), np.ones((5, 5), np.uint8))
    beside = (reach > 0) & (solid <= 8)
    if not beside.any():
        return None
    ink = _luminance(np.median(letters[inside][:, :3], axis=0)[None])[0]
    ground = _luminance(drawn[beside][:, :3])
    low, high = np.minimum(ink, ground), np.maximum(ink, ground)
    return float(np.percentile((high + 0.05) / (low + 0.05), 10))


def _luminance(pixels: NDArray[Any]) -> NDArray[np.float64]:
    """Relative luminance (WCAG 2.2) of BGR pixels, shape (n, 3)."""
    return relative_luminance(pixels[:, ::-1].astype(np.float64) / 255)
