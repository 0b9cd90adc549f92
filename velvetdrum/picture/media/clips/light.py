"""Frames of wide colour and high dynamic range, brought to BT.709.

Perceptual quantiser (SMPTE ST 2084) and hybrid log-gamma (ARIB STD-B67) as ITU-R BT.2100 has them; the white that
ITU-R BT.2408 calls the reference, 203 cd/m2, comes to lie at three quarters of the signal, and what is brighter is
rolled off (extended Reinhard, on the largest of the three primaries, so that hues stay).
"""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
from av.video.frame import VideoFrame
from av.video.reformatter import ColorPrimaries, ColorRange, ColorTrc, Interpolation, VideoReformatter
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Pixels

REFERENCE_WHITE = 203.0
_PEAK = 1000.0
_BT2020_MATRIX = 9
_STEPS = 4096
# From BT.2020 to BT.709 primaries in linear light (ITU-R BT.2087), rows red, green, blue.
_TO_709 = np.array([[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]], np.float32)

Linear = NDArray[np.float32]


def is_wide(frame: VideoFrame) -> bool:
    """True for a frame that BT.709 does not describe."""
    return int(frame.color_trc) in (ColorTrc.SMPTE2084, ColorTrc.ARIB_STD_B67) or int(frame.color_primaries) == int(
        ColorPrimaries.BT2020
    )


def name_of(frame: VideoFrame) -> str:
    """What the light of a frame is called: PQ, HLG or BT.2020; empty for what BT.709 describes."""
    if int(frame.color_trc) == ColorTrc.SMPTE2084:
        return "PQ"
    if int(frame.color_trc) == ColorTrc.ARIB_STD_B67:
        return "HLG"
    return "BT.2020" if is_wide(frame) else ""


def brought_to_709(frame: VideoFrame, width: int, height: int, convert: VideoReformatter) -> Pixels:
    """A frame at a size as BGRA of BT.709, opaque."""
    full = frame.color_range == ColorRange.JPEG
    wide = convert.reformat(
        frame,
        width=width,
        height=height,
        format="rgb48le",
        src_colorspace=_BT2020_MATRIX,
        src_color_range=ColorRange.JPEG if full else ColorRange.MPEG,
        dst_color_range=ColorRange.JPEG,
        interpolation=Interpolation.AREA if width < frame.width else Interpolation.BICUBIC,
        threads=1,
    ).to_ndarray()
    linear = _linear_table(int(frame.color_trc))[np.asarray(wide, np.uint16) >> 4]
    shown = np.asarray(cv2.transform(linear, _TO_709), np.float32)
    np.maximum(shown, 0.0, out=shown)
    if int(frame.color_trc) in (ColorTrc.SMPTE2084, ColorTrc.ARIB_STD_B67):
        shown = rolled_off(shown)
    codes = np.minimum(shown * (_STEPS - 1) + 0.5, _STEPS - 1).astype(np.uint16)
    out = np.full((height, width, 4), 255, np.uint8)
    out[..., :3] = _signal_table()[codes][..., ::-1]
    return out


def rolled_off(linear: Linear) -> Linear:
    """Light in multiples of the reference white, rolled off into 0 to 1: extended Reinhard with its white at the peak
    of 1000 cd/m2."""
    most = linear.max(axis=-1, keepdims=True)
    white = _PEAK / REFERENCE_WHITE
    gain = (1 + most / white**2) / (1 + most)
    return np.minimum(linear * gain, 1.0).astype(np.float32)


def pq_light(signal: NDArray[np.float64]) -> NDArray[np.float64]:
    """cd/m2 of a signal from 0 to 1 (ITU-R BT.2100, table 4)."""
    m1, m2 = 2610 / 16384, 2523 / 4096 * 128
    c1, c2, c3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
    root = np.power(signal, 1 / m2)
    return np.asarray(10_000 * np.power(np.maximum(root - c1, 0) / (c2 - c3 * root), 1 / m1))


def hlg_light(signal: NDArray[np.float64]) -> NDArray[np.float64]:
    """cd/m2 on a display of 1000 cd/m2 of a grey signal from 0 to 1 (ITU-R BT.2100, table 5, gamma 1.2)."""
    a, b, c = 0.17883277, 0.28466892, 0.55991073
    scene = np.where(signal <= 0.5, signal**2 / 3, (np.exp((signal - c) / a) + b) / 12)
    return np.asarray(_PEAK * np.power(scene, 1.2))


@cache
def _linear_table(transfer: int) -> Linear:
    """Light by 12-bit code: in multiples of the reference white for PQ and HLG, else from 0 to 1."""
    signal = np.arange(_STEPS) / (_STEPS - 1)
    if transfer == ColorTrc.SMPTE2084:
        return (pq_light(signal) / REFERENCE_WHITE).astype(np.float32)
    if transfer == ColorTrc.ARIB_STD_B67:
        return (hlg_light(signal) / REFERENCE_WHITE).astype(np.float32)
    return np.power(signal, 2.4).astype(np.float32)


@cache
def _signal_table() -> NDArray[np.uint8]:
    """8-bit code by linear light in 4096 steps (ITU-R BT.1886, gamma 2.4)."""
    light = np.arange(_STEPS) / (_STEPS - 1)
    return np.rint(255 * np.power(light, 1 / 2.4)).astype(np.uint8)
