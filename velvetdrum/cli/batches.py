"""A command for many episodes at once."""

from __future__ import annotations

import csv
import hashlib
import io
import os
import shutil
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import click

import velvetdrum.looks.shelf  # noqa: F401  (makes the looks known)
from velvetdrum.audio.analysis import Analysis, is_current
from velvetdrum.audio.errors import SoundError
from velvetdrum.cli import WORKERS_IMPORT, readers
from velvetdrum.cli.analyses import analysis_into
from velvetdrum.cli.renders import begin_worker, clip_sounds
from velvetdrum.cli.sentences import SOUND, Sentence, sentences
from velvetdrum.deliver.batch import Episode, filled, lacking, read_episodes
from velvetdrum.deliver.bundle import content_hash
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job, Sources, run_export
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.video_format import SPEEDS, Speed
from velvetdrum.limits import door
from velvetdrum.limits.process import worker_context
from velvetdrum.looks.open_places import Filling
from velvetdrum.looks.open_places import filled as in_look
from velvetdrum.looks.refit import refitted
from velvetdrum.looks.shelf_look import LOOKS, ident_of
from velvetdrum.picture.media.pictures import PictureError, prepare_picture
from velvetdrum.scene.cue_tracks import stored_cue
from velvetdrum.scene.document import Document, new_track, parse
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.words.cue_files import read_cues, read_words
from velvetdrum.words.cues import CueError, CueList

REPORT = "report.csv"
HEAD = ("line", "title", "state", "files", "seconds", "message")


@click.command("batch")
@click.argument("template", type=SOUND)
@click.argument("episodes", type=SOUND)
@click.option(
    "-o",
    "--output",
    type=click.Path(file_okay=False, path_type=Path),
    required=True,
    help="The folder for the videos and the report.",
)
@click.option("--frames", default="", help=f"Sizes, parted by commas: {', '.join(FRAMES)} or like 1280x720.")
@click.option("--speed", type=click.Choice(list(SPEEDS)), default="balanced", show_default=True, help="As of render.")
@click.option("--loudness", type=click.FloatRange(-40, -5), metavar="LUFS", help="Bring each sound to this loudness.")
@click.option(
    "--workers", type=click.IntRange(1, 64), default=os.cpu_count() or 1, show_default=True, help="Processes."
)
@click.option("--dry-run", is_flag=True, help="Say what is missing, and make nothing.")
def batch_command(
    template: Path,
    episodes: Path,
    output: Path,
    frames: str,
    speed: Speed,
    loudness: float | None,
    workers: int,
    dry_run: bool,
) -> None:
    """Make a video of every row of the table EPISODES (CSV: sound, title, speaker, captions or transcript, cover, look)
    from the project TEMPLATE, or in the row's look. Files are looked for beside the table. The same command goes on
    where it was stopped."""
    with sentences():
        rows = door.read(read_episodes, episodes)
        named = [name.strip() for name in frames.split(",") if name.strip()]
        sizes: list[FrameSize | None] = [FrameSize.parse(name) for name in named] or [None]
        missing = lacking(rows)
        for line, said in missing.items():
            for sentence in said:
                click.echo(f"Line {line}: {sentence}", err=True)
        if dry_run:
            click.echo(f"{len(rows)} episodes, {len(sizes)} sizes each; {len(missing)} lack something.")
            if missing:
                raise SystemExit(1)
            return
        output.mkdir(parents=True, exist_ok=True)
        work = output / ".batch"
        work.mkdir(exist_ok=True)
        shutil.rmtree(work / "template", ignore_errors=True)
        (work / "template").mkdir()
        document, media = door.read(readers.unpack, template, work / "template", bounds=door.RECORDING)
        report: list[tuple[Any, ...]] = []
        executor = ProcessPoolExecutor(workers, mp_context=worker_context(*WORKERS_IMPORT), initializer=begin_worker)
        try:
            for row in rows:
                begin = time.monotonic()
                state, message = "failed", " ".join(missing.get(row.line, []))
                files: list[str] = []
                if not message:
                    try:
                        make = BatchOutput(document, media, sizes, output, work, executor, speed, loudness, workers)
                        files, again = make.episode(row)
                        state = "kept" if again else "done"
                    except (SoundError, DeliverError, PictureError, CueError, ValueError, OSError) as problem:
                        message = str(problem)
                report.append(
                    (row.line, row.title, state, " ".join(files), round(time.monotonic() - begin, 1), message)
                )
                _write_report(output / REPORT, report)
                click.echo(f"{row.title}: {state}{'. ' + message if message else '.'}")
        finally:
            executor.shutdown(wait=False, cancel_futures=True)
        failed = sum(item[2] == "failed" for item in report)
        if not failed:
            shutil.rmtree(work, ignore_errors=True)
    click.echo(f"{len(report) - failed} of {len(report)} episodes; {output / REPORT} says how each went.")
    if failed:
        raise Sentence(f"{failed} episodes failed. Mend what the report says, then give the same command again.")


