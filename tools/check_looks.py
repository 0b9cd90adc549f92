"""`make looks`: every look that ships with eight recordings in four frames, judged, and a sheet of them as PNG.

Usage: check_looks.py SHEET [LOOK ...]. Ends with 1 where something was found.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from itertools import product
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import soundfile
from numpy.typing import NDArray

import velvetdrum.looks.shelf  # noqa: F401  (makes the looks known)
from velvetdrum.audio.analysis import Analysis, is_current
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.deliver.checks.flashes import FlashMeter
from velvetdrum.demo.pictures import lamp_svg
from velvetdrum.looks.open_places import Filling, filled
from velvetdrum.looks.project_colours import LEAST_CONTRAST, contrast
from velvetdrum.looks.shelf_look import LOOKS
from velvetdrum.picture.frame.contrast import pale_layers
from velvetdrum.picture.frame.handles import handles, misfits
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.layers.logo import Logo
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.text.lettering import Lettered
from velvetdrum.scene.document import Document, new_track, parse
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import bar_heights

RATE = 48_000
FRAMES_SEEN = ("wide", "square", "tall", "portrait")
LEAST_LUMINANCE = 0.03
LEAST_MOVEMENT = 0.4
"""Mean difference in levels between two frames a third of a second apart, while it sounds."""
MOST_PINNED = 0.01
Samples = NDArray[np.float64]
MOST_ADDS = 120.0
"""What a frame at 1080 lines may cost, in times `cv2.add`: twice the goal for the dearest of the demo's scenes."""
WARM_FRAMES, COST_FRAMES = 4, 9
LONG_TITLE = "The long way home from the harbour"


def _time(seconds: float) -> Samples:
    return np.arange(round(seconds * RATE)) / RATE


def _song(seconds: float = 12.0) -> Samples:
    """A kick on every half second, a lead in notes, hats; quieter in the middle."""
    time = _time(seconds)
    noise = np.random.default_rng(7).standard_normal(len(time))
    since = time % 0.5
    kick = np.sin(2 * np.pi * (52 * since + 2.0 * (1 - np.exp(-since * 30)))) * np.exp(-since * 11) * 0.6
    hats = noise * np.exp(-((time + 0.25) % 0.5) * 70) * 0.12
    note = 220.0 * 2 ** ((np.floor(time * 2) * 7 % 12) / 12)
    lead = sum(np.sin(2 * np.pi * note * n * since) / n for n in range(1, 9)) * np.exp(-since * 3) * 0.12
    loud = np.where((time > seconds * 0.4) & (time < seconds * 0.55), 0.15, 1.0)
    return (kick + hats + lead) * loud


def _solo() -> Samples:
    time = _time(12.0)
    since = time % 0.9
    hz = 196.0 * 2 ** ((np.floor(time / 0.9) * 5 % 12) / 12)
    tone = sum(np.sin(2 * np.pi * hz * n * since) / n for n in range(1, 25)) * np.exp(-since * 1.6)
    return 0.03 * tone + 0.0002 * np.random.default_rng(5).standard_normal(len(time))


def _speech() -> Samples:
    time = _time(12.0)
    noise = np.random.default_rng(3).standard_normal(len(time))
    pitch = 120.0 + 25 * np.sin(2 * np.pi * 0.37 * time)
    phase = 2 * np.pi * np.cumsum(pitch) / RATE
    buzz = sum(np.sin(n * phase) / (1 + abs(n - 5) + abs(n - 14) / 3) for n in range(1, 40))
    swing = 3.0 * time + 0.7 * np.sin(2 * np.pi * 0.23 * time)
    syllables = np.maximum(np.sin(2 * np.pi * swing), 0) ** 0.7 * (time % 3.1 < 2.4)
    return 0.15 * buzz * syllables + 0.012 * noise * (0.1 + syllables)


def _no_beat() -> Samples:
    time = _time(12.0)
    noise = np.random.default_rng(11).standard_normal(len(time))
    return 0.1 * np.convolve(noise, np.ones(24) / 12, "same") * (0.3 + np.sin(np.pi * time / 12) ** 2)


RECORDINGS: dict[str, Callable[[], Samples]] = {
    "song": _song,
    "dense master": lambda: np.tanh(_song() * 7) * 0.96,
    "quiet solo": _solo,
    "speech": _speech,
    "loop of 8 s": lambda: _song(8.0),
    "near silence": lambda: _song() * 2e-3,
    "very loud": lambda: np.clip(_song() * 5, -1, 1),
    "no beat": _no_beat,
}


@dataclass(frozen=True)
class Pair:
    """A look with a recording in a frame."""

    look: str
    recording: str
    frame: str


