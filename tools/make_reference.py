"""Writes the reference of settings, the JSON Schema and the description of the routes from what the code declares.

Usage: make_reference.py DOCS
"""

from __future__ import annotations

import json
import sys
import tempfile
from collections.abc import Collection
from pathlib import Path
from typing import Any

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.declare.declared import Declared
from velvetdrum.declare.settings import MOST_INPUTS, MOST_POINTS, MOST_STOPS, Setting
from velvetdrum.scene.document import schema
from velvetdrum.scene.kinds import LAYER_KINDS, Layer
from velvetdrum.scene.masks import MASK_KINDS
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.studio.app import create_app
from velvetdrum.studio.openapi import described


def _range(setting: Setting) -> str:
    match setting.type:
        case "number" | "whole":
            return f"{setting.lo:g} to {setting.hi:g} {setting.unit}".strip()
        case "choice":
            return ", ".join(f"`{key}` ({label})" for key, label in setting.choices)
        case "colour":
            return "a colour, `#rrggbb`"
        case "stops":
            return f"1 to {MOST_STOPS} stops, each a place from 0 to 1 and a colour"
        case "points":
            return f"1 to {MOST_POINTS} points, each `time_s`, `value` and `ease`"
        case "text":
            return f"a text of up to {setting.hi:g} characters"
        case "picture" | "footage":
            return f"the content hash of a {setting.type}, or empty"
        case "layer":
            return "the id of a layer, or empty"
        case "signals":
            return f"up to {MOST_INPUTS} ids of signals"
        case _:
            return "`true` or `false`"


def _default(setting: Setting) -> str:
    if setting.type == "stops":
        return ", ".join(f"{stop['colour']} at {stop['at']:g}" for stop in setting.default)
    if setting.type == "points":
        return ", ".join(f"{point['value']:g} at {point['time_s']:g} s" for point in setting.default)
    if setting.type == "signals":
        return "none"
    return (
        f"{setting.default:g} {setting.unit}".strip() if setting.type in ("number", "whole") else str(setting.default)
    )


def _table(kind: str, cls: type[Declared], known: Collection[str] = ()) -> list[str]:
    """One kind's settings, but for those that are `known` from elsewhere."""
    lines = [f"### {cls.title}{f' (`{kind}`)' if kind else ''}", "", cls.help(), ""]
    lines += ["| Setting | Name in files | Range | Default | |", "|---|---|---|---|---|"]
    for name, setting in cls.settings.items():
        if name in known:
            continue
        lines.append(f"| {setting.label} | `{name}` | {_range(setting)} | {_default(setting)} | {setting.help} |")
    return [*lines, ""]


def reference() -> str:
    lines = ["# Settings", "", "Made from the declarations in the code by `tools/make_reference.py`.", ""]
    lines += ["## Layers", "", "Any number and any colour of a layer can take keyframes and be moved by signals.", ""]
    lines += ["What every layer has:", "", *_table("", Layer)[4:]]
    for kind, cls in LAYER_KINDS.items():
        lines += _table(kind, cls, Layer.settings.keys())
    lines += ["## Masks", "", "Masks of a layer; their settings are addressed as `mask:ID:name`.", ""]
    for kind, mask in MASK_KINDS.items():
        lines += _table(kind, mask)
    lines += ["## Signals", ""]
    for kind, signal in SIGNAL_KINDS.items():
        lines += _table(kind, signal)
    lines += ["## Beats", "", *_table("", BeatSettings)]
    return "\n".join(lines)


def routes() -> dict[str, Any]:
    """The OpenAPI document of the studio."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder))
        try:
            return described(app)
        finally:
            app.extensions["services"].close()


def main() -> None:
    docs = Path(sys.argv[1])
    (docs / "manual" / "reference.md").write_text(reference())
    (docs / "format" / "project.schema.json").write_text(json.dumps(schema(), indent=2) + "\n")
    (docs / "format" / "openapi.json").write_text(json.dumps(routes(), indent=2) + "\n")


if __name__ == "__main__":
    main()
