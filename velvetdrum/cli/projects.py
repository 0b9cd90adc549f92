"""Commands that make projects."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import click

from velvetdrum.audio.analysis import Analysis
from velvetdrum.cli.looks import LOOK_NAMES, places, project_from
from velvetdrum.cli.parameters import FRAME_HELP, FrameParameter, RateParameter
from velvetdrum.cli.sentences import OUT, SOUND, sentences
from velvetdrum.cli.sounds import analysed
from velvetdrum.deliver.bundle import content_hash, write_bundle
from velvetdrum.looks.default_design import starting_design
from velvetdrum.scene.document import Document, new_document, new_track, parse
from velvetdrum.scene.frames import FRAMES, RATES, FrameSize, rate_text


@click.command("new")
@click.argument("sound", type=SOUND)
@click.option("-o", "--output", type=OUT, required=True, help="The project file to write (.vdrum).")
@click.option("--frame", type=FrameParameter(), help=f"{FRAME_HELP} Wide, or what the look was drawn for, without it.")
@click.option(
    "--rate",
    type=RateParameter(),
    default="30",
    show_default=True,
    help=f"Frames per second: {', '.join(RATES)}, or a fraction like 30000/1001.",
)
@click.option("--look", type=LOOK_NAMES, metavar="NAME", help="Begin from a look, as `velvetdrum looks` lists.")
@places
def new_command(
    sound: Path, output: Path, frame: FrameSize | None, rate: Fraction, look: str | None, **given: Any
) -> None:
    """Make a project with SOUND in it: with the starting design, or from a look."""
    with sentences(), analysed(sound) as recording:
        if look:
            document, media = project_from(sound, look, frame, recording, given)
            document |= {"rate": rate_text(rate)}
        else:
            document, media = _plain(sound, frame or FRAMES["wide"], rate, recording)
        parse(document)
        write_bundle(output, document, media)
    size = document["frame"]
    click.echo(f"{output}: {recording.facts.duration_s:.1f} s, {size['width']}x{size['height']}.")


def _plain(sound: Path, frame: FrameSize, rate: Fraction, recording: Analysis) -> tuple[Document, dict[str, Path]]:
    key = content_hash(sound)
    track = new_track(key, sound.name, recording.facts.duration_s)
    layers = starting_design(recording)
    name = sound.stem[:200] or "Untitled"
    return new_document(name, frame=frame, rate=rate, layers=layers, track=track), {key: sound}
