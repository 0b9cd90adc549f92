"""Writes the types that the page's scripts are checked against: the document, from its JSON Schema, and what
is declared of kinds and settings, from what the server sends with the page.

Usage: make_page_types.py [--check] FILE
"""

from __future__ import annotations

import json
import re
import sys
import textwrap
from pathlib import Path
from typing import Any

from tests.vectors.studio_page import page_data
from velvetdrum.scene.document import schema
from velvetdrum.scene.migrate import upgraded

_HEAD = (
    "// Made from the document's schema and the page's declarations by tools/make_page_types.py: `make generated`.\n"
)
_WORDS = {"string": "string", "number": "number", "integer": "number", "boolean": "boolean", "null": "null"}
_NAMED = {
    "frame": "FrameShape",
    "tracks": "Track",
    "beats": "BeatValues",
    "signals": "Signal",
    "markers": "Marker",
    "cue_tracks": "CueTrack",
    "cues": "Cue",
    "words": "CueWord",
    "layers": "Layer",
    "effects": "Part",
    "masks": "Part",
    "patches": "Patch",
    "keyframes": "Keyframe",
}
"""What stands under such a name in a document, by the page's name for it."""
_DECLARED = {
    "settings": "Setting",
    "kinds": "LayerKind",
    "partSorts": "PartSort",
    "partSorts.kinds": "PartKind",
    "signalKinds": "SignalKind",
    "beatSettings": "Setting",
    "videoFormats": "VideoFormat",
    "cueFormats": "CueFormat",
    "sizings": "Sizing",
    "places": "Place",
}
_OPEN = ("settings", "default", "from", "to", "value")
"""What may be of several types, as its setting says: not told apart here."""
_CHOSEN = ("listed",)
"""What is one of the words that were sent."""
_MAPS = ("frames", "areas", "leftOut", "rates")


def _member(name: str, optional: bool, kind: str, note: str = "") -> str:
    key = name if re.fullmatch(r"[A-Za-z_]\w*", name) else json.dumps(name)
    comment = f"  /** {note} */\n" if note else ""
    return f"{comment}  {key}{'?' if optional else ''}: {kind};\n"


