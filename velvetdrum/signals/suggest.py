"""Pickups that suit a recording: parts of the sound that move differently from each other, named for what they are."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import sound_end_hz
from velvetdrum.signals.detect import READ_RATE
from velvetdrum.signals.pickup_fit import fit_pickup, reaching
from velvetdrum.signals.sources.pickup import Pickup

PLACES: dict[str, tuple[float, float]] = {
    "Sub": (20, 45),
    "Kick": (45, 110),
    "Bass": (60, 220),
    "Body": (200, 600),
    "Voice": (300, 3400),
    "Presence": (3000, 6500),
    "Air": (8000, 16_000),
}
"""Usual places to listen, in Hz."""


@dataclass(frozen=True)
class Suggestion:
    """A pickup to offer: its name, its settings, and a sentence that says what it found."""

    name: str
    settings: dict[str, Any]
    reason: str


@dataclass(frozen=True)
class _Candidate:
    name: str
    low_hz: float
    high_hz: float
    detector: str
    attack_ms: float
    release_ms: float
    why: str
    favour: float = 1.0
    """People look for a kick and a voice first."""


_CANDIDATES = (
    _Candidate("Kick", 40, 100, "hits", 2, 160, "strokes in the bass", 1.6),
    _Candidate("Bass line", 55, 180, "level", 15, 180, "sustained low notes"),
    _Candidate("Snare", 180, 420, "hits", 2, 140, "strokes above the bass"),
    _Candidate("Lead", 420, 1800, "level", 20, 220, "notes in the middle", 1.25),
    _Candidate("Shimmer", 6000, 15_000, "hits", 2, 110, "strokes high up", 1.1),
    _Candidate("Air", 6000, 15_000, "level", 10, 200, "breath and sheen"),
)
_VOICE = (
    _Candidate("Voice", 140, 3400, "level", 15, 160, "the words", 1.5),
    _Candidate("Syllables", 300, 2400, "hits", 4, 150, "where syllables begin"),
    _Candidate("Sibilants", 4500, 9500, "level", 4, 90, "s and sh"),
)
_OVERALL = _Candidate("Overall", 30, 16_000, "level", 25, 300, "everything together")

_PLAYED = dict(zip(("kick", "bass", "snare", "lead", "shimmer"), _CANDIDATES, strict=False)) | {"voice": _VOICE[0]}
_SPOKEN = {
    "kick": _VOICE[1],
    "bass": _VOICE[0],
    "snare": _VOICE[1],
    "lead": _VOICE[0],
    "voice": _VOICE[0],
    "shimmer": _VOICE[2],
}
"""What roles are in a sound with a beat, and in one without."""

_LEAST_MOVEMENT, _LEAST_TOP = 0.08, 0.95


def suggest(use: AudioRange, length_s: float, most: int = 4) -> list[Suggestion]:
    """Up to `most` pickups that move well and unlike each other, the best first, and one for everything.

    Each candidate is fitted; its movement is the spread of its curve, its likeness to another the correlation of
    their curves. One by one the candidate is taken whose movement is least explained by those taken already.

    Parameters
    ----------
    use
        The used stretch of a recording.
    length_s
        Length of the project, in seconds.
    most
        How many at the most.
    """
    beat = use.recording.facts.tempo_bpm is not None
    # What lies above the sound's end would stand still.
    end = sound_end_hz(use)
    usual = _CANDIDATES if beat else _VOICE
    candidates = [_cut(candidate, end) for candidate in usual if candidate.low_hz < 0.8 * end]
    fitted = [_fitted(candidate, use, length_s) for candidate in candidates]
    whole = _cut(_OVERALL, end)
    overall = _fitted(whole, use, length_s)
    curves = [_even(pickup.curve(use, length_s)) for pickup in fitted]
    moves = np.array([_movement(curve) for curve in curves]) * [candidate.favour for candidate in candidates]
    taken: list[int] = []
    while len(taken) < most - 1:
        likeness = np.zeros(len(curves))
        for index, curve in enumerate(curves):
            likeness[index] = max((_correlation(curve, curves[other]) for other in taken), default=0.0)
        worth = moves * (1.0 - np.clip(likeness, 0.0, 1.0))
        worth[taken] = 0.0
        best = int(worth.argmax())
        if worth[best] < 0.02:
            break
        taken.append(best)
    out = [_suggestion(candidates[index], fitted[index]) for index in taken]
    return [*out, _suggestion(whole, overall)]


def heard_as(role: str, use: AudioRange, length_s: float, own: dict[str, Any]) -> dict[str, Any]:
    """Band, detector and range, as settings, with which a pickup follows a role in a sound; what moves too little in
    it, or is not there, is followed by all of it together.

    Parameters
    ----------
    role
        Its name: kick, bass, snare, lead, voice, shimmer, overall.
    use
        The used stretch of a recording.
    length_s
        Length of the project, in seconds.
    own
        Settings of the pickup, whose attack and release it keeps.
    """
    candidates = _PLAYED if use.recording.facts.tempo_bpm is not None else _SPOKEN
    end = sound_end_hz(use)
    for candidate in (candidates.get(role, _OVERALL), _OVERALL):
        if candidate.low_hz >= 0.8 * end:
            continue
        band = {name: value for name, value in _settings(_cut(candidate, end)).items() if not name.endswith("_ms")}
        pickup = Pickup(own | band)
        quiet, loud = fit_pickup(pickup, use, length_s, 0.0, length_s)
        pickup = Pickup(own | band | {"quiet_db": quiet, "loud_db": loud})
        if candidate is _OVERALL or _movement(_even(pickup.curve(use, length_s))) >= _LEAST_MOVEMENT:
            break
    return band | {"quiet_db": quiet, "loud_db": reaching(pickup, use, _LEAST_TOP)}


def _cut(candidate: _Candidate, end_hz: float) -> _Candidate:
    return replace(candidate, high_hz=min(candidate.high_hz, round(end_hz)))


def _fitted(candidate: _Candidate, use: AudioRange, length_s: float) -> Pickup:
    settings = _settings(candidate)
    quiet, loud = fit_pickup(Pickup(settings), use, length_s, 0.0, length_s)
    return Pickup(settings | {"quiet_db": quiet, "loud_db": loud})


def _settings(candidate: _Candidate) -> dict[str, Any]:
    return {
        "low_hz": float(candidate.low_hz),
        "high_hz": float(candidate.high_hz),
        "detector": candidate.detector,
        "attack_ms": float(candidate.attack_ms),
        "release_ms": float(candidate.release_ms),
    }


def _suggestion(candidate: _Candidate, pickup: Pickup) -> Suggestion:
    settings = _settings(candidate) | {"quiet_db": pickup.quiet_db, "loud_db": pickup.loud_db}
    reason = f"{_hertz(candidate.low_hz)} to {_hertz(candidate.high_hz)}: {candidate.why}"
    return Suggestion(candidate.name, Pickup.defaults() | settings, reason)


def _hertz(value: float) -> str:
    return f"{value / 1000:g} kHz" if value >= 1000 else f"{value:g} Hz"


def _even(curve: NDArray[np.float32]) -> NDArray[np.float64]:
    """The curve 20 times a second, which is what eyes compare."""
    step = READ_RATE // 20
    return curve[: len(curve) // step * step].reshape(-1, step).max(axis=1).astype(np.float64)


def _movement(curve: NDArray[np.float64]) -> float:
    """How much a curve moves within a second: the mean spread of one-second stretches that are not silent."""
    pieces = curve[: len(curve) // 20 * 20].reshape(-1, 20)
    spread = np.ptp(pieces, axis=1) if len(pieces) else np.zeros(1)
    return float(np.mean(spread))


def _correlation(first: NDArray[np.float64], second: NDArray[np.float64]) -> float:
    a, b = first - first.mean(), second - second.mean()
    norm = float(np.sqrt((a @ a) * (b @ b)))
    return float(a @ b) / norm if norm > 0 else 0.0
