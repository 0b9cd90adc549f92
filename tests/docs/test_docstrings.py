"""Every public class and function says what it is, or stands for one of a base that does."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
from collections.abc import Iterator
from typing import Any

import velvetdrum


def public() -> Iterator[tuple[str, Any, Any]]:
    """Name, object and owner of what modules and classes define themselves."""
    for found in pkgutil.walk_packages(velvetdrum.__path__, "velvetdrum."):
        if found.name.endswith("__main__"):
            continue
        module = importlib.import_module(found.name)
        for name, item in vars(module).items():
            if name.startswith("_") or getattr(item, "__module__", "") != found.name:
                continue
            if inspect.isfunction(item):
                yield f"{found.name}.{name}", item, None
            elif inspect.isclass(item):
                yield f"{found.name}.{name}", item, None
                for own in vars(item):
                    function = _function(vars(item)[own])
                    written = function is not None and function.__qualname__ == f"{item.__qualname__}.{own}"
                    if written and not own.startswith("_"):
                        yield f"{found.name}.{name}.{own}", function, item


def _function(item: Any) -> Any:
    """The function behind a method, a property or a cached one; None for anything else."""
    if isinstance(item, property):
        item = item.fget
    item = getattr(item, "__func__", item)
    item = getattr(item, "func", item)
    return item if inspect.isfunction(item) else None


def _said(item: Any, owner: Any) -> bool:
    if item.__doc__:
        return True
    bases = owner.__mro__[1:] if owner else ()
    return any(getattr(_function(vars(base).get(item.__name__)), "__doc__", None) for base in bases)


def test_public_functions_and_classes_have_docstrings():
    silent = [name for name, item, owner in public() if not _said(item, owner)]
    assert silent == []
