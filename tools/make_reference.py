"""Writes what is made from the code: the reference of settings, the JSON Schema, the description of the routes, and the
examples in `adding.md`.

Usage: make_reference.py [--check] DOCS

With --check nothing is written: what is stale is named, and the exit code is 1.
"""

from __future__ import annotations

import json
import re
import sys
import tempfile
from collections.abc import Collection
from pathlib import Path
from typing import Any

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.declare.schema import Declared
from velvetdrum.scene.document import schema
from velvetdrum.scene.effects import EFFECT_KINDS
from velvetdrum.scene.kinds import LAYER_KINDS, Layer
from velvetdrum.scene.masks import MASK_KINDS
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.studio.app import create_app
from velvetdrum.studio.http.openapi import described

_EXAMPLE = re.compile(r"<!-- file: (?P<path>\S+) -->\n(?:```python\n.*?^```\n)?", re.DOTALL | re.MULTILINE)


def _table(kind: str, cls: type[Declared], known: Collection[str] = ()) -> list[str]:
    """One kind's settings, but for those that are `known` from elsewhere."""
    lines = [f"### {cls.title}{f' (`{kind}`)' if kind else ''}", "", cls.help(), ""]
    lines += ["| Setting | Name in files | Range | Default | |", "|---|---|---|---|---|"]
    for name, setting in cls.settings.items():
        if name in known:
            continue
        values, default = setting.describe_values(), setting.describe_default()
        lines.append(f"| {setting.label} | `{name}` | {values} | {default} | {setting.help} |")
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
    lines += ["## Effects", "", "Effects of a layer; their settings are addressed as `effect:ID:name`.", ""]
    for kind, effect in EFFECT_KINDS.items():
        lines += _table(kind, effect)
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


def with_examples(page: str, root: Path) -> str:
    """A page with the files that its comments name, each in a block after its comment."""

    def block(found: re.Match[str]) -> str:
        path = found["path"]
        return f"<!-- file: {path} -->\n```python\n# {path}\n{(root / path).read_text()}```\n"

    return _EXAMPLE.sub(block, page)


def made(docs: Path) -> dict[Path, str]:
    """The files that are made, with what belongs in them."""
    adding = docs / "adding.md"
    return {
        docs / "manual" / "reference.md": reference(),
        docs / "format" / "project.schema.json": json.dumps(schema(), indent=2) + "\n",
        docs / "format" / "openapi.json": json.dumps(routes(), indent=2) + "\n",
        adding: with_examples(adding.read_text(), docs.resolve().parent),
    }


def main() -> None:
    check = "--check" in sys.argv
    files = made(Path(sys.argv[-1]))
    stale = [path for path, text in files.items() if not path.exists() or path.read_text() != text]
    if check:
        for path in stale:
            print(f"{path} is stale; `make generated` makes it anew.", file=sys.stderr)
        sys.exit(1 if stale else 0)
    for path in stale:
        path.write_text(files[path])


if __name__ == "__main__":
    main()
