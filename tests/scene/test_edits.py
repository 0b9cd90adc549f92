"""Edits: the same as the library's own on a copy, nothing written to, back again by their way back."""

import copy
import json

import jsonpatch
import jsonpointer
import pytest
from hypothesis import given
from hypothesis import strategies as st

import velvetdrum.picture.layers  # noqa: F401  (makes the layer and mask kinds known)
from tests.scene.test_odd_documents import WHOLE
from velvetdrum.scene import edits
from velvetdrum.scene.document import parse
from velvetdrum.scene.edits import apply, parsed, replayed, tried
from velvetdrum.scene.problems import ProjectError

plain = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 5) | st.text("ab~/", max_size=3),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text("ab~/", max_size=2), inner, max_size=4),
    max_leaves=12,
)
trees = st.dictionaries(st.text("ab~/", max_size=2), plain, min_size=1, max_size=4)


def pointers(value, path=""):
    yield path
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in items:
        yield from pointers(part, f"{path}/{jsonpointer.escape(str(key))}")
    if isinstance(value, list):
        yield f"{path}/-"


@st.composite
def changes(draw):
    """A tree, and a patch that mostly fits it."""
    tree = draw(trees)
    steps, now = [], copy.deepcopy(tree)
    for _ in range(draw(st.integers(1, 5))):
        places = [place for place in pointers(now) if place]
        op = draw(st.sampled_from(["add", "remove", "replace", "move", "copy", "test"]))
        step = {"op": op, "path": draw(st.sampled_from(places or ["/a"]))}
        if op in ("move", "copy"):
            step["from"] = draw(st.sampled_from(places or ["/a"]))
        elif op != "remove":
            step["value"] = draw(plain)
        steps.append(step)
        try:
            now = jsonpatch.apply_patch(now, [step])
        except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, KeyError):
            break
        if not isinstance(now, dict):
            break
    return tree, steps


def same(one, other):
    return json.dumps(one, sort_keys=True) == json.dumps(other, sort_keys=True)


@given(changes())
def test_a_patch_gives_what_the_library_gives_and_its_way_back_leads_back(change):
    tree, steps = change
    before = copy.deepcopy(tree)
    try:
        wanted = jsonpatch.apply_patch(tree, steps)
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, KeyError, AttributeError):
        with pytest.raises(ProjectError):
            edits._patched(tree, steps, 0)
        assert same(tree, before)
        return
    made, backward, _ = edits._patched(tree, steps, 0)
    assert same(made, wanted) and same(tree, before)
    if same(made, before):
        return
    again, forward, _ = edits._patched(made, backward, 0)
    assert same(again, before) and same(made, wanted)
    assert same(edits._patched(again, forward, 0)[0], wanted)


def test_what_no_step_touches_is_shared_and_not_parsed_again():
    document = copy.deepcopy(WHOLE)
    first = parsed(document)
    cue = {"start_s": 1.0, "end_s": 2.0, "text": "Light"}
    edited = apply(document, [{"op": "add", "path": "/cue_tracks/a", "value": {"name": "A", "cues": {"x": cue}}}])
    assert edited.exact and edited.document["layers"] is document["layers"]
    project = parsed(edited.document)
    assert (
        project.layers[0] is first.layers[0] and project.cue_tracks == parse(copy.deepcopy(edited.document)).cue_tracks
    )
    more = {"op": "add", "path": "/cue_tracks/a/cues/y", "value": {**cue, "text": "Lamp"}}
    later = apply(edited.document, [more, {"op": "replace", "path": "/layers/0/name", "value": "Sky"}])
    third = parsed(later.document)
    assert third.cue_tracks[0].cues["x"] is project.cue_tracks[0].cues["x"]
    assert third.layers[1] is first.layers[1] and third.layers[0].name == "Sky"
    assert third.cue_tracks == parse(copy.deepcopy(later.document)).cue_tracks and not first.cue_tracks
    for start in (5.0, 0.5, 1.0):
        moved = {"op": "replace", "path": "/cue_tracks/a/cues/y/start_s", "value": start}
        later = apply(later.document, [moved, {"op": "replace", "path": "/cue_tracks/a/cues/y/end_s", "value": 9.0}])
        whole = parse(copy.deepcopy(later.document)).cue_tracks[0]
        assert list(parsed(later.document).cue_tracks[0].cues.items()) == list(whole.cues.items())


