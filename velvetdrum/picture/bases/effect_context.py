"""What an effect may read beside the picture that it is given: what is behind, other layers, other times."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.raster.areas import Area, Coverage, Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.kinds import Layer

Values = NDArray[np.float64]


class Applied(Protocol):
    """An effect of a layer, ready to be applied."""

    def margin(self, view: Viewport) -> int:
        """How far beyond the pixels that are wanted it looks, in pixels."""
        ...

    def apply(self, image: LayerImage, source: EffectContext) -> LayerImage:
        """The layer's picture after it. `source` leads to what else it may read."""
        ...


@dataclass(frozen=True)
class StagedLayer:
    """A layer at one time, as the stages need it."""

    layer: Layer
    draw: Callable[[Canvas], None]
    """Draws it where its kind puts it."""
    bounds: Callable[[Viewport], Box]
    """All that it draws, before it is moved."""
    presence: float
    """How much of it is there, 0 to 1."""
    effects: Sequence[Applied] = ()
    covers: Callable[[Area], Coverage | None] | None = None
    """What its masks let through; None when it has none."""
    still: Hashable | None = None
    """Names the picture of a layer that looks the same at all times; None for others."""
    masks_still: bool = True
    at: Callable[[float], StagedLayer] | None = None
    """The same layer so many seconds earlier."""
    effect_values: Callable[[int, str, Values], Values] | None = None
    """A number of the effect at a place in the row, by its name, at times in seconds of the project."""
    other: Callable[[str, Area], Pixels] | None = None
    """Another layer by its id, alone, on nothing: the pixels of an area."""
    moment: RenderContext | None = None
    """The time that it is drawn at."""
    takes_behind: bool = False
    halved: bool = False
    """True where it may be drawn at half the frame's size and enlarged: it holds nothing that this would lose."""
    small: bool = False
    """True while it is drawn so."""
    """True for a layer whose picture is what is behind it."""


@dataclass(frozen=True)
class EffectContext:
    """What an effect may read beside the picture that it is given."""

    canvas: Canvas
    layer: StagedLayer
    before: int
    """How many effects of the layer come before it."""
    wanted: Area
    """What later stages look at."""
    draw: Callable[[StagedLayer], LayerImage]
    """Draws a layer as this one is drawn, as far as its effects go."""
    visit: Callable[[StagedLayer, Callable[[LayerImage], None]], None] | None = None
    """Draws one in the same way, for as long as a function looks at it: its memory is used again then."""

    @property
    def view(self) -> Viewport:
        """The frame that it is seen in."""
        return self.canvas

    @property
    def behind(self) -> LayerImage:
        """What is behind the layer; not to be written to."""
        return LayerImage(*self.canvas.area[:2], self.canvas.pixels)

    @property
    def moment(self) -> RenderContext:
        """The time that is drawn, and what is known of it."""
        if self.layer.moment is None:
            raise ValueError("this layer is drawn at no time")
        return self.layer.moment

    @property
    def time_s(self) -> float:
        """The time that is drawn, in seconds of the project."""
        return float(self.moment.time)

    def other(self, ident: str, area: Area) -> Pixels:
        """Another layer by its id, alone, on nothing: the premultiplied pixels of an area."""
        if self.layer.other is None:
            raise ValueError("this layer leads to no others")
        return self.layer.other(ident, area)

    def values(self, setting: str, times: Values) -> Values:
        """A number of this effect at times in seconds of the project."""
        if self.layer.effect_values is None:
            raise ValueError("this layer can't be drawn at other times")
        return self.layer.effect_values(self.before, setting, times)

    def earlier(self, seconds: float) -> LayerImage:
        """The layer's picture so many seconds earlier, as it is before this effect."""
        return self.draw(self.staged(seconds))

    def look(self, seconds: float, use: Callable[[LayerImage], None]) -> None:
        """The same, for as long as `use` looks at it."""
        if self.visit is None:
            use(self.earlier(seconds))
        else:
            self.visit(self.staged(seconds), use)

    def staged(self, seconds: float) -> StagedLayer:
        """The layer so many seconds earlier, ready to be drawn as it is before this effect."""
        if self.layer.at is None:
            raise ValueError("this layer can't be drawn at other times")
        other = self.layer.at(seconds)
        return replace(other, effects=other.effects[: self.before], still=None)
