"""Lyrics: the line that is sung now, with the next one, in a rolling list, or word by word."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, flag, number, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.text.cue_text import CueText, times_of
from velvetdrum.picture.text.cue_view import CueMoment
from velvetdrum.picture.text.drawn_text import WordTimes
from velvetdrum.picture.text.lettering import Block
from velvetdrum.picture.text.text_motion import Stretch, eased
from velvetdrum.picture.typesetting.layout import words_of
from velvetdrum.scene.designs import Design, Sizing
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.words.cues import Cue

_SAMPLE = {"text": "slow water\nturns the light", "size": 16.0, "family": "fraunces"}


@layer_kind("lyrics", "Lyrics")
class Lyrics(CueText):
    """The words that are sung or spoken, as they come."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("words", "Lyric line", {"highlight": "sweep", "enter": "rise", "parts": "word"}, ("text", _SAMPLE)),
        Design(
            "words",
            "Now and next",
            {"style": "pair", "highlight": "word", "enter": "fade", "parts": "all"},
            ("text", {**_SAMPLE, "text": "slow water\nfar out", "family": "literata"}),
        ),
        Design(
            "words",
            "Rolling lyric",
            {"style": "roll", "size": 6.0, "family": "inter", "weight": 700.0, "align": "left"},
            (
                "text",
                {"text": "slow water\nturns the light\nfar out", "family": "inter", "weight": 700.0, "size": 12.0},
            ),
        ),
        Design(
            "words",
            "Word by word",
            {"style": "single", "size": 20.0, "family": "unbounded", "weight": 900.0, "enter": "scale", "parts": "all"},
            ("text", {"text": "light", "family": "unbounded", "weight": 900.0, "size": 26.0}),
        ),
    )
    sizings: ClassVar[tuple[Sizing, ...]] = (Sizing(both=("size",)),)
    turned: ClassVar[str] = ""
    first = ("style", "cues", "family", "weight", "size")
    begins: ClassVar[dict[str, Any]] = {"parts": "word", "size": 8.5, "rows": 2, "each_s": 0.35}

    style: str = choice(
        "line",
        {"line": "One line", "pair": "Now and next", "roll": "Rolling list", "single": "One word"},
        help="What of the lyric is seen.",
    )
    around: int = whole(
        2, lo=1, hi=6, label="Lines around", when=("style", ("roll",)), help="Lines before and after the current one."
    )
    fainter: float = percent(
        38,
        step=1,
        label="Other lines",
        group="colour",
        when=("style", ("pair", "roll")),
        help="How solid lines are that are not sung now.",
    )
    roll_s: float = number(
        0.45,
        lo=0,
        hi=3,
        unit="s",
        step=0.05,
        label="Rolling time",
        group="motion",
        when=("style", ("roll",)),
        help="How long the list takes to move on by a line.",
    )
    hold: bool = flag(False, label="Hold through gaps", help="A line stays until the next one comes.")

    def _lines(self, view: Viewport, at: RenderContext) -> list[tuple[Block, Cue, float, bool]]:
        """Blocks with their cues, how solid each is, and whether it is the one that is sung now."""
        moment = CueMoment.of(at, self.cues)
        if moment is None:
            return []
        now = moment.cue(moment.index)
        shown = now if now and (moment.stands(now) or self.hold) else None
        middle = view.y(self.y)
        if self.style == "roll":
            return self._rolling(view, at, moment, middle)
        out = []
        if shown:
            if self.style == "single":
                times = times_of(shown, moment)
                spans = words_of(shown.text)
                if not 0 <= times.now < len(spans):
                    return []
                begin, end = spans[times.now]
                return [(self.cue_block(shown.text[begin:end].strip(",.;:"), at, view, middle), shown, 1.0, True)]
            out.append((self.cue_block(shown.text, at, view, middle), shown, 1.0, True))
        if self.style == "pair":
            following = moment.cue(moment.index + 1)
            if following and following.start_s - moment.time_s < 6.0:
                first = out[0][0] if out else self.cue_block("x", at, view, middle)
                below = first.box.bottom + first.size * 0.9
                block = self.cue_block(following.text, at, view, below, 0.7)
                block = replace(block, y=block.y + (below - block.box.top))
                out.append((block, following, self.fainter / 100, False))
        return out

    def _rolling(
        self, view: Viewport, at: RenderContext, moment: CueMoment, middle: float
    ) -> list[tuple[Block, Cue, float, bool]]:
        index = moment.index
        cue = moment.cue(index)
        since = moment.time_s - cue.start_s if cue else 1e9
        came = float(eased("ease-in-out", np.array([min(since / max(self.roll_s, 1e-6), 1.0)]))[0]) if cue else 1.0
        heights = {}
        blocks = {}
        for place in range(index - self.around - 1, index + self.around + 2):
            other = moment.cue(place)
            if other:
                blocks[place] = self.cue_block(other.text, at, view, 0.0)
                heights[place] = len(blocks[place].layout.lines) * blocks[place].size * self.leading / 100
        out = []
        gap = self.size * view.short / 100 * 0.35
        # Where the list stands: between the place of the line before and that of the line now.
        for place, block in blocks.items():
            y = middle + self._way(heights, index, place, gap) + (1 - came) * self._way(heights, index - 1, index, gap)
            far = abs(place - index + (1 - came))
            near = max(0.0, 1.0 - far)
            solid = self.fainter / 100 + (1 - self.fainter / 100) * near
            solid *= float(np.clip(self.around + 1 - far, 0.0, 1.0))
            other = moment.cue(place)
            if other and solid > 0:
                out.append((replace(block, y=y), other, solid, place == index and moment.stands(other)))
        return out

    @staticmethod
    def _way(heights: dict[int, float], begin: int, end: int, gap: float) -> float:
        """From the middle of one line to that of another, in pixels downward."""
        if begin == end:
            return 0.0
        low, high = sorted((begin, end))
        usual = max(heights.values(), default=0.0)
        rows = [heights.get(place, usual) for place in range(low, high + 1)]
        way = sum(rows) - rows[0] / 2 - rows[-1] / 2 + gap * (high - low)
        return way if end > begin else -way

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self._around(view, at, 1.0)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        return self._around(canvas, at, 0.0)

    def _around(self, view: Viewport, at: RenderContext, share: float) -> Box:
        boxes = [block.box.grown(share * (self.margin(block.size) + 4)) for block, *_ in self._lines(view, at)]
        if not boxes:
            half = self.size * view.short / 200
            x, y = view.x(self.x), view.y(self.y)
            return Box(x - 6 * half, y - half, x + 6 * half, y + half)
        return Box(
            min(box.left for box in boxes),
            min(box.top for box in boxes),
            max(box.right for box in boxes),
            max(box.bottom for box in boxes),
        )

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        moment = CueMoment.of(at, self.cues)
        if moment is None:
            return
        for block, cue, solid, current in self._lines(canvas, at):
            ink = self.inked(canvas, at, cue, moment).fainter(solid)
            times = times_of(cue, moment) if current else WordTimes(np.zeros(0), -1)
            if self.style == "roll" or not current:
                glyphs = block.glyphs()
                self.draw_plates(canvas, block, solid)
            else:
                when = self._when(cue, moment, times)
                glyphs, blur = self.in_motion(block.glyphs(), block.layout, block.size, at, when)
                if (blur > 0.4).any():
                    self.draw_block(canvas, block, at, when, ink)
                    continue
                self.draw_plates(canvas, block, solid * float(np.max(glyphs.strengths, initial=0.0)))
            if self.style != "single":
                glyphs = self.swelling(glyphs, block, times, cue, at)
                glyphs = self.prepared(canvas, glyphs, block, times)
            self.draw_glyphs(canvas, glyphs, block, at, ink)
            if self.style != "single":
                self.draw_spoken(canvas, glyphs, block, times)

    def _when(self, cue: Cue, moment: CueMoment, times: WordTimes) -> Stretch:
        """The stretch that parts come and go in: the cue's, or that of the one word that is seen."""
        if self.style == "single" and cue.words and 0 <= times.now < len(cue.words):
            word = cue.words[times.now]
            following = cue.words[times.now + 1].start_s if times.now + 1 < len(cue.words) else cue.end_s
            return Stretch(word.start_s, following, moment.time_s)
        end = cue.end_s
        if self.hold:
            later = moment.cue(moment.index + 1)
            end = later.start_s if later else cue.end_s + 3600
        return Stretch(cue.start_s, end, moment.time_s)
