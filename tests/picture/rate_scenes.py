"""For every rate that is declared, a scene in which it is seen, moved by a signal: the tests walk them, and the table in
docs/rates.md is measured from them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

import velvetdrum.picture.frame.render  # noqa: F401  (makes the kinds known)
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, Project, new_document, new_layer, new_patch, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.parts import PART_SORTS
from velvetdrum.scene.signal_part import new_signal

RATE = 24
EARLY_S, LATE_S = 2, 170
LENGTH_S = 180.0
_PAIRS = 12
PERIOD_S = 2
"""Of the signal that moves them: as far along at both times."""
SIZE = FrameSize(114, 64)

_ROUND = [{"at": 0.0, "colour": "#102038"}, {"at": 0.5, "colour": "#e0ac55"}, {"at": 1.0, "colour": "#102038"}]
_CHANCES = tuple(range(1, 33))
_WAVY = {"fill": "linear", "start_x": 0, "end_x": 100, "start_y": 0, "end_y": 100, "colours": _ROUND}


@dataclass(frozen=True)
class RateScene:
    """What makes a rate seen: settings beside it, and the ends between which it is moved."""

    low: float
    high: float
    settings: dict[str, Any] = field(default_factory=dict)
    seeds: tuple[int, ...] = ()
    """Of what moves by chance: as many rounds, so that the mean is not that of a few draws."""


_PAINTED = {"paint": "field", "colours": _ROUND}
SCENES: dict[tuple[str, str], RateScene] = {
    ("shape", "drift"): RateScene(2, 30, _PAINTED | {"form": "rectangle", "width": 90, "height": 80}),
    ("shape", "hue_drift"): RateScene(2, 30, _PAINTED | {"form": "rectangle", "width": 90, "height": 80}),
    ("dot-field", "flow_speed"): RateScene(2, 20, {"flow_amount": 12, "boil": 0}, _CHANCES),
    ("dot-field", "boil"): RateScene(0.5, 1.5, {"flow_amount": 12, "flow_speed": 0}, _CHANCES),
    ("dot-field", "rise"): RateScene(2, 30, {"flow_amount": 0}),
    ("haze", "speed"): RateScene(2, 30, {"boil": 0}, _CHANCES),
    ("haze", "boil"): RateScene(0.5, 1.5, {"speed": 0}, _CHANCES),
    ("footage", "zoom_rate"): RateScene(20, 60, {}),
    ("footage", "drift_x"): RateScene(10, 40, {"zoom": 300}),
    ("footage", "drift_y"): RateScene(10, 40, {"zoom": 300}),
    ("footage", "shake_hz"): RateScene(0.5, 4, {"shake": 60, "zoom": 150}, _CHANCES),
    ("footage", "speed"): RateScene(20, 200, {}),
    ("space", "orbit_turns"): RateScene(20, 100, {"orbit_per": "minute"}),
    ("space", "shake_rate"): RateScene(0.5, 4, {"shake": 20}, _CHANCES),
    ("spectrum", "cluster_rate"): RateScene(0.5, 4, {}),
    ("particles", "rate"): RateScene(10, 80, {}),
    ("effect:wave", "speed"): RateScene(0.2, 2, {}),
    ("effect:ripple", "speed"): RateScene(0.2, 2, {}),
    ("effect:turbulence", "speed"): RateScene(0.5, 1.5, {"amount": 8}, _CHANCES),
    ("effect:shake", "rate"): RateScene(0.5, 5, {"amount": 6}, _CHANCES),
    ("effect:scan-lines", "roll"): RateScene(0.2, 2, {"spacing": 8}),
    ("effect:grain", "rate"): RateScene(2, 20, {}),
    ("effect:line-jitter", "rate"): RateScene(2, 20, {}),
    ("effect:block-slips", "rate"): RateScene(2, 20, {}),
}
UNSEEN = {
    ("spectrum", "cluster_rate"): "needs a sound",
    ("particles", "rate"): "births have tests of their own",
    ("footage", "zoom_rate"): "a step of it is as much larger as the picture is",
}


def declared_rates() -> dict[tuple[str, str], Any]:
    """Every rate, by its kind (of a layer, or `sort:kind` of a part) and its name."""
    kinds = {
        **LAYER_KINDS,
        **{f"{sort.name}:{kind}": cls for sort in PART_SORTS.values() for kind, cls in sort.kinds.items()},
    }
    return {
        (kind, name): setting
        for kind, cls in kinds.items()
        for name, setting in cls.settings.items()
        if setting.per_time
    }


def _layers(kind: str, scene: RateScene, clip: str) -> list[Document]:
    sort, _, part = kind.rpartition(":")
    if sort:
        ground = new_layer("backdrop", **_WAVY)
        ground["effects"] = [{"id": "e", "kind": part, "on": True, "settings": dict(scene.settings)}]
        return [ground]
    layer = new_layer(kind, **scene.settings)
    if kind == "footage":
        layer["settings"]["clip"] = clip
    if not LAYER_KINDS[kind].holds_members:
        return [layer]
    return [layer, {**new_layer("dot-field", flow_amount=0), "group": layer["id"]}]


def project_of(kind: str, name: str, clip: str = "", moved: bool = True, **settings: Any) -> Project:
    """The scene of a rate; `moved` by a signal, or at what `settings` say."""
    scene = SCENES[kind, name]
    wander = new_signal("lfo", "Sway", shape="sine", rate_hz=1 / PERIOD_S)
    layers = _layers(kind, scene, clip)
    place = f"effect:e:{name}" if ":" in kind else name
    owner = layers[0]["effects"][0]["settings"] if ":" in kind else layers[0]["settings"]
    owner.update(settings)
    if moved:
        layers[0]["patches"] = [new_patch(place, wander, scene.low, scene.high)]
    made = new_document("Rates", frame=SIZE, rate=Fraction(RATE), layers=layers, signals=[wander])
    return parse({**made, "length_s": LENGTH_S})


def frames_of(project: Project, begin_s: float, count: int, media: dict[str, str] | None = None) -> list[np.ndarray]:
    """So many frames from a time on."""
    view = ProjectView(project, None, media)
    result = []
    for number in range(count):
        canvas = Canvas(SIZE.width, SIZE.height)
        view.at(Fraction(int(begin_s * RATE) + number, RATE), SIZE).draw_frame(canvas)
        result.append(canvas.pixels[..., :3].astype(np.int16))
    return result


def _steps(project: Project, begin_s: float, media: dict[str, str], pairs: int) -> Iterator[float]:
    """Steps from one frame to the next, so many of them over a turn of the signal."""
    for number in range(0, PERIOD_S * RATE, PERIOD_S * RATE // pairs):
        before, after = frames_of(project, begin_s + number / RATE, 2, media)
        yield float(np.abs(after - before).mean())


def steps_of(kind: str, name: str, clip: Path | None = None) -> tuple[float, float]:
    """The mean step between two frames, early and late, over whole turns of the signal, in levels of 255."""
    media = {"c" * 64: str(clip)} if clip else {}
    rounds = [{"seed": seed} for seed in SCENES[kind, name].seeds] or [{}]
    pairs = _PAIRS if SCENES[kind, name].seeds else PERIOD_S * RATE
    steps = []
    for more in rounds:
        project = project_of(kind, name, "c" * 64 if clip else "", **more)
        steps.append([np.mean(list(_steps(project, time, media, pairs))) for time in (EARLY_S, LATE_S)])
    early, late = np.mean(steps, axis=0)
    return float(early), float(late)
