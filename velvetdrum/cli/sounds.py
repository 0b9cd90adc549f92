"""Commands that answer questions about a sound."""

from __future__ import annotations

import contextlib
import json
import tempfile
from collections.abc import Iterator
from dataclasses import asdict
from fractions import Fraction
from pathlib import Path

import click

from velvetdrum.audio.analysis import Analysis
from velvetdrum.cli.analyses import analysis_into
from velvetdrum.cli.parameters import BandParameter, RateParameter
from velvetdrum.cli.sentences import OUT, SOUND, Sentence, sentences, write_text
from velvetdrum.deliver.bundle import content_hash


@click.command("analyse")
@click.argument("sound", type=SOUND)
@click.option("-o", "--output", type=OUT, help="Where to write the JSON; standard output without it.")
def analyse_command(sound: Path, output: Path | None) -> None:
    """Measure a recording: length, loudness, true peak, first and last sound, tempo and beats. Writes JSON."""
    with sentences(), analysed(sound) as recording:
        write_text(json.dumps(asdict(recording.facts), indent=2) + "\n", output)


@click.command("beats")
@click.argument("sound", type=SOUND)
@click.option("-o", "--output", type=OUT, help="Where to write the CSV; standard output without it.")
def beats_command(sound: Path, output: Path | None) -> None:
    """Find the beats of a recording. Writes CSV with beat and time_s."""
    with sentences(), analysed(sound) as recording:
        facts = recording.facts
        if facts.tempo_bpm is None:
            raise Sentence(f"There is no steady beat in {sound.name} (confidence {facts.tempo_confidence:.2f}).")
        lines = [f"{number},{time:.4f}" for number, time in enumerate(facts.beats_s, 1)]
        write_text("beat,time_s\n" + "\n".join(lines) + "\n", output)
    click.echo(f"{facts.tempo_bpm:.2f} bpm, confidence {facts.tempo_confidence:.2f}, {len(lines)} beats.", err=True)


@click.command("curve")
@click.argument("sound", type=SOUND)
@click.option("--band", type=BandParameter(), required=True, help="Lower and upper edge in Hz, like 80:160.")
@click.option(
    "--detect",
    type=click.Choice(["level", "peak", "hits"]),
    default="level",
    show_default=True,
    help="RMS level, highest value, or strokes.",
)
@click.option(
    "--channel",
    type=click.Choice(["mix", "left", "right", "mid", "side"]),
    default="mix",
    show_default=True,
    help="The part of the stereo sound.",
)
@click.option("--attack", type=float, default=0.0, show_default=True, metavar="MS", help="Time to 63 % of a rise.")
@click.option("--release", type=float, default=0.0, show_default=True, metavar="MS", help="Time to 63 % of a fall.")
@click.option("--quiet", type=float, metavar="DB", help="Level that becomes 0; read from the recording without it.")
@click.option("--loud", type=float, metavar="DB", help="Level that becomes 1; read from the recording without it.")
@click.option("--rate", type=RateParameter(), default="30", show_default=True, help="Lines per second.")
@click.option("-o", "--output", type=OUT, help="Where to write the CSV; standard output without it.")
def curve_command(
    sound: Path,
    band: tuple[float, float],
    detect: str,
    channel: str,
    attack: float,
    release: float,
    quiet: float | None,
    loud: float | None,
    rate: Fraction,
    output: Path | None,
) -> None:
    """Follow a band of a recording. Writes CSV with time_s, value (0 to 1) and level_db."""
    from velvetdrum.signals.audio_range import AudioRange
    from velvetdrum.signals.kinds import SignalContext
    from velvetdrum.signals.pickup_fit import fit_pickup
    from velvetdrum.signals.sources.pickup import Pickup
    from velvetdrum.signals.tables import sample_times

    settings = {
        "low_hz": band[0],
        "high_hz": band[1],
        "detector": detect,
        "channel": channel,
        "attack_ms": attack,
        "release_ms": release,
    }
    with sentences(), analysed(sound) as recording:
        nyquist = recording.facts.sample_rate / 2
        if band[1] > nyquist:
            raise Sentence(f"{sound.name} has nothing above {nyquist:g} Hz, half its sample rate; lower the band.")
        use = AudioRange(recording, 0.0, recording.facts.duration_s)
        if quiet is None or loud is None:
            fitted = fit_pickup(Pickup(settings), use, use.out_s, 0.0, use.out_s)
            quiet, loud = fitted[0] if quiet is None else quiet, fitted[1] if loud is None else loud
        settings |= {"quiet_db": quiet, "loud_db": loud}
        for _, sentence in Pickup.problems(settings):
            raise Sentence(sentence)
        pickup = Pickup(settings)
        times = sample_times(use.out_s, rate)
        values = pickup.values(times, SignalContext(use, None, use.out_s, lambda ident, at: at))
        levels = pickup.levels_at(times, use, use.out_s)
        rows = zip(times, values, levels, strict=True)
        lines = [f"{time:.6f},{value:.6f},{level:.2f}" for time, value, level in rows]
        write_text("time_s,value,level_db\n" + "\n".join(lines) + "\n", output)


@contextlib.contextmanager
def analysed(sound: Path) -> Iterator[Analysis]:
    """The analysis of a sound, for as long as the block lasts."""
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as folder:
        target = Path(folder) / "analysis"
        analysis_into(sound, target, content_hash(sound))
        yield Analysis(target)
