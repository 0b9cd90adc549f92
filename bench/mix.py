"""Several tracks as one sound, its parts, and pitch: beside the time that the sound takes."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import numpy as np
import soundfile

from bench.rows import Row
from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.audio.clicks import click_track
from velvetdrum.audio.decode import RATE
from velvetdrum.audio.pitch import HOPS, _found
from velvetdrum.audio.speech import syllable_onsets
from velvetdrum.mix.mix_analysis import analyse_mix
from velvetdrum.mix.mixdown import Mixdown, SourceFiles
from velvetdrum.mix.placed_track import Ducking, MixSpec, PlacedTrack, VoiceChain
from velvetdrum.mix.separation import separated


def bench_mix(recording: Analysis) -> Iterator[Row]:
    """The sum of four tracks, its analysis, the percussive part and pitch, each beside a 20th of the length."""
    samples = np.asarray(recording.pcm[:], np.float32).T / 32767
    seconds = samples.shape[1] / RATE
    with tempfile.TemporaryDirectory() as folder:
        files, keys = {}, ("voice", "bed", "keys", "bass")
        analyses = {}
        for key in keys:
            path = Path(folder) / f"{key}.wav"
            soundfile.write(path, samples.T, RATE, subtype="PCM_16")
            files[key] = str(path)
            analyses[key] = str(analyse(path, Path(folder) / key, key=key).folder)
        sources = SourceFiles(files, analyses)
        ducking = Ducking(12.0, -24.0, 150.0, 500.0, 600.0, ("voice",))
        tracks = [PlacedTrack(key, key, 0.0, 0.0, seconds, seconds, gain_db=-12.0) for key in keys[2:]]
        voice = PlacedTrack("voice", "voice", 0.0, 0.0, seconds, seconds, voice=VoiceChain(80.0, 1.0, 0.5, 0.5))
        bed = PlacedTrack("bed", "bed", 0.0, 0.0, seconds, seconds, ducking=ducking, fade_in_s=1.0)
        spec = MixSpec((voice, bed, *tracks))
        mix = _processor_s(lambda: list(Mixdown(spec, sources).blocks()))
        yield Row(f"sum of four tracks of {seconds:.0f} s, one ducked, one made even", mix, "s", seconds / 20, "a 20th")
        listened = _processor_s(lambda: analyse_mix(spec, sources, Path(folder) / "sum"))
        yield Row("the same, analysed", listened, "s", seconds / 10, "a 10th of its length")
        pieces = []
        for second in range(3, int(seconds) - 3, 4):
            piece = Mixdown(spec, sources, heard=True).blocks(second * RATE, 2 * RATE)
            pieces.append(_processor_s(partial(list, piece)))
        yield Row("2 s of it, heard along, median", float(np.median(pieces)), "s", 0.2, "a tenth of the 2 s")
    part = _processor_s(lambda: list(separated(iter(np.array_split(samples, 20, axis=1)), "percussive")))
    yield Row(f"percussive part of {seconds:.0f} s", part, "s", seconds / 20, "a 20th of its length")
    count = recording.samples * HOPS // RATE + 1
    yield Row(f"pitch of {seconds:.0f} s", _processor_s(lambda: _found(recording, count)), "s", seconds / 20, "a 20th")
    for name, work in (("syllables", syllable_onsets), ("clicks", click_track)):
        work.forget()
        spent = _processor_s(partial(work, recording))
        yield Row(f"{name} of {seconds:.0f} s", spent, "s", seconds / 200, "a 200th of its length")


def _processor_s(work: Callable[[], object]) -> float:
    begin = time.process_time()
    work()
    return time.process_time() - begin
