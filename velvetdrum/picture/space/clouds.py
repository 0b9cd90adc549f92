"""Clouds: many marks in space, drawn as a camera sees them, the farthest first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.particles import FORMS, Hidden, Tint, draw_discs, draw_sprites, premultiplied, shrunk
from velvetdrum.picture.space.camera import NEAREST, Camera, Projection, Values

_WIDEST = 0.5
"""A mark is drawn no wider than this share of the frame's long side: what is nearer would be the whole picture."""


@dataclass(frozen=True, eq=False)
class Brush:
    """What marks are drawn with: a form known by its radius, or a picture; in their own colours; added as light."""

    form: str = "disc"
    picture: Pixels | None = None
    tint: Tint = "form"
    adds: bool = False


@dataclass(frozen=True, eq=False)
class Cloud:
    """Marks in space: places in per cent of the short side, shape (n, 3), diameters likewise, colours sRGB from 0 to 1,
    shape (n, 3), alphas, and turns in radians where the brush is a picture."""

    places: Values
    sizes: Values
    colours: Values
    alphas: Values
    brush: Brush
    angles: Values | None = None
    links: NDArray[np.int64] | None = None
    """Pairs of marks that are joined by lines, shape (m, 2), with the alpha of each and their width."""
    link_alphas: Values | None = None
    link_width: float = 0.0

    def moved(self, matrix: Values) -> Cloud:
        """The cloud placed by an affine matrix, shape (4, 4); sizes go with it.

        Parameters
        ----------
        matrix
            An affine matrix, shape (4, 4).
        """
        scale = float(np.cbrt(abs(np.linalg.det(matrix[:3, :3]))))
        return replace(self, places=self.places @ matrix[:3, :3].T + matrix[:3, 3], sizes=self.sizes * scale)


def draw_clouds(
    canvas: Canvas, clouds: Sequence[Cloud], camera: Camera, nearest: NDArray[np.float32] | None = None
) -> None:
    """Draw clouds, the marks of all of them in the order of their depth; those that add light come last, since their
    order does not matter. `nearest` hides what lies behind solids: 1 / depth for each pixel of the canvas's area.

    Parameters
    ----------
    canvas
        What is drawn on.
    clouds
        Marks in space.
    camera
        The camera that it is seen by.
    nearest
        1 / depth of what is nearest by pixel, shape (height, width); None where nothing hides.
    """
    shown = [_Shown.of(canvas, cloud, camera) for cloud in clouds]
    for one in shown:
        one.draw_links(canvas)
    solid = [one for one in shown if not one.cloud.brush.adds]
    if len(solid) == 1:
        solid[0].draw(canvas, solid[0].order(), nearest)
    elif solid:
        depth = np.concatenate([one.seen.depth for one in solid])
        owner = np.repeat(np.arange(len(solid)), [len(one.seen.depth) for one in solid])
        index = np.concatenate([np.arange(len(one.seen.depth)) for one in solid])
        order = np.argsort(-depth, kind="stable")
        owner, index = owner[order], index[order]
        # Runs of marks of one cloud are drawn at once.
        ends = np.flatnonzero(np.diff(owner)) + 1
        for run in np.split(np.arange(len(owner)), ends):
            if len(run):
                solid[owner[run[0]]].draw(canvas, index[run], nearest)
    for one in shown:
        if one.cloud.brush.adds:
            one.draw(canvas, np.arange(len(one.seen.depth)), nearest)


