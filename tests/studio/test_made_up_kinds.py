"""A kind is one file: made-up ones go through document, schema, page and renderer, and nobody else names any."""

import json
import re
from fractions import Fraction
from pathlib import Path

import jsonschema
import numpy as np
import pytest

import velvetdrum
from tests.deliver.test_video import Here
from tests.picture.scenes import SMALL
from velvetdrum.cli.outputs import form_of
from velvetdrum.deliver.export import Job, run_export
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.video_format import FORMATS, format_for
from velvetdrum.looks.presets import choices, fitted_settings
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_document, new_layer, new_patch, parse, schema
from velvetdrum.scene.effects import EFFECTS, new_effect
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.masks import MASKS, new_mask
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.words.cue_files import read_cues, write_cues
from velvetdrum.words.cue_format import CUE_FORMATS
from velvetdrum.words.cues import Cue, CueError, CueList

MADE_UP = {
    "pennant": LAYER_KINDS,
    "lower-half": MASKS.kinds,
    "ghost": EFFECTS.kinds,
    "stair": SIGNAL_KINDS,
    "tide": CUE_FORMATS,
    "flip-book": FORMATS,
}
PACKAGE = Path(velvetdrum.__file__).parent


@pytest.fixture(scope="module", autouse=True)
def made_up():
    """The made-up kinds, known for as long as these tests run."""
    import importlib

    for name in ("pennant", "lower_half", "ghost", "stair", "tide_table", "flip_book"):
        importlib.reload(importlib.import_module(f"tests.made_up.{name}"))
    yield
    for name, known in MADE_UP.items():
        known.pop(name, None)


def scene():
    """One of each: a flag that a stair widens, cut to its lower half, with a ghost of what it was."""
    stair = new_signal("stair", "Stair", steps=3)
    flag = new_layer("pennant", "Flag", width=10.0)
    flag["masks"], flag["effects"] = [new_mask("lower-half", line=50.0)], [new_effect("ghost", delay_ms=1000.0)]
    place = f"mask:{flag['masks'][0]['id']}:line"
    flag["patches"] = [new_patch("width", stair, 0.0, 30.0, "add")]
    flag["keyframes"] = {place: [{"time_s": 0, "value": 50, "ease": "linear"}, {"time_s": 9, "value": 50}]}
    ground = new_layer("backdrop", fill="plain", plain="#000000")
    document = new_document("Quay", frame=FRAMES["wide"], rate=Fraction(30), layers=[ground, flag], signals=[stair])
    return document | {"length_s": 9.0}


def test_they_are_stored_read_and_described():
    document = scene()
    jsonschema.validate(json.loads(json.dumps(document)), schema())
    made = parse(document)
    flag = made.layers[1]
    assert flag.layer.kind == "pennant" and flag.masks[0].part.kind == "lower-half"
    assert flag.parts["effect"][0].part.delay_ms == 1000.0 and made.signals[0].signal.steps == 3
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(document | {"signals": [document["signals"][0] | {"settings": {"steps": 99}}]}, schema())


def test_they_are_drawn():
    made = parse(scene())
    # At two and a half seconds the flag is 10 + 20 % wide; a second before it was 10 + 10.
    picture = render(made, None, Fraction(5, 2), SMALL)
    wide = np.flatnonzero(picture[120, :, 1] > 200)
    assert (wide[0], wide[-1]) == (0, 95) and not picture[80, :, :3].any()
    # From the top to the floor at four seconds: the ghost still stands where the flag was.
    picture = render(made, None, Fraction(4), SMALL)
    assert np.flatnonzero(picture[120, :, 1] > 200)[-1] == 127
    again = render(made, None, Fraction(5, 2), SMALL)
    assert np.flatnonzero(again[120, :, 1] > 200)[-1] == 95


def test_they_are_offered_and_fitted():
    assert ("pennant", "Red pennant") in [(choice.kind, choice.design.name) for choice in choices()]
    assert fitted_settings("pennant", {}, None) == {"width": 50.0}


