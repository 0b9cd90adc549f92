"""Light that spreads: falloffs of several Gaussians on smaller copies, and rays from a point."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import parse_hex
from velvetdrum.limits.cache import cached
from velvetdrum.picture.raster.areas import Area, Pixels, words_of
from velvetdrum.picture.raster.colour_tables import byte_shares, shares_by_luminance
from velvetdrum.picture.raster.kernels import lighting
from velvetdrum.picture.raster.layer_image import LayerImage

SPREADS = ((0.16, 0.45), (0.45, 0.33), (1.0, 0.22))
"""Standard deviations, as shares of a radius, and weights of the Gaussians that make a falloff like that of light."""

_FINEST = (1.0, 1.25, 1.25)
"""Sigma in pixels that a copy keeps at the least, for each Gaussian: the sharpest one hides more than those beside it
show."""
_LARGEST_CELL = 128
"""Sums of a cell's columns are kept in 16 bits."""


@dataclass(frozen=True)
class SmallLight:
    """Light as a small copy: premultiplied values from 0 to 255, shape (rows, columns, 4), each standing for a cell of
    so many pixels; its first cell has its corner at a pixel of the frame."""

    values: NDArray[Any]
    cell: int
    left: int
    top: int
    unit: float = 1.0
    """What one level is, in the values."""


