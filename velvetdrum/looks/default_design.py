"""The starting design: what a recording looks like before anybody has changed a setting."""

from __future__ import annotations

import math

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.audio.analysis import Analysis
from velvetdrum.looks.open_places import with_its_sound
from velvetdrum.looks.presets import fitted_settings
from velvetdrum.scene.document import Document, new_layer
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.signals.audio_range import AudioRange


def nearest_frame(width: int, height: int) -> FrameSize:
    """The frame whose shape is nearest to a picture's.

    Parameters
    ----------
    width
        Pixels.
    height
        Pixels.
    """
    return min(FRAMES.values(), key=lambda frame: abs(math.log(frame.width / frame.height * height / width)))


def design_on_film(key: str, recording: Analysis | None) -> list[Document]:
    """A film that fills the frame and runs with its sound, under a row of bars where it has one."""
    film = new_layer("footage", "Film", clip=key)
    if recording is None:
        return [film]
    return [with_its_sound(film), starting_design(recording)[-1]]


def design_on_picture(key: str) -> list[Document]:
    """A picture that fills the frame."""
    return [new_layer("picture", "Picture", image=key, fit="cover", width=100.0, height=100.0)]


def starting_design(recording: Analysis | None) -> list[Document]:
    """A backdrop and a row of bars, back to front, the bars' levels read from the recording."""
    bars = new_layer("spectrum", "Bars")
    if recording is not None:
        bars["settings"] |= fitted_settings("spectrum", {}, AudioRange(recording, 0.0, recording.facts.duration_s))
    return [new_layer("backdrop", "Night"), bars]
