"""Colours of whole pictures through tables: curves and a matrix in one pass, colours by luminance, cubes, grain."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.raster.areas import Pixels, words_of
from velvetdrum.picture.raster.kernels import colours as loops

ChannelCurves = NDArray[np.float64]
"""What blue, green and red become, each from 0 to 1 for the 256 levels, shape (3, 256). They may go beyond these."""

LUMA = np.array([0.0722, 0.7152, 0.2126])
"""Luminance of blue, green and red, after Rec. ITU-R BT.709."""

_LUMINANCES = 1021
_GRAIN = 512


def plain_curves() -> ChannelCurves:
    """Curves that change nothing."""
    return np.tile(np.arange(256) / 255.0, (3, 1))


def linear(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Coded sRGB as light (IEC 61966-2-1).

    Parameters
    ----------
    values
        Values as they are coded, 0 to 1.
    """
    return np.where(values <= 0.04045, values / 12.92, ((np.maximum(values, 0) + 0.055) / 1.055) ** 2.4)


def coded(light: NDArray[np.float64]) -> NDArray[np.float64]:
    """Light as coded sRGB, beyond 1 as well (IEC 61966-2-1).

    Parameters
    ----------
    light
        Linear light, 0 to 1.
    """
    return np.where(light <= 0.0031308, light * 12.92, 1.055 * np.maximum(light, 0) ** (1 / 2.4) - 0.055)


def levelled(values: NDArray[np.float64], black: float, white: float, gamma: float) -> NDArray[np.float64]:
    """Values with `black` and `white` (in per cent) brought to 0 and 1, cut there, and the gamma applied. A white that
    lies at black or below makes a hard edge.

    Parameters
    ----------
    values
        Values from 0 to 1.
    black
        The value that becomes 0.
    white
        The value that becomes 1.
    gamma
        The exponent of the middle tones.
    """
    share = np.clip((values - black / 100) / max((white - black) / 100, 1e-4), 0.0, 1.0)
    return np.asarray(share ** (1 / gamma))


def recoloured(pixels: Pixels, curves: ChannelCurves, matrix: NDArray[np.float64] | None = None) -> Pixels:
    """Premultiplied pixels with each channel through its curve, then all through a matrix, shape (3, 3), for blue,
    green and red; rounded once, to the next level.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    curves
        What blue, green and red become, shape (3, 256).
    matrix
        BGR to BGR, shape (3, 3) or (3, 4); None for none.
    """
    joined = np.eye(3) if matrix is None else matrix
    most = loops.BIAS - 1
    table = np.rint(np.clip(joined[:, :, None] * curves[None] * (255.0 * 256.0), -most, most)).astype(np.int64)
    fields = (table + loops.BIAS).astype(np.uint64)
    packed = fields[0] | fields[1] << np.uint64(loops.FIELD) | fields[2] << np.uint64(2 * loops.FIELD)
    height, width = pixels.shape[:2]
    out = np.empty((height, width), np.uint32)
    loops.add_curves(*words_of(pixels), out.reshape(-1), np.ascontiguousarray(packed).reshape(-1), width, height)
    return _as_pixels(out)


def by_luminance(pixels: Pixels, colours: NDArray[np.float64]) -> Pixels:
    """Premultiplied pixels with each colour replaced by the one that belongs to its luminance: `colours` are sRGB from
    0 to 1 from dark to light, shape (1021, 3).

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    colours
        BGR for the 256 levels of luminance, 0 to 1, shape (256, 3).
    """
    levels = np.rint(np.clip(colours, 0, 1) * 255).astype(np.uint32)
    table = levels[:, 2] | levels[:, 1] << 8 | levels[:, 0] << 16 | np.uint32(0xFF000000)
    height, width = pixels.shape[:2]
    out = np.empty((height, width), np.uint32)
    loops.colour_by_luminance(*words_of(pixels), out.reshape(-1), np.ascontiguousarray(table), width, height)
    return _as_pixels(out)


def shares_by_luminance(pixels: Pixels, shares: NDArray[np.float64]) -> Pixels:
    """So much of each pixel as belongs to its luminance: 1021 shares from 0 to 1, from dark to light.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    shares
        Shares from 0 to 1.
    """
    height, width = pixels.shape[:2]
    out = np.empty((height, width), np.uint32)
    loops.share_by_luminance(*words_of(pixels), out.reshape(-1), byte_shares(shares), width, height)
    return _as_pixels(out)


def byte_shares(shares: NDArray[np.float64]) -> NDArray[np.uint32]:
    """Shares from 0 to 1 in 255ths.

    Parameters
    ----------
    shares
        Shares from 0 to 1.
    """
    return np.rint(np.clip(shares, 0, 1) * 255).astype(np.uint32)


def luminances() -> NDArray[np.float64]:
    """The luminances that `by_luminance` and `shares_by_luminance` tell apart, from 0 to 1."""
    return np.linspace(0.0, 1.0, _LUMINANCES)


def lightness_share(level: float, softness: float) -> NDArray[np.float64]:
    """How much of each luminance counts as light, 0 to 1: none below `level` (per cent), all above, smooth over
    `softness`.

    Parameters
    ----------
    level
        The threshold, 0 to 1.
    softness
        How wide the change is, 0 to 1.
    """
    away = (luminances() - level / 100) / max(softness / 100, 1e-3) + 0.5
    share = np.clip(away, 0.0, 1.0)
    return np.asarray(share * share * (3 - 2 * share))


