"""Nothing is lost: edits, undo over a restart, two windows, originals by content."""

import sqlite3
import threading

import pytest

from velvetdrum.store import exports, imports, projects
from velvetdrum.store.db import SCHEMA_VERSION, StoreError, open_database
from velvetdrum.store.media import MediaFolder, TooLarge, clean_name, safe_suffix


def apply(document, patch):
    """A stand-in for the scene's edits: sets one key."""
    step = patch[0]
    before = document.get(step["path"])
    return document | {step["path"]: step["value"]}, [step | {"value": before}], False


def put(value, path="colour"):
    return [{"op": "replace", "path": path, "value": value}]


@pytest.fixture
def path(tmp_path):
    return tmp_path / "data" / "velvetdrum.sqlite3"


@pytest.fixture
def db(path):
    return open_database(path)


@pytest.fixture
def ident(db):
    return projects.create(db, {"name": "Lamp", "colour": "none"})


def test_undo_and_redo_survive_a_restart(path, db, ident):
    for number, value in enumerate(("red", "green", "blue"), start=1):
        row = projects.edit(db, ident, number, f"Paint {value}", put(value), apply)
    db.close()
    again = open_database(path)
    row = projects.find(again, ident)
    assert (row.document["colour"], row.undo, row.redo) == ("blue", "Paint blue", None)
    row = projects.undo(again, ident, row.revision, apply)
    row = projects.undo(again, ident, row.revision, apply)
    assert (row.document["colour"], row.undo, row.redo) == ("red", "Paint red", "Paint green")
    again.close()
    last = open_database(path)
    row = projects.redo(last, ident, row.revision, apply)
    assert row.document["colour"] == "green"


def test_an_edit_on_an_older_revision_is_refused_and_nothing_is_lost(db, ident):
    projects.edit(db, ident, 1, "Paint", put("red"), apply)
    with pytest.raises(projects.Conflict) as caught:
        projects.edit(db, ident, 1, "Paint", put("green"), apply)
    assert caught.value.revision == 2
    assert projects.find(db, ident).document["colour"] == "red"
    assert projects.edit(db, ident, 2, "Paint", put("green"), apply).document["colour"] == "green"


def test_what_was_undone_is_set_aside_not_removed(db, ident):
    row = projects.edit(db, ident, 1, "Paint", put("red"), apply)
    row = projects.undo(db, ident, row.revision, apply)
    row = projects.edit(db, ident, row.revision, "Paint", put("blue"), apply)
    assert row.redo is None
    kept = db.execute("SELECT forward, branch FROM edit ORDER BY branch").fetchall()
    assert [("blue" in edit["forward"], edit["branch"] > 0) for edit in kept] == [(True, False), (False, True)]
    row = projects.undo(db, ident, row.revision, apply)
    row = projects.edit(db, ident, row.revision, "Paint", put("ivory"), apply)
    assert db.execute("SELECT count(*) FROM edit").fetchone()[0] == 3


def test_undo_and_redo_without_a_step_change_nothing(db, ident):
    assert projects.undo(db, ident, 1, apply).revision == 1
    assert projects.redo(db, ident, 1, apply).revision == 1


def test_a_failing_edit_leaves_the_project_as_it_was(db, ident):
    def refuse(document, patch):
        raise ValueError("no")

    with pytest.raises(ValueError, match="no"):
        projects.edit(db, ident, 1, "Paint", put("red"), refuse)
    assert projects.find(db, ident).revision == 1
    projects.edit(db, ident, 1, "Paint", put("red"), apply)


