"""Damaged files: what the libraries raise, as sentences for people."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from contextlib import contextmanager

from velvetdrum.audio.decode import READ
from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.limits.process import OverTime
from velvetdrum.picture.media.clips.index import ClipError
from velvetdrum.picture.media.picture_decoder import PictureError

SOUND = f"This file is damaged in a way that its sound can't be read. {READ}"
CLIP = "This file is damaged in a way that its pictures can't be read. Save it anew in another program."


@contextmanager
def damage_as(kind: type[Exception], sentence: str) -> Iterator[None]:
    """What a decoder stumbles over in a file that somebody brought, as damage of that file. What it was is logged: the
    libraries below raise whatever they like."""
    try:
        yield
    except (Cancelled, SoundError, ClipError, PictureError, OverTime, MemoryError, OSError):
        raise
    except Exception as problem:
        logging.getLogger(__name__).warning("damaged file", exc_info=True)
        raise kind(sentence) from problem
