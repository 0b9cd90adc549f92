"""Projects begun without a sound, or from a film; their tags; and what nothing needs any more."""

import io

import av
import numpy as np
import pytest
import soundfile
from PIL import Image

from tests.conftest import RATE, sine
from tests.picture.media.clips import read_number, write_clip
from tests.studio.conftest import wav
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.store.references import referenced_keys


def picture(width, height):
    file = io.BytesIO()
    Image.fromarray(np.full((height, width, 3), (200, 90, 40), np.uint8)).save(file, "PNG")
    return file.getvalue()


def shown(studio, project, second):
    """The number in a frame of a project's film."""
    document = studio.state(project)["document"]
    made = parse(document)
    sources = studio.services.sources(document)
    frame = made.time_of(round(second * float(made.rate)))
    return read_number(render(made, None, frame, FrameSize(160, 96), media=sources.media))


def test_an_empty_frame_of_a_size_and_rate(studio):
    made = studio.post("/projects", {"name": "Pier", "frame": "1080x1350", "rate": "23.976", "length_s": 4.5}).json
    document = studio.state(made["id"])["document"]
    assert document["frame"] == {"width": 1080, "height": 1350} and document["rate"] == "24000/1001"
    assert parse(document).length_s == 4.5 and document["layers"] == [] and document["tracks"] == []
    assert studio.get(f"/projects/{made['id']}").status_code == 200


def test_a_picture_without_sound_is_exported_in_silence(studio):
    made = studio.post_file("/projects/from-picture", picture(320, 180), "Pier.png").json["id"]
    asked = {"frame": "64x64", "speed": "quick", "to_s": 1.0}
    export = studio.post(f"/projects/{made}/exports", asked).json["id"]
    assert studio.wait_export(export)["state"] == "done"
    with av.open(io.BytesIO(studio.get(f"/exports/{export}/video").data)) as video:
        assert not video.streams.audio and video.streams.video[0].frames == 30
    assert studio.post(f"/projects/{made}/estimate", asked).json["seconds"] > 0
    heard = studio.post(f"/projects/{made}/exports", {"format": "sound-wav"})
    assert heard.status_code == 409 and "sound" in heard.json["error"]


@pytest.mark.parametrize("given", [{"frame": "7x7"}, {"frame": "round"}, {"rate": "31"}, {"length_s": 0}])
def test_what_can_not_be_a_frame_is_refused_with_a_sentence(studio, given):
    answer = studio.post("/projects", given)
    assert answer.status_code in (400, 422) and answer.json["error"].endswith(".")


@pytest.mark.parametrize(("size", "frame"), [((320, 180), (1920, 1080)), ((90, 110), (1080, 1350))])
def test_a_picture_begins_a_project_in_the_nearest_frame(studio, size, frame):
    made = studio.post_file("/projects/from-picture", picture(*size), "Pier at dusk.png").json
    document = studio.state(made["id"])["document"]
    assert document["name"] == "Pier at dusk" and tuple(document["frame"].values()) == frame
    made = parse(document)
    drawn = render(made, None, made.time_of(0), FrameSize(64, 64), media=studio.services.sources(document).media)
    assert np.abs(drawn[..., :3].astype(int) - (40, 90, 200)).max() <= 2
    assert studio.post_file("/projects/from-picture", b"no picture", "x.png").status_code == 422


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    """A film of 50 numbered frames with a second of sound and a second of another."""
    path = tmp_path_factory.mktemp("film") / "Ferry.mp4"
    sound = np.concatenate([sine(300, 1.0, -20), sine(600, 1.0, -14)])
    return write_clip(path, 50, rate=25, sound=sound).read_bytes()


def test_a_film_and_its_sound_are_one_thing(studio, film):
    project = studio.bring(film, "Ferry.mp4")["project"]
    document = studio.state(project)["document"]
    assert document["rate"] == "25" and document["tracks"][0]["name"] == "Ferry.mp4"
    assert [shown(studio, project, second) for second in (0.0, 0.4, 1.2)] == [0, 10, 30]
    studio.edit(project, "/tracks/0/in_s", 0.8)
    assert [shown(studio, project, second) for second in (0.0, 0.4)] == [20, 30]
    studio.edit(project, "/layers/0/settings/runs", "own")
    assert shown(studio, project, 0.4) == 10
    given = studio.get(f"/projects/{project}/looks/given").json
    assert given["media"]["film"] == {"key": document["tracks"][0]["media"], "name": "Ferry.mp4", "photo": False}


def test_a_look_shows_the_film_of_its_sound_in_its_place(studio, film):
    project = studio.bring(film, "Ferry.mp4")["project"]
    key = studio.state(project)["document"]["tracks"][0]["media"]
    revision = studio.state(project)["revision"]
    studio.post(f"/projects/{project}/look", {"revision": revision, "look": "lamp-at-sea", "film": key})
    films = [layer for layer in studio.state(project)["document"]["layers"] if layer["settings"].get("clip") == key]
    assert films and all(layer["settings"]["runs"] == "track" for layer in films)


