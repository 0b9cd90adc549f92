"""Overrides: values that a setting has in frames of one shape only, where one scene does not fit them all."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from velvetdrum.declare.schema import Declared
from velvetdrum.declare.setting import quoted
from velvetdrum.declare.settings import SettingError
from velvetdrum.scene.frames import SHAPES
from velvetdrum.scene.parts import Places
from velvetdrum.scene.problems import Problem

Overrides = Mapping[str, Mapping[str, Any]]
"""Parsed values by the address of their setting, by the shape of the frame."""


def parse_overrides(given: Any, places: Places, path: str, problems: list[Problem]) -> dict[str, dict[str, Any]]:
    """The overrides of a layer; adds to `problems` what is wrong."""
    if not isinstance(given, dict) or not all(isinstance(values, dict) for values in given.values()):
        problems.append(Problem(path, "Overrides are an object of settings by the shape of the frame."))
        return {}
    out: dict[str, dict[str, Any]] = {}
    for shape, values in given.items():
        if shape not in SHAPES:
            problems.append(Problem(f"{path}/{shape}", f"Frames are {', '.join(SHAPES)}, not {shape}."))
            continue
        for place, value in values.items():
            setting = places.at(place)
            if setting is None:
                problems.append(
                    Problem(f"{path}/{shape}/{place}", f"{places.title} has no setting called {quoted(place)}.")
                )
                continue
            try:
                out.setdefault(shape, {})[place] = setting.parse(value)
            except SettingError as problem:
                problems.append(Problem(f"{path}/{shape}/{place}", str(problem)))
    return out


def override_schema(kind: type[Declared]) -> dict[str, Any]:
    """The overrides of a layer as JSON Schema."""
    values = {"type": "object", "description": "Settings, under their names, or SORT:ID:setting of a part."}
    return {
        "type": "object",
        "description": "Values for frames of one shape only; they stand in the place of settings and keyframes.",
        "additionalProperties": False,
        "properties": dict.fromkeys(SHAPES, values),
    }
