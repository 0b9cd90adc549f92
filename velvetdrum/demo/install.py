"""Puts the sample world into a data folder: its projects, and the files that they were made from."""

from __future__ import annotations

import json
from collections.abc import Iterator
from importlib.resources import files
from pathlib import Path
from typing import Any, Protocol

import av
import numpy as np

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.designs import lamp_design, notice_design, song_design
from velvetdrum.demo.families import lantern_ring, signal_station, tide_line
from velvetdrum.demo.finished import beacon, glass_tide
from velvetdrum.demo.harbour import harbour_night
from velvetdrum.demo.pictures import lamp_svg, water_clip
from velvetdrum.demo.song import RATE, paper_lighthouse
from velvetdrum.demo.swarms import harbour_wall, plankton, ridges, sparks, swarm
from velvetdrum.demo.worded import audiogram, lyric_version
from velvetdrum.scene.document import Document, new_track

SONG, NOTICE, LAMP, WATER = "Paper Lighthouse.flac", "Harbour notice.opus", "Lamp.svg", "Moving water.mp4"


# The last one made stands first on the start page: after these the designed scene, which needs the logo and the clip.
_PROJECTS = (
    (NOTICE, notice_design),
    (SONG, signal_station),
    (SONG, tide_line),
    (SONG, lantern_ring),
    (SONG, lamp_design),
    (SONG, song_design),
)


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
    """Write the song, the notice, the logo and the clip to `folder`; what is there already stays."""
    folder.mkdir(parents=True, exist_ok=True)
    if not (folder / SONG).exists():
        _write_flac(folder / SONG, paper_lighthouse())
    if not (folder / NOTICE).exists():
        (folder / NOTICE).write_bytes(files("velvetdrum.demo").joinpath("harbour-notice.opus").read_bytes())
    if not (folder / LAMP).exists():
        (folder / LAMP).write_text(lamp_svg())
    if not (folder / WATER).exists():
        water_clip(folder / WATER)


def install_demo(keeper: Keeper) -> None:
    """Make the demo projects, once in a data folder; deleted ones do not come back."""
    stamp = keeper.data / "demo.json"
    if stamp.exists():
        return
    folder = keeper.data / "demo"
    make_media(folder)
    made = []
    for name, design in _PROJECTS:
        key, recording = keeper.bring_now(_chunks(folder / name), name)
        track = new_track(key, name, recording.facts.duration_s)
        made.append(keeper.store_document(design(track, recording)))
    lamp = keeper.keep_picture((folder / LAMP).read_bytes(), LAMP)["key"]
    water = keeper.bring_clip_now(_chunks(folder / WATER), WATER)
    key, recording = keeper.bring_now(_chunks(folder / SONG), SONG)
    track = new_track(key, SONG, recording.facts.duration_s)
    spoken, notice = keeper.bring_now(_chunks(folder / NOTICE), NOTICE)
    said = new_track(spoken, NOTICE, notice.facts.duration_s)
    made.append(keeper.store_document(audiogram(said, notice, lamp)))
    made.append(keeper.store_document(lyric_version(track, recording, water)))
    made.append(keeper.store_document(ridges(track, recording)))
    made.append(keeper.store_document(harbour_wall(track, recording)))
    made.append(keeper.store_document(plankton(track, recording)))
    made.append(keeper.store_document(swarm(track, recording, lamp)))
    made.append(keeper.store_document(sparks(track, recording)))
    made.append(keeper.store_document(glass_tide(track, recording)))
    made.append(keeper.store_document(beacon(track, recording, water)))
    made.append(keeper.store_document(harbour_night(track, recording, lamp, water)))
    stamp.write_text(json.dumps({"projects": made}))


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
