"""Colours as numbers: sRGB, and Oklab, in which they are mixed evenly to the eye."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached

Rgb = NDArray[np.float64]

# Matrices of Oklab (B. Ottosson, 2020), from linear sRGB to cone responses and on to Lab.
_TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)


_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


def parse_hex(text: str) -> Rgb:
    """#rrggbb as three values from 0 to 1."""
    return np.array([int(text[i : i + 2], 16) / 255 for i in (1, 3, 5)])


def parse_opacity(text: str) -> float:
    """The opacity of #rrggbbaa, 0 to 1; of #rrggbb, 1."""
    return int(text[7:9], 16) / 255 if len(text) == 9 else 1.0


def to_oklab(rgb: Rgb) -> Rgb:
    """Gamma-coded sRGB, shape (..., 3), to Oklab."""
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((np.maximum(rgb, 0) + 0.055) / 1.055) ** 2.4)
    return np.cbrt(linear @ _TO_CONES.T) @ _TO_LAB.T


def from_oklab(lab: Rgb) -> Rgb:
    """Oklab, shape (..., 3), to gamma-coded sRGB, cut to 0 to 1."""
    linear = (lab @ np.linalg.inv(_TO_LAB).T) ** 3 @ np.linalg.inv(_TO_CONES).T
    linear = np.clip(linear, 0.0, 1.0)
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)


def relative_luminance(rgb: Rgb) -> Rgb:
    """Relative luminance (WCAG 2.2) of gamma-coded sRGB from 0 to 1, shape (..., 3) to (...)."""
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    return np.asarray(linear @ _LUMINANCE)


@cached
def ramp(stops: tuple[tuple[float, str], ...], size: int, mix: str = "oklab", steps: bool = False) -> Rgb:
    """A gradient as a table, shape (size, 3), sRGB from 0 to 1; entry i stands at i / (size - 1).

    `mix` is the space in which neighbours are blended, `oklab` or `srgb`. With `steps` each stop's colour
    holds until the next one.
    """
    colours = np.array([parse_hex(value) for _, value in stops])
    low, high, parts = _neighbours(stops, size)
    if steps:
        return colours[low]
    part = parts[:, None]
    solid = np.array([parse_opacity(value) for _, value in stops])
    if solid.min() < 1:
        # Premultiplied, as CSS Color 4 mixes colours that have an opacity: what is clear lends no colour.
        weights = (1 - part) * solid[low][:, None], part * solid[high][:, None]
        whole = weights[0] + weights[1]
        part = np.where(whole > 0, weights[1] / np.where(whole > 0, whole, 1.0), part)
    if mix == "oklab":
        lab = to_oklab(colours)
        return from_oklab(lab[low] * (1 - part) + lab[high] * part)
    return colours[low] * (1 - part) + colours[high] * part


def opacity_ramp(stops: tuple[tuple[float, str], ...], size: int, steps: bool = False) -> NDArray[np.float64] | None:
    """How solid a gradient is along it, shape (size,), 0 to 1, as `ramp` places its entries; None for one that is
    solid everywhere."""
    solid = np.array([parse_opacity(value) for _, value in stops])
    if solid.min() == 1:
        return None
    low, high, part = _neighbours(stops, size)
    if steps:
        return np.asarray(solid[low])
    return np.asarray(solid[low] * (1 - part) + solid[high] * part)


def _neighbours(
    stops: tuple[tuple[float, str], ...], size: int
) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.float64]]:
    """Of each entry of a table: the stops below and above it, and how far it stands between them, 0 to 1."""
    places, at = np.array([place for place, _ in stops]), np.linspace(0.0, 1.0, size)
    upper = np.clip(np.searchsorted(places, at, side="right"), 0, len(places))
    low, high = np.clip(upper - 1, 0, None), np.clip(upper, None, len(places) - 1)
    span = places[high] - places[low]
    part = np.where(span > 0, (at - places[low]) / np.where(span > 0, span, 1.0), 0.0)
    return low, high, np.clip(part, 0.0, 1.0)
