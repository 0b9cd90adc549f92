"""The history of a project over HTTP: states seen, compared and taken again, versions with names."""

import cv2
import jsonpatch
import numpy as np
import pytest

from velvetdrum.scene.document import new_layer
from velvetdrum.scene.edits import upgrade_step


@pytest.fixture
def edited(studio, project):
    """A project with three states, the last two of which an undo and another edit left aside."""
    ident = studio.post(f"/projects/{project}/duplicate").json["id"]
    layers = [new_layer("backdrop", "Wall", fill="plain", plain="#203040")]
    studio.edit(ident, "/layers", layers, label="Wall")
    for colour, label in (("#ff0000", "Red"), ("#00ff00", "Green")):
        studio.edit(ident, "/layers/0/settings/plain", colour, label=label)
    for _ in range(2):
        studio.post(f"/projects/{ident}/undo", {"revision": studio.state(ident)["revision"]})
    studio.edit(ident, "/layers/0/settings/plain", "#0000ff", label="Blue")
    return ident


def by_label(studio, ident):
    answer = studio.get(f"/projects/{ident}/history").json
    return {state["label"]: (state["branch"], state["position"]) for state in answer["states"]}, answer


def place(state):
    return f"branch={state[0]}&position={state[1]}"


def colour(studio, ident, query):
    answer = studio.get(f"/projects/{ident}/history/picture?{query}&frame=0&width=64")
    assert answer.status_code == 200, answer.json
    pixels = cv2.imdecode(np.frombuffer(answer.data, np.uint8), cv2.IMREAD_COLOR)
    return tuple(int(value) for value in pixels.reshape(-1, 3).mean(axis=0))


def test_states_are_listed_with_those_that_an_undo_left(studio, edited):
    states, answer = by_label(studio, edited)
    assert [state["label"] for state in answer["states"]] == ["Blue", "Green", "Red", "Wall", "Begin"]
    assert states["Blue"] == (0, answer["position"])
    assert states["Green"][0] == states["Red"][0] > 0
    assert not answer["more"]


def test_a_state_is_seen_told_in_words_and_led_to(studio, edited):
    states, _ = by_label(studio, edited)
    blue, green, red = colour(studio, edited, place(states["Green"]))
    assert green > 200 and max(blue, red) < 60
    answer = studio.get(f"/projects/{edited}/history/state?{place(states['Red'])}").json
    assert answer["differences"] == [{"owner": "Wall", "text": "Colour #0000ff → #ff0000"}]
    here = studio.state(edited)
    led = jsonpatch.apply_patch(here["document"], answer["patch"])
    assert led["layers"][0]["settings"]["plain"] == "#ff0000"
    assert answer["revision"] == here["revision"]
    # What leads there is an edit like any other.
    taken = {"revision": here["revision"], "label": "Back to: Red", "patch": answer["patch"]}
    assert studio.post(f"/projects/{edited}/edits", taken).status_code == 200


def test_a_state_of_the_row_is_gone_to_and_from(studio, edited):
    states, _ = by_label(studio, edited)
    revision = studio.state(edited)["revision"]
    back = studio.post(f"/projects/{edited}/history", {"revision": revision, "position": states["Wall"][1]}).json
    assert back["document"]["layers"][0]["settings"]["plain"] == "#203040"
    assert (back["undo"], back["redo"]) == ("Wall", "Blue")
    on = {"revision": back["revision"], "position": states["Blue"][1]}
    assert (
        studio.post(f"/projects/{edited}/history", on).json["document"]["layers"][0]["settings"]["plain"] == "#0000ff"
    )
    stale = studio.post(f"/projects/{edited}/history", on)
    assert stale.status_code == 409


def test_versions_are_kept_and_compared(studio, edited):
    base = f"/projects/{edited}/versions"
    version = studio.post(base, {"name": "Before the fair"}).json["id"]
    studio.edit(edited, "/layers/0/name", "Harbour wall")
    answer = studio.get(f"/projects/{edited}/history/state?version={version}").json
    assert answer["differences"] == [{"owner": "Wall", "text": "Name “Harbour wall” → “Wall”"}]
    assert studio.post(f"{base}/{version}", {"name": "At the fair"}).status_code == 200
    states, listed = by_label(studio, edited)
    assert [kept["name"] for kept in listed["versions"]] == ["At the fair"]
    old = studio.post(base, {"name": "Green one", "branch": states["Green"][0], "position": states["Green"][1]})
    assert colour(studio, edited, f"version={old.json['id']}")[1] > 200
    assert studio.client.delete(f"{base}/{version}", headers={"X-Velvet-Drum": "1"}).status_code == 200
    assert studio.get(f"/projects/{edited}/history/state?version={version}").status_code == 404


@pytest.mark.parametrize("query", ["branch=9&position=1", "branch=0&position=4000", "version=../../x"])
def test_what_never_was_is_refused_with_a_sentence(studio, edited, query):
    answer = studio.get(f"/projects/{edited}/history/state?{query}")
    assert answer.status_code == 404
    assert "not known any more" in answer.json["error"]


@pytest.mark.parametrize("name", ["", "   ", "x" * 81])
def test_a_version_needs_a_name(studio, edited, name):
    assert studio.post(f"/projects/{edited}/versions", {"name": name}).status_code in (400, 422)


def test_thousands_of_states_are_listed_in_runs_and_had_at_once(studio, project):
    ident = studio.post(f"/projects/{project}/duplicate").json["id"]
    here = studio.state(ident)["document"]
    assert upgrade_step(here) is None
    rows = [
        (ident, number, f"Name {number}", f'[{{"op":"replace","path":"/name","value":"{number}"}}]',
         f'[{{"op":"replace","path":"/name","value":"{number - 1}"}}]', float(number))
        for number in range(1, 5001)
    ]  # fmt: skip
    db = studio.services.db
    db.execute("BEGIN")
    db.executemany(
        "INSERT INTO edit (project_id, position, label, forward, backward, made_at) VALUES (?, ?, ?, ?, ?, ?)", rows
    )
    db.execute("UPDATE project SET position = 5000 WHERE id = ?", (ident,))
    db.execute("COMMIT")
    answer = studio.get(f"/projects/{ident}/history").json
    assert len(answer["states"]) == 200 and answer["more"]
    first = studio.get(f"/projects/{ident}/history/state?branch=0&position=7").json
    assert {"op": "replace", "path": "/name", "value": "7"} in first["patch"]
    assert len(studio.get(f"/projects/{ident}/history?first=4900").json["states"]) == 101
