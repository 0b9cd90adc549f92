"""A way to put one effect to work on given pixels, as a layer that fills the frame."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

import velvetdrum.picture.frame.render  # noqa: F401  (makes the kinds known)
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext, StagedLayer
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.frame.joined_effect import JoinedEffect
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Box
from velvetdrum.scene.effects import EFFECT_KINDS
from velvetdrum.scene.kinds import LAYER_KINDS


def effect(kind: str, **settings: Any) -> DrawnEffect:
    """An effect of a kind with its defaults, and the given settings."""
    cls = EFFECT_KINDS[kind]
    return cls(cls.defaults() | settings)  # type: ignore[return-value]


def context_of(
    pixels: NDArray[np.uint8],
    time_s: float = 1.0,
    others: NDArray[np.uint8] | None = None,
    row: tuple[JoinedEffect, ...] = (),
) -> EffectContext:
    """What an effect may read, for a layer whose picture is these pixels at all times."""
    height, width = pixels.shape[:2]
    canvas = Canvas(width, height)
    canvas.clear()
    layer = LAYER_KINDS["whole-picture"](LAYER_KINDS["whole-picture"].defaults())
    at = RenderContext(Fraction(time_s).limit_denominator(1000), None)

    def draw(onto: Canvas) -> None:
        onto.paste(pixels)

    part = StagedLayer(
        layer,
        draw,
        lambda view: Box(0, 0, width, height),
        1.0,
        other=lambda ident, area: (pixels if others is None else others)[area[1] : area[3], area[0] : area[2]],
        moment=at,
    )

    def settled(number: int, name: str, times: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.full(len(times), float(getattr(row[number].effect, name)))

    part = StagedLayer(**{**part.__dict__, "at": lambda seconds: part, "effect_values": settled})
    return EffectContext(canvas, part, 0, canvas.frame, lambda earlier: LayerImage(0, 0, pixels))


def applied(given: DrawnEffect, pixels: NDArray[np.uint8], time_s: float = 1.0, **more: Any) -> NDArray[np.uint8]:
    """The frame after an effect on a layer whose picture is these pixels."""
    joined = JoinedEffect(given, "a", given.at_work(time_s))
    context = context_of(pixels, time_s, row=(joined,), **more)
    found = joined.apply(LayerImage(0, 0, pixels), context)
    out = found.spread(context.view.frame)
    return out


def busy(width: int, height: int, seed: int = 1, opaque: bool = True) -> NDArray[np.uint8]:
    """A smooth picture of many colours with hard-edged shapes, premultiplied."""
    draws = np.random.Generator(np.random.PCG64(seed))
    y, x = np.mgrid[0:height, 0:width] / min(width, height)
    planes = []
    for _ in range(3):
        a, b, c, d = draws.uniform(1, 6, 4)
        planes.append(127 + 70 * np.sin(a * x + b * y * 2 + c) + 50 * np.sin(d * x * y * 5))
    colours = np.stack(planes, axis=2)
    for _ in range(12):
        left, top = draws.uniform(0, 1.5), draws.uniform(0, 0.9)
        inside = (np.abs(x - left) < draws.uniform(0.02, 0.12)) & (np.abs(y - top) < draws.uniform(0.02, 0.12))
        colours[inside] = draws.uniform(0, 255, 3)
    alpha = np.full((height, width, 1), 255.0)
    if not opaque:
        alpha = np.clip((0.55 - np.hypot(x - x.max() / 2, y - 0.5)) * 255 * 12, 0, 255)[..., None]
    return np.concatenate([np.clip(colours, 0, 255) * alpha / 255, alpha], axis=2).round().astype(np.uint8)
