"""Values of options: sizes of frames, frame rates, bands."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import click

from velvetdrum.scene.frames import FRAMES, FrameError, FrameSize, parse_rate
from velvetdrum.signals.sources.pickup import NYQUIST_HZ


class FrameParameter(click.ParamType):
    """`wide`, `square`, `tall`, `portrait`, `large` or WIDTHxHEIGHT."""

    name = "frame"

    def convert(self, value: Any, param: Any, ctx: Any) -> FrameSize:
        try:
            return value if isinstance(value, FrameSize) else FrameSize.parse(value)
        except FrameError as problem:
            self.fail(str(problem), param, ctx)


class RateParameter(click.ParamType):
    """A frame rate by its usual name or as an exact fraction."""

    name = "rate"

    def convert(self, value: Any, param: Any, ctx: Any) -> Fraction:
        try:
            return value if isinstance(value, Fraction) else parse_rate(value)
        except FrameError as problem:
            self.fail(str(problem), param, ctx)


class BandParameter(click.ParamType):
    """Two frequencies in Hz, parted by a colon."""

    name = "low:high"

    def convert(self, value: Any, param: Any, ctx: Any) -> tuple[float, float]:
        if isinstance(value, tuple):
            return value
        try:
            low, high = (float(part) for part in str(value).split(":"))
        except ValueError:
            self.fail(f"{value!r} is no band; write it like 80:160, in Hz.", param, ctx)
        if not 10 <= low < high <= NYQUIST_HZ:
            self.fail(
                f"A band lies between 10 and {NYQUIST_HZ:g} Hz, its lower edge first; {value} does not.", param, ctx
            )
        return low, high


FRAME_HELP = f"{', '.join(FRAMES)}, or a size like 1280x720."