def in_cube(pixels: Pixels, cube: NDArray[np.float32], low: NDArray[np.float64], high: NDArray[np.float64]) -> Pixels:
    """Premultiplied pixels through a cube of colours, shape (n, n, n, 3), indexed by blue, green and red, with red,
    green and blue from 0 to 1; between its points along tetrahedra. `low` and `high` are the red, green and blue of its
    corners.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    cube
        Colours from 0 to 1, indexed by blue, green and red, shape (n, n, n, 3).
    low
        The foot of the range of each channel, shape (3,).
    high
        The top of the range of each channel, shape (3,).
    """
    n = cube.shape[0]
    values = np.arange(256) / 255.0
    share = np.stack([(values - low[c]) / (high[c] - low[c]) for c in (2, 1, 0)]).clip(0.0, 1.0) * (n - 1)
    cells = np.minimum(np.floor(share), n - 2).astype(np.int64)
    parts = np.rint((share - cells) * 256).astype(np.uint64)
    places = cells * np.array([[n * n], [n], [1]])
    height, width = pixels.shape[:2]
    out = np.empty((height, width), np.uint32)
    loops.look_up_cube(
        *words_of(pixels),
        out.reshape(-1),
        _packed_cube(cube),
        n,
        np.ascontiguousarray(places).reshape(-1),
        np.ascontiguousarray(parts).reshape(-1),
        width,
        height,
    )
    return _as_pixels(out)


def _packed_cube(cube: NDArray[np.float32]) -> NDArray[np.uint64]:
    """Colours in 16ths of a level, half a level up, as fields of blue, green and red."""
    fields = np.rint(np.clip(cube, 0, 1) * np.float32(255 * 16) + np.float32(8)).astype(np.uint64).reshape(-1, 3)
    shift = np.uint64(loops.FIELD)
    return np.ascontiguousarray(fields[:, 2] | fields[:, 1] << shift | fields[:, 0] << np.uint64(2 * loops.FIELD))


def grained(pixels: Pixels, tile: NDArray[np.int32], ends: float, middle: float, place: tuple[int, int]) -> Pixels:
    """Noise of a tile (see `grain_tile`) added to all channels, times a gain: `ends` at black and white, `middle` half
    way. `place` is where on the tile the first pixel lies.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    tile
        Values of grain that repeat, shape (n, n).
    ends
        Share of the grain that is left in black and in white, 0 to 1.
    middle
        Share of the grain in the middle tones, 0 to 1.
    place
        The first pixel of the area in the frame: x, y.
    """
    height, width = pixels.shape[:2]
    out = np.empty((height, width), np.uint32)
    gains = np.int32(round(ends * 65536)), np.int32(round((middle - ends) * 65536))
    side = tile.shape[0]
    loops.add_grain(*words_of(pixels), out.reshape(-1), tile.reshape(-1), side, *gains, *place, width, height)
    return _as_pixels(out)


@cached
def grain_tile(seed: int, size: float) -> NDArray[np.int32]:
    """Gaussian noise with a deviation of 32, its grains about `size` pixels wide. It goes round, and each of its 512
    rows stands twice: shape (512, 1024).

    Parameters
    ----------
    seed
        Names the chance: equal seeds give equal results.
    size
        Size of a grain in pixels.
    """
    noise = np.random.Generator(np.random.PCG64(seed)).standard_normal((_GRAIN, _GRAIN))
    if size > 1:
        away = np.fft.fftfreq(_GRAIN) ** 2
        spread = np.exp(-2 * np.pi**2 * (size / 2.5) ** 2 * (away[:, None] + away[None, :]))
        noise = np.real(np.fft.ifft2(np.fft.fft2(noise) * spread))
        noise /= noise.std()
    result = np.clip(np.rint(noise * 32), -127, 127).astype(np.int32)
    return np.ascontiguousarray(np.concatenate([result, result], axis=1))


def dithered_levels(pixels: Pixels, levels: int, place: tuple[int, int]) -> Pixels:
    """Channels brought to so many levels by an ordered pattern of 8 by 8 pixels; `place` is where the first pixel lies
    in the frame.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    levels
        Number of levels a channel.
    place
        The first pixel of the area in the frame: x, y.
    """
    value = np.arange(256)
    step = 255 / (levels - 1)
    below = np.minimum(np.floor(value / step), levels - 2)
    low, high = np.rint(below * step), np.rint((below + 1) * step)
    part = np.rint((value - below * step) / step * 64)
    table = np.concatenate([low, high - low, part]).astype(np.uint8)
    height, width = pixels.shape[:2]
    out = np.empty((height, width), np.uint32)
    loops.dither_levels(*words_of(pixels), out.reshape(-1), table, _pattern(), *place, width, height)
    return _as_pixels(out)


@cached
def _pattern() -> NDArray[np.uint8]:
    """The ordered pattern of B. E. Bayer (1973), 0 to 63."""
    result = np.zeros((1, 1), int)
    for _ in range(3):
        result = np.block([[4 * result, 4 * result + 2], [4 * result + 3, 4 * result + 1]])
    return result.astype(np.uint8).reshape(-1)


def _as_pixels(words: NDArray[np.uint32]) -> Pixels:
    return words.view(np.uint8).reshape(*words.shape, 4)
