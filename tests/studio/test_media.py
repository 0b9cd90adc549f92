"""Clips and logos in the studio: brought in, prepared, stopped, missed, found again; and where the layers lie."""

import io
import json
import struct
import zipfile
from urllib.parse import quote

import cv2
import numpy as np
import pytest

from tests.conftest import sine, song
from tests.picture.media.clips import read_number, write_clip
from tests.studio.conftest import MARK, unpack, wav
from tests.waiting import until
from velvetdrum.demo.pictures import lamp_svg
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.masks import new_mask
from velvetdrum.store import media


def send(studio, path, data, name="file"):
    return studio.client.post(path, data=data, headers=MARK | {"X-File-Name": quote(name)})


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    folder = tmp_path_factory.mktemp("clip")
    return write_clip(folder / "count.mp4", 50, sound=sine(880, 2.0, -12.0)).read_bytes()


@pytest.fixture(scope="module")
def project(studio):
    return studio.bring(wav(song(4.0)), "Harbour song.wav")["project"]


def bring_clip(studio, project, data, name="count.mp4"):
    answer = send(studio, f"/projects/{project}/clips", data, name)
    assert answer.status_code == 202, answer.json
    if "import" in answer.json:
        state = studio.wait_import(answer.json["import"])
        return answer.json["key"], state
    return answer.json["key"], {"state": "done"}


def picture_of(studio, project, frame, **more):
    answer = studio.post(f"/projects/{project}/frames", {"frames": [frame], "width": 320, "form": "png", **more})
    assert answer.status_code == 200, answer.json
    return cv2.imdecode(np.frombuffer(unpack(answer.data)[0][1], np.uint8), cv2.IMREAD_COLOR)


def test_a_clip_is_prepared_kept_and_shown_frame_by_frame(studio, project, clip):
    key, state = bring_clip(studio, project, clip, "Zählung.mp4")
    assert state["state"] == "done" and state["key"] == key
    facts = studio.get(f"/clips/{key}").json
    assert facts["name"] == "Zählung.mp4" and facts["frames"] == 50 and facts["sound"] and not facts["varying"]
    # The same content again needs no preparing.
    assert all(0 <= second < 1 for second in studio.get(f"/clips/{key}/cuts?from_s=0&to_s=1").json["cuts"])
    assert studio.get(f"/clips/{'0' * 64}/cuts").status_code == 404
    assert studio.get(f"/clips/{key}/cuts?from_s=-1").status_code == 400
    assert "import" not in send(studio, f"/projects/{project}/clips", clip).json
    layers = studio.state(project)["document"]["layers"]
    studio.edit(project, "/layers", [layers[0], new_layer("footage", clip=key, fit="stretch")])
    assert [read_number(picture_of(studio, project, frame)) for frame in (0, 36, 12, 59)] == [0, 30, 10, 49]
    thumb = studio.get(f"/pictures/{key}")
    assert thumb.mimetype == "image/jpeg" and cv2.imdecode(np.frombuffer(thumb.data, np.uint8), 1).shape[1] == 160


def test_the_sound_of_a_clip_is_mixed_into_what_is_played(studio, project, clip):
    key, _ = bring_clip(studio, project, clip)
    state = studio.state(project)["document"]
    plain = np.frombuffer(studio.get(f"/projects/{project}/pcm?start=4800&count=4800").data, "<i2").reshape(-1, 2)
    track = state["tracks"][0]["media"]
    own = np.frombuffer(studio.get(f"/sounds/{track}/pcm?start=4800&count=4800").data, "<i2").reshape(-1, 2)
    assert np.abs(plain.astype(int) - own).max() <= 1
    studio.edit(project, "/layers", [new_layer("footage", clip=key, sound="mixed", gain_db=0.0)])
    both = np.frombuffer(studio.get(f"/projects/{project}/pcm?start=4800&count=4800").data, "<i2").reshape(-1, 2)
    assert np.abs(both.astype(int) - own).max() > 2000
    assert studio.get(f"/projects/{project}/pcm?start=-1&count=5").status_code == 400
    studio.edit(project, "/layers", state["layers"])


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"not a video at all" * 99, "no video that can be read"),
        (b"", "no video"),
        (wav(song(0.3)), "no pictures in it"),
    ],
)
def test_what_is_no_clip_gets_a_sentence_and_leaves_nothing(studio, project, data, words):
    key, state = bring_clip(studio, project, data)
    assert state["state"] == "failed" and words in state["error"]
    assert studio.get(f"/clips/{key}").status_code == 404
    assert not list(studio.services.folder.incoming.iterdir())


