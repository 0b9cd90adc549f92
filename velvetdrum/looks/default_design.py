"""The starting design: what a recording looks like before anybody has changed a setting."""

from __future__ import annotations

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.audio.analysis import Analysis
from velvetdrum.looks.presets import fitted_settings
from velvetdrum.scene.document import Document, new_layer
from velvetdrum.signals.audio_range import AudioRange


def starting_design(recording: Analysis | None) -> list[Document]:
    """A backdrop and a row of bars, back to front, the bars' levels read from the recording."""
    bars = new_layer("spectrum", "Bars")
    if recording is not None:
        bars["settings"] |= fitted_settings("spectrum", {}, AudioRange(recording, 0.0, recording.facts.duration_s))
    return [new_layer("backdrop", "Night"), bars]
