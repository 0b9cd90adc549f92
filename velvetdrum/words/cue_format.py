"""What a format of timed text is: how it is recognised, read and written."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import ClassVar, TypeVar

from velvetdrum.declare.registry import make_known
from velvetdrum.words.cues import Cue, CueList

CUE_FORMATS: dict[str, CueFormat] = {}
"""Every known format by the suffix of its files. Filled when `velvetdrum.words.formats` is imported."""


LEFT_OUT = {
    "times": "has no times; they are left out.",
    "lines": "has one line a cue; lines are joined.",
    "speakers": "does not say who speaks; speakers are left out.",
    "words": "has no times of words; they are left out.",
}
"""What is said of a format that does not keep a part of cues."""

SPOKEN_BY = "{speaker}: {text}"


class CueFormat(ABC):
    """Base of all formats."""

    suffix: ClassVar[str]
    aliases: ClassVar[frozenset[str]] = frozenset()
    """Other suffixes that its files have."""
    """Of its files, without the dot; also its name at the command line."""
    title: ClassVar[str]
    media_type: ClassVar[str] = "text/plain"
    keeps: ClassVar[frozenset[str]] = frozenset({"times", "lines"})
    """What it can hold of cues: `times`, `lines`, `speakers`, times of `words`. The rest is left out when it is
    written."""
    rank: ClassVar[int] = 1
    """Formats of a lower rank are asked first whether a text is theirs."""

    @abstractmethod
    def claims(self, text: str) -> bool:
        """True when a text looks like this format.

        Parameters
        ----------
        text
            A file as text.
        """

    @abstractmethod
    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        """The cues of a text and their language, or empty; adds what was repaired. Raises CueError.

        Parameters
        ----------
        text
            A file as text.
        repairs
            Takes sentences about what was repaired.
        """

    @abstractmethod
    def write(self, found: CueList) -> str:
        """Cues as a text.

        Parameters
        ----------
        found
            Cues with their language.
        """

    def left_out(self, found: CueList) -> list[str]:
        """What of these cues the format can't hold, each as a sentence.

        Parameters
        ----------
        found
            Cues with their language.
        """
        has = {
            "times": bool(found.cues),
            "lines": any("\n" in cue.text for cue in found.cues),
            "speakers": any(cue.speaker for cue in found.cues),
            "words": any(cue.words for cue in found.cues),
        }
        return [
            f"{self.title} {sentence}" for name, sentence in LEFT_OUT.items() if has[name] and name not in self.keeps
        ]


_Kind = TypeVar("_Kind", bound=type[CueFormat])


def cue_format(cls: _Kind) -> _Kind:
    """Class decorator: makes a format known.

    Parameters
    ----------
    cls
        The class that is registered.

    Raises
    ------
    ValueError
        Where another one has its suffix.
    """
    make_known(CUE_FORMATS, cls.suffix, cls())
    return cls
