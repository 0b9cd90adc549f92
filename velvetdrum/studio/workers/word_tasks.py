"""What worker processes do for the Words room. Arguments and results are plain values."""

from __future__ import annotations

import secrets
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.analysis import Analysis
from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.limits.process import limited_time
from velvetdrum.picture.frame.contrast import cue_contrasts, cue_places
from velvetdrum.scene.cue_tracks import stored_cue
from velvetdrum.scene.document import Document
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.detect import READ_RATE, DetectedBand, level_db
from velvetdrum.studio.workers.notes import teller
from velvetdrum.studio.workers.scenes import Scene, project_of
from velvetdrum.words.alignment.aligner import align
from velvetdrum.words.alignment.pieces import pauses, speech_samples
from velvetdrum.words.cue_files import read_cues
from velvetdrum.words.cue_groups import CueShape, Token, cues_of
from velvetdrum.words.cues import Cue
from velvetdrum.words.taps import tapped_cues
from velvetdrum.words.untimed import guessed_lines

_STILL_S, _PER_S = 120.0, 3.0


def align_words(folder: str, wanted: dict[str, Any], notes: str) -> dict[str, Any]:
    """Align a text to a stretch of a recording under a time limit: cues by new ids, what was left open, and whether it
    is a guess. Progress and stopping as in `tasks.analyse_sound`. Raises CueError."""
    recording = Analysis(Path(folder))
    start, end = float(wanted["start_s"]), min(float(wanted["end_s"]), recording.facts.duration_s)
    with limited_time(_STILL_S + _PER_S * (end - start)):
        result = align(
            recording.pcm,
            wanted["text"],
            language=wanted["language"],
            start_s=start,
            end_s=end,
            song=wanted["song"],
            progress=teller(notes),
        )
    tokens = [Token(item.token, item.word, item.line) for item in result.tokens]
    lines = {"chars": wanted["chars"], "lines": wanted["lines"], "language": wanted["language"]}
    shape = CueShape(wanted["by"], pause_s=wanted["pause_s"], **lines)
    cues = cues_of(tokens, shape, speaker=wanted["speaker"])
    return {
        "cues": with_ids(cues),
        "words": len(tokens),
        "lost": sum(item.word is None for item in result.tokens),
        "open": result.open,
        "guess": result.guess,
        "rough": result.rough,
    }


def with_ids(cues: list[Cue]) -> dict[str, Document]:
    """Cues in their stored form, each under an id of its own."""
    return {secrets.token_hex(4): stored_cue(cue) for cue in cues if cue.end_s > cue.start_s}


def read_cue_file(data: bytes, name: str, language: str = "", encoding: str = "") -> dict[str, Any]:
    """The cues of a file by new ids, their language, what was repaired, and in which other encodings it may be. Raises
    CueError."""
    read = read_cues(data, name, language=language, encoding=encoding)
    return {
        "cues": with_ids(list(read.found.cues)),
        "language": read.found.language,
        "repairs": list(read.repairs),
        "readings": [asdict(reading) for reading in read.readings],
    }


def guess_lines(folder: str, start_s: float, end_s: float, song: bool) -> dict[str, Document]:
    """Empty cues between the pauses of a stretch of a recording, by new ids."""
    return with_ids(guessed_lines(Analysis(Path(folder)).pcm, start_s, end_s, song=song))


def find_pauses(folder: str, start_s: float, end_s: float) -> list[tuple[float, float]]:
    """The pauses of a stretch of a recording, in its seconds."""
    samples = speech_samples(Analysis(Path(folder)).pcm, start_s, end_s)
    return [(round(start_s + pause.start_s, 3), round(start_s + pause.end_s, 3)) for pause in pauses(samples)]


def check_places(scene: Scene, sources: Sources | None, track: str) -> list[tuple[str, str]]:
    """Cues, by their ids, that take more lines than their layer allows, reach out of a frame, or lie under what
    channels lay over it; each with a sentence."""
    project = project_of(scene)
    return cue_places(project, used_part(project, sources), sources.small if sources else None, track)


def check_contrast(scene: Scene, sources: Sources | None, track: str) -> dict[str, dict[str, Any]]:
    """For every cue of a track that a layer shows: the least contrast of its text with what is behind it, when that is,
    and which layer shows it."""
    project = project_of(scene)
    media = sources.small if sources else None
    return cue_contrasts(project, used_part(project, sources), media, track)


def place_taps(folder: str, in_s: float, out_s: float, wanted: dict[str, Any]) -> dict[str, Document]:
    """Cues of lines from taps (`text`, `taps_s`, `delay_s`, `by_word`), by new ids; words within a line go to the
    attacks of the voice near them."""
    attacks = hits_in_voice(AudioRange(Analysis(Path(folder)), in_s, out_s)) + in_s
    cues = tapped_cues(
        wanted["text"].split("\n"),
        wanted["taps_s"],
        delay_s=wanted["delay_s"],
        end_s=out_s,
        by_word=wanted["by_word"],
        attacks_s=attacks,
    )
    return with_ids(cues)


def hits_in_voice(use: AudioRange) -> NDArray[np.float64]:
    """Strokes in the voice's band, in seconds of the used part."""
    levels = level_db(use, DetectedBand("mix", 200.0, 4000.0, 0.1, "hits"), use.out_s - use.in_s)
    high = float(np.percentile(levels, 99))
    result, _ = scipy.signal.find_peaks(levels, height=high - 24.0, distance=int(0.08 * READ_RATE), prominence=6.0)
    return np.asarray(result / READ_RATE, np.float64)
