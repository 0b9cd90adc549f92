"""A signal for what people call it, kick, voice, each beat, found in a recording."""

from __future__ import annotations

from typing import Any

from velvetdrum.looks.open_places import in_its_role
from velvetdrum.looks.shelf_look import LookScene
from velvetdrum.scene.document import Document
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.audio_range import AudioRange

SIGNAL_ROLES = {
    "kick": "Kick",
    "bass": "Bass",
    "snare": "Snare",
    "voice": "Voice",
    "lead": "Lead",
    "shimmer": "Hats and shimmer",
    "overall": "Overall",
    "beat": "Every beat",
    "wander": "Slow wander",
    "track": "Whole track",
}
"""What a setting may follow, in the words of those who make music."""

_FREE: dict[str, tuple[str, dict[str, Any]]] = {"wander": ("wander", {}), "track": ("progress", {})}
"""Those that hear nothing: their kinds and what is set in them."""


def role_signal(role: str, use: AudioRange | None) -> Document:
    """A signal that follows a role in the used stretch of a recording: its band and levels as they are there. A beat of
    a sound that has none runs by itself.

    Parameters
    ----------
    role
        One of `SIGNAL_ROLES`.
    use
        The used stretch of a recording; None where there is no sound.
    """
    if role in _FREE:
        kind, settings = _FREE[role]
        return new_signal(kind, SIGNAL_ROLES[role], **settings)
    signal = LookScene({}).role(role) | {"name": SIGNAL_ROLES[role]}
    return signal if use is None else in_its_role(signal, role, use)
