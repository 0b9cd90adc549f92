"""Documents that nobody wrote with care: whatever stands in them, they are a project, or refused with sentences."""

import copy
import json

import pytest
from hypothesis import given, seed, settings
from hypothesis import strategies as st

import velvetdrum.picture.layers  # noqa: F401  (makes the layer and mask kinds known)
from velvetdrum.limits.json_text import JsonError, check_value, read_json
from velvetdrum.scene.document import media_keys, new_document, new_layer, new_patch, parse
from velvetdrum.scene.edits import apply
from velvetdrum.scene.frames import FRAMES, RATES
from velvetdrum.scene.masks import new_mask
from velvetdrum.scene.migrate import upgraded
from velvetdrum.scene.problems import ProjectError
from velvetdrum.scene.signal_part import new_signal

KEY = "a" * 64


def whole():
    kick = new_signal("pickup", "Kick")
    layer = new_layer("spectrum")
    layer["patches"] = [new_patch("gap", kick, 1.0, 20.0)]
    layer["masks"] = [new_mask("shape")]
    layer["keyframes"] = {"x": [{"time_s": 0.0, "value": 10.0}, {"time_s": 1.0, "value": 20.0}]}
    layer["frames"] = {"tall": {"y": 20.0}}
    track = {"id": "t", "media": KEY, "name": "x", "in_s": 0.0, "out_s": 3.0}
    document = new_document(
        "Odd",
        frame=FRAMES["wide"],
        rate=RATES["30"],
        layers=[new_layer("backdrop"), layer],
        track=track,
        signals=[kick, new_signal("clock")],
    )
    document["markers"] = [{"time_s": 1.0, "text": "here"}]
    return document


WHOLE = whole()

odd = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(10**30), 10**30)
    | st.floats()
    | st.text(max_size=20)
    | st.sampled_from([10**400, -(10**400), "../../x", KEY, "group", "\x00", "mask:a:b"]),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=6,
)


def places(value, path=()):
    yield path
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in items:
        yield from places(part, (*path, key))


PLACES = [path for path in places(WHOLE) if path]


def changed(path, value, drop):
    out = copy.deepcopy(WHOLE)
    at = out
    for key in path[:-1]:
        at = at[key]
    if drop:
        del at[path[-1]]
    else:
        at[path[-1]] = value
    return out


def tried(document):
    found = []
    try:
        parse(document)
    except ProjectError as problem:
        found = problem.problems
    else:
        media_keys(upgraded(document))
    for item in found:
        assert item.sentence.endswith((".", "?", "!", "…")) and len(item.sentence) < 600, item.sentence


@seed(11)
@settings(max_examples=400, deadline=None, database=None)
@given(st.sampled_from(PLACES), odd, st.booleans())
def test_any_value_anywhere_is_a_project_or_a_sentence(path, value, drop):
    tried(changed(path, value, drop))


@seed(12)
@settings(max_examples=150, deadline=None, database=None)
@given(
    odd, st.sampled_from([1, 2, 3, [3], "3", None, 4, True]), st.sampled_from(["layers", "signals", "tracks", "frame"])
)
def test_older_versions_and_other_things_are_read_with_the_same_care(value, version, part):
    tried({**WHOLE, "version": version, part: value})
    tried(value)


@seed(13)
@settings(max_examples=200, deadline=None, database=None)
@given(
    st.sampled_from(["add", "remove", "replace", "move", "copy", "test", "dance"]),
    st.sampled_from(PLACES),
    st.sampled_from(PLACES),
    odd,
)
def test_any_edit_fits_or_changes_nothing(op, path, source, value):
    def pointer(place):
        return "".join("/" + str(part).replace("~", "~0").replace("/", "~1") for part in place)

    before = json.dumps(WHOLE)
    try:
        edited, back, _ = apply(WHOLE, [{"op": op, "path": pointer(path), "from": pointer(source), "value": value}])
    except ProjectError:
        assert json.dumps(WHOLE) == before
        return
    assert json.dumps(WHOLE) == before
    assert parse(edited)
    assert apply(edited, back)[0] == upgraded(WHOLE)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"layers": [{"id": "a", "kind": "backdrop", "visible": 1}]}, "true or false"),
        ({"layers": [{"id": "a", "kind": "backdrop", "colour": "red"}]}, "no part called colour"),
        ({"frame": {"width": 640, "height": 360, "depth": 3}}, "no part called depth"),
        ({"tracks": [{"id": "t", "media": "x", "name": "x", "in_s": 0.0, "out_s": 3.0}]}, "content hash"),
        ({"version": 1, "layers": None}, "list of up to"),
        ({"signals": 5}, "list of up to"),
    ],
)
def test_what_is_wrong_is_told(change, said):
    with pytest.raises(ProjectError, match=said):
        parse({**WHOLE, **change})


@given(st.text(max_size=300))
def test_any_text_is_json_within_limits_or_a_sentence(text):
    try:
        value = read_json(text)
    except JsonError:
        return
    assert check_value(value) >= 1


def test_a_step_later_in_a_patch_does_not_change_what_an_earlier_one_brought():
    layer = new_layer("backdrop")
    patch = [
        {"op": "add", "path": "/layers/-", "value": layer},
        {"op": "replace", "path": "/layers/2/name", "value": "B"},
    ]
    edited, _, _ = apply(WHOLE, patch)
    assert edited["layers"][2]["name"] == "B" and layer["name"] == "Backdrop" == patch[0]["value"]["name"]


@pytest.mark.parametrize("value", ["n" * 5000, [10**300, 10**300], {"a": "b" * 4000}], ids=["text", "list", "object"])
def test_what_a_sentence_quotes_is_cut(value):
    """A name of any length, or anything in the place of a name, wherever one is read."""
    names = [path for path in PLACES if path[-1] in ("setting", "kind", "rate", "width", "signal", "name", "group")]
    assert len({path[-1] for path in names}) >= 5
    for path in names:
        tried(changed(path, value, False))
        if isinstance(value, str):
            spot = changed(path, value, True)
            owner = spot
            for key in path[:-1]:
                owner = owner[key]
            if isinstance(owner, dict):
                owner[value] = 1
                tried(spot)
