"""What a request may say: one class for each sort of value, which reads it and describes it as JSON Schema.

Routes declare their bodies and queries with these (see `asking.takes` and `asking.queries`); what is not declared is
refused, and the published description of the routes is made from the same declarations.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from velvetdrum.declare.settings import is_number

Schema = dict[str, Any]


class FieldError(ValueError):
    """A value that a request may not have, with a sentence."""


class Field:
    """One value of a request. `absent` is what stands for it when it is left out; without, it must be there."""

    def __init__(self, about: str = "", **absent: Any) -> None:
        self.about = about
        self.required = "default" not in absent
        self.default = absent.get("default")

    def read(self, value: Any, name: str) -> Any:
        """The value, checked. Raises FieldError with a sentence."""
        raise NotImplementedError

    def from_text(self, text: str, name: str) -> Any:
        """The value from a query's text."""
        return self.read(text, name)

    def schema(self) -> Schema:
        """Its JSON Schema, without what stands for every field."""
        shape = self.shape()
        if not self.required and self.default is None:
            shape = {"oneOf": [shape, {"type": "null"}]}
        return shape | ({"description": self.about} if self.about else {})

    def shape(self) -> Schema:
        """The value as JSON Schema."""
        raise NotImplementedError


class Whole(Field):
    """A whole number from `low` to `high`."""

    def __init__(self, low: int, high: int, about: str = "", **absent: Any) -> None:
        super().__init__(about, **absent)
        self.low, self.high = low, high

    def read(self, value: Any, name: str) -> int:
        if not isinstance(value, int) or isinstance(value, bool) or not self.low <= value <= self.high:
            raise FieldError(f"{name} needs a whole number from {self.low} to {self.high}.")
        return value

    def from_text(self, text: str, name: str) -> int:
        plain = len(text) <= 20 and text.isascii() and text.removeprefix("-").isdigit()
        return self.read(int(text) if plain else None, name)

    def shape(self) -> Schema:
        return {"type": "integer", "minimum": self.low, "maximum": self.high}


class Real(Field):
    """A number from `low` to `high`, in a unit."""

    def __init__(self, low: float, high: float, unit: str = "", about: str = "", **absent: Any) -> None:
        super().__init__(about, **absent)
        self.low, self.high, self.unit = low, high, unit

    def read(self, value: Any, name: str) -> float:
        if not is_number(value) or not self.low <= value <= self.high:
            unit = f" {self.unit}" if self.unit else ""
            raise FieldError(f"{name} needs a number from {self.low:g} to {self.high:g}{unit}.")
        return float(value)

    def from_text(self, text: str, name: str) -> float:
        try:
            value = float(text) if len(text) <= 40 else math.nan
        except ValueError:
            value = math.nan
        return self.read(value, name)

    def shape(self) -> Schema:
        return {"type": "number", "minimum": self.low, "maximum": self.high}


class Text(Field):
    """A text of up to `most` characters."""

    def __init__(self, most: int, about: str = "", least: int = 0, **absent: Any) -> None:
        super().__init__(about, **absent)
        self.least, self.most = least, most

    def read(self, value: Any, name: str) -> str:
        if not isinstance(value, str) or not self.least <= len(value) <= self.most:
            raise FieldError(f"{name} needs a text of {self.least} to {self.most} characters.")
        return value

    def shape(self) -> Schema:
        return {"type": "string", "minLength": self.least, "maxLength": self.most}


class OneOf(Field):
    """One of a few words."""

    def __init__(self, *words: str, about: str = "", **absent: Any) -> None:
        super().__init__(about, **absent)
        self.words = words

    def read(self, value: Any, name: str) -> str:
        if not isinstance(value, str) or value not in self.words:
            raise FieldError(f"{name} is {', '.join(self.words[:-1])} or {self.words[-1]}.")
        return value

    def shape(self) -> Schema:
        return {"enum": list(self.words)}


