"""No colour over its alpha: every layer kind, design and effect, at three sizes; and sums that never wrap."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import RATE, song, write_wav
from tests.picture.effects.effect_sources import applied, busy, effect
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.declare.setting import SettingError
from velvetdrum.looks.effect_choices import effect_choices
from velvetdrum.looks.presets import choice_layers
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.raster.blending import blend
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.audio_range import AudioRange

SIZES = (FrameSize(160, 90), FrameSize(126, 224), FrameSize(320, 320))
KINDS = sorted({choice.kind for choice in effect_choices()})
GROUNDS = {"black": 0, "grey": 128, "white": 255}


@pytest.fixture(scope="module")
def use(tmp_path_factory):
    folder = tmp_path_factory.mktemp("heard")
    path = write_wav(folder / "song.wav", song(3.0), RATE)
    return AudioRange(analyse(path, folder / "analysis", key="song"), 0.0, 3.0)


def beyond(pixels) -> int:
    """Pixels with a colour over their alpha."""
    return int((pixels[..., :3] > pixels[..., 3:]).any(axis=2).sum())


def word(**settings):
    return new_layer("text", text="Quay", **settings)


def alone(layer, use, size, ground=None):
    below = [] if ground is None else [new_layer("backdrop", fill="plain", plain=ground)]
    made = new_document("Test", frame=size, rate=Fraction(30), layers=[*below, layer])
    project = parse(made | {"length_s": 3.0})
    return render(project, use, Fraction(2), size, background="transparent" if ground is None else "black")


@pytest.mark.parametrize("kind", sorted(LAYER_KINDS))
def test_every_layer_kind_and_design(use, kind):
    layers = [("default", new_layer(kind))]
    layers += [(choice.design.name, layer) for choice, layer in choice_layers(use) if choice.kind == kind]
    for number, (name, layer) in enumerate(layers):
        size = SIZES[number % 3]
        assert beyond(alone(layer, use, size)) == 0, (name, size)


@pytest.mark.parametrize("kind", KINDS)
def test_every_effect_and_design_over_three_grounds(use, kind):
    """On white text, whose soft edges are where a sum would wrap; over a ground it lies as the formula says."""
    for number, choice in enumerate(item for item in effect_choices() if item.kind == kind):
        size = SIZES[number % 3]
        layer = word() | {"effects": [choice.effect]}
        clear = alone(layer, use, size)
        assert beyond(clear) == 0, choice.design.name
        found = applied(effect(kind, **choice.effect["settings"]), busy(size.width, size.height, opaque=False))
        assert beyond(found) == 0, choice.design.name
        for level in GROUNDS.values():
            below = np.full((*clear.shape[:2], 4), (level, level, level, 255), np.uint8)
            shown = below.copy()
            blend(shown, clear)
            wanted = clear + below * (1 - clear[..., 3:].astype(float) / 255)
            assert np.abs(shown - wanted).max() <= 1


@given(st.data())
def test_effects_with_any_settings(data):
    kind = data.draw(st.sampled_from(KINDS))
    given_settings = {}
    for name, setting in effect(kind).settings.items():
        if setting.type == "number" and data.draw(st.booleans()):
            value = setting.lo + data.draw(st.floats(0, 1)) * (setting.hi - setting.lo)
            given_settings[name] = round(value) if isinstance(setting.default, int) else value
    pixels = busy(64, 48, data.draw(st.integers(1, 4)), opaque=False)
    try:
        made = effect(kind, **given_settings)
    except SettingError:
        return  # some are bounded by their unit
    assert beyond(applied(made, pixels)) == 0, (kind, given_settings)


@pytest.mark.parametrize("mode", ["normal", "plus-lighter"])
def test_a_source_that_is_not_premultiplied_fills_and_never_wraps(mode):
    """Whatever a mistake elsewhere may bring: a byte that runs over is full, its neighbours stay as they are."""
    above = np.zeros((1, 256, 4), np.uint8)
    above[..., 0], above[..., 3] = 255, np.arange(256)
    below = np.full((1, 256, 4), 255, np.uint8)
    blend(below, above, mode)
    assert (below[..., 0] == 255).all()
    assert (below[..., 1] >= np.array(255 - np.arange(256), int) - 1).all()
