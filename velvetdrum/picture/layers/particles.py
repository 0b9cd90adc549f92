"""Particles: small marks that leave a shape, fly, and fade; any frame alone is what it is after all before it."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import (
    CurvePoint,
    Stop,
    choice,
    curve,
    curve_at,
    flag,
    number,
    picture,
    rate,
    stops,
    whole,
)
from velvetdrum.declare.vocabulary import degrees, percent, seed
from velvetdrum.picture.bases.deep_layer import DeepLayer
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.picture.figures.base_shape import OnShape, bounds
from velvetdrum.picture.figures.emission.designs import DESIGNS
from velvetdrum.picture.figures.emission.emitters import Births, at_point, on_curve, within_picture, within_shape
from velvetdrum.picture.figures.emission.motion import Forces, flown, turned
from velvetdrum.picture.figures.emission.particle_forms import Born, ParticleForms
from velvetdrum.picture.figures.emission.ways import Ways
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.space.clouds import Cloud
from velvetdrum.scene.designs import Design, Sizing
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.births import STEP_S, Emission, chances, rises

MOST_ALIVE = 40_000
"""Particles that are drawn at once, at the most."""

_TABLE = 256
_BURST = 1 << 40
"""Numbers of burst particles begin here, so that they have chances of their own."""

Values = NDArray[np.float64]
_FROM_PICTURE = ("source", ("picture",))


@layer_kind("particles", "Particles")
class Particles(OnShape, ParticleForms, Ways, DeepLayer):
    """Marks that leave a shape, driven by the sound, and fade."""

    designs: ClassVar[tuple[Design, ...]] = DESIGNS
    sizings: ClassVar[tuple[Sizing, ...]] = (
        Sizing(across=("width",), when=(("base", ("line",)), ("turn", (0,)))),
        Sizing(both=("radius",), when=(("base", ("ring", "arc", "polygon")),)),
        Sizing(both=("size",), when=(("base", ("path", "text")),)),
    )
    first = ("form", "rate", "life", "speed", "dot", "base")
    begins: ClassVar[dict[str, object]] = {"base": "ring", "y": 50.0, "radius": 22.0}
    grow = "out"
    mirror = False
    reverse = False
    repeat = 1
    start = 0.0

    rate: float = rate(
        90, lo=0, hi=5000, unit="/s", step=1, curve="linear", help="How many are born a second, as it is then."
    )
    burst_on: str = choice(
        "none",
        {"none": "None", "beats": "Beats", "bars": "Bars", "hit": "Hits"},
        label="Burst on",
        help="When many are born at once.",
    )
    burst: int = whole(
        60,
        lo=1,
        hi=2000,
        label="Burst count",
        help="Number of particles in a burst.",
        when=("burst_on", ("beats", "bars", "hit")),
    )
    hit: float = percent(0, step=1, help="Give it a signal: beyond 50 a burst comes.", when=("burst_on", ("hit",)))
    source: str = choice(
        "shape",
        {"shape": "The shape", "point": "A point", "picture": "A picture"},
        label="Born on",
        help="The base shape, its middle alone, or the opaque area of a picture about its place.",
    )
    source_image: str = picture(
        label="Born in picture", help="Picture in whose opaque area particles are born.", when=_FROM_PICTURE
    )
    source_size: float = number(
        60,
        lo=1,
        hi=300,
        unit="%",
        label="Picture size",
        help="Longer side of a picture, of the frame's short side.",
        when=_FROM_PICTURE,
    )
    inside: bool = flag(False, label="From inside", help="Born anywhere within the shape, or on its curve.")
    even: bool = flag(False, label="Evenly", help="One after another along the curve, or anywhere on it.")
    seed: int = seed(of="other particles")

    life: float = number(
        2.5, lo=0.05, hi=60, unit="s", step=0.05, group="motion", help="How long one lives, from birth."
    )
    life_spread: float = percent(30, step=1, group="motion", help="How far lives differ from each other, by chance.")
    speed: float = number(
        24,
        lo=-400,
        hi=400,
        unit="%/s",
        step=0.5,
        group="motion",
        help="Speed at birth, in shares of the frame's short side.",
    )
    speed_spread: float = percent(40, step=1, group="motion", help="How far speeds differ from each other, by chance.")
    heading: str = choice(
        "outward",
        {"outward": "Outward", "along": "Along", "fixed": "One way", "any": "Any way"},
        group="motion",
        help="Direction in which particles set out.",
    )
    direction: float = degrees(0, group="motion", help="The one way: 0 is up.", when=("heading", ("fixed",)))
    spread: float = degrees(20, lo=0, group="motion", help="How far they stray from it.")
    gravity: float = number(
        0, lo=-500, hi=500, unit="%/s²", step=1, group="motion", help="Downward; on all that live, as it is now."
    )
    drag: float = number(0.6, lo=0, hi=10, unit="1/s", step=0.1, group="motion", help="How fast they slow down.")
    wind: float = number(
        0, lo=-200, hi=200, unit="%/s", step=1, group="motion", help="To the right; on all that live, as it is now."
    )
    orbit: float = number(
        0,
        lo=-1440,
        hi=1440,
        unit="°/s",
        step=1,
        group="motion",
        help="How fast particles circle the shape's middle, all of them as it is set now.",
    )
    wander: float = number(2, lo=0, hi=60, unit="%", group="motion", help="How far each one strays from its path.")
    wander_rate: float = number(0.5, lo=0.05, hi=5, unit="Hz", step=0.05, group="motion", help="How often it turns.")
    curl_size: float = number(
        0,
        lo=0,
        hi=300,
        unit="%",
        group="motion",
        label="Turbulence",
        help="Size of the eddies that carry neighbours alike; at 0 each particle strays by itself.",
    )
    stray_z: float = percent(
        50,
        step=1,
        label="Spread in depth",
        group="motion",
        help="How far particles stray toward the viewer and away, in a space.",
    )
    turning: float = number(
        0, lo=-1440, hi=1440, unit="°/s", step=1, label="Spin", group="motion", help="How fast each turns, from birth."
    )

    dot: float = number(1.1, lo=0.05, hi=60, unit="%", label="Size", help="How wide each is; what it is at its birth.")
    dot_spread: float = percent(
        50, step=1, label="Size spread", help="How far sizes differ from each other, by chance."
    )
    size_life: tuple[CurvePoint, ...] = curve(
        [(0.0, 100.0), (1.0, 20.0)],
        lo=0,
        hi=400,
        label="Size over life",
        help="Size from birth to end, as a share of its own.",
    )
    opacity: float = percent(100, step=1, group="colour", help="How solid they are.")
    opacity_life: tuple[CurvePoint, ...] = curve(
        [(0.0, 0.0), (0.06, 100.0), (0.4, 100.0), (1.0, 0.0)],
        lo=0,
        hi=100,
        label="Opacity over life",
        group="colour",
        help="From birth to end.",
    )
    colours: tuple[Stop, ...] = stops(
        [(0.0, "#fff3d6"), (0.4, "#f0b866"), (1.0, "#ff7a66")],
        label="Colours",
        help="Gradient that the elements take their colours from.",
    )
    by: str = choice(
        "age",
        {"age": "Age", "seed": "Chance", "speed": "Speed", "place": "Place", "tone": "Tone"},
        label="Colour by",
        group="colour",
        help="Which place of the gradient each takes.",
    )
    tone: float = percent(
        50,
        step=1,
        group="colour",
        help="Place in the gradient; what it is at its birth. For signals.",
        when=("by", ("tone",)),
    )
    hard: bool = flag(False, label="Hard steps", group="colour", help="One of the colours each, unmixed.")
    adds: bool = flag(True, label="Light adds up", group="colour", help="Plus-lighter, or one over another.")

    @property
    def still(self) -> bool:
        return False

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        return bounds(self.ground(canvas).outline, self.dot * canvas.short / 200)

    def born(self, at: RenderContext) -> Born:
        """Those that may be alive, the oldest first."""
        curves, now = at.curves, float(at.time)
        longest = self.longest_life(at)
        low = max(now - longest, at.since - self.before_s)
        emission: Emission = _solved(self, curves, at)
        numbers, times, total = emission.between(low, now, MOST_ALIVE)
        bursts = self._bursts(at)
        recent = bursts[(bursts > low) & (bursts <= now)]
        if len(recent):
            first = int(np.searchsorted(bursts, low, "right"))
            # The latest bursts first, as far as there is room.
            recent, first = (
                recent[-(MOST_ALIVE // self.burst + 1) :],
                first + max(0, len(recent) - (MOST_ALIVE // self.burst + 1)),
            )
            more = (_BURST + (first + np.arange(len(recent)))[:, None] * 4096 + np.arange(self.burst)[None, :]).ravel()
            numbers = np.concatenate([numbers, more])
            times = np.concatenate([times, np.repeat(recent, self.burst)])
            total += len(more)
            order = np.argsort(times, kind="stable")[-MOST_ALIVE:]
            numbers, times = numbers[order], times[order]
        return Born(numbers, now - times, times, total)

    def longest_life(self, at: RenderContext) -> float:
        """The longest that any lives, in seconds."""
        life = self.life
        if at.curves is not None and at.curves.moves("life"):
            life = float(at.curves.placed.layer.settings["life"].hi)
        return life * (1 + self.life_spread / 100)

    def _bursts(self, at: RenderContext) -> Values:
        if self.burst_on == "none":
            return np.zeros(0)
        now = float(at.time)
        if self.burst_on == "hit":
            curves = at.curves
            if curves is None:
                return np.zeros(0)
            result: Values = curves.kept("hits", lambda: rises(at.since, curves.values("hit", _grid(at)), 50.0))
            return result
        if at.beats is None:
            return np.zeros(0)
        beats = at.beats.between(at.since, now + 1e-9)
        return np.array([time for time, bar in beats if bar or self.burst_on == "beats"], float)

    def at_birth(self, name: str, at: RenderContext, times: Values) -> Values:
        """A setting as it was when each was born."""
        if at.curves is None or not at.curves.moves(name):
            return np.full(len(times), float(getattr(self, name)))
        return at.curves.values(name, times)

    def _chance(self, born: Born, channel: int) -> Values:
        return chances(self.seed, born.numbers, channel)

    def births(self, view: Viewport, born: Born, at: RenderContext) -> Births:
        """Where they were born, in pixels of the frame."""
        ground = self.ground(view)
        drawn_ = self._chance(born, 1), self._chance(born, 2), self._chance(born, 12)
        path = at.media.get(self.source_image, "") if self.source == "picture" else ""
        if path:
            return within_picture(path, ground.centre, self.source_size * view.short / 100, drawn_)
        along = np.asarray((born.numbers * 0.61803398875) % 1.0, np.float64) if self.even else drawn_[0]
        if self.source == "point":
            return at_point(ground.centre, along)
        if self.inside:
            return within_shape(ground, drawn_)
        return on_curve(ground, along)

    def flights(self, view: Viewport, born: Born, at: RenderContext) -> tuple[Values, Values, Values]:
        """Where particles are in space, per cent of the short side from the frame's middle, shape (n, 3); how old they
        are as a share of their lives; and where they head, in radians."""
        births = self.births(view, born, at)
        lives = self.at_birth("life", at, born.times) * (1 + self.life_spread / 100 * (2 * self._chance(born, 0) - 1))
        share = born.ages / np.maximum(lives, 1e-3)
        count = len(born.numbers)
        heads = {
            "outward": np.arctan2(births.outward[:, 1], births.outward[:, 0]),
            "along": np.arctan2(births.along[:, 1], births.along[:, 0]),
            "fixed": np.deg2rad(self.at_birth("direction", at, born.times) - 90),
            "any": self._chance(born, 3) * 2 * np.pi,
        }[self.heading]
        heads = heads + np.deg2rad(self.spread) * (self._chance(born, 4) - 0.5)
        speeds = self.at_birth("speed", at, born.times) * (
            1 + self.speed_spread / 100 * (2 * self._chance(born, 5) - 1)
        )
        up = np.zeros(count)
        if at.space is not None and self.stray_z:
            up = np.arcsin(np.clip((2 * self._chance(born, 13) - 1) * self.stray_z / 100, -1, 1))
        way = np.stack([np.cos(heads) * np.cos(up), np.sin(heads) * np.cos(up), np.sin(up)], axis=1)
        unit, middle = view.short / 100, np.array([view.width / 2, view.height / 2])
        starts = np.concatenate([(births.points - middle) / unit, np.zeros((count, 1))], axis=1)
        forces = Forces(self.gravity, self.drag, self.wind, self.wander, self.wander_rate, self.curl_size)
        starts = starts + self._left_behind(view, born, at, starts) if self.stays else starts
        places, angles = flown(starts, way, speeds, born.ages, forces, self.seed, born.numbers)
        vertical = starts[:, 1], way[:, 1] * speeds
        places = self.led(places, vertical, self.gravity, born.ages, self._chance(born, 16), view, at)
        if self.orbit:
            centre = self.ground(view).centre
            about = ((centre[0] - middle[0]) / unit, (centre[1] - middle[1]) / unit)
            turn = np.deg2rad(self.orbit) * born.ages
            places, angles = turned(places, about, turn), angles + turn
        return places, share, angles

    def clouds(self, view: Viewport, at: RenderContext) -> list[Cloud] | None:
        born = self.born(at)
        if not len(born.numbers):
            return []
        places, share, heads = self.flights(view, born, at)
        alive = (share < 1) & (share >= 0)
        places, share, heads = places[alive], share[alive], heads[alive]
        born = Born(born.numbers[alive], born.ages[alive], born.times[alive], born.total)
        sizes = self.at_birth("dot", at, born.times) * (1 + self.dot_spread / 100 * (2 * self._chance(born, 8) - 1))
        sizes = sizes * curve_at(self.size_life, share) / 100
        alphas = curve_at(self.opacity_life, share) / 100 * self.opacity / 100
        colours = self._colours(born, share, places, view, at)
        angles = heads
        if self.form != "streak":
            ways = np.where(self._chance(born, 9) < 0.5, 1.0, -1.0)
            spins = 1 + self.turning_spread / 100 * (2 * self._chance(born, 17) - 1)
            angles = np.deg2rad(self.at_birth("turning", at, born.times)) * born.ages * ways * spins
            angles = angles + np.deg2rad(self.start_angle + self.start_spread * (self._chance(born, 18) - 0.5))
        result = []
        for brush, here in self.brushes(born, at, view, sizes):
            part = slice(None) if here is None else here
            if here is None or here.any():
                result.append(Cloud(places[part], sizes[part], colours[part], alphas[part], brush, angles[part]))
        return result

    def _left_behind(self, view: Viewport, born: Born, at: RenderContext, starts: Values) -> Values:
        """From where each began on the shape as it is now to where that was at its birth, in per cent."""
        unit, middle = view.short / 100, np.array([view.width / 2, view.height / 2])
        now = (np.array([view.x(self.x), view.y(self.y)]) - middle) / unit
        then = np.stack(
            [
                (self.at_birth("x", at, born.times) / 100 * view.width - middle[0]) / unit,
                (self.at_birth("y", at, born.times) / 100 * view.height - middle[1]) / unit,
            ],
            axis=1,
        )
        away = starts[:, :2] - now
        size = {"line": "width", "path": "size", "text": "size", "rectangle": "box_width"}.get(self.base, "radius")
        larger = self.at_birth(size, at, born.times) / max(float(getattr(self, size)), 1e-6)
        turn = np.deg2rad(self.at_birth("turn", at, born.times) - self.turn)
        cos, sin = np.cos(turn) * larger, np.sin(turn) * larger
        x, y = away[:, 0] * cos - away[:, 1] * sin, away[:, 0] * sin + away[:, 1] * cos
        moved = then + np.stack([x, y], axis=1) - starts[:, :2]
        return np.concatenate([moved, np.zeros((len(moved), 1))], axis=1)

    def _colours(
        self, born: Born, share: Values, places: Values, view: Viewport, at: RenderContext
    ) -> NDArray[np.float64]:
        table = ramp(self.colours, _TABLE, "oklab", self.hard)
        match self.by:
            case "age":
                place = share
            case "seed":
                place = self._chance(born, 10)
            case "speed":
                speeds = np.abs(self.at_birth("speed", at, born.times))
                place = speeds / max(self._fastest(at), 1e-6)
            case "tone":
                place = self.at_birth("tone", at, born.times) / 100
            case _:
                place = places[:, 0] * view.short / 100 / view.width + 0.5
        return np.asarray(table[np.rint(np.clip(place, 0, 1) * (_TABLE - 1)).astype(int)])

    def _fastest(self, at: RenderContext) -> float:
        """The highest speed at which any is born while the layer is there: not of those alive now, since all would
        change their colour when the fastest one goes."""
        curves = at.curves
        if curves is None or not curves.moves("speed"):
            return abs(self.speed)
        return float(curves.kept("fastest", lambda: float(np.abs(curves.values("speed", _grid(at))).max())))

    def notes(self, at: RenderContext) -> list[str]:
        total = self.born(at).total
        if total <= MOST_ALIVE:
            return []
        return [
            f"{total:,} would be alive here; the latest {MOST_ALIVE:,} are drawn. A lower rate or a shorter life helps."
        ]


def _grid(at: RenderContext, before_s: float = 0.0) -> Values:
    """The points that curves are solved at, from some seconds before the layer comes until it goes."""
    begin = at.since - before_s
    count = int(np.ceil(max(at.until - begin, 0.0) / STEP_S)) + 2
    return np.asarray(begin + np.arange(count) * STEP_S, np.float64)


def _solved(layer: Particles, curves: SettingCurves | None, at: RenderContext) -> Emission:
    """The integral of the rate over the layer's whole time."""

    def make() -> Emission:
        times = _grid(at, layer.before_s)
        moving = curves is not None and curves.moves("rate")
        rates = curves.values("rate", times) if moving and curves else np.full(len(times), layer.rate)
        return Emission.of(at.since - layer.before_s, np.maximum(rates, 0.0))

    return curves.kept("births", make) if curves is not None else make()
