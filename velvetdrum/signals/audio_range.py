"""The stretch of a recording that a project uses."""

from __future__ import annotations

from dataclasses import dataclass

from velvetdrum.audio.analysis import Analysis


@dataclass(frozen=True)
class AudioRange:
    """The used stretch of a recording, in seconds. Outside of it there is silence."""

    recording: Analysis
    in_s: float
    out_s: float
