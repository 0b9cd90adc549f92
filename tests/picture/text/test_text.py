"""Text: shaped, in the order of its scripts, broken into lines, measured against other libraries."""

from __future__ import annotations

import numpy as np
import pytest
import uharfbuzz as hb
from bidi import get_display
from hypothesis import given, settings
from hypothesis import strategies as st

from velvetdrum.picture.typesetting.bidi import levels_of, visual_order
from velvetdrum.picture.typesetting.families import FAMILIES, files_of
from velvetdrum.picture.typesetting.layout import TextSpec, laid_out
from velvetdrum.picture.typesetting.typefaces import glyph_path

_MIXED = st.text(st.sampled_from("ab1 2.,:+-/()[]אבג دش%$\u0301"), max_size=24)


@settings(max_examples=400, deadline=None)
@given(_MIXED, st.sampled_from("LR"))
def test_order_agrees_with_another_library(text, base):
    levels = levels_of(text, 0 if base == "L" else 1)
    shown = "".join(text[place] for place in visual_order(levels))
    theirs = get_display(text, base_dir=base)
    # The other library moves marks behind their letters, which is for terminals.
    assert sorted(shown) == sorted(theirs)
    if "\u0301" not in text:
        assert shown == theirs


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("abc אבג def", "abc גבא def"),
        ("אבג abc 123", "abc 123 גבא"),
        ("12:30 אבג", "גבא 12:30"),
        ("a \u2067אב (c)\u2069 d", None),
    ],
)
def test_order_of_known_lines(text, expected):
    shown = "".join(text[place] for place in visual_order(levels_of(text)))
    if expected:
        assert shown == expected
    else:
        levels = levels_of(text)
        assert levels[0] == 0 and levels[3] % 2 == 1 and levels[-1] == 0


@pytest.mark.parametrize("family", sorted(FAMILIES))
def test_widths_are_those_of_the_shaper(family):
    text = FAMILIES[family].sample
    found = laid_out(TextSpec(text, family, 700.0))
    face = hb.Face(files_of(family, 700)[0].read_bytes())
    font = hb.Font(face)
    if face.axis_infos:
        font.set_variations({"wght": 700.0})
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    hb.shape(font, buffer, {})
    width = sum(place.x_advance for place in buffer.glyph_positions) * 1000 / face.upem
    (line,) = found.lines
    assert line.right - line.left == pytest.approx(width, rel=0.005)
    assert not found.missing


def test_lines_break_where_the_standard_allows():
    spec = TextSpec("The night-ferry leaves at 10.5 knots (or so).", "inter", width=7000.0)
    text = spec.text
    lines = [text[line.begin : line.end] for line in laid_out(spec).lines]
    assert lines == ["The night-", "ferry leaves at", "10.5 knots (or", "so)."]
    assert all(line.right - line.left <= 7000.1 for line in laid_out(spec).lines)
    japanese = laid_out(TextSpec("灯台の港。紙の灯り", "m-plus-1p", width=3100.0))
    assert all(not "灯台の港。紙の灯り"[line.begin : line.end].startswith("。") for line in japanese.lines)


def test_a_word_that_is_wider_than_its_box_is_broken_between_letters():
    found = laid_out(TextSpec("w" * 200, "inter", width=4000.0))
    assert len(found.lines) > 10 and sum(line.end - line.begin for line in found.lines) == 200
    assert all(line.right - line.left <= 4000.1 for line in found.lines)


def test_kerning_ligatures_and_marks():
    apart = sum(
        line.right - line.left for part in ("A", "V") for line in laid_out(TextSpec(part, "inter", 400.0)).lines
    )
    together = laid_out(TextSpec("AV", "inter", 400.0)).lines[0]
    assert together.right - together.left < apart - 10
    joined = laid_out(TextSpec("office", "literata", 400.0))
    assert len(joined.glyph) < 6 and len(laid_out(TextSpec("office", "literata", tracking=40.0)).glyph) == 6
    marked = laid_out(TextSpec("e\u0323\u0301x", "inter"))
    assert len(set(marked.letter.tolist())) == 2


def test_arabic_joins_and_runs_from_the_right():
    found = laid_out(TextSpec("ميناء", "noto-sans-arabic", 400.0))
    assert np.all(np.diff(found.x) < 0)
    alone = sum(laid_out(TextSpec(sign, "noto-sans-arabic", 400.0)).advance.sum() for sign in "ميناء")
    assert found.advance.sum() < 0.9 * alone


def test_letters_of_other_typefaces_step_in_and_what_none_has_is_named():
    found = laid_out(TextSpec("Quay 灯台 שלום ☂ 🙂 \U0001f468\u200d\U0001f469\u200d\U0001f467", "unbounded"))
    assert not found.missing and len(set(found.face.tolist())) >= 4
    assert "\U00013000" in laid_out(TextSpec("a\U00013000b", "inter")).missing
    assert len(laid_out(TextSpec("a\U00013000b", "inter")).glyph) == 2


def test_weights_of_a_variable_family_differ():
    thin, bold = (laid_out(TextSpec("Quay", "fraunces", weight)) for weight in (300.0, 900.0))
    assert bold.lines[0].right > thin.lines[0].right + 20
    face, axes = thin.faces[thin.face[0]]
    assert glyph_path(face, axes, int(thin.glyph[0])).getBounds().height() > 600


@settings(max_examples=80, deadline=None)
@given(st.text(max_size=60), st.floats(0, 6000), st.sampled_from(["left", "center", "right", "start", "end"]))
def test_any_text_is_laid_out(text, width, align):
    found = laid_out(TextSpec(text, "work-sans", width=width, align=align))
    assert np.isfinite(found.x).all() and len(found.glyph) == len(found.letter)
    assert len(found.lines) >= 1


@pytest.mark.parametrize("family", list(FAMILIES))
@pytest.mark.parametrize("weight", [400.0, 900.0])
def test_even_digits_stand_on_one_width_in_every_family(family, weight):
    """All texts of as many digits are as wide, and a clock that counts does not jitter; letters stay as they are."""
    texts = ("11:11:11", "00:00:00", "47:19:28", "17:71:17")
    even = [laid_out(TextSpec(text, family, weight, tabular=True)) for text in texts]
    widths = [layout.box[2] - layout.box[0] for layout in even]
    assert max(widths) - min(widths) < 0.51, widths
    digits = [n for n, sign in enumerate(texts[0]) if sign != ":"]
    for layout in even:
        steps = np.diff(np.sort(layout.x))
        assert np.allclose([layout.advance[n] for n in digits], layout.advance[digits[0]], atol=0.01)
        assert np.all(steps > 0)
    words = [laid_out(TextSpec("Quaylamp", family, weight, tabular=tabular)) for tabular in (False, True)]
    assert np.array_equal(words[0].x, words[1].x)
