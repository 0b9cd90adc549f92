"""Words made into cues, tapped words, and what is checked of cues."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from velvetdrum.words.breaks import WITHIN_GROUP, break_cost
from velvetdrum.words.checks import check_cues, luminance_contrast
from velvetdrum.words.cue_groups import CueShape, Token, broken, cues_of
from velvetdrum.words.cues import Cue, CueError, Word
from velvetdrum.words.taps import tap_delay, tapped_cues


def tokens_of(text: str, *, step: float = 0.4) -> list[Token]:
    rows = [(word, number) for number, line in enumerate(text.split("\n")) for word in line.split()]
    return [Token(word, Word(n * step, n * step + 0.3, word), line) for n, (word, line) in enumerate(rows)]


def test_cues_end_with_sentences_and_keep_their_words():
    cues = cues_of(tokens_of("Fog is expected after midnight. Small boats keep close."), CueShape())
    assert [cue.text for cue in cues] == ["Fog is expected after midnight.", "Small boats keep close."]
    assert [word.text for word in cues[1].words] == ["Small", "boats", "keep", "close."]
    assert cues[1].start_s == pytest.approx(2.0)


def test_cues_by_word_line_and_pause():
    tokens = tokens_of("one two\nthree four")
    assert [cue.text for cue in cues_of(tokens, CueShape(by="word"))] == ["one", "two", "three", "four"]
    assert [cue.text for cue in cues_of(tokens, CueShape(by="line"))] == ["one two", "three four"]
    tokens[2:] = [Token(t.text, Word(t.word.start_s + 3, t.word.end_s + 3, t.text)) for t in tokens[2:]]
    assert [cue.text for cue in cues_of(tokens, CueShape(by="pause"))] == ["one two", "three four"]


@given(
    st.lists(st.text("abcdefg,.", min_size=1, max_size=12), min_size=1, max_size=60),
    st.integers(12, 40),
    st.integers(1, 3),
)
def test_no_word_is_lost_and_lines_fit(words, chars, lines):
    tokens = [Token(word, Word(n * 0.3, n * 0.3 + 0.25, word)) for n, word in enumerate(words)]
    cues = cues_of(tokens, CueShape(chars=chars, lines=lines))
    assert " ".join(cue.text.replace("\n", " ") for cue in cues) == " ".join(words)
    assert all(len(row) <= chars for cue in cues for row in cue.text.split("\n") if " " in row)
    assert all(len(cue.text.split("\n")) <= lines for cue in cues)
    assert all(one.start_s < one.end_s and one.start_s <= two.start_s for one, two in itertools.pairwise(cues))


def test_words_without_times_share_the_stretch_between_those_with():
    tokens = tokens_of("First line here. Second is lost. Third again.")
    lost = [Token(t.text, None, t.line) if 3 <= n < 6 else t for n, t in enumerate(tokens)]
    first, second, third = cues_of(lost, CueShape())
    assert not second.words and first.end_s <= second.start_s < second.end_s <= third.start_s + 1e-9


def test_lines_are_broken_evenly_and_after_marks():
    assert broken(
        ["The", "night", "ferry", "leaves", "at", "ten", "past", "nine,", "from", "the", "east", "pier."], 32, 2
    ) == ("The night ferry leaves at ten\npast nine, from the east pier.")
    assert broken(["short"], 32, 2) == "short"


def test_the_delay_of_a_hand_is_measured_and_taken_off():
    clicks = np.arange(8) * 0.5
    taps = clicks + 0.18 + np.array([0.01, -0.02, 0.0, 0.02, -0.01, 0.0, 0.01, 0.0])
    delay = tap_delay(clicks.tolist(), taps.tolist())
    assert delay == pytest.approx(0.18, abs=0.01)
    cues = tapped_cues(["Slow water", "", "far out"], [2.18, 4.18], delay_s=delay, end_s=10.0)
    assert [(round(cue.start_s, 2), cue.text) for cue in cues] == [(2.0, "Slow water"), (4.0, "far out")]
    with pytest.raises(CueError, match="Only"):
        tap_delay([0.0, 1.0], [0.1])
    with pytest.raises(CueError, match="uneven"):
        tap_delay(clicks.tolist(), (clicks + np.array([0, 0.24, -0.2, 0.2, -0.2, 0.24, 0.0, 0.2])).tolist())
    with pytest.raises(CueError, match="Nothing was tapped"):
        tapped_cues(["x"], [], end_s=1.0)


def test_words_of_a_tapped_line_are_drawn_to_attacks():
    (cue,) = tapped_cues(["slow water rises"], [1.0], end_s=4.0, attacks_s=np.array([1.9, 2.95]))
    assert [word.start_s for word in cue.words] == pytest.approx([1.0, 1.9, 2.95], abs=0.06)
    words = tapped_cues(["slow water"], [1.0, 1.5, 2.2], end_s=4.0, by_word=True)[0].words
    assert [(word.start_s, word.end_s) for word in words] == [(1.0, 1.5), (1.5, 2.2)]


def test_checks_name_what_is_wrong_and_how_to_mend_it():
    cues = {
        "a": Cue(0.0, 1.0, "x" * 30),
        "b": Cue(1.04, 4.0, "fine words here"),
        "c": Cue(3.0, 6.0, "y" * 50 + "\nz\nz"),
        "d": Cue(9.0, 12.0, "goes on", "", (Word(9.0, 9.2, "goes", 0.2), Word(9.3, 9.4, "on", 0.9))),
        "e": Cue(12.5, 12.6, "a"),
        "f": Cue(13.0, 14.0, ""),
    }
    found = {(item.cue, item.check): item for item in check_cues(cues, length_s=11.0)}
    assert found["a", "reading speed"].sentence.startswith("30 characters a second")
    assert found["a", "gap"].mending == "close" and found["b", "overlap"].mending == "close"
    assert found["c", "line length"].sentence.startswith("It has 3 lines")
    assert "“goes”" in found["d", "words"].sentence and found["d", "used part"].mending == "trim"
    assert found["e", "length"].mending == "lengthen" and ("f", "text") in found
    assert not check_cues({"b": Cue(1.0, 4.0, "fine words here")}, length_s=11.0)


def test_contrast_of_black_and_white_is_21():
    assert luminance_contrast((0, 0, 0), (1, 1, 1)) == pytest.approx(21.0)
    assert luminance_contrast((0.5, 0.5, 0.5), (1, 1, 1)) == pytest.approx(3.98, abs=0.02)


def shown(text, language="en", chars=32, lines=2):
    tokens = [Token(word, Word(n * 0.3, n * 0.3 + 0.28, word)) for n, word in enumerate(text.split())]
    return [cue.text for cue in cues_of(tokens, CueShape(chars=chars, lines=lines, language=language))]


@pytest.mark.parametrize(
    ("language", "text"),
    [
        ("en", "You have successfully installed and configured the new version of the program on your machine."),
        ("en", "The harbour lights go out while the last ferry waits for the fog to lift over the old pier again."),
        (
            "de",
            "Die Möwen schlafen noch auf der großen Mauer und ein Schiff fährt langsam mit den letzten Gästen heim.",
        ),
        ("fr", "À l'aube la mer était calme et les pêcheurs rentraient fatigués avec leurs filets dans le petit port."),
        ("es", "El último barco volvió al muelle pequeño porque la niebla cubría la entrada de la bahía esa noche."),
    ],
)
@pytest.mark.parametrize("chars", [20, 28, 32, 42])
def test_lines_break_where_a_reader_would(language, text, chars):
    """No line ends with a word that belongs to what follows it, and none is too long."""
    lines = [line for cue in shown(text, language, chars) for line in cue.split("\n")]
    assert " ".join(lines) == text
    for line, following in itertools.pairwise(lines):
        assert len(line) <= chars
        assert break_cost(line.split()[-1], following.split()[0], language) < WITHIN_GROUP, lines


def test_the_example_that_was_broken_before_the_conjunction_is_whole():
    first = shown("You have successfully installed and configured the new version of the program.")[0]
    assert first.split("\n")[-1].split()[-1] != "and" and "installed and" not in first.replace("\n", " ")


def test_a_text_without_an_end_is_cut_in_time_that_goes_with_its_length():
    words = ["lamp"] * 12_000
    cues = shown(" ".join(words))
    assert sum(len(cue.split()) for cue in cues) == len(words)
    assert max(len(line) for cue in cues for line in cue.split("\n")) <= 32
