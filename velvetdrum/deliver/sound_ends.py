"""How sound begins and ends: fades, and a loop whose end leads into its start."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np

from velvetdrum.audio.decode import RATE
from velvetdrum.audio.filters import Samples


@dataclass(frozen=True)
class SoundEnds:
    """Seconds in which sound comes and goes, and in which its end fades into what came before its start."""

    fade_in_s: float = 0.0
    fade_out_s: float = 0.0
    seam_s: float = 0.0

    @property
    def seam(self) -> int:
        """Samples of the seam."""
        return round(self.seam_s * RATE)

    def applied(self, blocks: Iterable[Samples], count: int, before: Samples) -> Iterator[Samples]:
        """Blocks of a sound of `count` samples, shape (channels, n), with fades of a raised cosine, and over the seam a
        crossfade of equal power into `before`, the samples that come before the start, shape (channels, seam).

        Parameters
        ----------
        blocks
            Samples, shape (channels, n) each.
        count
            Samples in all.
        before
            What comes before the start, for a seam.
        """
        at = 0
        for block in blocks:
            size = block.shape[1]
            place = np.arange(at, at + size)
            if self.seam and at + size > count - self.seam:
                block = self._over_seam(block, place - (count - self.seam), before)
            gain = np.ones(size, np.float32)
            for samples, way in ((self.fade_in_s * RATE, place), (self.fade_out_s * RATE, count - 1 - place)):
                if samples >= 1:
                    share = np.clip((way + 0.5) / samples, 0, 1)
                    gain = gain * (0.5 - 0.5 * np.cos(np.pi * share)).astype(np.float32)
            at += size
            yield block * gain

    def _over_seam(self, block: Samples, place: np.ndarray, before: Samples) -> Samples:
        share = np.clip((place + 0.5) / self.seam, 0, 1) * (np.pi / 2)
        other = before[:, np.clip(place, 0, self.seam - 1)]
        mixed = block * np.cos(share) + other * np.sin(share)
        return np.asarray(np.clip(mixed, -1, 1), np.float32)