def pairs(looks: list[str] | None = None) -> list[Pair]:
    """All of them, or those of some looks."""
    return [Pair(*each) for each in product(looks or LOOKS, RECORDINGS, FRAMES_SEEN)]


@cache
def sounding(folder: str, name: str) -> AudioRange:
    """A recording, analysed into a folder once."""
    place = Path(folder) / name.replace(" ", "-")
    if not is_current(place):
        samples = RECORDINGS[name]()
        path = Path(folder) / f"{name.replace(' ', '-')}.wav"
        soundfile.write(path, samples, RATE, subtype="FLOAT")
        analyse(path, place, key=name)
    recording = Analysis(place)
    return AudioRange(recording, 0.0, recording.facts.duration_s)


def made(pair: Pair, use: AudioRange, logo: str) -> Document:
    """The look with all its places filled that need no film."""
    section = LOOKS[pair.look].document["look"]
    kinds = {place["kind"] for place in section["places"]}
    cue = {"start_s": 1.0, "end_s": use.out_s - 1.0, "text": "Small boats, please keep your lamps lit.", "speaker": ""}
    filling = Filling(
        title=LONG_TITLE,
        artist="The Quay Band",
        speaker="Harbour office",
        cover=logo if "cover" in kinds else "",
        cues={"a": cue} if "words" in kinds else {},
    )
    return filled(
        LOOKS[pair.look].document, filling, new_track("0" * 64, "sound.wav", use.out_s), use, FRAMES[pair.frame]
    )


def findings(pair: Pair, use: AudioRange, media: dict[str, str]) -> list[str]:
    """What is wrong with a look in a frame, as sentences; none where it can be posted."""
    document = made(pair, use, next(iter(media)))
    project = parse(document)
    size = project.frame.scaled_to(192)
    view, canvas = ProjectView(project, use, media), Canvas(size.width, size.height)
    length = project.length_s

    def drawn(seconds: float) -> NDArray[np.float64]:
        at = Fraction(min(max(seconds, 0.0), length - 0.05)).limit_denominator(1000)
        view.at(at, size).draw_frame(canvas)
        return canvas.pixels[..., :3].astype(float)

    result = list(_off(document, use, media, length / 3))
    for placed, ratio, seconds in pale_layers(project, use, media, 0.5, length - 0.5):
        letters: Any = placed.layer
        if letters.plate != "none":
            # On a plate of its own it is read against that.
            ratio = contrast(letters.plain, letters.plate_colour)
        if ratio < LEAST_CONTRAST:
            result.append(f"{placed.name} has a contrast of {ratio:.1f} at {seconds:.1f} s.")
    result += _pinned(document, view, use, length)
    for name, seconds in (("first", 0.0), ("last", length)):
        light = float(drawn(seconds) @ [0.0722, 0.7152, 0.2126] @ np.ones(size.width) @ np.ones(size.height))
        light /= 255.0 * size.width * size.height
        if light < LEAST_LUMINANCE:
            result.append(f"The {name} frame is dark: {light:.1%}.")
    moved = [np.abs(drawn(at) - drawn(at + 0.33)).mean() for at in (length * 0.2, length * 0.3, length * 0.8)]
    if max(moved) < LEAST_MOVEMENT:
        result.append(f"It hardly moves: {max(moved):.2f} levels.")
    for layer in document["layers"]:
        empty = [name for name, s in LAYER_KINDS[layer["kind"]].settings.items() if s.media in ("picture", "footage")]
        shown = layer["settings"].get("form", "picture") == "picture"
        if layer["kind"] in ("logo", "picture", "footage") and shown and not layer["settings"][empty[0]]:
            result.append(f"{layer['name']} is empty.")
    if pair.frame == "wide":
        meter = FlashMeter()
        begin = use.recording.loudest_and_quietest_s(0.0, use.out_s)[1] - 1.5
        for number in range(90):
            meter.feed(np.ascontiguousarray(drawn(begin + number / 30).astype(np.uint8)), number / 30)
        result += [f"It flashes {span.per_s:.1f} times a second ({span.kind})." for span in meter.spans()]
    return result


def _off(document: Document, use: AudioRange, media: dict[str, str], seconds: float) -> Iterator[str]:
    """Letters and logos that lie outside of the frame, or under what a channel lays over it."""
    project = parse(document)
    at = Fraction(seconds).limit_denominator(1000)
    kept = {placed.name for placed in project.layers if isinstance(placed.layer, Lettered | Logo)}
    boxes = handles(project, use, at, project.frame, media)
    for sentence in misfits(project, boxes, project.frame):
        if any(sentence.startswith(f"{name} lies") for name in kept):
            yield sentence