def test_two_writers_at_once_lose_no_edit(path, db, ident):
    refused = []

    def write(name):
        own = open_database(path)
        for _ in range(20):
            while True:
                base = projects.find(own, ident).revision
                try:
                    projects.edit(own, ident, base, name, put(name), apply)
                    break
                except projects.Conflict:
                    refused.append(name)

    threads = [threading.Thread(target=write, args=(name,)) for name in ("a", "b")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert projects.find(db, ident).revision == 41
    assert db.execute("SELECT count(*) FROM edit WHERE branch = 0").fetchone()[0] == 40


def test_deleting_is_undoable_and_hides(db, ident):
    projects.delete(db, ident)
    assert projects.find(db, ident) is None
    assert projects.listed(db) == []
    with pytest.raises(StoreError, match="deleted"):
        projects.edit(db, ident, 1, "Paint", put("red"), apply)
    projects.restore(db, ident)
    assert [row.id for row in projects.listed(db)] == [ident]


def test_the_journal_is_ahead_of_the_file(db):
    assert db.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    assert db.execute("PRAGMA user_version").fetchone()[0] == SCHEMA_VERSION


def test_a_database_of_a_newer_version_is_left_alone(path, db):
    db.execute(f"PRAGMA user_version = {SCHEMA_VERSION + 1}")
    db.close()
    with pytest.raises(StoreError, match="newer"):
        open_database(path)
    assert sqlite3.connect(path).execute("SELECT count(*) FROM project").fetchone()[0] == 0


def test_the_same_content_is_kept_once_and_untouched(db, tmp_path):
    folder = MediaFolder(tmp_path)
    one, part = folder.receive([b"abc", b"def"], "song.WAV", 100)
    kept = folder.keep(db, one, part)
    assert folder.original(kept).read_bytes() == b"abcdef"
    assert folder.original(kept).suffix == ".wav"
    two, part = folder.receive([b"abcdef"], "other name.mp3", 100)
    assert folder.keep(db, two, part).name == "song.WAV"
    assert len(list(folder.originals.iterdir())) == 1
    assert not list(folder.incoming.iterdir())


def test_an_upload_past_the_limit_leaves_nothing(tmp_path):
    folder = MediaFolder(tmp_path)
    with pytest.raises(TooLarge):
        folder.receive([b"x" * 60, b"x" * 60], "song.wav", 100)

    def broken():
        yield b"x"
        raise ConnectionError

    with pytest.raises(ConnectionError):
        folder.receive(broken(), "song.wav", 100)
    assert not list(folder.incoming.iterdir())


@pytest.mark.parametrize(
    ("given", "shown", "suffix"),
    [
        ("../../etc/passwd", "passwd", ""),
        ("C:\\songs\\a.mp3", "a.mp3", ".mp3"),
        ("\x00\x1b[2J", "[2J", ""),
        ("", "Untitled", ""),
        ("lamp.🏮", "lamp.🏮", ""),
        ("x" * 500 + ".wav", "x" * 200, ""),
    ],
)
def test_names_are_shown_but_never_used_as_paths(given, shown, suffix):
    assert clean_name(given) == shown
    assert safe_suffix(given) == suffix


def test_a_sweep_keeps_what_is_wanted(db, tmp_path):
    folder = MediaFolder(tmp_path)
    row, part = folder.receive([b"abc"], "a.wav", 10)
    _, stray = folder.receive([b"def"], "b.wav", 10)
    ident = imports.create(db, row, part.name, {})
    folder.sweep({waiting.part for waiting in imports.unfinished(db)})
    assert part.exists()
    assert not stray.exists()
    imports.end(db, ident, "done", project_id="p")
    assert imports.unfinished(db) == []


def test_exports_remember_how_far_they_are(db, ident):
    key = exports.create(db, ident, "lamp.mp4", {"name": "Lamp"}, {"first": 0})
    exports.set_progress(db, key, 17)
    row = exports.first_waiting(db)
    assert (row.id, row.done, row.state) == (key, 17, "running")
    exports.set_state(db, key, "failed", "The disk is full.")
    exports.set_progress(db, key, 99)
    row = exports.find(db, key)
    assert (row.state, row.sentence, row.done) == ("failed", "The disk is full.", 17)
    assert exports.first_waiting(db) is None
