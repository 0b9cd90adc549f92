"""What a drawing layer gets to know about the time that it draws."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, ClassVar

from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.picture.media.clips.timing import Timing
from velvetdrum.picture.outlines.paths import path_outline
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.space.camera import Camera, Values
from velvetdrum.picture.space.clouds import Cloud
from velvetdrum.picture.space.solids import Lights, Mesh
from velvetdrum.scene.document import Project
from velvetdrum.scene.kinds import LAYER_KINDS, Layer
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatGrid
from velvetdrum.signals.signal_set import SignalSet


@dataclass(frozen=True, eq=False)
class LayerPicture:
    """A layer alone at a time, where its kind puts it: premultiplied pixels, where they begin in the frame, and the box
    that the layer is handled by, all in pixels of the frame that it was drawn in. Not to be written to."""

    left: int
    top: int
    pixels: Pixels
    box: Box
    still: bool
    """True when it is the same at all times."""

    @property
    def longer(self) -> float:
        """The longer side of the box."""
        return max(self.box.right - self.box.left, self.box.bottom - self.box.top)

    @property
    def from_middle(self) -> tuple[float, float]:
        """The way from the middle of the box to that of the pixels."""
        height, width = self.pixels.shape[:2]
        return (
            self.left + width / 2 - (self.box.left + self.box.right) / 2,
            self.top + height / 2 - (self.box.top + self.box.bottom) / 2,
        )


@dataclass(frozen=True)
class RenderContext:
    """A time in the project, in seconds from its start, and the sound that is used there (None: no track)."""

    time: Fraction
    use: AudioRange | None
    beats: BeatGrid | None = None
    """The beats of the project, where there are any."""
    media: Mapping[str, str] = field(default_factory=dict)
    """Files of the project's pictures and clips by their content hash."""
    since: float = 0.0
    """When the layer that is drawn comes, in seconds of the project."""
    project: Project | None = None
    """The project, for layers that tell of it: its cues, its tags, its markers."""
    signals: SignalSet | None = None
    sound: tuple[float, float] | None = None
    """The first and the last sound, in seconds of the project."""
    until: float = 0.0
    """When the layer that is drawn goes."""
    curves: SettingCurves | None = None
    """The settings of the layer that is drawn, over time."""
    space: InSpace | None = None
    """How a layer stands in the space that it is in; None for one that lies flat in the frame."""
    picture_of: Callable[[str, Fraction, Viewport], LayerPicture] | None = None
    """Another layer by its id, at a time in seconds of the project, in a frame of a size; KeyError for one that is
    gone."""


@dataclass(frozen=True)
class LayerSound:
    """What is heard of a layer: a prepared clip by its content hash, its gain in dB, and when which part of it is heard
    (from when it comes, the length of the clip, and where the used part of the recording begins, in seconds)."""

    clip: str
    gain_db: float
    timing: Callable[[float, float, float], Timing]


@dataclass(frozen=True)
class LayerPath:
    """Outlines of a layer as SVG path data, in units of its own, and the box in which they lie, in pixels."""

    data: str
    box: Box

    @classmethod
    def placed(cls, data: str, scale: float, x: float, y: float) -> LayerPath:
        """Path data with the pixels of one of its units, and the pixels at which its origin lies. Raises PathError."""
        left, top, right, bottom = path_outline(data).bounds
        return cls(data, Box(x + left * scale, y + top * scale, x + right * scale, y + bottom * scale))


@dataclass(frozen=True, eq=False)
class InSpace:
    """A camera with its lights, and where a member stands: an affine matrix in per cent of the short side, shape
    (4, 4)."""

    camera: Camera
    lights: Lights
    place: Values


@dataclass(frozen=True, eq=False)
class Member:
    """A member of a layer that holds some, as it is now."""

    layer: DrawnLayer
    moment: RenderContext
    presence: float
    plain: bool
    """True when nothing is done with its picture: no mask, no effect, no blend mode."""
    draw: Callable[[Canvas], None]
    """Draws it over what is on a canvas, as it lies in the frame."""
    draw_in: Callable[[Canvas, InSpace], None]
    """Draws it over what is on a canvas, as a camera sees it."""
    draw_at_rest: Callable[[Canvas], None]
    """Draws its picture where its kind puts it: not placed, and in the normal blend mode."""
    bounds: Callable[[Viewport], Box]
    """All that it draws, in pixels."""


