"""How kinds become known: each is a file of a package, found by being there, under a name of its own."""

from __future__ import annotations

from collections.abc import Iterable, MutableMapping
from importlib import import_module
from pkgutil import iter_modules
from typing import Any, TypeVar

Item = TypeVar("Item")


def import_kinds(package: str, path: Iterable[str]) -> None:
    """Import every module of a package, in the order of their names; each makes its kind known."""
    for module in iter_modules(path):
        import_module(f"{package}.{module.name}")


def make_known(known: MutableMapping[str, Item], name: str, item: Item) -> None:
    """Make an item known under a name. Raises ValueError where another one has it."""
    other = known.get(name)
    if other is not None and _origin(other) != _origin(item):
        raise ValueError(f"{_origin(item)} takes the name {name!r}, which {_origin(other)} has.")
    known[name] = item


def sort_kinds(known: MutableMapping[str, Item]) -> None:
    """Put kinds into the order in which they are offered: by `order`, a number on their class, then by name."""
    rows = sorted(known.items(), key=lambda row: (getattr(row[1], "order", 0), row[0]))
    known.clear()
    known.update(rows)


def _origin(item: Any) -> str:
    cls = item if isinstance(item, type) else type(item)
    return f"{cls.__module__}.{cls.__qualname__}"
