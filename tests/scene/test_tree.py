"""How layers hang together, what they carry, and what is said when it does not fit."""

from fractions import Fraction

import jsonschema
import pytest

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.scene.document import media_keys, new_document, new_layer, new_patch, parse, schema
from velvetdrum.scene.edits import apply
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.scene.masks import new_mask
from velvetdrum.scene.migrate import VERSION
from velvetdrum.scene.problems import ProjectError
from velvetdrum.scene.signal_part import new_signal


def document(*layers, **more):
    return new_document("Test", frame=FRAMES["wide"], rate=Fraction(30), layers=list(layers), **more) | {
        "length_s": 5.0
    }


def problems(made):
    with pytest.raises(ProjectError) as caught:
        parse(made)
    return {problem.path: problem.sentence for problem in caught.value.problems}


def whole():
    """A document with one of everything."""
    beat = new_signal("clock", "Beat")
    group = new_layer("group", "All")
    ring = new_layer("spectrum", "Ring") | {"group": group["id"], "visible": False}
    mask = new_mask("layer", source=ring["id"])
    light = new_layer("shape", "Light") | {
        "group": group["id"],
        "masks": [mask, new_mask("shape", form="ring", join="subtract")],
        "keyframes": {
            "x": [{"time_s": 0, "value": 10.0, "ease": "ease-in"}, {"time_s": 2.5, "value": 90.0}],
            "plain": [{"time_s": 1, "value": "#ff0000"}],
            f"mask:{mask['id']}:strength": [{"time_s": 0, "value": 50.0, "ease": "steps(3, jump-none)"}],
        },
        "frames": {"tall": {"x": 50.0, f"mask:{mask['id']}:feather": 4.0}},
        "patches": [
            new_patch("turn", beat, 0.0, 90.0),
            new_patch(f"mask:{mask['id']}:feather", beat, 0.0, 5.0),
            new_patch("x", beat, 0.0, 0.0, "poses"),
        ],
    }
    footage = new_layer("footage", "Water", clip="b" * 64)
    logo = new_layer("logo", "Lamp", image="a" * 64)
    made = document(footage, group, ring, light, logo, signals=[beat])
    return made | {"markers": [{"time_s": 2.0, "text": "Drums"}, {"time_s": 1.0, "text": ""}]}


def test_everything_that_a_layer_carries_is_read_and_fits_the_schema():
    made = whole()
    jsonschema.validate(made, schema())
    project = parse(made)
    light = project.by_id[made["layers"][3]["id"]]
    assert light.group == made["layers"][1]["id"] and len(light.masks) == 2
    assert [frame.time_s for frame in light.keyframes["x"]] == [0.0, 2.5] and light.overrides["tall"]["x"] == 50.0
    assert [marker.text for marker in project.markers] == ["", "Drums"]
    assert project.media == media_keys(made) == {"a" * 64, "b" * 64}
    assert media_keys(made, "footage") == {"b" * 64}
    assert [placed.name for placed in project.drawn[""]] == ["Water", "All", "Lamp"]
    assert [placed.name for placed in project.drawn[light.group]] == ["Light"]


def test_a_group_cannot_be_inside_of_itself():
    one, two, three = (new_layer("group", name) for name in ("One", "Two", "Three"))
    one["group"], two["group"], three["group"] = two["id"], three["id"], one["id"]
    found = problems(document(one, two, three))
    assert "A group can't be inside of itself: One is in Two is in Three is in One." in found.values()
    self_in = new_layer("group", "Own")
    self_in["group"] = self_in["id"]
    assert "Own is in Own" in next(iter(problems(document(self_in)).values()))


def test_an_edit_that_moves_a_group_into_itself_is_refused_and_nothing_is_lost():
    outer, inner = new_layer("group", "Outer"), new_layer("group", "Inner")
    inner["group"] = outer["id"]
    made = document(outer, inner)
    before = str(made)
    with pytest.raises(ProjectError, match="inside of itself"):
        apply(made, [{"op": "replace", "path": "/layers/0/group", "value": inner["id"]}])
    assert str(made) == before


def test_a_group_that_is_gone_or_none_is_said():
    lost = new_layer("shape", "Lost") | {"group": "nowhere"}
    assert problems(document(lost))["/layers/0/group"] == "The group that Lost was in is gone; take it out of it."
    other = new_layer("shape", "Other")
    assert "is gone" in problems(document(other, lost | {"group": other["id"]}))["/layers/1/group"]


def masked(layer, by):
    return layer | {"masks": [new_mask("layer", source=by["id"])]}


def test_a_mask_cannot_lead_back_to_its_own_layer():
    own = new_layer("shape", "Own")
    assert "Own needs Own" in next(iter(problems(document(masked(own, own))).values()))
    one, two = new_layer("shape", "One"), new_layer("shape", "Two")
    found = problems(document(masked(one, two), masked(two, one)))
    assert "One needs Two needs One" in next(iter(found.values()))
    group = new_layer("group", "Group")
    member = new_layer("shape", "Member") | {"group": group["id"]}
    assert "can't lead back" in next(iter(problems(document(group, masked(member, group))).values()))
    parse(document(masked(group, one), member, one))


