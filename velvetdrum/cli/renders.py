"""Commands that draw: a finished video, or one frame."""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import Executor, ProcessPoolExecutor
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import click

from velvetdrum.audio.analysis import is_current
from velvetdrum.cli import WORKERS_IMPORT, readers
from velvetdrum.cli.analyses import analysis_into
from velvetdrum.cli.outputs import form_of, report_lines, write_beside
from velvetdrum.cli.parameters import FRAME_HELP, FrameParameter
from velvetdrum.cli.sentences import OUT, SOUND, Sentence, sentences
from velvetdrum.deliver import cluster
from velvetdrum.deliver.export import Job, Sources, run_export
from velvetdrum.deliver.extras import with_captions
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.video_format import SPEEDS, Speed
from velvetdrum.limits import door
from velvetdrum.limits.process import end_with_parent, worker_context
from velvetdrum.mix.placed_track import MixSpec
from velvetdrum.picture.bases.layer import DrawnLayer
from velvetdrum.scene.document import Document, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.tracks_section import listened, parse_tracks


@click.command("render")
@click.argument("project", type=SOUND)
@click.option(
    "-o",
    "--output",
    type=OUT,
    required=True,
    help="The file to write: .mp4, .webm, .mov, .gif, .apng, .webp, .zip (a PNG each frame), .png (one picture), or"
    " sound alone as .wav, .flac, .m4a, .mp3, .opus.",
)
@click.option(
    "--codec",
    type=click.Choice(["h264", "hevc", "av1", "vp9", "prores"]),
    help="Where a suffix has several: .mp4 takes h264, hevc or av1.",
)
@click.option(
    "--transparent", is_flag=True, help="Nothing behind the layers: .webm, .mov, .gif, .apng, .webp, .zip, .png."
)
@click.option("--from", "from_s", type=click.FloatRange(min=0), metavar="S", help="Start at this second.")
@click.option("--to", "to_s", type=click.FloatRange(min=0), metavar="S", help="End at this second.")
@click.option("--frame", type=FrameParameter(), help=f"Another frame size: {FRAME_HELP}")
@click.option(
    "--speed",
    type=click.Choice(list(SPEEDS)),
    default="balanced",
    show_default=True,
    help="How it weighs time against size; all look the same.",
)
@click.option(
    "--loudness", type=click.FloatRange(-40, -5), metavar="LUFS", help="Bring the sound to this integrated loudness."
)
@click.option(
    "--true-peak",
    type=click.FloatRange(-9, 0),
    default=-1.0,
    show_default=True,
    metavar="DBTP",
    help="What its true peak does not pass then.",
)
@click.option(
    "--captions",
    type=click.Choice(["beside", "inside", "burnt"]),
    help="The first cue track as .srt and .vtt files, as a text track in the file, or drawn into the picture.",
)
@click.option("--fade-in", type=click.FloatRange(0, 60), default=0.0, metavar="S", help="Let the sound come so long.")
@click.option("--fade-out", type=click.FloatRange(0, 60), default=0.0, metavar="S", help="Let it go so long.")
@click.option("--loop", is_flag=True, help="Fade the end into what comes before the start, so that it goes round.")
@click.option("--megabytes", type=click.FloatRange(0.1, 100_000), metavar="MB", help="Meet this size, in two passes.")
@click.option("--moments", type=click.IntRange(2, 64), metavar="N", help="A sheet of so many moments (.jpg).")
@click.option(
    "--workers",
    type=click.IntRange(1, 64),
    default=os.cpu_count() or 1,
    show_default=True,
    help="Processes that draw and encode; the pictures do not depend on it.",
)
def render_command(
    project: Path,
    output: Path,
    codec: str | None,
    transparent: bool,
    from_s: float | None,
    to_s: float | None,
    frame: FrameSize | None,
    speed: Speed,
    loudness: float | None,
    true_peak: float,
    captions: str | None,
    fade_in: float,
    fade_out: float,
    loop: bool,
    megabytes: float | None,
    moments: int | None,
    workers: int,
) -> None:
    """Render PROJECT to a finished video, moving pictures, a picture or a sound.

    What is done lies beside the file until all of it is: stopped or killed, the same command goes on from there.
    """
    work = output.with_name(f".{output.name}.part")
    with sentences():
        form = form_of(output, codec, transparent, captions, moments)
        with opened(project, work) as (document, sources, folder):
            if captions == "burnt":
                document = with_captions(document)
            plan = plan_export(
                document,
                size=frame,
                from_s=from_s,
                to_s=to_s,
                speed=speed,
                form=form.name,
                transparent=transparent,
                loudness=loudness,
                true_peak=true_peak,
                captions="inside" if captions == "inside" else "",
                fades=(fade_in, fade_out),
                seamless=loop,
                megabytes=megabytes,
                moments=moments or 9,
            )
            job = Job(document, sources, plan, str(folder / "export"))
            if captions == "beside":
                for written in write_beside(job, output):
                    click.echo(f"{written}: captions.")
            _render(job, workers, output)
            lines = report_lines(job, output)
    shutil.rmtree(work, ignore_errors=True)
    for line in lines:
        click.echo(line)


def _render(job: Job, workers: int, output: Path) -> None:
    bar = ProgressLine(job.plan.frames)
    executor: Executor = ProcessPoolExecutor(
        workers, mp_context=worker_context(*WORKERS_IMPORT), initializer=begin_worker
    )
    if where := cluster.address():
        executor = cluster.ClusterExecutor(where, executor)
        workers = executor.slots
    try:
        run_export(job, executor, workers, output, bar.tell)
    except KeyboardInterrupt:
        bar.end()
        raise Sentence(f"Stopped. {bar.kept()} The same command goes on from there.") from None
    finally:
        executor.shutdown(wait=False, cancel_futures=True)
    bar.end()


