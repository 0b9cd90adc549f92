"""Captions: what is said, on plates in the part of the frame that channels leave free."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, flag, number
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.text.cue_text import CueText, times_of
from velvetdrum.picture.text.cue_view import CueMoment
from velvetdrum.picture.text.lettering import Block, plate_boxes
from velvetdrum.picture.text.text_motion import Stretch
from velvetdrum.scene.designs import Design, Sizing
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.words.cues import Cue

_SAMPLE = {"text": "The night ferry leaves\nat ten past nine", "family": "inter", "weight": 700.0, "size": 9.0}

SAFE = {"wide": (0.08, 0.9), "square": (0.1, 0.86), "tall": (0.14, 0.76)}
"""Top and bottom of what channels leave free, of the frame's height, by its shape: measured by eye."""


@layer_kind("captions", "Captions")
class Captions(CueText):
    """Captions for those who watch without sound."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("words", "Captions", {}, ("text", {**_SAMPLE, "plate": "lines"})),
        Design(
            "words",
            "Captions, word by word",
            {"highlight": "word", "plate": "none", "shadow": 80.0, "outline": 4.0, "weight": 900.0},
            ("text", {**_SAMPLE, "outline": 4.0, "weight": 900.0}),
        ),
    )
    sizings: ClassVar[tuple[Sizing, ...]] = (Sizing(both=("size",)),)
    turned: ClassVar[str] = ""
    burns_captions: ClassVar[bool] = True
    first = ("cues", "place", "family", "weight", "size")
    begins: ClassVar[dict[str, Any]] = {
        "family": "inter",
        "weight": 700.0,
        "size": 5.0,
        "plate": "lines",
        "parts": "all",
        "each_s": 0.15,
        "plate_pad": 36.0,
        "plate_corner": 24.0,
        "leading": 150.0,
        "box_width": 76.0,
    }

    place: str = choice(
        "bottom",
        {"bottom": "Bottom", "top": "Top", "free": "At Y"},
        label="Place",
        help="Within what channels leave free, which follows the shape of the frame; or where Y says.",
    )
    named: bool = flag(False, label="Name the speaker", help="Who speaks stands before the words, where that changes.")
    inset: float = number(
        0, lo=0, hi=40, unit="%", label="Inset", help="Further in from that edge, of the frame's height.", advanced=True
    )

    def _blocks(self, view: Viewport, at: RenderContext) -> list[tuple[Block, Cue]]:
        moment = CueMoment.of(at, self.cues)
        if moment is None:
            return []
        standing = moment.track.all_at(moment.time_s, 3)
        shape = "tall" if view.height > view.width * 1.15 else "wide" if view.width > view.height * 1.15 else "square"
        top, bottom = SAFE[shape]
        pad = self.plate_pad / 100 * self.size * view.short / 100 if self.plate != "none" else 0.0
        # The earliest stands highest: what is said first is read first.
        blocks = [self.cue_block(self._words(cue, moment), at, view, view.y(self.y)) for cue in standing]
        if self.place == "free":
            edge = view.y(self.y)
            for index, block in enumerate(blocks):
                blocks[index] = replace(block, y=edge)
                edge += self._height(block) + pad
        elif self.place == "top":
            edge = (top + self.inset / 100) * view.height + pad
            for index, block in enumerate(blocks):
                blocks[index] = replace(block, y=edge + self._height(block) / 2)
                edge += self._height(block) + 2 * pad
        else:
            edge = (bottom - self.inset / 100) * view.height - pad
            for index in range(len(blocks) - 1, -1, -1):
                blocks[index] = self.bottom_up(blocks[index], edge)
                edge -= self._height(blocks[index]) + 2 * pad
        return list(zip(blocks, standing, strict=True))

    def _words(self, cue: Cue, moment: CueMoment) -> str:
        if not self.named or not cue.speaker:
            return cue.text
        place = moment.track.row.index(cue)
        before = moment.cue(place - 1) if place else None
        return f"{cue.speaker}: {cue.text}" if before is None or before.speaker != cue.speaker else cue.text

    @staticmethod
    def _height(block: Block) -> float:
        result = plate_boxes(block, "whole", 0.0)
        return result[0].bottom - result[0].top if result else 0.0

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self._around(view, at, 1.0)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        return self._around(canvas, at, 0.0)

    def _around(self, view: Viewport, at: RenderContext, share: float) -> Box:
        boxes = [block.box.grown(share * (self.margin(block.size) + 4)) for block, _ in self._blocks(view, at)]
        if not boxes:
            x, y = view.x(self.x), view.height * SAFE["wide"][1]
            return Box(x - 40, y - 20, x + 40, y)
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
        for block, cue in self._blocks(canvas, at):
            ink = self.inked(canvas, at, cue, moment)
            when = Stretch(cue.start_s, cue.end_s, moment.time_s)
            glyphs, _ = self.in_motion(block.glyphs(), block.layout, block.size, at, when)
            self.draw_plates(canvas, block, float(np.max(glyphs.strengths, initial=0.0)))
            times = times_of(cue, moment)
            if not self.named:
                glyphs = self.swelling(glyphs, block, times, cue, at)
            glyphs = self.prepared(canvas, glyphs, block, times)
            self.draw_glyphs(canvas, glyphs, block, at, ink)
            if not self.named:
                self.draw_spoken(canvas, glyphs, block, times)
