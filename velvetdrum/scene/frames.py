"""Frame sizes and frame rates: the usual names, and exact numbers behind them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

from velvetdrum.declare.setting import quoted

SMALLEST, LARGEST = 64, 4096
SHAPES = ("wide", "square", "tall")
"""Shapes of frames: a layer may have settings of its own for each."""

_SQUARE = 1.2


class FrameError(ValueError):
    """A frame size or rate can't be used. The text is a sentence."""


@dataclass(frozen=True)
class FrameSize:
    """A picture's width and height in pixels: both even, 64 to 4096."""

    width: int
    height: int

    def __post_init__(self) -> None:
        for name, value in (("width", self.width), ("height", self.height)):
            if not SMALLEST <= value <= LARGEST:
                raise FrameError(
                    f"The frame's {name} goes from {SMALLEST} to {LARGEST} pixels; {quoted(value)} is outside."
                )
            if value % 2:
                raise FrameError(f"The frame's {name} must be an even number of pixels; {value} is odd.")

    @property
    def shape(self) -> str:
        """wide, square or tall: what overrides go by. Square is up to a fifth longer one way than the other."""
        return self.shape_of(self.width, self.height)

    @staticmethod
    def shape_of(width: int, height: int) -> str:
        """The shape of any picture."""
        ratio = width / max(height, 1)
        return "wide" if ratio > _SQUARE else "tall" if ratio < 1 / _SQUARE else "square"

    @classmethod
    def parse(cls, text: str) -> FrameSize:
        """From a name (`wide`, `square`, `tall`, `portrait`, `large`) or `WIDTHxHEIGHT`."""
        if text in FRAMES:
            return FRAMES[text]
        match = re.fullmatch(r"(\d{1,5})[x×](\d{1,5})", text.strip())
        if not match:
            raise FrameError(f"A frame is {', '.join(FRAMES)} or a size like 1920x1080, not {text!r}.")
        return cls(int(match[1]), int(match[2]))

    def scaled_to(self, width: int) -> FrameSize:
        """The same shape, `width` pixels wide, both sides even and at least two pixels."""
        height = max(2, round(width * self.height / self.width / 2) * 2)
        small = object.__new__(FrameSize)
        object.__setattr__(small, "width", max(2, width // 2 * 2))
        object.__setattr__(small, "height", height)
        return small


FRAMES = {
    "wide": FrameSize(1920, 1080),
    "square": FrameSize(1080, 1080),
    "tall": FrameSize(1080, 1920),
    "portrait": FrameSize(1080, 1350),
    "large": FrameSize(3840, 2160),
}

RATES = {
    "23.976": Fraction(24000, 1001),
    "24": Fraction(24),
    "25": Fraction(25),
    "29.97": Fraction(30000, 1001),
    "30": Fraction(30),
    "50": Fraction(50),
    "59.94": Fraction(60000, 1001),
    "60": Fraction(60),
}


def parse_rate(text: str) -> Fraction:
    """An exact rate from its usual name (`29.97`) or a fraction (`30000/1001`)."""
    if text in RATES:
        return RATES[text]
    match = re.fullmatch(r"(\d{1,6})/(\d{1,6})", text.strip())
    rate = Fraction(int(match[1]), int(match[2])) if match and int(match[2]) else None
    if rate not in RATES.values():
        raise FrameError(
            f"Frame rates are {', '.join(RATES)} per second, or 30000/1001 and the like; not {quoted(text)}."
        )
    assert rate is not None
    return rate


def nearest_rate(rate: float) -> Fraction:
    """The rate that a project may have which is nearest to a clip's, in frames per second."""
    return min(RATES.values(), key=lambda known: abs(float(known) - rate))


def rate_text(rate: Fraction) -> str:
    """The form in which a document keeps a rate: `30` or `30000/1001`."""
    return str(rate)