@dataclass(frozen=True)
class LayerPart:
    """A part of a layer's picture that can be a layer of its own."""

    name: str
    settings: dict[str, Any]
    """What its layer has in place of the settings of the whole."""
    colour: str
    """The colour of most of it."""
    stroke: float
    """How wide its strokes are, in pixels; 0 where it has none."""
    outline: LayerPath | None
    """Its outlines; None where they can't be had."""


class DrawnLayer(Layer):
    """A layer kind that draws. Drawing may read nothing but its settings and the moment."""

    has_depth: ClassVar[bool] = False
    """True for a kind that draws what a camera sees of it; others stand in a space as flat plates."""
    takes_behind: ClassVar[bool] = False
    """True for a kind whose picture is what is behind it, for effects to work on."""

    @property
    def instance_of(self) -> str:
        """The id of another layer that it shows again, in place of drawing; empty for kinds that draw."""
        return ""

    def instance_time(self, time: Fraction, since: float, until: float) -> Fraction:
        """The time at which that other layer is shown, in seconds of the project, for one that comes and goes so."""
        return time

    @property
    def still(self) -> bool:
        """True when it looks the same at all times, as its settings are now."""
        return False

    @property
    def heard(self) -> LayerSound | None:
        """Its own sound, mixed with the track; None where nothing of it is heard."""
        return None

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        """Draw the layer on a canvas, as it is at a time. A pure function of both and of its settings."""
        raise NotImplementedError

    def outlines(self, view: Viewport, at: RenderContext) -> LayerPath | None:
        """Its outlines, of a kind that has some; None where there is nothing to see. Raises PathError with a sentence
        where they can't be had."""
        return None

    @classmethod
    def stroked_path(cls, data: str, x: float, y: float, size: float, width: float, colour: str) -> dict[str, Any]:
        """Of a kind with a drawn path: settings of one that is a stroke alone. Its middle in per cent of the frame, its
        longer side and the width of its stroke in per cent of the short side."""
        return {}

    def picture_parts(self, view: Viewport, at: RenderContext) -> tuple[LayerPart, ...]:
        """Of a kind that can be taken apart: its parts, the hindmost first. Raises PathError with a sentence where
        there are none."""
        return ()

    def notes(self, at: RenderContext) -> list[str]:
        """What a person should know of how it is drawn, as sentences: letters that no typeface has, and the like."""
        return []

    def draw_members(self, canvas: Canvas, at: RenderContext, members: Sequence[Member]) -> None:
        """Of a kind that holds members: draw them, the hindmost first."""
        for member in members:
            member.draw(canvas)

    def standing(self, view: Viewport, at: RenderContext) -> Camera | None:
        """The camera that its members, or its own marks, are seen by; None for a kind without one."""
        return None

    def clouds(self, view: Viewport, at: RenderContext) -> list[Cloud] | None:
        """The marks that it consists of, in space; None for a kind that draws a flat picture."""
        return None

    def meshes(self, view: Viewport, at: RenderContext) -> list[Mesh] | None:
        """The solids that it consists of, in space; None for a kind that has none."""
        return None

    def fills(self, view: Viewport, at: RenderContext) -> bool:
        """True when it covers the whole frame, so that nothing behind it need be drawn."""
        return False

    def blur_sigma(self, view: Viewport, at: RenderContext) -> float:
        """The standard deviation of the least blur of what it draws, in pixels; 0 where it may hold anything."""
        return 0.0

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        """All that it draws, in pixels, before it is placed: what lies outside is cut. The frame where a kind does not
        say."""
        return Box(0.0, 0.0, float(view.width), float(view.height))

    def level_axis(self, canvas: Viewport, at: RenderContext) -> tuple[tuple[float, float], tuple[float, float]] | None:
        """Where the way of levels begins and ends that it shows, in pixels, before it is placed; None for none."""
        return None

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        """The box that it is handled by, in pixels, before it is placed: what it draws lies in it, or at its edges.
        The whole frame where a kind does not say."""
        return Box(0.0, 0.0, float(canvas.width), float(canvas.height))


def takes_behind(kind: str) -> bool:
    """True for a kind of layer whose picture is what is behind it."""
    result = LAYER_KINDS.get(kind)
    return result is not None and issubclass(result, DrawnLayer) and result.takes_behind
