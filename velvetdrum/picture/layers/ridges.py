"""Ridges: past spectra as lines one behind another, nearer ones hiding farther ones."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, colour, flag, number, stops, whole
from velvetdrum.picture.drawn_layer import RenderContext
from velvetdrum.picture.marks.hearing import HearsBands, rows_of_time
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.space.camera import Camera, Pose, Values
from velvetdrum.scene.designs import DUSK, QUAY, WARM, Design
from velvetdrum.scene.kinds import layer_kind

_TABLE = 256
_BESIDE = 60
"""Pixels beside the frame that lines are still drawn in."""

_POINTS = 190
"""About so many points a line has."""


@layer_kind("ridges", "Ridges")
class Ridges(HearsBands):
    """Lines of past spectra, one behind another."""

    summary: ClassVar[str] = "{rows} × {step} {unit}"
    has_depth: ClassVar[bool] = True
    turned: ClassVar[str] = ""
    designs: ClassVar[tuple[Design, ...]] = (
        Design("fields", "Ridges", {}),
        Design(
            "fields",
            "Ridges into the distance",
            {"deep": True, "rows": 40, "row_gap": 6.0, "colours": QUAY, "by": "age"},
        ),
        Design("fields", "Ridges, wide and low", {"rows": 14, "height": 12.0, "wide": 170.0, "colours": DUSK}),
        Design(
            "fields",
            "Ridges, time across",
            {"axis": "time", "rows": 28, "bands": 28, "height": 9.0, "colours": WARM, "by": "level"},
        ),
    )

    rows: int = whole(26, lo=1, hi=120, help="Lines, one behind another.")
    step: float = number(110, lo=0.05, hi=10_000, step=0.05, help="Time between lines, in the unit below.")
    unit: str = choice("ms", {"ms": "ms", "beats": "Beats"}, label="Step unit", help="Of the time between lines.")
    axis: str = choice(
        "bands",
        {"bands": "Bands", "time": "Time"},
        label="Along a line",
        help="Frequency along each line and time back, or time along each line and frequency back.",
    )
    wide: float = number(110, lo=1, hi=500, unit="%", label="Width", help="Of a line, of the frame's short side.")
    height: float = number(17, lo=0, hi=300, unit="%", help="Of the loud level, of the short side.")
    row_gap: float = number(2.6, lo=0.05, hi=100, unit="%", label="Line distance", help="Of the short side.")
    base_y: float = number(
        34, lo=-300, hi=300, unit="%", label="Front Y", help="Of the nearest line, below the middle, of the short side."
    )
    deep: bool = flag(False, label="Goes back", help="In depth, as on the ground; else one above another.")
    shrink: float = number(
        0, lo=0, hi=100, unit="%", step=1, help="How much narrower the farthest line is.", when=("deep", (False,))
    )
    taper: float = number(35, lo=0, hi=100, unit="%", step=1, help="How far lines are held down at their ends.")
    mirror: bool = flag(True, label="Mirror", help="Low bands in the middle, high ones to both sides.")
    line: float = number(0.28, lo=0.02, hi=10, unit="%", label="Line width", help="Of the short side.")
    filled: bool = flag(True, label="Hides", help="What is nearer hides what is behind it.")
    fill: str = colour("#0a0f22", label="Fill", help="Colour below a line.", when=("filled", (True,)))
    fill_opacity: float = number(
        100, lo=0, hi=100, unit="%", step=1, label="Fill opacity", group="colour", help="How solid the fill is."
    )
    colours: tuple[Stop, ...] = stops([(0.0, "#ffe3b0"), (0.5, "#f4eadb"), (1.0, "#bda9b4")], help="Of the lines.")
    by: str = choice(
        "age",
        {"age": "Line", "level": "Level", "place": "Place"},
        label="Colour by",
        group="colour",
        help="Which place of the gradient is taken.",
    )
    fade: float = number(
        70, lo=0, hi=100, unit="%", step=1, group="colour", help="How much fainter the farthest line is."
    )

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return Box(-1e5, -1e5, 1e5, 1e5)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        times, on = rows_of_time(at, self.rows, self.step, self.unit)
        heights = self.heights(at, times)
        if self.axis == "time":
            # Rows are bands; along a line is what was, the present first.
            heights = heights.T[::-1]
            on = 0.0
        count = len(heights)
        ages = np.arange(count) + (np.minimum(np.arange(count), 1)) * (on - 1.0 * (on > 0))
        line = self._line(heights)
        place = at.space.place if at.space else None
        camera = at.space.camera if at.space else Camera.standing(canvas, self._pose())
        onto = canvas.surface()
        if self.axis == "time":
            ages = np.arange(count, dtype=float)
        for row in range(count - 1, -1, -1):
            self._draw_row(onto, camera, place, line[row], float(ages[row]), count)

    def _pose(self) -> Pose:
        return Pose(elevation_deg=22.0, distance=1.1) if self.deep else Pose()

    def _line(self, heights: Values) -> Values:
        """Heights along each line, finely, held down at the ends; shape (rows, points)."""
        if self.mirror and self.axis == "bands":
            heights = np.concatenate([heights[:, ::-1], heights], axis=1)
        count = heights.shape[1]
        per_band = max(_POINTS // max(count - 1, 1), 2)
        fine = np.linspace(0, count - 1, (count - 1) * per_band + 1)
        low = np.minimum(fine.astype(int), count - 2)
        t = fine - low
        t = t * t * (3 - 2 * t)
        found = heights[:, low] * (1 - t) + heights[:, low + 1] * t
        ends = np.minimum(np.linspace(0, 1, len(fine)), np.linspace(1, 0, len(fine))) * 2
        share = self.taper / 100
        hold = np.clip(ends / max(share, 1e-6), 0, 1)
        return np.asarray(found * (hold * hold * (3 - 2 * hold)))

    def _draw_row(
        self, onto: skia.Canvas, camera: Camera, place: NDArray[np.float64] | None, line: Values, age: float, count: int
    ) -> None:
        share = age / max(count - 1, 1)
        wide = self.wide * (1 if self.deep else 1 - self.shrink / 100 * share)
        x = np.linspace(-wide / 2, wide / 2, len(line))
        base = np.full(len(line), self.base_y - (0 if self.deep else age * self.row_gap))
        z = np.full(len(line), -age * self.row_gap if self.deep else 0.0)
        top = np.stack([x, base - line * self.height, z], axis=1)
        # What is filled reaches down to where the next line stands, so that the ground hides what is behind it.
        below_y, below_z = (0.0, self.row_gap) if self.deep else (self.row_gap, 0.0)
        foot = np.stack([x, base + below_y, z + below_z], axis=1)
        if place is not None:
            top, foot = (points @ place[:3, :3].T + place[:3, 3] for points in (top, foot))
        seen, below = camera.seen(top), camera.seen(foot)
        if not (seen.there.all() and below.there.all()):
            return
        strong = (1 - self.fade / 100 * share) * (1 - float(camera.fog(seen.depth[:1])[0]))
        # A line comes and goes at the far end.
        strong *= float(np.clip(count - 1 - age, 0, 1)) if count > 1 and self.axis == "bands" else 1.0
        if strong <= 1 / 255:
            return
        # What lies beside the frame is not drawn.
        inside = np.flatnonzero((seen.x > -_BESIDE) & (seen.x < 2 * camera.middle[0] + _BESIDE))
        if not len(inside):
            return
        cut = slice(max(int(inside[0]) - 1, 0), int(inside[-1]) + 2)
        points, way, line = np.stack([seen.x[cut], seen.y[cut]], axis=1), np.linspace(0, 1, len(line))[cut], line[cut]
        shown = [skia.Point(*point) for point in points.tolist()]
        if self.filled:
            ends = below.x[cut], below.y[cut]
            feet = np.array([[ends[0][-1], ends[1][-1]], [ends[0][0], ends[1][0]]])
            builder = skia.PathBuilder()
            builder.addPolygon([*shown, *(skia.Point(*point) for point in feet.tolist())], True)
            solid = self.fill_opacity / 100 * min(strong * 4, 1.0)
            onto.drawPath(builder.detach(), skia.Paint(AntiAlias=True, Color=_packed(self.fill, solid)))
        width = max(self.line * float(np.median(seen.scale)), 0.7)
        paint = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=width)
        paint.setStrokeJoin(skia.Paint.kBevel_Join if width < 3 else skia.Paint.kRound_Join)
        table = ramp(self.colours, _TABLE, "oklab")
        if self.by == "age":
            builder = skia.PathBuilder()
            builder.addPolygon(shown, False)
            paint.setColor(_word(table[round(np.clip(share, 0, 1) * (_TABLE - 1))], strong))
            onto.drawPath(builder.detach(), paint)
            return
        along = line if self.by == "level" else way
        steps = np.rint(np.clip((along[:-1] + along[1:]) / 2, 0, 1) * 31).astype(int)
        begin = 0
        # Runs of one colour are one stroke.
        for end in [*(np.flatnonzero(np.diff(steps)) + 1).tolist(), len(steps)]:
            builder = skia.PathBuilder()
            builder.addPolygon(shown[begin : end + 1], False)
            paint.setColor(_word(table[round(steps[begin] / 31 * (_TABLE - 1))], strong))
            onto.drawPath(builder.detach(), paint)
            begin = end


def _packed(colour_: str, alpha: float) -> int:
    return round(alpha * 255) << 24 | int(colour_[1:], 16)


def _word(rgb: NDArray[np.float64], alpha: float) -> int:
    red, green, blue = (round(float(value) * 255) for value in rgb)
    return round(alpha * 255) << 24 | red << 16 | green << 8 | blue
