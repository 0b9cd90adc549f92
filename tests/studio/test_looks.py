"""Looks in the studio: listed, moving to a sound, put under a project, kept, and what is refused."""

import io
import shutil

import cv2
import numpy as np
import pytest

from tests.conftest import song
from tests.studio.conftest import MARK, wav
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.deliver.bundle import read_bundle
from velvetdrum.store import imports
from velvetdrum.store.media import MediaRow
from velvetdrum.studio.workers.drawn_frames import unpacked


def logo():
    """A red disc with a blue middle as PNG."""
    pixels = np.zeros((64, 64, 4), np.uint8)
    cv2.circle(pixels, (32, 32), 30, (40, 40, 220, 255), -1, cv2.LINE_AA)
    cv2.circle(pixels, (32, 32), 12, (200, 120, 30, 255), -1, cv2.LINE_AA)
    return cv2.imencode(".png", pixels)[1].tobytes()


def moving(studio, project, look, **given):
    answer = studio.post(f"/projects/{project}/looks/{look}/moving", {"count": 1, **given})
    assert answer.status_code == 200, answer.json
    return [cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR) for _, data in unpacked(answer.data)]


def take(studio, project, look, **given):
    revision = studio.state(project)["revision"]
    return studio.post(f"/projects/{project}/look", {"revision": revision, "look": look, **given})


def taken(studio, project, look, **given):
    answer = take(studio, project, look, **given)
    assert answer.status_code == 200, answer.json
    return studio.state(project)


def test_all_looks_are_listed_with_what_they_ask_for(studio):
    looks = studio.client.get("/looks").json["looks"]
    assert len([look for look in looks if not look["own"]]) == 24
    lamp = next(look for look in looks if look["id"] == "lamp-at-sea")
    assert [place["kind"] for place in lamp["places"]] == ["title", "cover", "film"]
    assert list(lamp["colours"])[:2] == ["ground", "ink"] or set(lamp["colours"]) >= {"ground", "ink", "accent 1"}


def test_a_look_moves_to_the_sound_in_any_frame(studio, project):
    one, other = moving(studio, project, "halo", count=2)
    assert one.shape[:2] == (320, 320) and np.abs(one.astype(int) - other).mean() > 0.2
    (tall,) = moving(studio, project, "halo", frame="tall", first=7)
    assert tall.shape[0] > tall.shape[1]
    titled = moving(studio, project, "halo", title="Harbour at Six")[0]
    assert np.abs(titled.astype(int) - one).mean() > 0.2
    assert studio.state(project)["revision"] == 1


@pytest.fixture
def listening(studio, tmp_path):
    """The id of an import that is still being listened to, whose first seconds are known."""
    here = studio.services
    received, part = here.folder.receive([wav(song(14.0))], "Long way.wav", 1 << 30)
    ident = imports.create(here.db, received, part.name, {})
    analyse(part, here.folder.opening(received.key), most_s=12.0)
    yield ident
    imports.end(here.db, ident, "cancelled", "")
    shutil.rmtree(here.folder.opening(received.key))
    part.unlink()


def test_looks_move_to_the_first_seconds_while_the_rest_is_listened_to(studio, listening):
    assert studio.client.get(f"/imports/{listening}").json["opening"]
    page = studio.client.get(f"/imports/{listening}/looks")
    assert page.status_code == 200 and "Long way" in page.text
    answer = studio.post(f"/imports/{listening}/looks/halo/moving", {"count": 2, "title": "Long way"})
    one, other = (cv2.imdecode(np.frombuffer(data, np.uint8), 1) for _, data in unpacked(answer.data))
    assert one.shape[:2] == (320, 320) and np.abs(one.astype(int) - other).mean() > 0.2


def test_looks_of_what_is_no_longer_listened_to(studio, listening):
    done = studio.send(wav(song(2.0)), "a.wav").json["import"]
    project = studio.wait_import(done)["project"]
    assert studio.client.get(f"/imports/{done}/looks").location == f"/projects/{project}/looks"
    assert studio.post(f"/imports/{done}/looks/halo/moving", {"count": 1}).status_code == 200
    given = studio.client.get(f"/projects/{project}/looks/given").json
    assert given["project"]["id"] == project and not given["import"]
    imports.end(studio.services.db, listening, "failed", "This is no sound.")
    assert studio.client.get(f"/imports/{listening}/looks").status_code == 409
    early = imports.create(studio.services.db, MediaRow("b" * 64, ".wav", "late.wav", 1, None), "", {})
    refused = studio.post(f"/imports/{early}/looks/halo/moving", {})
    imports.end(studio.services.db, early, "cancelled", "")
    assert refused.status_code == 409 and "not known yet" in refused.json["error"]


