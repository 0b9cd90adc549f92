"""Draws the pictures of the manual's page on figures, and writes the page: every drawing style on every base shape,
every way to paint, and every choice that the studio offers.

Usage: make_figures.py DOCS
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import soundfile

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.demo.song import RATE, paper_lighthouse
from velvetdrum.looks.drivers import Drivers
from velvetdrum.looks.presets import choices, fitted_layer, pictured_layers
from velvetdrum.picture.figures.base_shape import BASES
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.designs import FAMILIES
from velvetdrum.scene.document import Document, new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.audio_range import AudioRange

CELL = FrameSize(320, 180)
AT = Fraction(366, 10)
GROUND = "#1b1119"

# What stands well on each base shape, so that the pictures compare styles and not accidents.
ROOM: dict[str, dict[str, Any]] = {
    "line": {"grow": "both", "reach": 60.0, "width": 84.0},
    "ring": {"grow": "out", "reach": 20.0, "radius": 25.0},
    "arc": {"grow": "out", "reach": 24.0, "radius": 40.0, "y": 66.0, "sweep": 160.0},
    "polygon": {"grow": "out", "reach": 18.0, "radius": 30.0, "sides": 5},
    "rectangle": {"grow": "out", "reach": 16.0, "box_width": 90.0, "box_height": 50.0},
    "path": {"grow": "both", "reach": 40.0, "size": 150.0},
    "text": {"grow": "out", "reach": 7.0, "size": 140.0},
}
# The layer kinds that stand on a base shape, with the styles of each.
TABLES = {
    "spectrum": "A spectrum",
    "scope": "A scope",
    "whole-track": "The whole track",
    "rolling-strip": "A rolling strip",
}
PAINTS: list[tuple[str, dict[str, Any]]] = [
    ("One colour", {"paint": "one"}),
    ("Along", {"paint": "along"}),
    ("Along, hard steps", {"paint": "along", "steps": "steps"}),
    ("By level", {"paint": "level"}),
    ("Behind it, linear", {"paint": "field", "field_size": 150.0}),
    ("Behind it, radial", {"paint": "field", "field": "radial"}),
    ("Behind it, conic", {"paint": "field", "field": "angular", "back": True}),
    ("Behind it, four corners", {"paint": "field", "field": "corners"}),
    ("Hue turn of 180°", {"paint": "one", "hue": 180.0}),
]


def sheet(cells: list[list[np.ndarray]], path: Path) -> None:
    """Write cells as one picture, six pixels apart on the paper's colour."""
    height, width, _ = cells[0][0].shape
    rows, columns = len(cells), max(len(row) for row in cells)
    out = np.full((rows * (height + 6) - 6, columns * (width + 6) - 6, 3), (0x23, 0x18, 0x25), np.uint8)
    for y, row in enumerate(cells):
        for x, cell in enumerate(row):
            out[y * (height + 6) : y * (height + 6) + height, x * (width + 6) : x * (width + 6) + width] = cell
    cv2.imwrite(str(path), out, [cv2.IMWRITE_WEBP_QUALITY, 88])


def draw(use: AudioRange, *layers: Document, signals: Sequence[Document] = ()) -> np.ndarray:
    """Layers in a small frame, blue first."""
    ground = new_layer("backdrop", fill="plain", plain=GROUND)
    document = new_document("Figures", frame=CELL, rate=Fraction(30), layers=[ground, *layers])
    project = parse(document | {"length_s": use.out_s, "signals": list(signals)})
    large = render(project, use, AT, FrameSize(CELL.width * 2, CELL.height * 2))[..., :3]
    return cv2.resize(large, (CELL.width, CELL.height), interpolation=cv2.INTER_AREA)


def styles_of(kind: str) -> list[tuple[str, str]]:
    return list(LAYER_KINDS[kind].settings["style"].choices)


