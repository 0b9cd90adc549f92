"""The one renderer. Preview, thumbnail, still and export call `render` at different sizes."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from copy import copy
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from time import perf_counter
from typing import Any, Literal

import cv2
import numpy as np

import velvetdrum.picture.layers  # noqa: F401  (makes the layer, mask and effect kinds known)
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.limits.process import OverTime
from velvetdrum.limits.records import changed
from velvetdrum.picture.bases.effect_context import StagedLayer, Values
from velvetdrum.picture.bases.layer import DrawnLayer, InSpace, LayerPicture, Member, RenderContext
from velvetdrum.picture.bases.mask import DrawnMask, MaskTarget, joined_cover
from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.picture.frame.animation import resolve_layer, settle_rates
from velvetdrum.picture.frame.compositing import composite
from velvetdrum.picture.frame.joined_effect import JoinedEffect
from velvetdrum.picture.raster.areas import Area, Coverage, Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.transforms import reached
from velvetdrum.picture.raster.viewport import Box, Viewport, around, common, grown, is_empty
from velvetdrum.picture.space.placement import matrix
from velvetdrum.scene.document import Project
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import COMPOSITE_SETTINGS, Layer, at_rest
from velvetdrum.scene.placed_layers import PlacedLayer
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.signal_set import SignalSet
from velvetdrum.signals.waves import sounding

cv2.setNumThreads(1)

VERSION = 12
"""Counts the changes by which equal projects give other pixels: segments of two versions are never joined."""

HALVED_FROM = 1.2
"""The standard deviation in pixels of the least blur of a picture that half the size holds within 40 dB: enlarged
between its pixels, it is blurred by one more."""

Background = Literal["opaque", "transparent"]


def render(
    project: Project,
    use: AudioRange | None,
    time: Fraction,
    size: FrameSize | None = None,
    canvas: Canvas | None = None,
    media: Mapping[str, str] | None = None,
    background: Background = "opaque",
) -> Pixels:
    """The project at `time` (seconds) as BGRA pixels, shape (height, width, 4).

    A pure function: equal arguments give equal bytes, in any order, in any process. `size` defaults to the
    project's frame. Whoever draws many frames may lend a `canvas` of that size: its memory is then used again, and
    the pixels hold until the next frame. `media` are the files of the project's pictures and clips by their content
    hash. On a transparent background, pixels are premultiplied; on an opaque one what no layer covers is black.
    """
    size = size or project.frame
    canvas = canvas or Canvas(size.width, size.height)
    ProjectView(project, use, media).at(time, size).draw_frame(canvas, background)
    return canvas.pixels


_WATCHERS: ContextVar[tuple[Callable[[str], None], ...]] = ContextVar("watchers", default=())
_TIMERS: ContextVar[tuple[Callable[[str, float], None], ...]] = ContextVar("timers", default=())
"""Whoever listens in this thread, for as long as it is in its block."""


@contextmanager
def watching(note: Callable[[str], None]) -> Iterator[None]:
    """While the block lasts, `note` hears the id of each layer that this thread draws, before it does."""
    token = _WATCHERS.set((*_WATCHERS.get(), note))
    try:
        yield
    finally:
        _WATCHERS.reset(token)


@contextmanager
def timing(note: Callable[[str, float], None]) -> Iterator[None]:
    """While the block lasts, `note` hears how many seconds each layer (by its id) and each effect (by `layer/effect`)
    that this thread draws took."""
    token = _TIMERS.set((*_TIMERS.get(), note))
    try:
        yield
    finally:
        _TIMERS.reset(token)


def _notify_timers(name: str, begin: float) -> None:
    for note in _TIMERS.get():
        note(name, perf_counter() - begin)


class ProjectView:
    """A project with its sound and its media, to be seen at any time."""

    def __init__(
        self,
        project: Project,
        use: AudioRange | None,
        media: Mapping[str, str] | None = None,
        quick: bool = False,
    ) -> None:
        """`quick`: what holds nothing fine is drawn at half the frame's size, and enlarged."""
        self.project, self.use, self.media, self.quick = project, use, media or {}, quick
        self.signals = signals_of(project, use)
        self.solved: dict[Hashable, Any] = {}

    @cached_property
    def sound(self) -> tuple[float, float] | None:
        """The first and the last sound, in seconds of the project."""
        return sounding(self.use) if self.use else None

    def at(self, time: Fraction, size: FrameSize) -> ProjectFrame:
        """The project at a time, in seconds, in a frame of a size."""
        return ProjectFrame(self, time, size)


