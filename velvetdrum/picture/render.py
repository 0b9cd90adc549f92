"""The one renderer. Preview, thumbnail, still and export call `render` at different sizes."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np

import velvetdrum.picture.layers  # noqa: F401  (makes the layer and mask kinds known)
from velvetdrum.limits.process import OverTime
from velvetdrum.picture.drawing import DrawnLayer, Moment
from velvetdrum.picture.masking import Area, Ground, joined_cover
from velvetdrum.picture.patching import settled
from velvetdrum.picture.raster.canvas import Canvas, Pixels
from velvetdrum.picture.raster.compositing import composite, matrix
from velvetdrum.scene.document import PlacedLayer, Project
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import GROUP, JOINING, Layer
from velvetdrum.scene.masks import PlacedMask
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
    media: Mapping[str, str] | None = None,
) -> Pixels:
    """The project at `time` (seconds) as BGRA pixels, shape (height, width, 4), opaque.

    A pure function: equal arguments give equal bytes, in any order, in any process. `size` defaults to the
    project's frame. Whoever draws many frames may lend a `canvas` of that size: its memory is then used again, and
    the pixels hold until the next frame. `media` are the files of the project's pictures and clips by their content
    hash.
    """
    size = size or project.frame
    canvas = canvas or Canvas(size.width, size.height)
    stage = Stage(project, use, time, size, media)
    shown = [stage.shown(placed) for placed in project.drawn.get("", ())]
    covers = [index for index, item in enumerate(shown) if item.covers]
    if not covers:
        canvas.clear()
    for item in shown[covers[-1] if covers else 0 :]:
        stage.draw(canvas, item)
    return canvas.pixels


_watchers: list[Callable[[str], None]] = []


@contextmanager
def watching(note: Callable[[str], None]) -> Iterator[None]:
    """While the block lasts, `note` hears the id of each layer of this process before it is drawn."""
    _watchers.append(note)
    try:
        yield
    finally:
        _watchers.remove(note)


class Shown:
    """A layer as it is at one time."""

    def __init__(self, placed: PlacedLayer, layer: Layer, masks: tuple[PlacedMask, ...], presence: float) -> None:
        assert isinstance(layer, DrawnLayer)
        self.placed, self.layer, self.masks, self.presence = placed, layer, masks, presence

    @property
    def covers(self) -> bool:
        """True when nothing behind it is seen."""
        return self.layer.opaque and self.layer.direct and self.presence >= 1 and not self.masks


class Stage:
    """A project at one time, ready to be drawn."""

    def __init__(
        self, project: Project, use: Use | None, time: Fraction, size: FrameSize, media: Mapping[str, str] | None
    ) -> None:
        self.project, self.time = project, time
        self.shape = size.shape
        self.signals = signals_of(project, use)
        self.at = Moment(time, use, self.signals.grid, media or {})
        self.sound = sounding(use) if use else None

    def shown(self, placed: PlacedLayer) -> Shown:
        """A layer with its settings as they are now."""
        layer, masks = settled(placed, self.signals, self.time, self.shape)
        return Shown(placed, layer, masks, layer.presence(float(self.time), self.project.length_s, self.sound))

    def moment(self, layer: Layer) -> Moment:
        """The time, as a layer is told of it."""
        return replace(self.at, since=layer.lasting(self.project.length_s, self.sound)[0])

    def draw_all(self, canvas: Canvas, layers: Iterable[PlacedLayer]) -> None:
        for placed in layers:
            self.draw(canvas, self.shown(placed))

    def draw(self, canvas: Canvas, item: Shown) -> None:
        """Draw a layer, and the members of a group, over what is on a canvas."""
        if item.presence <= 0:
            return
        layer = item.layer
        for note in _watchers:
            note(item.placed.id)

        def alone(onto: Canvas) -> None:
            if layer.kind == GROUP:
                self.draw_all(onto, self.project.drawn.get(item.placed.id, ()))
            else:
                layer.draw(onto, self.moment(layer))

        def covers(area: Area) -> np.ndarray | None:
            place = matrix(layer, canvas.width, canvas.height) if layer.moved else None
            return joined_cover(item.masks, Ground(canvas, place, lambda ident, part: self._other(canvas, ident, part)),
                                area)  # fmt: skip

        masks_still = not item.placed.masks_move and not any(placed.mask.layers() for placed in item.masks)
        still = self._still_name(canvas, item, masks_still)
        try:
            composite(canvas, layer, alone, item.presence, covers if item.masks else None, still, masks_still)
        except OverTime as problem:
            raise OverTime(str(problem), problem.layer or item.placed.id) from problem

    def _other(self, canvas: Canvas, ident: str, area: Area) -> Pixels:
        """A layer alone, for a mask that reads it; nothing outside of its span."""
        left, top, right, bottom = area
        with canvas.lent() as alone:
            self.draw(alone, self.shown(self.project.by_id[ident]))
            return alone.pixels[top:bottom, left:right].copy()

    def _still_name(self, canvas: Canvas, item: Shown, masks_still: bool) -> Hashable | None:
        """A name for the picture of a layer that does not change over time, with its masks where they are still; None
        where it does change, or where keeping it would be no gain."""
        layer = item.layer
        if item.placed.picture_moves or not layer.still or item.covers:
            return None
        files = tuple(self.at.media.get(getattr(layer, name), "") for name in layer.media_settings())
        state = tuple(getattr(layer, name) for name in layer.settings if name not in JOINING)
        masks = tuple((placed.mask.kind, placed.mask.state()) for placed in item.masks) if masks_still else None
        return (layer.kind, state, masks, files, canvas.width, canvas.height)


def signals_of(project: Project, use: Use | None) -> SignalSet:
    """A project's signals over the used part of its sound."""
    return SignalSet(project.signals, project.beats, use, project.length_s)


def encode_still(pixels: Pixels, form: str = "png", quality: int = 88) -> bytes:
    """Pixels as the bytes of a PNG, JPEG or WebP picture (`form`: png, jpeg, webp)."""
    options = {"jpeg": [cv2.IMWRITE_JPEG_QUALITY, quality], "webp": [cv2.IMWRITE_WEBP_QUALITY, quality]}
    suffix = {"jpeg": ".jpg"}.get(form, f".{form}")
    plain = cv2.cvtColor(pixels, cv2.COLOR_BGRA2BGR) if pixels.shape[2] == 4 else pixels
    done, data = cv2.imencode(suffix, plain, options.get(form, []))
    if not done:
        raise ValueError(f"no picture could be written as {form}")
    return data.tobytes()
