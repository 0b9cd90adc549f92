"""Backups of a data folder: only what is new, whole while it runs, checked on the way back."""

import json
import sqlite3

import pytest
from click.testing import CliRunner

from tests.conftest import song, write_wav
from velvetdrum.cli import main
from velvetdrum.store import projects
from velvetdrum.store.backup import LIST
from velvetdrum.store.db import open_database
from velvetdrum.studio.services import Services


def run(*words):
    return CliRunner().invoke(main, [str(word) for word in words])


@pytest.fixture(scope="module")
def data(tmp_path_factory):
    """A data folder with a project, its sound and a logo."""
    folder = tmp_path_factory.mktemp("data")
    sound = write_wav(folder.parent / "song.wav", song(2.0), subtype="PCM_16")
    services = Services(folder / "data", exporters=1)
    try:
        key, _ = services.bring_now(iter([sound.read_bytes()]), "song.wav")
        services.store_document(_document(key))
        services.keep_picture(
            b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M0 0h9v9z"/></svg>', "a.svg"
        )
    finally:
        services.close()
    (folder / "data" / "demo.json").write_text('{"projects": []}')
    return folder / "data"


def _document(key):
    from fractions import Fraction

    from velvetdrum.scene.document import new_document, new_layer, new_track
    from velvetdrum.scene.frames import FRAMES

    return new_document(
        "Quay",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[new_layer("spectrum")],
        track=new_track(key, "song.wav", 2.0),
    )


def names(folder):
    db = open_database(folder / "velvetdrum.sqlite3")
    try:
        return [row.name for row in projects.listed(db)]
    finally:
        db.close()


def test_a_backup_comes_back_with_every_byte(data, tmp_path):
    done = run("backup", tmp_path / "kept", "--data", data)
    assert done.exit_code == 0 and "2 files" in done.output and "2 of them new" in done.output
    assert run("verify", tmp_path / "kept").exit_code == 0
    back = run("restore", tmp_path / "kept", "--data", tmp_path / "again")
    assert back.exit_code == 0, back.output
    assert names(tmp_path / "again") == ["Quay"]
    for path in (data / "media").iterdir():
        if path.is_file():
            assert (tmp_path / "again" / "media" / path.name).read_bytes() == path.read_bytes()
    assert json.loads((tmp_path / "again" / "demo.json").read_text()) == {"projects": []}


def test_only_what_is_new_is_copied_and_a_running_writer_does_not_matter(data, tmp_path):
    kept = tmp_path / "kept"
    run("backup", kept, "--data", data)
    writer = sqlite3.connect(data / "velvetdrum.sqlite3", isolation_level=None)
    writer.execute("BEGIN IMMEDIATE")
    writer.execute("UPDATE project SET name = 'Not yet'")
    done = run("backup", kept, "--data", data)
    writer.execute("ROLLBACK")
    writer.close()
    assert done.exit_code == 0 and "0 of them new" in done.output
    run("restore", kept, "--data", tmp_path / "again")
    assert names(tmp_path / "again") == ["Quay"]


@pytest.mark.parametrize("what", ["media", "database", "settings", "list", "cut"])
def test_a_damaged_backup_is_told_and_restores_nothing(data, tmp_path, what):
    kept = tmp_path / "kept"
    run("backup", kept, "--data", data)
    victim = {
        "media": next((kept / "media").glob("*.wav"), None),
        "database": kept / "velvetdrum.sqlite3",
        "settings": kept / "demo.json",
        "list": kept / LIST,
        "cut": kept / LIST,
    }[what]
    held = bytearray(victim.read_bytes())
    if what == "list":
        listing = json.loads(held)
        listing["media"] = ["../../evil.wav"]
        victim.write_text(json.dumps(listing))
    elif what == "cut":
        victim.unlink()
    else:
        held[len(held) // 2] ^= 1
        victim.write_bytes(bytes(held))
    for words in (("verify", kept), ("restore", kept, "--data", tmp_path / "again")):
        done = run(*words)
        assert done.exit_code == 1 and "Traceback" not in done.output and done.output.strip().endswith(".")
    assert not (tmp_path / "again" / "velvetdrum.sqlite3").exists()


def test_what_can_not_be_is_refused(data, tmp_path):
    assert "no projects" in run("backup", tmp_path / "kept", "--data", tmp_path / "none").output
    assert "outside of the data folder" in run("backup", data / "kept", "--data", data).output
    run("backup", tmp_path / "kept", "--data", data)
    assert "projects in" in run("restore", tmp_path / "kept", "--data", data).output
    assert names(data) == ["Quay"]
