"""Readings of a picture as instruments show them: waveform of luminance, histogram, clipped share."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import LUMA

COLUMNS, LEVELS, BINS = 96, 64, 64


@dataclass(frozen=True)
class Reading:
    """`waveform`: how much of each column of the picture has a luminance, shape (64 levels from dark to light, 96
    columns), 0 to 255; `histogram`: shares of red, green, blue and luminance by 64 bins, each of the fullest bin, shape
    (4, 64); `black` and `white`: shares of pixels of which a channel lies at 0, and at 255."""

    waveform: NDArray[np.uint8]
    histogram: NDArray[np.float64]
    black: float
    white: float


def reading_of(pixels: Pixels) -> Reading:
    """The reading of a picture, BGRA."""
    colours = np.ascontiguousarray(pixels[..., :3])
    height, width = colours.shape[:2]
    light = np.asarray(cv2.transform(colours, np.array([LUMA], np.float32)), np.uint8).reshape(height, width)
    bins = (light >> 2).astype(np.int64)
    columns = np.arange(width) * COLUMNS // width
    counted = np.bincount((bins * COLUMNS + columns[None, :]).reshape(-1), minlength=LEVELS * COLUMNS)
    # By the pixels of a column; a tenth of them in one level is full.
    per_column = np.bincount(columns, minlength=COLUMNS) * height
    share = counted.reshape(LEVELS, COLUMNS) / np.maximum(per_column, 1)
    waveform = np.rint(255 * np.minimum(share * 10, 1) ** 0.5).astype(np.uint8)
    planes = [colours[..., 2], colours[..., 1], colours[..., 0], light]
    histogram = np.array([np.bincount((plane >> 2).reshape(-1), minlength=BINS) for plane in planes], np.float64)
    histogram /= max(histogram.max(), 1.0)
    total = light.size
    black = float(np.count_nonzero(colours.min(axis=2) == 0) / total)
    white = float(np.count_nonzero(colours.max(axis=2) == 255) / total)
    return Reading(waveform, histogram, black, white)
