"""How the parts of a text come and go: letters, words or lines, one after the other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, number, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.text.glyph_marks import Glyphs
from velvetdrum.picture.text.letter_axes import AXES, varied
from velvetdrum.picture.typesetting.layout import Layout
from velvetdrum.signals.bars import BarSettings, bar_heights
from velvetdrum.signals.easing import ease

Values = NDArray[np.float64]

MOTIONS = {
    "none": "None",
    "fade": "Fade",
    "rise": "Rise",
    "fall": "Fall",
    "slide": "Slide",
    "scale": "Scale",
    "blur": "Blur",
    "turn": "Turn",
    "type": "Type",
}
"""How a part comes, or goes."""

_EASES = {"ease-out": "Ease out", "linear": "Linear", "ease-in-out": "Ease in and out", "ease-in": "Ease in"}


@dataclass(frozen=True)
class Stretch:
    """When a text comes and goes, in seconds, and the time that it is."""

    begin: float
    end: float
    now: float


class MovedParts(DrawnLayer):
    """Settings of texts whose parts come and go by themselves."""

    parts: str = choice(
        "letter",
        {"letter": "Letters", "word": "Words", "line": "Lines", "all": "All at once"},
        group="motion",
        label="Parts",
        help="What moves by itself: a letter, a word, a line, or all at once.",
    )
    enter: str = choice("none", MOTIONS, label="Motion in", group="motion", help="How each part comes in.")
    leave: str = choice("none", MOTIONS, label="Motion out", group="motion", help="How each part goes out.")
    drive: str = choice(
        "time",
        {"time": "Time", "shown": "A share"},
        label="Driven by",
        group="motion",
        help="Parts come at the layer's in and go at its out; or as far as a share says, which a signal can move.",
    )
    shown: float = percent(
        100,
        step=1,
        label="Amount shown",
        group="motion",
        when=("drive", ("shown",)),
        help="How much of the text has come; tie it to a signal.",
    )
    each_s: float = number(
        0.5, lo=0.02, hi=10, unit="s", step=0.05, label="Duration", group="motion", help="How long one part takes."
    )
    stagger_s: float = number(
        0.05, lo=0, hi=5, unit="s", step=0.01, label="Stagger", group="motion", help="From one part to the next."
    )
    order: str = choice(
        "forward",
        {"forward": "Forward", "backward": "Backward", "seeded": "Mixed"},
        group="motion",
        advanced=True,
        help="Which part is the first.",
    )
    seed: int = whole(
        1,
        lo=0,
        hi=9999,
        group="motion",
        advanced=True,
        when=("order", ("seeded",)),
        help="Start of the random sequence; another seed gives another mix.",
    )
    move_ease: str = choice(
        "ease-out", _EASES, label="Easing", group="motion", advanced=True, help="How a part speeds up and slows down."
    )
    distance: float = number(
        60,
        lo=0,
        hi=400,
        unit="% em",
        step=5,
        label="Distance",
        group="motion",
        advanced=True,
        help="How far parts move.",
    )
    lift: float = number(
        0,
        lo=-200,
        hi=200,
        unit="% em",
        step=1,
        label="Spectrum lift",
        group="motion",
        help="Each part rises by the level of its own band of the spectrum, low ones first.",
    )
    swell: float = number(
        0,
        lo=-100,
        hi=300,
        unit="%",
        step=1,
        label="Spectrum scale",
        group="motion",
        help="Each part grows by the level of its own band.",
    )

    axis: str = choice(
        "wght",
        AXES,
        label="Spectrum axis",
        group="motion",
        advanced=True,
        help="Axis of a variable typeface that each part is moved along by the level of its own band.",
    )
    axis_by: float = number(
        0,
        lo=-900,
        hi=900,
        step=1,
        label="Axis movement",
        group="motion",
        advanced=True,
        help="How far at the full level, in units of the axis: 300 makes a letter of weight 400 one of 700.",
    )

    @property
    def parts_move(self) -> bool:
        """True when parts change over time by themselves."""
        if self.lift or self.swell or self.axis_by:
            return True
        return self.drive == "time" and (self.enter != "none" or self.leave != "none")

    def owners(self, layout: Layout) -> NDArray[np.int64]:
        """Which part each glyph belongs to, numbered from 0."""
        by = {"letter": layout.letter, "word": layout.word, "line": layout.row}
        result = by.get(self.parts, np.zeros_like(layout.letter))
        return np.unique(result, return_inverse=True)[1].astype(np.int64) if len(result) else result

    def in_motion(
        self, glyphs: Glyphs, layout: Layout, size: float, at: RenderContext, when: Stretch
    ) -> tuple[Glyphs, Values]:
        """The glyphs as they are at a time, and by how many pixels each is blurred."""
        owners = self.owners(layout)
        count = int(owners.max()) + 1 if len(owners) else 0
        blur = np.zeros(len(owners))
        if not count:
            return glyphs, blur
        if self.axis_by and at.use and glyphs.rest:
            levels = self._levels(owners, count, at)
            glyphs = varied(glyphs, glyphs.rest.spec, self.axis, self.axis_by, levels)
        if self.enter != "none" or self.leave != "none":
            came, left = self._shares(count, when)
            middles = _middles(glyphs, owners, count)
            glyphs, blur = self._moved(glyphs, self.enter, 1.0 - came[owners], size, 1.0, blur, middles)
            glyphs, blur = self._moved(glyphs, self.leave, 1.0 - left[owners], size, -1.0, blur, middles)
        if (self.lift or self.swell) and at.use:
            glyphs = self._by_bands(glyphs, owners, count, size, at)
        return glyphs, blur

    def _shares(self, count: int, when: Stretch) -> tuple[Values, Values]:
        """How far each part has come, and how far it has not yet gone, 0 to 1."""
        places = np.arange(count, dtype=float)
        if self.order == "backward":
            places = places[::-1].copy()
        elif self.order == "seeded":
            places = np.random.default_rng(self.seed).permutation(count).astype(float)
        if self.drive == "shown":
            came = np.clip(self.shown / 100 * (count + 1) - places, 0.0, 1.0)
            return eased(self.move_ease, came), np.ones(count)
        # All of it has come and gone within its time: both take half of it at the most.
        room = max((when.end - when.begin) / 2, 1e-3)
        whole_s = self.each_s + self.stagger_s * (count - 1)
        pace = min(1.0, room / whole_s)
        each, stagger = max(self.each_s * pace, 1e-3), self.stagger_s * pace
        came = np.clip((when.now - when.begin - places * stagger) / each, 0.0, 1.0)
        left = np.clip((when.end - when.now - (count - 1 - places) * stagger) / each, 0.0, 1.0)
        return eased(self.move_ease, came), eased(self.move_ease, left)

    def _moved(
        self, glyphs: Glyphs, by: str, away: Values, size: float, side: float, blur: Values, middles: Values
    ) -> tuple[Glyphs, Values]:
        """Glyphs that are `away` from their place, 0 at it and 1 as far as they go."""
        if by == "none" or not np.any(away > 0):
            return glyphs, blur
        way = self.distance / 100 * size * away
        solid = glyphs.strengths * (np.clip(1.0 - away, 0.0, 1.0) if by != "type" else (away < 1.0))
        glyphs = glyphs.changed(strengths=solid)
        if by == "rise":
            glyphs = glyphs.changed(y=glyphs.y + side * way)
        elif by == "fall":
            glyphs = glyphs.changed(y=glyphs.y - side * way)
        elif by == "slide":
            glyphs = glyphs.changed(x=glyphs.x - side * way)
        elif by == "scale":
            factor = np.clip(1.0 - away, 0.0, 2.0)
            x, y = (middles + (np.stack([glyphs.x, glyphs.y], axis=1) - middles) * factor[:, None]).T
            glyphs = glyphs.changed(x=x, y=y, scale=glyphs.scale * factor)
        elif by == "turn":
            angle = -side * away * np.pi / 2
            across, down = (np.stack([glyphs.x, glyphs.y], axis=1) - middles).T
            x = middles[:, 0] + across * np.cos(angle) - down * np.sin(angle)
            y = middles[:, 1] + across * np.sin(angle) + down * np.cos(angle)
            glyphs = glyphs.changed(x=x, y=y + 0.3 * way, angles=glyphs.angles + angle)
        elif by == "blur":
            blur = np.maximum(blur, 0.5 * way)
        return glyphs, blur

    def _by_bands(
        self, glyphs: Glyphs, owners: NDArray[np.int64], count: int, size: float, at: RenderContext
    ) -> Glyphs:
        levels = self._levels(owners, count, at)
        return glyphs.changed(
            y=glyphs.y - self.lift / 100 * size * levels,
            scale=glyphs.scale * np.maximum(1.0 + self.swell / 100 * levels, 0.0),
        )

    def _levels(self, owners: NDArray[np.int64], count: int, at: RenderContext) -> Values:
        """The level of each glyph's own band, low ones first."""
        assert at.use
        settings = BarSettings(max(min(count, 120), 2), 60.0, 9000.0, "log", "mix", -60.0, -18.0, 3.0, 10.0, 220.0)
        heights = np.asarray(bar_heights(at.use, settings, at.time), float)
        return np.clip(heights[np.clip(owners, 0, len(heights) - 1)], 0.0, 1.2)


def eased(name: str, shares: Values) -> Values:
    """Shares from 0 to 1 eased, read from a table of a thousand steps: letters move in every frame."""
    return np.interp(shares, *_ease_table(name))


@cached
def _ease_table(name: str) -> tuple[Values, Values]:
    steps = np.linspace(0.0, 1.0, 1025)
    return steps, np.asarray(ease(name, steps))


def _middles(glyphs: Glyphs, owners: NDArray[np.int64], count: int) -> Values:
    """The middle of the part that each glyph belongs to, shape (n, 2): parts grow and turn about it."""
    weights = np.maximum(np.bincount(owners, minlength=count), 1)
    x = np.bincount(owners, glyphs.x, minlength=count) / weights
    y = np.bincount(owners, glyphs.y, minlength=count) / weights
    return np.stack([x[owners], y[owners]], axis=1)
