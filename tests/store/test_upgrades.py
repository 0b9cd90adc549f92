"""Undo over a change of the document's form: kept files of each version, edited then, upgraded, and taken back."""

import json
from pathlib import Path

import pytest

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.scene.document import parse
from velvetdrum.scene.edits import apply, replayed, upgrade_step
from velvetdrum.scene.migrate import VERSION, upgraded
from velvetdrum.store import db as db_module
from velvetdrum.store import projects
from velvetdrum.store.db import open_database

KEPT = Path(__file__).parent / "kept"


def kept(version):
    """A document as that version stored it, and a step that was made on it then, with its way back."""
    found = json.loads((KEPT / f"version-{version}.json").read_text())
    return found["document"], found["forward"], found["backward"]


@pytest.fixture
def db(tmp_path):
    return open_database(tmp_path / "velvetdrum.sqlite3")


def stored_then(db, version):
    """A project as a server of that version left it: its document with one edit on it, and the edit's row."""
    document, forward, backward = kept(version)
    ident = projects.create(db, document)
    db.execute("UPDATE project SET position = 1, revision = 2 WHERE id = ?", (ident,))
    db.execute(
        "INSERT INTO edit (project_id, position, label, forward, backward, made_at) VALUES (?, 1, 'Then', ?, ?, 0)",
        (ident, json.dumps(forward), json.dumps(backward)),
    )
    return ident


@pytest.mark.parametrize("version", [1, 2, 3])
def test_steps_of_an_older_version_are_taken_back_and_made_again(db, version):
    document, forward, backward = kept(version)
    before = replayed(document, backward)[0]
    assert before != document and replayed(before, forward)[0] == document
    ident = stored_then(db, version)
    patch = [{"op": "replace", "path": "/name", "value": "Now"}]
    row = projects.edit(db, ident, 2, "Now", patch, apply, upgrade_step)
    assert row.document["version"] == VERSION and row.document["name"] == "Now" and row.undo == "Now"
    row = projects.undo(db, ident, row.revision, replayed)
    assert upgraded(row.document) == upgraded(document) and (row.undo, row.redo) == ("Then", "Now")
    row = projects.undo(db, ident, row.revision, replayed)
    # The upgrade was taken back on the way: the old step found the document as it had left it.
    assert row.document == before and (row.undo, row.redo) == (None, "Then")
    row = projects.redo(db, ident, row.revision, replayed)
    assert row.document == document and row.redo == "Now"
    row = projects.redo(db, ident, row.revision, replayed)
    assert row.document["name"] == "Now" and row.document["version"] == VERSION
    assert parse(row.document).name == "Now"


def test_an_upgrade_alone_is_no_step_to_take_back(db):
    document, *_ = kept(3)
    ident = projects.create(db, document)
    patch = [{"op": "replace", "path": "/name", "value": "Now"}]
    row = projects.edit(db, ident, 1, "Now", patch, apply, upgrade_step)
    row = projects.undo(db, ident, row.revision, replayed)
    assert row.undo is None and row.document["name"] == document["name"]
    assert projects.undo(db, ident, row.revision, replayed).revision == row.revision


def test_present_documents_are_edited_in_one_step(db):
    document = upgraded(kept(2)[0])
    ident = projects.create(db, document)
    patch = [{"op": "replace", "path": "/name", "value": "Now"}]
    projects.edit(db, ident, 1, "Now", patch, apply, upgrade_step)
    assert db.execute("SELECT count(*) FROM edit").fetchone()[0] == 1


def test_a_data_folder_of_an_older_schema_keeps_its_projects(tmp_path, monkeypatch):
    path, document = tmp_path / "velvetdrum.sqlite3", kept(3)[0]
    monkeypatch.setattr(db_module, "SCHEMA_VERSION", 9)
    old = open_database(path)
    old.execute(
        "INSERT INTO project (id, name, document, revision, kept, position, created_at, changed_at)"
        " VALUES ('harbour', 'Then', ?, 5, 4, 0, 0, 0)",
        (json.dumps(document),),
    )
    step = json.dumps([{"op": "replace", "path": "/name", "value": "Then"}])
    old.execute("INSERT INTO step (project_id, revision, patch) VALUES ('harbour', 5, ?)", (step,))
    old.close()
    monkeypatch.undo()
    row = projects.find(open_database(path), "harbour")
    assert row.document == document | {"name": "Then"} and row.revision == 5
