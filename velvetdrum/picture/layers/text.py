"""Text: a title, a name, a timer; straight or along a curve, its parts in motion."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, flag, number, path_data, whole
from velvetdrum.declare.settings import text as text_of
from velvetdrum.declare.vocabulary import degrees, position_x, position_y
from velvetdrum.picture.bases.layer import LayerPath, RenderContext
from velvetdrum.picture.figures.base_shape import base_outline, path_problem
from velvetdrum.picture.outlines.outline import Outline
from velvetdrum.picture.outlines.paths import LONGEST_PATH, PathError
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.text.drawn_text import MovedText
from velvetdrum.picture.text.glyph_marks import Glyphs
from velvetdrum.picture.text.lettering import Block, missing_note, plate_boxes
from velvetdrum.picture.text.text_fields import filled, has_fields
from velvetdrum.picture.text.text_motion import Stretch
from velvetdrum.picture.typesetting.shaping import layout_path
from velvetdrum.scene.designs import WARM, Design, Sizing
from velvetdrum.scene.kinds import layer_kind

_BENT = ("ring", "arc", "polygon", "rectangle", "path")
_ROUND = ("ring", "arc", "polygon")


@layer_kind("text", "Text")
class TextLayer(MovedText):
    """Words of yours: titles, names, timers."""

    outlined: ClassVar[str] = "shape"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("words", "Title", {"text": "Paper Lighthouse", "size": 11.0}),
        Design(
            "words",
            "Name and title",
            {"text": "{artist}\n{title}", "family": "inter", "size": 5.0, "weight": 700.0, "align": "left"},
            ("text", {"text": "Lantern Quay\nHarbour notice", "family": "inter", "size": 9.0, "weight": 700.0}),
        ),
        Design(
            "words",
            "Timer",
            {"text": "{remaining m:ss}", "family": "work-sans", "size": 7.0, "weight": 700.0, "fit": "free"},
            ("text", {"text": "1:24", "family": "work-sans", "size": 26.0, "weight": 700.0}),
        ),
        Design(
            "words",
            "Letters that rise",
            {
                "text": "Slow water",
                "family": "unbounded",
                "weight": 900.0,
                "size": 9.0,
                "enter": "rise",
                "stagger_s": 0.06,
            },
        ),
        Design(
            "words",
            "Dancing letters",
            {
                "text": "LANTERN QUAY",
                "family": "roboto-slab",
                "weight": 900.0,
                "lift": 90.0,
                "paint": "along",
                "colours": WARM,
                "fit": "line",
            },
        ),
        Design(
            "words",
            "Text on a ring",
            {
                "text": "LANTERN QUAY RADIO · ",
                "along": "ring",
                "family": "inter",
                "size": 6.0,
                "tracking": 120.0,
                "curve_radius": 34.0,
            },
        ),
        Design(
            "words",
            "Plate",
            {
                "text": "Harbour office",
                "family": "nunito",
                "weight": 900.0,
                "size": 7.0,
                "plate": "lines",
                "fit": "free",
            },
        ),
        Design(
            "words",
            "Outlined",
            {
                "text": "LIGHT",
                "family": "unbounded",
                "weight": 900.0,
                "hollow": True,
                "outline": 3.0,
                "size": 22.0,
                "outline_colour": "#f0b866",
                "outline_place": "middle",
            },
        ),
        Design(
            "words",
            "Handwritten",
            {
                "text": "still burning",
                "family": "caveat",
                "weight": 700.0,
                "size": 16.0,
                "enter": "type",
            },
        ),
    )
    sizings: ClassVar[tuple[Sizing, ...]] = (
        Sizing(across=("box_width",), when=(("fit", ("line",)),)),
        Sizing(both=("size",)),
    )
    first = ("text", "family", "weight", "size")

    text: str = text_of("Lantern Quay", most=2000, lines=3, label="Text", help="The words; fields stand in braces.")
    x: float = position_x(50, of="the middle of the text")
    y: float = position_y(50, of="the middle of the text")
    turn: float = degrees(0, label="Rotation", help="Turns it about its middle.")
    along: str = choice(
        "straight",
        {
            "straight": "Straight",
            "ring": "Ring",
            "arc": "Arc",
            "polygon": "Polygon",
            "rectangle": "Rectangle",
            "path": "Path",
        },
        label="Baseline",
        help="What the letters stand on.",
    )
    curve_radius: float = number(
        34,
        lo=1,
        hi=150,
        unit="%",
        label="Radius",
        help="Radius, as a share of the frame's short side.",
        when=("along", _ROUND),
    )
    curve_sweep: float = degrees(180, lo=5, label="Sweep", help="How far the arc goes round.", when=("along", ("arc",)))
    curve_sides: int = whole(
        6, lo=3, hi=24, label="Sides", help="Number of sides of the polygon.", when=("along", ("polygon",))
    )
    curve_width: float = number(
        80,
        lo=1,
        hi=250,
        unit="%",
        label="Width",
        help="Width, as a share of the frame's short side.",
        when=("along", ("rectangle", "path")),
    )
    curve_height: float = number(
        60,
        lo=1,
        hi=250,
        unit="%",
        label="Height",
        help="Height, as a share of the frame's short side.",
        when=("along", ("rectangle",)),
    )
    curve_path: str = path_data("M0 40C40 0 80 0 120 40S200 80 240 40", most=LONGEST_PATH, when=("along", ("path",)))
    curve_start: float = number(
        0,
        lo=-200,
        hi=200,
        unit="%",
        label="Start",
        when=("along", _BENT),
        help="Where along it the middle of the text lies.",
    )
    curve_inside: bool = flag(
        False,
        label="Inside",
        when=("along", _BENT),
        help="Sets the text on the inner side of the curve, where it reads the other way.",
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        result = super().check(values)
        if values["along"] == "path":
            result += [("curve_path", sentence) for _, sentence in path_problem(values["curve_path"])]
        return result

    @property
    def still(self) -> bool:
        return not (self.changing or self.parts_move or has_fields(self.text))

    def _block(self, view: Viewport, at: RenderContext) -> Block:
        shown = filled(self.text, at)
        x, y = view.x(self.x), view.y(self.y)
        if self.along != "straight":
            size = self.size * view.short / 100
            return Block(self.spec(shown.replace("\n", " "), at, view, size), size, x, y)
        return self.block(shown, at, view, x, y, self.turn)

    def _bent(self, view: Viewport, block: Block) -> tuple[Outline, Glyphs]:
        """The curve, and the glyphs along it."""
        short = view.short / 100
        keys: dict[str, tuple[Any, ...]] = {
            "ring": (self.curve_radius * short,),
            "arc": (self.curve_radius * short, self.curve_sweep),
            "polygon": (self.curve_radius * short, self.curve_sides),
            "rectangle": (self.curve_width * short, self.curve_height * short, 0.0),
            "path": (self.curve_path, self.curve_width * short),
        }
        outline = base_outline(self.along, keys[self.along]).moved(self.turn, block.x, block.y)
        glyphs = replace(block, x=0.0, y=0.0).glyphs()
        scale = block.size / 1000
        # The middle of a closed curve's text stands at its start, that of an open one's in the middle of the way.
        middle = (0.0 if outline.closed else 0.5) + self.curve_start / 100
        side = -1.0 if self.curve_inside else 1.0
        ways = middle + side * glyphs.x / outline.length
        points, normals, tangents = outline.at(ways)
        # Pivots lie a quarter of an em above the baseline, and so do points of the curve's text.
        height = -glyphs.pivots * np.array([0.0, scale])
        if self.curve_inside:
            # Read from the other side: letters hang from the curve by their capitals.
            tangents = -tangents
            height = np.full_like(glyphs.pivots, 0.25 * block.size - 0.72 * block.size)
        places = points + normals * height[:, 1:]
        angles = np.arctan2(tangents[:, 1], tangents[:, 0])
        beyond = np.zeros(len(ways), bool) if outline.closed else (ways < 0) | (ways > 1)
        strengths = np.where(beyond, 0.0, glyphs.strengths)
        return outline, glyphs.changed(x=places[:, 0], y=places[:, 1], angles=angles, strengths=strengths)

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        block = self._block(view, at)
        return self._box(view, block).grown(self.margin(block.size) + 2)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        block = self._block(canvas, at)
        return self._box(canvas, block)

    def _box(self, view: Viewport, block: Block) -> Box:
        if self.along != "straight":
            outline, _ = self._bent(view, block)
            return Box(*outline.bounds).grown(block.size * 0.8)
        box = plate_boxes(block, "whole", self.plate_pad / 100 * block.size if self.plate != "none" else 0.0)
        result = box[0] if box else Box(block.x - 8, block.y - 8, block.x + 8, block.y + 8)
        if not self.turn:
            return result
        corners = np.array([(x, y) for x in (result.left, result.right) for y in (result.top, result.bottom)])
        angle = np.deg2rad(self.turn)
        spin = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        turned = (corners - (block.x, block.y)) @ spin + (block.x, block.y)
        return Box(*turned.min(axis=0).tolist(), *turned.max(axis=0).tolist())

    def outlines(self, view: Viewport, at: RenderContext) -> LayerPath | None:
        block = self._block(view, at)
        if self.along != "straight" or self.turn:
            raise PathError("Only a text that stands straight can become a path: set Along to straight, Turn to 0.")
        data = layout_path(block.layout)
        if not data:
            return None
        return LayerPath.placed(data, block.size / 1000, block.x, block.y)

    def notes(self, at: RenderContext) -> list[str]:
        return missing_note([self.text], [self._block(Viewport(1280, 720), at).layout])

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        block = self._block(canvas, at)
        when = Stretch(at.since, at.until, float(at.time))
        if self.along == "straight":
            self.draw_block(canvas, block, at, when)
            return
        _, glyphs = self._bent(canvas, block)
        glyphs, _ = self.in_motion(glyphs, block.layout, block.size, at, when)
        self.draw_glyphs(canvas, glyphs, block, at)
