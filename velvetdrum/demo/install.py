"""Puts the sample world into a data folder: its projects, and the files that they were made from."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from functools import cached_property
from importlib.resources import files
from pathlib import Path
from typing import Any, Protocol

import av
import numpy as np

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.assembled import put_together, said_aloud
from velvetdrum.demo.designs import lamp_design, notice_design, song_design
from velvetdrum.demo.families import lantern_ring, signal_station, tide_line
from velvetdrum.demo.finished import beacon, glass_tide
from velvetdrum.demo.harbour import harbour_night
from velvetdrum.demo.mixed import bulletin, four_stems
from velvetdrum.demo.pictures import lamp_svg, lighthouse_svg, water_clip
from velvetdrum.demo.repeated import paper_boats, two_lines
from velvetdrum.demo.song import RATE, harbour_bed, paper_lighthouse, stems
from velvetdrum.demo.swarms import harbour_wall, plankton, ridges, sparks, swarm
from velvetdrum.demo.worded import audiogram, lyric_version
from velvetdrum.scene.document import Document, new_track

SONG, NOTICE, LAMP, WATER = "Paper Lighthouse.flac", "Harbour notice.opus", "Lamp.svg", "Moving water.mp4"
LIGHTHOUSE, BED = "Lighthouse.svg", "Evening bed.flac"


STAMP = "demo.json"
"""The file of a data folder that says which of the projects were made."""

Sounding = tuple[Document, Analysis]
"""A track, and the analysis of its recording."""


class Keeper(Protocol):
    """What this needs of a server: its folder, and ways to bring media in and to store a project."""

    data: Path

    def bring_now(self, chunks: Iterator[bytes], name: str) -> tuple[str, Analysis]:
        """Take a sound in at once; gives its key."""

    def bring_clip_now(self, chunks: Iterator[bytes], name: str) -> str:
        """Take a clip in at once; gives its key."""

    def keep_picture(self, data: bytes, name: str) -> dict[str, Any]:
        """Keep a picture file's bytes; gives its key."""

    def store_document(self, document: Document) -> str:
        """Keep a project's document under a name; gives its id."""


def make_media(folder: Path) -> None:
    """Write the song, the notice, the logos and the clip to `folder`; what is there already stays."""
    folder.mkdir(parents=True, exist_ok=True)
    if not (folder / SONG).exists():
        _write_flac(folder / SONG, paper_lighthouse())
    if not (folder / NOTICE).exists():
        (folder / NOTICE).write_bytes(files("velvetdrum.demo").joinpath("harbour-notice.opus").read_bytes())
    if not (folder / LAMP).exists():
        (folder / LAMP).write_text(lamp_svg())
    if not (folder / LIGHTHOUSE).exists():
        (folder / LIGHTHOUSE).write_text(lighthouse_svg())
    if not (folder / WATER).exists():
        water_clip(folder / WATER)


def is_installed(data: Path) -> bool:
    """True when a data folder has had all demo projects."""
    return len(_installed(data)) == len(_designs())


def install_demo(keeper: Keeper) -> None:
    """Make the demo projects, once in a data folder, on from where an earlier run stopped; deleted ones do not come
    back."""
    designs, made = _designs(), _installed(keeper.data)
    if len(made) == len(designs):
        return
    folder = keeper.data / "demo"
    make_media(folder)
    media = _Media(keeper, folder)
    for design in designs[len(made) :]:
        made.append(keeper.store_document(design(media)))
        (keeper.data / STAMP).write_text(json.dumps({"projects": made}))


def _installed(data: Path) -> list[str]:
    """Ids of the projects that were made in a data folder."""
    try:
        return list(json.loads((data / STAMP).read_text())["projects"])
    except (OSError, ValueError, KeyError):
        return []


class _Media:
    """What designs are made of, each brought in when it is first asked for."""

    def __init__(self, keeper: Keeper, folder: Path) -> None:
        self._keeper, self._folder = keeper, folder

    @cached_property
    def song(self) -> Sounding:
        return self._sounding(SONG)

    @cached_property
    def notice(self) -> Sounding:
        return self._sounding(NOTICE)

    @cached_property
    def bed(self) -> Sounding:
        if not (self._folder / BED).exists():
            _write_flac(self._folder / BED, harbour_bed())
        return self._sounding(BED)

    @cached_property
    def stems(self) -> dict[str, Sounding]:
        result = {}
        for name, samples in stems().items():
            file = f"{name}.flac"
            if not (self._folder / file).exists():
                _write_flac(self._folder / file, samples)
            result[name] = self._sounding(file)
        return result

    @cached_property
    def lamp(self) -> str:
        return str(self._keeper.keep_picture((self._folder / LAMP).read_bytes(), LAMP)["key"])

    @cached_property
    def lighthouse(self) -> str:
        return str(self._keeper.keep_picture((self._folder / LIGHTHOUSE).read_bytes(), LIGHTHOUSE)["key"])

    @cached_property
    def water(self) -> str:
        return self._keeper.bring_clip_now(_chunks(self._folder / WATER), WATER)

    def _sounding(self, name: str) -> Sounding:
        key, recording = self._keeper.bring_now(_chunks(self._folder / name), name)
        return new_track(key, name, recording.facts.duration_s), recording


def _designs() -> list[Callable[[_Media], Document]]:
    """The demo's projects in the order in which they are made: the last one made stands first on the start page."""
    return [
        lambda media: notice_design(*media.notice),
        lambda media: signal_station(*media.song),
        lambda media: tide_line(*media.song),
        lambda media: lantern_ring(*media.song),
        lambda media: lamp_design(*media.song),
        lambda media: song_design(*media.song),
        lambda media: audiogram(*media.notice, media.lamp),
        lambda media: lyric_version(*media.song, media.water),
        lambda media: ridges(*media.song),
        lambda media: harbour_wall(*media.song),
        lambda media: plankton(*media.song),
        lambda media: swarm(*media.song, media.lamp),
        lambda media: sparks(*media.song),
        lambda media: glass_tide(*media.song),
        lambda media: beacon(*media.song, media.water),
        lambda media: harbour_night(*media.song, media.lamp, media.water),
        lambda media: two_lines(*media.song),
        lambda media: paper_boats(*media.song),
        lambda media: said_aloud(*media.notice, media.lamp),
        lambda media: put_together(*media.song, media.lighthouse),
        lambda media: bulletin(*media.notice, media.bed[0], media.lamp),
        lambda media: four_stems(media.stems),
    ]


def _write_flac(path: Path, samples: np.ndarray) -> None:
    """Samples, shape (n, 2), as 16-bit FLAC."""
    codes = np.rint(samples * 32767).astype(np.int16)
    with av.open(str(path), "w") as container:
        stream = container.add_stream("flac", rate=RATE, layout="stereo")
        stream.codec_context.format = "s16"
        for start in range(0, len(codes), 4096):
            piece = np.ascontiguousarray(codes[start : start + 4096]).reshape(1, -1)
            frame = av.AudioFrame.from_ndarray(piece, format="s16", layout="stereo")
            frame.sample_rate, frame.pts = RATE, start
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def _chunks(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while chunk := file.read(1 << 20):
            yield chunk