def test_a_film_without_sound_is_a_picture_that_moves_and_says_so(studio, tmp_path):
    state = studio.bring(write_clip(tmp_path / "Gulls.mp4", 30).read_bytes(), "Gulls.mp4")
    document = studio.state(state["project"])["document"]
    assert "no sound" in state["error"] and document["tracks"] == []
    assert parse(document).length_s == pytest.approx(1.2, abs=0.05) and shown(studio, state["project"], 0.4) == 10


def test_a_sound_with_a_cover_in_it_is_a_sound(studio):
    file = io.BytesIO()
    soundfile.write(file, sine(400, 1.0, -20), RATE, format="MP3")
    cover = b"\0image/png\0\x03\0" + picture(64, 64)
    frame = b"APIC" + len(cover).to_bytes(4, "big") + b"\0\0" + cover
    size = bytes(len(frame) >> shift & 127 for shift in (21, 14, 7, 0))
    state = studio.bring(b"ID3\x03\0\0" + size + frame + file.getvalue(), "covered.mp3")
    document = studio.state(state["project"])["document"]
    assert document["tracks"] and not any("clip" in layer["settings"] for layer in document["layers"])


def test_projects_are_tagged_several_at_once(studio):
    idents = [studio.post("/projects", {"name": name}).json["id"] for name in ("Rope", "Kelp")]
    tags = studio.post("/projects/tags", {"projects": idents, "add": [" week 48 ", " "]}).json["tags"]
    assert all(tags[ident] == ["week 48"] for ident in idents)
    tags = studio.post("/projects/tags", {"projects": idents[:1], "add": ["done"], "remove": ["week 48"]}).json["tags"]
    assert tags[idents[0]] == ["done"] and tags[idents[1]] == ["week 48"]
    assert "week 48" in studio.get("/").text
    many = studio.post("/projects/tags", {"projects": idents[:1], "add": [f"tag {n}" for n in range(20)]})
    assert many.status_code == 422 and "up to 20 tags" in many.json["error"]
    gone = studio.post("/projects/tags", {"projects": ["0" * 12], "add": ["x"]})
    assert gone.status_code == 422
    studio.post(f"/projects/{idents[0]}/delete")
    studio.post(f"/projects/{idents[0]}/purge")
    assert idents[0] not in studio.post("/projects/tags", {"projects": idents[1:]}).json["tags"]


def test_the_project_that_was_opened_last_stands_first(studio):
    first, second = (studio.post("/projects", {"name": name}).json["id"] for name in ("Opened one", "Opened two"))
    for ident in (second, first):
        studio.get(f"/projects/{ident}")
    page = studio.get("/").text
    assert page.index(first) < page.index(second)


def test_cleaning_frees_what_nothing_names_and_nothing_else(studio):
    here = studio.services
    used = studio.bring(wav(sine(510, 1.0, -20)), "used.wav")["project"]
    unused = studio.bring(wav(sine(520, 1.0, -20)), "unused.wav")["project"]
    undone = studio.bring(wav(sine(530, 1.0, -20)), "undone.wav")["project"]
    keys = {name: studio.state(ident)["document"]["tracks"][0]["media"] for name, ident in
            (("used", used), ("unused", unused), ("undone", undone))}  # fmt: skip
    studio.edit(undone, "/tracks", [])
    studio.post(f"/projects/{unused}/delete")
    here.db.execute("DELETE FROM import")
    here.disk_space.rest_s = -1.0
    try:
        assert keys["unused"] in referenced_keys(here.db)  # it lies in the bin
        studio.post(f"/projects/{unused}/purge")
        before = studio.get("/disk-space").json["unused"]
        assert before["count"] >= 1 and before["bytes"] > 10_000
        after = studio.post("/disk-space", {"what": "unused"}).json
        assert after["freed"] == before["bytes"] and after["unused"] == {"count": 0, "bytes": 0}
    finally:
        del here.disk_space.rest_s
    assert here.recording(keys["unused"]) is None and not here.folder.analysis(keys["unused"]).exists()
    # What an undo would bring back is still there.
    assert here.recording(keys["used"]) is not None and here.recording(keys["undone"]) is not None


def test_old_videos_are_cleaned_and_stay_in_their_list(studio):
    here = studio.services
    project = studio.bring(wav(sine(540, 1.0, -20)), "old.wav")["project"]
    export = studio.post(f"/projects/{project}/exports", {"frame": "64x64", "speed": "quick"}).json["id"]
    studio.wait_export(export)
    assert studio.get("/disk-space").json["videos"]["count"] == 0
    here.db.execute("UPDATE export SET ended_at = ended_at - 31 * 86400 WHERE id = ?", (export,))
    state = studio.get("/disk-space").json["videos"]
    assert state["count"] == 1 and state["bytes"] > 1000
    assert studio.post("/disk-space", {"what": "videos"}).json["freed"] >= state["bytes"]
    assert studio.get(f"/exports/{export}").json["state"] == "done"
    assert studio.get(f"/exports/{export}/video").status_code in (404, 409, 410)
