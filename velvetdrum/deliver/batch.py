"""Many episodes from one project: a table of sounds, titles, speakers, captions and covers fills its fields."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from pathlib import Path

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.limits import openers
from velvetdrum.scene.cue_tracks import stored_cue
from velvetdrum.scene.document import Document, new_track
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.tracks_section import listening_to_the_sum
from velvetdrum.words.cues import CueList

COLUMNS = ("sound", "title", "speaker", "captions", "transcript", "cover", "look")
"""What a table may have: files beside it, and texts. `sound` must be there."""

FILES = ("sound", "captions", "transcript", "cover")
MOST_ROWS, MOST_BYTES = 2000, 4 << 20
MOST_LINES, MOST_CELLS = 4000, 40
"""Lines, empty ones among them, and cells in one of them."""
_LONGEST_HEAD = 2000


@dataclass(frozen=True)
class Episode:
    """A row of the table: its number as an editor shows it, its texts, and its files as paths; empty for none."""

    line: int
    title: str
    speaker: str
    files: dict[str, Path]
    look: str = ""
    """The look that it is made in, by its name; empty for the template."""

    @property
    def name(self) -> str:
        """What its files are called: made by us from the number and the letters of the title."""
        plain = "".join(letter if letter.isalnum() else "-" for letter in self.title.lower())[:60]
        return f"{self.line - 1:03d}-{'-'.join(part for part in plain.split('-') if part) or 'episode'}"


def read_episodes(path: Path) -> list[Episode]:
    """The rows of a table in a file, whose files lie beside it; see `parse_episodes`.

    Parameters
    ----------
    path
        The file.
    """
    if path.stat().st_size > MOST_BYTES:
        raise DeliverError(f"{path.name} has more than {MOST_BYTES >> 20} MB; a table of episodes is smaller.")
    return parse_episodes(path.read_bytes(), path.name, path.parent)


def parse_episodes(data: bytes, name: str, folder: Path) -> list[Episode]:
    """The rows of a CSV table (RFC 4180, UTF-8, comma or semicolon), whose files lie in a folder.

    Parameters
    ----------
    data
        The bytes of a file.
    name
        Name, as the file or the format has it.
    folder
        The folder that it lies in.

    Raises
    ------
    DeliverError
        With a sentence when it is no such table or has columns that nobody knows.
    """
    if len(data) > MOST_BYTES:
        raise DeliverError(f"{name} has more than {MOST_BYTES >> 20} MB; a table of episodes is smaller.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as problem:
        raise DeliverError(f"{name} is not UTF-8 text: save the table as CSV UTF-8.") from problem
    head = text.split("\n", 1)[0][:_LONGEST_HEAD]
    reader = openers.table(io.StringIO(text), ";" if head.count(";") > head.count(",") else ",")
    lines: list[list[str]] = []
    try:
        # Counted while it is read: what has more is not kept whole.
        for cells in reader:
            if len(lines) > MOST_LINES:
                raise DeliverError(
                    f"{name} has more than {MOST_LINES:,} lines; a batch has 1 to {MOST_ROWS:,} episodes."
                )
            lines.append(cells[:MOST_CELLS])
    except csv.Error as problem:
        raise DeliverError(f"{name} is not a CSV table: {problem}.") from problem
    names = [cell.strip().lower() for cell in lines[0]] if lines else []
    odd = [cell for cell in names if cell not in COLUMNS]
    if "sound" not in names or odd or len(set(names)) != len(names):
        what = f"It has {', '.join(odd)[:80]}. " if odd else ""
        known = ", ".join(COLUMNS)
        raise DeliverError(f"{name} needs a first line with columns out of {known}, sound at least. {what}".strip())
    out = []
    for number, cells in enumerate(lines[1:], 2):
        if not any(cell.strip() for cell in cells):
            continue
        given = dict(zip(names, (cell.strip() for cell in cells), strict=False))
        files = {kind: (folder / given[kind]) for kind in FILES if given.get(kind)}
        title = given.get("title", "") or (files["sound"].stem if "sound" in files else f"Row {number}")
        out.append(Episode(number, title[:200], given.get("speaker", "")[:200], files, given.get("look", "")[:80]))
    if not out or len(out) > MOST_ROWS:
        raise DeliverError(f"{name} has {len(out)} episodes; a batch has 1 to {MOST_ROWS:,}.")
    return out


def lacking(episodes: list[Episode]) -> dict[int, list[str]]:
    """What is missing, in sentences by the line of the table.

    Parameters
    ----------
    episodes
        Rows of the table.
    """
    result: dict[int, list[str]] = {}
    for episode in episodes:
        said = [f"There is no {name} file {path.name}." for name, path in episode.files.items() if not path.is_file()]
        if "sound" not in episode.files:
            said.append("It names no sound.")
        if "captions" in episode.files and "transcript" in episode.files:
            said.append("It has captions and a transcript; one of them is enough.")
        if said:
            result[episode.line] = said
    return result


def filled(
    template: Document, episode: Episode, sound: tuple[str, float], cover: str = "", cues: CueList | None = None
) -> Document:
    """The template's document with an episode in it: its sound (content hash and seconds), its title and speaker as the
    project's tags, its cues in place of all others, and its cover (a picture's content hash) in the layer called Cover,
    or in the first that shows a picture.

    Parameters
    ----------
    template
        The document that every row begins with.
    episode
        A row of the table.
    sound
        Content hash and length in seconds.
    cover
        Content hash of the cover; empty for none.
    cues
        Cues.
    """
    key, seconds = sound
    made = dict(listening_to_the_sum(template))
    made.pop("used", None)
    made["name"] = episode.title
    track = new_track(key, episode.files["sound"].name[:200], seconds)
    # The same table makes the same document: what was made of it before is known again.
    made["tracks"] = [track | {name: "episode" for name in track if name == "id"}]
    made["length_s"] = None
    made["tags"] = {**template.get("tags", {}), "title": episode.title}
    if episode.speaker:
        made["tags"]["speaker"] = episode.speaker
    if cues is not None:
        rows = {f"cue-{number}": stored_cue(cue) for number, cue in enumerate(cues.cues, 1)}
        made["cue_tracks"] = {"episode": {"name": "Episode", "language": cues.language, "cues": rows}}
    if cover:
        made["layers"] = _covered(template["layers"], cover)
    return made


def _covered(layers: list[Document], key: str) -> list[Document]:
    def shows(layer: Document) -> str:
        settings = LAYER_KINDS[layer["kind"]].settings.values()
        return next((setting.name for setting in settings if setting.media == "picture"), "")

    able = [layer for layer in layers if shows(layer)]
    named = [layer for layer in able if layer["name"].strip().lower() == "cover"]
    chosen = next(iter(named or able), None)
    if chosen is None:
        return layers
    changed = {**chosen, "settings": {**chosen["settings"], shows(chosen): key}}
    return [changed if layer is chosen else layer for layer in layers]
