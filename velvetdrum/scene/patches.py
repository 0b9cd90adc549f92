"""Patches: a signal tied to one setting, with the two values that the setting moves between."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from velvetdrum.declare.setting import quoted
from velvetdrum.declare.settings import SettingError, Stop, is_number
from velvetdrum.scene.parts import Places
from velvetdrum.scene.problems import Problem

JOINS = {"replace": "replaces", "add": "adds", "multiply": "multiplies", "poses": "keyframe poses"}
"""How a patch joins a setting: `poses` goes through the setting's keyframes, from the first at 0 to the last at 1."""

LONGEST_LAG_MS = 5000.0
MOST_PATCHES = 64
_KNOWN = {"setting", "signal", "from", "to", "along", "join", "on", "lag_ms"}

End = float | str | tuple[Stop, ...]


@dataclass(frozen=True)
class Patch:
    """`low` and `high` are the setting's values at 0 and at 1: a number in its unit (a factor when it multiplies),
    a colour, or a gradient. With `along`, a colour moves along that gradient instead. `setting` is an address, see
    `scene.parts`."""

    setting: str
    signal: str
    low: End
    high: End
    join: str
    on: bool
    lag_ms: float
    along: tuple[Stop, ...] = ()


def parse_patches(
    given: Any,
    places: Places,
    signals: dict[str, str],
    path: str,
    problems: list[Problem],
) -> tuple[Patch, ...]:
    """The patches of a layer, in their order; adds to `problems` what is wrong. `signals` maps ids to names."""
    if not isinstance(given, list) or len(given) > MOST_PATCHES:
        problems.append(Problem(path, f"A layer has a list of up to {MOST_PATCHES} patches."))
        return ()
    out = []
    for index, item in enumerate(given):
        patch = _parse_patch(item, places, signals, f"{path}/{index}", problems)
        if patch:
            out.append(patch)
    return tuple(out)


def _parse_patch(
    item: Any,
    places: Places,
    signals: dict[str, str],
    path: str,
    problems: list[Problem],
) -> Patch | None:
    before = len(problems)

    def wrong(part: str, sentence: str) -> None:
        problems.append(Problem(f"{path}{part}", sentence))

    if not isinstance(item, dict):
        wrong("", "A patch is an object.")
        return None
    for key in item.keys() - _KNOWN:
        wrong(f"/{key}", f"A patch has no part called {quoted(key)}.")
    place = str(item.get("setting"))
    setting = places.at(place)
    if setting is None:
        wrong("/setting", f"{places.title} has no setting called {quoted(place)} any more; remove this patch.")
        return None
    if not setting.moves:
        wrong("/setting", f"{setting.label} is a choice; only numbers and colours can be patched.")
        return None
    if not isinstance(item.get("signal"), str) or item["signal"] not in signals:
        wrong("/signal", f"The signal that drove {setting.label} is gone; choose another, or remove this patch.")
    join, on, lag = item.get("join", "replace"), item.get("on", True), item.get("lag_ms", 0)
    if not isinstance(join, str) or join not in JOINS:
        wrong("/join", "A patch replaces, adds, multiplies, or runs the keyframes.")
    if not isinstance(on, bool):
        wrong("/on", "A patch is on or off.")
    if not is_number(lag) or abs(lag) > LONGEST_LAG_MS:
        wrong("/lag_ms", f"A patch's lag goes from {-LONGEST_LAG_MS:g} to {LONGEST_LAG_MS:g} ms.")
    along: tuple[Stop, ...] = ()
    ends: list[End] = []
    if item.get("along") is not None:
        try:
            along = setting.parse_along(item["along"], f"{setting.label}, gradient")
        except SettingError as problem:
            wrong("/along", str(problem))
    for name in ("from", "to"):
        try:
            ends.append(setting.parse_end(item.get(name), join, f"{setting.label}, {name}"))
        except SettingError as problem:
            wrong(f"/{name}", str(problem))
    if len(problems) > before:
        return None
    return Patch(place, item["signal"], ends[0], ends[1], join, on, float(lag), along)


def patch_schema() -> dict[str, Any]:
    """A patch as JSON Schema."""
    stop = {
        "type": "object",
        "required": ["at", "colour"],
        "additionalProperties": False,
        "properties": {
            "at": {"type": "number", "minimum": 0, "maximum": 1},
            "colour": {"type": "string", "pattern": "^#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?$"},
        },
    }
    end = {
        "oneOf": [
            {"type": "number"},
            {"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"},
            {"type": "array", "minItems": 1, "items": stop},
        ]
    }
    return {
        "type": "object",
        "required": ["setting", "signal", "from", "to"],
        "additionalProperties": False,
        "properties": {
            "setting": {"type": "string", "description": "Name of the setting of this layer."},
            "signal": {"type": "string", "description": "Id of the signal."},
            "from": {**end, "description": "Value at 0: in the setting's unit, a factor, a colour or a gradient."},
            "to": {**end, "description": "Value at 1."},
            "along": {
                "oneOf": [{"type": "null"}, {"type": "array", "minItems": 1, "items": stop}],
                "description": "A gradient that a colour moves along, in place of from and to.",
            },
            "join": {"enum": list(JOINS)},
            "on": {"type": "boolean"},
            "lag_ms": {"type": "number", "minimum": -LONGEST_LAG_MS, "maximum": LONGEST_LAG_MS},
        },
    }
