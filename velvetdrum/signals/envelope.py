"""Attack and release, solved ahead in chunks so that no frame depends on the one before it.

A follower has memory: y_n = y_(n-1) + c (x_n - y_(n-1)), with c the attack coefficient while x rises above y and
the release coefficient while it falls. Both steps are contractions, so what happened longer ago than a few time
constants no longer matters. Each chunk of the track is therefore solved on its own, from a run-up long enough
that two starting values would end less than one millionth apart. The chunks lie on a fixed grid, so any worker,
in any order, gets the same bytes.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.bands import FRAME_RATE

CHUNK = 480
"""Readings in a chunk: eight seconds."""

_RUN_UP = 14.0  # time constants: e^-14 is just under one millionth

Curve = NDArray[np.float32]
Read = Callable[[int, int], Curve]


def coefficient(time_ms: float) -> float:
    """Step of a one-pole follower that covers 63 % (1 - 1/e) of a jump in `time_ms` milliseconds.

    Parameters
    ----------
    time_ms
        Time to 63 %, in ms.
    """
    return 1.0 if time_ms <= 0 else float(1.0 - np.exp(-1000.0 / (FRAME_RATE * time_ms)))


def follow(values: Curve, attack_ms: float, release_ms: float, start: Curve | None = None) -> Curve:
    """Run the follower over `values`, shape (n, bands); the first result starts from `start` (zeros).

    Parameters
    ----------
    values
        Values over time.
    attack_ms
        Time to 63 % of a rise, in ms.
    release_ms
        Time to 63 % of a fall, in ms.
    start
        The values before the first one; None for rest.
    """
    attack, release = np.float32(coefficient(attack_ms)), np.float32(coefficient(release_ms))
    # With attack >= release, the right one of the two steps is always the larger; else the smaller.
    choose = np.maximum if attack >= release else np.minimum
    out = np.empty_like(values)
    state = np.zeros(values.shape[1], np.float32) if start is None else start.astype(np.float32)
    gap, quick, slow = np.empty_like(state), np.empty_like(state), np.empty_like(state)
    for index in range(len(values)):
        np.subtract(values[index], state, out=gap)
        np.multiply(gap, attack, out=quick)
        np.multiply(gap, release, out=slow)
        choose(quick, slow, out=quick)
        np.add(state, quick, out=out[index])
        state = out[index]
    return out


def chunk_of(read: Read, number: int, attack_ms: float, release_ms: float) -> Curve:
    """Chunk `number` of the followed curve, shape (CHUNK, bands).

    `read(start, stop)` gives the unfollowed readings; it is asked for the run-up as well.

    Parameters
    ----------
    read
        Gives the levels of readings from one to another.
    number
        Which one, counted from 0.
    attack_ms
        Time to 63 % of a rise, in ms.
    release_ms
        Time to 63 % of a fall, in ms.
    """
    begin = number * CHUNK
    longest = max(attack_ms, release_ms, 0.0) / 1000.0
    run_up = int(np.ceil(_RUN_UP * longest * FRAME_RATE))
    values = read(begin - run_up, begin + CHUNK)
    return follow(values, attack_ms, release_ms, values[0])[run_up:]
