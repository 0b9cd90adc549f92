"""The whole track: its envelope from the first sound to the last, with what has been played."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from velvetdrum.audio.decode import RATE
from velvetdrum.declare.settings import choice
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.marks.envelopes import EnvelopeFigure
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.designs import WARM, Design
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.waves import columns, sounding


@layer_kind("whole-track", "Whole track")
class WholeTrack(EnvelopeFigure):
    """The envelope of all of the sound, and how far it has been played."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("waveform", "Whole track", {}),
        Design(
            "waveform",
            "Whole track, ring",
            {"base": "ring", "grow": "out", "reach": 18.0, "radius": 26.0, "bars": 120, "colours": WARM},
        ),
    )

    first: ClassVar[tuple[str, ...]] = ("style", "played", "base")
    begins: ClassVar[dict[str, Any]] = {"grow": "both", "reach": 26.0}

    played: str = choice(
        "mark",
        {"mark": "Marked", "reveal": "Revealed", "all": "All alike"},
        label="Played part",
        help="How the part that was played is shown: in its own paint, alone, or no differently.",
    )
    span: str = choice(
        "sound",
        {"sound": "First to last sound", "all": "Whole length"},
        group="sound",
        help="Where it begins and ends: with the sound, or with the used stretch.",
    )

    def draw_one(self, canvas: Canvas, at: RenderContext) -> None:
        use = at.use
        if use is None:
            return
        begin, end = sounding(use) if self.span == "sound" else (0.0, use.out_s - use.in_s)
        count = self.column_count(canvas)
        per_column = (end - begin) * RATE / count
        result = columns(use, self.channel, (use.in_s + begin) * RATE, per_column, count)
        peaks = (float(result[:, 0].max()), float(result[:, 1].max()))
        share = float(np.clip((float(at.time) - begin) / max(end - begin, 1e-6), 0.0, 1.0))
        played = 1.0 if self.played == "all" else share
        edges = np.linspace(0.0, 1.0, count + 1)
        self.paint_columns(canvas, at, edges, self.heights(result, peaks), played, hide_rest=self.played == "reveal")
