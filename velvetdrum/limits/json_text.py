"""JSON that somebody else wrote, read under limits. Everything that comes in as JSON is read here.

RFC 8259 leaves numbers, depth and surrogates open; here they are closed: numbers that a double holds exactly enough,
text that can be written as UTF-8, a depth and a count of values that no project needs to pass.
"""

from __future__ import annotations

import json
from typing import Any, NoReturn

MOST_BYTES = 1 << 20
DEEPEST = 64
MOST_VALUES = 1_000_000
_LONGEST_NUMBER = 40
_LARGEST = 1e15


class JsonError(ValueError):
    """JSON that is not read. `path` is a JSON Pointer to what is wrong, as far as it is known."""

    def __init__(self, sentence: str, path: str = "") -> None:
        super().__init__(f"{sentence} It stands at {path}." if path else sentence)
        self.path = path

    def __reduce__(self) -> tuple[Any, ...]:
        return _again, (str(self), self.path)


def _again(text: str, path: str) -> JsonError:
    made = JsonError(text)
    made.path = path
    return made


def read_json(data: bytes | str, *, most_bytes: int = MOST_BYTES, most_values: int = MOST_VALUES) -> Any:
    """The value that JSON text holds. Raises JsonError with a sentence."""
    if len(data) > most_bytes:
        raise JsonError(f"This is more than {_bytes(most_bytes)} of JSON, which is the most that is read.")
    try:
        text = data if isinstance(data, str) else data.decode("utf-8-sig")
    except UnicodeDecodeError as problem:
        raise JsonError("This is no JSON: it is not written in UTF-8.") from problem
    try:
        value = json.loads(text, parse_constant=_constant, parse_int=_whole)
    except RecursionError as problem:
        raise JsonError(f"This JSON nests deeper than {DEEPEST} levels.") from problem
    except json.JSONDecodeError as problem:
        raise JsonError(f"This is no JSON: line {problem.lineno}, column {problem.colno} can't be read.") from problem
    check_value(value, most_values=most_values)
    return value


def check_value(value: Any, *, most_values: int = MOST_VALUES) -> int:
    """Check a value that came as JSON: depth, numbers, text and how much there is. Gives the count of values in it.

    Raises JsonError with a sentence and the place.
    """
    left: list[tuple[Any, int, tuple[Any, ...] | None]] = [(value, 1, None)]
    count = 0
    while left:
        item, depth, place = left.pop()
        count += 1
        if count > most_values:
            raise JsonError(f"This JSON holds more than {most_values} values, which is the most that is read.")
        if isinstance(item, str):
            _check_text(item, place)
        elif isinstance(item, bool) or item is None:
            continue
        elif isinstance(item, int | float):
            if not -_LARGEST <= item <= _LARGEST:
                raise JsonError("A number is larger than anything here can be.", _pointer(place))
        elif isinstance(item, list | dict):
            if depth > DEEPEST:
                raise JsonError(f"This JSON nests deeper than {DEEPEST} levels.", _pointer(place)[:200])
            if isinstance(item, list):
                left.extend((part, depth + 1, (place, index)) for index, part in enumerate(item))
            else:
                for key in item:
                    _check_text(key, place)
                left.extend((part, depth + 1, (place, key)) for key, part in item.items())
        else:
            raise JsonError("Only values that JSON knows can be read.", _pointer(place))
    return count


def _check_text(text: str, place: tuple[Any, ...] | None) -> None:
    if text.isascii():
        if "\0" not in text:
            return
        raise JsonError("A text has a null character in it.", _pointer(place))
    try:
        text.encode()
    except UnicodeEncodeError as problem:
        raise JsonError("A text has half of a character in it (a lone surrogate).", _pointer(place)) from problem
    if "\0" in text:
        raise JsonError("A text has a null character in it.", _pointer(place))


def _pointer(place: tuple[Any, ...] | None) -> str:
    parts: list[str] = []
    while place is not None:
        place, part = place
        parts.append(str(part).replace("~", "~0").replace("/", "~1").encode(errors="replace").decode()[:80])
    return "".join(f"/{part}" for part in reversed(parts))


def _whole(text: str) -> int:
    if len(text) > _LONGEST_NUMBER:
        raise JsonError("A number is larger than anything here can be.")
    return int(text)


def _constant(text: str) -> NoReturn:
    raise JsonError(f"{text} is no number of JSON.")


def _bytes(count: int) -> str:
    return f"{count >> 20} MB" if count >= 1 << 20 else f"{count >> 10} kB"
