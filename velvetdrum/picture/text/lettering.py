"""How text looks, as settings: its type, its box, its outline, its shadow and the plate behind it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, colour, flag, font_family, number, text
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import line_ground
from velvetdrum.picture.figures.marks.painter import paint_marks, premultiplied
from velvetdrum.picture.figures.paint.fields import Reach
from velvetdrum.picture.figures.paint.paint import Ink, Painted
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.text.glyph_marks import Glyphs, coverage, glyphs_of
from velvetdrum.picture.typesetting.families import FAMILIES, Axes
from velvetdrum.picture.typesetting.layout import Layout, TextSpec, laid_out

_AXIS = re.compile(r'"?([A-Za-z]{4})"?\s+(-?\d+(?:\.\d+)?)')
_CASES: dict[str, Callable[[str], str]] = {"as-is": str, "upper": str.upper, "lower": str.lower, "title": str.title}
_LINE_EM = 1000.0


@dataclass(frozen=True)
class Block:
    """A text where it stands: its layout, the size of its type and the middle of its box, in pixels."""

    spec: TextSpec
    size: float
    x: float
    y: float
    turn: float = 0.0

    @property
    def layout(self) -> Layout:
        """Its glyphs in their places."""
        return laid_out(self.spec)

    def glyphs(self) -> Glyphs:
        """Its glyphs at rest."""
        return glyphs_of(self.spec, self.size, self.x, self.y, self.turn)

    @property
    def box(self) -> Box:
        """The box of its lines, in pixels, before it is turned."""
        left, top, right, bottom = (edge * self.size / _LINE_EM for edge in self.layout.box)
        return Box(self.x + left, self.y + top, self.x + right, self.y + bottom)


class Lettered(Painted):
    """Settings of everything that shows text."""

    begins: ClassVar[dict[str, Any]] = {"paint": "one", "plain": "#f4eadb"}

    paint: str = choice(
        "one",
        {"one": "One colour", "along": "Along", "field": "Behind it", "time": "Over time"},
        label="Paint",
        group="colour",
        help="One colour; a gradient along the letters, fixed behind the whole, or over time.",
    )
    family: str = font_family(
        "fraunces",
        {ident: family.name for ident, family in FAMILIES.items()},
        label="Family",
        help="The type family; letters that it lacks are taken from another.",
    )
    weight: float = number(
        600, lo=100, hi=1000, step=50, label="Weight", help="From thin to black; the nearest that the family has."
    )
    axes: str = text(
        "",
        most=120,
        label="Axes",
        advanced=True,
        help='Of a variable family, as in CSS: "SOFT" 100, "opsz" 144.',
    )
    size: float = number(8, lo=0.5, hi=120, unit="%", help="Size of the em, of the frame's short side.")
    tracking: float = number(
        0, lo=-200, hi=1000, unit="‰ em", step=5, label="Letter spacing", help="Added after each letter."
    )
    leading: float = number(
        120, lo=50, hi=400, unit="%", step=5, label="Line spacing", help="From baseline to baseline, of the size."
    )
    align: str = choice(
        "center",
        {"start": "Start", "left": "Left", "center": "Centre", "right": "Right", "end": "End"},
        label="Alignment",
        help="Alignment of lines within the box; start and end follow the direction of the script.",
    )
    fit: str = choice(
        "wrap",
        {"free": "As it is", "wrap": "Wrapped", "line": "One line, fitted"},
        label="Box",
        help="Lines break where the text does, or at the width of the box; or one line is made to fit it.",
    )
    box_width: float = number(
        80,
        lo=2,
        hi=300,
        unit="%",
        label="Box width",
        help="Box width, as a share of the frame's width.",
        when=("fit", ("wrap", "line")),
    )
    balanced: bool = flag(
        True,
        label="Even lines",
        advanced=True,
        when=("fit", ("wrap",)),
        help="Breaks lines so that they are about equally long.",
    )
    case: str = choice(
        "as-is",
        {"as-is": "As written", "upper": "Capitals", "lower": "Small letters", "title": "First letters"},
        advanced=True,
        help="Which letters are capitals.",
    )
    tabular: bool = flag(
        True,
        label="Even digits",
        advanced=True,
        help="Gives all digits one width, so that numbers that count do not shift.",
    )
    outline: float = number(
        0,
        lo=0,
        hi=20,
        unit="% em",
        label="Outline",
        group="colour",
        help="Width of a line about the letters; 0 for none.",
    )
    outline_place: str = choice(
        "outside",
        {"outside": "Outside", "middle": "Middle", "inside": "Inside"},
        label="Outline at",
        group="colour",
        advanced=True,
        help="On which side of the letters' edge the line runs.",
    )
    outline_colour: str = colour("#1b1119", label="Outline colour", help="Colour of that line.")
    hollow: bool = flag(False, label="Outline only", group="colour", advanced=True, help="Leaves the letters empty.")
    shadow: float = percent(0, step=1, label="Shadow", group="colour", help="How solid the shadow is; 0 for none.")
    shadow_colour: str = colour("#000000", label="Shadow colour", help="Colour of the shadow.")
    shadow_x: float = number(
        0,
        lo=-100,
        hi=100,
        unit="% em",
        step=1,
        label="Shadow X",
        group="colour",
        advanced=True,
        help="Distance to the right.",
    )
    shadow_y: float = number(
        6,
        lo=-100,
        hi=100,
        unit="% em",
        step=1,
        label="Shadow Y",
        group="colour",
        advanced=True,
        help="Distance downward.",
    )
    shadow_soft: float = number(
        18,
        lo=0,
        hi=200,
        unit="% em",
        step=1,
        label="Shadow blur",
        group="colour",
        advanced=True,
        help="Width of its edge.",
    )
    plate: str = choice(
        "none",
        {"none": "None", "lines": "Behind each line", "whole": "Behind all"},
        label="Plate",
        group="colour",
        help="A filled field behind the text.",
    )
    plate_colour: str = colour(
        "#1b1119", label="Plate colour", help="Colour of the plate.", when=("plate", ("lines", "whole"))
    )
    plate_opacity: float = percent(
        80,
        step=1,
        label="Plate opacity",
        group="colour",
        help="How solid the plate is.",
        when=("plate", ("lines", "whole")),
    )
    plate_pad: float = number(
        30,
        lo=0,
        hi=200,
        unit="% em",
        step=1,
        label="Padding",
        group="colour",
        help="Between the letters and the edge of the plate.",
        when=("plate", ("lines", "whole")),
    )
    plate_corner: float = number(
        30,
        lo=0,
        hi=200,
        unit="% em",
        step=1,
        label="Plate corner",
        group="colour",
        help="Radius of its corners.",
        when=("plate", ("lines", "whole")),
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        result = super().check(values)
        if values["axes"].strip() and not parse_axes(values["axes"]):
            result.append(("axes", 'Axes are pairs like "SOFT" 100, "opsz" 144.'))
        return result

    def spec(self, shown: str, at: RenderContext, view: Viewport, size: float, *, width_px: float = 0.0) -> TextSpec:
        """What the layout of a text is made of; `width_px`: of the box that lines are broken in, 0 for none."""
        family = at.media.get(self.family, "") if self.family not in FAMILIES else self.family
        return TextSpec(
            _CASES[self.case](shown),
            family,
            # A weight that a signal moves is seen in steps of ten: each is a typeface of its own.
            round(self.weight / 10) * 10.0,
            parse_axes(self.axes),
            self.tracking,
            self.leading * 10,
            self.align,  # type: ignore[arg-type]
            round(width_px / max(size, 1e-6) * _LINE_EM, 1),
            self.tabular,
            self.balanced,
        )

    def block(self, shown: str, at: RenderContext, view: Viewport, x: float, y: float, turn: float = 0.0) -> Block:
        """A text in its box, its middle at a place in pixels."""
        size = self.size * view.short / 100
        room = self.box_width * view.width / 100
        if self.fit == "wrap":
            return Block(self.spec(shown, at, view, size, width_px=room), size, x, y, turn)
        spec = self.spec(shown.replace("\n", " ") if self.fit == "line" else shown, at, view, size)
        if self.fit == "line":
            left, _, right, _ = laid_out(spec).box
            size = min(room / max(right - left, 1.0) * _LINE_EM, view.height * 0.9)
        return Block(spec, size, x, y, turn)

    def margin(self, size: float) -> float:
        """How far from the letters anything is drawn, in pixels: outline, shadow, plate, and letters in motion."""
        shadow = max(abs(self.shadow_x), abs(self.shadow_y)) + 1.5 * self.shadow_soft if self.shadow else 0.0
        plate = self.plate_pad if self.plate != "none" else 0.0
        return size * (30 + max(shadow, plate, self.outline)) / 100

    def draw_plates(self, canvas: Canvas, block: Block, strength: float = 1.0) -> None:
        """The plate behind a text."""
        if self.plate == "none" or strength <= 0:
            return
        boxes = plate_boxes(block, self.plate, self.plate_pad / 100 * block.size)
        ink = self.ink(canvas, 0.0).in_one(self.plate_colour)
        ink = replace(ink, opacity=self.plate_opacity / 100 * strength * self.opacity / 100)
        corner = self.plate_corner / 100 * block.size
        for box in boxes:
            _round_box(canvas, box, corner, ink, block)

    def draw_plate_box(self, canvas: Canvas, box: Box, block: Block, plain: str, corner: float) -> None:
        """One plate in a colour, with round corners."""
        _round_box(canvas, box, corner, self.ink(canvas, 0.0).in_one(plain), block)

    def draw_glyphs(
        self, canvas: Canvas, glyphs: Glyphs, block: Block, at: RenderContext, ink: Ink | None = None
    ) -> None:
        """Letters with their shadow and their outline."""
        ink = ink or self.ink(canvas, float(at.time))
        em = block.size / 100
        reach = _reach(block)
        if self.shadow and not np.all(glyphs.strengths <= 0):
            cast = replace(glyphs.moved(self.shadow_x * em, self.shadow_y * em), stroke=self._edge(em))
            shade = replace(ink.in_one(self.shadow_colour), opacity=self.shadow / 100 * ink.opacity)
            _paint(canvas, cast, shade, reach, max(self.shadow_soft * em, 0.6))
        line = ink.in_one(self.outline_colour)
        if self.outline and self.outline_place == "outside":
            _paint(canvas, replace(glyphs, stroke=2 * self.outline * em), line, reach)
        if not self.hollow:
            _paint(canvas, glyphs, ink, reach)
        if self.outline and self.outline_place == "middle":
            _paint(canvas, replace(glyphs, stroke=self.outline * em), line, reach)
        if self.outline and self.outline_place == "inside":
            self._inside(canvas, glyphs, line, 2 * self.outline * em)

    def _inside(self, canvas: Canvas, glyphs: Glyphs, line: Ink, width: float) -> None:
        """An outline that the letters' own edge cuts off."""
        box = glyphs.box
        if box is None:
            return
        area = box.pixels(canvas.area)
        if area[2] <= area[0] or area[3] <= area[1]:
            return
        inside = canvas.mask([glyphs], area)
        edge = canvas.mask([replace(glyphs, stroke=width)], area)
        both = (inside.astype(np.uint16) * edge // 255).astype(np.uint8)
        colour_word = np.full((*both.shape, 4), 255, np.uint8)
        red, green, blue = np.rint(line.along(np.zeros(1))[0] * 255).astype(int).tolist()
        colour_word[..., :3] = (blue, green, red)
        canvas.blend(colour_word, area, mask=both, opacity=line.opacity)

    def _edge(self, em: float) -> float:
        return 2 * self.outline * em if self.outline_place == "outside" else self.outline * em if self.outline else 0.0


def _round_box(canvas: Canvas, box: Box, corner: float, ink: Ink, block: Block) -> None:
    """A filled box with round corners, turned about the middle of a block as that is."""
    reach = float(np.hypot(box.right - box.left, box.bottom - box.top)) if block.turn else 2.0
    surface = canvas.surface(box.grown(reach))
    red, green, blue = np.rint(ink.along(np.zeros(1))[0] * 255).astype(int).tolist()
    colour_word = round(ink.opacity * 255) << 24 | red << 16 | green << 8 | blue
    radius = min(corner, (box.right - box.left) / 2, (box.bottom - box.top) / 2)
    start = surface.getTotalMatrix()
    surface.rotate(block.turn, block.x, block.y)
    shape = skia.Rect(box.left, box.top, box.right, box.bottom)
    surface.drawRoundRect(shape, radius, radius, skia.Paint(AntiAlias=True, Color=colour_word))
    surface.setMatrix(start)


def _paint(canvas: Canvas, glyphs: Glyphs, ink: Ink, reach: Reach, softness: float = 0.0) -> None:
    """Glyphs in the colours of an ink; those at rest in one colour are only tinted."""
    if glyphs.rest is None or not ink.even or ink.opacity <= 0:
        paint_marks(canvas, [glyphs], ink, reach, softness=softness)
        return
    mask, area = coverage(glyphs.rest, glyphs.stroke, softness)
    canvas.tint_mask(mask, area, premultiplied(ink))


def plate_boxes(block: Block, plate: str, pad: float) -> list[Box]:
    """Boxes of plates in pixels: one behind each line that shows something, or one behind all."""
    scale = block.size / _LINE_EM
    lines = [line for line in block.layout.lines if line.right > line.left]
    if not lines:
        return []
    boxes = [
        Box(
            block.x + line.left * scale - pad,
            # As high as capitals and as deep as the tails of letters.
            block.y + (line.baseline - 740) * scale - pad * 0.7,
            block.x + line.right * scale + pad,
            block.y + (line.baseline + 220) * scale + pad * 0.7,
        )
        for line in lines
    ]
    if plate == "lines":
        return boxes
    return [
        Box(
            min(box.left for box in boxes),
            min(box.top for box in boxes),
            max(box.right for box in boxes),
            max(box.bottom for box in boxes),
        )
    ]


def parse_axes(given: str) -> Axes:
    """Axes as CSS writes them: tags and numbers, parted by commas."""
    pairs = [_AXIS.fullmatch(part.strip()) for part in given.split(",") if part.strip()]
    return tuple((pair[1], float(pair[2])) for pair in pairs if pair) if all(pairs) else ()


def _reach(block: Block) -> Reach:
    box = block.box
    width, height = max(box.right - box.left, 1.0), max(box.bottom - box.top, 1.0)
    ground = line_ground(width, 0.0, (box.left + box.right) / 2, (box.top + box.bottom) / 2)
    half = max(height / 2 + block.size, 1.0)
    return Reach(ground, half, half)


def missing_note(texts: Sequence[str], layouts: Sequence[Layout]) -> list[str]:
    """A sentence about letters that no typeface has."""
    lost = "".join(dict.fromkeys("".join(layout.missing for layout in layouts)))
    if not lost:
        return []
    named = ", ".join(f"{sign} ({_name(sign)})" for sign in lost[:6])
    return [f"No typeface here has {named}; it is left out. Bring in a typeface that has it."]


def _name(sign: str) -> str:
    return f"U+{ord(sign):04X} {unicodedata.name(sign, '').lower()}".strip()


def glyph_rows(values: NDArray[np.float64], owners: NDArray[np.int64]) -> NDArray[np.float64]:
    """Values of letters, words or lines handed to their glyphs."""
    return values[np.clip(owners, 0, len(values) - 1)] if len(values) else np.ones(len(owners))
