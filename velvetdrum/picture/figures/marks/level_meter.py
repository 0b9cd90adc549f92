"""What a level meter is set to, what it reads of the sound, and the scale that it is read on."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np

from velvetdrum.declare.settings import Stop, band_text, choice, colour, flag, heard_sound, number, picture, whole
from velvetdrum.declare.vocabulary import degrees, percent, position_x, position_y
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.paint.paint import Ink, Painted
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.ballistics import BALLISTICS, LOUDNESS_S, Meter, MeterInput, meter_reading
from velvetdrum.signals.band_text import parse_bands
from velvetdrum.signals.spectrum import iec_bands

_BOXED = ("bar", "segments", "uncover")
_MOST_BANDS = 32
_THIRDS = ((30.0, 200.0), (200.0, 2500.0), (2500.0, 15_000.0))


class MeterSettings(Painted):
    """Settings of a level meter, what it reads, and its scale."""

    first: ClassVar[tuple[str, ...]] = ("look", "columns", "bands", "typed")
    begins: ClassVar[dict[str, Any]] = {"paint": "one", "plain": "#5fc4b4"}

    look: str = choice(
        "segments",
        {"bar": "Bar", "segments": "Segments", "dial": "Dial", "uncover": "Uncovered"},
        label="Style",
        help="A bar, segments, lamps and a needle on a dial, or a field that the level uncovers.",
    )
    columns: str = choice(
        "stereo",
        {"mono": "Mono", "stereo": "Left and right", "bands": "Bands"},
        help="One column, one for each channel, or one for each band.",
    )
    bands: str = choice(
        "thirds",
        {"thirds": "Low, mid, high", "octaves": "Octaves", "typed": "Typed"},
        help="Which bands there are.",
        when=("columns", ("bands",)),
    )
    typed: str = band_text(
        "40-160, 160-2.5k, 2.5k-15k",
        most=400,
        label="Bands in Hz",
        group="shape",
        help="From and to of each band, with commas between.",
        when=(("columns", ("bands",)), ("bands", ("typed",))),
    )
    image: str = picture(
        label="Picture", help="A picture that the level uncovers, in place of the paint.", when=("look", ("uncover",))
    )
    x: float = position_x(50, of="the middle of the meter")
    y: float = position_y(50, of="the middle of the meter")
    stands: str = choice(
        "upright",
        {"upright": "Vertical", "lying": "Horizontal"},
        help="Which way the level rises.",
        when=("look", _BOXED),
        label="Orientation",
    )
    length: float = number(
        70, lo=1, hi=250, unit="%", help="From foot to full level, of the frame's short side.", when=("look", _BOXED)
    )
    thickness: float = number(
        24, lo=0.5, hi=250, unit="%", help="Across all columns, of the frame's short side.", when=("look", _BOXED)
    )
    radius: float = number(
        40,
        lo=2,
        hi=150,
        unit="%",
        help="From the pivot to the lamps, of the frame's short side.",
        when=("look", ("dial",)),
    )
    sweep: float = degrees(110, lo=20, hi=330, help="How far the needle turns.", when=("look", ("dial",)))
    turn: float = degrees(0, help="Turns the meter about its middle, clockwise.", advanced=True, label="Rotation")
    gap: float = number(18, lo=0, hi=90, unit="%", help="Empty part of each column's place.", when=("look", _BOXED))
    corner: float = percent(
        30, label="Corner radius", when=("look", _BOXED), help="Corner radius, of half the shorter side."
    )
    segments: int = whole(24, lo=3, hi=96, help="Segments, or lamps, in all.", when=("look", ("segments", "dial")))
    segment_gap: float = number(
        32,
        lo=0,
        hi=90,
        unit="%",
        label="Segment gap",
        help="Empty part of each segment.",
        when=("look", ("segments", "dial")),
    )
    unlit: float = percent(
        16, step=1, label="Unlit opacity", group="colour", help="How much shows of what is not lit; 0 hides it."
    )
    needle: bool = flag(True, help="A needle beside the lamps.", when=("look", ("dial",)))
    needle_colour: str = colour(
        "#f4eadb", label="Needle colour", help="Colour of the needle.", when=("look", ("dial",))
    )
    needle_width: float = number(
        0.9,
        lo=0.1,
        hi=6,
        unit="%",
        label="Needle width",
        advanced=True,
        when=("look", ("dial",)),
        help="Needle width, as a share of the frame's short side.",
    )

    ballistics: str = choice(
        "quasi-2", BALLISTICS, group="motion", help="How it follows the sound, as IEC, AES and EBU define it."
    )
    fall_db_s: float = number(
        11.8,
        lo=1,
        hi=200,
        unit="dB/s",
        label="Fall rate",
        group="motion",
        help="How fast a sample peak falls back.",
        when=("ballistics", ("peak",)),
    )
    rms_ms: float = number(
        300,
        lo=5,
        hi=5000,
        unit="ms",
        step=1,
        label="RMS time",
        group="motion",
        curve="log",
        help="How much of the sound is averaged.",
        when=("ballistics", ("rms",)),
    )
    hold: bool = flag(True, label="Peak hold", group="motion", help="A mark that stays at the last top, then falls.")
    hold_ms: float = number(
        1000,
        lo=0,
        hi=10_000,
        unit="ms",
        step=10,
        label="Hold",
        group="motion",
        help="How long the mark stays.",
        when=("hold", (True,)),
    )
    hold_fall_db_s: float = number(
        20,
        lo=1,
        hi=200,
        unit="dB/s",
        label="Mark fall rate",
        group="motion",
        help="How fast it falls then.",
        when=("hold", (True,)),
    )
    listens: str = heard_sound()
    low_db: float = number(
        -48,
        lo=-100,
        hi=10,
        unit="dB",
        step=1,
        label="Lowest level",
        group="sound",
        help="Level at the foot: dBFS, or LUFS for loudness.",
    )
    high_db: float = number(
        0, lo=-60, hi=24, unit="dB", step=1, label="Highest level", group="sound", help="Level at full length."
    )
    zero_db: float = number(
        0,
        lo=-60,
        hi=10,
        unit="dB",
        step=1,
        label="Reference level",
        group="sound",
        help="The level that the scale calls 0: -23 for LU.",
    )
    scale: bool = flag(True, group="shape", help="Ticks and numbers beside the meter.")
    tick_db: float = number(
        6,
        lo=1,
        hi=24,
        unit="dB",
        step=1,
        label="Tick spacing",
        help="Levels between two ticks.",
        when=("scale", (True,)),
        advanced=True,
    )
    scale_size: float = number(
        3,
        lo=0.5,
        hi=12,
        unit="%",
        label="Scale size",
        advanced=True,
        when=("scale", (True,)),
        help="Size of the numbers, as a share of the frame's short side.",
    )
    scale_colour: str = colour(
        "#bda9b4", label="Scale colour", when=("scale", (True,)), help="Colour of ticks and numbers."
    )
    zones: str = choice(
        "hard",
        {"off": "Off", "hard": "Hard", "smooth": "Smooth"},
        group="colour",
        label="Zones",
        help="Colours that change at stated levels, in place of the paint.",
    )
    safe: str = colour(
        "#5fc4b4", label="Safe", help="Colour below the warning level.", when=("zones", ("hard", "smooth"))
    )
    warning: str = colour(
        "#e0ac55", label="Warning", help="Colour above the warning level.", when=("zones", ("hard", "smooth"))
    )
    over: str = colour("#ff7a66", label="Over", help="Colour above the over level.", when=("zones", ("hard", "smooth")))
    warning_db: float = number(
        -18,
        lo=-100,
        hi=24,
        unit="dB",
        step=1,
        label="Warning from",
        group="colour",
        when=("zones", ("hard", "smooth")),
        help="Where the warning zone begins.",
    )
    over_db: float = number(
        -9,
        lo=-100,
        hi=24,
        unit="dB",
        step=1,
        label="Over from",
        group="colour",
        when=("zones", ("hard", "smooth")),
        help="Where the over zone begins.",
    )
    zone_shapes: bool = flag(
        True,
        label="Zone shapes",
        group="colour",
        when=("zones", ("hard", "smooth")),
        help="One slit in the warning zone and two in the over zone, for all who do not see the colours.",
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        result = super().check(values)
        if values["high_db"] < values["low_db"] + 1:
            result.append(("high_db", "To must lie at least 1 dB above From."))
        if values["over_db"] < values["warning_db"]:
            result.append(("over_db", "The over zone cannot begin below the warning zone."))
        try:
            parse_bands(values["typed"], _MOST_BANDS)
        except ValueError as problem:
            result.append(("typed", str(problem)))
        return result

    def sources(self) -> list[MeterInput]:
        """What each column reads."""
        if self.columns == "bands":
            if self.bands == "octaves":
                result = [(low, high) for _, low, high in iec_bands(31.0, 16_000.0, "octave")]
            else:
                result = list(_THIRDS) if self.bands == "thirds" else parse_bands(self.typed, _MOST_BANDS)
            return [MeterInput("mix", band) for band in result]
        # Loudness is that of the whole programme; it has no channels.
        if self.columns == "mono" or self.ballistics in LOUDNESS_S:
            return [MeterInput("mix")]
        return [MeterInput("left"), MeterInput("right")]

    def reading(self, at: RenderContext, source: MeterInput) -> tuple[float, float]:
        """Reading and held top as places on the scale, 0 to 1."""
        if at.use is None:
            return 0.0, 0.0
        meter = Meter(self.ballistics, self.fall_db_s, self.rms_ms, self.hold_ms, self.hold_fall_db_s)
        level, held = meter_reading(at.use, meter, source, at.time)
        return self.place(level), self.place(held)

    @classmethod
    def refitted(cls, settings: dict[str, Any], before: AudioRange, after: AudioRange) -> dict[str, Any]:
        """Its ends and zones go with the loudness. A meter with numbers beside it says how loud it is, and stays."""
        stored = cls.defaults() | settings
        louder = after.recording.facts.loudness_lufs, before.recording.facts.loudness_lufs
        if stored["scale"] or louder[0] is None or louder[1] is None:
            return {}
        by = round(louder[0] - louder[1])
        return {name: stored[name] + by for name in ("low_db", "high_db", "warning_db", "over_db")}

    def place(self, level_db: float) -> float:
        """Where a level stands on the scale, 0 to 1."""
        share = (level_db - self.low_db) / max(self.high_db - self.low_db, 0.1)
        return float(min(max(share, 0.0), 1.0))

    @property
    def zone_ends(self) -> tuple[float, float]:
        """Where the warning and the over zone begin, as places on the scale."""
        return self.place(self.warning_db), self.place(max(self.over_db, self.warning_db))

    def zoned(self, ink: Ink) -> Ink:
        """The ink with the colours of the zones, where there are zones."""
        if self.zones == "off":
            return ink
        warning, over = self.zone_ends
        colours: tuple[Stop, ...] = ((0.0, self.safe), (warning, self.warning), (over, self.over))
        graded = replace(ink, paint="level", colours=colours, steps=self.zones == "hard")
        return replace(graded, back=False, drifts=False, hue=0.0, hue_shift=0.0)

    @property
    def unit(self) -> str:
        """What the numbers of the scale are."""
        if self.ballistics in LOUDNESS_S:
            return "LU" if self.zero_db else "LUFS"
        return "VU" if self.ballistics == "vu" and self.zero_db else "dB" if self.zero_db else "dBFS"

    def ticks(self) -> list[tuple[str, float]]:
        """Numbers of the scale and their places, 0 to 1."""
        first = int(np.ceil((self.low_db - self.zero_db) / self.tick_db - 1e-6))
        last = int(np.floor((self.high_db - self.zero_db) / self.tick_db + 1e-6))
        out = []
        for index in range(first, last + 1):
            value = index * self.tick_db
            sign = "+" if value > 0 and self.zero_db else ""
            out.append((f"{sign}{value:g}".replace("-", "−"), self.place(value + self.zero_db)))
        return out
