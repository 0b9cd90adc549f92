"""The starting design: what a recording looks like before anybody has changed a setting."""

from __future__ import annotations

from velvetdrum.scene.document import Document, new_layer


def starting_layers(range_db: tuple[float, float] | None = None) -> list[Document]:
    """A backdrop and a row of bars, back to front. `range_db` is the quiet and the loud level read from the
    recording; without it the kinds' defaults stand."""
    levels = {"quiet_db": range_db[0], "loud_db": range_db[1]} if range_db else {}
    return [new_layer("backdrop", "Night"), new_layer("spectrum-bars", "Bars", **levels)]
