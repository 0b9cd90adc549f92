"""The one renderer. Preview, thumbnail, still and export call `render` at different sizes."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction

import cv2
import numpy as np

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.picture.canvas import Canvas, Pixels
from velvetdrum.picture.compositing import composite
from velvetdrum.picture.drawing import DrawnLayer, Moment
from velvetdrum.picture.patching import patched
from velvetdrum.scene.document import Project
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.signal_set import SignalSet
from velvetdrum.signals.use import Use
from velvetdrum.signals.waves import sounding

cv2.setNumThreads(1)


def render(
    project: Project,
    use: Use | None,
    time: Fraction,
    size: FrameSize | None = None,
    canvas: Canvas | None = None,
    pictures: Mapping[str, str] | None = None,
) -> Pixels:
    """The project at `time` (seconds) as BGRA pixels, shape (height, width, 4), opaque.

    A pure function: equal arguments give equal bytes, in any order, in any process. `size` defaults to the
    project's frame. Whoever draws many frames may lend a `canvas` of that size: its memory is then used again, and
    the pixels hold until the next frame. `pictures` are the files of the project's pictures by their content hash.
    """
    size = size or project.frame
    canvas = canvas or Canvas(size.width, size.height)
    signals = signals_of(project, use)
    at = Moment(time, use, signals.grid, pictures or {})
    sound = sounding(use) if use else None
    shown: list[tuple[DrawnLayer, float]] = []
    for placed in project.drawn:
        layer = patched(placed, signals, time)
        assert isinstance(layer, DrawnLayer)
        presence = layer.presence(float(time), sound)
        if presence > 0:
            shown.append((layer, presence))
    covers = [index for index, (layer, there) in enumerate(shown) if layer.opaque and layer.direct and there >= 1]
    if not covers:
        canvas.clear()
    for layer, presence in shown[covers[-1] if covers else 0 :]:
        composite(canvas, layer, at, presence)
    return canvas.pixels


def signals_of(project: Project, use: Use | None) -> SignalSet:
    """A project's signals over the used part of its sound."""
    return SignalSet(project.signals, project.beats, use, project.length_s)


def encode_still(pixels: Pixels, form: str = "png", quality: int = 88) -> bytes:
    """Pixels as the bytes of a PNG, JPEG or WebP picture (`form`: png, jpeg, webp)."""
    options = {"jpeg": [cv2.IMWRITE_JPEG_QUALITY, quality], "webp": [cv2.IMWRITE_WEBP_QUALITY, quality]}
    suffix = {"jpeg": ".jpg"}.get(form, f".{form}")
    done, data = cv2.imencode(suffix, np.ascontiguousarray(pixels[..., :3]), options.get(form, []))
    if not done:
        raise ValueError(f"no picture could be written as {form}")
    return data.tobytes()
