"""Words: files of cues in and out, alignment, tapped lines, checks."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, jsonify

from velvetdrum.audio.analysis import Analysis
from velvetdrum.picture.frame.contrast import LEAST
from velvetdrum.scene.document import Document, Project, parse
from velvetdrum.scene.edits import parsed
from velvetdrum.store import alignments
from velvetdrum.store.alignments import AlignmentRow
from velvetdrum.studio.http.fields import Flag, ListOf, OneOf, Real, Text, Whole
from velvetdrum.studio.http.requests import (
    MOST_EDIT,
    file_bytes,
    is_ident,
    project_or_404,
    queries,
    services,
    takes,
    takes_file,
    uploaded_name,
)
from velvetdrum.studio.rooms.start import file_name
from velvetdrum.studio.workers import word_tasks
from velvetdrum.words.alignment.aligner import MOST_WORDS
from velvetdrum.words.alignment.pronunciation import LANGUAGES
from velvetdrum.words.checks import READING_SPEED, check_cues
from velvetdrum.words.cue_files import MOST_BYTES, write_cues
from velvetdrum.words.cue_format import CUE_FORMATS
from velvetdrum.words.cues import LONGEST_S, CueError, CueList
from velvetdrum.words.taps import tap_delay

blueprint = Blueprint("words", __name__)

_SECOND = Real(-1e5, 1e5, "s")
_TEXT = Text(MOST_WORDS * 12, "The words, in lines")


@blueprint.post("/projects/<ident>/cues")
@queries(
    language=Text(35, "What it is probably written in", default=""),
    encoding=Text(20, "The encoding that it is in, by a name that was offered; found out without it", default=""),
)
@takes_file("A file of timed text", MOST_BYTES)
def read_file(ident: str, query: dict[str, Any]) -> Any:
    """The cues of the file that the request's body is, by new ids, with what had to be repaired. Nothing is changed."""
    project = parsed(project_or_404(ident).document)
    data, name = file_bytes(MOST_BYTES, "file of words"), uploaded_name("cues")
    track = project.cue_track("")
    language = query["language"] or (track.language if track else "")
    return jsonify(services().read(word_tasks.read_cue_file, data, name, language, query["encoding"]))


@blueprint.get("/projects/<ident>/cues/<track>.<form>")
@queries(named=Flag("Speakers' names before the words, where the format does not say who speaks", default=False))
def download(ident: str, track: str, form: str, query: dict[str, Any]) -> Any:
    """A cue track as a file, in the format of that suffix."""
    row = project_or_404(ident)
    project = parse(row.document)
    cues = project.cue_track(track)
    if cues is None or form not in CUE_FORMATS:
        abort(404, "There is no such cue track, or no such format.")
    # Cues in a file count from where the video begins.
    shifted = [cue.moved(-project.begin_s) for cue in cues.row if cue.end_s > project.begin_s]
    shown = [cue for cue in shifted if 0 <= cue.start_s < project.length_s]
    result = CueList(tuple(shown), cues.language)
    answer = Response(write_cues(result, form, named=query["named"]), mimetype=CUE_FORMATS[form].media_type)
    answer.headers.set("Content-Disposition", "attachment", filename=f"{file_name(row.name)}.{form}")
    return answer


@blueprint.post("/projects/<ident>/alignments")
@takes(
    MOST_EDIT,
    text=_TEXT,
    language=OneOf(*LANGUAGES, about="Of the words", default="en"),
    song=Flag("The voice's band is used, and all of it is a guess", default=False),
    by=OneOf("sentence", "pause", "word", "line", about="Where a cue ends", default="sentence"),
    chars=Whole(8, 200, "Characters in a line", default=32),
    lines=Whole(1, 6, "Lines in a cue", default=2),
    pause_s=Real(0.1, 5, "s", "A pause that ends a cue", default=0.6),
    speaker=Text(120, "Who speaks", default=""),
    start_s=Real(0, 1e5, "s", "From here in the recording on; the used part without it", default=None),
    end_s=Real(0, 1e5, "s", "Until here", default=None),
)
def begin_alignment(ident: str, given: dict[str, Any]) -> Any:
    """Find when words are said, in the background. Its progress is asked for by its id."""
    row = project_or_404(ident)
    track = parse(row.document).track
    if track is None:
        abort(409, "There is no sound in this project yet.")
    if not given["text"].strip():
        raise CueError("There are no words to align yet: paste what is said.")
    start = track.in_s if given["start_s"] is None else given["start_s"]
    recording = services().recording(track.media)
    if recording is None:
        abort(409, "The recording is no longer here; bring it in again.")
    length = recording.facts.duration_s
    end = min(track.out_s if given["end_s"] is None else given["end_s"], length)
    if start >= length:
        raise CueError(f"This stretch begins after the recording ends, at {length:.1f} s. Choose one inside of it.")
    if end - start < 0.2:
        raise CueError("This stretch is too short to align words to.")
    partial = given["start_s"] is not None or given["end_s"] is not None
    voice = services().sums.voice_key(row.document) or track.media
    wanted = given | {"start_s": start, "end_s": end, "media": voice, "partial": partial}
    return jsonify(alignment=services().alignments.begin(row.id, wanted)), 202


@blueprint.get("/projects/<ident>/alignments/latest")
def latest_alignment(ident: str) -> Any:
    """The last alignment that no page has taken yet; its id is null where there is none."""
    row = alignments.latest(services().db, project_or_404(ident).id)
    return jsonify(alignment=row.id if row else None)


