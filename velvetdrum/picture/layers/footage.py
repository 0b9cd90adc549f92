"""Footage: a clip in a box, timed, graded, slowly moved or shaken."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import Condition, choice, flag, footage, number, rate, whole
from velvetdrum.declare.vocabulary import clip_time, position_x, position_y
from velvetdrum.picture.bases.image_placement import BOXED, box_about, fitting, lay_scaled, missing, scales
from velvetdrum.picture.bases.layer import DrawnLayer, LayerSound, RenderContext
from velvetdrum.picture.media.clips.clip import opened
from velvetdrum.picture.media.clips.frame_source import Moving
from velvetdrum.picture.media.clips.index import ClipError
from velvetdrum.picture.media.clips.timing import Timing
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.grading import graded
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import Design, Sizing, even_ramp
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.noise import lattice_noise
from velvetdrum.signals.rates import RateIntegral

_SHAKEN = ("shake", (">", 0))
_ALONE = ("runs", ("own",))
_HELD_AT = ("runs", ("held",))
_LOOPED = (("runs", ("own",)), ("over", ("loop",)))
_HEARD = ("sound", ("mixed",))
_LUMA = (0.072, 0.715, 0.213)  # blue, green, red, as Filter Effects writes them


@layer_kind("footage", "Footage")
class Footage(DrawnLayer):
    """A clip of yours: any video, with its in and out points, its speed and its grade."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design(
            "shape",
            "Footage",
            {},
            (
                "backdrop",
                {
                    "fill": "linear",
                    "start_x": 0.0,
                    "end_x": 100.0,
                    "start_y": 0.0,
                    "end_y": 100.0,
                    "colours": even_ramp("#0d2b38", "#3f6f86", "#102030", "#5a3a63"),
                },
            ),
        ),
    )
    sizings: ClassVar[tuple[Sizing, ...]] = BOXED
    depth: ClassVar[int] = 1
    drops: ClassVar[dict[str, str]] = {"clip": "clip"}
    linked: ClassVar[tuple[str, str, str] | None] = ("runs", "track", "in_s")
    sounding: ClassVar[tuple[str, ...]] = (
        "clip",
        "runs",
        "in_s",
        "out_s",
        "speed",
        "slip_s",
        "held_s",
        "cross_s",
        "backward",
        "over",
        "gain_db",
    )
    running: ClassVar[dict[str, str]] = {"in": "in_s", "speed": "speed", "slip": "slip_s"}
    sounds: ClassVar[tuple[Condition, ...]] = (_HEARD,)

    first = ("clip",)

    clip: str = footage(help="The clip that is shown.")
    fit: str = fitting("cover")  # type: ignore[assignment]
    x: float = position_x(50, of="the middle of its box")
    y: float = position_y(50, of="the middle of its box")
    width: float = number(
        100, lo=0.5, hi=300, unit="%", help="Width of the layer's box, as a share of the frame's width."
    )
    height: float = number(
        100, lo=0.5, hi=300, unit="%", help="Height of the layer's box, as a share of the frame's height."
    )
    runs: str = choice(
        "own",
        {"own": "From its in point", "track": "With the track", "held": "Held"},
        label="Runs",
        group="motion",
        help="With the track it keeps its place to the recording, however that is trimmed, as the film of its sound. "
        "Held it shows one time of the clip, which keyframes and signals run as they like.",
    )
    held_s: float = clip_time(
        label="Held at",
        when=_HELD_AT,
        help="The time of the clip that is shown, in its own seconds.",
    )
    in_s: float = clip_time(
        label="Source in",
        help="Where the clip begins, in its own seconds.",
    )
    out_s: float = clip_time(
        label="Source out",
        when=_ALONE,
        help="Where it ends; 0 is its own end.",
    )
    speed: float = rate(
        100,
        lo=5,
        hi=800,
        unit="%",
        step=1,
        group="motion",
        curve="log",
        when=_ALONE,
        help="Speed of the clip, as a share of its own.",
    )
    slip_s: float = clip_time(
        label="Slip",
        lo=-10_800,
        when=_ALONE,
        help="Shifts what is shown within its source in and out, in the clip's own seconds.",
    )
    backward: bool = flag(
        False, label="Reversed", group="motion", when=_ALONE, help="It runs from its source out to its source in."
    )
    over: str = choice(
        "loop",
        {"loop": "Loop", "hold": "Hold", "ping-pong": "There and back"},
        label="At end",
        group="motion",
        when=_ALONE,
        help="Begins again, holds its last picture, or runs back.",
    )
    cross_s: float = number(
        0,
        lo=0,
        hi=60,
        unit="s",
        step=0.05,
        label="Cross-fade",
        group="motion",
        when=_LOOPED,
        help="How long its end and its beginning are shown over each other where it begins again.",
    )
    zoom: float = number(
        100, lo=100, hi=400, unit="%", step=1, group="motion", help="How much closer the picture is shown."
    )
    zoom_rate: float = rate(
        0,
        lo=-200,
        hi=200,
        unit="%/min",
        step=1,
        label="Zoom rate",
        group="motion",
        help="Added to the zoom each minute; it stops at 100 and at 400 %.",
    )
    drift_x: float = rate(
        0,
        lo=-200,
        hi=200,
        unit="%/min",
        step=1,
        label="Drift X",
        group="motion",
        help="How fast it wanders in its box, as far as its zoom leaves room.",
    )
    drift_y: float = rate(
        0,
        lo=-200,
        hi=200,
        unit="%/min",
        step=1,
        label="Drift Y",
        group="motion",
        help="How fast it wanders in its box, as far as its zoom leaves room.",
    )
    shake: float = number(
        0,
        lo=0,
        hi=100,
        unit="px",
        step=0.5,
        group="motion",
        help="How far it trembles, in pixels of a frame of 1080 lines.",
    )
    shake_hz: float = rate(
        6, lo=0.1, hi=30, unit="Hz", label="Shake rate", group="motion", when=_SHAKEN, help="New directions per second."
    )
    seed: int = whole(
        1,
        lo=0,
        hi=9999,
        label="Shake seed",
        group="motion",
        advanced=True,
        when=_SHAKEN,
        help="Another number, another tremble.",
    )
    brightness: float = number(
        100, lo=0, hi=300, unit="%", step=1, group="colour", help="Brightness, as the CSS filter function."
    )
    contrast: float = number(
        100, lo=0, hi=300, unit="%", step=1, group="colour", help="Contrast, as the CSS filter function."
    )
    saturation: float = number(
        100, lo=0, hi=300, unit="%", step=1, group="colour", help="Saturation, as the CSS filter saturate; 0 is grey."
    )
    sound: str = choice(
        "muted",
        {"muted": "Muted", "mixed": "Mixed in"},
        group="sound",
        help="The clip's own sound: left out, or heard with the track.",
    )
    gain_db: float = number(
        -6,
        lo=-60,
        hi=12,
        unit="dB",
        step=0.5,
        label="Gain",
        group="sound",
        when=_HEARD,
        help="How loud the clip's sound is mixed in.",
    )

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self.extent(view, at).grown(0.0)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        return box_about(
            canvas.x(self.x), canvas.y(self.y), canvas.width * self.width / 100, canvas.height * self.height / 100
        )

    def blur_sigma(self, view: Viewport, at: RenderContext) -> float:
        clip = self._opened(at)
        if clip is None:
            return 0.0
        _, place, shown = self._placed(view, self.extent(view, at), clip, at)
        # An enlarged pixel holds nothing finer than itself. The edges of a box inside the frame do.
        inside = shown.left <= 0 and shown.top <= 0 and shown.right >= view.width and shown.bottom >= view.height
        return min(place[0, 0], place[1, 1]) / 2 if inside else 0.0

    def fills(self, view: Viewport, at: RenderContext) -> bool:
        clip = self._opened(at)
        if clip is None or not clip.opaque:
            return False
        size, place, shown = self._placed(view, self.extent(view, at), clip, at)
        inside = shown.left <= 0 and shown.top <= 0 and shown.right >= view.width and shown.bottom >= view.height
        return inside and self._reaches(shown, place, size)

    def _opened(self, at: RenderContext) -> Moving | None:
        """The clip, where it can be read."""
        path = at.media.get(self.clip)
        try:
            return opened(path) if path else None
        except (ClipError, OSError):
            return None

    @property
    def heard(self) -> LayerSound | None:
        return LayerSound(self.clip, self.gain_db, self.timing) if self.sound == "mixed" and self.clip else None

    @property
    def _speed_run(self) -> RateIntegral | None:
        run = self.integrals.get("speed")
        return run if isinstance(run, RateIntegral) else None

    def timing(self, begin_s: float, length_s: float, track_s: float) -> Timing:
        """When which part of a clip of this length is shown, for a layer that comes at `begin_s`, where the used part
        of the recording begins at `track_s`."""
        if self.runs == "held":
            return Timing(0.0, min(self.held_s, length_s), length_s, 0.0, "hold")
        if self.runs == "track":
            return Timing(0.0, min(self.in_s + track_s, length_s), length_s, 1.0, "hold")
        out = min(self.out_s or length_s, length_s)
        begin = min(self.in_s, max(out - 1e-3, 0.0))
        return Timing(
            begin_s, begin, out, self.speed / 100, self.over, self.slip_s, self.backward, self._speed_run, self.cross_s
        )

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        if not self.clip:
            return
        box = self.extent(canvas, at)
        clip = self._opened(at)
        if clip is None:
            missing(canvas, box)
            return
        timing = self.timing(at.since, clip.length_s, at.project.begin_s if at.project else 0.0)
        now = np.array([float(at.time)])
        over, share = timing.crossing(float(at.time))
        # At the very end of the clip its last frame is shown.
        number_, other = (
            clip.number_at(min(float(seconds), clip.length_s - 1e-4)) for seconds in (timing.source(now)[0], over)
        )
        size, place, shown = self._placed(canvas, box, clip, at)
        pixels = clip.pixels(number_, size)
        if share > 0:
            both = cv2.addWeighted(pixels, 1 - share, clip.pixels(other, size), share, 0.0)
            pixels = np.asarray(both, np.uint8)
        lay_scaled(canvas, self._graded(pixels), shown, place, solid=clip.opaque and self._reaches(shown, place, size))

    def _placed(
        self, view: Viewport, box: Box, clip: Moving, at: RenderContext
    ) -> tuple[tuple[int, int], np.ndarray, Box]:
        """The size that the clip is read at, where its pixels lie in the frame (an affine matrix, shape (2, 3)), and
        what of them is shown, at a time."""
        now, since = float(at.time), at.since

        def ran(name: str) -> float:
            return self.integral(name, max(now, since), since)

        width, height = clip.size
        box_width, box_height = box.right - box.left, box.bottom - box.top
        tremble = self._tremble(now, since) * view.short / 1080
        reach = self.shake * view.short / 1080
        # What trembles is shown a little larger, so that no edge of it comes into the box.
        room = (box_width + 2 * reach, box_height + 2 * reach) if self.fit != "contain" else (box_width, box_height)
        zoom = min(max(self.zoom + ran("zoom_rate") / 60, 100.0), 400.0) / 100
        across, down = (scale * zoom for scale in scales(self.fit, width, height, *room))
        spare = np.maximum((np.array([width * across, height * down]) - room) / 2, 0.0)
        drift = np.array([ran("drift_x") * box_width, ran("drift_y") * box_height]) / 100 / 60
        middle = np.array([(box.left + box.right) / 2, (box.top + box.bottom) / 2])
        middle = middle + np.clip(drift, -spare, spare) + tremble
        # The decoder's scaler brings it near its size; the rest is done when it is laid down.
        shrunk = (min(across, 1.0), min(down, 1.0))
        size = (max(round(width * shrunk[0]), 2), max(round(height * shrunk[1]), 2))
        scale = np.array([width * across / size[0], height * down / size[1]])
        place = np.zeros((2, 3))
        place[0, 0], place[1, 1] = scale
        place[:, 2] = middle - scale * size / 2
        edge = np.array([width * across, height * down]) / 2
        shown = Box(
            max(box.left, middle[0] - edge[0]),
            max(box.top, middle[1] - edge[1]),
            min(box.right, middle[0] + edge[0]),
            min(box.bottom, middle[1] + edge[1]),
        )
        return size, place, shown

    @staticmethod
    def _reaches(shown: Box, place: np.ndarray, size: tuple[int, int]) -> bool:
        """True when pixels of a size, placed, leave no part of a pixel of a box clear."""
        low = place @ (0.5, 0.5, 1.0)
        high = place @ (size[0] - 0.5, size[1] - 0.5, 1.0)
        left, top = low - 0.5
        right, bottom = high + 0.5
        return bool(left <= shown.left and top <= shown.top and right >= shown.right and bottom >= shown.bottom)

    def _tremble(self, now: float, since: float) -> np.ndarray:
        """How far it is off its place, in pixels of a frame of 1080 lines."""
        if not self.shake:
            return np.zeros(2)
        at = np.array([self.integral("shake_hz", now, since)])
        noise = [float(lattice_noise(at, self.seed * 2 + axis)[0]) for axis in (0, 1)]
        return (np.array(noise) * 2 - 1) * self.shake

    def _graded(self, pixels: Pixels) -> Pixels:
        """Brightness, contrast and saturation as Filter Effects 1 defines them, in that order."""
        if (self.brightness, self.contrast, self.saturation) == (100, 100, 100):
            return pixels
        slope = self.brightness / 100 * self.contrast / 100
        lift = 255 * (0.5 - 0.5 * self.contrast / 100)
        rich = self.saturation / 100
        mix = np.full((3, 3), 0.0)
        mix[:] = (1 - rich) * np.array(_LUMA)
        mix += rich * np.eye(3)
        # The lift goes with alpha, so that premultiplied colours stay within it.
        matrix = np.zeros((3, 4), np.float32)
        matrix[:, :3], matrix[:, 3] = mix * slope, lift / 255
        return graded(pixels, matrix)
