"""Signals, beats and patches in documents: what is valid, what is said when it is not, older documents."""

import copy
from fractions import Fraction

import jsonschema
import pytest

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.scene.document import ProjectError, new_document, new_layer, new_patch, new_track, parse, schema
from velvetdrum.scene.edits import apply
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.migrate import VERSION
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.kinds import SIGNAL_KINDS


def document():
    kick = new_signal("pickup", "Kick") | {"id": "kick"}
    clock = new_signal("clock", "Every beat", colour="#5fc4b4") | {"id": "clock"}
    mix = new_signal("mix", "Both", of=["kick", "clock"]) | {"id": "mix"}
    bars = new_layer("spectrum")
    bars["patches"] = [new_patch("reach", kick, 0.0, 20.0, "add"), new_patch("bands", clock, 8, 64)]
    ground = new_layer("backdrop")
    ground["patches"] = [new_patch("plain", mix, "#000000", "#ffffff")]
    return new_document(
        "Test",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[ground, bars],
        track=new_track("a" * 64, "song.wav", 12.5),
        signals=[kick, clock, mix],
    )


def test_signals_and_patches_are_valid_by_the_schema_and_parsed():
    jsonschema.Draft202012Validator.check_schema(schema())
    jsonschema.validate(document(), schema())
    parsed = parse(document())
    assert [named.name for named in parsed.signals] == ["Kick", "Every beat", "Both"]
    assert [patch.setting for patch in parsed.layers[1].patches] == ["reach", "bands"]


def test_every_signal_setting_says_what_it_is():
    assert {"pickup", "clock", "lfo", "wander", "progress", "drawn", "mix", "total", "envelope"} <= set(SIGNAL_KINDS)
    for cls in SIGNAL_KINDS.values():
        assert cls.help().endswith(".")
        for setting in cls.settings.values():
            assert setting.label and setting.help.endswith("."), setting.name
            assert setting.parse(setting.default) is not None


@pytest.mark.parametrize(
    ("path", "value", "where", "words"),
    [
        ("/signals/0/settings/low_hz", 500, "/signals/0/settings/high_hz", "To must lie above From"),
        ("/signals/0/settings/quiet_db", -5, "/signals/0/settings/loud_db", "at least 1 dB above Quiet"),
        ("/signals/0/settings/high_hz", 30_000, "/signals/0/settings/high_hz", "goes from 10 to 24000 Hz"),
        ("/signals/0/settings/steps", 1, "/signals/0/settings/steps", "choose 2 or more"),
        ("/signals/0/kind", "laser", "/signals/0/kind", "no signal kind"),
        ("/signals/0/colour", "red", "/signals/0/colour", "like #e0ac55"),
        ("/signals/0/name", " ", "/signals/0/name", "name of up to 80"),
        ("/signals/1/id", "kick", "/signals/1/id", "id of its own"),
        ("/signals/2/settings/of", ["kick", "mix"], "/signals/2/settings/of", "Both reads Both"),
        ("/signals/2/settings/of", ["nobody"], "/signals/2/settings/of", "reads a signal that is gone"),
        ("/layers/1/patches/0/setting", "wings", "/layers/1/patches/0/setting", "no setting called wings any more"),
        ("/layers/1/patches/0/setting", "grow", "/layers/1/patches/0/setting", "only numbers and colours"),
        ("/layers/1/patches/0/signal", "nobody", "/layers/1/patches/0/signal", "drove Height is gone"),
        ("/layers/1/patches/1/to", 9000, "/layers/1/patches/1/to", "goes from 1 to 512"),
        ("/layers/1/patches/0/from", "much", "/layers/1/patches/0/from", "a number is needed in %"),
        ("/layers/1/patches/0/join", "divide", "/layers/1/patches/0/join", "replaces, adds, multiplies"),
        ("/layers/1/patches/0/lag_ms", 1e9, "/layers/1/patches/0/lag_ms", "lag goes from"),
        ("/layers/0/patches/0/to", "white", "/layers/0/patches/0/to", "like #e0ac55"),
        ("/beats/tempo_bpm", 1000, "/beats/tempo_bpm", "20 to 400 bpm"),
    ],
)
def test_wrong_signals_and_patches_are_refused_with_a_sentence(path, value, where, words):
    with pytest.raises(ProjectError) as caught:
        apply(document(), [{"op": "add", "path": path, "value": value}])
    found = {problem.path: problem.sentence for problem in caught.value.problems}
    assert words in found[where], found
    assert all(sentence.endswith(".") for sentence in found.values())


def test_a_longer_loop_names_all_signals_in_it():
    made = document()
    made["signals"].append(new_signal("mix", "Third", of=["mix"]) | {"id": "third"})
    with pytest.raises(ProjectError, match="Both reads Third reads Both"):
        apply(made, [{"op": "replace", "path": "/signals/2/settings/of", "value": ["kick", "third"]}])


def test_deleting_a_signal_takes_its_patches_in_one_edit_and_comes_back_with_one_undo():
    made = document()
    with pytest.raises(ProjectError):
        apply(made, [{"op": "remove", "path": "/signals/1"}])
    patch = [
        {"op": "remove", "path": "/layers/1/patches/1"},
        {"op": "replace", "path": "/signals/2/settings/of", "value": ["kick"]},
        {"op": "remove", "path": "/signals/1"},
    ]
    edited, back, _ = apply(made, patch)
    assert apply(edited, back)[0] == made


def test_a_document_of_version_1_is_read_and_edited():
    old = copy.deepcopy(document())
    old["version"] = 1
    del old["signals"], old["beats"]
    for layer in old["layers"]:
        del layer["patches"]
    assert parse(old).signals == ()
    edited, back, _ = apply(old, [{"op": "replace", "path": "/name", "value": "Newer"}])
    assert (edited["version"], edited["signals"], edited["layers"][0]["patches"]) == (VERSION, [], [])
    assert apply(edited, back)[0]["name"] == "Test"
    jsonschema.validate(edited, schema())
