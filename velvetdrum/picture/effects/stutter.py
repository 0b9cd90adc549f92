"""Stutter: on a hit the last moment is repeated."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.settings import choice, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect import DrawnEffect, ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.past_moments import since_beat, since_hit
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.scene.effects import effect_kind


@effect_kind("stutter", "Stutter")
class Stutter(DrawnEffect):
    """Repeats a short piece of the picture after each hit, for a while."""

    family: ClassVar[str] = "time"
    summary: ClassVar[str] = "Stutter|{piece}|for {length}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "times"})

    by: str = choice(
        "hit",
        {"hit": "Hits", "beats": "Beats"},
        group="effect",
        label="Trigger",
        help="What it begins at: hits, or beats.",
    )
    hit: float = percent(
        0, step=1, group="effect", help="Give it a signal: beyond 50 it begins.", when=("by", ("hit",))
    )
    every: float = number(
        4, lo=0.25, hi=32, unit="beats", step=0.25, group="effect", help="How often it begins.", when=("by", ("beats",))
    )
    piece: float = number(90, lo=16, hi=1000, unit="ms", step=1, group="effect", help="How long the repeated piece is.")
    length: float = number(400, lo=30, hi=2000, unit="ms", step=10, group="effect", help="How long a stutter lasts.")

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        length, piece = self.length / 1000, self.piece / 1000
        back = since_beat(context, self.every) if self.by == "beats" else since_hit(context, "hit", length)
        if back is None or back >= length or back < piece:
            return image
        # The piece from the hit on, again and again.
        again = back - back % piece
        return context.earlier(min(again, context.time_s)) if again > 1e-6 else image
