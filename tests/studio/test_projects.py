"""Pages, edits, pictures and files of a project, over HTTP."""

import io
import zipfile

import cv2
import jsonschema
import numpy as np
import pytest

from tests.conftest import sine, song
from tests.studio.conftest import MARK, unpack, wav
from velvetdrum.scene.document import new_layer
from velvetdrum.studio.workers.drawn_frames import DrawnFrames


def picture(data: bytes) -> np.ndarray:
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)


def frames(studio, project, numbers, width=160, **more):
    answer = studio.post(f"/projects/{project}/frames", {"frames": numbers, "width": width, "form": "png", **more})
    assert answer.status_code == 200, answer.json
    return [(number, picture(data)) for number, data in unpack(answer.data)]


@pytest.mark.parametrize("path", ["/", "/projects/{project}"])
def test_pages_are_served_with_a_strict_policy(studio, project, path):
    answer = studio.client.get(path.format(project=project))
    assert answer.status_code == 200
    policy = answer.headers["Content-Security-Policy"]
    assert "unsafe" not in policy
    assert "script-src 'self'" in policy
    page = answer.get_data(as_text=True)
    assert "onclick=" not in page
    assert ' style="' not in page
    assert "http://" not in page.replace("http://www.w3.org/", "")
    assert "https://" not in page


def test_a_project_that_can_not_be_read_does_not_hide_the_others(studio, project):
    from velvetdrum.store import projects

    broken = projects.create(
        studio.services.db, {"name": "From tomorrow", "format": "velvetdrum-project", "version": 9}
    )
    try:
        page = studio.client.get("/").get_data(as_text=True)
        assert "Open it with a newer Velvet Drum" in page
        assert "Harbour song" in page
    finally:
        projects.delete(studio.services.db, broken)


def test_requests_from_other_sites_are_refused(studio, project):
    path = f"/projects/{project}/delete"
    assert studio.client.post(path).status_code == 403
    assert studio.client.post(path, headers=MARK | {"Origin": "http://elsewhere.example"}).status_code == 403
    assert studio.client.get("/", headers={"Host": "elsewhere.example"}).status_code == 400
    assert studio.state(project)["id"] == project


def test_faults_are_pages_for_people_and_json_for_scripts(studio):
    page = studio.client.get("/projects/none", headers={"Accept": "text/html"})
    assert page.status_code == 404
    assert "may have been deleted" in page.get_data(as_text=True)
    assert "may have been deleted" in studio.get("/projects/none/state").json["error"]
    assert "Traceback" not in page.get_data(as_text=True)


def test_an_unexpected_fault_is_a_sentence(studio, monkeypatch):
    from velvetdrum.store import projects

    def break_down(db):
        raise RuntimeError("secret detail")

    monkeypatch.setattr(projects, "listed", break_down)
    answer = studio.client.get("/", headers={"Accept": "text/html"})
    assert answer.status_code == 500
    assert "secret" not in answer.get_data(as_text=True)
    assert "was not done" in answer.get_data(as_text=True)


def test_frames_are_those_asked_for_and_always_the_same(studio, project):
    first = frames(studio, project, [60, 0, 61])
    assert [number for number, _ in first] == [60, 0, 61]
    assert first[0][1].shape == (90, 160, 3)
    studio.services.drawn = DrawnFrames()
    again = frames(studio, project, [61, 60])
    assert np.array_equal(again[1][1], first[0][1])
    assert not np.array_equal(first[0][1], first[1][1])
    beyond = frames(studio, project, [99_999])
    assert beyond[0][0] == 119


def test_what_was_drawn_is_shown_again_until_something_changes(studio, project, monkeypatch):
    asked = []
    real = studio.services.quickly
    monkeypatch.setattr(
        studio.services, "quickly", lambda task, *values: asked.append(values[2]) or real(task, *values)
    )
    first = frames(studio, project, [40, 41])
    again = frames(studio, project, [39, 41, 40, 41])
    assert asked == [[40, 41], [39]]
    assert [number for number, _ in again] == [39, 41, 40, 41]
    assert np.array_equal(again[1][1], first[1][1]) and np.array_equal(again[2][1], first[0][1])
    frames(studio, project, [40], width=200)
    before = studio.state(project)["document"]["layers"]
    studio.edit(project, "/layers", before[:1])
    ((_, other),) = frames(studio, project, [40])
    assert not np.array_equal(other, first[0][1])
    studio.edit(project, "/layers", before)
    ((_, back),) = frames(studio, project, [40])
    assert np.array_equal(back, first[0][1])
    assert asked == [[40, 41], [39], [40], [40]]


