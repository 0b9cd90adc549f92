"""A field of dots or strokes that flow, are pushed by balls, twisted, and waved by the sound."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE
from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, flag, number, rate, stops, whole
from velvetdrum.declare.vocabulary import degrees, percent, seed
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.deep_layer import DeepLayer
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.marks.heard_bands import HearsBands
from velvetdrum.picture.raster.kernels import flow
from velvetdrum.picture.raster.particles import form_picture
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.space.camera import Pose
from velvetdrum.picture.space.clouds import Brush, Cloud
from velvetdrum.scene.designs import DUSK, QUAY, WARM, Design, Follow
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.births import chances
from velvetdrum.signals.waves import samples

MOST_DOTS = 30_000
"""Dots of a field, at the most."""

_TABLE = 256
_SAMPLES = 960
_GRID = ("form", ("grid",))
_WAVED = ("wave", ("spectrum", "samples"))
Values = NDArray[np.float64]


@layer_kind("dot-field", "Dot field")
class DotField(HearsBands, DeepLayer):
    """Dots in even rows that flow and give way to balls."""

    summary: ClassVar[str] = "{columns} × {rows}"
    turned: ClassVar[str] = ""
    balls: ClassVar[tuple[tuple[str, ...], ...]] = (
        ("ball_x", "ball_y", "ball", "ball_z"),
        ("well_x", "well_y", "well"),
    )
    designs: ClassVar[tuple[Design, ...]] = (
        Design(
            "fields",
            "Flowing dots",
            {},
            follows=(
                Follow("flow_amount", "level", 1.5, 7.0),
                Follow("dot", "hits", 0.6, 1.1),
            ),
        ),
        Design(
            "fields",
            "Sphere of dots",
            {"form": "sphere", "columns": 48, "rows": 24, "dot": 0.9, "colours": DUSK},
            follows=(
                Follow("wide", "level", 150.0, 185.0),
                Follow("flow_amount", "hits", 1.0, 7.0),
            ),
        ),
        Design(
            "fields",
            "Rings and spokes",
            {"form": "rings", "columns": 60, "rows": 14, "wide": 84.0, "wave": "spectrum", "colours": WARM},
            follows=(Follow("twist", "level", -20.0, 40.0),),
        ),
        Design(
            "fields",
            "Sound carpet",
            {
                "columns": 56,
                "rows": 30,
                "lies": True,
                "wide": 170.0,
                "high": 120.0,
                "wave": "spectrum",
                "wave_amount": 26.0,
                "flow_amount": 1.5,
                "by": "level",
                "colours": QUAY,
            },
            follows=(Follow("flow_amount", "level", 1.0, 4.0),),
        ),
        Design(
            "fields",
            "Woven net",
            {"columns": 26, "rows": 15, "links": 70.0, "dot": 0.9, "flow_amount": 6.0, "colours": QUAY},
            follows=(
                Follow("flow_amount", "level", 3.0, 10.0),
                Follow("links", "hits", 45.0, 100.0),
            ),
        ),
        Design(
            "fields",
            "Strokes in the stream",
            {"stroke": True, "columns": 40, "rows": 22, "dot": 2.6, "flow_amount": 5.0, "colours": DUSK},
            follows=(
                Follow("flow_amount", "level", 3.0, 9.0),
                Follow("dot", "hits", 2.2, 3.6),
            ),
        ),
        Design(
            "fields",
            "Parted by a ball",
            {"columns": 48, "rows": 27, "ball": 30.0, "ball_strength": 100.0, "by": "moved", "colours": WARM},
            follows=(Follow("ball", "level", 12.0, 38.0),),
        ),
        Design(
            "fields",
            "Cube of dots",
            {"columns": 12, "rows": 12, "layers": 12, "wide": 60.0, "high": 60.0, "deep": 60.0, "dot": 0.8},
            follows=(
                Follow("flow_amount", "level", 1.0, 9.0),
                Follow("dot", "hits", 0.6, 1.4),
            ),
        ),
    )

    form: str = choice(
        "grid",
        {"grid": "Grid", "rings": "Rings and spokes", "sphere": "Sphere"},
        label="Arrangement",
        help="Arrangement of the dots at rest.",
    )
    columns: int = whole(48, lo=1, hi=256, help="Dots across, or spokes.")
    rows: int = whole(27, lo=1, hi=256, help="Dots down, or rings.")
    layers: int = whole(1, lo=1, hi=32, help="Number of sheets, one behind another.", when=_GRID)
    wide: float = number(
        172, lo=1, hi=1000, unit="%", label="Width", help="Width of the whole, as a share of the frame's short side."
    )
    high: float = number(
        96,
        lo=1,
        hi=1000,
        unit="%",
        label="Height",
        help="Height of the whole, as a share of the frame's short side.",
        when=_GRID,
    )
    deep: float = number(
        60,
        lo=0,
        hi=1000,
        unit="%",
        label="Depth",
        help="Depth of the whole, as a share of the frame's short side.",
        when=_GRID,
    )
    lies: bool = flag(
        False, label="In perspective", help="Dots lie as on the ground before the viewer, instead of standing upright."
    )
    dot: float = number(
        0.7, lo=0.02, hi=30, unit="%", label="Size", help="Size of a dot, as a share of the frame's short side."
    )
    stroke: bool = flag(False, label="Strokes", help="Short lines along the stream in place of dots.")
    scatter: float = percent(0, help="How far dots lie off their places, by chance.")
    seed: int = seed(of="another field")
    links: float = percent(0, step=1, help="How solid the lines between neighbours are.")
    link_width: float = number(0.12, lo=0.02, hi=5, unit="%", step=0.02, help="Width of these lines.", advanced=True)
    link_reach: float = number(
        180,
        lo=10,
        hi=1000,
        unit="%",
        step=1,
        help="Distance at which a link has faded out, as a multiple of that at rest.",
        advanced=True,
    )

    flow_amount: float = percent(2.4, label="Flow", group="motion", help="How far it moves dots.")
    flow_scale: float = number(
        40,
        lo=1,
        hi=500,
        unit="%",
        label="Flow size",
        group="motion",
        help="Size of the waves, as a share of the frame's short side.",
    )
    flow_speed: float = rate(
        10, lo=0, hi=400, unit="%/s", label="Flow speed", group="motion", help="How fast it drifts."
    )
    flow_heading: float = degrees(0, label="Flow direction", group="motion", help="Direction of the flow; 0 is up.")
    flow_detail: int = whole(
        2, lo=1, hi=4, label="Flow detail", group="motion", help="Number of wave sizes that are added up."
    )
    boil: float = rate(
        0.25,
        lo=0,
        hi=5,
        unit="Hz",
        group="motion",
        label="Rate of change",
        help="Rate at which the noise changes in place.",
    )
    rise: float = rate(
        0,
        lo=-200,
        hi=200,
        unit="%/s",
        group="motion",
        help="How fast all move up; what leaves at the top comes again from below.",
        when=_GRID,
    )
    ball: float = number(
        0, lo=0, hi=300, unit="%", label="Ball radius", group="motion", help="Radius of the ball that pushes dots away."
    )
    ball_x: float = number(
        0,
        lo=-500,
        hi=500,
        unit="%",
        label="Ball X",
        group="motion",
        help="Position of the ball, to the right of the frame's middle, of its short side.",
    )
    ball_y: float = number(
        0,
        lo=-500,
        hi=500,
        unit="%",
        label="Ball Y",
        group="motion",
        help="Position of the ball, below the frame's middle, of its short side.",
    )
    ball_z: float = number(
        0, lo=-500, hi=500, unit="%", label="Ball Z", group="motion", help="Position of the ball, toward the viewer."
    )
    ball_strength: float = number(
        100,
        lo=-200,
        hi=200,
        unit="%",
        step=1,
        label="Push",
        group="motion",
        help="Pushes dots out of the ball; below 0, into it.",
    )
    ball_falloff: float = number(
        2,
        lo=0.2,
        hi=8,
        step=0.1,
        label="Falloff",
        group="motion",
        help="How quickly the push weakens with distance.",
        advanced=True,
    )
    well: float = number(
        0, lo=0, hi=300, unit="%", label="Second ball", group="motion", help="Radius of the second ball."
    )
    well_x: float = number(
        30,
        lo=-500,
        hi=500,
        unit="%",
        label="Second X",
        group="motion",
        help="Position of the second ball, to the right of the frame's middle, of its short side.",
    )
    well_y: float = number(
        0,
        lo=-500,
        hi=500,
        unit="%",
        label="Second Y",
        group="motion",
        help="Position of the second ball, below the frame's middle, of its short side.",
    )
    well_strength: float = number(
        -60,
        lo=-200,
        hi=200,
        unit="%",
        step=1,
        label="Second push",
        group="motion",
        help="Pushes dots out of the second ball; below 0, into it.",
    )
    twist: float = degrees(
        0, lo=-1440, hi=1440, group="motion", help="Rotation that grows from the middle to the edge."
    )
    wave: str = choice(
        "none",
        {"none": "None", "spectrum": "Spectrum", "samples": "Waveform"},
        label="Wave source",
        group="motion",
        help="What lifts the dots: columns are bands, or the samples of a fiftieth of a second; rows are time ago.",
    )
    wave_amount: float = number(
        18,
        lo=-300,
        hi=300,
        unit="%",
        group="motion",
        help="How far the loud level lifts.",
        when=("wave", ("spectrum",)),
    )
    wave_step: float = number(
        40, lo=1, hi=2000, unit="ms", step=1, group="motion", help="Time from row to row.", when=_WAVED
    )

    colours: tuple[Stop, ...] = stops(
        [(0.0, "#5fc4b4"), (0.6, "#a99bff"), (1.0, "#ff7a66")],
        help="Gradient that the elements take their colours from.",
    )
    by: str = choice(
        "place",
        {"place": "Place", "level": "Level", "depth": "Depth", "moved": "How far moved"},
        label="Colour by",
        group="colour",
        help="Which place of the gradient each takes.",
    )
    opacity: float = percent(100, step=1, group="colour", help="How solid they are.")
    swell: float = number(
        60,
        lo=0,
        hi=400,
        unit="%",
        step=1,
        group="colour",
        label="Size variation",
        help="How much larger the dots are whose colour is at the end of the gradient.",
    )
    adds: bool = flag(True, label="Light adds up", group="colour", help="Plus-lighter, or one over another.")

    @property
    def rest_pose(self) -> Pose:
        return Pose(elevation_deg=24.0, distance=1.05) if self.lies else Pose()

    def clouds(self, view: Viewport, at: RenderContext) -> list[Cloud] | None:
        seconds = float(at.time)
        rest, columns, rows, across, down = self._rest()
        places = rest.copy()
        rises = self.form == "grid" and bool(self.rise or "rise" in self.integrals)
        if rises:
            places[:, 1] = (places[:, 1] - self.integral("rise", seconds) + self.high / 2) % self.high - self.high / 2
        start = places.copy()
        push = self._flow(places, seconds)
        places = places + push
        levels = np.zeros(len(places))
        if self.wave != "none":
            levels = self._levels(at, across, down)
            lift = levels * self.wave_amount
            levels = np.abs(levels)
            if self.form == "sphere":
                places = places * (1 + lift / max(self.wide / 2, 1e-6))[:, None]
            else:
                places[:, 2 if not self.lies else 1] += lift * (1 if not self.lies else -1)
        if self.twist:
            angle = np.deg2rad(self.twist) * np.hypot(places[:, 0], places[:, 1]) / max(self.wide / 2, 1e-6)
            cos, sin = np.cos(angle), np.sin(angle)
            places[:, 0], places[:, 1] = (
                places[:, 0] * cos - places[:, 1] * sin,
                places[:, 0] * sin + places[:, 1] * cos,
            )
        for x, y, z, radius, strength in (
            (self.ball_x, self.ball_y, self.ball_z, self.ball, self.ball_strength),
            (self.well_x, self.well_y, 0.0, self.well, self.well_strength),
        ):
            if radius > 0 and strength:
                places = pushed(places, np.array([x, y, z]), radius, strength / 100, self.ball_falloff)
        moved = np.linalg.norm(places - start, axis=1)
        place = self._along(rest, places, levels, moved)
        colours = ramp(self.colours, _TABLE, "oklab")[np.rint(np.clip(place, 0, 1) * (_TABLE - 1)).astype(int)]
        sizes = self.dot * (1 + self.swell / 100 * np.clip(place, 0, 1))
        alphas = np.full(len(places), self.opacity / 100)
        if rises:
            edge = 1 - np.abs(start[:, 1]) / (self.high / 2)
            alphas = alphas * np.clip(edge * 6, 0, 1)
        angles = np.arctan2(push[:, 1], push[:, 0]) if self.stroke else None
        brush = Brush("disc", form_picture("streak") if self.stroke else None, "form", self.adds)
        links, strong = (None, None) if self.links <= 0 else self._links(rest, places, columns, rows)
        return [Cloud(places, sizes, colours, alphas, brush, angles, links, strong, self.link_width)]

    def _rest(self) -> tuple[Values, int, int, Values, Values]:
        """Dots at rest, and the column and row of each, as shares from 0 to 1."""
        columns, rows = self.columns, self.rows
        layers = self.layers if self.form == "grid" else 1
        while columns * rows * layers > MOST_DOTS:
            columns, rows = max(columns * 9 // 10, 1), max(rows * 9 // 10, 1)
        form = (self.form, columns, rows, layers, self.wide, self.high, self.deep, self.lies)
        rest, across, down = _resting(*form)
        if self.scatter:
            number_ = np.arange(len(rest))
            off = np.stack([chances(self.seed, number_, 20 + axis) - 0.5 for axis in range(3)], axis=1)
            rest = rest + off * self.scatter / 100 * self.wide / max(columns, 1) * 2
        return rest, columns, rows * layers, across, down

    def _flow(self, places: Values, seconds: float) -> Values:
        if self.flow_amount <= 0:
            return np.zeros_like(places)
        angle = np.deg2rad(self.flow_heading)
        drift = np.array([np.sin(angle), -np.cos(angle), 0.0]) * self.integral("flow_speed", seconds)
        at = np.ascontiguousarray((places - drift) / self.flow_scale, np.float64)
        out = np.empty_like(at)
        flow.flow(at, self.integral("boil", seconds), self.seed, self.flow_detail, out)
        return out * self.flow_amount

    def _levels(self, at: RenderContext, across: Values, down: Values) -> Values:
        now = float(at.time)
        count = max(min(self.rows, 128), 1)
        times = [now - row * self.wave_step / 1000 for row in range(count)]
        heights = self.heights(at, times) if self.wave == "spectrum" else self._samples(at, times)
        band = across * (heights.shape[1] - 1)
        low = np.minimum(band.astype(int), heights.shape[1] - 2)
        part = band - low
        row = np.minimum(np.rint((1 - down) * (count - 1)).astype(int), count - 1)
        return np.asarray(heights[row, low] * (1 - part) + heights[row, low + 1] * part)

    def _samples(self, at: RenderContext, times: list[float]) -> Values:
        """The samples about each moment, -1 to 1, shape (times, samples)."""
        out = np.zeros((len(times), _SAMPLES))
        for row, time in enumerate(times):
            if at.use is not None and time >= 0:
                first = round((at.use.in_s + time) * RATE) - _SAMPLES // 2
                out[row] = samples(at.use, self.channel, first, _SAMPLES)
        return out

    def _along(self, rest: Values, places: Values, levels: Values, moved: Values) -> Values:
        match self.by:
            case "level":
                return levels
            case "depth":
                span = max(float(np.ptp(rest[:, 2])), 1e-6)
                return (places[:, 2] - rest[:, 2].min()) / span
            case "moved":
                return moved / max(self.ball / 2, self.flow_amount, 1e-6)
        return places[:, 0] / max(self.wide, 1e-6) + 0.5

    def _links(self, rest: Values, places: Values, columns: int, rows: int) -> tuple[NDArray[np.int64], Values]:
        pairs = _neighbours(columns, rows, self.form)
        pairs = pairs[(pairs < len(places)).all(axis=1)]
        ends = places[pairs[:, 0]] - places[pairs[:, 1]]
        quiet = rest[pairs[:, 0]] - rest[pairs[:, 1]]
        stretch = np.linalg.norm(ends, axis=1) / np.maximum(np.linalg.norm(quiet, axis=1), 1e-6)
        reach = self.link_reach / 100
        return pairs, np.clip((reach - stretch) / max(reach - 0.8, 0.2), 0, 1) * self.links / 100


def pushed(places: Values, middle: Values, radius: float, strength: float, falloff: float) -> Values:
    """Places moved away from a ball's middle (toward it below 0), shape (n, 3): with all of the strength none is left
    inside of it; beyond it the push falls with the distance, d -> d + s r exp(-(d / r) ^ falloff)."""
    way = places - middle
    away = np.linalg.norm(way, axis=1)
    further = strength * radius * np.exp(-((away / radius) ** falloff))
    return np.asarray(places + way / np.maximum(away, 1e-9)[:, None] * np.maximum(further, -away)[:, None])


@cached
def _resting(
    form: str, columns: int, rows: int, layers: int, wide: float, high: float, deep: float, lies: bool
) -> tuple[Values, Values, Values]:
    places: Any
    u, v = (np.arange(columns) + 0.5) / columns, (np.arange(rows) + 0.5) / rows
    if form == "grid":
        w = (np.arange(layers) + 0.5) / layers
        sheet, down, across = (values.ravel() for values in np.meshgrid(w, v, u, indexing="ij"))
        places = np.stack([(across - 0.5) * wide, (down - 0.5) * high, (sheet - 0.5) * deep], axis=1)
        if layers == 1:
            places[:, 2] = 0.0
    else:
        down, across = (values.ravel() for values in np.meshgrid(v, u, indexing="ij"))
        angle = across * 2 * np.pi
        if form == "rings":
            away = (down * 0.9 + 0.1) * wide / 2
            places = np.stack([away * np.sin(angle), -away * np.cos(angle), np.zeros(len(away))], axis=1)
            # The same spectrum to both sides: no step where the ring closes.
            across = 1 - np.abs(2 * across - 1)
        else:
            polar = np.arccos(1 - 2 * down)
            places = np.stack([np.sin(polar) * np.sin(angle), -np.cos(polar), np.sin(polar) * np.cos(angle)], axis=1)
            places *= wide / 2 * 0.45
            across = 1 - np.abs(2 * across - 1)
    if lies:
        places = np.stack([places[:, 0], places[:, 2] + 16.0, places[:, 1]], axis=1)
    return places, across, down


@cached
def _neighbours(columns: int, rows: int, form: str) -> NDArray[np.int64]:
    number_ = np.arange(columns * rows).reshape(rows, columns)
    right = np.stack([number_[:, :-1].ravel(), number_[:, 1:].ravel()], axis=1)
    below = np.stack([number_[:-1].ravel(), number_[1:].ravel()], axis=1)
    result = [right, below]
    if form != "grid":
        result.append(np.stack([number_[:, -1], number_[:, 0]], axis=1))
    return np.concatenate(result).astype(np.int64)
