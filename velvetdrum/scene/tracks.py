"""The tracks of a project: recordings with their places, levels and what is done to them, and the sum that they are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from velvetdrum.declare.schema import Declared
from velvetdrum.declare.settings import choice, flag, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.mix.placed_track import FADES, PARTS, Ducking, MixSpec, PlacedTrack, VoiceChain

LONGEST_S = 3 * 3600.0
MOST_TRACKS = 32
MOST_POINTS = 2000
ROLES = {
    "": "None",
    "voice": "Voice",
    "bed": "Bed",
    "kick": "Kick",
    "snare": "Snare",
    "hats": "Hats",
    "drums": "Drums",
    "bass": "Bass",
    "keys": "Keys",
    "guitar": "Guitar",
    "strings": "Strings",
}
"""What a track is in the sum, by what projects store."""
COLOURS = ("#e0ac55", "#5fc4b4", "#a99bff", "#ff7a66", "#7cc0f2", "#a8cf6a")
"""Colours of tracks that have none of their own, in turn."""
VOICE = "voice"
_DUCKED = ("ducked", (True,))


class TrackSettings(Declared):
    """What is done to a recording before it is added to the others."""

    title = "Track"

    role: str = choice("", ROLES, help="What it is in the sum: beds go down under voices, words are found in voices.")
    gain_db: float = number(0, lo=-60, hi=24, unit="dB", step=0.1, label="Gain", help="How much louder it is.")
    muted: bool = flag(False, label="Mute", help="It is not in the sum.")
    solo: bool = flag(False, label="Solo", help="While any track is solo, only those are in the sum.")
    pan: float = number(
        0,
        lo=-100,
        hi=100,
        unit="%",
        step=1,
        help="Left or right; a mono track keeps its loudness, of a stereo one the other side is turned down.",
    )
    fade_in_s: float = number(0, lo=0, hi=60, unit="s", step=0.05, label="Fade in", help="From silence, at its begin.")
    fade_out_s: float = number(0, lo=0, hi=60, unit="s", step=0.05, label="Fade out", help="To silence, at its end.")
    fade: str = choice("power", FADES, label="Fade curve", help="How its fades go.", advanced=True)
    ducked: bool = flag(False, label="Down under voices", group="motion", help="It goes down while a voice speaks.")
    depth_db: float = number(
        12, lo=0, hi=40, unit="dB", step=0.5, label="Depth", group="motion", when=_DUCKED, help="How far it goes down."
    )
    threshold_db: float = number(
        -24,
        lo=-40,
        hi=-3,
        unit="dB",
        step=0.5,
        label="Threshold",
        group="motion",
        when=_DUCKED,
        advanced=True,
        help="What counts as speech, below the loud syllables of each voice.",
    )
    attack_ms: float = number(
        150,
        lo=5,
        hi=2000,
        unit="ms",
        step=5,
        label="Attack",
        group="motion",
        when=_DUCKED,
        help="How long it takes to go down; it is down when the first syllable comes.",
    )
    hold_ms: float = number(
        500,
        lo=0,
        hi=5000,
        unit="ms",
        step=10,
        label="Hold",
        group="motion",
        when=_DUCKED,
        help="How long it stays down after a voice; pauses that are shorter do not lift it.",
    )
    release_ms: float = number(
        600,
        lo=5,
        hi=5000,
        unit="ms",
        step=10,
        label="Release",
        group="motion",
        when=_DUCKED,
        help="How long it takes to come back.",
    )
    high_pass_hz: float = number(
        0,
        lo=0,
        hi=300,
        unit="Hz",
        step=1,
        label="High-pass",
        group="sound",
        help="Leaves out rumble and blows below this frequency, 12 dB an octave; 0 leaves it as it is.",
    )
    level: float = percent(0, step=1, label="Even sentences", group="sound", help="Brings sentences to one loudness.")
    gate: float = percent(0, step=1, label="Quiet in pauses", group="sound", help="Turns it down where nobody speaks.")
    deess: float = percent(0, step=1, label="De-ess", group="sound", help="Holds sharp s and sh down.")

    @property
    def chain(self) -> VoiceChain:
        """What makes a voice even."""
        return VoiceChain(self.high_pass_hz, self.level / 100, self.gate / 100, self.deess / 100)


@dataclass(frozen=True)
class Track:
    """A recording in the project. Second `at_s` of the timeline is second `in_s` of the recording; it goes on for
    `length_s` seconds, again and again where that is more than from `in_s` to `out_s`."""

    id: str
    media: str
    name: str
    in_s: float
    out_s: float
    at_s: float
    length_s: float
    colour: str = ""
    settings: TrackSettings | None = None
    gain: tuple[tuple[float, float], ...] = ()
    """Seconds of the timeline and gains in dB, in order of time."""

    @property
    def plain(self) -> bool:
        """True for one that is heard as its recording lies on the disk."""
        as_it_lies = self.at_s == self.in_s and self.length_s == self.out_s - self.in_s
        neutral = self.settings is None or placed(self, ()) == placed(self, ()).alone
        return as_it_lies and not self.gain and neutral


@dataclass(frozen=True)
class Tracks:
    """All tracks of a project and what is used of their sum, in seconds of the timeline."""

    tracks: tuple[Track, ...]
    in_s: float
    out_s: float

    @property
    def single(self) -> bool:
        """True where the sum is one recording as it lies on the disk."""
        return len(self.tracks) == 1 and self.tracks[0].plain

    @property
    def mix(self) -> MixSpec:
        """The sum: tracks that are not muted, and voices that others go down under."""
        return mix_of_tracks(self.tracks)

    @property
    def key(self) -> str:
        """The content hash of the one recording, or the name of the sum."""
        return self.tracks[0].media if self.single else self.mix.key

    @property
    def voices(self) -> MixSpec | None:
        """The voices alone, before their faders: where words are found. None where the sum is all that there is."""
        named = [track for track in self.tracks if track.settings is not None and track.settings.role == VOICE]
        return MixSpec(tuple(placed(track, ()).alone for track in named)) if named and not self.single else None

    def heard(self, name: str) -> MixSpec | None:
        """What a name of a heard sound stands for: the empty one for the sum, an id for a track before its fader, each
        with `/percussive` or `/harmonic` for a part. None where there is no such track or part.

        Parameters
        ----------
        name
            The name.
        """
        ident, _, part = name.partition("/")
        if (part or "all") not in PARTS:
            return None
        if not ident:
            return MixSpec(self.mix.tracks, part or "all")
        track = next((track for track in self.tracks if track.id == ident), None)
        return None if track is None else MixSpec((placed(track, ()).alone,), part or "all")


def placed(track: Track, voices: Sequence[str], *, heard: bool = True) -> PlacedTrack:
    """A track as the mix takes it.

    Parameters
    ----------
    track
        The track.
    voices
        Ids of tracks that it goes down under.
    heard
        False for one that only others go down under.
    """
    own = track.settings or TrackSettings(TrackSettings.defaults())
    ducking = None
    if own.ducked and voices:
        ducking = Ducking(own.depth_db, own.threshold_db, own.attack_ms, own.hold_ms, own.release_ms, tuple(voices))
    return PlacedTrack(
        track.id,
        track.media,
        track.at_s,
        track.in_s,
        track.out_s,
        track.length_s,
        own.gain_db,
        own.pan / 100,
        own.fade_in_s,
        own.fade_out_s,
        own.fade,
        track.gain,
        own.chain,
        ducking,
        heard,
    )


def mix_of_tracks(tracks: Sequence[Track]) -> MixSpec:
    """The sum of tracks.

    Parameters
    ----------
    tracks
        All of them.
    """
    own = {track.id: track.settings or TrackSettings(TrackSettings.defaults()) for track in tracks}
    solo = any(settings.solo for settings in own.values())
    heard = {ident for ident, settings in own.items() if not settings.muted and (settings.solo or not solo)}
    voices = [track.id for track in tracks if own[track.id].role == VOICE and not own[track.id].muted]
    out = []
    for track in tracks:
        by = [ident for ident in voices if ident != track.id]
        needed = track.id in voices and any(own[other].ducked for other in heard if other != track.id)
        if track.id in heard or needed:
            out.append(placed(track, by, heard=track.id in heard))
    return MixSpec(tuple(out))