def test_a_look_is_one_step_of_undo_and_keeps_track_words_and_markers(studio, project):
    words = {"words": {"name": "Words", "language": "en", "cues": {"a": {"start_s": 0.2, "end_s": 1.5, "text": "Fog"}}}}
    studio.edit(project, "/cue_tracks", words)
    studio.edit(project, "/markers", [{"time_s": 1.0, "text": "Bell"}])
    before = studio.state(project)["document"]
    state = taken(studio, project, "double-orbit", title="Harbour at Six", frame="tall")
    made = state["document"]
    assert made["tracks"] == before["tracks"] and made["markers"] == before["markers"]
    assert made["cue_tracks"] == before["cue_tracks"] and made["name"] == before["name"]
    assert made["tags"]["title"] == "Harbour at Six" and made["frame"] == {"width": 1080, "height": 1920}
    assert made["look"]["roles"] and made["colours"]["ground"]
    assert state["undo"] == "Look: Double orbit"
    studio.post(f"/projects/{project}/undo", {"revision": state["revision"]})
    assert studio.state(project)["document"] == before


def test_another_look_under_a_project_keeps_its_tags(studio, project):
    take(studio, project, "horizon", title="Harbour at Six", artist="The Quay Band")
    made = taken(studio, project, "halo")["document"]
    assert made["tags"] == {"title": "Harbour at Six", "artist": "The Quay Band"}


def test_a_logo_and_its_colours_go_in(studio, project):
    key = studio.post_file(f"/projects/{project}/pictures", logo(), "Mark.png").json["key"]
    names = ["ground", "ink", "accent 1", "accent 2"]
    colours = studio.post("/looks/colours", {"picture": key, "names": names}).json["colours"]
    assert list(colours) == names or set(colours) == set(names)
    made = taken(studio, project, "lamp-at-sea", cover=key, colours=colours)["document"]
    assert made["colours"]["accent 1"] == colours["accent 1"]
    assert any(layer["settings"].get("image") == key for layer in made["layers"])
    assert studio.post("/looks/colours", {"picture": "0" * 64, "names": names}).status_code == 404


def test_a_kept_look_is_used_on_another_sound_and_deleted(studio, project):
    take(studio, project, "lamp-at-sea", title="Quay")
    ident = studio.post(f"/projects/{project}/looks", {"name": "My lamp", "about": "Mine."}).json["id"]
    assert [look["name"] for look in studio.client.get("/looks").json["looks"] if look["own"]] == ["My lamp"]
    other = studio.bring(wav(0.1 * song(2.0)), "quiet.wav")["project"]
    made = taken(studio, other, ident, title="Again")["document"]
    assert made["tags"]["title"] == "Again" and len(made["layers"]) > 5
    assert studio.client.delete(f"/looks/{ident}", headers=MARK).status_code == 200
    assert take(studio, other, ident).status_code == 404
    assert studio.state(other)["document"]["layers"] == made["layers"]


def test_chosen_layers_are_kept_as_a_look(studio, project):
    layer = studio.state(project)["document"]["layers"][1]["id"]
    answer = studio.post(f"/projects/{project}/looks", {"name": "Bars", "layers": [layer]})
    assert answer.status_code == 200, answer.json
    ident = answer.json["id"]
    assert len(taken(studio, project, ident)["document"]["layers"]) == 1


@pytest.mark.parametrize(
    ("path", "given", "status"),
    [
        ("/projects/{}/looks/no-such/moving", {}, 404),
        ("/projects/{}/looks/halo/moving", {"frame": "round"}, 400),
        ("/projects/{}/looks/halo/moving", {"count": 900}, 400),
        ("/projects/{}/looks/halo/moving", {"title": "x" * 400}, 400),
        ("/projects/{}/looks", {"name": "  "}, 422),
        ("/projects/{}/look", {"revision": 1, "look": "no-such"}, 404),
        ("/projects/{}/look", {"revision": 99, "look": "halo"}, 409),
    ],
)
def test_what_can_not_be_is_refused_with_a_sentence(studio, project, path, given, status):
    answer = studio.post(path.format(project), given)
    assert answer.status_code == status and answer.json["error"].endswith(".")


def test_wrong_cues_and_colours_change_nothing(studio, project):
    before = studio.state(project)
    for given in ({"words": {"a": {"start_s": 3}}}, {"colours": {"ground": "no colour"}}, {"colours": {"ground": 7}}):
        answer = take(studio, project, "evening-talk", **given)
        assert answer.status_code in (400, 422), given
    assert studio.state(project) == before