def begin_worker() -> None:
    """What a worker does first: Ctrl+C is the command's to handle, and its end is theirs."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with_parent()


class ProgressLine:
    """One line that says how far a render is, how fast, and how long it still goes."""

    def __init__(self, frames: int) -> None:
        self._frames = frames
        self._begun: tuple[float, int] | None = None
        self._done = 0
        self._shown = sys.stderr.isatty()
        self._said = 0.0
        self._ended = False

    def tell(self, done: int) -> None:
        """Say how far it is: frames done of so many."""
        now = time.monotonic()
        self._done = done
        if self._begun is None:
            # Frames that an earlier run left do not count for the speed.
            self._begun = (now, done)
            if done:
                click.echo(f"Going on: {done} of {self._frames} frames are done.", err=True)
        ended = done >= self._frames
        if (ended and self._ended) or (not ended and now - self._said < (0.2 if self._shown else 5.0)):
            return
        self._ended = ended
        self._said = now
        since, first = self._begun
        rate = (done - first) / max(now - since, 1e-3)
        left = f", {clock((self._frames - done) / rate)} left" if rate > 0 and done < self._frames else ""
        line = f"Rendering {done} of {self._frames} frames, {rate:.1f} frames/s{left}"
        click.echo(f"\r{line:<72}" if self._shown else line, err=True, nl=not self._shown)

    def kept(self) -> str:
        """Say that segments of an earlier run are used again."""
        return f"{self._done} of {self._frames} frames are kept."

    def end(self) -> None:
        """End the line."""
        if self._shown:
            click.echo("", err=True)


def clock(seconds: float) -> str:
    """Seconds as minutes and seconds."""
    whole = round(seconds)
    return f"{whole // 60}:{whole % 60:02d}"


@click.command("frame")
@click.argument("project", type=SOUND)
@click.option("--at", "at_s", type=click.FloatRange(min=0), required=True, metavar="S", help="Second in the project.")
@click.option("-o", "--output", type=OUT, required=True, help="The picture to write (.png).")
@click.option("--frame", type=FrameParameter(), help=f"Another frame size: {FRAME_HELP}")
def frame_command(project: Path, at_s: float, output: Path, frame: FrameSize | None) -> None:
    """Render one frame of PROJECT as a PNG picture."""
    with sentences(), opened(project) as (document, sources, _):
        parsed = parse(document)
        if at_s > parsed.length_s:
            raise Sentence(f"The project is {parsed.length_s:.2f} s long; there is no picture at {at_s:g} s.")
        index = min(int(Fraction(at_s).limit_denominator(1_000_000) * parsed.rate), parsed.frame_count - 1)
        output.write_bytes(door.read(readers.still, document, sources, index, frame, bounds=door.RECORDING))


def clip_sounds(document: Document, shown: dict[str, str], folder: Path) -> dict[str, str]:
    """The sound of the clips that are heard, each in a folder of its own."""
    out = {}
    for placed in parse(document).layers:
        layer = placed.layer
        own = layer.heard if isinstance(layer, DrawnLayer) else None
        if own is not None and own.clip in shown:
            target = folder / f"clip-{own.clip}"
            target.mkdir(exist_ok=True)
            if door.read(readers.clip_sound, Path(shown[own.clip]), target, bounds=door.RECORDING):
                out[own.clip] = str(target)
    return out


@contextlib.contextmanager
def opened(project: Path, kept: Path | None = None) -> Iterator[tuple[Document, Sources, Path]]:
    """A project file unpacked and analysed, for as long as the block lasts; or in the folder `kept`, which stays."""
    with contextlib.ExitStack() as stack:
        if kept is None:
            folder = Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="velvetdrum-")))
        else:
            folder = kept
            folder.mkdir(exist_ok=True)
        unpacked = folder / "media"
        shutil.rmtree(unpacked, ignore_errors=True)
        unpacked.mkdir()
        document, media = door.read(readers.unpack, project, unpacked, bounds=door.RECORDING)
        shown = {key: str(path) for key, path in media.items() if key in parse(document).media}
        clips = clip_sounds(document, shown, unpacked)
        originals, analyses = {}, {}
        for key, path in media.items():
            if key not in shown:
                analysis = folder / f"analysis-{key[:16]}"
                if not is_current(analysis):
                    analysis_into(path, analysis, key)
                originals[key], analyses[key] = str(path), str(analysis)
        yield document, _sounding(document, originals, analyses, Sources(media=shown, clips=clips), folder), folder


def _sounding(
    document: Document, originals: dict[str, str], analyses: dict[str, str], shown: Sources, folder: Path
) -> Sources:
    """The sources of a document with its sound: the recording, or the sum of its tracks, and what else is heard."""
    sound = parse_tracks(document, [])
    if sound is None:
        return shown

    def made(spec: MixSpec) -> str:
        target = folder / f"sum-{spec.key[:16]}"
        if not is_current(target):
            door.read(readers.analyse_sum, spec.plain(), originals, analyses, target, bounds=door.RECORDING)
        return str(target)

    specs = {name: sound.heard(name) for name in listened(document)}
    heard = {name: made(spec) for name, spec in specs.items() if spec is not None}
    if sound.single:
        return replace(shown, original=originals[sound.key], analysis=analyses[sound.key], heard=heard)
    mix = sound.mix
    return replace(shown, analysis=made(mix), mix=mix.plain(), originals=originals, analyses=analyses, heard=heard)