@dataclass(frozen=True, eq=False)
class _Shown:
    """A cloud as a camera sees it."""

    cloud: Cloud
    seen: Projection
    widths: Values
    words: NDArray[np.uint32]

    @classmethod
    def of(cls, canvas: Canvas, cloud: Cloud, camera: Camera) -> _Shown:
        seen = camera.seen(cloud.places)
        widths = np.maximum(cloud.sizes, 0.0) * seen.scale
        blur = camera.blur(seen.depth)
        # A point out of focus is as bright in all, spread over its circle.
        spread = np.sqrt(widths**2 + blur**2)
        share = np.where(spread > 0, (widths / np.maximum(spread, 1e-9)) ** 2, 0.0)
        fog = camera.fog(seen.depth)
        colours, alphas = cloud.colours, cloud.alphas * share
        if cloud.brush.adds:
            alphas = alphas * (1 - fog)
        elif fog.any():
            colours = colours + (camera.fog_colour - colours) * fog[:, None]
        widest = _WIDEST * max(canvas.width, canvas.height)
        there = seen.there & (spread < 2 * widest)
        # Near the eye they fade, so that none pops.
        alphas = alphas * np.clip((seen.depth - NEAREST) / (4 * NEAREST), 0, 1) * there
        return cls(cloud, seen, np.minimum(spread, widest), premultiplied(colours, alphas))

    def order(self) -> NDArray[np.intp]:
        """The marks from the farthest to the nearest."""
        return np.argsort(-self.seen.depth, kind="stable")

    def draw(self, canvas: Canvas, order: NDArray[np.intp], nearest: NDArray[np.float32] | None) -> None:
        """Draw marks in an order."""
        order = order[self.words[order] != 0]
        if not len(order):
            return
        x, y, widths, words = self.seen.x[order], self.seen.y[order], self.widths[order], self.words[order]
        hidden = None if nearest is None else Hidden(1.0 / np.maximum(self.seen.depth[order], 1e-6), nearest)
        brush = self.cloud.brush
        if brush.picture is None:
            draw_discs(
                canvas, x, y, widths / 2, words, brush.form if brush.form in FORMS else "disc", brush.adds, hidden
            )
            return
        picture = shrunk(brush.picture, float(widths.max(initial=1.0)))
        ratio = brush.picture.shape[0] / brush.picture.shape[1]
        sides = (widths, widths * ratio) if ratio <= 1 else (widths / ratio, widths)
        angles = np.zeros(len(order)) if self.cloud.angles is None else self.cloud.angles[order]
        draw_sprites(canvas, picture, x, y, sides, angles, words, tint=brush.tint, adds=brush.adds, hidden=hidden)

    def draw_links(self, canvas: Canvas) -> None:
        """Lines between marks, each in the mean of their colours."""
        cloud, seen = self.cloud, self.seen
        if cloud.links is None or cloud.link_alphas is None or not len(cloud.links):
            return
        one, other = cloud.links.T
        there = seen.there[one] & seen.there[other] & (cloud.link_alphas > 1 / 255)
        if not there.any():
            return
        one, other, alphas = one[there], other[there], cloud.link_alphas[there]
        colours = (cloud.colours[one] + cloud.colours[other]) / 2
        alphas = alphas * (cloud.alphas[one] + cloud.alphas[other]) / 2
        width = cloud.link_width * float(np.median(seen.scale[one]))
        onto = canvas.surface()
        paint = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=max(width, 0.6))
        paint.setStrokeCap(skia.Paint.kRound_Cap)
        if cloud.brush.adds:
            paint.setBlendMode(skia.BlendMode.kPlus)
        # Lines of nearly one colour are drawn at once.
        levels = np.rint(np.concatenate([colours, np.clip(alphas, 0, 1)[:, None]], axis=1) * 7).astype(np.int64)
        names = levels @ (512, 64, 8, 1)
        for name in np.unique(names):
            here = names == name
            r, g, b, a = levels[here][0] * 255 // 7
            ends = np.stack(
                [
                    np.stack([seen.x[one[here]], seen.y[one[here]]], 1),
                    np.stack([seen.x[other[here]], seen.y[other[here]]], 1),
                ],
                1,
            ).reshape(-1, 2)
            paint.setColor(skia.ColorSetARGB(int(a), int(r), int(g), int(b)))
            onto.drawPoints(skia.Canvas.kLines_PointMode, [skia.Point(*point) for point in ends.tolist()], paint)
