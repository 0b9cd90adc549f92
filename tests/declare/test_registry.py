"""Kinds are found by being there; two of one name are an error; the order stands on the class."""

import sys
from dataclasses import dataclass
from pathlib import Path

import pytest

import velvetdrum.deliver.formats
import velvetdrum.deliver.sounds
import velvetdrum.picture.layers
import velvetdrum.signals.sources
import velvetdrum.words.formats
from velvetdrum.declare.registry import import_kinds, make_known, sort_kinds
from velvetdrum.deliver.sound_format import SOUND_FORMATS
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.scene.effects import EFFECT_KINDS
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.masks import MASK_KINDS
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.words.cue_format import CUE_FORMATS

PACKAGES = {
    velvetdrum.picture.layers: LAYER_KINDS,
    velvetdrum.picture.effects: EFFECT_KINDS,
    velvetdrum.picture.masks: MASK_KINDS,
    velvetdrum.signals.sources: SIGNAL_KINDS,
    velvetdrum.words.formats: CUE_FORMATS,
    velvetdrum.deliver.sounds: SOUND_FORMATS,
    velvetdrum.deliver.formats: FORMATS,
}


@pytest.mark.parametrize("package", PACKAGES, ids=lambda package: package.__name__)
def test_every_file_of_a_package_makes_something_known(package):
    known = {(item if isinstance(item, type) else type(item)).__module__ for item in PACKAGES[package].values()}
    files = {f"{package.__name__}.{path.stem}" for path in Path(package.__path__[0]).glob("[a-z]*.py")}
    # Modules that several kinds share stand elsewhere: nothing in here is without a kind.
    assert files <= known | {f"{package.__name__}.base"}, files - known


def test_a_kind_of_a_name_that_another_one_has_is_an_error():
    known = {}

    @dataclass
    class One:
        order = 2

    @dataclass
    class Other:
        order = 1

    make_known(known, "lamp", One)
    make_known(known, "lamp", One)
    with pytest.raises(ValueError, match="takes the name 'lamp'"):
        make_known(known, "lamp", Other)
    make_known(known, "buoy", Other)
    sort_kinds(known)
    assert list(known) == ["buoy", "lamp"]


def test_a_file_that_is_put_into_a_package_is_found(tmp_path, monkeypatch):
    package = tmp_path / "quay_kinds"
    package.mkdir()
    (package / "__init__.py").write_text("known = {}\n")
    (package / "lamp.py").write_text("import quay_kinds\nquay_kinds.known['lamp'] = True\n")
    monkeypatch.syspath_prepend(str(tmp_path))
    import quay_kinds

    import_kinds("quay_kinds", quay_kinds.__path__)
    assert quay_kinds.known == {"lamp": True}
    for name in [name for name in sys.modules if name.startswith("quay_kinds")]:
        del sys.modules[name]