class _Interfaces:
    """Interfaces by name, in the order in which they were met."""

    def __init__(self) -> None:
        self.texts: dict[str, str] = {}
        bare: dict[str, Any] = {"layers": [{"effects": [{}]}], "signals": [{}]}
        whole = upgraded({"version": schema()["properties"]["version"]["const"]} | bare)
        (layer,) = whole["layers"]
        self._filled = {"Project": {*whole}, "Layer": {*layer}, "Part": {*layer["effects"][0]}}
        self._filled["Signal"] = {*whole["signals"][0]}

    def of_schema(self, node: dict[str, Any], definitions: dict[str, Any], name: str = "") -> str:
        """The type of what a schema admits; an object of a known name becomes an interface."""
        if "$ref" in node:
            return self.of_schema(definitions[node["$ref"].rsplit("/", 1)[-1]], definitions, name)
        if name in _OPEN:
            return "Values" if name == "settings" else "any"
        if "oneOf" in node:
            variants = node["oneOf"]
            if all(variant.get("type") == "object" for variant in variants):
                node = variants[0] | {"properties": {}, "required": variants[0].get("required", [])}
                for variant in reversed(variants):
                    node["properties"] |= variant["properties"]
                node["properties"]["kind"] = {"type": "string"}
                return self.of_schema(node, definitions, name)
            return " | ".join(dict.fromkeys(self.of_schema(variant, definitions, name) for variant in variants))
        if "const" in node or "enum" in node:
            return " | ".join(json.dumps(value) for value in node.get("enum", [node.get("const")]))
        kind = node.get("type")
        if kind == "array":
            return f"{self.of_schema(node.get('items', {}), definitions, name)}[]"
        if kind != "object":
            return _WORDS.get(str(kind), "any")
        if "properties" not in node:
            more = node.get("additionalProperties")
            return f"Record<string, {self.of_schema(more, definitions, name) if isinstance(more, dict) else 'any'}>"
        title = _NAMED.get(name, "Project" if not name else "")
        required = {*node.get("required", ()), *self._filled.get(title, ())}
        members = [
            _member(
                key,
                key not in required,
                self.of_schema(value, definitions, key),
                "" if key == "settings" else value.get("description", ""),
            )
            for key, value in node["properties"].items()
        ]
        return self._named(title, members)

    def of_samples(self, samples: list[Any], path: str = "") -> str:
        """The type of what was sent; an object of a known name becomes an interface."""
        name = path.rsplit(".", 1)[-1]
        if name in _OPEN[1:]:
            return "any"
        if name in _CHOSEN:
            return " | ".join(json.dumps(sample) for sample in dict.fromkeys(samples))
        kinds = {type(sample) for sample in samples}
        if dict in kinds:
            return self._of_objects([sample for sample in samples if isinstance(sample, dict)], path, name)
        if list in kinds:
            return self._of_lists([sample for sample in samples if isinstance(sample, list)], path)
        words = {str: "string", bool: "boolean", int: "number", float: "number", type(None): "null"}
        return " | ".join(sorted({words[kind] for kind in kinds})) or "any"

    def _of_lists(self, samples: list[list[Any]], path: str) -> str:
        items = [item for sample in samples for item in sample]
        rows = [item for item in items if isinstance(item, list)]
        if rows and len(rows) == len(items) and len({len(row) for row in rows}) == 1 and len(rows[0]) < 5:
            return f"[{', '.join(self.of_samples([row[n] for row in rows]) for n in range(len(rows[0])))}][]"
        kind = self.of_samples(items, path)
        return f"({kind})[]" if "|" in kind else f"{kind}[]"

    def _of_objects(self, samples: list[dict[str, Any]], path: str, name: str) -> str:
        keys = list(dict.fromkeys(key for sample in samples for key in sample))
        if not keys:
            return "Values"
        if name in _MAPS:
            return f"Record<string, {self.of_samples([value for sample in samples for value in sample.values()])}>"
        title = _DECLARED.get(path, _DECLARED.get(name, ""))
        members = [
            _member(
                key,
                any(key not in sample for sample in samples),
                self.of_samples([s[key] for s in samples if key in s], f"{name}.{key}" if name == "partSorts" else key),
            )
            for key in keys
        ]
        return self._named(title, members)

    def _named(self, title: str, members: list[str]) -> str:
        body = "".join(members)
        if not title:
            return "{\n" + textwrap.indent(body, "  ") + "  }"
        before = self.texts.get(title)
        if before is None or len(body) > len(before):
            self.texts[title] = body
        return title


def page_types() -> str:
    """The declarations as TypeScript."""
    document = schema()
    interfaces = _Interfaces()
    interfaces.of_schema(document, document.get("$defs", {}))
    given = json.loads(page_data())
    given.pop("project")
    interfaces.texts["Given"] = "".join(
        _member(key, False, interfaces.of_samples([value], key)) for key, value in given.items()
    )
    parts = [f"interface {title} {{\n{body}}}\n" for title, body in interfaces.texts.items()]
    values = "/** Values of settings by name, each of its setting's type. */\ntype Values = Record<string, any>;\n"
    return "\n".join([_HEAD, values, *parts])


def main(arguments: list[str]) -> None:
    check = "--check" in arguments
    (place,) = (Path(argument) for argument in arguments if argument != "--check")
    text = page_types()
    if not check:
        place.write_text(text)
    elif not place.is_file() or place.read_text() != text:
        print(f"stale: {place}\nmade anew by: make generated", file=sys.stderr)
        raise SystemExit(1)


if __name__ == "__main__":
    main(sys.argv[1:])
