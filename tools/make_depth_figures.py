"""Draws the pictures of the manual's pages on particles and depth: every design of these families, a sheet a family.

Usage: make_depth_figures.py DOCS
"""

from __future__ import annotations

import sys
import tempfile
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.demo.install import SONG, make_media
from velvetdrum.looks.drivers import Drivers
from velvetdrum.looks.presets import choices, fitted_layer
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_document, new_layer, new_track, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange

CELL = FrameSize(480, 270)
COLUMNS = 3
FAMILIES = ("particles", "fields", "space")
TIME = Fraction(366, 10)


def sheet(family: str, use: AudioRange, key: str) -> NDArray[np.uint8]:
    """Every design of a family, over a dark ground, with its name."""
    cells = []
    for choice in choices():
        if choice.design.family != family or choice.design.shown:
            continue
        layer = fitted_layer(choice.kind, choice.design.name, choice.design.settings, use)
        fresh = Drivers([], use, use.out_s).drive(layer, choice.design.follows)
        ground = new_layer("backdrop", fill="plain", plain="#0a0f22")
        track = new_track(key, SONG, use.out_s)
        document = new_document(
            "Figure", frame=CELL, rate=Fraction(30), layers=[ground, layer], track=track, signals=fresh
        )
        pixels = render(parse(document), use, TIME, CELL)[..., :3].copy()
        foot = np.full((30, CELL.width, 3), (25, 17, 27), np.uint8)
        cv2.putText(foot, choice.design.name, (10, 20), 0, 0.5, (219, 234, 244), 1, cv2.LINE_AA)
        cells.append(np.concatenate([pixels, foot]))
    while len(cells) % COLUMNS:
        cells.append(np.full_like(cells[0], (25, 17, 27)))
    rows = [np.concatenate(cells[at : at + COLUMNS], axis=1) for at in range(0, len(cells), COLUMNS)]
    return np.asarray(np.concatenate(rows), np.uint8)


def main(docs: Path) -> None:
    """Write a sheet for each family."""
    with tempfile.TemporaryDirectory() as held:
        folder = Path(held)
        make_media(folder / "media")
        recording = analyse(folder / "media" / SONG, folder / "analysis", key="song")
        use = AudioRange(recording, 0.0, recording.facts.duration_s)
        for family in FAMILIES:
            path = docs / "manual" / "figures" / f"depth-{family}.webp"
            cv2.imwrite(str(path), sheet(family, use, "a" * 64), [cv2.IMWRITE_WEBP_QUALITY, 82])
            print(path)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
