"""Hold and step: a value that changes with each hit of a signal, and stays until the next."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, number, signals, text, whole
from velvetdrum.declare.vocabulary import seed
from velvetdrum.signals.births import chances
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.triggers import hits, threshold

MOST_VALUES = 64


@signal_kind("stepper", "Hold and step")
class Stepper(Signal):
    """Goes to its next value on each hit of another signal, and holds it until the next hit."""

    order: ClassVar[int] = 9
    summary: ClassVar[str] = "{order_of} · on each hit"

    of: tuple[str, ...] = signals(most=1, label="Signal", help="The signal whose hits are counted.")
    threshold: float = threshold()
    order_of: str = choice(
        "up",
        {"up": "Up", "swing": "Up and down", "list": "A list", "chance": "By chance"},
        label="Order",
        help="Which value follows: the next higher one, the next of a list, or any.",
    )
    steps: int = whole(
        4, lo=2, hi=64, label="Steps", help="Values from 0 to 1, evenly.", when=("order_of", ("up", "swing"))
    )
    listed: str = text(
        "0, 0.5, 1",
        most=400,
        label="Values",
        help="Values in their order, parted by commas; after the last comes the first.",
        when=("order_of", ("list",)),
    )
    seed: int = seed(of="the values", advanced=False, when=("order_of", ("chance",)))
    glide_ms: float = number(
        0, lo=0, hi=5000, unit="ms", step=1, label="Glide", group="motion", help="Time from one value to the next."
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        if values["order_of"] != "list" or _numbers(str(values["listed"])) is not None:
            return []
        return [("listed", f"Values are 1 to {MOST_VALUES} numbers between -10 and 10, parted by commas: 0, 0.5, 1.")]

    def inputs(self) -> tuple[str, ...]:
        return self.of

    def values(self, times: Times, context: SignalContext) -> Values:
        if not self.of:
            return np.zeros(len(times))
        ons = hits(context, self.of[0], self.threshold).ons
        count = np.searchsorted(ons, times, "right")
        now = self._value(count)
        if self.glide_ms <= 0 or not len(ons):
            return now
        since = times - ons[np.maximum(count - 1, 0)]
        way = np.where(count > 0, np.clip(since * 1000.0 / self.glide_ms, 0.0, 1.0), 1.0)
        before = self._value(np.maximum(count - 1, 0))
        return before + (now - before) * (3.0 - 2.0 * way) * way**2

    def _value(self, count: NDArray[np.int64]) -> Values:
        """The value after so many hits."""
        match self.order_of:
            case "up":
                return (count % self.steps) / (self.steps - 1)
            case "swing":
                turn = 2 * (self.steps - 1)
                place = count % turn
                return np.minimum(place, turn - place) / (self.steps - 1)
            case "list":
                values = np.array(_numbers(self.listed) or [0.0])
                return values[count % len(values)]
            case _:
                return chances(self.seed, count, 0)


def _numbers(listed: str) -> list[float] | None:
    """The numbers of a list; None where something else stands in it."""
    try:
        values = [float(part) for part in listed.replace(";", ",").split(",") if part.strip()]
    except ValueError:
        return None
    return values if 0 < len(values) <= MOST_VALUES and all(abs(value) <= 10 for value in values) else None
