"""Every state that a project was in can be had again, also those that an undo left."""

import copy
import random

import jsonpatch
import pytest

from velvetdrum.store import history, projects
from velvetdrum.store.db import StoreError, open_database
from velvetdrum.store.references import referenced_keys


def apply(document, patch):
    made = jsonpatch.apply_patch(copy.deepcopy(document), patch)
    return made, jsonpatch.make_patch(made, document).patch, True


def put(value):
    return [{"op": "add", "path": "/colour", "value": value}]


@pytest.fixture
def db(tmp_path):
    return open_database(tmp_path / "velvetdrum.sqlite3")


def test_any_state_of_any_branch_is_as_it_was(db):
    rng = random.Random(3)
    ident = projects.create(db, {"name": "Lamp", "colour": 0})
    row = projects.find(db, ident)
    for number in range(1, 120):
        if rng.random() < 0.4:
            step = projects.undo if rng.random() < 0.7 else projects.redo
            row = step(db, ident, row.revision, apply)
        else:
            row = projects.edit(db, ident, row.revision, f"Paint {number}", put(number), apply)
    states = history.states(db, ident, 0, 1000)
    assert states[-1].label == "Begin"
    assert len({state.branch for state in states}) > 5
    for state in states:
        document = history.document_at(db, row, state.branch, state.position)
        assert document["colour"] == (int(state.label.split()[1]) if state.position else 0)
    here = history.position(db, ident)
    assert history.document_at(db, row, 0, here) == row.document
    assert history.states(db, ident, 5, 7) == states[5:12]


@pytest.mark.parametrize("place", [(0, 4), (1, 1), (1, 9), (7, 0)])
def test_a_state_that_never_was_is_none(db, place):
    ident = projects.create(db, {"name": "Lamp", "colour": 0})
    for number in range(1, 4):
        row = projects.edit(db, ident, number, "Paint", put(number), apply)
    assert history.document_at(db, row, *place) is None


def test_a_jump_is_as_many_undos_and_redos(db):
    ident = projects.create(db, {"name": "Lamp", "colour": 0})
    for number in range(1, 6):
        row = projects.edit(db, ident, number, f"Paint {number}", put(number), apply)
    row = projects.jump(db, ident, row.revision, 2, history.document_at(db, row, 0, 2))
    assert (row.document["colour"], row.undo, row.redo) == (2, "Paint 2", "Paint 3")
    row = projects.jump(db, ident, row.revision, 5, history.document_at(db, row, 0, 5))
    assert (row.document["colour"], row.undo, row.redo) == (5, "Paint 5", None)
    with pytest.raises(projects.Conflict):
        projects.jump(db, ident, 1, 0, {"name": "Lamp"})


def test_named_versions_are_kept_renamed_and_removed(db):
    ident = projects.create(db, {"name": "Lamp", "colour": "a" * 64})
    row = projects.find(db, ident)
    version = history.keep_version(db, ident, "First cut", row.document)
    projects.edit(db, ident, 1, "Paint", put("none"), apply)
    assert history.version_document(db, ident, version)["colour"] == "a" * 64
    assert history.rename_version(db, ident, version, "Cut for the quay")
    assert [kept.name for kept in history.versions(db, ident)] == ["Cut for the quay"]
    assert "a" * 64 in referenced_keys(db)
    assert history.drop_version(db, ident, version) and not history.drop_version(db, ident, version)
    assert history.version_document(db, ident, version) is None
    for number in range(history.MOST_VERSIONS):
        history.keep_version(db, ident, f"Version {number}", row.document)
    with pytest.raises(StoreError, match="up to 200"):
        history.keep_version(db, ident, "One more", row.document)
