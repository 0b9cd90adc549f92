"""The lamp of Lantern Quay as SVG, and a clip of moving water."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from velvetdrum.deliver.formats.mp4 import X264, encode_frames

_WATER_SIZE = (800, 450)
_WATER_RATE = 25
_WATER_SECONDS = 4
_WAVES = 8


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


def lighthouse_svg() -> str:
    """A lighthouse in parts, each a group with an id: what is assembled in one of the projects."""
    return """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 240">
  <g id="beam"><path d="M100 62L4 26V98z" fill="#ffd98a" fill-opacity="0.55"/>
    <path d="M100 62l96-36v72z" fill="#ffd98a" fill-opacity="0.55"/></g>
  <g id="rock"><path d="M38 208c8-20 26-26 62-26s54 6 62 26z" fill="#57405f"/></g>
  <g id="tower"><path d="M82 84h36l12 102H70z" fill="#f4eadb"/></g>
  <g id="stripes"><path d="M79.4 106h41.2l2.8 24H76.6z" fill="#ff7a66"/>
    <path d="M73.8 154h52.4l2.8 24H71z" fill="#ff7a66"/></g>
  <g id="gallery"><rect x="72" y="78" width="56" height="8" rx="3" fill="#e0ac55"/></g>
  <g id="lantern"><rect x="84" y="50" width="32" height="28" rx="4" fill="#ffe7b0"/>
    <path d="M95 50h10v28H95z" fill="#ffd27a"/></g>
  <g id="roof"><path d="M100 24l24 26H76z" fill="#ff7a66"/><circle cx="100" cy="22" r="5" fill="#e0ac55"/></g>
  <g id="sea"><path d="M10 214c15-10 30-10 45 0s30 10 45 0 30-10 45 0 30 10 45 0v14H10z" fill="#5fc4b4"/></g>
</svg>
"""


LIGHTHOUSE_PARTS = ("beam", "rock", "tower", "stripes", "gallery", "lantern", "roof", "sea")
"""Ids of its parts, the hindmost first."""


def water_clip(path: Path) -> None:
    """Four seconds of dark drifting water that loop without a jump, 800x450 at 25/s, without sound."""
    count = _WATER_RATE * _WATER_SECONDS
    frames = (_water(index / count) for index in range(count))
    width, height = _WATER_SIZE
    encode_frames(frames, path, width=width, height=height, rate=Fraction(_WATER_RATE), work=X264("veryfast", 20))


@lru_cache(maxsize=1)
def _plane() -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]]:
    """The water's plane as it is seen: across, away, and how near it is, for each pixel."""
    width, height = _WATER_SIZE
    near = np.linspace(0.11, 1.0, height, dtype=np.float32)[:, None]
    across = np.linspace(-1.1, 1.1, width, dtype=np.float32)[None, :] / near
    away = np.broadcast_to(1.0 / near, (height, width)).astype(np.float32)
    return across.astype(np.float32), away, np.broadcast_to(near, (height, width))


def _water(turn: float) -> NDArray[np.uint8]:
    """One frame; `turn` goes from 0 to 1 over the loop. Plane waves of many lengths roll towards the shore; their
    slopes catch a low moon, and small waves blur into the distance."""
    across, away, near = _plane()
    rng = np.random.default_rng(11)
    slope = np.zeros_like(across)
    for number in range(_WAVES):
        length = 0.62 * 0.74**number
        heading = rng.normal(0, 0.55)
        along, forth = float(np.sin(heading)) / length, float(np.cos(heading)) / length
        # Whole turns in a loop; short waves are slower, as on deep water, but never stand.
        speed = max(1, round(4.2 * 0.86**number))
        begin = 2 * np.pi * speed * turn + rng.uniform(0, 6.28)
        seen = np.exp(-((0.026 / (length * near[:, :1])) ** 2))
        phase = across * (2 * np.pi * along) + away * (2 * np.pi * forth) + np.float32(begin)
        slope += np.float32(0.62 * 0.86**number) * seen * np.cos(phase)
    moon = np.exp(-((across * near * 1.35) ** 2)) * (0.35 + 0.65 * (1 - near))
    glint = np.clip(slope * 0.62 - 0.18, 0, None) ** 2
    body = 0.30 + 0.20 * slope * near + 0.36 * (1 - near)
    light = np.clip(body + glint * (0.25 + 2.4 * moon), 0, None)
    tint = np.array([118, 84, 60], np.float32)
    warm = np.array([190, 205, 226], np.float32)
    colours = light[..., None] * tint + (glint * moon)[..., None] * warm * 1.15
    out = np.full((*light.shape, 4), 255, np.uint8)
    out[..., :3] = np.clip(255 * (1 - np.exp(-colours / 190)), 0, 255)
    return out
