"""What a format of timed text is: how it is recognised, read and written."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import ClassVar, TypeVar

from velvetdrum.words.cues import Cue, CueList

CUE_FORMATS: dict[str, CueFormat] = {}
"""Every known format by the suffix of its files. Filled when `velvetdrum.words.formats` is imported."""


class CueFormat(ABC):
    """Base of all formats."""

    suffix: ClassVar[str]
    """Of its files, without the dot; also its name at the command line."""
    title: ClassVar[str]
    media_type: ClassVar[str] = "text/plain"
    rank: ClassVar[int] = 1
    """Formats of a lower rank are asked first whether a text is theirs."""

    @abstractmethod
    def claims(self, text: str) -> bool:
        """True when a text looks like this format."""

    @abstractmethod
    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        """The cues of a text and their language, or empty; adds what was repaired. Raises CueError."""

    @abstractmethod
    def write(self, found: CueList) -> str:
        """Cues as a text."""


_Kind = TypeVar("_Kind", bound=type[CueFormat])


def cue_format(cls: _Kind) -> _Kind:
    """Class decorator: makes a format known."""
    CUE_FORMATS[cls.suffix] = cls()
    return cls
