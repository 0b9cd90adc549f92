"""Hold: the picture at every n-th beat until the next, or from a hit on."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.settings import choice, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect import DrawnEffect, ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.past_moments import since_beat, since_hit
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.scene.effects import effect_kind


@effect_kind("hold", "Hold")
class Hold(DrawnEffect):
    """Keeps the picture of a beat until the next one comes."""

    family: ClassVar[str] = "time"
    summary: ClassVar[str] = "Hold|{by}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "times"})

    by: str = choice(
        "beats",
        {"beats": "Beats", "hit": "Hits"},
        group="effect",
        label="Trigger",
        help="When a new picture is taken: at beats, or at hits.",
    )
    every: float = number(
        1,
        lo=0.125,
        hi=16,
        unit="beats",
        step=0.125,
        group="effect",
        help="How often it takes a new one.",
        when=("by", ("beats",)),
    )
    hit: float = percent(
        0, step=1, group="effect", help="Give it a signal: beyond 50 it takes a new one.", when=("by", ("hit",))
    )
    longest: float = number(
        800,
        lo=50,
        hi=2000,
        unit="ms",
        step=10,
        group="effect",
        help="Longest time for which a picture is held.",
        when=("by", ("hit",)),
    )

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        beats = self.by == "beats"
        back = since_beat(context, self.every) if beats else since_hit(context, "hit", self.longest / 1000)
        return image if back is None or back < 1e-6 else context.earlier(min(back, context.time_s))
