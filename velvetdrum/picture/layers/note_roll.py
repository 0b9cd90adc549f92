"""Notes in time: bars by pitch that move past a line, and light up while they sound."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
import skia

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, flag, note_row, number, stops, whole
from velvetdrum.declare.vocabulary import percent, position_x, position_y
from velvetdrum.picture.bases.image_placement import box_about
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import QUAY, Design, Sizing
from velvetdrum.scene.kinds import layer_kind

_TABLE = 256


@layer_kind("note-roll", "Notes in time")
class NoteRoll(DrawnLayer):
    """The notes of a MIDI file as bars by pitch, which move past a line."""

    designs: ClassVar[tuple[Design, ...]] = (Design("waveform", "Notes in time", {}),)
    sizings: ClassVar[tuple[Sizing, ...]] = (Sizing(across=("width",), down=("height",)),)
    first: ClassVar[tuple[str, ...]] = ("row",)

    row: str = note_row(label="Notes", help="The file whose notes are shown.")
    x: float = position_x(50, of="the middle")
    y: float = position_y(50, of="the middle")
    width: float = number(90, lo=5, hi=200, unit="%", help="Width, of the frame's width.")
    height: float = number(50, lo=2, hi=200, unit="%", help="Height, of the frame's short side.")
    span_s: float = number(
        6,
        lo=0.5,
        hi=120,
        unit="s",
        curve="log",
        label="Time span",
        group="sound",
        help="How much time is in sight.",
    )
    now: float = percent(50, label="Now position", help="Where the line of now stands along the width.")
    channel: int = whole(0, lo=0, hi=16, group="sound", help="1 to 16; 0 shows all of them.", advanced=True)
    thickness: float = percent(78, label="Bar thickness", help="Of the room that a semitone has.")
    corner: float = percent(60, label="Corner radius", help="Of half the bar's thickness.")
    by: str = choice(
        "pitch",
        {"pitch": "Pitch", "channel": "Channel", "velocity": "Velocity"},
        label="Coloured by",
        group="colour",
        help="What its place in the gradient is.",
    )
    colours: tuple[Stop, ...] = stops(
        [(stop["at"], stop["colour"]) for stop in QUAY],
        label="Gradient",
        help="Colours from the lowest to the highest.",
    )
    ahead: float = percent(
        55, label="Others, opacity", group="colour", help="How solid notes are that do not sound now."
    )
    line: bool = flag(True, label="Line of now", group="colour", help="Draws the line that notes pass.")

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        across, down = self.width * canvas.width / 100, self.height * canvas.short / 100
        return box_about(canvas.x(self.x), canvas.y(self.y), across, down)

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self.extent(view, at).grown(3.0)

    def notes(self, at: RenderContext) -> list[str]:
        if at.project is None or at.project.notes.named(self.row) is None:
            return ["There are no notes in this project yet: bring a MIDI file in, in the Sound room."]
        return []

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        given = at.project.notes.named(self.row) if at.project else None
        box = self.extent(canvas, at)
        surface = canvas.surface()
        brush = skia.Paint(AntiAlias=True)
        now_x = box.left + (box.right - box.left) * self.now / 100
        if given is not None and len(given.begins):
            chosen = given.chosen(0, 127, self.channel, 1)
            self._bars(surface, brush, box, now_x, chosen, float(at.time) + (at.project.begin_s if at.project else 0.0))
        if self.line:
            brush.setColor(200 << 24 | 0xF4EADB)
            brush.setStrokeWidth(max(canvas.short * 0.002, 1.0))
            surface.drawLine(now_x, box.top, now_x, box.bottom, brush)

    def _bars(self, surface: Any, brush: skia.Paint, box: Box, now_x: float, notes: Any, second: float) -> None:
        if not len(notes.begins):
            return
        scale = (box.right - box.left) / self.span_s
        low, high = int(notes.pitches.min()), int(notes.pitches.max())
        room = (box.bottom - box.top) / (high - low + 1)
        thick = room * self.thickness / 100
        lefts, rights = now_x + (notes.begins - second) * scale, now_x + (notes.ends - second) * scale
        seen = np.flatnonzero((rights > box.left) & (lefts < box.right))
        places = {
            "pitch": (notes.pitches - low) / max(high - low, 1),
            "channel": (notes.channels - 1) / 15,
            "velocity": notes.velocities / 127,
        }[self.by]
        table = np.rint(ramp(self.colours, _TABLE, "oklab", False) * 255).astype(int)
        surface.save()
        surface.clipRect(skia.Rect.MakeLTRB(box.left, box.top, box.right, box.bottom), True)
        for index in seen.tolist():
            sounds = notes.begins[index] <= second < notes.ends[index]
            red, green, blue = table[round(float(places[index]) * (_TABLE - 1))]
            alpha = 1.0 if sounds else self.ahead / 100
            brush.setColor(round(255 * alpha) << 24 | int(red) << 16 | int(green) << 8 | int(blue))
            middle = box.bottom - (int(notes.pitches[index]) - low + 0.5) * room
            half = thick / 2
            left, right = float(lefts[index]), max(float(rights[index]) - 1.0, float(lefts[index]) + 1.0)
            radius = min(half, (right - left) / 2) * self.corner / 100
            surface.drawRoundRect(skia.Rect.MakeLTRB(left, middle - half, right, middle + half), radius, radius, brush)
        surface.restore()
