"""Small scenes for tests, and how alike two pictures are."""

from fractions import Fraction

import numpy as np

from velvetdrum.picture.frame.render import render
from velvetdrum.picture.raster.blending import blend
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.frames import FRAMES, FrameSize

SMALL = FrameSize(320, 180)


def project(*layers, frame="wide", length=6.0, signals=()):
    size = FRAMES[frame] if isinstance(frame, str) else frame
    made = new_document("Test", frame=size, rate=Fraction(30), layers=list(layers))
    return parse(made | {"length_s": length, "signals": list(signals)})


def black():
    return new_layer("backdrop", fill="plain", plain="#000000")


def drawn(use, kind, at=3.0, size=SMALL, media=None, masks=(), **settings):
    """One layer on black, as levels of each colour, shape (height, width, 3), red first."""
    made = project(black(), new_layer(kind, **settings) | {"masks": list(masks)}, frame=size)
    pixels = render(made, use, Fraction(at).limit_denominator(48_000), size, media=media)
    return pixels[..., 2::-1].astype(int)


def lit(picture, over=40):
    """Which pixels show anything."""
    return picture.max(axis=2) > over


def similarity(one: np.ndarray, other: np.ndarray) -> float:
    """Mean structural similarity (Wang et al. 2004) over 8x8 blocks of luma."""
    blocks = [p[..., :3].astype(float).mean(axis=2)[: p.shape[0] // 8 * 8, : p.shape[1] // 8 * 8] for p in (one, other)]
    a, b = (p.reshape(p.shape[0] // 8, 8, -1, 8).swapaxes(1, 2).reshape(-1, 64) for p in blocks)
    ma, mb, va, vb = a.mean(1), b.mean(1), a.var(1), b.var(1)
    cov = ((a - ma[:, None]) * (b - mb[:, None])).mean(1)
    c1, c2 = 6.5025, 58.5225
    return float(np.mean((2 * ma * mb + c1) * (2 * cov + c2) / ((ma**2 + mb**2 + c1) * (va + vb + c2))))


def blended(below: np.ndarray, above: np.ndarray, mode: str) -> np.ndarray:
    """One picture blended over another, as a picture of its own."""
    out = below.copy()
    blend(out, above, mode)
    return out
