"""Draws the pictures of the manual's page on words: every design of a layer that shows words, every way in which parts
come, every way in which the spoken word stands out.

Usage: make_word_figures.py DOCS
"""

from __future__ import annotations

import sys
import tempfile
from fractions import Fraction
from importlib.resources import files
from pathlib import Path
from typing import Any

import cv2
import numpy as np

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.demo.worded import NOTICE_TEXT, OFFICE
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.text.text_motion import MOTIONS
from velvetdrum.picture.typesetting.families import FAMILIES
from velvetdrum.scene.cue_tracks import stored_cue
from velvetdrum.scene.document import Document, new_document, new_layer, new_track, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.words.alignment.aligner import align
from velvetdrum.words.cue_groups import CueShape, Token, cues_of

CELL = FrameSize(320, 180)
KINDS = ("text", "lyrics", "captions", "progress")
HIGHLIGHTS = ("none", "sweep", "word", "scale", "plate")
STYLES = ("line", "pair", "roll", "single")


class Scene:
    """The notice with its cues, seen with one layer of words."""

    def __init__(self, folder: Path) -> None:
        sound = folder / "notice.opus"
        sound.write_bytes(files("velvetdrum.demo").joinpath("harbour-notice.opus").read_bytes())
        self.recording = analyse(sound, folder / "analysis")
        result = align(self.recording.pcm, NOTICE_TEXT)
        tokens = [Token(item.token, item.word, item.line) for item in result.tokens]
        cues = cues_of(tokens, CueShape(chars=30), speaker=OFFICE)
        self.cues = {f"cue-{number}": stored_cue(cue) for number, cue in enumerate(cues)}

    def draw(self, layer: Document, at: Fraction) -> np.ndarray:
        """The layer over a plain evening at a time."""
        ground = new_layer("backdrop", colours=[{"at": 0, "colour": "#3a2547"}, {"at": 1, "colour": "#140d1c"}])
        track = new_track("0" * 64, "Harbour notice.opus", self.recording.facts.duration_s)
        document = new_document(
            "Notice", frame=FrameSize(640, 360), rate=Fraction(30), layers=[ground, layer], track=track
        )
        document["tags"] = {"title": "Evening notice", "artist": OFFICE, "date": "2026-11-26"}
        document["cue_tracks"] = {"notice": {"name": "Notice", "language": "en", "cues": self.cues}}
        document["markers"] = [{"time_s": 4.7, "text": "Ferry"}, {"time_s": 12.7, "text": "Boats"}]
        use = AudioRange(self.recording, 0.0, self.recording.facts.duration_s)
        return render(parse(document), use, at, CELL)[..., :3].copy()


def sheet(cells: list[tuple[str, np.ndarray]], path: Path, across: int = 3) -> list[str]:
    """Pictures side by side, as one file; gives their names in rows, for the table under it."""
    blank = np.full((CELL.height, CELL.width, 3), 17, np.uint8)
    pictures = [picture for _, picture in cells] + [blank] * (-len(cells) % across)
    rows = [np.hstack(pictures[at : at + across]) for at in range(0, len(pictures), across)]
    cv2.imwrite(str(path), np.vstack(rows), [cv2.IMWRITE_PNG_COMPRESSION, 9])
    names = [name for name, _ in cells]
    return [" · ".join(names[at : at + across]) for at in range(0, len(names), across)]


def settings_of(kind: str, name: str) -> dict[str, Any]:
    """The settings of a design by its name."""
    return next(design.settings for design in LAYER_KINDS[kind].designs if design.name == name)


def main() -> None:
    """Draw all sheets, and write their captions into the page."""
    docs = Path(sys.argv[1])
    figures = docs / "manual/figures"
    with tempfile.TemporaryDirectory() as folder:
        scene = Scene(Path(folder))
        at = Fraction(56, 10)
        designs = [
            (design.name, scene.draw(new_layer(kind, **design.settings), at))
            for kind in KINDS
            for design in LAYER_KINDS[kind].designs
        ]
        line = {"text": "Lantern Quay", "size": 17.0, "weight": 700.0, "fit": "free", "each_s": 1.2, "stagger_s": 0.09}
        motions = [
            (label, scene.draw(new_layer("text", **line, enter=name, distance=110.0), Fraction(85, 100)))
            for name, label in MOTIONS.items()
            if name != "none"
        ]
        lit = {"size": 10.0, "enter": "none"}
        highlights = [
            (
                dict(LAYER_KINDS["lyrics"].settings["highlight"].choices)[name],
                new_layer("lyrics", **lit, highlight=name),
            )
            for name in HIGHLIGHTS
        ]
        families = [
            (
                family.name,
                new_layer(
                    "text", text=family.sample, family=ident, size=18.0, weight=700.0, fit="line", box_width=80.0
                ),
            )
            for ident, family in FAMILIES.items()
        ]
        captions = {
            "words-designs": sheet(designs, figures / "words-designs.png", 4),
            "words-motions": sheet(motions, figures / "words-motions.png", 4),
            "words-highlights": sheet(
                [(name, scene.draw(layer, at)) for name, layer in highlights], figures / "words-highlights.png", 3
            ),
            "words-families": sheet(
                [(name, scene.draw(layer, at)) for name, layer in families], figures / "words-families.png", 4
            ),
        }
    page = docs / "manual/words.md"
    text = page.read_text()
    for name, rows in captions.items():
        begin, end = f"<!-- {name} -->\n", f"<!-- end {name} -->"
        before, rest = text.split(begin)
        after = rest.split(end)[1]
        listed = "\n".join(f"* {row}" for row in rows)
        text = f"{before}{begin}![{rows[0]} and more](figures/{name}.png)\n\n{listed}\n{end}{after}"
    page.write_text(text)


if __name__ == "__main__":
    main()
