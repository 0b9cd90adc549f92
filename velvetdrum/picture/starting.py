"""The starting design: what a recording looks like before anybody has changed a setting."""

from __future__ import annotations

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.audio.analysis import Analysis
from velvetdrum.picture.layers.spectrum import Spectrum
from velvetdrum.scene.document import Document, new_layer
from velvetdrum.signals.bars import fit_range
from velvetdrum.signals.use import Use


def starting_design(recording: Analysis | None) -> list[Document]:
    """A backdrop and a row of bars, back to front, the bars' levels read from the recording."""
    bars = new_layer("spectrum", "Bars")
    if recording is not None:
        quiet, loud = fit_range(Use(recording, 0.0, recording.facts.duration_s), Spectrum({}).reads)
        bars["settings"] |= {"quiet_db": quiet, "loud_db": loud}
    return [new_layer("backdrop", "Night"), bars]
