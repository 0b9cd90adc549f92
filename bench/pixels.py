"""Work on whole frames, beside a plain addition of two."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bench.rows import Row, add_row
from velvetdrum.deliver.formats.mp4 import video_frame
from velvetdrum.picture.raster.areas import Coverage, Pixels
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.blur import gaussian
from velvetdrum.scene.kinds import BLEND_MODES

LIMITS = {"normal": 1.5} | dict.fromkeys(("multiply", "screen", "plus-lighter"), 4.0)
LIMITS |= dict.fromkeys(("overlay", "darken", "lighten", "hard-light", "difference", "exclusion"), 6.0)
LIMITS |= dict.fromkeys(("soft-light", "color-dodge", "color-burn"), 10.0)
LIMITS |= dict.fromkeys(("hue", "saturation", "color", "luminosity"), 25.0)
"""How many times a plain addition each mode may take."""


def frames() -> tuple[Pixels, Pixels, Coverage]:
    """An opaque frame, a translucent one and a mask, of noise, 1920x1080."""
    rng = np.random.default_rng(1)
    below, above = (rng.integers(0, 256, (1080, 1920, 4)).astype(np.uint8) for _ in range(2))
    below[..., 3] = 255
    above[..., :3] = np.minimum(above[..., :3], above[..., 3:])
    return below, above, rng.integers(0, 256, (1080, 1920)).astype(np.uint8)


def bench_blend() -> Iterator[Row]:
    below, above, mask = frames()
    for mode in BLEND_MODES:
        yield add_row(
            f"blend {mode}, mask and opacity, 1080p",
            LIMITS[mode],
            lambda mode=mode: blend(below, above, mode, mask, 0.8),
        )  # type: ignore[misc]
    yield add_row("blend normal, no mask, 1080p", LIMITS["normal"], lambda: blend(below, above))


def bench_pixels() -> Iterator[Row]:
    below, *_ = frames()
    yield add_row("frame to BT.709 planes, 1080p", 1.5, lambda: video_frame(below))
    yield add_row("soft blur, sigma 20, 1080p", 8.0, lambda: gaussian(below, 20.0))
