"""Settings of the spectrum, and what it reads of a sound."""

from __future__ import annotations

from typing import Any, ClassVar

from velvetdrum.declare.settings import band_text, choice, colour, flag, heard_sound, number, rate, whole
from velvetdrum.declare.vocabulary import CHANNELS, TILT_UNIT, attack, loud, percent, quiet, release
from velvetdrum.picture.figures.marks.figure import Spectral
from velvetdrum.picture.figures.marks.heard_bands import fitted_range, range_problems, refitted_range
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.band_text import parse_bands
from velvetdrum.signals.bar_levels import HEARS
from velvetdrum.signals.bars import BarSettings
from velvetdrum.signals.spectrum import SPACINGS

STYLES = {
    "bars": "Bars",
    "segments": "Segments",
    "dots": "Dots",
    "hairlines": "Hairlines",
    "line": "Line",
    "area": "Area",
    "line-area": "Line and area",
}
MOST_BANDS = 512
SEPARATE = ("bars", "segments", "dots", "hairlines")
IEC = ("octave", "third")
NAMED = (*IEC, "class")
"""Ways to share the range whose bands have names."""
_ECHOED = ("echoes", ((">", 0),))
PAIRS = {"halves": ("left", "right"), "mid-side": ("mid", "side")}
"""Two channels that are shown side by side."""
_NAMED = (("spacing", NAMED), ("labels", (True,)))


