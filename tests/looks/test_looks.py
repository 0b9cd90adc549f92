"""What is offered: designs fitted to a recording, signals that drive them, effects and chains that are whole projects."""

from fractions import Fraction

import pytest

from tests.conftest import song, write_wav
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.looks.default_design import starting_design
from velvetdrum.looks.drivers import Drivers
from velvetdrum.looks.effect_choices import CHAINS, effect_choices
from velvetdrum.looks.presets import choice_layers, choices, fitted_layer
from velvetdrum.scene.designs import FAMILIES, Follow
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.effects import EFFECT_FAMILIES, EFFECT_KINDS
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.audio_range import AudioRange


@pytest.fixture(scope="module")
def use(tmp_path_factory):
    """Four seconds of music, analysed."""
    folder = tmp_path_factory.mktemp("looks")
    recording = analyse(write_wav(folder / "song.wav", song(4.0)), folder / "analysis", key="song")
    return AudioRange(recording, 0.0, 4.0)


def project(layers, signals=()):
    document = new_document("Quay", frame=FRAMES["wide"], rate=Fraction(30), layers=layers, signals=list(signals))
    return parse(document | {"length_s": 4.0})


def test_every_design_is_a_project_with_and_without_a_sound(use):
    for sound in (use, None):
        listed = choice_layers(sound)
        assert len(listed) == len(choices()) > 90
        assert project([{**layer, "id": f"l{n}"} for n, (_, layer) in enumerate(listed)][:60])
        assert project([{**layer, "id": f"l{n}"} for n, (_, layer) in enumerate(listed)][60:])


def test_designs_stand_by_family_and_the_kinds_with_most_of_them_first():
    order = [list(FAMILIES).index(choice.design.family) for choice in choices()]
    assert order == sorted(order)
    for family in FAMILIES:
        kinds = [choice.kind for choice in choices() if choice.design.family == family]
        counts = [len(LAYER_KINDS[kind].designs) for kind in dict.fromkeys(kinds)]
        assert counts == sorted(counts, reverse=True), family


def test_what_a_design_sets_is_not_fitted_over(use):
    kind = next(kind for kind, cls in LAYER_KINDS.items() if "loud_db" in cls.settings and cls.fits)
    fitted = fitted_layer(kind, "Bars", {}, use)["settings"]
    assert fitted["loud_db"] != LAYER_KINDS[kind].settings["loud_db"].default
    assert fitted_layer(kind, "Bars", {}, None)["settings"].get("loud_db") in (
        None,
        LAYER_KINDS[kind].settings["loud_db"].default,
    )


def test_the_starting_design_hears_the_recording(use):
    (_, silent), (ground, bars) = starting_design(None), starting_design(use.recording)
    assert ground["kind"] != bars["kind"] and project([ground, bars])
    assert bars["settings"]["loud_db"] != silent["settings"]["loud_db"]


FOLLOWS = (Follow("layer_opacity", "hits", 20.0, 100.0), Follow("scale_x", "beat", 90.0, 110.0))


def test_a_design_takes_the_signals_of_the_project_before_new_ones(use):
    own = new_signal("pickup", "Own kick", detector="hits")
    layer = new_layer("shape")
    drivers = Drivers([own], use, 4.0)
    fresh = drivers.drive(layer, FOLLOWS)
    assert layer["patches"][0]["signal"] == own["id"]
    assert [signal["kind"] for signal in fresh] == ["clock"]
    assert layer["patches"][1]["signal"] == fresh[0]["id"]
    assert len(project([layer], [own, *fresh]).layers[0].patches) == 2


def test_the_same_new_signal_drives_all_that_ask_for_it(use):
    layer, drivers = new_layer("shape"), Drivers([], use, 4.0)
    twice = (FOLLOWS[0], Follow("scale_y", "hits", 90.0, 110.0))
    fresh = drivers.drive(layer, twice)
    assert len({patch["signal"] for patch in layer["patches"]}) == 1 == len(fresh)


def test_without_sound_and_signals_a_design_comes_without_patches():
    layer = new_layer("shape")
    assert Drivers([], None, 4.0).drive(layer, FOLLOWS) == [] and layer["patches"] == []
    # Any signal is better than none.
    slow = new_signal("lfo", "Slow")
    assert Drivers([slow], None, 4.0).drive(layer, FOLLOWS) == []
    assert {patch["signal"] for patch in layer["patches"]} == {slow["id"]}


def test_every_effect_is_offered_by_family_and_is_whole():
    listed = effect_choices()
    assert {choice.kind for choice in listed} == set(EFFECT_KINDS)
    order = [list(EFFECT_FAMILIES).index(choice.design.family) for choice in listed]
    assert order == sorted(order)
    for number, choice in enumerate(listed):
        layer = new_layer("shape") | {"effects": [choice.effect | {"id": f"e{number}"}]}
        assert project([layer]).layers[0].parts["effect"][0].part.kind == choice.kind


@pytest.mark.parametrize("chain", CHAINS, ids=lambda chain: chain.name)
def test_every_chain_is_whole_and_its_patches_find_their_settings(chain):
    stored, signal = chain.stored, new_signal("lfo", "Slow")
    patches = [patch | {"signal": signal["id"]} for patch in stored["patches"]]
    layer = new_layer("shape") | {"effects": stored["effects"], "patches": patches}
    placed = project([layer], [signal]).layers[0]
    assert len(placed.parts["effect"]) == len(chain.effects) and len(placed.patches) == len(chain.patches)
    assert chain.purpose and chain.purpose[0].isupper()
