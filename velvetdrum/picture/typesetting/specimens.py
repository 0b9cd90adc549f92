"""A line of text as SVG path data: names of families in their own letters."""

from __future__ import annotations

from typing import Any

from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.pens.transformPen import TransformPen

from velvetdrum.limits.cache import cached
from velvetdrum.picture.typesetting.families import FAMILIES
from velvetdrum.picture.typesetting.layout import TextSpec, laid_out
from velvetdrum.picture.typesetting.typefaces import typeface


@cached
def specimen(text: str, family: str) -> tuple[str, float]:
    """A line in a family (its id, or a path) as path data, an em being 1000 units, the baseline at 0, and its width."""
    layout = laid_out(TextSpec(text, family, 600.0))
    pen = SVGPathPen(None, ntos=lambda value: str(round(value)))
    left = layout.box[0]
    for face, glyph, x in zip(layout.face.tolist(), layout.glyph.tolist(), layout.x.tolist(), strict=True):
        result = typeface(*layout.faces[face])
        moved = TransformPen(pen, (result.scale, 0.0, 0.0, -result.scale, x - left, 0.0))
        result.font.draw_glyph_with_pen(glyph, moved)
    return pen.getCommands(), layout.box[2] - left


def shipped() -> list[dict[str, Any]]:
    """The families that ship: id, name, what they are good for, and the name as path data."""
    out = []
    for ident, family in FAMILIES.items():
        shown = family.name if family.sample == "Lantern Quay" else f"{family.name} {family.sample}"
        data, width = specimen(shown, ident)
        out.append({"id": ident, "name": family.name, "sort": family.sort, "path": data, "width": round(width)})
    return out
