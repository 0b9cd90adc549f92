"""Keyframes: values of a setting at times, with CSS easings between them."""

from __future__ import annotations

import bisect
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from velvetdrum.declare.setting import quoted
from velvetdrum.declare.settings import SettingError, is_number
from velvetdrum.scene.parts import Places
from velvetdrum.scene.problems import Problem
from velvetdrum.signals.easing import NAMED, EasingError, parse_easing

MOST_KEYFRAMES = 2000
LATEST_S = 3 * 3600.0
_KNOWN = {"time_s", "value", "ease"}


@dataclass(frozen=True)
class Keyframe:
    """A value that a setting has at a time (seconds of the project), and how it goes on to the next one."""

    time_s: float
    value: Any
    ease: str


Keyed = Mapping[str, tuple[Keyframe, ...]]
"""Keyframes by the address of their setting, in order of time."""


def stretch(frames: tuple[Keyframe, ...], time_s: float) -> tuple[Keyframe, Keyframe, float]:
    """The keyframes before and after a time, and how far between them it lies, 0 to 1, before easing.

    Outside of all keyframes both are the nearest one.
    """
    after = bisect.bisect_right(frames, time_s, key=lambda frame: frame.time_s)
    if after == 0:
        return frames[0], frames[0], 0.0
    if after == len(frames):
        return frames[-1], frames[-1], 0.0
    before, following = frames[after - 1], frames[after]
    return before, following, (time_s - before.time_s) / (following.time_s - before.time_s)


def parse_keyframes(given: Any, places: Places, path: str, problems: list[Problem]) -> dict[str, tuple[Keyframe, ...]]:
    """The keyframes of a layer by setting; adds to `problems` what is wrong."""
    if not isinstance(given, dict):
        problems.append(Problem(path, "Keyframes are an object of lists, by the setting that they move."))
        return {}
    out = {}
    for place, listed in given.items():
        result = _parse_list(place, listed, places, f"{path}/{place}", problems)
        if result:
            out[place] = result
    return out


def _parse_list(
    place: str,
    listed: Any,
    places: Places,
    path: str,
    problems: list[Problem],
) -> tuple[Keyframe, ...]:
    setting = places.at(place)
    if setting is None:
        problems.append(
            Problem(path, f"{places.title} has no setting called {quoted(place)} any more; remove its keyframes.")
        )
        return ()
    if not setting.moves:
        problems.append(Problem(path, f"{setting.label} is a choice; only numbers and colours take keyframes."))
        return ()
    if not isinstance(listed, list) or not 1 <= len(listed) <= MOST_KEYFRAMES:
        problems.append(Problem(path, f"{setting.label} takes 1 to {MOST_KEYFRAMES} keyframes."))
        return ()
    out: list[Keyframe] = []
    for index, item in enumerate(listed):
        here = f"{path}/{index}"
        if not isinstance(item, dict) or item.keys() - _KNOWN:
            problems.append(Problem(here, "A keyframe has a time, a value and an easing."))
            return ()
        time_s, easing = item.get("time_s"), item.get("ease", "linear")
        if not is_number(time_s) or not 0 <= time_s <= LATEST_S:
            problems.append(Problem(f"{here}/time_s", "A keyframe's time goes from 0 s to 3 hours."))
            return ()
        if out and time_s <= out[-1].time_s:
            sentence = f"{setting.label}: a keyframe must lie after the one before it ({out[-1].time_s:g} s)."
            problems.append(Problem(f"{here}/time_s", sentence))
            return ()
        try:
            parse_easing(easing if isinstance(easing, str) else "")
            out.append(Keyframe(float(time_s), setting.parse(item.get("value")), easing))
        except (EasingError, SettingError) as problem:
            part = "ease" if isinstance(problem, EasingError) else "value"
            problems.append(Problem(f"{here}/{part}", str(problem)))
            return ()
    return tuple(out)


def keyframe_schema() -> dict[str, Any]:
    """The keyframes of a layer as JSON Schema."""
    value = {
        "oneOf": [{"type": "number"}, {"type": "string"}, {"type": "array"}],
        "description": "In the setting's unit, or a colour, or a gradient.",
    }
    ease = {
        "type": "string",
        "default": "linear",
        "description": f"{', '.join(NAMED)}, cubic-bezier(…) or steps(…), as in CSS; to the next one.",
    }
    item = {
        "type": "object",
        "required": ["time_s", "value"],
        "additionalProperties": False,
        "properties": {"time_s": {"type": "number", "minimum": 0, "maximum": LATEST_S}, "value": value, "ease": ease},
    }
    return {
        "type": "object",
        "description": "Keyframes by setting; those of a mask under mask:ID:setting.",
        "additionalProperties": {"type": "array", "minItems": 1, "maxItems": MOST_KEYFRAMES, "items": item},
    }
