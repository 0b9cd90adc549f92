"""Commands for timed words."""

from __future__ import annotations

from pathlib import Path

import click

from velvetdrum.cli.sentences import OUT, SOUND, Sentence, sentences
from velvetdrum.cli.sounds import analysed
from velvetdrum.limits import door
from velvetdrum.words.cue_files import read_cues, read_words, with_names, write_cues
from velvetdrum.words.cue_format import CUE_FORMATS
from velvetdrum.words.cues import CueError, CueList


@click.command("align")
@click.argument("sound", type=SOUND)
@click.argument("text", type=SOUND)
@click.option("-o", "--output", type=OUT, required=True, help="Where to write the cues; its suffix says the format.")
@click.option("--language", default="en", show_default=True, help="Of the words, like en or de; all but en are rough.")
@click.option(
    "--by",
    type=click.Choice(["word", "sentence", "pause", "line"]),
    default="sentence",
    show_default=True,
    help="Where a cue ends.",
)
@click.option("--chars", type=click.IntRange(8, 200), default=32, show_default=True, help="Characters in a line.")
@click.option("--lines", type=click.IntRange(1, 6), default=2, show_default=True, help="Lines in a cue.")
@click.option("--song", is_flag=True, help="A song: the band of the voice is used, and the result is a guess.")
def align_command(
    sound: Path, text: Path, output: Path, language: str, by: str, chars: int, lines: int, song: bool
) -> None:
    """Find when the words of a text are said in a sound. Writes cues."""
    from velvetdrum.words.alignment.aligner import align
    from velvetdrum.words.cue_groups import CueShape, Token, cues_of

    with sentences():
        suffix = _suffix(output)
        words, repairs = door.read(read_words, text.read_bytes())
        with analysed(sound) as recording:
            result = align(recording.pcm, words, language=language, song=song)
        tokens = [Token(item.token, item.word, item.line) for item in result.tokens]
        cues = cues_of(tokens, CueShape(by=by, chars=chars, lines=lines, language=language))  # type: ignore[arg-type]
        output.write_text(write_cues(CueList(tuple(cues), language), suffix), encoding="utf-8")
    for line in repairs:
        click.echo(line, err=True)
    for low, high in result.open:
        click.echo(f"From {low:.2f} s to {high:.2f} s these words are not said; it is left open.", err=True)
    missing = sum(item.word is None for item in result.tokens)
    guess = " All of it is a guess: it was made from the voice's band of a song." if result.guess else ""
    rough = " The times are rough in this language." if result.rough else ""
    click.echo(
        f"{len(result.tokens) - missing} of {len(result.tokens)} words found, {len(cues)} cues.{guess}{rough}", err=True
    )


@click.command("cues")
@click.argument("source", type=SOUND)
@click.option("-o", "--output", type=OUT, required=True, help="Where to write the cues; its suffix says the format.")
@click.option("--named", is_flag=True, help="Names before the words, in formats that do not say who speaks.")
@click.option("--encoding", default="", metavar="NAME", help="The encoding of the text, where it is not found right.")
def cues_command(source: Path, output: Path, named: bool, encoding: str) -> None:
    """Turn a file of timed text into another format. Repairs, and what is left out, are told on standard error."""
    with sentences():
        suffix = _suffix(output)
        try:
            read = door.read(read_cues, source.read_bytes(), source.name, encoding=encoding)
        except CueError as problem:
            raise Sentence(f"{source.name}: {problem}") from problem
        output.write_text(write_cues(read.found, suffix, named=named), encoding="utf-8")
    told = with_names(read.found) if named else read.found
    doubts = [f"It may be {item.title} (--encoding {item.encoding}): {item.line}" for item in read.readings[1:]]
    for line in (*read.repairs, *doubts, *CUE_FORMATS[suffix].left_out(told)):
        click.echo(line, err=True)
    click.echo(f"{len(read.found.cues)} cues.", err=True)


def _suffix(output: Path) -> str:
    suffix = output.suffix.lower().lstrip(".")
    if suffix not in CUE_FORMATS:
        raise Sentence(f"{output.name} has no suffix that is known; take one of {', '.join(sorted(CUE_FORMATS))}.")
    return suffix
