"""A sample of the pairs that `make looks` judges, another one each day."""

import random
from datetime import date
from importlib.util import module_from_spec, spec_from_file_location
from pathlib import Path

import numpy as np
import pytest

from velvetdrum.demo.pictures import lamp_svg

SAMPLE = 8


def _gate():
    spec = spec_from_file_location("check_looks", Path(__file__).parents[2] / "tools" / "check_looks.py")
    module = module_from_spec(spec)
    import sys

    sys.modules[spec.name] = module
    spec.loader.exec_module(module)
    return module


GATE = _gate()
CHOSEN = random.Random(date.today().isoformat()).sample(GATE.pairs(), SAMPLE)


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = tmp_path_factory.mktemp("gate")
    (made / "lamp.svg").write_text(lamp_svg())
    return made


def judged(pair, folder):
    return GATE.findings(pair, GATE.sounding(str(folder), pair.recording), {"a" * 64: str(folder / "lamp.svg")})


def test_a_sample_of_looks_can_be_posted(folder):
    # In one test: how many there are does not depend on which worker asks, nor on when a day begins.
    found = {str(pair): said for pair in CHOSEN if (said := judged(pair, folder))}
    assert found == {}


def test_the_gate_finds_what_is_wrong(folder, monkeypatch):
    pair = GATE.Pair("pier-lights", "song", "square")
    real = GATE.filled

    def spoilt(*given):
        document = real(*given)
        for layer in document["layers"]:
            if layer["name"] == "Title":
                layer["settings"] = layer["settings"] | {"plain": "#141416"}
                layer["frames"] = {"square": {"y": 97.0}}
            if layer["name"] == "Lamps":
                layer["settings"] = layer["settings"] | {"loud_db": -40.0, "quiet_db": -60.0}
        return document

    monkeypatch.setattr(GATE, "filled", spoilt)
    said = " ".join(judged(pair, folder))
    assert "Title lies under" in said and "Title has a contrast" in said and "Lamps sticks" in said


def test_all_pairs_are_judged():
    everything = GATE.pairs()
    assert len(everything) == len(GATE.LOOKS) * 8 * 4 and len(set(everything)) == len(everything)
    assert all(np.isfinite(make()).all() for make in GATE.RECORDINGS.values())