def test_preparing_can_be_cancelled(studio, project, tmp_path):
    def large(number):
        return np.full((720, 1280, 3), number % 255, np.uint8)

    data = write_clip(tmp_path / "long.mp4", 500, frames=large, options={"preset": "ultrafast"}).read_bytes()
    begun = send(studio, f"/projects/{project}/clips", data).json
    until(lambda: studio.get(f"/imports/{begun['import']}").json["share"], "a share of it")
    studio.post(f"/imports/{begun['import']}/cancel")
    assert studio.wait_import(begun["import"])["state"] == "cancelled"
    assert (
        media.find(studio.services.db, begun["key"]) is None and not studio.services.folder.clip(begun["key"]).exists()
    )


def test_a_missing_file_is_said_drawn_and_found_again_by_its_content(studio, project, clip):
    key, _ = bring_clip(studio, project, clip)
    layers = studio.state(project)["document"]["layers"]
    studio.edit(project, "/layers", [layers[0], new_layer("footage", "Water", clip=key, fit="stretch")])
    assert studio.get(f"/projects/{project}/missing").json == []
    row = media.find(studio.services.db, key)
    studio.services.folder.original(row).unlink()
    (studio.services.folder.clip(key) / "proxy.mp4").unlink()
    found = studio.get(f"/projects/{project}/missing").json
    assert found == [{"key": key, "name": row.name, "layers": ["Water"]}]
    assert picture_of(studio, project, 3).std() > 5  # the chequered box
    refused = studio.post(f"/projects/{project}/exports", {})
    assert refused.status_code == 409 and "The file behind Water is not here" in refused.json["error"]
    assert studio.get(f"/pictures/{key}").status_code == 404
    again, state = bring_clip(studio, project, clip)
    assert again == key and state["state"] == "done"
    assert studio.get(f"/projects/{project}/missing").json == []
    assert read_number(picture_of(studio, project, 30)) == 25
    studio.edit(project, "/layers", layers)


def test_a_project_file_carries_clips_and_logos_and_opens_without_them(studio, project, clip):
    key, _ = bring_clip(studio, project, clip)
    logo = send(studio, f"/projects/{project}/pictures", lamp_svg().encode(), "lamp.svg").json
    assert (logo["width"], logo["height"]) == (200, 200)
    layers = studio.state(project)["document"]["layers"]
    scene = [new_layer("footage", "Water", clip=key, fit="stretch"), new_layer("logo", "Lamp", image=logo["key"])]
    studio.edit(project, "/layers", [layers[0], *scene])
    drawn = picture_of(studio, project, 20)
    assert drawn[90, 160].max() < 60 or drawn[60, 160].max() > 200
    file = studio.get(f"/projects/{project}/file").data
    names = zipfile.ZipFile(io.BytesIO(file)).namelist()
    assert f"media/{logo['key']}.svg" in names and f"media/{key}.mp4" in names
    other = studio.bring(file, "Copy.vdrum")["project"]
    assert np.array_equal(picture_of(studio, other, 20), drawn)
    # The same project without its pictures: it opens, and says what is missing.
    lean = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(file)) as whole, zipfile.ZipFile(lean, "w") as kept:
        document = json.loads(whole.read("project.json"))
        document["layers"][1]["settings"]["clip"] = "f" * 64
        kept.writestr("project.json", json.dumps(document))
        for name in names:
            if name.startswith("media/") and key not in name and logo["key"] not in name:
                kept.writestr(name, whole.read(name))
    opened = studio.bring(lean.getvalue(), "Lean.vdrum")["project"]
    assert [item["layers"] for item in studio.get(f"/projects/{opened}/missing").json] == [["Water"]]
    studio.edit(project, "/layers", layers)


