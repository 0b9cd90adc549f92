"""The command line. It says what the studio says, with the same core behind it."""

from __future__ import annotations

import os

# Many small matrix products on several workers: one thread each is faster than all cores for each.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import contextlib
import json
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict
from fractions import Fraction
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import click

from velvetdrum import __version__
from velvetdrum.audio.analysing import analyse
from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.errors import SoundError
from velvetdrum.deliver.bundle import content_hash, read_bundle, write_bundle
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job, Sources, run_export, used_part
from velvetdrum.deliver.plan import plan_export
from velvetdrum.kinds.settings import SettingError
from velvetdrum.picture.footage.preparing import clip_facts, write_sound
from velvetdrum.picture.layers.footage import Footage
from velvetdrum.picture.render import encode_still, render
from velvetdrum.picture.starting import starting_design
from velvetdrum.scene.document import Document, ProjectError, new_document, new_track, parse
from velvetdrum.scene.frames import FRAMES, RATES, FrameError, FrameSize, parse_rate
from velvetdrum.signals.kinds import Around
from velvetdrum.signals.ranging import fit_pickup
from velvetdrum.signals.sources.pickup import NYQUIST_HZ, Pickup
from velvetdrum.signals.tables import sample_times
from velvetdrum.signals.use import Use

SOUND = click.Path(exists=True, dir_okay=False, path_type=Path)
OUT = click.Path(dir_okay=False, path_type=Path)


class Sentence(click.ClickException):
    """Ends the command with exit code 1 and one sentence on stderr."""

    def show(self, file: Any = None) -> None:
        click.echo(f"velvetdrum: {self.message}", err=True)


@contextlib.contextmanager
def sentences() -> Iterator[None]:
    """Turn what the core raises into a sentence; nobody sees a traceback for a bad file."""
    try:
        yield
    except (SoundError, DeliverError, ProjectError, FrameError, SettingError) as problem:
        raise Sentence(str(problem)) from problem
    except OSError as problem:
        raise Sentence(f"{problem.filename or 'A file'}: {problem.strerror or problem}.") from problem


class FrameParameter(click.ParamType):
    """`wide`, `square`, `tall`, `portrait`, `large` or WIDTHxHEIGHT."""

    name = "frame"

    def convert(self, value: Any, param: Any, ctx: Any) -> FrameSize:
        try:
            return value if isinstance(value, FrameSize) else FrameSize.parse(value)
        except FrameError as problem:
            self.fail(str(problem), param, ctx)


class RateParameter(click.ParamType):
    """A frame rate by its usual name or as an exact fraction."""

    name = "rate"

    def convert(self, value: Any, param: Any, ctx: Any) -> Fraction:
        try:
            return value if isinstance(value, Fraction) else parse_rate(value)
        except FrameError as problem:
            self.fail(str(problem), param, ctx)


class BandParameter(click.ParamType):
    """Two frequencies in Hz, parted by a colon."""

    name = "low:high"

    def convert(self, value: Any, param: Any, ctx: Any) -> tuple[float, float]:
        if isinstance(value, tuple):
            return value
        try:
            low, high = (float(part) for part in str(value).split(":"))
        except ValueError:
            self.fail(f"{value!r} is no band; write it like 80:160, in Hz.", param, ctx)
        if not 10 <= low < high <= NYQUIST_HZ:
            self.fail(f"A band lies between 10 and {NYQUIST_HZ:g} Hz, its lower edge first; {value} does not.",
                      param, ctx)  # fmt: skip
        return low, high


FRAME_HELP = f"{', '.join(FRAMES)}, or a size like 1280x720."


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="velvetdrum")
def main() -> None:
    """Velvet Drum turns a song or a voice into pictures that move with it.

    Start the studio with `velvetdrum serve --demo`, or work without it:

    \b
      velvetdrum new song.wav -o song.vdrum     a project with the starting design
      velvetdrum frame song.vdrum --at 12 -o still.png
      velvetdrum render song.vdrum -o song.mp4  the finished video
    """


@main.command()
@click.option("--demo", is_flag=True, help="Put the demo project into the data folder if it is not there.")
@click.option("--host", default="127.0.0.1", show_default=True, help="Address to listen on.")
@click.option("--port", default=8765, show_default=True, type=click.IntRange(1, 65535), help="Port to listen on.")
@click.option("--data", type=click.Path(file_okay=False, path_type=Path), default=Path("data"), show_default=True,
              help="Folder for projects, recordings and exports.")  # fmt: skip
