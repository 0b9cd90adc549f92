"""The sum of tracks, block by block: exact in float64, from any sample on, whatever the length."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.decode import RATE, decode_blocks, probe, stereo
from velvetdrum.audio.filters import Samples
from velvetdrum.mix.ducking import ducked_db
from velvetdrum.mix.placed_track import MixSpec, PlacedTrack
from velvetdrum.mix.voice import looked_ahead, made_even, warm_up

Values = NDArray[np.float64]

BLOCK = 10 * RATE
_STEP = 48
"""Samples between two readings of a gain that is known as a curve: 1 ms."""


@dataclass(frozen=True)
class SourceFiles:
    """Where the recordings of a mix lie, as paths by content hash: the originals, and the folders of their analyses."""

    originals: Mapping[str, str]
    analyses: Mapping[str, str]

    def recording(self, key: str) -> Analysis:
        """The analysis of a recording.

        Parameters
        ----------
        key
            Its content hash.
        """
        return Analysis(Path(self.analyses[key]))


class Mixdown:
    """What a mix sounds like: from the originals, or, `heard` along, from the samples of 16 bit that the analyses keep,
    which are at hand at once."""

    def __init__(self, spec: MixSpec, files: SourceFiles, *, heard: bool = False) -> None:
        self.spec, self.files, self.heard = spec, files, heard
        self.tracks = [track for track in spec.tracks if track.heard and track.media in files.originals]

    @cached_property
    def recordings(self) -> dict[str, Analysis]:
        """The analyses of all recordings that are here."""
        return {key: self.files.recording(key) for key in self.spec.media if key in self.files.analyses}

    @cached_property
    def channels(self) -> int:
        """One where all tracks are mono and in the middle, else two."""
        mono = all(self.recordings[track.media].pcm.shape[1] == 1 and not track.pan for track in self.tracks)
        return 1 if self.tracks and mono else 2

    @property
    def samples(self) -> int:
        """From the begin of the timeline to the end of the last track."""
        return max((track.span[1] for track in self.tracks), default=0)

    def blocks(self, first: int = 0, count: int | None = None, block: int = BLOCK) -> Iterator[Samples]:
        """Samples of the timeline from one on, as blocks of shape (channels, n); silence where no track is.

        Parameters
        ----------
        first
            The first sample.
        count
            How many; to the end of the last track without it.
        block
            Samples a piece, at the most.

        Raises
        ------
        SoundError
            Where a recording can't be read.
        """
        left = max(self.samples - first, 0) if count is None else count
        lanes = [_Lane(track, self, first, left) for track in self.tracks]
        at = first
        while left > 0:
            size = min(block, left)
            total = np.zeros((self.channels, size))
            for lane in lanes:
                lane.add_to(total, at)
            yield total.astype(np.float32)
            at, left = at + size, left - size


class _Lane:
    """One track of a mix, read on and on."""

    def __init__(self, track: PlacedTrack, mix: Mixdown, first: int, count: int) -> None:
        self.track, self.mix = track, mix
        begin, end = track.span
        self.first, self.last = max(begin, first), min(end, first + count)
        self.pieces = self._pieces()
        self.held: list[Samples] = []
        self.curve = gain_curve_db(track, mix.spec.tracks, mix.recordings)

    def add_to(self, total: Values, at: int) -> None:
        """Add what sounds of it from sample `at` of the timeline on."""
        low, high = max(self.first, at), min(self.last, at + total.shape[1])
        if high <= low:
            return
        samples = self._take(high - low).astype(np.float64) * self._gain(low, high)
        total[:, low - at : high - at] += _spread(samples, self.track.pan, total.shape[0])

    def _take(self, count: int) -> Samples:
        size = sum(piece.shape[1] for piece in self.held)
        while size < count:
            piece = next(self.pieces, None)
            if piece is None:
                # A file that turned out shorter than it was.
                piece = np.zeros((self.held[0].shape[0] if self.held else 1, count - size), np.float32)
            self.held.append(piece)
            size += piece.shape[1]
        joined = np.concatenate(self.held, axis=1)
        self.held = [joined[:, count:]]
        return joined[:, :count]

    def _pieces(self) -> Iterator[Samples]:
        """Its samples from `first` to `last`, turn after turn where it is looped."""
        start, size = self.track.cut
        offset, left = self.first - self.track.span[0], self.last - self.first
        while left > 0:
            at = offset % size
            count = min(size - at, left)
            yield from self._cut(start + at, count)
            offset, left = offset + count, left - count

    def _cut(self, first: int, count: int) -> Iterator[Samples]:
        """`count` samples of the recording from one on; silence beyond its ends."""
        recording = self.mix.recordings.get(self.track.media)
        chain = self.track.voice
        warm = 0 if chain.idle or recording is None else warm_up(first)

        def kept() -> Iterator[Samples]:
            assert recording is not None
            left = count + warm + looked_ahead(chain)
            last = first - warm + left
            inside = np.asarray(recording.pcm[first - warm : last], np.float32).T / 32767
            yield np.pad(inside, ((0, 0), (0, left - inside.shape[1])))

        def read() -> Iterator[Samples]:
            path = Path(self.mix.files.originals[self.track.media])
            names = probe(path).channel_names
            left = count + warm + (looked_ahead(chain) if recording else 0)
            whole = recording.samples if recording else None
            for block in decode_blocks(path, first=first - warm, whole=whole, block=min(BLOCK, left)):
                piece = stereo(block, names)[:, :left]
                left -= piece.shape[1]
                yield piece
                if left <= 0:
                    return
            while left > 0:
                size = min(left, BLOCK)
                left -= size
                yield np.zeros((min(len(names), 2), size), np.float32)

        samples = kept() if self.mix.heard and recording is not None else read()
        if chain.idle or recording is None:
            return samples
        return made_even(samples, first - warm, warm, recording, chain)

    def _gain(self, low: int, high: int) -> Values:
        """Linear gains of samples of the timeline."""
        track = self.track
        begin, end = track.span
        result = np.full(high - low, 10 ** (track.gain_db / 20))
        if self.curve:
            coarse = np.arange(low // _STEP, -(-high // _STEP) + 1) * _STEP
            level = self.curve(coarse / RATE)
            result *= np.interp(np.arange(low, high), coarse, 10 ** (level / 20))
        places = np.arange(low, high)
        rising, falling = (min(round(length * RATE), end - begin) for length in (track.fade_in_s, track.fade_out_s))
        if rising and low < begin + rising:
            result *= faded(np.minimum((places - begin + 0.5) / rising, 1.0), track.fade)
        if falling and high > end - falling:
            result *= faded(np.minimum((end - places - 0.5) / falling, 1.0), track.fade)
        return result


def gain_curve_db(
    track: PlacedTrack, tracks: Sequence[PlacedTrack], recordings: Mapping[str, Analysis]
) -> Callable[[Values], Values] | None:
    """What points and voices make of a track's gain, in dB, at times in seconds of the timeline; None where nothing
    moves it.

    Parameters
    ----------
    track
        The track.
    tracks
        All tracks.
    recordings
        Analyses by content hash.
    """
    curves: list[Callable[[Values], Values]] = []
    if track.points:
        times, gains = np.array(track.points).T
        curves.append(lambda at: np.interp(at, times, gains))
    if track.ducking:
        curves.append(ducked_db(tracks, track.ducking, recordings))
    if not curves:
        return None
    return lambda at: np.sum([curve(at) for curve in curves], axis=0)


def faded(places: Values, fade: str) -> Values:
    """Gains of a fade at places of it, 0 to 1. Equal power: the squares of the gains of a fade in and of one out add
    up to 1.

    Parameters
    ----------
    places
        How far it is, 0 to 1.
    fade
        Its curve, of `FADES`.
    """
    if fade == "linear":
        return places
    if fade == "power":
        return np.asarray(np.sin(places * np.pi / 2))
    if fade == "smooth":
        return np.asarray(places * places * (3.0 - 2.0 * places))
    # 60 dB, evenly; its very begin is silence.
    return np.where(places > 0.0, 10 ** (3.0 * (places - 1.0)), 0.0)


def _spread(samples: Values, pan: float, channels: int) -> Values:
    """Samples of one or two channels on as many as the sum has. A mono track keeps its power wherever it stands (the
    law of sine and cosine, 0 dB in the middle); of a stereo one the other side is turned down (balance)."""
    if channels == 1:
        return samples
    both = np.repeat(samples, 2, axis=0) if samples.shape[0] == 1 else samples
    if not pan:
        return both
    if samples.shape[0] == 1:
        angle = (pan + 1.0) * np.pi / 4
        left, right = np.sqrt(2.0) * np.cos(angle), np.sqrt(2.0) * np.sin(angle)
    else:
        left, right = min(1.0, 1.0 - pan), min(1.0, 1.0 + pan)
    return both * np.array([[left], [right]])
