"""Particles: small marks that leave a shape, fly, and fade; any frame alone is what it is after all before it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, flag, number, picture, stops, whole
from velvetdrum.limits.cache import kept
from velvetdrum.picture.drawn_layer import RenderContext
from velvetdrum.picture.media.pictures import small
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.particles import FORMS, draw_discs, draw_sprites, form_picture, premultiplied, shrunk
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.setting_curves import SettingCurves
from velvetdrum.picture.shapes.base_shape import Ground, OnShape, bounds
from velvetdrum.scene.designs import DUSK, QUAY, WARM, Design, Sizing, even_ramp
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.births import STEP_S, Emission, chances, rises

MOST_ALIVE = 40_000
"""Particles that are drawn at once, at the most."""

_TABLE = 256
_BURST = 1 << 40
"""Numbers of burst particles begin here, so that they have chances of their own."""

Values = NDArray[np.float64]
_PICTURE = ("form", ("picture",))


@dataclass(frozen=True)
class Born:
    """Particles that may be alive: their numbers, how old they are, and when they were born, in seconds."""

    numbers: NDArray[np.int64]
    ages: Values
    times: Values
    total: int
    """How many there would be without a limit."""


@layer_kind("particles", "Particles")
class Particles(OnShape):
    """Marks that leave a shape, driven by the sound, and fade."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("particles", "Sparks from a ring", {"rate": 220.0, "dot": 1.4}),
        Design(
            "particles",
            "Rising embers",
            {
                "base": "line",
                "width": 100.0,
                "y": 102.0,
                "rate": 60.0,
                "speed": 16.0,
                "life": 4.0,
                "heading": "fixed",
                "spread": 30.0,
                "drag": 0.05,
                "dot": 1.9,
                "form": "soft",
                "wander": 6.0,
                "colours": WARM,
            },
        ),
        Design(
            "particles",
            "Dust in the air",
            {
                "base": "rectangle",
                "box_width": 180.0,
                "box_height": 100.0,
                "inside": True,
                "rate": 90.0,
                "speed": 1.5,
                "life": 6.0,
                "heading": "any",
                "dot": 1.5,
                "form": "soft",
                "wander": 8.0,
                "opacity_in": 30.0,
                "colours": even_ramp("#fff3d6", "#ffd9a0"),
            },
        ),
        Design(
            "particles",
            "Fountain",
            {
                "base": "line",
                "width": 2.0,
                "y": 92.0,
                "rate": 260.0,
                "speed": 95.0,
                "speed_spread": 25.0,
                "life": 2.4,
                "heading": "fixed",
                "spread": 26.0,
                "gravity": 70.0,
                "dot": 0.8,
                "colours": QUAY,
            },
        ),
        Design(
            "particles",
            "Burst on each beat",
            {"rate": 0.0, "burst_on": "beats", "burst": 90, "radius": 6.0, "speed": 60.0, "drag": 2.2, "life": 1.4},
        ),
        Design(
            "particles",
            "Snow",
            {
                "base": "line",
                "width": 120.0,
                "y": -4.0,
                "rate": 70.0,
                "speed": 9.0,
                "heading": "fixed",
                "direction": 180.0,
                "spread": 20.0,
                "life": 12.0,
                "drag": 0.0,
                "dot": 1.7,
                "form": "soft",
                "wander": 5.0,
                "adds": False,
                "opacity_in": 5.0,
                "colours": even_ramp("#ffffff", "#e8f1ff"),
            },
        ),
        Design(
            "particles",
            "Streaks outward",
            {"form": "streak", "radius": 4.0, "rate": 200.0, "speed": 80.0, "life": 1.3, "dot": 3.4, "colours": DUSK},
        ),
        Design(
            "particles",
            "Stars around",
            {"form": "star", "rate": 40.0, "life": 3.0, "orbit": 60.0, "speed": 8.0, "dot": 2.6, "turning": 90.0},
        ),
    )
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

    form: str = choice(
        "disc",
        {
            "disc": "Disc",
            "soft": "Soft disc",
            "ring": "Ring",
            "square": "Square",
            "star": "Star",
            "streak": "Streak",
            "picture": "Picture",
        },
        label="Form",
        help="What each one is; a streak lies along its way.",
    )
    image: str = picture(label="Picture", help="A picture or logo for each.", when=_PICTURE)
    tinted: bool = flag(True, help="In the particle's colour, even where the picture is black.", when=_PICTURE)
    rate: float = number(
        90, lo=0, hi=5000, unit="/s", step=1, curve="linear", help="How many are born a second, as it is then."
    )
    burst_on: str = choice(
        "none",
        {"none": "None", "beats": "Beats", "bars": "Bars", "hit": "Hits"},
        label="Burst on",
        help="When many are born at once.",
    )
    burst: int = whole(
        60, lo=1, hi=2000, label="Burst count", help="How many.", when=("burst_on", ("beats", "bars", "hit"))
    )
    hit: float = number(
        0,
        lo=0,
        hi=100,
        unit="%",
        step=1,
        help="Give it a signal: beyond 50 a burst comes.",
        when=("burst_on", ("hit",)),
    )
    inside: bool = flag(False, label="From inside", help="Born anywhere within the shape, or on its curve.")
    even: bool = flag(False, label="Evenly", help="One after another along the curve, or anywhere on it.")
    seed: int = whole(1, lo=0, hi=9999, help="Another number, other particles.", advanced=True)

    life: float = number(
        2.5, lo=0.05, hi=60, unit="s", step=0.05, group="motion", help="How long one lives, from birth."
    )
    life_spread: float = number(30, lo=0, hi=100, unit="%", step=1, group="motion", help="How unlike lives are.")
    speed: float = number(
        24, lo=-400, hi=400, unit="%/s", step=0.5, group="motion", help="Of the short side; what it is at its birth."
    )
    speed_spread: float = number(40, lo=0, hi=100, unit="%", step=1, group="motion", help="How unlike speeds are.")
    heading: str = choice(
        "outward",
        {"outward": "Outward", "along": "Along", "fixed": "One way", "any": "Any way"},
        group="motion",
        help="Where they go at their birth.",
    )
    direction: float = number(
        0, lo=-360, hi=360, unit="°", step=1, group="motion", help="The one way: 0 is up.", when=("heading", ("fixed",))
    )
    spread: float = number(20, lo=0, hi=360, unit="°", step=1, group="motion", help="How far they stray from it.")
    gravity: float = number(
        0, lo=-500, hi=500, unit="%/s²", step=1, group="motion", help="Downward; on all that live, as it is now."
    )
    drag: float = number(0.6, lo=0, hi=10, unit="1/s", step=0.1, group="motion", help="How fast they slow down.")
    wind: float = number(
        0, lo=-200, hi=200, unit="%/s", step=1, group="motion", help="To the right; on all that live, as it is now."
    )
    orbit: float = number(
        0, lo=-1440, hi=1440, unit="°/s", step=1, group="motion", help="Round the shape's middle, as it is now."
    )
    wander: float = number(2, lo=0, hi=60, unit="%", group="motion", help="How far each strays, on its own way.")
    wander_rate: float = number(0.5, lo=0.05, hi=5, unit="Hz", step=0.05, group="motion", help="How often it turns.")
    turning: float = number(
        0, lo=-1440, hi=1440, unit="°/s", step=1, label="Spin", group="motion", help="How fast each turns, from birth."
    )

    dot: float = number(1.1, lo=0.05, hi=60, unit="%", label="Size", help="How wide each is; what it is at its birth.")
    dot_spread: float = number(50, lo=0, hi=100, unit="%", step=1, label="Size spread", help="How unlike sizes are.")
    dot_end: float = number(
        20, lo=0, hi=500, unit="%", step=1, label="Size at the end", help="Of its size, when its life ends."
    )
    opacity: float = number(100, lo=0, hi=100, unit="%", step=1, group="colour", help="How solid they are.")
    opacity_in: float = number(
        6, lo=0, hi=100, unit="%", step=1, label="Fade in", group="colour", help="Of its life, until it is solid."
    )
    opacity_out: float = number(
        60, lo=0, hi=100, unit="%", step=1, label="Fade out", group="colour", help="Of its life, until it is gone."
    )
    colours: tuple[Stop, ...] = stops(
        [(0.0, "#fff3d6"), (0.4, "#f0b866"), (1.0, "#ff7a66")], label="Colours", help="What they take."
    )
    by: str = choice(
        "age",
        {"age": "Age", "seed": "Chance", "speed": "Speed", "place": "Place"},
        label="Colour by",
        group="colour",
        help="Which place of the gradient each takes.",
    )
    hard: bool = flag(False, label="Hard steps", group="colour", help="One of the colours each, unmixed.")
    adds: bool = flag(True, label="Light adds up", group="colour", help="Plus-lighter, or one over another.")

    @property
    def still(self) -> bool:
        return False

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        # They fly where they will: only what is looked at ends them.
        return Box(-1e5, -1e5, 1e5, 1e5)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        return bounds(self.ground(canvas).outline, self.dot * canvas.short / 200)

    def born(self, at: RenderContext) -> Born:
        """Those that may be alive, the oldest first."""
        curves, now = at.curves, float(at.time)
        longest = self.longest_life(at)
        low = max(now - longest, at.since)
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
            found: Values = curves.kept("hits", lambda: rises(at.since, curves.values("hit", _grid(at)), 50.0))
            return found
        if at.beats is None:
            return np.zeros(0)
        beats = at.beats.between(at.since, now + 1e-9)
        return np.array([time for time, bar in beats if bar or self.burst_on == "beats"], float)

    def at_birth(self, name: str, at: RenderContext, times: Values) -> Values:
        """A setting as it was when each was born."""
        if at.curves is None or not at.curves.moves(name):
            return np.full(len(times), float(getattr(self, name)))
        return at.curves.values(name, times)

    def places(
        self, ground: Ground, born: Born, at: RenderContext, short: float
    ) -> tuple[Values, Values, Values, Values]:
        """Where particles are, in pixels, how old they are as a share of their lives, and where they head, in radians:
        a closed form of their age. With drag k the way is v (1 - exp(-k t)) / k."""
        numbers, ages = born.numbers, born.ages

        def chance(channel: int) -> Values:
            return chances(self.seed, numbers, channel)

        lives = self.at_birth("life", at, born.times) * (1 + self.life_spread / 100 * (2 * chance(0) - 1))
        share = ages / np.maximum(lives, 1e-3)
        along = np.asarray((numbers * 0.61803398875) % 1.0, np.float64) if self.even else chance(1)
        points, normals, tangents = ground.outline.at(along)
        if self.inside:
            middle = np.array(ground.centre)
            # The root of a chance spreads evenly over an area that grows with the square of its size.
            points = middle + (points - middle) * np.sqrt(chance(2))[:, None]
        heads = {
            "outward": np.arctan2(normals[:, 1], normals[:, 0]),
            "along": np.arctan2(tangents[:, 1], tangents[:, 0]),
            "fixed": np.full(len(numbers), np.deg2rad(self.direction - 90)),
            "any": chance(3) * 2 * np.pi,
        }[self.heading]
        heads = heads + np.deg2rad(self.spread) * (chance(4) - 0.5)
        speeds = self.at_birth("speed", at, born.times) * (1 + self.speed_spread / 100 * (2 * chance(5) - 1))
        k = self.drag
        way = ages if k < 1e-6 else (1 - np.exp(-k * ages)) / k
        fall = ages**2 / 2 if k < 1e-6 else (ages - way) / k
        dx = np.cos(heads) * speeds * way + self.wind * ages
        dy = np.sin(heads) * speeds * way + self.gravity * fall
        if self.wander > 0:
            stray = self.wander * np.minimum(ages * self.wander_rate, 1.0)
            dx += stray * _strays(self.seed, numbers, ages * self.wander_rate, 6)
            dy += stray * _strays(self.seed, numbers, ages * self.wander_rate, 7)
        x, y = points[:, 0] + dx * short / 100, points[:, 1] + dy * short / 100
        if self.orbit:
            angle = np.deg2rad(self.orbit) * ages
            cos, sin = np.cos(angle), np.sin(angle)
            mx, my = ground.centre
            x, y = mx + (x - mx) * cos - (y - my) * sin, my + (x - mx) * sin + (y - my) * cos
            heads = heads + angle
        return x, y, share, heads

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        born = self.born(at)
        if not len(born.numbers):
            return
        ground, short = self.ground(canvas), float(canvas.short)
        x, y, share, heads = self.places(ground, born, at, short)
        alive = (share < 1) & (share >= 0)
        x, y, share, heads = x[alive], y[alive], share[alive], heads[alive]
        numbers, ages, times = born.numbers[alive], born.ages[alive], born.times[alive]
        sizes = self.at_birth("dot", at, times) * (1 + self.dot_spread / 100 * (2 * chances(self.seed, numbers, 8) - 1))
        sizes = sizes * (1 + (self.dot_end / 100 - 1) * share) * short / 100
        solid = np.clip(share / max(self.opacity_in / 100, 1e-6), 0, 1)
        solid = solid * np.clip((1 - share) / max(self.opacity_out / 100, 1e-6), 0, 1) * self.opacity / 100
        colours = premultiplied(self._colours(numbers, share, times, x, canvas, at), solid)
        if self.form in FORMS:
            draw_discs(canvas, x, y, sizes / 2, colours, self.form, self.adds)
            return
        longest = float(sizes.max(initial=1.0))
        pixels = self._picture(at, longest)
        if pixels is None:
            return
        ratio = pixels.shape[0] / pixels.shape[1]
        angles = np.deg2rad(self.turning) * ages * np.where(chances(self.seed, numbers, 9) < 0.5, 1.0, -1.0)
        angles = heads if self.form == "streak" else angles
        wide, high = (sizes, sizes * ratio) if ratio <= 1 else (sizes / ratio, sizes)
        tinted = self.tinted if self.form == "picture" else True
        draw_sprites(canvas, pixels, x, y, (wide, high), angles, colours, tinted=tinted, adds=self.adds)

    def _picture(self, at: RenderContext, longest: float) -> NDArray[np.uint8] | None:
        if self.form != "picture":
            return shrunk(form_picture(self.form), longest)
        path = at.media.get(self.image, "")
        return shrunk(_image(path), longest) if path else None

    def _colours(
        self, numbers: NDArray[np.int64], share: Values, times: Values, x: Values, canvas: Canvas, at: RenderContext
    ) -> NDArray[np.float64]:
        table = ramp(self.colours, _TABLE, "oklab", self.hard)
        match self.by:
            case "age":
                place = share
            case "seed":
                place = chances(self.seed, numbers, 10)
            case "speed":
                speeds = self.at_birth("speed", at, times)
                place = np.abs(speeds) / max(float(np.abs(speeds).max(initial=0.0)), 1e-6)
            case _:
                place = x / canvas.width
        return np.asarray(table[np.rint(np.clip(place, 0, 1) * (_TABLE - 1)).astype(int)])

    def notes(self, at: RenderContext) -> list[str]:
        total = self.born(at).total
        if total <= MOST_ALIVE:
            return []
        return [
            f"{total:,} would be alive here; the latest {MOST_ALIVE:,} are drawn. A lower rate or a shorter life helps."
        ]


