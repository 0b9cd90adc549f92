"""Commands that make projects."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import click

from velvetdrum.cli.parameters import FRAME_HELP, FrameParameter, RateParameter
from velvetdrum.cli.sentences import OUT, SOUND, sentences
from velvetdrum.cli.sounds import analysed
from velvetdrum.deliver.bundle import content_hash, write_bundle
from velvetdrum.looks.default_design import starting_design
from velvetdrum.scene.document import new_document, new_track, parse
from velvetdrum.scene.frames import RATES, FrameSize


@click.command("new")
@click.argument("sound", type=SOUND)
@click.option("-o", "--output", type=OUT, required=True, help="The project file to write (.vdrum).")
@click.option("--frame", type=FrameParameter(), default="wide", show_default=True, help=FRAME_HELP)
@click.option(
    "--rate",
    type=RateParameter(),
    default="30",
    show_default=True,
    help=f"Frames per second: {', '.join(RATES)}, or a fraction like 30000/1001.",
)
def new_command(sound: Path, output: Path, frame: FrameSize, rate: Fraction) -> None:
    """Make a project with the starting design and SOUND in it."""
    with sentences(), analysed(sound) as recording:
        key = content_hash(sound)
        track = new_track(key, sound.name, recording.facts.duration_s)
        layers = starting_design(recording)
        document = new_document(sound.stem[:200] or "Untitled", frame=frame, rate=rate, layers=layers, track=track)
        parse(document)
        write_bundle(output, document, {key: sound})
    click.echo(f"{output}: {recording.facts.duration_s:.1f} s, {frame.width}x{frame.height}.")
