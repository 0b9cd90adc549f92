"""The stretch of a recording that a project uses."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from velvetdrum.audio.analysis import Analysis
from velvetdrum.limits.cache import cached


@dataclass(frozen=True)
class AudioRange:
    """The used stretch of a recording, in seconds. Outside of it there is silence."""

    recording: Analysis
    in_s: float
    out_s: float
    others: tuple[tuple[str, str], ...] = ()
    """What else of the project can be heard on the same timeline: by name the folder of each analysis."""

    def heard(self, name: str) -> AudioRange | None:
        """Another sound of the project over the same stretch; None where it is not here.

        Parameters
        ----------
        name
            Its name; empty for this one.
        """
        if not name:
            return self
        folder = dict(self.others).get(name)
        return None if folder is None else replace(self, recording=_opened(folder))


@cached
def _opened(folder: str) -> Analysis:
    return Analysis(Path(folder))