def test_a_draft_is_drawn_but_not_kept(studio, project):
    before = studio.state(project)
    draft = [
        {"op": "replace", "path": "/layers/0/settings/fill", "value": "plain"},
        {"op": "replace", "path": "/layers/0/settings/plain", "value": "#ff0000"},
    ]
    ((_, shown),) = frames(studio, project, [0], draft=draft)
    assert shown[2, 2].tolist() == [0, 0, 255]
    assert studio.state(project) == before
    bad = [{"op": "replace", "path": "/layers/1/settings/bands", "value": 9999}]
    answer = studio.post(f"/projects/{project}/frames", {"frames": [0], "width": 160, "draft": bad})
    assert answer.status_code == 422
    assert answer.json["problems"][0]["path"] == "/layers/1/settings/bands"


def test_a_draft_is_made_on_the_revision_that_it_names(studio, project):
    add = [{"op": "add", "path": "/layers/-", "value": new_layer("backdrop") | {"id": "a-new-one"}}]
    revision = studio.client.get(f"/projects/{project}/state").json["revision"]
    draft = {"draft": add, "revision": revision}
    before = frames(studio, project, [3], **draft)
    kept = studio.post(f"/projects/{project}/edits", {"revision": revision, "label": "Add", "patch": add})
    assert kept.status_code == 200
    # The page asks again with the edit among its unsent ones, since no answer has come yet.
    again = frames(studio, project, [3], **draft)
    assert np.array_equal(before[0][1], again[0][1])
    body = {"frames": [3], "width": 160, "form": "png", "draft": add}
    assert studio.post(f"/projects/{project}/frames", body).status_code == 422
    # One that nobody knows any more is the present one.
    assert studio.post(f"/projects/{project}/frames", body | {"revision": 987_654}).status_code == 422
    studio.post(f"/projects/{project}/undo", {"revision": kept.json["revision"]})


def test_a_layer_alone(studio, project):
    layer = studio.state(project)["document"]["layers"][1]["id"]
    ((_, shown),) = frames(studio, project, [60], only=layer)
    assert shown[2, 2].tolist() == [0, 0, 0]
    assert shown.max() > 100


def test_the_whole_picture_alone_is_shown_with_what_is_behind_it(studio, project):
    before = studio.state(project)["document"]["layers"]
    whole = new_layer("whole-picture")
    cover = new_layer("backdrop", fill="plain", plain="#ff0000")
    ((_, wanted),) = frames(studio, project, [60])
    assert studio.edit(project, "/layers", [*before, whole | {"visible": False}, cover]).status_code == 200
    ((_, shown),) = frames(studio, project, [60], only=whole["id"])
    assert np.array_equal(shown, wanted) and shown.max() > 100
    assert studio.edit(project, "/layers", before).status_code == 200


@pytest.mark.parametrize(
    "body",
    [
        {},
        {"frames": []},
        {"frames": ["x"], "width": 100},
        {"frames": [1], "width": 9},
        {"frames": [1], "width": 100, "form": "bmp"},
        {"frames": [1] * 65, "width": 100},
    ],
)
def test_senseless_requests_for_frames_are_refused(studio, project, body):
    assert studio.post(f"/projects/{project}/frames", body).status_code == 400


def test_a_drawing_process_that_dies_is_replaced(studio, project):
    import os
    import signal

    frames(studio, project, [1])
    for pid in studio.services.workers.pool("preview").pids:
        os.kill(pid, signal.SIGKILL)
    assert len(frames(studio, project, [2])) == 1


def test_edits_undo_redo_and_conflict(studio):
    project = studio.bring(wav(song(1.0)), "edits.wav")["project"]
    one = studio.edit(project, "/layers/1/settings/gap", 10, label="Gap").json
    assert (one["undo"], one["revision"]) == ("Gap", 2)
    stale = studio.edit(project, "/layers/1/settings/gap", 20, revision=1)
    assert stale.status_code == 409
    assert stale.json["revision"] == 2
    wrong = studio.edit(project, "/layers/1/settings/gap", 500)
    assert wrong.status_code == 422
    assert "0 to 95" in wrong.json["error"]
    undone = studio.post(f"/projects/{project}/undo", {"revision": 2}).json
    # A change is told by its patch.
    assert undone["patch"] == [{"op": "replace", "path": "/layers/1/settings/gap", "value": 38.0}]
    assert studio.state(project)["document"]["layers"][1]["settings"]["gap"] == 38
    assert studio.post(f"/projects/{project}/redo", {"revision": 3}).json["patch"][0]["value"] == 10
    assert studio.post(f"/projects/{project}/edits", {"revision": 4, "patch": "x"}).status_code == 400


def test_duplicate_delete_and_restore(studio):
    project = studio.bring(wav(song(1.0)), "Twice.wav")["project"]
    copy = studio.post(f"/projects/{project}/duplicate").json["id"]
    assert studio.state(copy)["document"]["name"] == "Twice copy"
    studio.post(f"/projects/{copy}/delete")
    assert studio.get(f"/projects/{copy}/state").status_code == 404
    assert studio.edit(project, "/name", "Still here").status_code == 200
    studio.post(f"/projects/{copy}/restore")
    assert studio.state(copy)["id"] == copy


