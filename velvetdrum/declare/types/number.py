"""Numbers and whole numbers, with a unit and a range."""

from __future__ import annotations

import math
from dataclasses import dataclass, fields
from typing import Any, ClassVar, Literal, TypeGuard

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.setting import PanelGroup, Setting, SettingError, When, conditions, shown

_LARGEST = 10**15
"""A number of JSON has no bound of its own; one beyond this is no value of anything here."""

_MOST_FACTOR = 100.0


@dataclass(frozen=True)
class Number(Setting):
    """A number."""

    type: ClassVar[str] = "number"
    moves: ClassVar[bool] = True
    numeric: ClassVar[bool] = True

    def parse(self, value: Any) -> float | int:
        if not is_number(value):
            raise SettingError(f"{self.label} needs a number, not {shown(value)}.")
        if not self.lo <= value <= self.hi:
            unit = f" {self.unit}" if self.unit else ""
            raise SettingError(f"{self.label} goes from {self.lo:g} to {self.hi:g}{unit}; {value:g} is outside.")
        return self._form(value)

    def _form(self, value: float) -> float | int:
        return float(value)

    def values_schema(self) -> dict[str, Any]:
        unit = {"x-unit": self.unit} if self.unit else {}
        return {"type": "number", "minimum": self.lo, "maximum": self.hi} | unit

    def describe_values(self) -> str:
        return f"{self.lo:g} to {self.hi:g} {self.unit}".strip()

    def describe_default(self) -> str:
        return f"{self.default:g} {self.unit}".strip()

    def mixed(self, before: Any, after: Any, share: float) -> float | int:
        return self._within(before + (after - before) * share)

    def parse_end(self, value: Any, join: str, label: str) -> float:
        if not is_number(value):
            raise SettingError(f"{label}: a number is needed{f' in {self.unit}' if self.unit else ''}.")
        if join == "multiply":
            low, high, unit = -_MOST_FACTOR, _MOST_FACTOR, ""
        elif join == "add":
            span = self.hi - self.lo
            low, high, unit = -span, span, self.unit
        else:
            low, high, unit = self.lo, self.hi, self.unit
        if not low <= value <= high:
            told = f" {unit}" if unit else ""
            raise SettingError(f"{label} goes from {low:g} to {high:g}{told}; {value:g} is outside.")
        return float(value)

    def end_schema(self) -> dict[str, Any]:
        return {"type": "number"}

    def joined(self, base: Any, ends: tuple[Any, Any], along: Any, join: str, value: float) -> float | int:
        moved = ends[0] + (ends[1] - ends[0]) * value
        return self._within({"replace": moved, "add": base + moved, "multiply": base * moved}[join])

    def _within(self, value: float) -> float | int:
        return min(max(value, self.lo), self.hi)

    def all_within(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """Many values as `joined` and `mixed` give them one by one."""
        return np.clip(values, self.lo, self.hi)


@dataclass(frozen=True)
class Rate(Number):
    """A number a second, a minute, a beat or a bar: where it changes, what it drives is moved by its integral over
    time (`Declared.integral`)."""

    per_time: ClassVar[bool] = True


@dataclass(frozen=True)
class WholeNumber(Number):
    """A whole number."""

    type: ClassVar[str] = "whole"

    def _form(self, value: float) -> float | int:
        if value != int(value):
            raise SettingError(f"{self.label} needs a whole number, not {value:g}.")
        return int(value)

    def values_schema(self) -> dict[str, Any]:
        return super().values_schema() | {"type": "integer"}

    def _within(self, value: float) -> float | int:
        return round(super()._within(value))

    def all_within(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        # Both round halves to even.
        return np.rint(super().all_within(values))


def number(
    default: float,
    *,
    lo: float,
    hi: float,
    unit: str = "",
    step: float = 0.1,
    label: str = "",
    help: str = "",
    group: PanelGroup = "shape",
    curve: Literal["linear", "log"] = "linear",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """A number with a unit and a range."""
    return Number(default, "", label, help, unit, group, lo, hi, step, curve, advanced=advanced, when=conditions(when))


def rate(default: float, **more: Any) -> Any:
    """A rate; `more` as for `number`."""
    made = number(default, **more)
    return Rate(**{item.name: getattr(made, item.name) for item in fields(made)})


def whole(
    default: int,
    *,
    lo: int,
    hi: int,
    unit: str = "",
    label: str = "",
    help: str = "",
    group: PanelGroup = "shape",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """A whole number."""
    return WholeNumber(default, "", label, help, unit, group, lo, hi, 1, advanced=advanced, when=conditions(when))


def is_number(value: Any) -> TypeGuard[float]:
    """True for a finite number of JSON; true and false are none."""
    if isinstance(value, int):
        return not isinstance(value, bool) and abs(value) <= _LARGEST
    return isinstance(value, float) and math.isfinite(value)
