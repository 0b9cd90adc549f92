"""The frame that is drawn for, apart from the pixels that are at hand."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, floor

from velvetdrum.picture.raster.areas import Area


@dataclass(frozen=True)
class Box:
    """A rectangle in pixels of the frame; edges may lie between pixels."""

    left: float
    top: float
    right: float
    bottom: float

    def pixels(self, area: Area) -> Area:
        """The whole pixels that it touches, cut to an area.

        Parameters
        ----------
        area
            Whole pixels of the frame: left, top, right, bottom.
        """
        left, top = floor(self.left), floor(self.top)
        right, bottom = ceil(self.right), ceil(self.bottom)
        return common((left, top, right, bottom), area)

    def grown(self, margin: float) -> Box:
        """The box with a margin all round.

        Parameters
        ----------
        margin
            In pixels.
        """
        return Box(self.left - margin, self.top - margin, self.right + margin, self.bottom + margin)


class Viewport:
    """A frame's size in pixels: what 100 % means. Places are per cent of it, sizes per cent of its short side."""

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height

    @property
    def short(self) -> int:
        """The frame's short side in pixels: what sizes in per cent are of."""
        return min(self.width, self.height)

    @property
    def frame(self) -> Area:
        """All of the frame."""
        return 0, 0, self.width, self.height

    def x(self, per_cent: float) -> float:
        """A place across the frame in per cent as pixels from its left.

        Parameters
        ----------
        per_cent
            Of the frame's width.
        """
        return self.width * per_cent / 100.0

    def y(self, per_cent: float) -> float:
        """A place down the frame in per cent as pixels from its top.

        Parameters
        ----------
        per_cent
            Of the frame's height.
        """
        return self.height * per_cent / 100.0


def common(one: Area, other: Area) -> Area:
    """What two areas have in common; where that is nothing, its right lies at its left or its bottom at its top.

    Parameters
    ----------
    one
        One of the two.
    other
        The other one.
    """
    left, top = max(one[0], other[0]), max(one[1], other[1])
    return left, top, max(min(one[2], other[2]), left), max(min(one[3], other[3]), top)


def around(one: Area | None, other: Area) -> Area:
    """The smallest area that holds both.

    Parameters
    ----------
    one
        One of the two.
    other
        The other one.
    """
    if one is None or is_empty(one):
        return other
    if is_empty(other):
        return one
    return min(one[0], other[0]), min(one[1], other[1]), max(one[2], other[2]), max(one[3], other[3])


def grown(area: Area, margin: int) -> Area:
    """An area with a margin all round.

    Parameters
    ----------
    area
        Whole pixels of the frame: left, top, right, bottom.
    margin
        Whole pixels that are added on every side.
    """
    return area[0] - margin, area[1] - margin, area[2] + margin, area[3] + margin


def is_empty(area: Area) -> bool:
    """True when there is no pixel in it.

    Parameters
    ----------
    area
        Whole pixels of the frame: left, top, right, bottom.
    """
    return area[2] <= area[0] or area[3] <= area[1]