def test_moments_and_poster(studio, project):
    found = studio.get(f"/projects/{project}/moments").json
    assert [moment["name"] for moment in found] == ["first", "quietest", "loudest", "last"]
    poster = studio.client.get(f"/projects/{project}/poster?frame=60&revision=1")
    assert picture(poster.data).shape == (360, 640, 3)


def test_a_project_file_leads_back_to_the_same_project(studio, project):
    data = studio.client.get(f"/projects/{project}/file").data
    with zipfile.ZipFile(io.BytesIO(data)) as bundle:
        assert sorted(name.split("/")[0] for name in bundle.namelist()) == ["media", "project.json"]
        jsonschema.validate(__import__("json").loads(bundle.read("project.json")), studio.get("/schema.json").json)
    opened = studio.bring(data, "Harbour song.vdrum")["project"]
    assert opened != project
    assert studio.state(opened)["document"] == studio.state(project)["document"]


def test_a_project_file_from_elsewhere_brings_its_sound(studio, tmp_path_factory, project):
    from tests.studio.conftest import Studio
    from velvetdrum.studio.app import create_app

    data = studio.client.get(f"/projects/{project}/file").data
    other = Studio(create_app(tmp_path_factory.mktemp("other")))
    try:
        state = other.bring(data, "x.vdrum")
        assert other.state(state["project"])["document"] == studio.state(project)["document"]
        assert other.get(f"/sounds/{studio.state(project)['document']['tracks'][0]['media']}").status_code == 200
    finally:
        other.services.close()


@pytest.mark.parametrize("change", ["hash", "document", "missing"])
def test_a_damaged_project_file_is_refused(studio, project, change):
    data = studio.client.get(f"/projects/{project}/file").data
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as bundle, zipfile.ZipFile(out, "w") as broken:
        for name in bundle.namelist():
            content = bundle.read(name)
            if name.startswith("media") and change == "missing":
                continue
            if name.startswith("media") and change == "hash":
                content = content[:-1] + b"\x00\x01"
            if name == "project.json" and change == "document":
                content = content.replace(b'"bands": 64', b'"bands": 6400')
            broken.writestr(name, content)
    state = studio.bring(out.getvalue(), "x.vdrum")
    assert state["state"] == "failed" and state["project"] is None
    assert state["error"].endswith(".")


def test_a_project_file_is_opened_behind_the_request_and_what_would_not_be_taken_alone_is_refused(
    studio, project, monkeypatch
):
    from velvetdrum.studio.jobs import imports

    document = studio.state(project)["document"]
    logo = studio.post_file(
        f"/projects/{project}/pictures", cv2.imencode(".png", np.full((40, 40, 3), 90, np.uint8))[1].tobytes(), "a.png"
    )
    layers = [*document["layers"], new_layer("logo", "Lamp", image=logo.json["key"])]
    studio.edit(project, "/layers", layers)
    data = studio.client.get(f"/projects/{project}/file").data
    studio.edit(project, "/layers", document["layers"])
    answer = studio.send(data, "Quay.vdrum")
    assert answer.status_code == 202 and set(answer.json) == {"import"}
    assert studio.wait_import(answer.json["import"])["state"] == "done"
    monkeypatch.setattr(imports, "MOST_PICTURE", 20)
    state = studio.bring(data, "Quay.vdrum")
    assert state["state"] == "failed" and state["error"].startswith("A picture in this project file is larger")
    assert not list(studio.services.folder.incoming.iterdir())


def test_the_bin_shows_what_is_deleted_and_forgets_it_for_good(studio):
    ident = studio.bring(wav(sine(300, 1.0, -20)), "Bell.wav")["project"]
    assert studio.post(f"/projects/{ident}/purge").status_code == 404
    export = studio.post(f"/projects/{ident}/exports", {"frame": "64x64", "speed": "quick"}).json["id"]
    studio.wait_export(export)
    studio.post(f"/projects/{ident}/delete")
    assert "Bin (" in studio.get("/").text and "Bell" in studio.get("/").text
    assert studio.post(f"/projects/{ident}/purge").json == {"purged": ident}
    assert studio.post(f"/projects/{ident}/restore").status_code == 404
    assert studio.get(f"/exports/{export}").status_code == 404
    assert studio.post("/projects/nonsense/purge").status_code == 404


def test_the_bin_keeps_for_thirty_days(studio):
    services = studio.client.application.extensions["services"]
    old, new = (studio.bring(wav(sine(hz, 1.0, -20)), f"{hz}.wav")["project"] for hz in (310, 320))
    for ident in (old, new):
        studio.post(f"/projects/{ident}/delete")
    services.db.execute("UPDATE project SET deleted_at = deleted_at - ? WHERE id = ?", (31 * 86_400, old))
    assert services.bin.purge_old() == 1
    assert studio.post(f"/projects/{old}/restore").status_code == 404
    assert studio.post(f"/projects/{new}/restore").json == {"id": new}
