"""What differs between two documents is told for everything that can."""

import copy

import jsonpatch
import pytest

import velvetdrum.picture.layers  # noqa: F401  (makes the layer and mask kinds known)
from tests.scene.test_odd_documents import WHOLE
from velvetdrum.scene.differences import differences
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.migrate import upgraded

HERE = upgraded(WHOLE)


def changed(*steps):
    return jsonpatch.apply_patch(copy.deepcopy(HERE), list(steps))


def test_nothing_differs_from_itself():
    assert differences(HERE, copy.deepcopy(HERE)) == []


def test_each_part_of_a_document_that_changes_is_told():
    for key, value in HERE.items():
        if key in ("format", "version", "look"):
            continue
        other = {
            str: "Another", int: 3, float: 3.0, list: [], dict: {}, type(None): 5.0,
        }[type(value)]  # fmt: skip
        if key == "frame":
            other = {"width": 640, "height": 360}
        if other == value:
            continue
        assert differences(HERE, HERE | {key: other}), key


@pytest.mark.parametrize("index", range(len(HERE["layers"])))
def test_each_part_of_a_layer_that_changes_is_told(index):
    layer = HERE["layers"][index]
    for key, value in layer.items():
        if key in ("id", "kind", "settings"):
            continue
        path = f"/layers/{index}/{key}"
        if isinstance(value, dict | list) and value:
            steps = {"op": "replace", "path": path, "value": type(value)()}
        elif isinstance(value, bool):
            steps = {"op": "replace", "path": path, "value": not value}
        elif isinstance(value, str) and value:
            steps = {"op": "replace", "path": path, "value": "other"}
        else:
            continue
        told = differences(HERE, changed(steps))
        assert all(difference.owner and difference.text for difference in told)
        assert told, path


@pytest.mark.parametrize("index", range(len(HERE["layers"])))
def test_each_setting_that_changes_is_told_by_its_label(index):
    layer = HERE["layers"][index]
    for name, setting in LAYER_KINDS[layer["kind"]].settings.items():
        now = layer["settings"].get(name, setting.default)
        other = [{"at": 0, "colour": "#123456"}] if isinstance(now, list) else "#123456"
        if isinstance(now, int | float):
            other = not now if isinstance(now, bool) else now + 1
        (told,) = differences(HERE, changed({"op": "add", "path": f"/layers/{index}/settings/{name}", "value": other}))
        assert told.owner == layer["name"] and told.text.startswith(setting.label)


def test_values_are_told_with_units_and_choices_by_their_titles():
    before = changed({"op": "add", "path": "/layers/0/settings/layer_opacity", "value": 40})
    after = changed(
        {"op": "add", "path": "/layers/0/settings/layer_opacity", "value": 70},
        {"op": "add", "path": "/layers/0/settings/blend", "value": "screen"},
    )
    texts = [difference.text for difference in differences(before, after)]
    assert "Layer opacity 40 % → 70 %" in texts
    assert any(text.startswith("Blend mode") and text.endswith("Screen") for text in texts)
    assert len(differences(before, after, most=1)) == 1
