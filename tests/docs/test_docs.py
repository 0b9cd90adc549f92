"""What is written is what the code does."""

import importlib.util
import json
import re
from pathlib import Path

import jsonschema

import velvetdrum.picture.layers  # noqa: F401  (makes the kinds known)
from velvetdrum.scene.document import parse, schema

ROOT = Path(__file__).parents[2]


def test_the_reference_and_the_schema_are_those_of_the_code():
    spec = importlib.util.spec_from_file_location("make_reference", ROOT / "tools" / "make_reference.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    stale = [path.name for path, text in module.made(ROOT / "docs").items() if path.read_text() != text]
    assert not stale, "run: make generated"
    # Every example is a file that other tests run, and stands there once.
    shown = re.findall(r"^# (tests/made_up/\S+)$", (ROOT / "docs/adding.md").read_text(), re.MULTILINE)
    files = {f"tests/made_up/{path.name}" for path in (ROOT / "tests/made_up").glob("*.py")}
    assert sorted(shown) == sorted(files - {"tests/made_up/__init__.py"})


def test_the_example_in_the_format_description_is_valid():
    text = (ROOT / "docs/format/vdrum.md").read_text()
    example = re.search(r"```json\n(.*?)```", text, re.S)[1].replace("9f2c…64 digits…", "9" * 64)
    jsonschema.validate(json.loads(example), schema())
    parse(json.loads(example))


def test_every_picture_and_page_that_is_linked_is_there():
    pages = [ROOT / "README.md", *(ROOT / "docs").rglob("*.md")]
    for page in pages:
        for target in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
            assert (page.parent / target).exists(), f"{page.name}: {target}"
    readme = (ROOT / "README.md").read_text()
    for picture in (ROOT / "docs/screenshots").glob("*.png"):
        assert picture.name in readme


def test_the_vendored_files_have_their_licences():
    vendor = ROOT / "velvetdrum/studio/static/vendor"
    for name in ("bootstrap", "alpine", "tabler-icons"):
        assert (vendor / f"LICENSE-{name}").stat().st_size > 500
    for name in ("fraunces", "work-sans"):
        assert (vendor / "fonts" / f"LICENSE-{name}").stat().st_size > 500
