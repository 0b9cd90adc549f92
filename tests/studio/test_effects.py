"""Effects at the server: choices as pictures, chains that are kept, tables, readings and costs."""

from __future__ import annotations

import io
import zipfile

import pytest

from tests.studio.conftest import MARK
from tests.studio.test_words import send
from velvetdrum.scene.effects import EFFECT_KINDS, new_effect

CUBE = b'TITLE "Dusk"\nLUT_1D_SIZE 2\n0.1 0 0\n1 0.9 0.8\n'


@pytest.fixture
def layered(studio, project):
    """A project's id and the id of its front layer."""
    return project, studio.state(project)["document"]["layers"][-1]["id"]


def test_every_effect_is_offered_as_a_picture_of_the_layer(studio, layered):
    ident, layer = layered
    listed = studio.get("/effect-choices").json
    assert {choice["family"] for choice in listed["choices"]} == set(listed["families"])
    assert len({(choice["family"], choice["name"]) for choice in listed["choices"]}) == len(listed["choices"])
    drawn = []
    for first in range(0, len(listed["choices"]), 12):
        body = {"layer": layer, "first": first, "count": 12}
        drawn += studio.post(f"/projects/{ident}/effect-choices", json=body).json["choices"]
    assert [choice["name"] for choice in drawn] == [choice["name"] for choice in listed["choices"]]
    assert {choice["effect"]["kind"] for choice in drawn} == set(EFFECT_KINDS)
    assert all(choice["picture"].startswith("data:image/jpeg;base64,") for choice in drawn)
    gone = studio.post(f"/projects/{ident}/effect-choices", json={"layer": "nobody", "first": 0, "count": 1})
    assert gone.status_code == 404 and "gone" in gone.json["error"]


def test_chains_ship_are_kept_and_go(studio):
    shipped = studio.get("/effect-chains").json["chains"]
    assert len(shipped) >= 12 and all(chain["purpose"] and chain["id"] is None for chain in shipped)
    effect = new_effect("glow")
    patch = {"setting": f"effect:{effect['id']}:gain", "signal": "", "signal_name": "Kick", "from": 0, "to": 90}
    patch |= {"join": "replace", "on": True, "lag_ms": 0.0}
    kept = studio.post("/effect-chains", json={"name": "Pier", "chain": {"effects": [effect], "patches": [patch]}})
    assert kept.status_code == 200
    (own,) = [chain for chain in studio.get("/effect-chains").json["chains"] if chain["id"]]
    assert own["name"] == "Pier" and own["chain"]["patches"] == [patch]
    assert studio.client.delete(f"/effect-chains/{own['id']}", headers=MARK).status_code == 200
    assert studio.client.delete(f"/effect-chains/{own['id']}", headers=MARK).status_code == 404


@pytest.mark.parametrize(
    ("body", "sentence"),
    [
        ({"name": " ", "chain": {"effects": [new_effect("glow")], "patches": []}}, "a name"),
        ({"name": "x", "chain": {"effects": [], "patches": []}}, "at least one effect"),
        ({"name": "x", "chain": {"effects": [{"id": "a", "kind": "moon"}], "patches": []}}, "no effect kind"),
        ({"name": "x", "chain": {"effects": [new_effect("glow", radius=9000)], "patches": []}}, "Radius goes from"),
        ({"name": "x", "chain": {"effects": [new_effect("glow")], "patches": [{"setting": "effect:q:gain"}]}}, ""),
    ],
)
def test_what_no_layer_could_have_is_no_chain(studio, body, sentence):
    answer = studio.post("/effect-chains", json=body)
    assert answer.status_code == 422 and sentence in answer.json["error"] and answer.json["error"]


def test_a_table_is_brought_in_used_and_carried(studio, layered):
    ident, _ = layered
    bad = send(studio, "/tables", b"LUT_3D_SIZE 2\n0 0 0\n", "x.cube")
    assert bad.status_code == 422 and "8 lines; it has 1" in bad.json["error"]
    key = send(studio, "/tables", CUBE, "dusk.cube").json["key"]
    state = studio.get(f"/projects/{ident}/state").json
    effect = new_effect("look-up-table", table=key)
    patch = [{"op": "add", "path": "/layers/0/effects/-", "value": effect}]
    edit = {"revision": state["revision"], "label": "Table", "patch": patch}
    assert studio.post(f"/projects/{ident}/edits", json=edit).status_code == 200
    assert studio.get(f"/projects/{ident}/missing").json == []
    carried = zipfile.ZipFile(io.BytesIO(studio.get(f"/projects/{ident}/file").data)).namelist()
    assert f"media/{key}.cube" in carried


def test_a_frame_is_read_as_instruments_do_and_its_costs_are_told(studio, layered):
    ident, layer = layered
    state = studio.get(f"/projects/{ident}/state").json
    place = next(n for n, item in enumerate(state["document"]["layers"]) if item["id"] == layer)
    effect = new_effect("glow")
    draft = [{"op": "add", "path": f"/layers/{place}/effects/-", "value": effect}]
    found = studio.post(f"/projects/{ident}/readings", json={"frame": 10, "width": 320, "draft": draft}).json
    assert len(found["waveform"]) == 64 and len(found["waveform"][0]) == 2 * 96
    assert len(found["histogram"]) == 4 and max(map(max, found["histogram"])) == 1
    assert 0 <= found["black"] <= 1 and 0 <= found["white"] <= 1
    assert found["costs"][layer] > found["costs"][f"{layer}/{effect['id']}"] > 0