class SpectrumSettings(Spectral):
    """Settings of a figure that shows how loud each frequency band is."""

    fits: ClassVar[bool] = True

    first: ClassVar[tuple[str, ...]] = ("style", "bands", "base")
    thicknesses: ClassVar[tuple[str, ...]] = ("line",)
    begins: ClassVar[dict[str, Any]] = {"grow": "both", "reach": 52.0}

    style: str = choice("bars", STYLES, label="Style", help="What stands for a band.")
    bands: int = whole(
        64, lo=1, hi=512, help="How many bands the spectrum is cut into.", when=("spacing", ("log", "linear", "mel"))
    )
    gap: float = number(
        38, lo=0, hi=95, unit="%", help="Empty part of each bar's place.", when=("style", ("bars", "segments"))
    )
    corner: float = percent(
        100,
        label="Corner radius",
        help="Corner radius, of half the bar's thickness.",
        when=("style", ("bars", "segments")),
    )
    segments: int = whole(14, lo=2, hi=64, help="Segments in a full column.", when=("style", ("segments",)))
    segment_gap: float = number(
        30,
        lo=0,
        hi=90,
        unit="%",
        label="Segment gap",
        help="Empty part of each segment.",
        when=("style", ("segments",)),
    )
    partly: str = choice(
        "whole",
        {"whole": "On or off", "part": "In part"},
        label="Last segment",
        help="Segments are wholly on or off, or the last one is as long as the level asks.",
        when=("style", ("segments",)),
    )
    dot: float = number(
        1.4,
        lo=0.1,
        hi=12,
        unit="%",
        label="Dot size",
        help="Across a dot, of the frame's short side.",
        when=("style", ("dots",)),
    )
    line: float = number(
        0.5,
        lo=0.05,
        hi=8,
        unit="%",
        label="Line width",
        help="Line width, as a share of the frame's short side.",
        when=("style", ("line", "line-area", "hairlines")),
    )
    fill: float = percent(
        40, step=1, label="Area opacity", group="colour", help="How solid the area is.", when=("style", ("line-area",))
    )
    least: float = number(
        0.6,
        lo=0,
        hi=20,
        unit="%",
        label="Minimum length",
        help="Length of a silent bar, of the frame's short side.",
        advanced=True,
        when=("style", ("bars", "hairlines", "segments")),
    )
    cluster: int = whole(
        1,
        lo=1,
        hi=32,
        label="Bars per band",
        advanced=True,
        when=("style", SEPARATE),
        help="Several bars share a band's level, each a little different.",
    )
    cluster_spread: float = percent(
        45,
        label="Difference",
        advanced=True,
        when=(("style", SEPARATE), ("cluster", (">", 1))),
        help="How much shorter a bar of a cluster may be.",
    )
    cluster_slope: float = number(
        0,
        lo=-100,
        hi=100,
        unit="%",
        step=1,
        label="Slope",
        advanced=True,
        when=(("style", SEPARATE), ("cluster", (">", 1))),
        help="How much shorter the last bar of a cluster is than its first; below 0 the first.",
    )
    cluster_rate: float = rate(
        0,
        lo=0,
        hi=12,
        unit="Hz",
        label="Spread rate",
        advanced=True,
        when=(("style", SEPARATE), ("cluster", (">", 1))),
        help="How often the differences change; 0 keeps them.",
    )
    seed: int = whole(
        1,
        lo=0,
        hi=9999,
        advanced=True,
        when=(("style", SEPARATE), ("cluster", (">", 1))),
        help="Another number, other differences.",
    )
    labels: bool = flag(
        False,
        label="Band names",
        advanced=True,
        when=("spacing", NAMED),
        help="Writes each band's nominal frequency, or its pitch class, below it.",
    )
    label_size: float = number(
        2.6,
        lo=0.5,
        hi=10,
        unit="%",
        label="Name size",
        advanced=True,
        when=_NAMED,
        help="Name size, as a share of the frame's short side.",
    )
    label_colour: str = colour("#bda9b4", label="Name colour", advanced=True, when=_NAMED, help="Colour of the names.")

    quiet_db: float = quiet(-58, help="Level at which a bar begins to stand.")
    loud_db: float = loud(-16, help="Level at which a bar has its full length.")
    tilt_db: float = number(
        3,
        lo=-6,
        hi=12,
        unit=TILT_UNIT,
        label="Tilt",
        group="sound",
        help="Lifts bands above 1 kHz and lowers others; music falls with pitch.",
    )
    spacing: str = choice(
        "log", SPACINGS | {"typed": "Typed edges"}, group="sound", help="How the bands share the range."
    )
    edges: str = band_text(
        "40-80, 80-160, 160-320, 320-640, 640-1.3k, 1.3k-2.5k, 2.5k-5k, 5k-10k",
        most=4000,
        label="Edges",
        help="Bands in Hz, parted by commas; none may begin before the one before it ends.",
        when=("spacing", ("typed",)),
    )
    hears: str = choice(
        "level",
        HEARS,
        label="Hears",
        group="sound",
        help="The level of a band, its peak, how strongly it attacks, or how far it stands out from its own average.",
    )
    own_range: bool = flag(
        False,
        label="Own range for each band",
        group="sound",
        help="Quiet and loud are read from the recording for each band, so that each uses its whole height.",
    )
    listens: str = heard_sound()
    channel: str = choice(
        "mix",
        CHANNELS | {"halves": "Left and right halves", "mid-side": "Mid and side halves"},
        group="sound",
        help="The part of the stereo sound that is read; or one part on the first half and one on the second.",
        advanced=True,
    )
    smooth: float = number(
        0,
        lo=0,
        hi=24,
        unit="bands",
        label="Smoothing",
        group="sound",
        advanced=True,
        help="Spreads each band over its neighbours; the sum stays.",
    )

    neighbours_by: str = choice(
        "mean",
        {"mean": "Mean", "highest": "Highest"},
        label="Neighbours by",
        group="sound",
        advanced=True,
        when=("smooth", ((">", 0),)),
        help="Whether smoothing takes the mean of neighbouring bands, or the highest.",
    )

    attack_ms: float = attack(12, of="a bar")
    release_ms: float = release(170, of="a bar")
    average_ms: float = number(
        0,
        lo=0,
        hi=10_000,
        unit="ms",
        step=1,
        label="Average",
        group="motion",
        curve="log",
        advanced=True,
        help="Shows the mean of this stretch around the moment.",
    )
    average_by: str = choice(
        "mean",
        {"mean": "Mean", "highest": "Highest"},
        label="Average by",
        group="motion",
        advanced=True,
        when=("average_ms", ((">", 0),)),
        help="Whether the stretch shows its mean power, or the highest.",
    )
    echoes: int = whole(
        0, lo=0, hi=16, group="motion", help="Earlier spectra behind this one, each smaller and dimmer.", advanced=True
    )
    echo_ms: float = number(
        80,
        lo=5,
        hi=2000,
        unit="ms",
        step=1,
        label="Echo delay",
        group="motion",
        advanced=True,
        when=_ECHOED,
        help="Time from one to the next.",
    )
    echo_size: float = number(
        92,
        lo=20,
        hi=100,
        unit="%",
        step=0.5,
        label="Echo size",
        group="motion",
        advanced=True,
        when=_ECHOED,
        help="Size of each, of the one before.",
    )
    echo_opacity: float = percent(
        70,
        label="Echo opacity",
        group="motion",
        advanced=True,
        when=_ECHOED,
        help="Opacity of each, of the one before.",
    )
    caps: bool = flag(
        False,
        group="motion",
        help="A mark on each bar that stays at its last top, then falls.",
        when=("style", SEPARATE),
    )
    cap_hold_ms: float = number(
        400,
        lo=0,
        hi=5000,
        unit="ms",
        step=10,
        label="Cap hold",
        group="motion",
        when=("caps", (True,)),
        help="How long a cap stays.",
    )
    cap_fall: float = number(
        60,
        lo=2,
        hi=1000,
        unit="%/s",
        step=1,
        label="Cap fall rate",
        group="motion",
        when=("caps", (True,)),
        help="How fast it falls then, of the full height.",
    )
    cap_size: float = number(
        0.7,
        lo=0.05,
        hi=6,
        unit="%",
        label="Cap size",
        group="motion",
        advanced=True,
        when=("caps", (True,)),
        help="Thickness of a cap, of the frame's short side.",
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        result = super().check(values) + range_problems(values)
        if values["spacing"] == "typed":
            try:
                parse_bands(values["edges"], MOST_BANDS, apart=True)
            except ValueError as problem:
                result.append(("edges", str(problem)))
        return result

    @property
    def reads(self) -> BarSettings:
        """What is read of the sound, of the mix where two channels are shown."""
        return BarSettings(
            count=self.bands,
            low_hz=self.low_hz,
            # Patches can move the two past each other.
            high_hz=max(self.high_hz, self.low_hz * 1.05),
            spacing="log" if self.spacing == "typed" else self.spacing,  # type: ignore[arg-type]
            channel="mix" if self.channel in PAIRS else self.channel,
            quiet_db=self.quiet_db,
            loud_db=self.loud_db,
            tilt_db=self.tilt_db,
            attack_ms=self.attack_ms,
            release_ms=self.release_ms,
            smooth_bands=self.smooth,
            average_ms=self.average_ms,
            hears=self.hears,
            own_range=self.own_range,
            edges=tuple(parse_bands(self.edges, MOST_BANDS)) if self.spacing == "typed" else (),
            average_by=self.average_by,
            neighbours_by=self.neighbours_by,
        )

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        """Levels, tilt and the end of the range."""
        return fitted_range(cls(settings).reads, use)

    @classmethod
    def refitted(cls, settings: dict[str, Any], before: AudioRange, after: AudioRange) -> dict[str, Any]:
        return refitted_range(cls(settings).reads, before, after)
