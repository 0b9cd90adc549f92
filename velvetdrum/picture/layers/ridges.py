"""Ridges: past spectra as lines one behind another, nearer ones hiding farther ones."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.oklab import parse_hex, ramp
from velvetdrum.declare.settings import Stop, choice, colour, flag, number, stops, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.marks.heard_bands import HearsBands, rows_of_time
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.particles import premultiplied
from velvetdrum.picture.raster.polylines import draw_lines
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.space.camera import Camera, Pose, Values
from velvetdrum.scene.designs import DUSK, QUAY, WARM, Design
from velvetdrum.scene.kinds import layer_kind

_TABLE = 256
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

    rows: int = whole(26, lo=1, hi=120, help="Number of lines, one behind another.")
    step: float = number(110, lo=0.05, hi=10_000, step=0.05, help="Time between lines, in the unit below.")
    unit: str = choice("ms", {"ms": "ms", "beats": "Beats"}, label="Step unit", help="Unit of the time between lines.")
    axis: str = choice(
        "bands",
        {"bands": "Bands", "time": "Time"},
        label="Along a line",
        help="Frequency along each line and time back, or time along each line and frequency back.",
    )
    wide: float = number(
        110, lo=1, hi=500, unit="%", label="Width", help="Width of a line, as a share of the frame's short side."
    )
    height: float = number(
        17, lo=0, hi=300, unit="%", help="Height at the loud level, as a share of the frame's short side."
    )
    row_gap: float = number(
        2.6,
        lo=0.05,
        hi=100,
        unit="%",
        label="Line distance",
        help="Line distance, as a share of the frame's short side.",
    )
    base_y: float = number(
        34,
        lo=-300,
        hi=300,
        unit="%",
        label="Front Y",
        help="Position of the nearest line below the middle, as a share of the frame's short side.",
    )
    deep: bool = flag(
        False, label="In perspective", help="Lines recede as on the ground, instead of standing one above another."
    )
    shrink: float = percent(0, step=1, help="How much narrower the farthest line is.", when=("deep", (False,)))
    taper: float = percent(35, step=1, help="How far lines are held down at their ends.")
    mirror: bool = flag(True, label="Mirror", help="Low bands in the middle, high ones to both sides.")
    line: float = number(
        0.28, lo=0.02, hi=10, unit="%", label="Line width", help="Line width, as a share of the frame's short side."
    )
    filled: bool = flag(True, label="Occlusion", help="Nearer lines hide what is behind them.")
    fill: str = colour("#0a0f22", label="Fill", help="Colour below a line.", when=("filled", (True,)))
    fill_opacity: float = percent(100, step=1, label="Fill opacity", group="colour", help="How solid the fill is.")
    colours: tuple[Stop, ...] = stops(
        [(0.0, "#ffe3b0"), (0.5, "#f4eadb"), (1.0, "#bda9b4")], help="Colours of the lines."
    )
    by: str = choice(
        "age",
        {"age": "Line", "level": "Level", "place": "Place"},
        label="Colour by",
        group="colour",
        help="Which place of the gradient is taken.",
    )
    fade: float = percent(70, step=1, group="colour", help="How much fainter the farthest line is.")

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
        ages = np.arange(count, dtype=float)
        if self.axis == "bands":
            # The present stands in front; the others have moved back by now.
            ages[1:] += on - (on > 0)
        camera = at.space.camera if at.space else Camera.standing(canvas, self._pose())
        self._draw_rows(canvas, camera, at.space.place if at.space else None, self._line(heights), ages)

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
        result = heights[:, low] * (1 - t) + heights[:, low + 1] * t
        ends = np.minimum(np.linspace(0, 1, len(fine)), np.linspace(1, 0, len(fine))) * 2
        share = self.taper / 100
        hold = np.clip(ends / max(share, 1e-6), 0, 1)
        return np.asarray(result * (hold * hold * (3 - 2 * hold)))

    def _draw_rows(self, canvas: Canvas, camera: Camera, place: Values | None, lines: Values, ages: Values) -> None:
        count, points = lines.shape
        share = ages / max(count - 1, 1)
        wide = self.wide * (np.ones(count) if self.deep else 1 - self.shrink / 100 * share)
        x = np.linspace(-0.5, 0.5, points) * wide[:, None]
        back = ages[:, None] * self.row_gap * np.ones(points)
        base = np.full((count, points), self.base_y) if self.deep else self.base_y - back
        z = -back if self.deep else np.zeros((count, points))
        top = np.stack([x, base - lines * self.height, z], axis=2)
        # What is filled reaches down to where the next line stands, so that the ground hides what is behind it.
        below_y, below_z = (0.0, self.row_gap) if self.deep else (self.row_gap, 0.0)
        foot = np.stack([x, base + below_y, z + below_z], axis=2)[:, [0, -1]]
        if place is not None:
            top, foot = (at @ place[:3, :3].T + place[:3, 3] for at in (top, foot))
        seen, below = camera.seen(top.reshape(-1, 3)), camera.seen(foot.reshape(-1, 3))
        there = seen.there.reshape(count, points).all(axis=1) & below.there.reshape(count, 2).all(axis=1)
        strong = (1 - self.fade / 100 * share) * (1 - camera.fog(seen.depth).reshape(count, points)[:, 0])
        if count > 1 and self.axis == "bands":
            # A line comes and goes at the far end.
            strong = strong * np.clip(count - 1 - ages, 0, 1)
        shown = np.flatnonzero(there & (strong > 1 / 255))[::-1]
        if not len(shown):
            return
        on_frame = np.stack([seen.x, seen.y], axis=1).reshape(count, points, 2)[shown]
        feet = np.stack([below.x, below.y], axis=1).reshape(count, 2, 2)[shown]
        widths = np.maximum(self.line * np.median(seen.scale.reshape(count, points), axis=1), 0.7)[shown]
        strong, share = strong[shown], share[shown]
        fills = np.zeros(len(shown), np.uint32)
        if self.filled:
            tone = np.broadcast_to(parse_hex(self.fill), (len(shown), 3))
            fills = premultiplied(tone, self.fill_opacity / 100 * np.minimum(strong * 4, 1.0))
        colours = self._colours(lines[shown], share)
        words = premultiplied(colours.reshape(-1, 3), np.repeat(strong, points - 1)).reshape(len(shown), points - 1)
        draw_lines(canvas, on_frame, feet, fills, widths, words)

    def _colours(self, lines: Values, share: Values) -> Values:
        """A colour for each segment of each line, shape (lines, points - 1, 3)."""
        table, count = ramp(self.colours, _TABLE, "oklab"), lines.shape[1] - 1
        along = {
            "age": np.repeat(share[:, None], count, axis=1),
            "level": (lines[:, :-1] + lines[:, 1:]) / 2,
            "place": np.tile((np.arange(count) + 0.5) / count, (len(lines), 1)),
        }[self.by]
        return np.asarray(table[np.rint(np.clip(along, 0, 1) * (_TABLE - 1)).astype(int)])
