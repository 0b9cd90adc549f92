"""Light that spreads: falloffs of several Gaussians on smaller copies, and rays from a point."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import parse_hex
from velvetdrum.limits.cache import kept
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.bending import smeared

SPREADS = ((0.16, 0.45), (0.45, 0.33), (1.0, 0.22))
"""Standard deviations, as shares of a radius, and weights of the Gaussians that make a falloff like that of light."""

_FINEST = 1.6
"""Sigma in pixels that a copy keeps at the least."""


def spread(pixels: Pixels, radius: float) -> NDArray[np.float32]:
    """How light spreads from premultiplied pixels: the sum of Gaussians of `SPREADS`, the widest with a deviation of
    `radius` pixels; beyond the edges is nothing. Same shape, 0 to 255, as float32.

    Each is done on a copy as small as it bears, brought back by cubic splines; what copies have been blurred already is
    taken off.
    """
    height, width = pixels.shape[:2]
    total: NDArray[np.float32] | None = None
    small: NDArray[np.float32] = pixels  # type: ignore[assignment]
    step, parts = 1, []
    for share, weight in SPREADS:
        sigma = max(share * radius, 0.3)
        wanted = 1
        while sigma / (wanted * 2) >= _FINEST:
            wanted *= 2
        if wanted > step:
            small = _halved(small, wanted // step)
            step = wanted
        parts.append((step, _blurred(small, sigma, step), weight))
    # From the smallest up: each is enlarged only to the next one's size.
    for place in range(len(parts) - 1, -1, -1):
        step, found, weight = parts[place]
        found = cv2.multiply(found, (weight,) * 4) if total is None else cv2.addWeighted(found, weight, total, 1, 0)  # type: ignore[assignment]
        below = parts[place - 1][0] if place else 1
        total = _enlarged(found, step // below, parts[place - 1][1].shape[:2] if place else (height, width))
    assert total is not None
    return total


def _halved(pixels: NDArray[np.float32], by: int) -> NDArray[np.float32]:
    """Means of squares, with what is missing at the right and below filled by nothing."""
    height, width = pixels.shape[:2]
    columns, rows = -(-width // by), -(-height // by)
    if (columns * by, rows * by) != (width, height):
        pixels = cv2.copyMakeBorder(  # type: ignore[assignment]
            pixels, 0, rows * by - height, 0, columns * by - width, cv2.BORDER_CONSTANT
        )
    small = cv2.resize(pixels, (columns, rows), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32)


def _blurred(pixels: NDArray[np.float32], sigma: float, step: int) -> NDArray[np.float32]:
    """A Gaussian on a copy of every `step`th pixel: boxes of n pixels have a variance of (n^2 - 1) / 12, and tents of
    that step, by which it is brought back, of n^2 / 6."""
    left = sigma**2 - (step**2 - 1) / 12 - (step**2 / 6 if step > 1 else 0)
    return np.asarray(
        cv2.GaussianBlur(
            np.asarray(pixels, np.float32), (0, 0), np.sqrt(max(left, 0.05)) / step, borderType=cv2.BORDER_CONSTANT
        ),
        np.float32,
    )


def _enlarged(pixels: NDArray[np.float32], by: int, size: tuple[int, int]) -> NDArray[np.float32]:
    if by == 1:
        return pixels[: size[0], : size[1]]
    framed = cv2.copyMakeBorder(pixels, 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    large = cv2.resize(framed, (framed.shape[1] * by, framed.shape[0] * by), interpolation=cv2.INTER_LINEAR)
    return np.asarray(large[by : by + size[0], by : by + size[1]], np.float32)


def rays(pixels: Pixels, point: tuple[float, float], length: float, decay: float, steps: int = 7) -> NDArray[np.float32]:
    """Light drawn out away from a point in pixels: the mean of the picture at sizes from 1 to 1 / (1 - length), each
    weighing less by the decay at the end. Same shape, 0 to 255, as float32; worked out at half size."""
    height, width = pixels.shape[:2]
    small = _halved(pixels, 2)  # type: ignore[arg-type]
    x, y = point[0] / 2 - 0.5, point[1] / 2 - 0.5
    shrink = np.log(max(1 - length, 0.02))

    def toward(part: float) -> NDArray[np.float64]:
        scale = float(np.exp(shrink * part))
        return np.array([[scale, 0, x * (1 - scale)], [0, scale, y * (1 - scale)]])

    return _enlarged(smeared(small, steps, toward, decay), 2, (height, width))


@kept
def _noise() -> NDArray[np.float32]:
    """Even noise of one level, shape (256, 256, 4), the same in all channels of a pixel."""
    tile = np.random.Generator(np.random.PCG64(20_261_126)).random((256, 256), np.float32)
    return np.repeat(tile[..., None], 4, axis=2)


@kept
def _wide_noise(height: int, width: int) -> NDArray[np.float32]:
    tile = _noise()
    return np.ascontiguousarray(np.tile(tile, (-(-height // 256), -(-width // 256), 1))[:height, :width])


def added(pixels: Pixels, light: NDArray[np.float32], gains: tuple[float, float, float, float]) -> Pixels:
    """Premultiplied pixels with light added, times a gain each for blue, green, red and alpha; dithered, so that dark
    skirts do not band. No channel goes beyond alpha."""
    height, width = pixels.shape[:2]
    strong = cv2.multiply(light, gains)
    # Noise of a whole level, then rounded down: the mean is kept. OpenCV rounds, so half a level is taken off.
    strong = cv2.add(strong, _wide_noise(height, width))
    found = cv2.addWeighted(strong, 1.0, pixels, 1.0, -0.5, dtype=cv2.CV_8U)
    return limited(np.asarray(found, np.uint8))


def alone(light: NDArray[np.float32], gains: tuple[float, float, float, float]) -> Pixels:
    """Light as premultiplied pixels of its own, dithered."""
    return added(np.zeros((*light.shape[:2], 4), np.uint8), light, gains)


def limited(pixels: Pixels) -> Pixels:
    """Premultiplied pixels with no channel beyond alpha, in place where that is so already."""
    alpha = cv2.extractChannel(pixels, 3)
    if cv2.minMaxLoc(alpha)[0] == 255:
        return pixels
    return np.asarray(cv2.min(pixels, cv2.merge([alpha] * 4)), np.uint8)


def tint_gains(colour: str, tint: float, gain: float) -> tuple[float, float, float, float]:
    """What light is multiplied by: its gain, and so much of a colour."""
    red, green, blue = (1 - tint + tint * value for value in parse_hex(colour))
    return gain * blue, gain * green, gain * red, gain


def in_colour(light: NDArray[np.float32], tint: float) -> NDArray[np.float32]:
    """Light that is to take a colour: as grey as it is tinted, so that the colour shows."""
    if tint <= 0:
        return light
    grey = light[..., :3].max(axis=2, keepdims=True)
    out = light.copy()
    out[..., :3] += (grey - light[..., :3]) * np.float32(tint)
    return out
