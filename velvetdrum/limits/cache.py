"""One cache a process for pictures, arrays and what else is expensive to make, bounded by bytes."""

from __future__ import annotations

import sys
from collections import Counter
from collections.abc import Callable, Hashable, Iterable
from dataclasses import fields, is_dataclass
from functools import cache, update_wrapper
from threading import RLock
from typing import Any, Generic, ParamSpec, TypeVar

from cachetools import LRUCache

Arguments = ParamSpec("Arguments")
Value = TypeVar("Value")

MOST_BYTES = 640_000_000
"""What a process keeps at the most: pictures at full size, and the curves of a song."""

_DEPTH = 6


@cache
def _names(kind: Any) -> tuple[str, ...]:
    """The fields of a data class. Asking for them takes longer than reading them."""
    return tuple(field.name for field in fields(kind))


def size_of(value: Any, depth: int = 0) -> int:
    """About how many bytes a value holds: arrays and drawing paths as they say, what is made of such by its parts."""
    told = getattr(value, "nbytes", None)
    if isinstance(told, int):
        return told + 128
    if depth > _DEPTH or value is None or isinstance(value, int | float | str | bytes | bool):
        return sys.getsizeof(value)
    parts: Iterable[Any]
    if hasattr(value, "approximateBytesUsed"):
        return int(value.approximateBytesUsed()) + 128
    if isinstance(value, tuple | list | frozenset | set):
        parts = value
    elif isinstance(value, dict):
        parts = value.values()
    elif is_dataclass(value):
        parts = [getattr(value, name) for name in _names(value.__class__)]
    else:
        return sys.getsizeof(value)
    return 128 + sum(size_of(part, depth + 1) for part in parts)


class Kept:
    """What was used last, as much as fits into a number of bytes. Safe for several threads."""

    def __init__(self, most_bytes: int) -> None:
        self.most_bytes = most_bytes
        self._found: LRUCache[Hashable, tuple[Any, int]] = LRUCache(most_bytes, getsizeof=lambda item: item[1])
        self._asked: LRUCache[Hashable, None] = LRUCache(256)
        self._lock = RLock()

    def resize(self, most_bytes: int) -> None:
        """Keep no more than so many bytes from now on; what was used longest ago is dropped."""
        if most_bytes == self.most_bytes:
            return
        with self._lock:
            result, self.most_bytes = self._found, most_bytes
            self._found = LRUCache(most_bytes, getsizeof=lambda item: item[1])
            for key, item in result.items():
                if item[1] <= most_bytes:
                    self._found[key] = item

    def get(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """What is under `key`, made when it is not there."""
        with self._lock:
            # Asked for once: keys are deep, and hashing one costs more than looking it up.
            try:
                return self._found[key][0]
            except KeyError:
                pass
        return self.put(key, make())

    def put(self, key: Hashable, made: Value) -> Value:
        """Keep what was made under `key`, where it fits; gives it back."""
        size = size_of(made)
        if size <= self.most_bytes:
            with self._lock:
                self._found[key] = (made, size)
        return made

    def peek(self, key: Hashable) -> Any:
        """What is under `key`, or None."""
        with self._lock:
            try:
                return self._found[key][0]
            except KeyError:
                return None

    def drop(self, name: str) -> None:
        """Forget all whose key begins with a name."""
        with self._lock:
            for key in [key for key in self._found if isinstance(key, tuple) and key and key[0] == name]:
                del self._found[key]

    def recurs(self, key: Hashable) -> bool:
        """Whether a key was asked about before, not long ago: what is made once only is not worth its room."""
        with self._lock:
            before = key in self._asked
            self._asked[key] = None
        return before

    def clear(self) -> None:
        """Keep nothing."""
        with self._lock:
            self._found.clear()

    def held(self) -> dict[str, int]:
        """Bytes by the name that keys begin with, the most first."""
        out: Counter[str] = Counter()
        with self._lock:
            for key, (_, size) in self._found.items():
                out[str(key[0]) if isinstance(key, tuple) and key else str(key)] += size
        return dict(out.most_common())


SHARED_CACHE = Kept(MOST_BYTES)
"""The cache of this process."""


class Keeping(Generic[Arguments, Value]):
    """A function whose results are kept by its arguments."""

    def __init__(self, function: Callable[Arguments, Value]) -> None:
        self._function = function
        self.name = f"{function.__module__.removeprefix('velvetdrum.')}.{function.__name__.strip('_')}"
        update_wrapper(self, function)

    def __call__(self, *given: Arguments.args, **named: Arguments.kwargs) -> Value:
        key = (self.name, *given, *sorted(named.items())) if named else (self.name, *given)
        return SHARED_CACHE.get(key, lambda: self._function(*given, **named))

    def forget(self) -> None:
        """Forget all results."""
        SHARED_CACHE.drop(self.name)


def cached(function: Callable[Arguments, Value]) -> Keeping[Arguments, Value]:
    """Decorator: keep the results of a pure function in the process's cache. Arguments must be hashable; results are
    shared, so they are not to be written to."""
    return Keeping(function)
