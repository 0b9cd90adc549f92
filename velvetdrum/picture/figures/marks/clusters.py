"""Clusters: several bars that share one band's level, each a little different, and livelier for it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached


def cluster_heights(
    heights: NDArray[np.float64], bars: int, spread: float, seed: int, changes: float, slope: float = 0.0
) -> NDArray[np.float64]:
    """Heights of `bars` bars for each band, shape (bands * bars,), none taller than its band.

    `spread` is how much shorter a bar may be, as a share of its height; `slope` how much shorter the last bar of each
    cluster is than its first (below 0 the first). Each cluster has its own seed; the differences
    have changed `changes` times, smoothly. A pure function: nothing is carried on.
    """
    if bars == 1:
        return heights
    number = int(np.floor(changes))
    part = changes - number
    # Smoothstep between two draws: no jump, and no corner at the draws.
    part = part * part * (3 - 2 * part)
    now = _draws(seed, number, len(heights), bars) * (1 - part) + _draws(seed, number + 1, len(heights), bars) * part
    place = np.linspace(0.0, 1.0, bars)
    falling = 1.0 - abs(slope) * (place if slope >= 0 else 1.0 - place)
    return (heights[:, None] * (1.0 - spread * now) * falling).reshape(-1)


@cached
def _draws(seed: int, number: int, clusters: int, bars: int) -> NDArray[np.float64]:
    return np.stack(
        [
            np.random.Generator(np.random.PCG64((seed, cluster, number & 0xFFFFFFFF))).random(bars)
            for cluster in range(clusters)
        ]
    )
