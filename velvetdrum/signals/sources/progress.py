"""Progress: how far the project has come, from 0 to 1."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import EASINGS, choice, number
from velvetdrum.signals.easing import ease
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind


@signal_kind("progress", "Progress")
class Progress(Signal):
    """Rises from 0 to 1 over the recording, its used part, the sound in it, or a stretch."""

    order: ClassVar[int] = 5
    summary: ClassVar[str] = "progress"

    over: str = choice(
        "used",
        {"used": "The used part", "sound": "First to last sound", "track": "The whole recording", "stretch": "Stretch"},
        help="Where it begins and ends.",
    )
    from_s: float = number(
        0,
        lo=0,
        hi=10_800,
        unit="s",
        step=0.01,
        label="In time",
        help="Start, in the project.",
        when=("over", ("stretch",)),
    )
    to_s: float = number(
        10,
        lo=0,
        hi=10_800,
        unit="s",
        step=0.01,
        label="Out time",
        help="End, in the project.",
        when=("over", ("stretch",)),
    )
    easing: str = choice("linear", {name: name for name in EASINGS}, help="How it sets out and arrives.", advanced=True)

    @classmethod
    def check(cls, values: dict[str, object]) -> list[tuple[str, str]]:
        low, high = values["from_s"], values["to_s"]
        assert isinstance(low, int | float) and isinstance(high, int | float)
        if values["over"] == "stretch" and high <= low:
            return [("to_s", "To must lie after From.")]
        return []

    def values(self, times: Times, context: SignalContext) -> Values:
        start, end = self.span(context)
        part = np.clip((times - start) / max(end - start, 1e-9), 0.0, 1.0)
        return ease(self.easing, part)

    def span(self, context: SignalContext) -> tuple[float, float]:
        """Start and end in seconds of the project.

        Parameters
        ----------
        context
            The project that it is read in.
        """
        if self.over == "stretch":
            return self.from_s, self.to_s
        if context.use is None:
            return 0.0, context.length_s
        use, facts = context.use, context.use.recording.facts
        if self.over == "track":
            return -use.in_s, facts.duration_s - use.in_s
        start, end = 0.0, min(use.out_s - use.in_s, context.length_s)
        if self.over == "sound":
            return max(start, facts.first_sound_s - use.in_s), min(end, facts.last_sound_s - use.in_s)
        return start, end
