"""The picture of the manual's page of looks: all that ship, with the demo's sounds, logo and clip.

Usage: make_look_figures.py DATA FIGURES, with the data folder of a demo.
"""

from __future__ import annotations

import json
import sys
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

import velvetdrum.looks.shelf  # noqa: F401  (makes the looks known)
from velvetdrum.audio.analysis import Analysis
from velvetdrum.looks.open_places import Filling, filled
from velvetdrum.looks.shelf_look import LOOKS
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, new_track, parse
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.store import projects
from velvetdrum.store.db import open_database

_HEIGHT, _WIDTH, _COLUMNS, _GAP = 180, 320, 4, 8
_GROUND = (25, 17, 27)


def _drawn(document: Document, use: AudioRange, files: dict[str, str]) -> NDArray[np.uint8]:
    project = parse(document)
    loudest = use.recording.loudest_and_quietest_s(0.0, use.out_s)[0]
    size = project.frame.scaled_to(round(_HEIGHT * 2 * project.frame.width / project.frame.height) // 2 * 2)
    canvas = Canvas(size.width, size.height)
    at = Fraction(loudest + 0.8).limit_denominator(1000)
    ProjectView(project, use, files).at(at, size).draw_frame(canvas)
    width = round(_HEIGHT * size.width / size.height)
    picture = cv2.resize(canvas.pixels[..., :3], (width, _HEIGHT), interpolation=cv2.INTER_AREA)
    tile = np.full((_HEIGHT, _WIDTH, 3), _GROUND, np.uint8)
    left = (_WIDTH - min(width, _WIDTH)) // 2
    tile[:, left : left + min(width, _WIDTH)] = picture[:, :_WIDTH]
    return tile


def main(data: Path, figures: Path) -> None:
    """Draw all looks and write the picture."""
    db = open_database(data / "velvetdrum.sqlite3")
    rows = {row.name: row.document for row in projects.listed(db)}
    talk, song = rows["Evening notice"], rows["Paper Lighthouse, the lyric"]
    files = {path.stem: str(path) for folder in ("media",) for path in (data / folder).iterdir()}
    lamp = next(layer["settings"]["image"] for layer in talk["layers"] if layer["kind"] == "logo")
    water = next(layer["settings"]["clip"] for layer in song["layers"] if layer["kind"] == "footage")
    tiles = []
    for look in LOOKS.values():
        document = talk if look.uses == ("voice",) else song
        recording = Analysis(data / "analysis" / document["tracks"][0]["media"])
        use = AudioRange(recording, 0.0, recording.facts.duration_s)
        words = next(iter(document["cue_tracks"].values()))["cues"]
        filling = Filling("Paper Lighthouse", "The Breakwater Choir", "Harbour office", lamp, water, cues=words)
        tiles.append(_drawn(filled(look.document, filling, new_track("0" * 64, "song", use.out_s), use), use, files))
    rows_ = [tiles[first : first + _COLUMNS] for first in range(0, len(tiles), _COLUMNS)]
    space = [np.pad(tile, ((0, _GAP), (0, _GAP), (0, 0))) for row in rows_ for tile in row]
    sheet = np.vstack([np.hstack(space[n : n + _COLUMNS]) for n in range(0, len(space), _COLUMNS)])
    cv2.imwrite(str(figures / "looks.jpg"), sheet, [cv2.IMWRITE_JPEG_QUALITY, 88])
    print(json.dumps({"looks": len(tiles), "size": sheet.shape[:2]}))


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
