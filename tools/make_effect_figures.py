"""Draws the pictures of the manual's page on effects: every design of every effect, a sheet a family.

Usage: make_effect_figures.py DOCS
"""

from __future__ import annotations

import sys
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.looks.effect_choices import CHAINS, effect_choices
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.designs import even_ramp
from velvetdrum.scene.document import Document, new_document, new_layer, parse
from velvetdrum.scene.effects import EFFECT_FAMILIES
from velvetdrum.scene.frames import FrameSize

CELL = FrameSize(320, 180)
COLUMNS = 4
ON_WORDS = ("edge", "light")
"""Families whose effects are shown on the words alone: the others work on the whole picture."""
TIME = Fraction(7, 5)


def scene(effects: list[Document], words_only: bool, map_layer: str = "") -> Document:
    """A harbour evening with a turning ring and words, and effects on the words or on all of it."""
    night = new_layer(
        "backdrop",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=even_ramp("#ff9a6b", "#a4486e", "#2b2450", "#0b1024"),
    )
    fog = new_layer("haze", scale=55.0, thick="#ffd9a0", thin="#1d3a5c", density=46.0)
    ring = new_layer(
        "shape",
        form="polygon",
        radius=30.0,
        sides=8,
        x=26.0,
        y=44.0,
        paint="field",
        field="angular",
        colours=even_ramp("#5fc4b4", "#f4eadb", "#7cc0f2", "#5fc4b4"),
    )
    ring["keyframes"] = {
        "turn": [{"time_s": 0.0, "value": 0.0, "ease": "linear"}, {"time_s": 3.0, "value": 180.0, "ease": "linear"}],
        "x": [{"time_s": 0.0, "value": 12.0, "ease": "linear"}, {"time_s": 3.0, "value": 44.0, "ease": "linear"}],
    }
    words = new_layer("text", text="Lantern\nQuay", size=24.0, x=68.0, y=50.0, plain="#fff3d6")
    whole = new_layer("whole-picture")
    (words if words_only else whole)["effects"] = effects
    for effect in effects:
        for name in ("map", "source"):
            if effect["settings"].get(name) == "":
                effect["settings"][name] = fog["id"]
        if "hit" in effect["settings"]:
            effect["settings"]["by"] = "beats"
    return new_document("Evening", frame=CELL, rate=Fraction(30), layers=[night, fog, ring, words, whole])


def picture(effects: list[Document], words_only: bool) -> np.ndarray:
    """The scene with effects, at twice the size, brought to a cell."""
    project = parse(scene(effects, words_only))
    large = render(project, None, TIME, FrameSize(CELL.width * 2, CELL.height * 2))
    return np.asarray(cv2.resize(large[..., :3], (CELL.width, CELL.height), interpolation=cv2.INTER_AREA))


def sheet(cells: list[tuple[str, np.ndarray]], path: Path) -> None:
    """Pictures side by side with their names below them."""
    high = CELL.height + 30
    rows = -(-len(cells) // COLUMNS)
    out = np.full((rows * high, COLUMNS * CELL.width, 3), (25, 17, 27), np.uint8)
    for number, (name, pixels) in enumerate(cells):
        top, left = number // COLUMNS * high, number % COLUMNS * CELL.width
        out[top : top + CELL.height, left : left + CELL.width - 6] = pixels[:, :-6]
        label = label_of(name)
        out[top + CELL.height + 2 : top + CELL.height + 2 + label.shape[0], left : left + label.shape[1]] = label
    cv2.imwrite(str(path), out, [cv2.IMWRITE_PNG_COMPRESSION, 9])


def label_of(name: str) -> np.ndarray:
    """A name in the manual's letters."""
    ground = new_layer("backdrop", fill="plain", plain="#1b1119")
    words = new_layer(
        "text", text=name, size=60.0, x=50.0, y=50.0, fit="free", family="work-sans", weight=500.0, plain="#f4eadb"
    )
    document = new_document("Label", frame=FrameSize(640, 64), rate=Fraction(30), layers=[ground, words])
    pixels = render(parse(document), None, Fraction(0))
    return np.asarray(cv2.resize(pixels[..., :3], (CELL.width, 26), interpolation=cv2.INTER_AREA)[:, :310])


def main(docs: Path) -> None:
    """Write a sheet a family, and one of the chains."""
    figures = docs / "manual/figures"
    for family in EFFECT_FAMILIES:
        words_only = family in ON_WORDS
        cells = [("Without", picture([], words_only))]
        cells += [
            (choice.design.name, picture([choice.effect], words_only))
            for choice in effect_choices()
            if choice.design.family == family
        ]
        sheet(cells, figures / f"effects-{family}.png")
    sheet([(chain.name, picture(chain.stored["effects"], False)) for chain in CHAINS], figures / "effects-chains.png")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
