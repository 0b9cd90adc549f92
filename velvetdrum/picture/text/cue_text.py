"""What layers of cues have in common: the track that they show, how text is made to fit, colours of speakers."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from velvetdrum.declare.oklab import parse_hex
from velvetdrum.declare.settings import Stop, choice, colour, cue_track, flag, number, stops, whole
from velvetdrum.declare.vocabulary import position_x
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.paint.paint import Ink
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.text.cue_view import CueMoment, speakers_of, word_times
from velvetdrum.picture.text.drawn_text import MovedText, WordTimes, draw_words, grown
from velvetdrum.picture.text.glyph_marks import Glyphs
from velvetdrum.picture.text.lettering import Block, missing_note
from velvetdrum.picture.text.word_loudness import as_loud_as_said, loudness_range, word_levels
from velvetdrum.picture.typesetting.layout import laid_out
from velvetdrum.words.checks import luminance_contrast
from velvetdrum.words.cues import Cue

_STEPS = 12


class CueText(MovedText):
    """Settings of layers that show cues."""

    cues: str = cue_track(label="Cue track", help="Whose cues are shown; the first track without a choice.")
    x: float = position_x(50, of="the middle of the lines")
    y: float = number(50, lo=-50, hi=150, unit="%", label="Y", help="Where the lines stand, down the frame.")
    rows: int = whole(
        2, lo=1, hi=8, label="Lines", help="Lines of one cue at the most: its size falls before it has more."
    )
    least: float = number(
        60,
        lo=20,
        hi=100,
        unit="%",
        step=5,
        label="Smallest size",
        help="How far the size may fall for it.",
        advanced=True,
    )
    highlight: str = choice(
        "none",
        {"none": "None", "sweep": "Sweep", "word": "Word", "scale": "Word, larger", "plate": "Word, on a plate"},
        label="Spoken word",
        group="colour",
        help="How the word that is sung or spoken now stands out.",
    )
    highlight_colour: str = colour("#f0b866", label="Word colour", help="Colour of the spoken word, or of its plate.")
    loud_words: float = number(
        0,
        lo=0,
        hi=90,
        unit="%",
        step=1,
        label="Size by loudness",
        group="motion",
        help="Words swell as they are said, each as far as it is loud; quiet ones stay smaller by so much.",
    )
    speakers: bool = flag(False, label="Colour by speaker", group="colour", help="Gives each speaker a colour.")
    speaker_colours: tuple[Stop, ...] = stops(
        [(0.0, "#f4eadb"), (0.33, "#7cc0f2"), (0.67, "#f0b866"), (1.0, "#a8cf6a")],
        label="Speakers",
        help="Colours of speakers, in the order in which they come.",
        when=("speakers", (True,)),
    )

    def inked(self, canvas: Viewport, at: RenderContext, cue: Cue, moment: CueMoment) -> Ink:
        """The paint of a cue: the layer's, or its speaker's colour."""
        ink = self.ink(canvas, float(at.time))
        if not self.speakers or not cue.speaker:
            return ink
        place = speakers_of(moment.track).index(cue.speaker) % len(self.speaker_colours)
        return ink.in_one(self.speaker_colours[place][1])

    def cue_block(self, shown: str, at: RenderContext, view: Viewport, y: float, factor: float = 1.0) -> Block:
        """A cue's text in its box, its middle at a height in pixels: as large as it may be with so many lines."""
        x, room = view.x(self.x), self.box_width * view.width / 100
        full = self.size * factor * view.short / 100
        if self.fit == "line":
            return self.block(shown.replace("\n", " "), at, view, x, y)
        flowing = shown if self.fit == "free" else shown.replace("\n", " ")
        for step in range(_STEPS + 1):
            size = full * (1 - (1 - self.least / 100) * step / _STEPS)
            own = self.spec(shown, at, view, size, width_px=room if self.fit == "wrap" else 0.0)
            if len(laid_out(own).lines) <= self.rows:
                return Block(own, size, x, y)
            # Breaks of the cue itself give way before its size does.
            spec = replace(own, text=self.spec(flowing, at, view, size).text)
            if len(laid_out(spec).lines) <= self.rows:
                return Block(spec, size, x, y)
        return Block(spec, size, x, y)

    def accepted_lines(self, view: Viewport, at: RenderContext) -> int:
        """How many lines the cue that stands takes at a time; 0 without one."""
        moment = CueMoment.of(at, self.cues)
        cue = moment.track.at(moment.time_s) if moment else None
        return len(self.cue_block(cue.text, at, view, 0.0).layout.lines) if cue else 0

    def bottom_up(self, block: Block, bottom: float) -> Block:
        """The block with the lower edge of its last line at a height in pixels."""
        lines = block.layout.lines
        if not lines:
            return block
        return replace(block, y=bottom - (lines[-1].baseline + 220) * block.size / 1000)

    def draw_spoken(self, canvas: Canvas, glyphs: Glyphs, block: Block, times: WordTimes) -> None:
        """The spoken word over its line."""
        if self.highlight == "none" or times.now < 0 or not len(glyphs.strengths):
            return
        plain = _readable_on(self.highlight_colour) if self.highlight == "plate" else self.highlight_colour
        ink = self.ink(canvas, 0.0).in_one(plain)
        shares = times.said if self.highlight == "sweep" else (np.arange(len(times.said)) == times.now).astype(float)
        draw_words(canvas, glyphs, block.layout, ink, shares)

    def swelling(self, glyphs: Glyphs, block: Block, times: WordTimes, cue: Cue, at: RenderContext) -> Glyphs:
        """The line's glyphs, each word as large as it was said loudly."""
        moment = CueMoment.of(at, self.cues)
        if not self.loud_words or at.use is None or at.project is None or moment is None or not len(glyphs.strengths):
            return glyphs
        length = at.project.length_s
        quiet, loud = loudness_range(at.use, moment.track, length)
        loudness = np.clip((word_levels(at.use, cue, length) - quiet) / (loud - quiet), 0.0, 1.0)
        return as_loud_as_said(glyphs, block.layout, loudness, times, self.loud_words / 100)

    def prepared(self, canvas: Canvas, glyphs: Glyphs, block: Block, times: WordTimes) -> Glyphs:
        """The line's glyphs with the spoken word larger, and the plate behind it drawn."""
        if times.now < 0 or self.highlight not in ("scale", "plate") or not len(glyphs.strengths):
            return glyphs
        current = block.layout.word == times.now
        if self.highlight == "scale":
            # It grows within 80 ms, whatever the word's length.
            return grown(glyphs, current, 1.12)
        result = glyphs.only(current).box if current.any() else None
        if result:
            self._word_plate(canvas, block, result, current)
        return glyphs

    def _word_plate(self, canvas: Canvas, block: Block, found: Box, current: np.ndarray) -> None:
        line = block.layout.lines[int(block.layout.row[current][0])]
        scale, pad = block.size / 1000, 0.12 * block.size
        box = Box(
            found.left - pad,
            block.y + (line.baseline - 780) * scale - pad / 2,
            found.right + pad,
            block.y + (line.baseline + 240) * scale + pad / 2,
        )
        self.draw_plate_box(canvas, box, block, self.highlight_colour, 0.18 * block.size)

    def notes(self, at: RenderContext) -> list[str]:
        moment = CueMoment.of(at, self.cues)
        if moment is None:
            return ["There are no cues yet: paste the words in the Words room, or open a file of them."]
        view = Viewport(1280, 720)
        text = "\n".join(cue.text for cue in moment.track.row[:400])
        return missing_note([text], [laid_out(replace(self.spec("", at, view, 50.0), text=text[:4000]))])


def times_of(cue: Cue, moment: CueMoment) -> WordTimes:
    """How far the words of a cue have been said at a moment."""
    return word_times(cue, moment.time_s)


def _readable_on(plain: str) -> str:
    """Ivory or the dark of the ground, whichever is read more easily on a colour."""
    return max(
        ("#f4eadb", "#1b1119"), key=lambda ink: luminance_contrast(parse_hex(ink).tolist(), parse_hex(plain).tolist())
    )