def test_a_signal_that_no_step_touches_is_not_parsed_again():
    curve = [{"time_s": n, "value": 0.5} for n in range(3)]
    signals = [
        {"id": f"s{n}", "kind": "drawn", "name": f"S{n}", "colour": "#5fc4b4", "settings": {"curve": curve}}
        for n in range(2)
    ]
    steps = [{"op": "add", "path": "/signals/-", "value": signal} for signal in signals]
    document = apply(copy.deepcopy(WHOLE), steps).document
    last = len(document["signals"]) - 1
    step = {"op": "replace", "path": f"/signals/{last}/settings/curve/0/value", "value": 0.25}
    changed = apply(document, [step]).document
    second = parsed(changed).signals[last]
    assert parsed(changed).signals[:last] == parsed(document).signals[:last]
    assert parsed(changed).signals[last - 1].signal is parsed(document).signals[last - 1].signal
    assert second.signal.curve[0] == (0.0, 0.25, "linear")
    renamed = apply(changed, [{"op": "replace", "path": "/name", "value": "B"}]).document
    assert parsed(renamed).signals[last] is second
    with pytest.raises(ProjectError, match="id of its own"):
        apply(changed, [{"op": "copy", "from": "/signals/0", "path": "/signals/-"}])


def test_an_edit_that_changes_nothing_has_no_way_back():
    document = copy.deepcopy(WHOLE)
    assert apply(document, [{"op": "replace", "path": "/name", "value": document["name"]}]).backward == []


def test_an_edit_after_which_the_form_is_completed_is_told_as_not_exact():
    """A layer that leaves parts out is kept with all of them: the patch alone does not lead there."""
    bare = {"id": "z", "kind": "backdrop", "settings": {}}
    edited = apply(copy.deepcopy(WHOLE), [{"op": "add", "path": "/layers/-", "value": bare}])
    assert not edited.exact and edited.document["layers"][-1]["effects"] == []
    back = apply(edited.document, edited.backward)
    assert len(back.document["layers"]) == len(WHOLE["layers"])


def test_what_is_tried_out_and_what_is_replayed_leave_the_document_alone():
    document = copy.deepcopy(WHOLE)
    patch = [{"op": "replace", "path": "/layers/1/frames/tall/y", "value": 5.0}]
    drafted = tried(document, patch)
    assert drafted["layers"][1]["frames"]["tall"]["y"] == 5.0 and document == WHOLE
    again = replayed(document, patch)
    assert again.exact and again.document == drafted and document == WHOLE
    with pytest.raises(ProjectError):
        apply(document, [{"op": "replace", "path": "/layers/1/kind", "value": "nothing"}])
    assert document == WHOLE


def test_the_size_of_a_document_is_bounded_over_many_edits(monkeypatch):
    monkeypatch.setattr(edits, "MOST_VALUES", 2200)
    document = copy.deepcopy(WHOLE)
    markers = [{"time_s": 1.0, "text": "x"}] * 100
    for _ in range(20):
        # What is replaced again and again does not add up.
        document = apply(document, [{"op": "replace", "path": "/markers", "value": markers}]).document
    track = {"cues": {f"c{n}": {"start_s": n, "end_s": n + 1, "text": "x"} for n in range(60)}}
    for number in range(4):
        document = apply(document, [{"op": "add", "path": f"/cue_tracks/t{number}", "value": track}]).document
    with pytest.raises(ProjectError, match="larger than it may be"):
        apply(document, [{"op": "add", "path": f"/cue_tracks/t{n}", "value": track} for n in range(4, 14)])