class Flag(Field):
    """True or false; in a query 1 or 0."""

    def read(self, value: Any, name: str) -> bool:
        if not isinstance(value, bool):
            raise FieldError(f"{name} is true or false.")
        return value

    def from_text(self, text: str, name: str) -> bool:
        if text not in ("0", "1", "true", "false"):
            raise FieldError(f"{name} is 1 or 0.")
        return text in ("1", "true")

    def shape(self) -> Schema:
        return {"type": "boolean"}


class ListOf(Field):
    """A list of `least` to `most` values of one sort."""

    def __init__(self, item: Field, least: int, most: int, about: str = "", **absent: Any) -> None:
        super().__init__(about, **absent)
        self.item, self.least, self.most = item, least, most

    def read(self, value: Any, name: str) -> list[Any]:
        if not isinstance(value, list) or not self.least <= len(value) <= self.most:
            raise FieldError(f"{name} needs a list of {self.least} to {self.most} values.")
        return [self.item.read(item, f"{name}/{index}") for index, item in enumerate(value)]

    def shape(self) -> Schema:
        return {"type": "array", "items": self.item.schema(), "minItems": self.least, "maxItems": self.most}


class ObjectOf(Field):
    """An object with known parts only."""

    def __init__(self, parts: Mapping[str, Field], about: str = "", **absent: Any) -> None:
        super().__init__(about, **absent)
        self.parts = dict(parts)

    def read(self, value: Any, name: str) -> dict[str, Any]:
        if not isinstance(value, dict):
            raise FieldError(f"{name} needs a JSON object.")
        inside = "" if name == "The request" else f"{name}/"
        for key in value.keys() - self.parts.keys():
            raise FieldError(f"{name} has no part called {key[:80]}.")
        out = {}
        for key, part in self.parts.items():
            given = value.get(key)
            if key not in value or (given is None and not part.required):
                if part.required:
                    raise FieldError(f"{name} needs {key}{f': {part.about}' if part.about else ''}.")
                out[key] = part.default
            else:
                out[key] = part.read(given, f"{inside}{key}")
        return out

    def shape(self) -> Schema:
        return {
            "type": "object",
            "properties": {key: part.schema() for key, part in self.parts.items()},
            "required": [key for key, part in self.parts.items() if part.required],
            "additionalProperties": False,
        }


class Values(Field):
    """An object or a list whose parts are judged by the core, such as the settings of a layer."""

    def __init__(self, sort: type, about: str = "", **absent: Any) -> None:
        super().__init__(about, **absent)
        self.sort = sort

    def read(self, value: Any, name: str) -> Any:
        if not isinstance(value, self.sort):
            raise FieldError(f"{name} needs {'an object' if self.sort is dict else 'a list'}.")
        return value

    def shape(self) -> Schema:
        return {"type": "object" if self.sort is dict else "array"}


class JsonPatch(Field):
    """A JSON Patch (RFC 6902)."""

    def __init__(self, about: str = "A JSON Patch (RFC 6902) on the project's document", **absent: Any) -> None:
        super().__init__(about, **absent)

    def read(self, value: Any, name: str) -> Any:
        if not isinstance(value, list) or len(value) > 1000 or not all(isinstance(step, dict) for step in value):
            raise FieldError(f"{name} needs a JSON Patch: a list of up to 1000 steps.")
        for index, step in enumerate(value):
            if not isinstance(step.get("op"), str) or not isinstance(step.get("path"), str):
                raise FieldError(f"{name}/{index} needs an op and a path, as every step of a JSON Patch has.")
            if not isinstance(step.get("from", ""), str):
                raise FieldError(f"{name}/{index}/from needs a path.")
        return value

    def shape(self) -> Schema:
        step = {
            "type": "object",
            "required": ["op", "path"],
            "properties": {
                "op": {"enum": ["add", "remove", "replace", "move", "copy", "test"]},
                "path": {"type": "string"},
                "from": {"type": "string"},
                "value": {},
            },
        }
        return {"type": "array", "items": step, "maxItems": 1000}
