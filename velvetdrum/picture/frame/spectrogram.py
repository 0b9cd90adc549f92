"""A recording as a picture: time across, frequency up on a logarithmic axis, level as colour."""

from __future__ import annotations

import numpy as np

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.declare.oklab import ramp
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.signals.spectrum import band_levels
from velvetdrum.signals.views import axis

_COLOURS = ((0.0, "#120a11"), (0.35, "#4a2a55"), (0.6, "#b8506a"), (0.82, "#f0a866"), (1.0, "#fff3d6"))
_SPAN_DB = 72.0
_PER_COLUMN = 8


def spectrogram(
    recording: Analysis, channel: str, start_s: float, stop_s: float, width: int, height: int, floor_db: float
) -> Pixels:
    """Levels from `floor_db` up to 72 dB over it, shape (height, width, 4), the highest frequency in the top row."""
    edges = (start_s + np.arange(width + 1) * (stop_s - start_s) / width) * FRAME_RATE
    columns = np.empty((width, len(axis().edges)), np.float32)
    for block in range(0, width, 64):
        last = min(block + 64, width)
        start, stop = int(np.floor(edges[block])), int(np.ceil(edges[last])) + 1
        levels = band_levels(recording, axis(), channel, start, stop)
        for column in range(block, last):
            low = int(edges[column]) - start
            high = max(int(np.ceil(edges[column + 1])) - start, low + 1)
            step = max(1, (high - low) // _PER_COLUMN)
            columns[column] = levels[low:high:step].max(axis=0)
    place = np.linspace(columns.shape[1] - 1, 0, height)
    low = np.minimum(place.astype(int), columns.shape[1] - 2)
    part = (place - low).astype(np.float32)
    picture = columns[:, low] * (1 - part) + columns[:, low + 1] * part
    index = np.rint(np.clip((picture.T - floor_db) / _SPAN_DB, 0, 1) * 255).astype(int)
    table = np.rint(ramp(_COLOURS, 256) * 255).astype(np.uint8)
    out = np.full((height, width, 4), 255, np.uint8)
    out[..., :3] = table[index][..., ::-1]
    return out