def test_an_svg_that_would_run_something_is_refused_and_none_is_ever_served(studio, project):
    bad = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><script>x()</script></svg>'
    answer = send(studio, f"/projects/{project}/pictures", bad, "bad.svg")
    assert answer.status_code == 422 and "script" in answer.json["error"]
    key = send(studio, f"/projects/{project}/pictures", lamp_svg().encode(), "lamp.svg").json["key"]
    shown = studio.get(f"/pictures/{key}")
    assert shown.mimetype == "image/jpeg" and shown.data[:3] == b"\xff\xd8\xff"


def test_handles_are_told_for_any_frame_and_for_drafts(studio, project):
    layers = studio.state(project)["document"]["layers"]
    group = new_layer("group", "All", move_x=10.0)
    box = new_layer("shape", "Box", form="rectangle", width=20.0, height=20.0) | {"group": group["id"]}
    studio.edit(project, "/layers", [*layers, group, box])
    found = studio.post(f"/projects/{project}/handles", {"frame": 0}).json
    lie = {handle["id"]: handle for handle in found["handles"]}
    assert lie[box["id"]]["corners"][0] == pytest.approx([960 + 192 - 108, 540 - 108])
    assert lie[group["id"]]["box"] == pytest.approx([960 - 108, 540 - 108, 960 + 108, 540 + 108])
    number = len(layers) + 1
    draft = [{"op": "replace", "path": f"/layers/{number}/settings/x", "value": 100.0}]
    tall = studio.post(f"/projects/{project}/handles", {"frame": 0, "size": [1080, 1920], "draft": draft}).json
    assert any("Box lies" in text and "outside of the tall frame" in text for text in tall["misfits"])
    assert studio.post(f"/projects/{project}/handles", {"frame": 0, "size": [3, 4]}).status_code == 400
    assert studio.post(f"/projects/{project}/handles", {"frame": 0, "size": "tall"}).status_code == 400
    studio.edit(project, "/layers", layers)


def test_frames_come_in_another_shape_without_changing_the_project(studio, project):
    answer = studio.post(
        f"/projects/{project}/frames", {"frames": [0], "width": 270, "form": "png", "size": [1080, 1920]}
    )
    picture = cv2.imdecode(np.frombuffer(answer.data[8:], np.uint8), cv2.IMREAD_COLOR)
    assert picture.shape[:2] == (480, 270)
    assert struct.unpack_from("<I", answer.data)[0] == 0
    assert studio.state(project)["document"]["frame"] == {"width": 1920, "height": 1080}


def test_one_layer_alone_is_drawn_with_what_masks_it(studio, project):
    layers = studio.state(project)["document"]["layers"]
    reader = new_layer("shape", "Reader", form="rectangle", width=20.0, height=20.0) | {"visible": False}
    light = new_layer("shape", "Light", form="rectangle", width=200.0, height=200.0, plain="#ffffff")
    light["masks"] = [new_mask("layer", source=reader["id"])]
    studio.edit(project, "/layers", [layers[0], reader, light])
    alone = picture_of(studio, project, 0, only=light["id"])
    assert (alone.max(axis=2) > 200).sum() == pytest.approx(36 * 36, abs=90)
    studio.edit(project, "/layers", layers)


def test_choices_are_drawn_over_a_backdrop_that_is_in_a_group(studio, project):
    layers = studio.state(project)["document"]["layers"]
    group = new_layer("group", "Ground")
    studio.edit(project, "/layers", [group, layers[0] | {"group": group["id"]}, *layers[1:]])
    names = [choice["name"] for choice in studio.get("/choices").json["choices"]]
    for name in ("Logo", "Footage"):
        run = {"first": names.index(name), "count": 1}
        answer = studio.post(f"/projects/{project}/choices", run)
        assert answer.status_code == 200 and [choice["name"] for choice in answer.json["choices"]] == [name]
    studio.edit(project, "/layers", layers)


def test_a_document_that_does_not_hang_together_is_refused(studio, project):
    before = studio.state(project)
    group = new_layer("group", "Own")
    group["group"] = group["id"]
    answer = studio.edit(project, "/layers", [group])
    assert answer.status_code == 422 and "inside of itself" in answer.json["error"]
    assert studio.state(project) == before
