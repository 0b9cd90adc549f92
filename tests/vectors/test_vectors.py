"""The kept vectors are what the Python forms work out."""

from __future__ import annotations

import json
from typing import Any

import pytest

from tests.vectors import HERE, VECTORS


def same(kept: Any, made: Any) -> bool:
    """Equal, numbers to a billionth: the last bits of a sine differ from machine to machine."""
    if isinstance(kept, dict):
        return kept.keys() == made.keys() and all(same(kept[key], made[key]) for key in kept)
    if isinstance(kept, list):
        return len(kept) == len(made) and all(map(same, kept, made))
    if isinstance(kept, int | float) and not isinstance(kept, bool):
        return kept == pytest.approx(made, rel=1e-9, abs=1e-9)
    return kept == made


@pytest.mark.parametrize("name", VECTORS)
def test_kept_vectors_are_what_python_works_out(name):
    kept = json.loads((HERE / f"{name}.json").read_text(encoding="utf-8"))
    assert same(kept, json.loads(json.dumps(VECTORS[name]())))
