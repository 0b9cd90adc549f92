"""Looks at projects over HTTP: every frame, what flashes softened, excerpts."""

from __future__ import annotations

import pytest

from tests.waiting import until
from velvetdrum.scene.document import new_layer, new_patch
from velvetdrum.scene.signal_part import new_signal


def waited(studio, ident, seconds=60):
    def ended():
        state = studio.get(f"/reviews/{ident}").json
        return state if state["state"] != "running" else None

    return until(ended, "the end of the look", seconds)


@pytest.fixture
def strobing(studio, project):
    """The project with a white field that follows a square wave."""
    square = new_signal("lfo", "Signal lamp", rate_hz=6.0, shape="square")
    field = new_layer("backdrop", fill="plain", plain="#ffffff")
    field["patches"] = [new_patch("layer_opacity", square, 0.0, 100.0)]
    document = studio.get(f"/projects/{project}/state").json["document"]
    studio.edit(project, "/frame", {"width": 320, "height": 180})
    studio.edit(project, "/signals", [*document["signals"], square])
    studio.edit(project, "/layers", [new_layer("backdrop", fill="plain", plain="#101018"), field])
    return project


def test_a_look_finds_flashes_and_one_press_softens_them(studio, strobing):
    begun = studio.post(f"/projects/{strobing}/reviews", {"frames": ["320x180", "180x320"]})
    assert begun.status_code == 202 and begun.json["state"] in ("running", "done")
    state = waited(studio, begun.json["id"])
    assert state["state"] == "done" and state["done"] == state["frames"] > 0, state
    assert state["found"]["flashes"] and {item["check"] for item in state["found"]["watch"]} >= {"Flashes", "Cover"}
    offered = studio.post(f"/reviews/{state['id']}/soften", {"number": 0}).json
    assert offered["label"].startswith("soften Signal lamp to") and offered["after"] <= 3
    assert studio.post(f"/reviews/{state['id']}/soften", {"number": 50}).status_code == 404
    step = offered["steps"][0]
    studio.edit(strobing, step["path"], step["value"])
    again = waited(studio, studio.post(f"/projects/{strobing}/reviews", {}).json["id"])
    assert not again["found"]["flashes"]
    assert studio.get(f"/projects/{strobing}/reviews").json["id"] == again["id"]


def test_a_look_is_stopped_and_gone_on_with(studio, strobing):
    here = studio.services
    ident = studio.post(f"/projects/{strobing}/reviews", {}).json["id"]
    studio.post(f"/reviews/{ident}/cancel")
    assert waited(studio, ident)["state"] == "cancelled"
    assert studio.get("/reviews/000000000000").status_code == 404
    # As a stopped server leaves it: found by the next start.
    from velvetdrum.store import reviews

    row = reviews.find(here.db, ident)
    left = reviews.create(here.db, strobing, row.revision, row.document, row.plan)
    here.reviews.resume()
    assert waited(studio, left)["state"] == "done"


def test_excerpts_are_asked_for_by_their_length(studio, project):
    found = studio.get(f"/projects/{project}/excerpts?length_s=2").json
    assert 1 <= len(found) <= 3
    assert all(0 <= item["start_s"] < item["end_s"] <= 4.01 and item["why"] for item in found)
    assert studio.get(f"/projects/{project}/excerpts?length_s=0").status_code == 400
