"""What a file format for sound is: its container, its codec, and how it is asked to work."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, TypeVar

from velvetdrum.declare.registry import make_known


class SoundFormat:
    """Base of all sound formats, each one module of `velvetdrum.deliver.sounds`."""

    name: ClassVar[str] = ""
    title: ClassVar[str] = ""
    mime: ClassVar[str] = ""
    container: ClassVar[str] = ""
    codec: ClassVar[str] = ""
    samples: ClassVar[str] = "fltp"
    """Form of the samples that the codec takes (FFmpeg's name)."""
    frame: ClassVar[int] = 1024
    """Samples that are sent at a time."""
    lossy: ClassVar[bool] = False
    """True where what comes out may pass the peak of what went in by a little."""

    def bit_rate(self, channels: int) -> int | None:
        """Bits a second for one or two channels; None where the codec decides.

        Parameters
        ----------
        channels
            One or two.
        """
        return None


SOUND_FORMATS: dict[str, SoundFormat] = {}
"""Every known format by its name, which is its suffix without the dot."""

Format = TypeVar("Format", bound=type[SoundFormat])


def known_sound(name: str, title: str) -> Callable[[Format], Format]:
    """Class decorator: makes a sound format known under a name, with a title.

    Parameters
    ----------
    name
        Name, as the file or the format has it.
    title
        The title, as the page shows it.
    """

    def register(cls: Format) -> Format:
        cls.name, cls.title = name, title
        make_known(SOUND_FORMATS, name, cls())
        return cls

    return register
