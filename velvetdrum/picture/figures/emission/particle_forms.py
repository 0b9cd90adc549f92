"""What each particle is: a form known by its radius, letters, pictures, or a layer."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, layer, picture, text
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.figures.emission.forms import letter_picture, stored_picture
from velvetdrum.picture.figures.layer_copies import evened, sized
from velvetdrum.picture.raster.particles import FORMS, form_picture
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.space.clouds import Brush
from velvetdrum.signals.births import chances

Values = NDArray[np.float64]

_PICTURE = ("form", ("picture",))
_LAYER = ("form", ("instance",))
_LETTERS = ("form", ("letters",))
_AGE_S, _MOST_AGES = 1 / 15, 60
"""Seconds between two ages at which a layer is drawn for particles, and how many ages there are at the most."""


@dataclass(frozen=True)
class Born:
    """Particles that may be alive: their numbers, how old they are, and when they were born, in seconds."""

    numbers: NDArray[np.int64]
    ages: Values
    times: Values
    total: int
    """How many there would be without a limit."""


class ParticleForms(DrawnLayer):
    """Settings of what particles are drawn as."""

    seed: int
    typeface: str
    adds: bool

    form: str = choice(
        "disc",
        {
            "disc": "Disc",
            "soft": "Soft disc",
            "ring": "Ring",
            "square": "Square",
            "star": "Star",
            "streak": "Streak",
            "letters": "Letters",
            "picture": "Picture",
            "instance": "Layer",
        },
        label="Form",
        help="What each one is; a streak lies along its way.",
    )
    letters: str = text(
        "LANTERN", most=40, label="Letters", help="Letters that particles are drawn as, one each.", when=_LETTERS
    )
    picture_layer: str = layer(label="Layer", help="A layer or group for each, as it is drawn.", when=_LAYER)
    picture_time: str = choice(
        "project",
        {"project": "Of the project", "age": "From each birth on"},
        label="Time of the layer",
        help="Whether all show the layer as it is now, or each as it is so long after its start as it is old.",
        when=_LAYER,
    )
    image: str = picture(label="Picture", help="A picture or logo for each.", when=_PICTURE)
    image_2: str = picture(
        label="Second picture", help="Picture that a share of the particles takes.", when=_PICTURE, advanced=True
    )
    share_2: float = percent(
        50,
        step=1,
        label="Share of the second",
        help="Share of particles that take the second picture.",
        when=_PICTURE,
        advanced=True,
    )
    image_3: str = picture(
        label="Third picture", help="Picture that a share of the particles takes.", when=_PICTURE, advanced=True
    )
    share_3: float = percent(
        33,
        step=1,
        label="Share of the third",
        help="Share of particles that take the third picture.",
        when=_PICTURE,
        advanced=True,
    )
    tint: str = choice(
        "form",
        {"form": "One colour", "shade": "Times its light", "none": "As it is"},
        label="Tint",
        help="Whether a picture has the particle's colour, that colour times its own light, or its own colours.",
        when=("form", ("picture", "instance")),
    )

    def longest_life(self, at: RenderContext) -> float:
        """The longest that any lives, in seconds."""
        raise NotImplementedError

    def _layer_brushes(
        self, born: Born, at: RenderContext, view: Viewport, sizes: Values
    ) -> list[tuple[Brush, NDArray[np.bool_] | None]]:
        """The layer as all show it, or as those of one age do; ages in steps, since each is drawn anew."""
        if not self.picture_layer or at.picture_of is None or at.project is None:
            return []
        longest = float(sizes.max(initial=0.0)) * view.short / 100
        if self.picture_time == "project":
            (shown,) = sized(at, self.picture_layer, [at.time], view, longest)
            return [(Brush("disc", evened(shown), self.tint, self.adds), None)]
        step = max(_AGE_S, self.longest_life(at) / _MOST_AGES)
        index = (born.ages / step).astype(int)
        known = np.unique(index)
        start, _ = at.project.by_id[self.picture_layer].layer.time_span(at.project.length_s, at.sound)
        times = [Fraction(start + number_ * step).limit_denominator(1_000_000) for number_ in known]
        pictures = sized(at, self.picture_layer, times, view, longest)
        if len(pictures) == 1:
            return [(Brush("disc", evened(pictures[0]), self.tint, self.adds), None)]
        return [
            (Brush("disc", evened(shown), self.tint, self.adds), index == number_)
            for shown, number_ in zip(pictures, known, strict=True)
            if shown.pixels.size
        ]

    def brushes(
        self, born: Born, at: RenderContext, view: Viewport, sizes: Values
    ) -> list[tuple[Brush, NDArray[np.bool_] | None]]:
        """What they are drawn with, and which of them; None for all."""
        if self.form == "instance":
            return self._layer_brushes(born, at, view, sizes)
        if self.form in FORMS:
            return [(Brush(self.form, adds=self.adds), None)]
        if self.form == "letters":
            letters = [letter for letter in self.letters if letter.strip()] or ["?"]
            chosen = np.minimum((chances(self.seed, born.numbers, 14) * len(letters)).astype(int), len(letters) - 1)
            return [
                (Brush("disc", letter_picture(letter, self.typeface), "form", self.adds), chosen == index)
                for index, letter in enumerate(letters)
            ]
        if self.form != "picture":
            return [(Brush("disc", form_picture(self.form), "form", self.adds), None)]
        paths = [at.media.get(name, "") for name in (self.image, self.image_2, self.image_3)]
        none = np.zeros(len(born.numbers), bool)
        third = (chances(self.seed, born.numbers, 14) < self.share_3 / 100) if paths[2] else none
        second = (chances(self.seed, born.numbers, 15) < self.share_2 / 100) & ~third if paths[1] else none
        return [
            (Brush("disc", stored_picture(path), self.tint, self.adds), which)
            for path, which in zip(paths, (~second & ~third, second, third), strict=True)
            if path
        ]
