"""What a frame costs to draw: milliseconds by layer and by effect."""

from __future__ import annotations

import statistics
from collections import defaultdict

from velvetdrum.picture.frame.render import ProjectFrame, timing
from velvetdrum.picture.raster.canvas import Canvas

_ROUNDS = 3


def costs_of(stage: ProjectFrame, canvas: Canvas) -> dict[str, float]:
    """Milliseconds of each layer by its id, with its members and effects, and of each effect by `layer/effect`: medians
    of a few rounds after a first one. What is kept from frame to frame costs nothing, as while it plays."""
    rounds: list[dict[str, float]] = []
    for _ in range(_ROUNDS + 1):
        result: dict[str, float] = defaultdict(float)

        def note(name: str, seconds: float, into: dict[str, float] = result) -> None:
            into[name] += seconds * 1000

        with timing(note):
            stage.draw_frame(canvas)
        rounds.append(result)
    names = {name for result in rounds for name in result}
    return {name: round(statistics.median(result.get(name, 0.0) for result in rounds[1:]), 2) for name in sorted(names)}
