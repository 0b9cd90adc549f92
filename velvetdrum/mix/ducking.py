"""A bed that goes down under voices: its gain is known ahead, so that it is down when the first syllable comes."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.decode import RATE
from velvetdrum.audio.speech import Stretches, ramps, spoken
from velvetdrum.mix.placed_track import Ducking, PlacedTrack

Values = NDArray[np.float64]

_LEAST_S = 0.05
"""Sounds of a voice track that are shorter do not move the bed: a click is no word."""


def voiced(tracks: Sequence[PlacedTrack], ducking: Ducking, recordings: Mapping[str, Analysis]) -> Stretches:
    """Where a bed goes down, in seconds of the timeline: where any of its voices speaks, pauses shorter than the hold
    among it, and each time held on.

    Parameters
    ----------
    tracks
        All tracks.
    ducking
        The bed's.
    recordings
        Analyses by content hash.
    """
    hold = ducking.hold_ms / 1000
    places: Stretches = []
    for track in tracks:
        if track.id not in ducking.by or track.media not in recordings:
            continue
        for begin, end in spoken(recordings[track.media], ducking.threshold_db, hold, _LEAST_S):
            places += placed(track, begin, end)
    out: Stretches = []
    for begin, end in sorted(places):
        if out and begin <= out[-1][1]:
            out[-1] = (out[-1][0], max(out[-1][1], end + hold))
        else:
            out.append((begin, end + hold))
    return out


def placed(track: PlacedTrack, begin: float, end: float) -> Stretches:
    """A stretch of a recording where a track shows it on the timeline: as often as it is looped.

    Parameters
    ----------
    track
        The track.
    begin
        Where it begins, in seconds of the recording.
    end
        Where it ends.
    """
    first, last = max(begin, track.in_s), min(end, track.out_s)
    if last <= first:
        return []
    period = max(track.out_s - track.in_s, 1 / RATE)
    turns = int(np.ceil(track.length_s / period - 1e-9))
    stop = track.at_s + track.length_s
    shifted = [track.at_s - track.in_s + number * period for number in range(turns)]
    return [(first + by, min(last + by, stop)) for by in shifted if first + by < stop]


def ducked_db(
    tracks: Sequence[PlacedTrack], ducking: Ducking, recordings: Mapping[str, Analysis]
) -> Callable[[Values], Values]:
    """The gain in dB that ducking gives a bed, at times in seconds of the timeline: 0 to minus its depth.

    Parameters
    ----------
    tracks
        All tracks.
    ducking
        The bed's.
    recordings
        Analyses by content hash.
    """
    there = ramps(voiced(tracks, ducking, recordings), ducking.attack_ms / 1000, ducking.release_ms / 1000)
    return lambda times: -ducking.depth_db * there(times)
