"""What to watch out for before a video is posted, each in one line, with what can be done about it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from fractions import Fraction
from typing import Any

from velvetdrum.deliver.checks.frame_measures import Findings
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.picture.frame.contrast import pale_layers
from velvetdrum.picture.frame.handles import handles, misfits
from velvetdrum.picture.frame.render import signals_of
from velvetdrum.scene.document import Project
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.views import judged

_SILENT_S = 0.6
_EARLY_S = 0.12
_PINNED = 0.25
_MOST_EACH = 3


@dataclass(frozen=True)
class WatchOut:
    """A check, whether all is well, a sentence, and what one press does: its label, and a frame to go to, a room, a
    layer, a signal, or a part of the project (seconds) to export."""

    check: str
    good: bool
    text: str
    act: str = ""
    target: dict[str, Any] = field(default_factory=dict)

    def values(self) -> dict[str, Any]:
        """As plain values."""
        return asdict(self)


def watch_outs(
    project: Project,
    use: AudioRange | None,
    plan: ExportPlan,
    found: Findings,
    sizes: Sequence[FrameSize],
    media: Mapping[str, str] | None = None,
) -> list[WatchOut]:
    """All checks of what a look has found; those that found nothing say so.

    Parameters
    ----------
    project
        The project.
    use
        The used stretch of a recording.
    plan
        What is exported: frames, size, rate, format.
    found
        What was read, or found.
    sizes
        Sizes of the channels that it goes to.
    media
        Paths of the project's files by content hash.
    """
    return [
        *_flashes(plan, found),
        *_sound(use, plan),
        *_together(use, plan, found),
        *_stretches(plan, found),
        *_places(project, use, plan, sizes, media),
        *_contrast(project, use, plan, media),
        *_signals(project, use),
        *_cover(plan, found),
    ]


def _frame(plan: ExportPlan, seconds: float) -> int:
    return min(plan.first + round(seconds * plan.fraction), plan.last - 1)


def clock(seconds: float) -> str:
    """Seconds as people say them.

    Parameters
    ----------
    seconds
        Seconds.
    """
    return f"{int(seconds // 60)}:{seconds % 60:04.1f}"


def _signed(value: float) -> str:
    return f"{value:.1f}".replace("-", "−")


def _flashes(plan: ExportPlan, found: Findings) -> list[WatchOut]:
    if not found.flashes:
        most = max((*found.curve[0], *found.curve[1]), default=0.0)
        return [WatchOut("Flashes", True, f"{most:.0f} in a second at the most; three are allowed")]
    out: list[WatchOut] = []
    ends: dict[str, float] = {}
    for number, span in enumerate(found.flashes):
        # What goes on soon after is the same stretch.
        near = span.start_s - ends.get(span.kind, -10.0) < 2.0
        ends[span.kind] = span.end_s
        if near or len(out) == _MOST_EACH:
            continue
        red = "red ones, " if span.kind == "red" else ""
        at = span.end_s
        text = f"{span.per_s:.0f} in one second at {clock(float(plan.start_s) + at)}, {red}over a quarter of the view"
        target = {"frame": _frame(plan, at), "soften": number}
        out.append(WatchOut("Flashes", False, text, "go there", target))
    return out


def _sound(use: AudioRange | None, plan: ExportPlan) -> list[WatchOut]:
    if use is None:
        return [WatchOut("Sound", False, "There is none in this project")]
    facts, out = use.recording.facts, []
    begin, end = use.in_s + float(plan.start_s), min(use.in_s + float(plan.stop_s), use.out_s)
    early, late = facts.first_sound_s - begin, end - facts.last_sound_s
    # A hundredth before the first sound, so that its onset is whole.
    first = max(facts.first_sound_s - use.in_s - 0.05, 0.0)
    last = min(facts.last_sound_s - use.in_s + 0.3, float(plan.stop_s))
    if early > _SILENT_S:
        target = {"part": [round(first, 3), float(plan.stop_s)]}
        out.append(WatchOut("Sound", False, f"Silent for {early:.1f} s at the start", "begin at the sound", target))
    if late > _SILENT_S:
        target = {"part": [float(plan.start_s), round(last, 3)]}
        out.append(WatchOut("Sound", False, f"Silent for {late:.1f} s at the end", "end with the sound", target))
    if facts.sample_peak_dbfs >= -0.01 and facts.true_peak_dbtp > 0.3:
        text = (
            f"Clipped: it peaks at {_signed(facts.true_peak_dbtp)} dBTP. A loudness under a true peak keeps it below 0"
        )
        out.append(WatchOut("Sound", False, text, "bring it to −14 LUFS", {"loudness": -14}))
    return out or [WatchOut("Sound", True, f"Peaks at {_signed(facts.true_peak_dbtp)} dBTP, no silence at its ends")]


def _together(use: AudioRange | None, plan: ExportPlan, found: Findings) -> list[WatchOut]:
    if use is None or found.moves_s is None:
        return []
    first = max(use.recording.facts.first_sound_s - use.in_s - float(plan.start_s), 0.0)
    if first - found.moves_s > _EARLY_S and first > _EARLY_S:
        text = f"The picture moves {first - found.moves_s:.1f} s before the first sound"
        return [WatchOut("Sound and picture", False, text, "go there", {"frame": _frame(plan, found.moves_s)})]
    return [WatchOut("Sound and picture", True, "nothing moves before the first sound")]


def _stretches(plan: ExportPlan, found: Findings) -> list[WatchOut]:
    out = []
    for name, spans in (("black", found.black), ("frozen", found.frozen)):
        for begin, end in spans[:_MOST_EACH]:
            at = clock(float(plan.start_s) + begin)
            text = f"The picture is {name} for {end - begin:.1f} s from {at} on"
            out.append(WatchOut("Picture", False, text, "go there", {"frame": _frame(plan, begin)}))
    return out or [WatchOut("Picture", True, "never black, never frozen")]


def _places(
    project: Project,
    use: AudioRange | None,
    plan: ExportPlan,
    sizes: Sequence[FrameSize],
    media: Mapping[str, str] | None,
) -> list[WatchOut]:
    """What lies outside of a frame, or under what channels lay over it, at five moments."""
    out: dict[str, WatchOut] = {}
    span = plan.last - plan.first
    for size in sizes:
        for share in (0.02, 0.25, 0.5, 0.75, 0.98):
            frame = plan.first + min(int(span * share), span - 1)
            time: Fraction = project.time_of(frame)
            for sentence in misfits(project, handles(project, use, time, size, media), size):
                # The same layer at another moment is the same thing to mend.
                name = sentence.split(" lies ")[0] + sentence.rsplit(" in ", 1)[-1]
                target = {"frame": frame, "shape": size.shape}
                out.setdefault(name, WatchOut("Words and marks", False, sentence.rstrip("."), "go there", target))
    return [*out.values()][: 2 * _MOST_EACH] or [
        WatchOut("Words and marks", True, "nothing lies under a channel's own")
    ]


def _contrast(
    project: Project, use: AudioRange | None, plan: ExportPlan, media: Mapping[str, str] | None
) -> list[WatchOut]:
    """Words that are hard to read against what is behind them."""
    out = []
    for placed, ratio, time in pale_layers(project, use, media, float(plan.start_s), float(plan.stop_s)):
        text = f"{placed.name} is hard to read at {clock(time)}: {ratio:.1f}:1 against what is behind it"
        target = {"frame": _frame(plan, time - float(plan.start_s)), "layer": placed.id, "room": "picture"}
        out.append(WatchOut("Contrast", False, text, "go there", target))
    return out[:_MOST_EACH] or [WatchOut("Contrast", True, "words stand out from what is behind them")]


def _signals(project: Project, use: AudioRange | None) -> list[WatchOut]:
    signals, out = signals_of(project, use), []
    used = {patch.signal for placed in project.layers for patch in placed.patches if patch.on}
    for part in project.signals:
        if part.id not in used:
            continue
        result = judged(signals, part.id)
        if result["at_1"] > _PINNED and result["advice"]:
            text = f"{part.name} stands at its top for {result['at_1']:.0%} of the time"
            out.append(WatchOut("Signals", False, text, "go there", {"room": "sound", "signal": part.id}))
    return out[:_MOST_EACH] or [WatchOut("Signals", True, "none stands at its top")]


def _cover(plan: ExportPlan, found: Findings) -> list[WatchOut]:
    if found.first_spread < 5.0 or found.first_spread < 0.2 * found.usual_spread:
        text = "The first frame is nearly empty; on many channels it becomes the cover"
        return [WatchOut("Cover", False, text, "make a cover here", {"cover": True})]
    return [WatchOut("Cover", True, "the first frame shows something", "make a cover here", {"cover": True})]
