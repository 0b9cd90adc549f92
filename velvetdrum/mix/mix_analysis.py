"""The analysis of a sum, or of a part of it: made as that of any recording."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.audio.decode import RATE, SoundInfo
from velvetdrum.audio.errors import SoundError
from velvetdrum.audio.filters import Samples
from velvetdrum.mix.mixdown import Mixdown, SourceFiles
from velvetdrum.mix.placed_track import MixSpec
from velvetdrum.mix.separation import separated


class MixStream:
    """The sum of tracks as a sound."""

    may_be_silent = True

    def __init__(self, spec: MixSpec, files: SourceFiles) -> None:
        self.mix, self.part = Mixdown(spec, files), spec.part
        names = ("FC",) if self.mix.channels == 1 else ("FL", "FR")
        self.samples = max(self.mix.samples, round(spec.end_s * RATE), 1)
        self.info = SoundInfo("sum", "sum", RATE, len(names), names, self.samples / RATE)

    def blocks(self, block: int) -> Iterator[Samples]:
        """All of it, in blocks.

        Parameters
        ----------
        block
            Samples a block, but for the last.
        """
        whole = self.mix.blocks(0, self.samples, block)
        return whole if self.part == "all" else _even(separated(whole, self.part), block)

    def check(self, seconds: float) -> None:
        """Nothing is promised.

        Parameters
        ----------
        seconds
            How much was mixed.
        """


def analyse_mix(
    spec: MixSpec, files: SourceFiles, folder: Path, progress: Callable[[float], None] = lambda share: None
) -> Analysis:
    """Analyse a sum into a folder and open the result; it stands under the mix's key.

    Parameters
    ----------
    spec
        What is mixed.
    files
        The recordings.
    folder
        Where the analysis is put.
    progress
        Called with how far the work is, 0 to 1.

    Raises
    ------
    SoundError
        With a sentence where a recording is gone or can't be read.
    """
    gone = [track for track in spec.tracks if track.media not in files.analyses]
    if gone:
        raise SoundError(f"{len(gone)} of {len(spec.tracks)} recordings of this sum are not here. Bring them in again.")
    return analyse(MixStream(spec, files), folder, key=spec.key, progress=progress)


def _even(pieces: Iterator[Samples], size: int) -> Iterator[Samples]:
    held: list[Samples] = []
    count = 0
    for piece in pieces:
        held.append(piece)
        count += piece.shape[1]
        while count >= size:
            joined = np.concatenate(held, axis=1)
            yield joined[:, :size]
            held, count = [joined[:, size:]], count - size
    if count:
        yield np.concatenate(held, axis=1)
