"""Writes the vectors anew: `python -m tests.vectors`."""

from tests.vectors import HERE, VECTORS, text_of

for name in VECTORS:
    (HERE / f"{name}.json").write_text(text_of(name), encoding="utf-8")