def test_a_project_from_a_look_is_a_file_that_opens(studio, project, tmp_path):
    take(studio, project, "evening-talk", title="Quay", speaker="Harbour office")
    path = tmp_path / "look.vdrum"
    path.write_bytes(io.BytesIO(studio.client.get(f"/projects/{project}/file").data).getvalue())
    document, _ = read_bundle(path, tmp_path)
    assert document["look"]["family"] == "Speech"


def test_project_colours_are_found_and_changed_together(studio):
    project = studio.bring(wav(song(2.0)), "colours.wav")["project"]
    (found,) = studio.post(f"/projects/{project}/recolour").json["patch"]
    assert found["path"] == "/colours" and {"ground", "ink", "accent 1"} <= found["value"].keys()
    studio.post(f"/projects/{project}/edits", {"revision": 1, "label": "Colours", "patch": [found]})
    name, value = "accent 1", found["value"]["accent 1"]
    patch = studio.post(f"/projects/{project}/recolour", {"colours": {name: "#10c020"}}).json["patch"]
    before = str(studio.state(project)["document"]["layers"])
    studio.post(f"/projects/{project}/edits", {"revision": 2, "label": "Green", "patch": patch})
    document = studio.state(project)["document"]
    assert document["colours"][name] == "#10c020" and value in before and "#10c020" in str(document["layers"])
    assert studio.post(f"/projects/{project}/recolour", {"colours": {name: "green"}}).status_code == 422


def test_another_look_gets_what_is_in_the_places_of_the_one_before(studio):
    project = studio.bring(wav(song(2.0)), "carried.wav")["project"]
    key = studio.post_file(f"/projects/{project}/pictures", logo(), "Disc.png").json["key"]
    taken(studio, project, "lamp-at-sea", cover=key)
    given = studio.get(f"/projects/{project}/looks/given").json
    assert given["media"].keys() == {"cover"} and given["media"]["cover"]["key"] == key
    assert given["media"]["cover"]["photo"] and given["media"]["cover"]["name"]


def test_a_video_in_a_look_is_estimated_before_the_project_has_it(studio, project):
    asked = {"speed": "quick", "to_s": 1.0, "frame": "square", "title": "Quay"}
    before = studio.state(project)["revision"]
    cost = studio.post(f"/projects/{project}/looks/halo/estimate", asked).json
    assert cost["seconds"] > 0 and cost["bytes"] > 1000 and cost["free_bytes"] > 0
    assert studio.state(project)["revision"] == before


def test_other_sounds_stand_beside_the_first(studio, project):
    other = studio.bring(wav(song(1.5)), "Ropes.wav")["project"]
    page = studio.get(f"/projects/{project}/looks?others={other}")
    assert page.status_code == 200 and "Ropes" in page.text
    assert studio.get(f"/projects/{project}/looks?others=nonsense").status_code == 404


def test_a_kept_look_is_shared_as_a_file_and_updated_under_its_name(studio, project):
    asked = {"name": "Shared one", "about": "A ring.", "uses": ["voice"], "tags": ["weekly", "ring"]}
    ident = studio.post(f"/projects/{project}/looks", asked).json["id"]
    kept = next(look for look in studio.get("/looks").json["looks"] if look["id"] == ident)
    assert kept["tags"] == ["weekly", "ring"] and kept["uses"] == ["voice"] and kept["own"]
    file = studio.get(f"/looks/{ident}/file")
    assert file.headers["Content-Disposition"].endswith('filename="Shared one.vdrum"')
    assert studio.client.delete(f"/looks/{ident}", headers=MARK).status_code == 200
    projects = len(studio.get("/demo").json) and studio.get("/demo").json["projects"]
    state = studio.bring(file.data, "Shared one.vdrum")
    assert state["state"] == "done" and not state["project"] and "is a look" in state["error"]
    assert studio.get("/demo").json["projects"] == projects
    again = [look for look in studio.get("/looks").json["looks"] if look["name"] == "Shared one"]
    assert len(again) == 1 and again[0]["tags"] == ["weekly", "ring"]
    studio.post(f"/projects/{project}/looks", asked | {"about": "Two rings."})
    again = [look for look in studio.get("/looks").json["looks"] if look["name"] == "Shared one"]
    assert len(again) == 1 and again[0]["about"] == "Two rings."
    assert studio.get("/looks/halo/file").status_code == 200
    assert studio.get("/looks/nothing/file").status_code == 404


@pytest.mark.parametrize("more", [{"uses": ["opera"]}, {"tags": ["x" * 41]}, {"tags": ["a"] * 13}])
def test_tags_and_uses_of_a_look_are_bounded(studio, project, more):
    answer = studio.post(f"/projects/{project}/looks", {"name": "Never", **more})
    assert answer.status_code == 400 and answer.json["error"].endswith(".")
