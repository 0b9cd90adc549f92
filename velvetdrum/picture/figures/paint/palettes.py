"""Palettes: gradients from pasted CSS, and from the colours of a picture."""

from __future__ import annotations

import re

import cv2
import numpy as np
from coloraide import Color

from velvetdrum.declare.oklab import from_oklab, to_oklab
from velvetdrum.declare.settings import MOST_STOPS, Stop
from velvetdrum.picture.raster.areas import Pixels

_GRADIENT = re.compile(r"(?:repeating-)?(?:linear|radial|conic)-gradient\((.*)\)\s*;?\s*", re.IGNORECASE | re.DOTALL)
_PLACE = re.compile(r"\s+(-?\d*\.?\d+)(%|deg|turn)\s*$", re.IGNORECASE)
_DIRECTION = re.compile(r"\s*(to |from |at |in |circle|ellipse|closest|farthest|-?[\d.]+(deg|turn|rad|grad)\s*$)", re.I)
_LONGEST = 20_000


SHIPPED: dict[str, tuple[str, ...]] = {
    "Harbour dusk": ("#ff7a66", "#e0ac55", "#5fc4b4", "#a99bff"),
    "Lamp oil": ("#fff0c9", "#f0b866", "#ff7a66", "#7a2f45"),
    "Sea glass": ("#dff5ea", "#5fc4b4", "#2c7f93", "#1c3a5e"),
    "Night ferry": ("#7cc0f2", "#6d6bd6", "#a34f9c", "#ff9a7a"),
    "Signal flags": ("#f4eadb", "#e0ac55", "#ff7a66", "#2b3a5e"),
    "Salt and iron": ("#f4eadb", "#bda9b4", "#6b5566", "#302030"),
    "Kelp": ("#eaf2b0", "#a8cf6a", "#3f8f5f", "#173f3f"),
}
"""Palettes that are always there: colours at even places."""


class PaletteError(ValueError):
    """A palette that cannot be read, with a sentence for the person who pasted it."""


def parse_palette(text: str) -> tuple[Stop, ...]:
    """Stops from pasted CSS: a gradient, or colours with commas, semicolons or line ends between (CSS Color 4, CSS
    Images 4). Places that are not given are spread evenly, as CSS does. Raises PaletteError."""
    if len(text) > _LONGEST:
        raise PaletteError(f"This is longer than {_LONGEST} characters; paste the colours alone.")
    result = _GRADIENT.fullmatch(text.strip().removeprefix("background:").removeprefix("background-image:").strip())
    parts = _split(result[1] if result else text, "," if result else ",;\n")
    if result and parts and _DIRECTION.match(parts[0]):
        parts = parts[1:]
    if not result and len(parts) == 1:
        # Hex colours are also copied with nothing but spaces between.
        words = parts[0].split()
        parts = words if len(words) > 1 and all(word.startswith("#") for word in words) else parts
    if not parts:
        raise PaletteError("Paste colours such as #ff7a66, gold, rgb(95 196 180), or a CSS gradient.")
    stops: list[tuple[float | None, str]] = []
    for part in parts:
        places: list[float] = []
        while match := _PLACE.search(part):
            places.insert(0, float(match[1]) / {"%": 100, "deg": 360, "turn": 1}[match[2].lower()])
            part = part[: match.start()]
        colour = _hex(part)
        stops += [(place, colour) for place in places] or [(None, colour)]
    if len(stops) > MOST_STOPS:
        raise PaletteError(f"A gradient has up to {MOST_STOPS} stops, not {len(stops)}.")
    return _placed(stops)


def palette_of(pixels: Pixels, count: int = 5) -> tuple[Stop, ...]:
    """The colours that make up a picture, dark to light, evenly placed: the centres of clusters in Oklab. `pixels`
    are premultiplied BGRA; what is hardly solid is left out."""
    scale = min(1.0, 128 / max(pixels.shape[:2]))
    # A picture one pixel wide stays that wide.
    size = (max(round(pixels.shape[1] * scale), 1), max(round(pixels.shape[0] * scale), 1))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA) if scale < 1 else pixels
    flat = small.reshape(-1, 4).astype(np.float64)
    flat = flat[flat[:, 3] > 127]
    if not len(flat):
        raise PaletteError("This picture is transparent; there are no colours to take.")
    lab = to_oklab(np.clip(flat[:, 2::-1] / flat[:, 3:], 0, 1))
    if len(lab) == 1:
        # A single row would be read as three samples of one number.
        lab = np.repeat(lab, 2, axis=0)
    count = min(count, len(np.unique(np.round(lab, 3), axis=0)))
    cv2.setRNGSeed(1)
    ends = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 60, 1e-4)
    # Hue weighs more than lightness: a gradient of five greys is not what is looked for.
    weights = np.array([0.7, 1.6, 1.6])
    _, _, centres = cv2.kmeans((lab * weights).astype(np.float32), count, None, ends, 3, cv2.KMEANS_PP_CENTERS)  # type: ignore[call-overload]
    result = np.asarray(centres, np.float64) / weights
    result = from_oklab(result[np.argsort(result[:, 0])])
    codes = np.rint(result * 255).astype(int)
    places = np.linspace(0.0, 1.0, count) if count > 1 else np.zeros(1)
    return tuple((float(place), "#{:02x}{:02x}{:02x}".format(*code)) for place, code in zip(places, codes, strict=True))


def evenly(colours: tuple[str, ...]) -> tuple[Stop, ...]:
    """Colours as stops at even places."""
    return tuple((index / max(len(colours) - 1, 1), colour) for index, colour in enumerate(colours))


def _split(text: str, marks: str) -> list[str]:
    """Parts between any of `marks` that stand outside of brackets; empty ones are left out."""
    parts, depth, held = [], 0, ""
    for letter in text:
        depth += (letter == "(") - (letter == ")")
        if letter in marks and depth == 0:
            parts.append(held)
            held = ""
        else:
            held += letter
    return [part.strip() for part in [*parts, held] if part.strip()]


def _hex(text: str) -> str:
    try:
        colour = Color(text.strip()).convert("srgb").fit("srgb")
    except ValueError as problem:
        raise PaletteError(
            f"“{text.strip()[:40]}” is no CSS colour. Write it as #ff7a66, gold or rgb(95 196 180)."
        ) from problem
    red, green, blue = (round(min(max(float(value), 0.0), 1.0) * 255) for value in colour.coords(nans=False))
    return f"#{red:02x}{green:02x}{blue:02x}"


def _placed(stops: list[tuple[float | None, str]]) -> tuple[Stop, ...]:
    """Stops with all places known: CSS Images 4, section 3.5.3."""
    places: list[float | None] = [place for place, _ in stops]
    if places[0] is None:
        places[0] = 0.0
    if places[-1] is None:
        places[-1] = 1.0
    largest = 0.0
    for index, place in enumerate(places):
        if place is not None:
            largest = max(largest, min(max(place, 0.0), 1.0))
            places[index] = largest
    known = [index for index, place in enumerate(places) if place is not None]
    filled = np.interp(np.arange(len(places)), known, [float(places[index] or 0.0) for index in known])
    return tuple((round(float(place), 6), colour) for place, (_, colour) in zip(filled, stops, strict=True))
