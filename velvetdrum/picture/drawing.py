"""What a drawing layer gets to know about the time that it draws."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import ClassVar

from velvetdrum.picture.canvas import Canvas
from velvetdrum.scene.kinds import Layer
from velvetdrum.signals.grid import BeatGrid
from velvetdrum.signals.use import Use


@dataclass(frozen=True)
class Moment:
    """A time in the project, in seconds from its start, and the sound that is used there (None: no track)."""

    time: Fraction
    use: Use | None
    beats: BeatGrid | None = None
    """The beats of the project, where there are any."""
    pictures: Mapping[str, str] = field(default_factory=dict)
    """Files of the project's pictures by their content hash."""


class DrawnLayer(Layer):
    """A layer kind that draws. Drawing may read nothing but its settings and the moment."""

    opaque: ClassVar[bool] = False
    """True when a layer of this kind covers the whole frame, so that nothing behind it need be drawn."""

    def draw(self, canvas: Canvas, at: Moment) -> None:
        raise NotImplementedError
