"""Curves through points: how one thing follows another, drawn by hand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.setting import PanelGroup, Setting, SettingError, When, conditions
from velvetdrum.declare.types.number import is_number

CurvePoint = tuple[float, float]
"""A point of a curve: its place from 0 to 1, and the value there."""

MOST_CURVE_POINTS = 24


@dataclass(frozen=True)
class Curve(Setting):
    """Points from left to right, joined smoothly without going beyond them."""

    type: ClassVar[str] = "curve"

    def parse(self, value: Any) -> tuple[CurvePoint, ...]:
        if not isinstance(value, list) or not 2 <= len(value) <= MOST_CURVE_POINTS:
            raise SettingError(f"{self.label} needs between 2 and {MOST_CURVE_POINTS} points.")
        out: list[CurvePoint] = []
        for number, point in enumerate(value, 1):
            given = point if isinstance(point, dict) else {}
            at, height = given.get("at"), given.get("value")
            if not is_number(at) or not 0 <= at <= 1:
                raise SettingError(f"{self.label}: point {number} needs a place from 0 to 1.")
            if not is_number(height) or not self.lo <= height <= self.hi:
                raise SettingError(
                    f"{self.label}: point {number} needs a value from {self.lo:g} to {self.hi:g} {self.unit}."
                )
            if out and at <= out[-1][0]:
                raise SettingError(f"{self.label}: point {number} must lie to the right of the one before it.")
            out.append((float(at), float(height)))
        return tuple(out)

    def values_schema(self) -> dict[str, Any]:
        point = {
            "type": "object",
            "required": ["at", "value"],
            "additionalProperties": False,
            "properties": {
                "at": {"type": "number", "minimum": 0, "maximum": 1},
                "value": {"type": "number", "minimum": self.lo, "maximum": self.hi},
            },
        }
        return {"type": "array", "minItems": 2, "maxItems": MOST_CURVE_POINTS, "items": point}

    def describe_values(self) -> str:
        return (
            f"2 to {MOST_CURVE_POINTS} points, each `at` from 0 to 1 and `value` from {self.lo:g} to {self.hi:g} "
            f"{self.unit}"
        )

    def describe_default(self) -> str:
        return ", ".join(f"{point['value']:g} at {point['at']:g}" for point in self.default)


def curve(
    default: list[CurvePoint],
    *,
    lo: float,
    hi: float,
    unit: str = "%",
    label: str = "",
    help: str = "",
    group: PanelGroup = "shape",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """A curve through points, with values in a range."""
    listed = [{"at": at, "value": value} for at, value in default]
    return Curve(
        listed, "", label, help, unit, group=group, lo=lo, hi=hi, step=1.0, advanced=advanced, when=conditions(when)
    )


def curve_at(points: tuple[CurvePoint, ...], places: NDArray[np.float64]) -> NDArray[np.float64]:
    """A curve's values at places from 0 to 1, of the same shape; beyond its ends those.

    Piecewise cubic Hermite interpolation that keeps what rises rising: slopes at inner points are weighted harmonic
    means of their neighbours (F. N. Fritsch and J. Butland, SIAM J. Sci. Stat. Comput. 5, 1984), those at the ends
    come from three points, held to the same.
    """
    x, y = (np.array(column, np.float64) for column in zip(*points, strict=True))
    slopes = _slopes(x, y)
    at = np.clip(places, x[0], x[-1])
    index = np.clip(np.searchsorted(x, at, "right") - 1, 0, len(x) - 2)
    width = x[index + 1] - x[index]
    t = (at - x[index]) / width
    rise = y[index + 1] - y[index]
    ends = slopes[index] * width, slopes[index + 1] * width
    return np.asarray(y[index] + t * (ends[0] + t * (3 * rise - 2 * ends[0] - ends[1] + t * (sum(ends) - 2 * rise))))


def _slopes(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    steps = np.diff(x)
    rises = np.diff(y) / steps
    if len(x) == 2:
        return np.repeat(rises, 2)
    before, after = rises[:-1], rises[1:]
    weights = 2 * steps[1:] + steps[:-1], steps[1:] + 2 * steps[:-1]
    same = before * after > 0
    safe = np.where(same, before, 1.0), np.where(same, after, 1.0)
    inner = np.where(same, (weights[0] + weights[1]) / (weights[0] / safe[0] + weights[1] / safe[1]), 0.0)
    first = _end(steps[0], steps[1], rises[0], rises[1])
    last = _end(steps[-1], steps[-2], rises[-1], rises[-2])
    return np.concatenate([[first], inner, [last]])


def _end(near: float, far: float, rise: float, following: float) -> float:
    slope = ((2 * near + far) * rise - near * following) / (near + far)
    if slope * rise <= 0:
        return 0.0
    return 3 * rise if rise * following <= 0 and abs(slope) > abs(3 * rise) else slope
