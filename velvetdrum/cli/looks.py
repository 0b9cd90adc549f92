"""Commands that begin from a look: what there is, a project from one, and a video in one line."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import click

import velvetdrum.looks.shelf  # noqa: F401  (makes the looks that ship known)
from velvetdrum.audio.analysis import Analysis
from velvetdrum.cli.parameters import FRAME_HELP, FrameParameter
from velvetdrum.cli.renders import render_command
from velvetdrum.cli.sentences import OUT, SOUND, Sentence, sentences
from velvetdrum.cli.sounds import analysed
from velvetdrum.deliver.bundle import content_hash, write_bundle
from velvetdrum.deliver.excerpts import excerpts
from velvetdrum.limits import door
from velvetdrum.looks.open_places import Filling, filled
from velvetdrum.looks.shelf_look import LOOKS
from velvetdrum.picture.media.pictures import check_picture
from velvetdrum.scene.cue_tracks import stored_cue
from velvetdrum.scene.document import Document, new_track, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatGrid
from velvetdrum.words.alignment.aligner import align
from velvetdrum.words.cue_files import read_cues, read_words
from velvetdrum.words.cue_format import CUE_FORMATS
from velvetdrum.words.cue_groups import CueShape, Token, cues_of

_PICTURES = {".png", ".jpg", ".jpeg", ".webp", ".gif", ".svg", ".avif", ".bmp", ".tif", ".tiff"}
_PLACES = (
    click.option("--title", default="", help="What goes into the look's places: its title,"),
    click.option("--artist", default="", help="its artist,"),
    click.option("--speaker", default="", help="who speaks,"),
    click.option("--logo", type=SOUND, help="a logo or cover,"),
    click.option("--footage", type=SOUND, help="a clip or a photo,"),
    click.option("--words", type=SOUND, help="words: subtitles, or a text whose words are found in the sound;"),
    click.option("--colours", type=SOUND, help='project colours by name, as JSON: {"accent 1": "#e0ac55"}.'),
)


def places(command: Callable[..., None]) -> Callable[..., None]:
    """The options with which a look's open places are filled."""
    for option in reversed(_PLACES):
        command = option(command)
    return command


@click.command("looks")
@click.option("--json", "as_json", is_flag=True, help="All that is known of them, as JSON.")
def looks_command(as_json: bool) -> None:
    """List the looks that ship: what they are for, what they ask for."""
    if as_json:
        rows = [{**asdict(look), "build": None, "places": look.document["look"]["places"]} for look in LOOKS.values()]
        click.echo(json.dumps([{name: row[name] for name in row if name != "build"} for row in rows], indent=2))
        return
    for look in LOOKS.values():
        asked = ", ".join(place["kind"] for place in look.document["look"]["places"])
        click.echo(f"{look.ident:18} {'/'.join(look.uses):11} {look.frame:7} {look.about} ({asked})")


def project_from(
    sound: Path, look: str, frame: FrameSize | None, recording: Analysis, given: dict[str, Any]
) -> tuple[Document, dict[str, Path]]:
    """A project from a look and a sound, and its files by content hash."""
    key = content_hash(sound)
    media = {key: sound}
    track = new_track(key, sound.name, recording.facts.duration_s)
    use = AudioRange(recording, track["in_s"], track["out_s"])
    values: dict[str, Any] = {name: given[name] for name in ("title", "artist", "speaker")}
    values["title"] = values["title"] or sound.stem
    for option, name in (("logo", "cover"), ("footage", "film")):
        path = given[option]
        if path is None:
            continue
        photo = path.suffix.lower() in _PICTURES
        if photo:
            door.read(check_picture, path.read_bytes())
        elif option == "logo":
            raise Sentence(f"{path.name} is no picture: a logo or cover is a PNG, JPEG, WebP, GIF or SVG.")
        values[name] = content_hash(path)
        media[values[name]] = path
        if name == "film":
            values["photo"] = photo
    if given["words"]:
        values["cues"] = _cues(given["words"], recording, "song" in LOOKS[look].uses)
    if given["colours"]:
        values["colours"] = _colours(given["colours"])
    document = filled(LOOKS[look].document, Filling(**values), track, use, frame)
    parse(document)
    return document, media


def _cues(path: Path, recording: Analysis, song: bool) -> dict[str, Document]:
    """Cues by new ids, of a file of subtitles, or of a text whose words are found in the sound."""
    data = path.read_bytes()
    if path.suffix.lower().lstrip(".") in CUE_FORMATS:
        cues = door.read(read_cues, data, path.name).found.cues
    else:
        words = door.read(read_words, data)[0]
        result = align(recording.pcm, words, song=song)
        tokens = [Token(item.token, item.word, item.line) for item in result.tokens]
        cues = tuple(cues_of(tokens, CueShape(by="line" if song else "sentence", chars=32, lines=2)))
    return {f"cue-{number}": stored_cue(cue) for number, cue in enumerate(cues, 1)}


def _colours(path: Path) -> dict[str, str]:
    try:
        values = json.loads(path.read_text(encoding="utf-8"))
    except ValueError:
        values = None
    if not isinstance(values, dict) or not all(isinstance(value, str) for value in values.values()):
        raise Sentence(f'{path.name} holds no colours; write them like {{"accent 1": "#e0ac55"}}.')
    return values


LOOK_NAMES = click.Choice(sorted(LOOKS))
_LOOK = click.option(
    "--look", type=LOOK_NAMES, required=True, metavar="NAME", help="A look, as `velvetdrum looks` lists."
)


@click.command("make")
@click.argument("sound", type=SOUND)
@_LOOK
@click.option("-o", "--output", type=OUT, required=True, help="The video to write.")
@click.option(
    "--excerpt", type=click.FloatRange(2, 600), metavar="S", help="The best stretch of about so many seconds."
)
@click.option("--frame", type=FrameParameter(), help=FRAME_HELP)
@places
@click.pass_context
def make_command(
    context: click.Context,
    sound: Path,
    look: str,
    output: Path,
    excerpt: float | None,
    frame: FrameSize | None,
    **given: Any,
) -> None:
    """Make a video of SOUND in a look, in one line."""
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as folder:
        project = Path(folder) / "look.vdrum"
        stretch: dict[str, float] = {}
        with sentences(), analysed(sound) as recording:
            document, media = project_from(sound, look, frame, recording, given)
            write_bundle(project, document, media)
            parsed = parse(document)
            if excerpt and excerpt < parsed.length_s:
                use = AudioRange(recording, 0.0, recording.facts.duration_s)
                best = excerpts(parsed, use, excerpt, BeatGrid.of(parsed.beats, use), count=1)
                if best:
                    stretch = {"from_s": best[0].start_s, "to_s": best[0].end_s}
        context.invoke(render_command, project=project, output=output, speed="quick", **stretch)
