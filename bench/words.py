"""What words cost: a text at rest, letters in motion, a lyric with its spoken word, and finding the times of words."""

from __future__ import annotations

import random
import statistics
import time
from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from bench.rows import Row
from tests.words.speech import speak
from velvetdrum.audio.analysis import Analysis
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.typesetting.specimens import shipped
from velvetdrum.scene.document import Document, new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.words.alignment.aligner import align

SMALL, LARGE = FrameSize(640, 360), FrameSize(1920, 1080)
SIXTY = "sixty moving letters are drawn in this one line of text, abcdefghijk"
LINE = "The night ferry leaves at ten past nine, from the east pier"
_FRAMES, _WARM = 60, 6
_WHO = ("the ferry", "a captain", "our neighbour", "the old keeper", "every sailor", "my sister", "a gull", "the baker")
_DOES = ("leaves", "carries", "paints", "forgets", "watches", "repairs", "opens", "counts", "follows", "remembers")
_WHAT = ("the lantern", "seven boxes", "a wooden boat", "the narrow street", "fresh bread", "two letters", "the bridge")
_WHEN = ("after midnight", "before breakfast", "in the rain", "with great care", "on Sunday", "for the third time")


def bench_words(recording: Analysis) -> Iterator[Row]:
    """Layers of words beside a backdrop alone, and alignment beside its limit."""
    use = AudioRange(recording, 0.0, recording.facts.duration_s)
    still = _frame_ms(use, [new_layer("shape", form="rectangle", width=60.0, height=10.0)], LARGE)
    at_rest = _frame_ms(use, [new_layer("text", text=SIXTY, family="inter")], LARGE)
    yield Row("a text at rest, 1920x1080", at_rest, "ms", max(still, 0.3) * 1.5, "1.5 times a still shape")
    for what, settings in (
        ("by the spectrum", {"lift": 80.0}),
        ("rising in one by one", {"enter": "rise", "each_s": 3.0, "stagger_s": 0.04}),
    ):
        result = _frame_ms(use, [new_layer("text", text=SIXTY, family="inter", **settings)], LARGE)
        yield Row(f"60 letters {what}, 1920x1080", result, "ms", 6.0, "6 ms")
    for style, highlight in (("line", "sweep"), ("line", "word"), ("line", "plate"), ("roll", "sweep")):
        layer = new_layer("lyrics", style=style, highlight=highlight, shadow=60.0)
        result = _frame_ms(use, [layer], SMALL, cues=True)
        yield Row(f"a lyric, {style}, {highlight}, 640x360", result, "ms", 4.0, "4 ms")
    begin = time.perf_counter()
    shipped()
    yield Row(
        "names of all families as outlines, at first", (time.perf_counter() - begin) * 1000, "ms", 300.0, "300 ms"
    )
    text = _talk(200)
    speech = speak(text, "en-us")
    seconds = speech.pcm.shape[1] / 48_000
    begin = time.perf_counter()
    found_words = align(speech.pcm, text)
    took = time.perf_counter() - begin
    late = [
        abs(found_words.tokens[place].word.start_s - at) * 1000  # type: ignore[union-attr]
        for place, at in speech.starts.items()
        if found_words.tokens[place].word
    ]
    yield Row(f"words of {seconds / 60:.1f} min aligned, to ten minutes", took * 600 / seconds, "s", 60.0, "60 s")
    yield Row("starts of words, median", float(np.median(late)), "ms", 40.0, "40 ms")
    yield Row("starts of words, 95th percentile", float(np.percentile(late, 95)), "ms", 150.0, "150 ms")


def _frame_ms(use: AudioRange, layers: list[Document], size: FrameSize, *, cues: bool = False) -> float:
    """Median milliseconds of frames, less those of the backdrop alone."""
    both = []
    for more in ([], layers):
        document = new_document("Bench", frame=LARGE, rate=Fraction(30), layers=[new_layer("backdrop"), *more])
        document["length_s"] = 20.0
        if cues:
            rows = {f"c{n}": {"start_s": 4.0 * n, "end_s": 4.0 * n + 3.8, "text": LINE} for n in range(5)}
            document["cue_tracks"] = {"t": {"name": "T", "language": "en", "cues": rows}}
        view, canvas = ProjectView(parse(document), use), Canvas(size.width, size.height)
        times = []
        for number in range(_WARM + _FRAMES):
            begin = time.perf_counter()
            view.at(Fraction(24 + number, 30), size).draw_frame(canvas)
            times.append(time.perf_counter() - begin)
        both.append(statistics.median(times[_WARM:]) * 1000)
    return max(both[1] - both[0], 0.0)


def _talk(count: int) -> str:
    """Sentences that nobody has said before."""
    chance = random.Random(3)
    rows = [" ".join(chance.choice(part) for part in (_WHO, _DOES, _WHAT, _WHEN)) for _ in range(count)]
    return " ".join(f"{row.capitalize()}." for row in rows)
