"""Designs that come with patches: which signals of a project drive them, or which new ones."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from velvetdrum.scene.designs import Follow
from velvetdrum.scene.document import Document, new_patch
from velvetdrum.scene.signal_part import COLOURS, new_signal
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.signals.suggest import suggest


@dataclass
class Drivers:
    """The signals of a project, and those that are added to it on the way, each at most once."""

    signals: list[Document]
    use: AudioRange | None
    length_s: float

    def __post_init__(self) -> None:
        self._offered: list[Document] | None = None

    def drive(self, layer: Document, follows: tuple[Follow, ...]) -> list[Document]:
        """Put a design's patches into a layer; gives the signals that they need and the project lacks."""
        fresh: list[Document] = []
        for follow in follows:
            signal = self._fitting(follow.what, self.signals) or self._fitting(follow.what, fresh)
            if signal is None:
                signal = self._fitting(follow.what, self._offers()) or next(iter(self.signals), None)
                if signal is None:
                    continue
                if signal not in self.signals:
                    fresh.append(signal)
            layer["patches"].append(new_patch(follow.setting, signal, follow.low, follow.high))
        return fresh

    def _offers(self) -> list[Document]:
        """Signals that would suit the sound: the suggested pickups, and a pulse on each beat."""
        if self._offered is None:
            self._offered = []
            band = next(kind for kind, cls in SIGNAL_KINDS.items() if cls.follows_band)
            beat = next(kind for kind, cls in SIGNAL_KINDS.items() if cls.keeps_beats)
            result = suggest(self.use, self.length_s) if self.use else []
            for number, offer in enumerate(result):
                colour = COLOURS[(len(self.signals) + number) % len(COLOURS)]
                self._offered.append(new_signal(band, offer.name, colour=colour, **offer.settings))
            if self.use is not None and self.use.recording.facts.tempo_bpm is not None:
                self._offered.append(new_signal(beat, "Every beat", colour=COLOURS[4]))
        return self._offered

    @staticmethod
    def _fitting(what: str, signals: list[Document]) -> Document | None:
        def fits(signal: Document) -> bool:
            cls: Any = SIGNAL_KINDS.get(signal["kind"])
            if cls is None:
                return False
            if what == "beat":
                return bool(cls.keeps_beats)
            return bool(cls.follows_band) and (signal["settings"].get("detector") == "hits") == (what == "hits")

        return next((signal for signal in signals if fits(signal)), None)