def spread(image: LayerImage, area: Area, radius: float, shares: NDArray[np.float64]) -> SmallLight:
    """How light spreads from a picture over an area: the sum of Gaussians of `SPREADS`, the widest with a deviation of
    `radius` pixels; beyond the picture is nothing.

    Each is done on a copy as small as it bears, and brought to the size of the largest of these; what copies have been
    blurred already is taken off.

    Parameters
    ----------
    image
        A picture with its place in the frame.
    area
        Whole pixels of the frame: left, top, right, bottom.
    radius
        Pixels.
    shares
        How much of each luminance shines, 1021 shares from 0 to 1.
    """
    sigmas = [max(share * radius, 0.3) for share, _ in SPREADS]
    cells = []
    for sigma, least in zip(sigmas, _FINEST, strict=True):
        cell = 1
        while sigma / (cell * 2) >= least and cell < _LARGEST_CELL:
            cell *= 2
        cells.append(cell)
    # Whole cells of the smallest copy all round, so that all copies lie on each other.
    largest, finest = cells[-1], cells[0]
    before = [max(-(-(image.bounds[side] - area[side]) // largest), 0) for side in (0, 1)]
    after = [max(-(-(area[side] - image.bounds[side]) // largest), 0) for side in (2, 3)]
    small = _gathered(image.pixels, shares, finest, largest, before, after)
    total: NDArray[np.float32] | None = None
    result, now = [], finest
    for cell, sigma, (_, weight) in zip(cells, sigmas, SPREADS, strict=True):
        if cell > now:
            small = np.asarray(cv2.resize(small, None, fx=now / cell, fy=now / cell, interpolation=cv2.INTER_AREA))
            now = cell
        result.append((cell, _blurred(small, sigma, cell, cell > finest), weight))
    # From the smallest up: each is enlarged only to the next one's size.
    now = largest
    for cell, part, weight in reversed(result):
        if total is None:
            total = part * np.float32(weight)
        else:
            total = _enlarged(total, now // cell, part.shape[:2])
            total = np.asarray(cv2.addWeighted(part, weight, total, 1, 0), np.float32)
        now = cell
    assert total is not None
    return SmallLight(total, finest, image.left - before[0] * largest, image.top - before[1] * largest)


def _gathered(
    pixels: Pixels, shares: NDArray[np.float64], cell: int, largest: int, before: list[int], after: list[int]
) -> NDArray[Any]:
    """What shines of a picture, as means over cells, with so many of the largest cells of nothing round it: in bytes at
    the full size, in floats else."""
    height, width = pixels.shape[:2]
    per = largest // cell
    rows, columns = (per * (count + -(-side // largest)) for count, side in ((0, height), (0, width)))
    left, top = before[0] * per, before[1] * per
    shape = rows + top + after[1] * per, columns + left + after[0] * per, 4
    if cell == 1:
        small = np.zeros(shape, np.uint8)
        small[top : top + height, left : left + width] = shares_by_luminance(pixels, shares)
        return small
    copy = np.zeros(shape, np.float32)
    words, step = words_of(pixels)
    flat = copy.reshape(shape[0], -1)
    lighting.bright_means(words, step, width, height, byte_shares(shares), cell, left, top, flat)
    return copy


def _blurred(pixels: NDArray[np.float32], sigma: float, cell: int, enlarged: bool) -> NDArray[np.float32]:
    """A Gaussian on a copy: boxes of n pixels have a variance of (n^2 - 1) / 12, and tents of that step, by which it is
    brought back, of n^2 / 6."""
    if pixels.dtype == np.uint8 and cell == 1:
        # At full size bytes are precise enough, and several times as fast.
        return np.asarray(cv2.GaussianBlur(pixels, (0, 0), sigma, borderType=cv2.BORDER_CONSTANT), np.float32)
    pixels = np.asarray(pixels, np.float32)
    left = sigma**2 - (cell**2 - 1) / 12 - (cell**2 / 6 if cell > 1 else 0)
    width = np.sqrt(max(left, 0.05)) / cell
    # Three deviations to each side; four, which the library takes for floats, cost a third more and show nothing.
    taps = 2 * int(np.ceil(3 * width)) + 1
    return np.asarray(cv2.GaussianBlur(pixels, (taps, taps), width, borderType=cv2.BORDER_CONSTANT), np.float32)


def _enlarged(pixels: NDArray[np.float32], by: int, size: tuple[int, int]) -> NDArray[np.float32]:
    if by == 1:
        return pixels[: size[0], : size[1]]
    framed = cv2.copyMakeBorder(pixels, 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    large = cv2.resize(framed, (framed.shape[1] * by, framed.shape[0] * by), interpolation=cv2.INTER_LINEAR)
    return np.asarray(large[by : by + size[0], by : by + size[1]], np.float32)


def rays(
    pixels: Pixels,
    point: tuple[float, float],
    length: float,
    decay: float,
    shares: NDArray[np.float64],
    steps: int = 7,
    cell: int = 2,
) -> SmallLight:
    """Light drawn out away from a point in pixels: the mean of the picture at sizes from 1 to 1 / (1 - length), each
    weighing less by the decay at the end. `shares` are those of the luminances that shine. Worked out in 16 bits.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    point
        A point in pixels: x, y.
    length
        Share of the way from the source that light travels, 0 to 1.
    decay
        Share that is left after each step, 0 to 1.
    shares
        Shares from 0 to 1.
    steps
        Number of steps.
    cell
        Pixels of the picture, each way, that one of the light stands for.
    """
    if cell > 1:
        size = (-(-pixels.shape[1] // cell), -(-pixels.shape[0] // cell))
        pixels = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)
    small = shares_by_luminance(pixels, shares)
    place = point[0] / cell, point[1] / cell
    words = np.asarray(cv2.multiply(small, (257.0,) * 4, dtype=cv2.CV_16U))  # type: ignore[call-overload]
    shrink = np.log(max(1 - length, 0.02))
    for step in range(steps):
        part = 2.0 ** -(steps - step)
        weight = decay**part
        words = _drawn_out(words, place, float(np.exp(shrink * part)), weight / (1 + weight))
    return SmallLight(words, cell, 0, 0, 257.0)


def _drawn_out(
    words: NDArray[np.uint16], point: tuple[float, float], scale: float, weight: float
) -> NDArray[np.uint16]:
    """The mean of a picture in 16 bits and itself as it is seen a step nearer to a point."""
    height, width = words.shape[:2]
    out = np.empty((height, width * 4), np.uint16)
    channels = np.ascontiguousarray(words).reshape(height, -1)
    columns, across = _places_toward(width, point[0], scale)
    rows, down = _places_toward(height, point[1], scale)
    share = np.uint32(round(weight * 65536))
    # A column of nothing lies on either side.
    inside = (columns >= -1) & (columns < width)
    columns, across = np.where(inside, columns + 1, 0).astype(np.uint32), np.where(inside, across, 0).astype(np.uint32)
    lighting.drawn_out(channels.view(np.uint64), channels, columns, across, rows, down, share, out)
    return out.reshape(words.shape)


def _places_toward(count: int, centre: float, scale: float) -> tuple[NDArray[np.int32], NDArray[np.uint32]]:
    """Where pixels of a row lie, scaled about a centre: the pixel before, and 256ths of the one after."""
    at = (np.arange(count) + 0.5 - centre) * scale + centre - 0.5
    steps = np.rint(at * 256).astype(np.int64)
    return (steps >> 8).astype(np.int32), (steps & 255).astype(np.uint32)


@cached
def _noise() -> NDArray[np.uint16]:
    """Even noise of one level in 256ths, the same for the four channels of a pixel, shape (256, 1024)."""
    tile = np.random.Generator(np.random.PCG64(20_261_126)).integers(0, 256, (256, 256), np.uint16)
    return np.repeat(tile, 4, axis=1)


def added(image: LayerImage, area: Area, light: SmallLight, gains: Sequence[float], film: bool = False) -> Pixels:
    """The pixels of a picture in an area, with nothing round it, and light added: times a gain each for blue, green,
    red and alpha; dithered, so that dark skirts do not band. No channel goes beyond alpha.

    On film the brightest channel of picture and light rolls off towards white, from five eighths of the range or from
    where the picture has it already, and the light's channels are held back alike: its hue is kept.

    Parameters
    ----------
    image
        A picture with its place in the frame.
    area
        Whole pixels of the frame: left, top, right, bottom.
    light
        Light on a smaller raster, at least as large as the area.
    gains
        A factor for each channel: blue, green, red, alpha.
    film
        Whether light rolls off before white, or is cut there.
    """
    width, height = area[2] - area[0], area[3] - area[1]
    rows, columns = light.values.shape[:2]
    scale = tuple((32.0 if film else 256.0) * gain / light.unit for gain in gains)
    strong = cv2.multiply(light.values, scale, dtype=cv2.CV_16U)  # type: ignore[call-overload]
    # Enlarged across alone; the loop goes between rows itself.
    wide = np.asarray(cv2.resize(strong, (columns * light.cell, rows), interpolation=cv2.INTER_LINEAR), np.uint16)
    left, top = area[0] - light.left, area[1] - light.top
    missing = left + width - wide.shape[1]
    if missing > 0:
        # At an odd size the last half of a cell is missing.
        wide = np.asarray(cv2.copyMakeBorder(wide, 0, 0, 0, missing, cv2.BORDER_REPLICATE), np.uint16)
    channels = np.ascontiguousarray(wide).reshape(rows, -1)
    inside = image.within(area)
    out = np.empty((height, width), np.uint32)
    words, step = (np.zeros(0, np.uint32), 0) if inside.empty else words_of(inside.pixels)
    size = (inside.bounds[2] - inside.left, inside.bounds[3] - inside.top)
    place = (inside.left - area[0], inside.top - area[1])
    laid = out.view(np.uint8)
    lighting.lit(words, step, *size, *place, out, laid, channels, light.cell, left * 4, top, _noise(), film)
    return laid.reshape(height, width, 4)


RESPONSES = {"film": "Film: rolls off before white", "hard": "Hard: cut at white"}
"""How a picture takes light that is added to it."""


def limited(pixels: Pixels) -> Pixels:
    """Premultiplied pixels with no channel beyond alpha, in place where that is so already.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    """
    alpha = cv2.extractChannel(pixels, 3)
    if cv2.minMaxLoc(alpha)[0] == 255:
        return pixels
    return np.asarray(cv2.min(pixels, cv2.merge([alpha] * 4)), np.uint8)


def tint_gains(colour: str, tint: float, gain: float) -> tuple[float, float, float, float]:
    """What light is multiplied by: its gain, and so much of a colour.

    Parameters
    ----------
    colour
        A colour as #rrggbb.
    tint
        0 to 1.
    gain
        A factor.
    """
    red, green, blue = (1 - tint + tint * value for value in parse_hex(colour))
    return gain * blue, gain * green, gain * red, gain


def in_colour(light: SmallLight, tint: float) -> SmallLight:
    """Light that is to take a colour: as grey as it is tinted, so that the colour shows.

    Parameters
    ----------
    light
        Light on a smaller raster.
    tint
        0 to 1.
    """
    if tint <= 0:
        return light
    values = light.values.astype(np.float32)
    grey = values[..., :3].max(axis=2, keepdims=True)
    values[..., :3] += (grey - values[..., :3]) * np.float32(tint)
    return replace(light, values=values)
