"""The lamp of Lantern Quay as SVG, and a clip of moving water."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from velvetdrum.deliver.video import encode_frames

_WATER_SIZE = (640, 360)
_WATER_RATE = 25
_WATER_SECONDS = 6


def lamp_svg() -> str:
    """A harbour lamp: a tower with a lit head on a round ground."""
    return """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 200">
  <circle cx="100" cy="100" r="96" fill="#f4eadb"/>
  <path d="M82 96h36l8 62H74z" fill="#1b1119"/>
  <path d="M100 44l26 20H74z" fill="#1b1119"/>
  <rect x="80" y="64" width="40" height="24" rx="3" fill="#1b1119"/>
  <circle cx="100" cy="76" r="8" fill="#e0ac55"/>
  <rect x="76" y="88" width="48" height="6" rx="3" fill="#1b1119"/>
</svg>
"""


def water_clip(path: Path) -> None:
    """Six seconds of dark drifting water that loop without a jump, 640x360 at 25/s, without sound."""
    count = _WATER_RATE * _WATER_SECONDS
    frames = (_water(index / count) for index in range(count))
    width, height = _WATER_SIZE
    encode_frames(frames, path, width=width, height=height, rate=Fraction(_WATER_RATE), preset="medium", crf=26)


def _water(turn: float) -> NDArray[np.uint8]:
    """One frame; `turn` goes from 0 to 1 over the loop. Waves get smaller towards the horizon."""
    width, height = _WATER_SIZE
    y = np.linspace(0.06, 1, height, dtype=np.float32)[:, None]
    x = np.linspace(-1, 1, width, dtype=np.float32)[None, :] / (0.35 + y)
    depth = 9.0 / y
    light = np.zeros((height, width), np.float32)
    for number, (along, down, speed) in enumerate(((3, 1.0, 1), (-5, 1.7, 2), (8, 2.6, -1), (13, 3.7, 3))):
        light += np.sin(along * x * 2 + down * depth + 2 * np.pi * speed * turn + number) / (1.4 + number)
    shine = np.clip(light / 1.6, -1, 1) ** 3
    tone = 0.5 + 0.5 * shine
    near, far = np.array([58, 30, 18], np.float32), np.array([112, 74, 48], np.float32)
    base = near + (far - near) * (1 - y)[..., None]
    out = np.full((height, width, 4), 255, np.uint8)
    out[..., :3] = np.clip(base * (0.45 + 0.9 * tone[..., None]), 0, 255)
    return out