def _grid(at: RenderContext) -> Values:
    """The points that curves are solved at, from when the layer comes until it goes."""
    count = int(np.ceil(max(at.until - at.since, 0.0) / STEP_S)) + 2
    return np.asarray(at.since + np.arange(count) * STEP_S, np.float64)


def _solved(layer: Particles, curves: SettingCurves | None, at: RenderContext) -> Emission:
    """The integral of the rate over the layer's whole time."""

    def make() -> Emission:
        times = _grid(at)
        moving = curves is not None and curves.moves("rate")
        rates = curves.values("rate", times) if moving and curves else np.full(len(times), layer.rate)
        return Emission.of(at.since, np.maximum(rates, 0.0))

    return curves.kept("births", make) if curves is not None else make()


def _strays(seed: int, numbers: NDArray[np.int64], places: Values, channel: int) -> Values:
    """Smooth noise for each along its own age, about -1 to 1: a cubic spline through chances."""
    whole_ = np.floor(places)
    t = places - whole_
    weights = [(1 - t) ** 3 / 6, (3 * t**3 - 6 * t**2 + 4) / 6, (-3 * t**3 + 3 * t**2 + 3 * t + 1) / 6, t**3 / 6]
    steps = whole_.astype(np.int64)
    total = np.zeros(len(places))
    for offset, weight in enumerate(weights):
        total += weight * (2 * chances(seed, numbers * 4099 + steps + offset, channel) - 1)
    return total * 1.6


@kept
def _image(path: str) -> NDArray[np.uint8]:
    return small(path, 256)