def test_a_mask_whose_layer_is_gone_is_said():
    gone = new_layer("shape", "Gone")
    found = problems(document(masked(new_layer("shape", "Left"), gone)))
    assert found["/layers/0/masks/0/settings/source"].startswith("The layer that this mask of Left reads is gone")


@pytest.mark.parametrize(
    ("part", "value", "path", "words"),
    [
        ("masks", [{"id": "m", "kind": "cloud"}], "/masks/0/kind", "no mask kind called"),
        ("masks", [{"id": "a:b", "kind": "shape"}], "/masks/0/id", "an id of its own"),
        ("masks", [{"id": "m", "kind": "shape", "settings": {"feather": 900}}], "/masks/0/settings/feather", "0 to 60"),
        (
            "masks",
            [{"id": "m", "kind": "shape", "settings": {"form": "path", "path": "X"}}],
            "/masks/0/settings/path",
            "no “X”",
        ),
        ("masks", "none", "/masks", "list of up to 16"),
        ("keyframes", {"wings": [{"time_s": 0, "value": 1}]}, "/keyframes/wings", "no setting called wings"),
        ("keyframes", {"form": [{"time_s": 0, "value": "star"}]}, "/keyframes/form", "only numbers and colours"),
        ("keyframes", {"x": []}, "/keyframes/x", "1 to 2000"),
        ("keyframes", {"x": [{"time_s": -1, "value": 1}]}, "/keyframes/x/0/time_s", "from 0 s to 3 hours"),
        (
            "keyframes",
            {"x": [{"time_s": 1, "value": 1}, {"time_s": 1, "value": 2}]},
            "/keyframes/x/1/time_s",
            "after the one",
        ),
        ("keyframes", {"x": [{"time_s": 0, "value": 900}]}, "/keyframes/x/0/value", "-50 to 150"),
        ("keyframes", {"x": [{"time_s": 0, "value": 1, "ease": "bounce"}]}, "/keyframes/x/0/ease", "An easing is"),
        (
            "keyframes",
            {"x": [{"time_s": 0, "value": 1, "ease": "cubic-bezier(2, 0, 0, 1)"}]},
            "/keyframes/x/0/ease",
            "0 to 1",
        ),
        ("keyframes", {"x": [{"time_s": 0, "value": 1, "ease": "steps(0)"}]}, "/keyframes/x/0/ease", "a count from 1"),
        ("keyframes", {"x": [{"time_s": 0, "value": 1, "glow": 2}]}, "/keyframes/x/0", "a time, a value"),
        ("keyframes", [], "/keyframes", "object of lists"),
        ("frames", {"round": {}}, "/frames/round", "wide, square, tall"),
        ("frames", {"tall": {"x": 900}}, "/frames/tall/x", "-50 to 150"),
        ("frames", {"tall": {"wings": 1}}, "/frames/tall/wings", "no setting called wings"),
        ("frames", {"tall": 3}, "/frames", "object of settings"),
        ("group", 7, "/group", "the id of a group"),
    ],
)
def test_what_does_not_fit_gets_a_sentence_at_its_place(part, value, path, words):
    found = problems(document(new_layer("shape", "Box") | {part: value}))
    assert words in found[f"/layers/0{path}"], found


def test_markers_that_do_not_fit_get_a_sentence():
    for marker in ({"time_s": -1, "text": "x"}, {"time_s": 1}, {"time_s": 1, "text": "x" * 201}, 3):
        assert "/markers/0" in problems(document() | {"markers": [marker]})
    assert "/markers" in problems(document() | {"markers": {}})


def test_keyframes_past_the_end_are_kept():
    layer = new_layer("shape", "Box") | {"keyframes": {"x": [{"time_s": 1, "value": 1}, {"time_s": 9, "value": 2}]}}
    assert len(parse(document(layer)).layers[0].keyframes["x"]) == 2


@pytest.mark.parametrize(
    ("size", "shape"),
    [
        ("wide", "wide"),
        ("square", "square"),
        ("tall", "tall"),
        ("portrait", "tall"),
        ("large", "wide"),
        (FrameSize(1200, 1080), "square"),
        (FrameSize(1080, 1200), "square"),
    ],
)
def test_frames_have_a_shape(size, shape):
    assert (FRAMES[size] if isinstance(size, str) else size).shape == shape


def test_a_document_of_version_2_gets_what_layers_carry_now():
    old = document(new_layer("shape")) | {"version": 2}
    for name in ("group", "masks", "keyframes", "frames"):
        del old["layers"][0][name]
    del old["markers"]
    edited, _, _ = apply(old, [{"op": "replace", "path": "/name", "value": "New"}])
    assert edited["version"] == VERSION and edited["layers"][0]["keyframes"] == {} and edited["markers"] == []
