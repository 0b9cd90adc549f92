"""Measures how far a picture moves from one frame to the next, early and late in a project, for every rate.

Usage: make_rates_table.py DOCS
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import numpy as np

from tests.picture.media.clips import numbered, write_clip
from tests.picture.rate_scenes import EARLY_S, LATE_S, SCENES, UNSEEN, declared_rates, steps_of

_HEAD = f"""# Rates

A rate (a number a second, a minute, a beat or a bar) that is moved by a signal or by keyframes moves what it drives by
its integral over time, never by its value times the time. The mean step between two frames is therefore as large late
in a project as it is early. Measured on scenes of 114 x 64 pixels, moved by a sine, in levels of 255 (what moves by
chance over 32 seeds); made by `tools/make_rates_table.py`.

| Kind | Rate | at {EARLY_S} s | at {LATE_S} s | ratio |
|---|---|---|---|---|
"""


def main() -> None:
    """Write the table into the folder of the documents."""
    if len(sys.argv) != 2:
        raise SystemExit(__doc__)
    y, x = np.mgrid[:180, :320]
    pattern = (127 + 60 * np.sin(x / 6) + 60 * np.sin(y / 6)).astype(np.uint8)
    rows = []
    with tempfile.TemporaryDirectory() as folder:
        moving = write_clip(Path(folder) / "moving.mp4", 50, frames=numbered)
        still = write_clip(Path(folder) / "still.mp4", 4, frames=lambda _: np.repeat(pattern[..., None], 3, axis=2))
        for (kind, name), setting in declared_rates().items():
            if (kind, name) not in SCENES:
                continue
            said = f"| {kind.rpartition(':')[2]} | {setting.label} "
            if (kind, name) in UNSEEN:
                rows.append(f"{said}| | | {UNSEEN[kind, name]} |")
                continue
            clip = (moving if name == "speed" else still) if kind == "footage" else None
            early, late = steps_of(kind, name, clip)
            rows.append(f"{said}| {early:.2f} | {late:.2f} | {late / early:.2f} |")
            print(rows[-1], flush=True)
    last = "\nDrift and hue drift are those of all figures that are painted; *shape* stands for them.\n"
    (Path(sys.argv[1]) / "rates.md").write_text(_HEAD + "\n".join(rows) + "\n" + last)


if __name__ == "__main__":
    main()