def test_the_page_is_told_all_of_them(studio):
    key = studio.services.store_document(scene())
    page = studio.client.get(f"/projects/{key}").get_data(as_text=True)
    told = json.loads(re.search(r'<script[^>]*id="given"[^>]*>(.*?)</script>', page, re.DOTALL)[1])
    pennant = next(kind for kind in told["kinds"] if kind["kind"] == "pennant")
    assert (pennant["depth"], pennant["fits"], pennant["sizings"][0]["across"]) == (1, True, ["width"])
    width = next(setting for setting in pennant["settings"] if setting["name"] == "width")
    assert width["moves"] and width["numeric"] and width["unit"] == "%"
    sorts = {sort["name"]: {kind["kind"]: kind for kind in sort["kinds"]} for sort in told["partSorts"]}
    assert sorts["mask"]["lower-half"]["summary"] == "Below|{line}" and "ghost" in sorts["effect"]
    stair = next(kind for kind in told["signalKinds"] if kind["kind"] == "stair")
    assert stair["summary"] == "{steps} steps" and not stair["band"] and not stair["drawn"]


def test_a_cue_format_is_read_written_offered_and_says_what_it_leaves_out():
    read = read_cues(b"TIDE\n1.5|High water\n7|Low water\n", "harbour.tide")
    assert [(cue.start_s, cue.text) for cue in read.found.cues] == [(1.5, "High water"), (7.0, "Low water")]
    two_lines = CueList((Cue(2.0, 3.0, "Ebb\nand flow"),))
    assert write_cues(two_lines, "tide") == "TIDE\n2|Ebb and flow\n"
    assert CUE_FORMATS["tide"].left_out(two_lines) == ["Tide table has one line a cue; lines are joined."]
    with pytest.raises(CueError, match="Line 2"):
        read_cues(b"TIDE\nnoon|High water\n", "harbour.tide")


def test_a_video_format_is_made_named_and_offered(studio, tmp_path):
    document = scene()
    plan = plan_export(document, form="flip-book", to_s=0.1, size=FrameSize(64, 64))
    run_export(Job(document, None, plan, str(tmp_path / "work")), Here(), 1, tmp_path / "book.ppm")
    head, pixels = (tmp_path / "book.ppm").read_bytes().split(b"\n", 1)
    assert head == b"P6 64 192 255" and len(pixels) == 64 * 192 * 3
    assert format_for(".ppm").name == "flip-book"
    page = studio.client.get(f"/projects/{studio.services.store_document(document)}").get_data(as_text=True)
    assert "Flip book" in page and "Pages to print and cut." in page and "Tide table" in page
    assert form_of(tmp_path / "x.ppm", None, False, None, None).name == "flip-book"


# What would name a kind: a comparison of something that is called a kind with the name of one.
_NAMES = "|".join({*LAYER_KINDS, *MASKS.kinds, *EFFECTS.kinds, *SIGNAL_KINDS})
_NAMED = re.compile(rf"""kind\w*\)?\s*(?:[!=]==?|\bin\b)\s*[\[({{]?\s*["'](?:{_NAMES})["']""")
_LOOKED_UP = re.compile(r"""_KINDS\[["']""")


@pytest.mark.parametrize("path", sorted(PACKAGE.rglob("*.js")) + sorted(PACKAGE.rglob("*.html")), ids=lambda p: p.name)
def test_no_script_and_no_template_names_a_kind(path):
    if "vendor" in path.parts:
        return
    assert _NAMED.findall(path.read_text()) == []


def test_no_module_names_a_kind_of_another():
    # What brings documents of older versions to the present form must know what kinds were called then.
    spared = {"migrate.py"}
    named = [
        (path.name, line.strip())
        for path in sorted(PACKAGE.rglob("*.py"))
        if path.name not in spared and "demo" not in path.parts
        for line in path.read_text().splitlines()
        if _NAMED.search(line) or _LOOKED_UP.search(line)
    ]
    assert named == []