def _write_report(path: Path, rows: list[tuple[Any, ...]]) -> None:
    text = io.StringIO()
    csv.writer(text).writerows([HEAD, *rows])
    with written_whole(path, "The report") as beside:
        beside.write_text(text.getvalue(), encoding="utf-8")


@dataclass(frozen=True)
class BatchOutput:
    """How the videos of a batch are made."""

    template: Document
    media: dict[str, Path]
    sizes: list[FrameSize | None]
    output: Path
    work: Path
    executor: ProcessPoolExecutor
    speed: Speed
    loudness: float | None
    workers: int

    def episode(self, row: Episode) -> tuple[list[str], bool]:
        """The files of an episode, and whether all of them were there already."""
        sound = row.files["sound"]
        key = content_hash(sound)
        folder = self.work / row.name
        folder.mkdir(exist_ok=True)
        needed = parse(self.template).media
        shown = {name: str(path) for name, path in self.media.items() if name in needed}
        cover = ""
        if "cover" in row.files:
            cover, shown = _cover(row.files["cover"], self.work, shown)
        analysis = folder / f"analysis-{key[:16]}"
        if not is_current(analysis):
            analysis_into(sound, analysis, key)
        seconds = Analysis(analysis).facts.duration_s
        cues = _cues(row, analysis)
        if row.look:
            document = _in_look(row, key, Analysis(analysis), cover, cues)
        else:
            document = filled(self._fitted(Analysis(analysis)), row, (key, seconds), cover, cues)
        sources = Sources(str(sound), str(analysis), shown, clip_sounds(document, shown, folder))
        files, again = [], True
        for size in self.sizes:
            plan = plan_export(document, size=size, speed=self.speed, loudness=self.loudness)
            name = f"{row.name}-{plan.width}x{plan.height}.mp4"
            job = Job(document, sources, plan, str(folder / f"{plan.width}x{plan.height}"))
            mark = hashlib.sha256((plan.key(document) + key).encode()).hexdigest()
            files.append(name)
            done = self.output / f".{name}.key"
            if (self.output / name).exists() and done.exists() and done.read_text() == mark:
                continue
            again = False
            run_export(job, self.executor, self.workers, self.output / name)
            done.write_text(mark)
            shutil.rmtree(job.folder, ignore_errors=True)
        return files, again

    def _fitted(self, recording: Analysis) -> Document:
        """The template fitted to an episode's sound, where its own sound came with it."""
        project = parse(self.template)
        own = self.media.get(project.track.media) if project.track else None
        if project.track is None or own is None:
            return self.template
        analysis = self.work / "template-analysis"
        if not is_current(analysis):
            analysis_into(own, analysis, project.track.media)
        before = AudioRange(Analysis(analysis), project.track.in_s, project.track.out_s)
        return refitted(self.template, before, AudioRange(recording, 0.0, recording.facts.duration_s))


def _in_look(row: Episode, key: str, recording: Analysis, cover: str, cues: CueList | None) -> Document:
    """An episode's project in a look of its own, in place of the template."""
    name = ident_of(row.look)
    if name not in LOOKS:
        raise DeliverError(f"There is no look {row.look[:60]}; `velvetdrum looks` lists them.")
    track = new_track(key, row.files["sound"].name[:200], recording.facts.duration_s) | {"id": "episode"}
    rows = {f"cue-{number}": stored_cue(cue) for number, cue in enumerate(cues.cues, 1)} if cues else {}
    filling = Filling(row.title, "", row.speaker, cover, cues=rows, language=cues.language if cues else "en")
    return in_look(LOOKS[name].document, filling, track, AudioRange(recording, 0.0, recording.facts.duration_s))


def _cover(path: Path, work: Path, shown: dict[str, str]) -> tuple[str, dict[str, str]]:
    """A picture's content hash, and the files with it among them; it is read under limits first."""
    key = content_hash(path)
    kept = work / f"cover-{key}"
    if not kept.exists():
        shutil.copyfile(path, kept)
    facts = door.read(prepare_picture, kept, work / f"cover-{key}.levels")
    named = kept.with_name(f"{kept.name}{facts.suffix}")
    if not named.exists():
        shutil.copyfile(kept, named)
    return key, {**shown, key: str(named)}


def _cues(row: Episode, analysis: Path) -> CueList | None:
    if "captions" in row.files:
        path = row.files["captions"]
        return door.read(read_cues, path.read_bytes(), path.name).found
    if "transcript" not in row.files:
        return None
    from velvetdrum.words.alignment.aligner import align
    from velvetdrum.words.cue_groups import CueShape, Token, cues_of

    words = door.read(read_words, row.files["transcript"].read_bytes())[0]
    result = align(Analysis(analysis).pcm, words)
    tokens = [Token(item.token, item.word, item.line) for item in result.tokens]
    return CueList(tuple(cues_of(tokens, CueShape(by="sentence", chars=32, lines=2))), "en")
