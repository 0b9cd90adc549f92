"""Other words for settings: found for every kind, none that is a setting's label itself."""

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.declare.synonyms import _WORDS, synonyms_of
from velvetdrum.scene.effects import EFFECT_KINDS
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.masks import MASK_KINDS
from velvetdrum.signals.kinds import SIGNAL_KINDS


def labels() -> set[str]:
    kinds = [*LAYER_KINDS.values(), *EFFECT_KINDS.values(), *MASK_KINDS.values(), *SIGNAL_KINDS.values()]
    return {setting.label for kind in kinds for setting in kind.settings.values()}


def test_a_setting_is_known_by_what_it_was_called_and_by_common_words():
    assert "font" in synonyms_of("Typeface") and "transparency" in synonyms_of("Layer opacity")
    assert "lies down" in synonyms_of("In perspective")
    assert "random" in synonyms_of("Seed") and synonyms_of("No such label at all") == ()
    # A word within a label counts; a part of a word does not.
    assert "scale" in synonyms_of("Flow size") and "scale" not in synonyms_of("Resizeable")


def test_words_are_lower_case_and_most_belong_to_a_label_that_is_there():
    present = " ".join(f" {label.lower()} " for label in labels())
    assert all(word == word.lower() for word in [*_WORDS, *sum(_WORDS.values(), ())])
    used = [word for word in _WORDS if f" {word} " in present]
    assert len(used) > 0.8 * len(_WORDS), sorted(set(_WORDS) - set(used))
