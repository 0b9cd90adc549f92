"""Colours by place: gradients, fields between corners, dithered to bytes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import Rgb, from_oklab, parse_hex, to_oklab
from velvetdrum.limits.cache import cached
from velvetdrum.picture.raster.areas import Area, Coverage, Pixels, bytes_of, words_of
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.kernels import fields


def packed_ramp(rgb: Rgb, solid: NDArray[np.float64] | None = None) -> NDArray[np.uint64]:
    """A table of colours, shape (n, 3), sRGB from 0 to 1, as words of four 16-bit channels: blue, green, red,
    alpha, premultiplied, each in 256ths of an 8-bit step. Words are looked up and dithered by `dithered`.

    Parameters
    ----------
    rgb
        Red, green and blue.
    solid
        How solid each colour is, 0 to 1, shape (n,); None for opaque ones.
    """
    channels = np.full((len(rgb), 4), 255 * 256, np.uint16)
    if solid is None:
        channels[:, :3] = np.rint(np.clip(rgb, 0.0, 1.0) * 65280.0)[:, ::-1]
    else:
        # Whole steps of alpha, which has no grain, and no channel above it: a word that is laid over another fits.
        alpha = np.rint(np.clip(solid, 0.0, 1.0) * 255.0)
        channels[:, :3] = np.rint(np.clip(rgb, 0.0, 1.0) * alpha[:, None] * 256.0)[:, ::-1]
        channels[:, 3] = alpha * 256.0
    return np.ascontiguousarray(channels).view(np.uint64)[:, 0]


def packed_image(rgb: Rgb) -> NDArray[np.uint64]:
    """An image of sRGB colours from 0 to 1, shape (height, width, 3), as words for `dithered`.

    Parameters
    ----------
    rgb
        Red, green and blue.
    """
    height, width, _ = rgb.shape
    return packed_ramp(rgb.reshape(-1, 3)).reshape(height, width)


def corner_colours(
    width: int, height: int, area: tuple[int, int, int, int], corners: tuple[str, str, str, str], mix: str
) -> Rgb:
    """Colours between those of a frame's corners, bilinear, for the pixels of an area (left, top, right, bottom).

    `corners`: top left, top right, bottom right, bottom left. Shape (rows, columns, 3), sRGB from 0 to 1.

    Parameters
    ----------
    width
        Pixels across.
    height
        Pixels down.
    area
        Whole pixels of the frame: left, top, right, bottom.
    corners
        Colours as #rrggbb: top left, top right, bottom left, bottom right.
    mix
        How colours are mixed: one of the interpolation spaces.
    """
    left, top, right, bottom = area
    ends = np.array([parse_hex(value) for value in corners])
    if mix == "oklab":
        ends = to_oklab(ends)
    u = ((np.arange(left, right) + 0.5) / width)[None, :, None]
    v = ((np.arange(top, bottom) + 0.5) / height)[:, None, None]
    result = (ends[0] * (1 - u) + ends[1] * u) * (1 - v) + (ends[3] * (1 - u) + ends[2] * u) * v
    return from_oklab(result) if mix == "oklab" else np.asarray(result)


@cached
def noise_tile() -> NDArray[np.uint64]:
    """Even noise of one 8-bit step in each colour channel of a word, shape (256, 256). The tile is the same for every
    size and machine, so equal places get equal grain."""
    noise = np.zeros((256, 256, 4), np.uint16)
    noise[..., :3] = np.random.Generator(np.random.PCG64(20_260_102)).integers(0, 256, (256, 256, 3))
    return noise.view(np.uint64)[..., 0]


def dithered(words: NDArray[np.uint64]) -> Pixels:
    """BGRA bytes of packed colours, shape (height, width) to (height, width, 4).

    Noise of a whole step, then rounded down: the mean is kept, and a value that is a whole step stays plain.

    Parameters
    ----------
    words
        Words of four times 16 bits.
    """
    out = np.empty(words.shape, np.uint32)
    fields.dither(out, np.ascontiguousarray(words), noise_tile())
    return _as_pixels(out)


def looked_up(table: NDArray[np.uint64], places: NDArray[np.int32]) -> Pixels:
    """BGRA bytes of the packed colours of a table at places in it, dithered, shape (height, width, 4).

    Parameters
    ----------
    table
        Colours as words of four times 16 bits, shape (n,).
    places
        Places in the table, shape (height, width).
    """
    out = np.empty(places.shape, np.uint32)
    fields.look_up(out, table, np.ascontiguousarray(places), noise_tile())
    return _as_pixels(out)


class Colours(Protocol):
    """The colour of every pixel of an area."""

    @property
    def area(self) -> Area:
        """Whole pixels of the frame: left, top, right, bottom."""
        raise NotImplementedError

    def lay(self, pixels: Pixels, place: tuple[int, int], mask: Coverage, opacity: float) -> None:
        """Blend them over pixels that begin at a place in the area, as far as a mask of their size shows them.

        Parameters
        ----------
        pixels
            Premultiplied BGRA pixels that are drawn on.
        place
            Where the pixels begin: left and top in pixels of the frame.
        mask
            Coverage, 0 to 255, shape (height, width).
        opacity
            0 to 1.
        """


@dataclass(frozen=True, eq=False)
class PictureColours:
    """Those of a picture of the area's size, premultiplied."""

    pixels: Pixels
    area: Area

    def lay(self, pixels: Pixels, place: tuple[int, int], mask: Coverage, opacity: float) -> None:
        """As `Colours` says."""
        right, down = place[0] - self.area[0], place[1] - self.area[1]
        height, width = mask.shape
        blend(pixels, self.pixels[down : down + height, right : right + width], "normal", mask, opacity)


