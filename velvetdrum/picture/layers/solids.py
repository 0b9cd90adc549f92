"""Solids: boxes, plates, cylinders and spheres that stand for bands, with rows of what was before."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, number, picture, stops, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.deep_layer import DeepLayer
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.marks.heard_bands import HearsBands, rows_of_time
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.space.camera import Pose
from velvetdrum.picture.space.covers import FaceTexture, picture_sheet
from velvetdrum.picture.space.solids import Mesh, boxes, picture_places
from velvetdrum.scene.designs import DUSK, QUAY, WARM, Design, Follow
from velvetdrum.scene.kinds import layer_kind

MOST = 4096
"""Solids that are drawn at once, at the most."""

_TABLE = 256
_ROWS = ("rows", tuple(range(2, 65)))
Values = NDArray[np.float64]


@layer_kind("solids", "Solids")
class Solids(HearsBands, DeepLayer):
    """Solids that grow with their bands, in a row, a ring, a grid or a spiral."""

    summary: ClassVar[str] = "{bands} × {rows}"
    turned: ClassVar[str] = ""
    designs: ClassVar[tuple[Design, ...]] = (
        Design(
            "space",
            "Row of boxes",
            {"bands": 24, "span": 150.0, "height": 50.0},
            follows=(Follow("shine", "hits", 5.0, 45.0),),
        ),
        Design(
            "space",
            "Rows of history",
            {"span": 150.0, "bands": 24, "rows": 12, "colours": QUAY, "rounding": 60.0},
            follows=(Follow("shine", "hits", 5.0, 45.0),),
        ),
        Design(
            "space",
            "Ring of pillars",
            {"span": 90.0, "base_y": 12.0, "order": "ring", "bands": 40, "form": "cylinder", "colours": DUSK},
            follows=(Follow("shine", "hits", 5.0, 45.0),),
        ),
        Design(
            "space",
            "Ring of spheres",
            {
                "span": 90.0,
                "base_y": 8.0,
                "order": "ring",
                "bands": 28,
                "form": "sphere",
                "grow": "middle",
                "height": 22.0,
                "colours": QUAY,
            },
            follows=(
                Follow("shine", "hits", 5.0, 45.0),
                Follow("span", "level", 80.0, 98.0),
            ),
        ),
        Design(
            "space",
            "City block",
            {"order": "grid", "bands": 64, "rounding": 30.0, "colours": WARM, "gap": 30.0},
            follows=(Follow("shine", "hits", 5.0, 45.0),),
        ),
        Design(
            "space",
            "Spiral stair",
            {"order": "spiral", "bands": 60, "colours": DUSK, "height": 24.0},
            follows=(Follow("shine", "hits", 5.0, 45.0),),
        ),
    )

    form: str = choice(
        "box",
        {"box": "Box", "plate": "Plate", "cylinder": "Cylinder", "sphere": "Sphere"},
        help="Shape of each solid.",
    )
    order: str = choice(
        "row",
        {"row": "Row", "ring": "Ring", "grid": "Grid", "spiral": "Spiral"},
        label="Arranged as",
        help="How bands stand beside each other.",
    )
    span: float = number(
        110, lo=1, hi=1000, unit="%", label="Width", help="Width of the whole, as a share of the frame's short side."
    )
    height: float = number(
        38, lo=0, hi=500, unit="%", help="Height of one at the loud level, as a share of the frame's short side."
    )
    least: float = percent(1.2, label="Minimum height", help="Height in silence.")
    gap: float = number(
        24, lo=0, hi=95, unit="%", step=1, help="Empty part between neighbours, of the room that each has."
    )
    grow: str = choice(
        "foot",
        {"foot": "Up", "both": "Both ways", "middle": "All ways"},
        label="Growth",
        help="From the floor, up and down from the middle, or to all sides.",
    )
    base_y: float = number(
        18,
        lo=-500,
        hi=500,
        unit="%",
        label="Foot Y",
        help="Height at which they stand, below the middle, of the short side.",
    )
    rounding: float = percent(35, step=1, help="How round their edges seem.")
    rows: int = whole(1, lo=1, hi=64, help="Rows of what was before, one behind another.")
    step: float = number(
        90, lo=0.05, hi=10_000, step=0.05, label="Row step", help="Time between rows, in the unit below.", when=_ROWS
    )
    unit: str = choice(
        "ms", {"ms": "ms", "beats": "Beats"}, label="Step unit", help="Unit of the time between rows.", when=_ROWS
    )
    row_gap: float = number(
        8,
        lo=0.1,
        hi=200,
        unit="%",
        label="Row distance",
        help="Row distance, as a share of the frame's short side.",
        when=_ROWS,
    )
    colours: tuple[Stop, ...] = stops(
        [(0.0, "#a99bff"), (0.5, "#ff7a66"), (1.0, "#ffe3b0")], help="Gradient that the solids take their colours from."
    )
    by: str = choice(
        "level",
        {"level": "Level", "band": "Band", "age": "Row"},
        label="Colour by",
        group="colour",
        help="Which place of the gradient each takes.",
    )
    faces: str = choice(
        "colour",
        {"colour": "Colour", "each": "A picture on each", "all": "One picture over all"},
        group="colour",
        help="What lies on them; a picture's clear parts show the colour.",
    )
    image: str = picture(label="Picture", help="Picture on the faces.", when=("faces", ("each", "all")))
    shine: float = percent(10, step=1, label="Own light", group="colour", help="How much of its colour shines.")

    @property
    def rest_pose(self) -> Pose:
        return Pose(look_at=(0.0, 0.0, 0.0), orbit_deg=-24.0, elevation_deg=20.0, distance=1.15)

    def meshes(self, view: Viewport, at: RenderContext) -> list[Mesh] | None:
        rows = min(self.rows, max(MOST // self.bands, 1)) if self.order == "row" else 1
        times, on = rows_of_time(at, rows, self.step, self.unit)
        heights = self.heights(at, times)
        x, z, wide = self._places()
        count, lift = len(x), np.zeros((rows, len(x)))
        if self.order == "spiral":
            lift[:] = np.linspace(0, -self.span / 4, count)
        # The present stands in front; what was before moves back until the next one comes.
        back = np.arange(rows) + (on if rows > 1 else 0.0) - (1 - np.minimum(np.arange(rows), 1)) * on
        xs = np.tile(x, rows)
        zs = np.tile(z, rows) - np.repeat(back * self.row_gap, count)
        tall = (heights * self.height + self.least).ravel()
        side = np.tile(wide, rows) * (1 - self.gap / 100) / 2
        deep = np.minimum(side, self.row_gap * (1 - self.gap / 100) / 2) if rows > 1 else side
        if self.grow == "middle":
            halves = np.stack([np.maximum(tall / 2, 0.01)] * 3, axis=1)
            halves = np.minimum(halves, np.stack([side * 2, tall / 2 + 1e-6, side * 2], axis=1))
            middle = np.full(len(xs), self.base_y) + lift.ravel()
        else:
            halves = np.stack([side, np.maximum(tall / 2, 0.01), deep], axis=1)
            rise = tall / 2 if self.grow == "foot" else 0.0
            middle = self.base_y - rise + lift.ravel()
        centres = np.stack([xs, middle, zs], axis=1)
        colours = self._colours(heights, back / max(rows - 1, 1))
        mesh = boxes(centres, halves, colours, self.form, self.rounding / 100)
        cover = None if self.faces == "colour" or not self.image else self._cover(mesh, centres, halves, at)
        return [replace(mesh, glow=self.shine / 100, cover=cover)]

    def _cover(self, mesh: Mesh, centres: Values, halves: Values, at: RenderContext) -> FaceTexture:
        """The picture on faces: whole on each, or from the first band to the last, so that growing shows more of it."""
        sheet, count = picture_sheet(at.media.get(self.image, "")), len(centres)
        if self.faces == "each":
            return FaceTexture(sheet, picture_places(self.form, count))
        each = len(mesh.corners) // count
        owner = np.repeat(np.arange(count), each)
        across = (mesh.corners[..., 0] - centres[owner, None, 0]) / halves[owner, None, 0] / 2 + 0.5
        full = self.height + self.least
        low = {"foot": -full, "both": -full / 2, "middle": -full / 2}[self.grow] + self.base_y
        # A spiral's steps carry it upward with them.
        lift = centres[:, 1] - (self.base_y - halves[:, 1] * (self.grow == "foot"))
        down = (mesh.corners[..., 1] - lift[owner, None] - low) / max(full, 1e-6)
        u = (owner[:, None] % self.bands + across) / self.bands
        return FaceTexture(sheet, np.clip(np.stack([u, down], axis=2), 0, 1))

    def _places(self) -> tuple[NDArray[Any], NDArray[Any], NDArray[Any]]:
        """Where bands stand on the floor, in per cent of the short side, and how much room each has."""
        count, radius = self.bands, self.span / 2
        number_ = np.arange(count)
        match self.order:
            case "ring":
                angle = 2 * np.pi * number_ / count
                return (
                    radius * np.sin(angle),
                    radius * np.cos(angle),
                    np.full(count, min(2 * np.pi * radius / count, radius)),
                )
            case "grid":
                side = int(np.ceil(np.sqrt(count)))
                pitch = self.span / side
                # Low bands in the middle: places are taken from there outward.
                spots = np.array([(i, j) for i in range(side) for j in range(side)], float) - (side - 1) / 2
                nearest = np.argsort(np.hypot(*spots.T), kind="stable")[:count]
                return spots[nearest, 0] * pitch, spots[nearest, 1] * pitch, np.full(count, pitch)
            case "spiral":
                angle = number_ / 12 * 2 * np.pi
                away = radius * (0.35 + 0.65 * number_ / max(count - 1, 1))
                return away * np.sin(angle), away * np.cos(angle), np.asarray(2 * np.pi * away / 14)
        pitch = self.span / count
        return (number_ - (count - 1) / 2) * pitch, np.zeros(count), np.full(count, pitch)

    def _colours(self, heights: Values, ages: Values) -> Values:
        table = ramp(self.colours, _TABLE, "oklab")
        rows, count = heights.shape
        place = {
            "level": heights,
            "band": np.tile(np.linspace(0, 1, count), (rows, 1)),
            "age": np.repeat(np.clip(ages, 0, 1)[:, None], count, axis=1),
        }[self.by]
        return np.asarray(table[np.rint(place.ravel() * (_TABLE - 1)).astype(int)])

    def notes(self, at: RenderContext) -> list[str]:
        most = max(MOST // self.bands, 1)
        if self.faces != "colour" and not self.image:
            return ["No picture is chosen for the faces; they keep their colour."]
        if self.order == "row" and self.rows > most:
            return [f"{self.rows} rows of {self.bands} are more than {MOST:,} solids; {most} rows are drawn."]
        return []