@click.option("--allow-host", "hosts", multiple=True, metavar="NAME", help="A further name that it is opened under.")
@click.option("--behind-tls", is_flag=True, help="Other machines reach it through TLS: its cookie goes no other way.")
def serve(demo: bool, host: str, port: int, data: Path, hosts: tuple[str, ...], behind_tls: bool) -> None:
    """Start the studio and print its address. On any other address than loopback it asks for a password."""
    from velvetdrum.studio.serving import run_server

    with sentences():
        run_server(data, host=host, port=port, demo=demo, hosts=hosts, behind_tls=behind_tls)


@main.command()
@click.option("--data", type=click.Path(file_okay=False, path_type=Path), default=Path("data"), show_default=True,
              help="Folder for projects, recordings and exports.")  # fmt: skip
@click.password_option(help="The new password; asked for without it.")
def password(data: Path, password: str) -> None:
    """Set the password that is asked for when other machines can reach the studio; signs everybody out."""
    from velvetdrum.store import sessions
    from velvetdrum.store.db import open_database
    from velvetdrum.studio.access import LONGEST, SHORTEST, Passwords

    if not SHORTEST <= len(password) <= LONGEST:
        raise Sentence(f"A password has {SHORTEST} to {LONGEST} characters.")
    with sentences():
        data.mkdir(parents=True, exist_ok=True)
        Passwords(data).set(password)
        sessions.end_all(open_database(data / "velvetdrum.sqlite3"))
    click.echo("The password is set.")


@main.command("analyse")
@click.argument("sound", type=SOUND)
@click.option("-o", "--output", type=OUT, help="Where to write the JSON; standard output without it.")
def analyse_command(sound: Path, output: Path | None) -> None:
    """Measure a recording: length, loudness, true peak, first and last sound, tempo and beats. Writes JSON."""
    with sentences(), _analysed(sound) as recording:
        _write(json.dumps(asdict(recording.facts), indent=2) + "\n", output)


@main.command("beats")
@click.argument("sound", type=SOUND)
@click.option("-o", "--output", type=OUT, help="Where to write the CSV; standard output without it.")
def beats_command(sound: Path, output: Path | None) -> None:
    """Find the beats of a recording. Writes CSV with beat and time_s."""
    with sentences(), _analysed(sound) as recording:
        facts = recording.facts
        if facts.tempo_bpm is None:
            raise Sentence(f"There is no steady beat in {sound.name} (confidence {facts.tempo_confidence:.2f}).")
        lines = [f"{number},{time:.4f}" for number, time in enumerate(facts.beats_s, 1)]
        _write("beat,time_s\n" + "\n".join(lines) + "\n", output)
    click.echo(f"{facts.tempo_bpm:.2f} bpm, confidence {facts.tempo_confidence:.2f}, {len(lines)} beats.", err=True)


@main.command("curve")
@click.argument("sound", type=SOUND)
@click.option("--band", type=BandParameter(), required=True, help="Lower and upper edge in Hz, like 80:160.")
@click.option("--detect", type=click.Choice(["level", "peak", "hits"]), default="level", show_default=True,
              help="RMS level, highest value, or strokes.")  # fmt: skip
@click.option("--channel", type=click.Choice(["mix", "left", "right", "mid", "side"]), default="mix",
              show_default=True, help="The part of the stereo sound.")  # fmt: skip
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
    settings = {"low_hz": band[0], "high_hz": band[1], "detector": detect, "channel": channel,
                "attack_ms": attack, "release_ms": release}  # fmt: skip
    with sentences(), _analysed(sound) as recording:
        nyquist = recording.facts.sample_rate / 2
        if band[1] > nyquist:
            raise Sentence(f"{sound.name} has nothing above {nyquist:g} Hz, half its sample rate; lower the band.")
        use = Use(recording, 0.0, recording.facts.duration_s)
        if quiet is None or loud is None:
            fitted = fit_pickup(Pickup(settings), use, use.out_s, 0.0, use.out_s)
            quiet, loud = fitted[0] if quiet is None else quiet, fitted[1] if loud is None else loud
        settings |= {"quiet_db": quiet, "loud_db": loud}
        for _, sentence in Pickup.problems(settings):
            raise Sentence(sentence)
        pickup = Pickup(settings)
        times = sample_times(use.out_s, rate)
        values = pickup.values(times, Around(use, None, use.out_s, lambda ident, at: at))
        levels = pickup.levels_at(times, use, use.out_s)
        rows = zip(times, values, levels, strict=True)
        lines = [f"{time:.6f},{value:.6f},{level:.2f}" for time, value, level in rows]
        _write("time_s,value,level_db\n" + "\n".join(lines) + "\n", output)


@main.command()
@click.argument("sound", type=SOUND)
@click.option("-o", "--output", type=OUT, required=True, help="The project file to write (.vdrum).")
@click.option("--frame", type=FrameParameter(), default="wide", show_default=True, help=FRAME_HELP)
@click.option("--rate", type=RateParameter(), default="30", show_default=True,
              help=f"Frames per second: {', '.join(RATES)}, or a fraction like 30000/1001.")  # fmt: skip