@dataclass(frozen=True, eq=False)
class TableColours:
    """Packed colours of a table at places in it, shape (height, width), dithered."""

    table: NDArray[np.uint64]
    places: NDArray[np.int32]
    area: Area

    def lay(self, pixels: Pixels, place: tuple[int, int], mask: Coverage, opacity: float) -> None:
        """As `Colours` says."""
        right, down = place[0] - self.area[0], place[1] - self.area[1]
        height, width = mask.shape
        places = bytes_of(self.places[down : down + height, right : right + width])
        fields.lay_table(*_target(pixels, mask), self.table, noise_tile(), right, down, _share(opacity), *places)


@dataclass(frozen=True, eq=False)
class CircleColours:
    """Packed colours of a table by the distance from a circle, dithered: the table's start on it, its end at `reach`
    pixels outward and inward; a reach of 0 keeps that side at the start."""

    table: NDArray[np.uint64]
    area: Area
    centre: tuple[float, float]
    radius: float
    reach: tuple[float, float]

    def lay(self, pixels: Pixels, place: tuple[int, int], mask: Coverage, opacity: float) -> None:
        """As `Colours` says."""
        right, down = place[0] - self.area[0], place[1] - self.area[1]
        x, y = np.float32(self.centre[0] - self.area[0]), np.float32(self.centre[1] - self.area[1])
        away = x, y, np.float32(self.radius), *_scales(self.reach)
        fields.lay_around_point(*_target(pixels, mask), self.table, noise_tile(), right, down, _share(opacity), *away)


@dataclass(frozen=True, eq=False)
class LineColours:
    """As `CircleColours` by the distance from a straight line through a point; `up` is the unit vector across it."""

    table: NDArray[np.uint64]
    area: Area
    point: tuple[float, float]
    up: tuple[float, float]
    reach: tuple[float, float]

    def lay(self, pixels: Pixels, place: tuple[int, int], mask: Coverage, opacity: float) -> None:
        """As `Colours` says."""
        right, down = place[0] - self.area[0], place[1] - self.area[1]
        u, v = self.up
        start = np.float32((self.area[0] - self.point[0]) * u + (self.area[1] - self.point[1]) * v)
        away = np.float32(u), np.float32(v), start, *_scales(self.reach)
        fields.lay_along_line(*_target(pixels, mask), self.table, noise_tile(), right, down, _share(opacity), *away)


def fill_around_point(
    pixels: Pixels, place: tuple[int, int], table: NDArray[np.uint64], centre: tuple[float, float], reach: float
) -> None:
    """Write packed colours by the distance from a point over pixels, dithered: the table's end lies at `reach` pixels.

    Parameters
    ----------
    pixels
        The pixels that are written to, BGRA, shape (height, width, 4).
    place
        The first pixel in the frame: x, y.
    table
        Colours as words of four times 16 bits, shape (n,).
    centre
        A point in pixels of the frame.
    reach
        Pixels from the point at which the table ends.
    """
    size = pixels.shape[1], pixels.shape[0]
    at = np.float32(centre[0]), np.float32(centre[1]), np.float32(1 / reach)
    fields.fill_around_point(*words_of(pixels), table, noise_tile(), *place, *size, *at)


def fill_along_line(
    pixels: Pixels,
    place: tuple[int, int],
    table: NDArray[np.uint64],
    start: tuple[float, float],
    end: tuple[float, float],
) -> None:
    """As `fill_around_point`, along a line: the table begins at one point of the frame and ends at another.

    Parameters
    ----------
    pixels
        The pixels that are written to, BGRA, shape (height, width, 4).
    place
        The first pixel in the frame: x, y.
    table
        Colours as words of four times 16 bits, shape (n,).
    start
        Where the table begins, in pixels of the frame.
    end
        Where it ends.
    """
    dx, dy = end[0] - start[0], end[1] - start[1]
    square = max(dx * dx + dy * dy, 1e-6)
    way = np.float32(dx / square), np.float32(dy / square), np.float32(-(start[0] * dx + start[1] * dy) / square)
    size = pixels.shape[1], pixels.shape[0]
    fields.fill_along_line(*words_of(pixels), table, noise_tile(), *place, *size, *way)


def _target(pixels: Pixels, mask: Coverage) -> tuple[NDArray[np.uint32], int, NDArray[Any], int, int, int]:
    return *words_of(pixels), *bytes_of(mask), mask.shape[1], mask.shape[0]


def _share(opacity: float) -> np.uint32:
    return np.uint32(min(max(opacity, 0.0), 1.0) * 65536 + 0.5)


def _scales(reach: tuple[float, float]) -> tuple[np.float32, np.float32]:
    out, inward = (np.float32(1 / far if far > 0 else 0.0) for far in reach)
    return out, inward


def _as_pixels(words: NDArray[np.uint32]) -> Pixels:
    return words.view(np.uint8).reshape(*words.shape, 4)