@dataclass(frozen=True)
class ResolvedLayer:
    """A layer as it is at one time, with its masks and effects that are on."""

    placed: PlacedLayer
    layer: DrawnLayer
    masks: tuple[DrawnMask, ...]
    effects: tuple[JoinedEffect, ...]
    presence: float
    space: InSpace | None = None
    """How it stands in a space, where it is drawn as its camera sees it."""

    @property
    def plain(self) -> bool:
        """True when it is laid over what is behind it as it is drawn."""
        return (
            self.layer.direct
            and self.presence >= 1
            and not self.masks
            and not any(effect.active for effect in self.effects)
            and not self.layer.takes_behind
        )


class ProjectFrame:
    """A project at one time, ready to be drawn."""

    def __init__(self, view: ProjectView, time: Fraction, size: FrameSize) -> None:
        self.view, self.time, self.size, self.shape = view, time, size, size.shape
        self.project, self.signals = view.project, view.signals
        self.moment_now = RenderContext(
            time,
            view.use,
            self.signals.grid,
            view.media,
            project=view.project,
            signals=view.signals,
            sound=view.sound,
            picture_of=self.picture_of,
        )
        self._shown: dict[str, ResolvedLayer] = {}
        self._moments: dict[tuple[int, str], tuple[Layer, RenderContext]] = {}

    def shown(self, placed: PlacedLayer) -> ResolvedLayer:
        """A layer with its settings as they are now."""
        result = self._shown.get(placed.id)
        if result is None:
            layer, parts = resolve_layer(placed, self.signals, self.time, self.shape)
            assert isinstance(layer, DrawnLayer)
            if placed.moves:
                curves = SettingCurves(placed, self.signals, self.shape, self.view.solved)
                settle_rates(placed, layer, parts, curves, self.project.length_s)
            masks = tuple(item.part for item in parts.get("mask", ()) if item.on)
            effects = tuple(
                JoinedEffect(
                    item.part,
                    f"{placed.id}/{item.id}",
                    item.on and item.part.at_work(float(self.time)),
                    _notify_timers if _TIMERS.get() else None,
                )
                for item in parts.get("effect", ())
            )
            presence = layer.presence(float(self.time), self.project.length_s, self.view.sound)
            result = self._shown[placed.id] = ResolvedLayer(placed, layer, masks, effects, presence)
        return result

    def moment(self, layer: Layer, placed: PlacedLayer | None = None) -> RenderContext:
        """The time, as a layer is told of it."""
        name = id(layer), placed.id if placed else ""
        result = self._moments.get(name)
        if result is None:
            since, until = layer.time_span(self.project.length_s, self.view.sound)
            curves = SettingCurves(placed, self.signals, self.shape, self.view.solved) if placed else None
            use, listens = self.view.use, getattr(layer, "listens", "")
            if listens and use is not None:
                use = use.heard(listens)
            # The layer is held, so that no other one gets its number.
            result = self._moments[name] = (
                layer,
                changed(self.moment_now, since=since, until=until, curves=curves, use=use),
            )
        return result[1]

    def draw_frame(self, canvas: Canvas, background: Background = "opaque") -> None:
        """Draw all of it on a canvas."""
        shown = [self.shown(placed) for placed in self.project.drawn.get("", ())]
        covers = [index for index, item in enumerate(shown) if self._covers(canvas, item)]
        if background == "transparent":
            canvas.clear_through()
        elif not covers:
            canvas.clear()
        for item in shown[covers[-1] if covers else 0 :]:
            self.draw(canvas, item)

    @property
    def still_name(self) -> Hashable | None:
        """A name for the whole picture: stages of equal names look the same. None where something moves by itself."""
        parts: list[Hashable] = []
        for placed in self.project.drawn.get("", ()):
            item = self.shown(placed)
            if item.presence <= 0:
                continue
            name = self._member_name(item)
            if name is None:
                return None
            place = tuple(
                getattr(item.layer, setting) for setting in item.layer.settings if setting in COMPOSITE_SETTINGS
            )
            parts.append((placed.id, name, place))
        return tuple(parts)

    def draw_all(self, canvas: Canvas, layers: Iterable[PlacedLayer]) -> None:
        """Draw every layer that is there, the hindmost first."""
        for placed in layers:
            self.draw(canvas, self.shown(placed))

    def draw(self, canvas: Canvas, item: ResolvedLayer) -> None:
        """Draw a layer, and the members of a group, over what is on a canvas."""
        if item.presence <= 0:
            return
        for note in _WATCHERS.get():
            note(item.placed.id)
        begin = perf_counter()
        try:
            composite(canvas, self._part(canvas, item))
        except OverTime as problem:
            raise OverTime(str(problem), problem.layer or item.placed.id) from problem
        _notify_timers(item.placed.id, begin)

    def _part(self, canvas: Canvas, item: ResolvedLayer) -> StagedLayer:
        layer, placed = item.layer, item.placed

        def alone(onto: Canvas) -> None:
            if layer.holds_members:
                members = [self._member(other) for other in self.project.drawn.get(placed.id, ())]
                layer.draw_members(onto, self.moment(layer, placed), members)
            elif layer.instance_of:
                then, other = self._instanced(item)
                then.draw(onto, other)
            else:
                layer.draw(onto, changed(self.moment(layer, placed), space=item.space))

        def covers(area: Area) -> Coverage | None:
            place = matrix(layer, canvas.width, canvas.height) if layer.moved else None
            ground = MaskTarget(canvas, place, lambda ident, part: self._other(canvas, ident, part))
            return joined_cover(item.masks, ground, area)

        def stage_earlier(seconds: float) -> ProjectFrame:
            return ProjectFrame(self.view, self.time - Fraction(seconds).limit_denominator(1_000_000), self.size)

        moment = self.moment(layer, placed)

        def effect_values(number: int, name: str, times: Values) -> Values:
            assert moment.curves is not None
            return moment.curves.values(f"effect:{placed.parts['effect'][number].id}:{name}", times)

        def earlier(seconds: float) -> StagedLayer:
            then = stage_earlier(seconds)
            part = then._part(canvas, then.shown(placed))
            if not layer.takes_behind:
                return part
            # What was behind it then is on no canvas any more: it is drawn again.
            row = self.project.drawn.get(placed.group, ())
            below = row[: next(index for index, other in enumerate(row) if other.id == placed.id)]
            whole = Box(0.0, 0.0, float(canvas.width), float(canvas.height))
            return replace(
                part, takes_behind=False, draw=lambda onto: then.draw_all(onto, below), bounds=lambda view: whole
            )

        masks_still = not placed.parts_move("mask") and not any(mask.layers() for mask in item.masks)
        still = self._still_name(canvas, item, masks_still)
        return StagedLayer(
            layer=layer,
            draw=alone,
            bounds=lambda view: self.painted(view, item),
            presence=item.presence,
            effects=item.effects,
            covers=covers if item.masks else None,
            still=still,
            masks_still=masks_still,
            at=earlier,
            effect_values=effect_values,
            other=lambda ident, area: self._other(canvas, ident, area),
            moment=moment,
            takes_behind=layer.takes_behind,
            halved=self.view.quick and still is None and self._holds_nothing_fine(canvas, item),
        )

    def _holds_nothing_fine(self, canvas: Canvas, item: ResolvedLayer) -> bool:
        """True for a layer that may be drawn at half the frame's size and enlarged: its picture is as blurred, and no
        part of one that is drawn so already."""
        layer = item.layer
        whole = (canvas.width, canvas.height) == (self.size.width, self.size.height)
        if not whole or layer.takes_behind or item.space is not None or not self._joins_nothing(item):
            return False
        sigma = layer.blur_sigma(canvas, self.moment(layer, item.placed))
        for effect in item.effects:
            sigma = effect.blur_sigma(canvas, sigma)
        return sigma >= HALVED_FROM

    def _member(self, placed: PlacedLayer) -> Member:
        """A member of a group, for its kind to draw."""
        item = self.shown(placed)

        rest = changed(item, layer=at_rest(item.layer))
        plain = not item.masks and not any(effect.active for effect in item.effects) and item.layer.blend == "normal"
        return Member(
            layer=item.layer,
            moment=self.moment(item.layer, placed),
            presence=item.presence,
            plain=plain,
            draw=lambda canvas: self.draw(canvas, item),
            draw_in=lambda canvas, space: self.draw(canvas, changed(rest, space=space)),
            draw_at_rest=lambda canvas: self.draw(canvas, changed(rest, layer=_normal(rest.layer))),
            bounds=lambda view: self.painted(view, rest),
        )

    def painted(self, view: Viewport, item: ResolvedLayer) -> Box:
        """All that a layer draws before it is moved, in pixels; of a group what its members draw."""
        if item.space is not None or (item.layer.holds_members and not item.layer.members_lie_flat):
            # A camera may bring anything anywhere.
            return Box(-1e5, -1e5, 1e5, 1e5)
        if item.layer.holds_members:
            members = self.project.drawn.get(item.placed.id, ())
        elif item.layer.instance_of:
            then, other = self._instanced(item)
            return then._around(view, (other,))
        else:
            return item.layer.paint_bounds(view, self.moment(item.layer, item.placed))
        return self._around(view, [self.shown(placed) for placed in members])

    def _around(self, view: Viewport, members: Iterable[ResolvedLayer]) -> Box:
        """All that some layers draw, as they lie in what holds them."""
        result: Area | None = None
        for member in members:
            box = self.painted(view, member)
            area = box.pixels((-(10**6), -(10**6), 10**6, 10**6))
            if member.layer.moved:
                area = reached(matrix(member.layer, view.width, view.height), area, 1)
            result = around(result, grown(area, sum(effect.margin(view) for effect in member.effects)))
        return Box(0.0, 0.0, 0.0, 0.0) if result is None else Box(*(float(edge) for edge in result))

    def picture_of(self, ident: str, time: Fraction, view: Viewport) -> LayerPicture:
        """A layer alone, with its effects and masks, but not placed, as it is at a time; kept where it is still."""
        then = self if time == self.time else ProjectFrame(self.view, time, self.size)
        item = then.shown(self.project.by_id[ident])
        rest = changed(item, layer=_normal(at_rest(item.layer)), space=None)
        name = then._member_name(rest)
        box = rest.layer.extent(view, then.moment(rest.layer, rest.placed))

        def make() -> LayerPicture:
            area = then.painted(view, rest).grown(sum(effect.margin(view) for effect in rest.effects))
            canvas = Canvas(view.width, view.height, common(view.frame, area.pixels(view.frame)))
            canvas.clear_through()
            then.draw(canvas, rest)
            shown = common(canvas.area, canvas.touched or (0, 0, 0, 0))
            pixels = canvas.part(shown) if not is_empty(shown) else np.zeros((0, 0, 4), np.uint8)
            return LayerPicture(shown[0], shown[1], np.ascontiguousarray(pixels), box, name is not None)

        if name is None:
            return make()
        key = "picture of", name, view.width, view.height, box
        result: LayerPicture = SHARED_CACHE.get(key, make)
        return result

    def _instanced(self, item: ResolvedLayer) -> tuple[ProjectFrame, ResolvedLayer]:
        """What an instance shows, and the frame of the time at which it shows it."""
        moment = self.moment(item.layer)
        time = item.layer.instance_time(self.time, moment.since, moment.until)
        then = self if time == self.time else ProjectFrame(self.view, time, self.size)
        return then, then.shown(self.project.by_id[item.layer.instance_of])

    def _other(self, canvas: Canvas, ident: str, area: Area) -> Pixels:
        """A layer alone, for a mask that reads it; nothing outside of its span."""
        with canvas.lent(canvas, area) as alone:
            self.draw(alone, self.shown(self.project.by_id[ident]))
            return alone.pixels.copy()

    def _still_name(self, canvas: Canvas, item: ResolvedLayer, masks_still: bool) -> Hashable | None:
        """A name for the picture of a layer that does not change over time, with its masks where they are still; None
        where it does change, or where keeping it would be no gain."""
        if self._covers(canvas, item) or not self._joins_nothing(item):
            return None
        name = self._picture_name(item)
        if name is None:
            return None
        masks = tuple((mask.kind, mask.state()) for mask in item.masks) if masks_still else None
        return name, masks, canvas.width, canvas.height

    def _covers(self, view: Viewport, item: ResolvedLayer) -> bool:
        """True when nothing behind it is seen."""
        return item.plain and item.layer.fills(view, self.moment(item.layer))

    def _joins_nothing(self, item: ResolvedLayer) -> bool:
        """False for a group whose members blend with what is behind it: those can't be drawn apart."""
        if item.layer.takes_behind or any(effect.reads_behind for effect in item.effects):
            return False
        if not item.layer.holds_members or not item.layer.direct or item.masks or item.effects or item.presence < 1:
            return True
        members = [self.shown(member) for member in self.project.drawn.get(item.placed.id, ())]
        return all(member.layer.blend == "normal" and self._joins_nothing(member) for member in members)

    def _picture_name(self, item: ResolvedLayer) -> Hashable | None:
        """What the picture of a layer is made of, without its masks; None where it changes over time. A group is as
        still as its members."""
        layer, placed = item.layer, item.placed
        made = tuple(effect.name for effect in item.effects)
        if placed.picture_moves or None in made or layer.takes_behind:
            return None
        inside: tuple[Any, ...] = ()
        if item.space is not None:
            return None
        if layer.holds_members:
            if not layer.still:
                return None
            members = [self._member_name(self.shown(member)) for member in self.project.drawn.get(placed.id, ())]
            if not members or None in members:
                return None
            inside = tuple(members)
        elif layer.instance_of:
            then, other = self._instanced(item)
            name = then._member_name(other)
            if name is None:
                return None
            inside = (name,)
        elif not layer.still:
            return None
        files = tuple(self.view.media.get(getattr(layer, name), "") for name in layer.media_settings())
        state = tuple(getattr(layer, name) for name in layer.settings if name not in COMPOSITE_SETTINGS)
        return layer.kind, state, made, files, inside

    def _member_name(self, item: ResolvedLayer) -> Hashable | None:
        """A name for what a member adds to its group; None where that changes over time. Modes and presence count, and
        so do its masks."""
        masks_move = item.placed.parts_move("mask") or any(mask.layers() for mask in item.masks)
        name = None if masks_move else self._picture_name(item)
        if name is None:
            return None
        return name, item.layer.blend, item.presence, tuple((mask.kind, mask.state()) for mask in item.masks)


def _normal(layer: DrawnLayer) -> DrawnLayer:
    result = copy(layer)
    result.blend = "normal"
    return result


def signals_of(project: Project, use: AudioRange | None) -> SignalSet:
    """A project's signals over the used part of its sound."""
    markers = tuple(sorted(marker.time_s for marker in project.markers))
    return SignalSet(project.signals, project.beats, use, project.length_s, markers, project.notes)


def encode_still(pixels: Pixels, form: str = "png", quality: int = 88) -> bytes:
    """Pixels as the bytes of a PNG, JPEG or WebP picture (`form`: png, jpeg, webp)."""
    options = {"jpeg": [cv2.IMWRITE_JPEG_QUALITY, quality], "webp": [cv2.IMWRITE_WEBP_QUALITY, quality]}
    suffix = {"jpeg": ".jpg"}.get(form, f".{form}")
    plain = cv2.cvtColor(pixels, cv2.COLOR_BGRA2BGR) if pixels.shape[2] == 4 else pixels
    done, data = cv2.imencode(suffix, plain, options.get(form, []))
    if not done:
        raise ValueError(f"no picture could be written as {form}")
    return data.tobytes()
