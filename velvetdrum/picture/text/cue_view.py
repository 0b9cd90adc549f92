"""The cues that a layer shows at a time, and how far their words have been said."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.text.drawn_text import WordTimes
from velvetdrum.picture.typesetting.layout import words_of
from velvetdrum.scene.cue_tracks import CueTrack
from velvetdrum.words.cues import Cue

_EDGE_S = 1e-6


@dataclass(frozen=True)
class CueMoment:
    """A cue track at a time, in seconds of the recording."""

    track: CueTrack
    time_s: float

    @classmethod
    def of(cls, at: RenderContext, ident: str) -> CueMoment | None:
        """The cue track that a layer shows, as it is at a time; None without one."""
        track = at.project.cue_track(ident) if at.project else None
        return cls(track, float(at.time) + at.project.begin_s) if track and track.row and at.project else None

    @property
    def index(self) -> int:
        """Place of the cue that has begun last; -1 before the first."""
        return self.track.index_at(self.time_s)

    def cue(self, place: int) -> Cue | None:
        """The cue at a place of the row; None beyond it."""
        return self.track.row[place] if 0 <= place < len(self.track.row) else None

    def stands(self, cue: Cue) -> bool:
        """True from the cue's start on, no more at its end."""
        return cue.start_s <= self.time_s + _EDGE_S < cue.end_s


def word_spans(cue: Cue) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """When each word of a cue begins and ends, in seconds of the recording. Words without times of their own share the
    cue's by their letters."""
    spans = words_of(cue.text)
    if not spans:
        return np.zeros(0), np.zeros(0)
    tokens = [cue.text[begin:end] for begin, end in spans]
    if [word.text for word in cue.words] == tokens:
        begins = np.array([word.start_s for word in cue.words])
        ends = np.array([word.end_s for word in cue.words])
    else:
        way = np.concatenate([[0.0], np.cumsum([len(token) + 1.0 for token in tokens])])
        way = cue.start_s + (cue.end_s - cue.start_s) * way / way[-1]
        begins, ends = way[:-1], way[1:]
    return begins, ends


def word_times(cue: Cue, time_s: float) -> WordTimes:
    """How far each word of a cue has been said."""
    begins, ends = word_spans(cue)
    if not len(begins):
        return WordTimes(np.zeros(0), -1)
    said = np.clip((time_s + _EDGE_S - begins) / np.maximum(ends - begins, 1e-3), 0.0, 1.0)
    begun = np.flatnonzero(begins <= time_s + _EDGE_S)
    now = int(begun[-1]) if len(begun) and time_s < cue.end_s else -1
    return WordTimes(said, now)


def speakers_of(track: CueTrack) -> list[str]:
    """Who speaks in a cue track, in the order in which they come."""
    return list(dict.fromkeys(cue.speaker for cue in track.row if cue.speaker))
