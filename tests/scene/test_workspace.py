"""How people work on a project: units, guides, a grid; kept with it, checked, and never drawn."""

from fractions import Fraction

import jsonschema
import pytest

import velvetdrum.picture.layers  # noqa: F401  (makes the kinds of layers known)
from velvetdrum.scene.document import ProjectError, new_document, parse, schema
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.workspace import MOST_GUIDES, UNITS


def document(**workspace):
    made = new_document("Quay", frame=FrameSize(640, 360), rate=Fraction(30), layers=[])
    return {**made, "workspace": workspace}


def test_every_unit_and_guide_is_taken():
    for sort, choices in UNITS.items():
        for unit in choices:
            given = document(units={sort: unit}, guides=[{"axis": "x", "at": 33.3}], grid=12.5)
            parse(given)
            jsonschema.validate(given, schema())
    parse(document(grid=None))


@pytest.mark.parametrize(
    ("workspace", "path"),
    [
        ({"units": {"length": "ell"}}, "/workspace/units"),
        ({"units": {"weight": "kg"}}, "/workspace/units"),
        ({"units": "px"}, "/workspace/units"),
        ({"guides": [{"axis": "z", "at": 1}]}, "/workspace/guides"),
        ({"guides": [{"axis": "x", "at": float("nan")}]}, "/workspace/guides"),
        ({"guides": [{"axis": "x", "at": 1}] * (MOST_GUIDES + 1)}, "/workspace/guides"),
        ({"guides": {"x": 1}}, "/workspace/guides"),
        ({"grid": 0}, "/workspace/grid"),
        ({"grid": "wide"}, "/workspace/grid"),
        ({"desk": True}, "/workspace/desk"),
    ],
)
def test_what_it_can_not_have_is_told_where_it_stands(workspace, path):
    with pytest.raises(ProjectError) as caught:
        parse(document(**workspace))
    assert [problem.path for problem in caught.value.problems] == [path]


def test_a_workspace_that_is_none_is_told():
    with pytest.raises(ProjectError, match="units, guides and a grid"):
        parse({**document(), "workspace": [1]})