@blueprint.get("/alignments/<ident>")
def alignment_state(ident: str) -> Any:
    """How far an alignment is, and what it found."""
    row = _alignment(ident)
    share = 1.0 if row.state == "done" else services().alignments.share(ident)
    stretch = [row.wanted["start_s"], row.wanted["end_s"]] if row.wanted.get("partial") else None
    return jsonify(
        state=row.state,
        share=share,
        error=row.sentence,
        found=row.found,
        stretch=stretch,
        language=row.wanted["language"],
        words=len(row.wanted["text"].split()),
    )


@blueprint.post("/alignments/<ident>/cancel")
@takes()
def cancel_alignment(ident: str, given: dict[str, Any]) -> Any:
    """Stop an alignment; one that has ended stays as it is."""
    if _alignment(ident).state == "running":
        services().alignments.cancel(ident)
    return jsonify(cancelled=ident)


@blueprint.post("/alignments/<ident>/taken")
@takes()
def take_alignment(ident: str, given: dict[str, Any]) -> Any:
    """Say that a page has what an alignment found, or has told why it failed."""
    _alignment(ident)
    services().alignments.take(ident)
    return jsonify(taken=ident)


@blueprint.post("/projects/<ident>/lines")
@takes(song=Flag("The voice's band of a song", default=False))
def lines_of_pauses(ident: str, given: dict[str, Any]) -> Any:
    """Empty cues between the pauses of the used part, by new ids."""
    project = parse(project_or_404(ident).document)
    folder, start, end = _used(project)
    return jsonify(cues=services().quickly(word_tasks.guess_lines, folder, start, end, given["song"]))


@blueprint.get("/projects/<ident>/pauses")
def pauses_of_voice(ident: str) -> Any:
    """The pauses of the used part, in seconds of the recording."""
    project = parse(project_or_404(ident).document)
    folder, start, end = _used(project)
    return jsonify(pauses=services().quickly(word_tasks.find_pauses, folder, start, end))


@blueprint.post("/projects/<ident>/tapped")
@takes(
    MOST_EDIT,
    text=_TEXT,
    taps_s=ListOf(Real(-60, LONGEST_S, "s"), 0, 20_000, "When the key was pressed, in seconds of the recording"),
    delay_s=Real(-0.5, 0.5, "s", "How late the hand is", default=0.0),
    by_word=Flag("A tap a word instead of a line", default=False),
)
def tapped(ident: str, given: dict[str, Any]) -> Any:
    """Cues of lines from taps, by new ids; words within a line go to the attacks of the voice near them."""
    document = project_or_404(ident).document
    project = parse(document)
    track = project.track
    recording = _voice(document, track.media) if track else None
    if track is None or recording is None:
        abort(409, "There is no sound in this project yet.")
    wanted = {name: given[name] for name in ("text", "taps_s", "delay_s", "by_word")}
    task = (str(recording.folder), track.in_s, track.out_s, wanted)
    return jsonify(cues=services().quickly(word_tasks.place_taps, *task))


@blueprint.post("/tap-delay")
@takes(
    clicks_s=ListOf(_SECOND, 4, 64, "When clicks were heard"),
    taps_s=ListOf(_SECOND, 0, 256, "When the key was pressed"),
)
def delay_of_taps(given: dict[str, Any]) -> Any:
    """How late taps come after clicks, in seconds."""
    return jsonify(delay_s=round(tap_delay(given["clicks_s"], given["taps_s"]), 4))


@blueprint.get("/projects/<ident>/checks")
@queries(
    track=Text(64, "Id of the cue track; the first without it", default=""),
    speed=Real(5, 60, "characters a second", default=READING_SPEED),
    chars=Whole(8, 200, "Characters in a line", default=42),
    lines=Whole(1, 6, "Lines in a cue", default=2),
    contrast=Flag("Measure contrast and places in the three frames, too, which takes a while", default=False),
)
def checks(ident: str, query: dict[str, Any]) -> Any:
    """What there is to mend of a cue track, each with its cue."""
    row = project_or_404(ident)
    project = parse(row.document)
    cues = project.cue_track(query["track"])
    if cues is None:
        return jsonify(findings=[], count=0)
    placed = {key: cue.moved(-project.begin_s) for key, cue in cues.cues.items()}
    result = [
        vars(item)
        for item in check_cues(
            placed, length_s=project.length_s, speed=query["speed"], chars=query["chars"], lines=query["lines"]
        )
    ]
    if query["contrast"]:
        asked = (services().named(row), services().sources(row.document), query["track"])
        for key, sentence in services().quickly(word_tasks.check_places, *asked):
            result.append({"check": "place", "cue": key, "sentence": sentence, "mending": ""})
        measured = services().quickly(word_tasks.check_contrast, *asked)
        for key, item in measured.items():
            if item["ratio"] < LEAST:
                sentence = f"{item['ratio']:.1f}:1 against what is behind it; {LEAST:g}:1 is read with ease."
                result.append(
                    {"check": "contrast", "cue": key, "sentence": sentence, "mending": "plate", "layer": item["layer"]}
                )
    return jsonify(findings=result, count=len(placed))


def _used(project: Project) -> tuple[str, float, float]:
    """The folder of the recording's analysis, and the used part."""
    track = project.track
    recording = services().recording(track.media) if track else None
    if track is None or recording is None:
        abort(409, "There is no sound in this project yet.")
    return str(recording.folder), track.in_s, min(track.out_s, recording.facts.duration_s)


def _voice(document: Document, media: str) -> Analysis | None:
    """The voices of a project; all of its sound where none is said to be one, or while they are being made."""
    here = services()
    key = here.sums.voice_key(document)
    return (here.recording(key) if key else None) or here.recording(media)


def _alignment(ident: str) -> AlignmentRow:
    row = services().alignments.find(ident) if is_ident(ident) else None
    if row is None:
        abort(404, "There is no such alignment.")
    return row