def write_page(use: AudioRange, docs: Path) -> None:
    pictures = docs / "manual" / "figures"
    pictures.mkdir(parents=True, exist_ok=True)
    page = [
        "# Figures",
        "",
        "Figures are layers that draw sound. *+ add* (or <kbd>A</kbd>) shows them as pictures, drawn from your own",
        "sound at its loudest moment. All pictures here are drawn by `tools/make_figures.py` from the demo song.",
        "",
        "Every figure that stands on a **base shape** can be put on any of them: a line at any angle, a ring, an arc,",
        "a regular polygon, a rounded rectangle, an SVG path (pasted, or from a file), or the outlines of a line of",
        "text. It grows outward, inward, to both sides or in one direction. *Mirror* leads there and back, so",
        "that both ends of a closed shape meet, from the ends or from the middle, and its second half may grow",
        "the other way; *repeats* sets it around the shape several times.",
        "",
    ]
    for kind, title in TABLES.items():
        cells = []
        for style, _ in styles_of(kind):
            row = []
            for base in BASES:
                room = dict(ROOM[base])
                if kind == "scope":
                    room |= {"grow": "out", "reach": room["reach"] * (0.5 if base in ("line", "path") else 0.8)}
                more = {"mirror": base not in ("line", "path", "text")} if kind == "spectrum" else {}
                more |= {"bands": 160} if kind == "spectrum" and base == "text" else {}
                row.append(draw(use, fitted_layer(kind, "", {"style": style, "base": base} | room | more, use)))
            cells.append(row)
        sheet(cells, pictures / f"{kind}.webp")
        listed = ", ".join(label.lower() for _, label in styles_of(kind))
        bases = ", ".join(label.lower() for label in BASES.values())
        page += [
            f"## {title}",
            "",
            f"From top to bottom: {listed}. From left to right: {bases}.",
            "",
            f"![{title} in every style on every base shape](figures/{kind}.webp)",
            "",
        ]
    page += ["## Paint", "", "Every figure takes every paint. From left to right and top to bottom:", ""]
    painted = [
        draw(use, fitted_layer("spectrum", "", {"reach": 64.0, "width": 88.0, "gap": 24.0} | more, use))
        for _, more in PAINTS
    ]
    sheet([painted[index : index + 3] for index in range(0, len(painted), 3)], pictures / "paint.webp")
    page += [
        ", ".join(name.lower() if index else name for index, (name, _) in enumerate(PAINTS)) + ".",
        "",
        "![Ways to paint](figures/paint.webp)",
        "",
        "*Palettes*, under every gradient, keeps gradients under a name for all projects, takes CSS colours or",
        "a CSS gradient that you paste, and reads the colours of a picture or of the frame.",
        "",
    ]
    for family, title in FAMILIES.items():
        chosen = [choice for choice in choices() if choice.design.family == family]
        drawn = []
        for choice in chosen:
            layer = fitted_layer(choice.kind, choice.design.name, choice.design.settings, use)
            signals = Drivers([], use, use.out_s).drive(layer, choice.design.follows)
            drawn.append(draw(use, *pictured_layers(layer, choice.design), signals=signals))
        sheet([drawn[index : index + 4] for index in range(0, len(drawn), 4)], pictures / f"choices-{family}.webp")
        names = ", ".join(choice.design.name for choice in chosen)
        page += [
            f"## To begin with: {title}",
            "",
            f"{names}.",
            "",
            f"![{title}: what the studio offers](figures/choices-{family}.webp)",
            "",
        ]
    page += [(docs / "manual" / "figures-notes.md").read_text().rstrip(), ""]
    (docs / "manual" / "figures.md").write_text("\n".join(page))


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        song = paper_lighthouse()
        soundfile.write(folder / "song.wav", song, RATE, subtype="PCM_16")
        recording = analyse(folder / "song.wav", folder / "analysis", key="song")
        write_page(AudioRange(recording, 0.0, recording.facts.duration_s), Path(sys.argv[1]))


if __name__ == "__main__":
    main()