def _pinned(document: Document, view: ProjectView, use: AudioRange, length: float) -> Iterator[str]:
    times = np.arange(0, length, 1 / 30)
    for signal in document["signals"]:
        if signal["kind"] == "pickup" and signal["settings"]["detector"] != "hits":
            values = view.signals.values(signal["id"], times)
            if (values >= 0.999).mean() > 0.1 or values.max() < 0.85:
                yield f"{signal['name']} reaches {values.max():.2f} and sticks in {(values >= 0.999).mean():.0%}."
    for layer in document["layers"]:
        own: Any = LAYER_KINDS[layer["kind"]](layer["settings"])
        if not hasattr(own, "reads"):
            continue
        tops = [bar_heights(use, own.reads, Fraction(n, 15)).max() for n in range(int(length * 15))]
        share = float((np.array(tops) >= 0.999).mean())
        if share > MOST_PINNED + 1 / len(tops):
            yield f"{layer['name']} sticks in {share:.1%} of the frames."


def tile(pair: Pair, use: AudioRange, media: dict[str, str], height: int = 150) -> NDArray[np.uint8]:
    """A small picture of a look at its loudest moment."""
    project = parse(made(pair, use, next(iter(media))))
    size = project.frame.scaled_to(max(round(height * project.frame.width / project.frame.height) // 2 * 2, 64))
    canvas = Canvas(size.width, size.height)
    loudest = use.recording.loudest_and_quietest_s(0.0, use.out_s)[1]
    ProjectView(project, use, media).at(Fraction(loudest).limit_denominator(1000), size).draw_frame(canvas)
    return np.asarray(cv2.resize(canvas.pixels[..., :3], (round(height * size.width / size.height), height)))


def cost(look: str, use: AudioRange, media: dict[str, str]) -> float:
    """Processor time of a look's frame at 1080 lines, in times `cv2.add` of two of its size: the median of a few."""
    project = parse(made(Pair(look, "song", "wide"), use, next(iter(media))))
    size = FRAMES["wide"]
    view, canvas = ProjectView(project, use, media), Canvas(size.width, size.height)
    one, other = (np.full((size.height, size.width, 4), 7, np.uint8) for _ in range(2))
    spent, adds = [], []
    for number in range(WARM_FRAMES + COST_FRAMES):
        begin = time.process_time()
        view.at(Fraction(90 + number, 30), size).draw_frame(canvas)
        middle = time.process_time()
        cv2.add(one, other, dst=other)
        if number >= WARM_FRAMES:
            spent.append(middle - begin)
            adds.append(time.process_time() - middle)
    return float(np.median(spent) / np.median(adds))


def _judged(folder: str, logo: str, pair: Pair) -> tuple[Pair, list[str], NDArray[np.uint8]]:
    use, media = sounding(folder, pair.recording), {"a" * 64: logo}
    return pair, findings(pair, use, media), tile(pair, use, media)


def main(sheet: str, looks: list[str]) -> int:
    """Judge all pairs; says what was found, and writes the sheet."""
    found = 0
    cv2.setNumThreads(1)
    with tempfile.TemporaryDirectory() as folder, ProcessPoolExecutor(2) as pool:
        logo = Path(folder) / "lamp.svg"
        logo.write_text(lamp_svg())
        for name in RECORDINGS:
            sounding(folder, name)
        rows: dict[str, list[NDArray[np.uint8]]] = {}
        wanted = pairs(looks or None)
        results = [pool.submit(_judged, folder, str(logo), pair) for pair in wanted]
        for result in results:
            pair, sentences, picture = result.result()
            rows.setdefault(pair.look, []).append(picture)
            for sentence in sentences:
                found += 1
                print(f"{pair.look:16} {pair.recording:13} {pair.frame:9} {sentence}", flush=True)
        for look in dict.fromkeys(pair.look for pair in wanted):
            adds = cost(look, sounding(folder, "song"), {"a" * 64: str(logo)})
            print(f"{look:16} a frame at 1080 lines costs {adds:4.0f} times cv2.add")
            if adds > MOST_ADDS:
                found += 1
                print(f"{look:16} costs more than {MOST_ADDS:.0f} times cv2.add")
    strips = [np.hstack(row) for row in rows.values()]
    width = max(strip.shape[1] for strip in strips)
    cv2.imwrite(sheet, np.vstack([np.pad(s, ((0, 0), (0, width - s.shape[1]), (0, 0))) for s in strips]))
    print(f"{len(wanted)} pairs, {found} findings; {sheet}")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1], sys.argv[2:]))