def new(sound: Path, output: Path, frame: FrameSize, rate: Fraction) -> None:
    """Make a project with the starting design and SOUND in it."""
    with sentences(), _analysed(sound) as recording:
        key = content_hash(sound)
        track = new_track(key, sound.name, recording.facts.duration_s)
        layers = starting_design(recording)
        document = new_document(sound.stem[:200] or "Untitled", frame=frame, rate=rate, layers=layers, track=track)
        parse(document)
        write_bundle(output, document, {key: sound})
    click.echo(f"{output}: {recording.facts.duration_s:.1f} s, {frame.width}x{frame.height}.")


@main.command("render")
@click.argument("project", type=SOUND)
@click.option("-o", "--output", type=OUT, required=True, help="The video to write (.mp4).")
@click.option("--from", "from_s", type=click.FloatRange(min=0), metavar="S", help="Start at this second.")
@click.option("--to", "to_s", type=click.FloatRange(min=0), metavar="S", help="End at this second.")
@click.option("--frame", type=FrameParameter(), help=f"Another frame size: {FRAME_HELP}")
@click.option("--workers", type=click.IntRange(1, 64), default=os.cpu_count() or 1, show_default=True,
              help="Processes that draw and encode; the pictures do not depend on it.")  # fmt: skip
def render_command(
    project: Path,
    output: Path,
    from_s: float | None,
    to_s: float | None,
    frame: FrameSize | None,
    workers: int,
) -> None:
    """Render PROJECT to a finished MP4 video."""
    with sentences(), _opened(project) as (document, sources, folder):
        plan = plan_export(document, size=frame, from_s=from_s, to_s=to_s)
        job = Job(document, sources, plan, str(folder / "export"))
        context = get_context("spawn")
        with (
            ProcessPoolExecutor(workers, mp_context=context) as executor,
            click.progressbar(length=plan.frames, label="Rendering", file=sys.stderr) as bar,
        ):
            run_export(job, executor, workers, output, lambda done: bar.update(done - bar.pos))
    click.echo(f"{output}: {plan.frames} frames, {plan.width}x{plan.height}.")


@main.command("frame")
@click.argument("project", type=SOUND)
@click.option("--at", "at_s", type=click.FloatRange(min=0), required=True, metavar="S", help="Second in the project.")
@click.option("-o", "--output", type=OUT, required=True, help="The picture to write (.png).")
@click.option("--frame", type=FrameParameter(), help=f"Another frame size: {FRAME_HELP}")
def frame_command(project: Path, at_s: float, output: Path, frame: FrameSize | None) -> None:
    """Render one frame of PROJECT as a PNG picture."""
    with sentences(), _opened(project) as (document, sources, _):
        parsed = parse(document)
        if at_s > parsed.length_s:
            raise Sentence(f"The project is {parsed.length_s:.2f} s long; there is no picture at {at_s:g} s.")
        index = min(int(Fraction(at_s).limit_denominator(1_000_000) * parsed.rate), parsed.frame_count - 1)
        pixels = render(parsed, used_part(document, sources), parsed.time_of(index), frame, media=sources.media)
        output.write_bytes(encode_still(pixels))


def _write(text: str, output: Path | None) -> None:
    if output:
        output.write_text(text)
    else:
        click.echo(text, nl=False)


@contextlib.contextmanager
def _analysed(sound: Path) -> Iterator[Analysis]:
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as folder:
        yield analyse(sound, Path(folder) / "analysis")


def _clip_sounds(document: Document, shown: dict[str, str], folder: Path) -> dict[str, str]:
    """The sound of the clips that are heard, each in a folder of its own."""
    out = {}
    for placed in parse(document).layers:
        layer = placed.layer
        if isinstance(layer, Footage) and layer.sound == "mixed" and layer.clip in shown:
            target = folder / f"clip-{layer.clip}"
            target.mkdir(exist_ok=True)
            path = Path(shown[layer.clip])
            if clip_facts(path).sound:
                write_sound(path, target)
                out[layer.clip] = str(target)
    return out


@contextlib.contextmanager
def _opened(project: Path) -> Iterator[tuple[Document, Sources, Path]]:
    """A project file unpacked and analysed, for as long as the block lasts."""
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as name:
        folder = Path(name)
        document, media = read_bundle(project, folder)
        shown = {key: str(path) for key, path in media.items() if key in parse(document).media}
        clips = _clip_sounds(document, shown, folder)
        sources = Sources(media=shown, clips=clips)
        for key, path in media.items():
            if key not in shown:
                analyse(path, folder / "analysis", key=key)
                sources = Sources(str(path), str(folder / "analysis"), shown, clips)
        yield document, sources, folder
