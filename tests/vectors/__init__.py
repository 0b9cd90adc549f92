"""Values that the page and the renderer must both work out: made here by the Python forms, kept as JSON files beside
this one, and read by the tests of the page's scripts."""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import jsonpatch
import numpy as np

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.declare.settings import Setting, curve_at
from velvetdrum.picture.space.placement import matrix
from velvetdrum.scene.keyframes import Keyframe, stretch
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.easing import ease

HERE = Path(__file__).parent
EASINGS = (
    "linear",
    "ease",
    "ease-in",
    "ease-out",
    "ease-in-out",
    "hold",
    "cubic-bezier(0.3, 1.6, 0.5, 1)",
    "cubic-bezier(0, 0, 1, 1)",
    "steps(4, jump-end)",
    "steps(3, jump-start)",
    "steps(5, jump-none)",
    "steps(2, jump-both)",
)
COLOURS = ("#000000", "#ffffff", "#ff7a66", "#5fc4b4", "#1b1119", "#0000ff")


def _setting(kind: str, name: str) -> Setting:
    return LAYER_KINDS[kind].settings[name]


def easings() -> list[dict[str, Any]]:
    parts = np.linspace(0, 1, 21)
    return [{"ease": name, "part": parts.tolist(), "eased": ease(name, parts).tolist()} for name in EASINGS]


def colours() -> list[dict[str, Any]]:
    plain = _setting("shape", "plain")
    shares = (0.0, 0.1, 0.35, 0.5, 0.8, 1.0)
    return [
        {"from": a, "to": b, "part": share, "mixed": plain.mixed(a, b, share)}
        for a in COLOURS
        for b in COLOURS
        if a != b
        for share in shares
    ]


def keyframes() -> list[dict[str, Any]]:
    found = []
    for name, values in (("x", [10.0, 90.0, 40.0]), ("sides", [3, 9, 5]), ("plain", ["#ff7a66", "#5fc4b4", "#000000"])):
        setting = _setting("shape", name)
        frames = tuple(
            Keyframe(t, v, e) for t, v, e in zip((0.5, 1.5, 4.0), values, ("ease-out", "hold", "linear"), strict=True)
        )
        for time in (0.0, 0.5, 0.75, 1.2, 1.5, 2.6, 3.999, 4.0, 9.0):
            before, after, share = stretch(frames, time)
            given = [{"time_s": frame.time_s, "value": frame.value, "ease": frame.ease} for frame in frames]
            described = {"type": setting.type, "lo": getattr(setting, "lo", 0), "hi": getattr(setting, "hi", 0)}
            value = setting.mixed(before.value, after.value, float(ease(before.ease, np.array([share]))[0]))
            found.append({"setting": described, "frames": given, "time": time, "value": value})
    return found


def curves() -> list[dict[str, Any]]:
    chance = random.Random(7)
    found = []
    for count in (2, 3, 4, 7, 12):
        ats = sorted(chance.sample(range(101), count))
        points = [{"at": at / 100, "value": chance.uniform(0, 100)} for at in ats]
        places_ = np.linspace(0, 1, 33)
        values = curve_at(tuple((point["at"], point["value"]) for point in points), places_)
        found.append({"points": points, "places": places_.tolist(), "values": values.tolist()})
    return found


def places() -> list[dict[str, Any]]:
    chance = random.Random(4)
    names = {
        "move_x": 60,
        "move_y": 60,
        "scale_x": 200,
        "scale_y": 200,
        "spin": 180,
        "skew_x": 50,
        "skew_y": 50,
        "anchor_x": 100,
        "anchor_y": 100,
    }
    found = []
    for number in range(12):
        values: dict[str, Any] = {
            name: chance.uniform(1 if "scale" in name else -most / 2, most) for name, most in names.items()
        }
        values |= {"flip_x": number % 3 == 1, "flip_y": number % 4 == 2}
        layer = SimpleNamespace(**values)
        found.append({"values": values, "size": [1280, 720], "matrix": matrix(layer, 1280, 720)[:2].ravel().tolist()})
    return found


def patches() -> list[dict[str, Any]]:
    document = {"name": "a", "layers": [{"id": "1", "settings": {"x": 1, "a/b": 2}}, {"id": "2", "settings": {}}]}
    listed = (
        [{"op": "replace", "path": "/name", "value": "b"}],
        [{"op": "add", "path": "/layers/-", "value": {"id": "3"}}, {"op": "remove", "path": "/layers/0"}],
        [
            {"op": "add", "path": "/layers/1", "value": {"id": "4"}},
            {"op": "add", "path": "/layers/1/name", "value": ["n"]},
        ],
        [{"op": "replace", "path": "/layers/0/settings/a~1b", "value": None}],
        [
            {"op": "remove", "path": "/layers/0/settings/x"},
            {"op": "add", "path": "/tilde~0", "value": {"y": []}},
            {"op": "add", "path": "/tilde~0/y/0", "value": 7},
        ],
        [{"op": "move", "from": "/layers/1", "path": "/layers/0"}, {"op": "test", "path": "/name", "value": "a"}],
        [{"op": "copy", "from": "/layers/0", "path": "/layers/-"}, {"op": "add", "path": "/layers/2/id", "value": "5"}],
        [{"op": "move", "from": "/layers/0/settings/x", "path": "/layers/1/settings/x"}],
        [{"op": "replace", "path": "", "value": {"name": "new"}}, {"op": "add", "path": "/layers", "value": []}],
    )
    return [
        {"document": document, "patch": patch, "changed": jsonpatch.apply_patch(document, patch)} for patch in listed
    ]


VECTORS: dict[str, Callable[[], list[dict[str, Any]]]] = {
    "easing": easings,
    "colour": colours,
    "keyed_value": keyframes,
    "place_matrix": places,
    "json_patch": patches,
    "curve": curves,
}


def text_of(name: str) -> str:
    return json.dumps(VECTORS[name](), indent=1, ensure_ascii=False) + "\n"
