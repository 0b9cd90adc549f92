"""Scenes: a name by content, whatever way led there, and the same project in a worker as in a process that parses."""

import json
import pickle

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.edits import apply, tried
from velvetdrum.scene.frames import FRAMES, RATES
from velvetdrum.scene.problems import ProjectError
from velvetdrum.studio.workers import scenes as module
from velvetdrum.studio.workers.scenes import NamedScene, Scenes


def document():
    layers = [new_layer("backdrop", plain="#102030"), new_layer("shape", width=30.0), new_layer("text", text="Quay")]
    made = new_document("Quay", frame=FRAMES["wide"], rate=RATES["30"], layers=layers)
    words = [[0.0, 0.5, "tide", 1.0]]
    cues = {f"c{n}": {"start_s": float(n), "end_s": n + 0.9, "text": f"tide {n}", "words": words} for n in range(4)}
    return made | {"length_s": 8.0, "cue_tracks": {"aa": {"name": "A", "language": "en", "cues": cues}}}


def replaced(path, value):
    return [{"op": "replace", "path": path, "value": value}]


def told(project):
    """What a project is, as values."""
    layers = [(placed.id, vars(placed.layer)) for placed in project.layers]
    return project.name, project.frame, project.length_s, project.cue_tracks, layers


steps = st.one_of(
    st.floats(0, 100).map(lambda value: replaced("/layers/1/settings/layer_opacity", value)),
    st.floats(1, 90).map(lambda value: replaced("/layers/1/settings/width", value)),
    st.text("abc ", min_size=1, max_size=9).map(lambda text: replaced("/cue_tracks/aa/cues/c2/text", f"x{text}")),
    st.just([{"op": "remove", "path": "/cue_tracks/aa/cues/c3"}]),
    st.just([{"op": "copy", "from": "/layers/0/settings/plain", "path": "/layers/1/settings/plain"}]),
    st.just([{"op": "move", "from": "/layers/0", "path": "/layers/2"}]),
    st.integers(1, 9).map(lambda n: replaced("/name", f"Quay {n}")),
)


@given(st.lists(steps, max_size=8), st.booleans())
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_a_worker_has_the_same_project_and_the_name_says_what_is_in_it(patches, keeps):
    named, worker = NamedScene(document()), Scenes(4)
    for patch in patches:
        try:
            named = named.drafted(patch)
        except ProjectError:  # the layer has moved, the cue has gone
            continue
        held = worker if keeps else Scenes(4)
        scene = pickle.loads(pickle.dumps(named.scene))
        assert held.document(scene) == named.document
        whole = parse(json.loads(json.dumps(named.document)))
        assert told(held.project(scene)) == told(named.project) == told(whole)
        # The order of keys says which cue track is the first.
        assert scene.name == NamedScene(json.loads(json.dumps(named.document))).scene.name


def test_a_draft_an_edit_and_what_is_taken_back_have_one_name():
    whole = NamedScene(document())
    patch = replaced("/layers/1/settings/width", 44.0)
    draft = whole.drafted(patch)
    edited = apply(whole.document, patch)
    kept = NamedScene(edited.document, whole, patch)
    assert draft.scene == kept.scene and draft.scene.name != whole.scene.name
    back = NamedScene(tried(edited.document, edited.backward), kept, edited.backward)
    assert back.scene.name == whole.scene.name
    assert whole.changed({**whole.document, "name": "Other"}).scene.name != whole.scene.name


def test_a_scene_is_told_whole_again_after_many_patches():
    named = NamedScene(document())
    first = named.scene.base
    for number in range(module._MOST_PATCHES + 1):
        named = named.drafted(replaced("/layers/1/settings/width", 10.0 + number))
    assert named.scene.base == named.scene.name != first and not named.scene.patches
    long = named.drafted(replaced("/layers/2/settings/text", "Tide " * 390) * 140)
    assert not long.scene.patches and len(long.scene.text) < module._MOST_PATCH_TEXT


def test_a_patch_is_made_on_what_is_held(monkeypatch):
    parsed = []
    monkeypatch.setattr(module.orjson, "loads", lambda text, loads=json.loads: parsed.append(len(text)) or loads(text))
    worker, named = Scenes(8), NamedScene(document())
    worker.project(named.scene)
    whole = len(named.scene.text)
    for number in range(5):
        named = named.drafted(replaced("/layers/1/settings/width", 10.0 + number))
        worker.project(named.scene)
    assert parsed[0] == whole and all(size < 100 for size in parsed[1:]) and len(parsed) == 6


def test_a_draft_that_is_no_project_says_why():
    with pytest.raises(ProjectError, match="Width"):
        NamedScene(document()).drafted(replaced("/layers/1/settings/width", "wide"))
