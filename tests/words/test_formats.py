"""Formats of timed text: what is written is read again, and what others wrote is read and repaired."""

from __future__ import annotations

import contextlib
import json
from dataclasses import replace

import pysubs2
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from velvetdrum.words.cue_files import read_cues, write_cues
from velvetdrum.words.cue_format import CUE_FORMATS
from velvetdrum.words.cues import Cue, CueError, CueList, Word

TIMED = sorted(set(CUE_FORMATS) - {"txt"})
WORDED = ("vtt", "lrc", "ass", "ttml", "json")
SPEAKING = ("vtt", "ass", "ttml", "json")

_LETTERS = st.text(st.sampled_from("abcXYZ0189äßéñΩжשلあ漢&<>\"'.,!?-:;{}()[]#😀\\Nnh"), min_size=1, max_size=9)


def _plain(token: str, suffix: str) -> str:
    """A word that the format can carry: brackets that are its own signs are other characters."""
    signs = {"srt": "<>{}", "lrc": "<>[]"}.get(suffix, "")
    return "".join("o" if sign in signs else sign for sign in token)


@st.composite
def cue_lists(draw, suffix: str, *, worded: bool):
    at, cues = draw(st.integers(0, 500)), []
    for _ in range(draw(st.integers(1, 6))):
        rows = draw(st.lists(st.lists(_LETTERS, min_size=1, max_size=4), min_size=1, max_size=2))
        if suffix == "lrc":
            rows = rows[:1]
        # A line of digits alone is a number of a cue in one format; a letter before it is not.
        rows = [["w" + _plain(token, suffix) for token in row] for row in rows]
        begin, words = at, []
        if worded:
            for token in (token for row in rows for token in row):
                at += draw(st.integers(0, 40))
                end = at + draw(st.integers(1, 90))
                words.append(Word(at / 100, end / 100, token))
                at = end
        else:
            at += draw(st.integers(5, 600))
        end = at + draw(st.integers(0, 30)) if worded else at
        text = "\n".join(" ".join(row) for row in rows)
        speaker = draw(st.sampled_from(["", "Harbour office", "A & B"])) if suffix in SPEAKING else ""
        cues.append(Cue(begin / 100, end / 100, text, speaker, tuple(words)))
        at = end + draw(st.integers(0, 300))
    return CueList(tuple(cues), draw(st.sampled_from(["en", ""])) if suffix not in ("srt", "ass") else "")


def _filled(cue: Cue) -> bool:
    return len(cue.words) == 1 and (cue.words[0].start_s, cue.words[0].end_s) == (cue.start_s, cue.end_s)


def _rounded(found: CueList):
    def times(*values):
        return tuple(round(value, 2) for value in values)

    return [
        (
            *times(cue.start_s, cue.end_s),
            cue.text,
            cue.speaker,
            tuple((*times(word.start_s, word.end_s), word.text) for word in cue.words),
        )
        for cue in found.cues
    ]


@pytest.mark.parametrize("suffix", TIMED)
@settings(max_examples=60, deadline=None)
@given(data=st.data())
def test_what_is_written_is_read_again(suffix, data):
    cues = data.draw(cue_lists(suffix, worded=False))
    text = write_cues(cues, suffix)
    again = read_cues(text.encode(), f"cues.{suffix}")
    assert _rounded(again.found) == _rounded(cues) and again.found.language == cues.language
    assert write_cues(again.found, suffix) == text


@pytest.mark.parametrize("suffix", WORDED)
@settings(max_examples=60, deadline=None)
@given(data=st.data())
def test_word_times_are_read_again(suffix, data):
    cues = data.draw(cue_lists(suffix, worded=True))
    text = write_cues(cues, suffix)
    again = read_cues(text.encode(), f"cues.{suffix}")
    if suffix == "vtt":
        # A cue that is one word has no tag inside of it: the standard allows none at its begin.
        cues = CueList(tuple(replace(cue, words=()) if _filled(cue) else cue for cue in cues.cues), cues.language)
    assert _rounded(again.found) == _rounded(cues)
    assert write_cues(again.found, suffix) == text


@pytest.mark.parametrize("suffix", TIMED)
@settings(max_examples=80, deadline=None)
@given(noise=st.text(max_size=300) | st.text(st.sampled_from('[]<>{}0123:.,->\n WEBVTT\\kN/tp="'), max_size=400))
def test_noise_gives_cues_or_a_sentence(suffix, noise):
    heads = {"vtt": "WEBVTT\n\n", "ass": "[Events]\nFormat: Start, End, Text\nDialogue: ", "ttml": "<tt><body>"}
    with contextlib.suppress(CueError):
        found = read_cues((heads.get(suffix, "") + noise).encode("utf-8", "replace"), f"x.{suffix}")
        assert all(cue.end_s > cue.start_s >= 0 and cue.text for cue in found.found.cues)


def test_faults_of_a_subrip_file_are_repaired_and_told():
    text = (
        "﻿2\r\n00:00:05,000 --> 00:00:07,500\r\n<i>Fog</i> is expected\r\nafter midnight.\r\n"
        "1\r\n00:00:01,000 --> 00:00:03.000\r\nThe night ferry\r\n\r\n\r\n"
        "3\r\n00:00:09,000 --> 00:00:08,000\r\nBackwards\r\n\r\n4\r\n00:xx:09,000 --> 00:00:08,000\r\nLost\r\n"
    )
    read = read_cues(text.encode("utf-8"), "notice.srt")
    assert [(cue.start_s, cue.end_s, cue.text.split("\n")[0]) for cue in read.found.cues] == [
        (1.0, 3.0, "The night ferry"),
        (5.0, 7.5, "Fog is expected"),
        (9.0, 11.0, "Backwards"),
    ]
    told = " ".join(read.repairs)
    for word in ("no empty line", "styles", "not in order", "ended before it began"):
        assert word in told, word


def test_subrip_agrees_with_another_reader():
    text = "".join(
        f"{n}\n00:{n // 60:02d}:{n % 60:02d},{n % 1000:03d} --> 00:{n // 60:02d}:{n % 60:02d},{n % 1000 + 500:03d}\n"
        f"Line {n}\nof two\n\n"
        for n in range(1, 400)
    )
    ours = read_cues(text.encode(), "x.srt").found.cues
    theirs = pysubs2.SSAFile.from_string(text, format_="srt").events
    assert [(round(cue.start_s * 1000), round(cue.end_s * 1000), cue.text) for cue in ours] == [
        (event.start, event.end, event.text.replace("\\N", "\n")) for event in theirs
    ]


def test_webvtt_blocks_settings_spans_and_escapes():
    text = (
        "WEBVTT - made by hand\nLanguage: en\n\nSTYLE\n::cue { color: red }\n\nREGION\nid:one\n\nNOTE a note\nof two lines\n\n"
        "intro\n00:01.000 --> 00:02.500 line:0 align:start\n<v.loud Harbour &amp; office>Tide &lt; 2&nbsp;m</v>\n\n"
        "00:03.000 --> 01:00:04.000\n<c.yellow>The <00:03.500>night <00:04.000><b>ferry</b></c>\n00:00:09.000 --> 00:00:10.000\nNext\n"
    )
    read = read_cues(text.encode(), "x.vtt")
    first, second, third = read.found.cues
    assert read.found.language == "en"
    assert (first.start_s, first.end_s, first.text, first.speaker) == (1.0, 2.5, "Tide < 2\u00a0m", "Harbour & office")
    assert second.text == "The night ferry" and [word.start_s for word in second.words] == [3.0, 3.5, 4.0]
    assert third.text == "Next"
    told = " ".join(read.repairs)
    assert "settings" in told and "STYLE" in told and "REGION" in told and "empty line" in told


def test_lrc_offset_repeats_and_word_times():
    text = (
        "[ti:Paper Lighthouse]\n[offset:+250]\n[00:10.00][00:30.00]Again\n[00:12.50]<00:12.50>Slow <00:13.25>water\n"
        "[00:15.00]\nno time\n"
    )
    read = read_cues(text.encode(), "x.lrc")
    assert [(cue.start_s, cue.end_s, cue.text) for cue in read.found.cues] == [
        (9.75, 12.25, "Again"),
        (12.25, 14.75, "Slow water"),
        (29.75, 34.75, "Again"),
    ]
    assert [round(word.start_s, 3) for word in read.found.cues[1].words] == [12.25, 13.0]
    assert any("offset" in line for line in read.repairs) and any("last line" in line for line in read.repairs)


def test_ttml_times_nest_and_frames_count():
    text = (
        '<?xml version="1.0"?><tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter"'
        ' xmlns:ttm="http://www.w3.org/ns/ttml#metadata" ttp:frameRate="24" ttp:frameRateMultiplier="1000 1001"'
        ' xml:lang="en"><head><metadata><ttm:agent xml:id="a"><ttm:name type="full">Harbour office</ttm:name>'
        '</ttm:agent></metadata></head><body><div begin="10s"><p begin="00:00:01:12" dur="2s" ttm:agent="a">'
        'Fog is <br/> <span begin="0.5s" end="0.9s">expected</span></p><p>Never</p></div></body></tt>'
    )
    read = read_cues(text.encode(), "x.ttml")
    (cue,) = read.found.cues
    assert cue.start_s == pytest.approx(11 + 12 * 1001 / 24000) and cue.end_s == pytest.approx(cue.start_s + 2)
    assert cue.text == "Fog is\nexpected" and cue.speaker == "Harbour office"
    assert cue.words[-1].text == "expected" and cue.words[-1].start_s == pytest.approx(cue.start_s + 0.5)
    assert any("no times" in line for line in read.repairs)


def test_ass_karaoke_and_styles():
    file = pysubs2.SSAFile()
    file.append(pysubs2.SSAEvent(start=1000, end=3000, text=r"{\an8}{\k50}Slow {\k25}water{\k25}\Nfar out", name="Kai"))
    file.append(pysubs2.SSAEvent(start=4000, end=5000, text=r"{\p1}m 0 0 l 1 1{\p0}"))
    read = read_cues(file.to_string("ass").encode(), "x.ass")
    (cue,) = read.found.cues
    assert cue.text == "Slow water\nfar out" and cue.speaker == "Kai"
    assert [(round(word.start_s, 2), word.text) for word in cue.words][:2] == [(1.0, "Slow"), (1.5, "water")]
    assert any("styles" in line for line in read.repairs) and any("drawing" in line for line in read.repairs)


@pytest.mark.parametrize("encoding", ["utf-8-sig", "utf-16", "cp1252", "utf-16-be"])
def test_encodings_are_found(encoding):
    line = "Grüße aus Lantern Quay, schöne Überfahrt über das weiße Wasser für alle"
    text = "".join(f"{n}\n00:00:{n:02d},000 --> 00:00:{n:02d},900\n{line}\n\n" for n in range(1, 30))
    data = b"\xfe\xff" * (encoding == "utf-16-be") + text.encode(encoding)
    assert read_cues(data, "x.srt").found.cues[3].text == line


def test_many_cues_long_words_and_files_that_are_something_else():
    many = "".join(
        f"{n}\n{n // 3600:02d}:{n // 60 % 60:02d}:{n % 60:02d},000 --> {n // 3600:02d}:{n // 60 % 60:02d}:{n % 60:02d},500\nx\n\n"
        for n in range(10_000)
    )
    assert len(read_cues(many.encode(), "x.srt").found.cues) == 10_000
    assert read_cues(f"1\n00:00:01,000 --> 00:00:02,000\n{'w' * 200}\n".encode(), "x").found.cues[0].text == "w" * 200
    for data in (b"\x89PNG\r\n\x1a\n" + bytes(50), b"", b"just words", b"{}", bytes(9 << 20), b"<tt><!DOCTYPE x></tt>"):
        with pytest.raises(CueError):
            read_cues(data, "x.srt")
    deep = "<tt>" + "<body>" + "<div>" * 90 + "</div>" * 90 + "</body></tt>"
    with pytest.raises(CueError, match="deep"):
        read_cues(deep.encode(), "x.ttml")


def test_json_keeps_all_that_a_cue_has():
    cue = Cue(1.0, 2.0, "Slow water", "Kai", (Word(1.0, 1.4, "Slow", 0.5), Word(1.5, 2.0, "water", 0.913)))
    text = write_cues(CueList((cue,), "en"), "json")
    assert json.loads(text)["cues"][0]["words"][1] == {
        "start_s": 1.5,
        "end_s": 2.0,
        "text": "water",
        "confidence": 0.913,
    }
    assert read_cues(text.encode(), "x.json").found == CueList((cue,), "en")


def test_what_a_format_can_not_hold_is_told_and_names_may_stand_before_the_words():
    words = (Word(1.0, 1.4, "Fog"), Word(1.5, 1.9, "comes"))
    cues = CueList((Cue(1.0, 2.0, "Fog\ncomes", "Harbour office", words),), "en")
    told = {suffix: " ".join(form.left_out(cues)) for suffix, form in CUE_FORMATS.items()}
    assert "speakers" in told["srt"] and "words" in told["srt"] and "lines" not in told["srt"]
    assert "speakers" in told["lrc"] and "lines are joined" in told["lrc"] and "times" in told["txt"]
    assert all(not told[suffix] for suffix in ("vtt", "ass", "ttml", "json"))
    assert "Harbour office: Fog" in write_cues(cues, "srt", named=True)
    assert "Harbour office:" not in write_cues(cues, "srt")
    # A format that says who speaks does not say it twice; word times survive the name before them.
    assert write_cues(cues, "vtt", named=True) == write_cues(cues, "vtt")
    again = read_cues(write_cues(cues, "lrc", named=True).encode(), "x.lrc").found.cues[0]
    assert again.text == "Harbour office: Fog comes" and again.words[-1].start_s == pytest.approx(1.5)


@pytest.mark.parametrize("text", [r"a \N b", "{x}", r"\{y\}", r"C:\new\hot", "{\\k10}x", "\\"])
def test_braces_and_backslashes_survive_ass(text):
    cues = CueList((Cue(1.0, 2.0, text),))
    assert read_cues(write_cues(cues, "ass").encode(), "x.ass").found.cues[0].text == text


def test_ttml_with_numbers_beyond_all_use_is_read_or_told():
    for times in ('begin="1s"', f'begin="{"9" * 5000}s"', f'begin="00:00:00:{"9" * 5000}"', 'begin="²s"'):
        for head in ("", ' ttp:frameRate="²"', f' ttp:tickRate="{"1" * 5000}"', ' ttp:frameRateMultiplier="² 0"'):
            space = 'xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter"'
            text = f'<tt {space}{head}><body><p {times} end="2s">a</p></body></tt>'
            with contextlib.suppress(CueError):
                assert read_cues(text.encode(), "x.ttml").found.cues


def test_a_cue_that_ends_before_it_begins_ends_with_the_next_one_in_time():
    """The nearest later cue, wherever in the file it stands; and a file of such cues costs by its length."""
    text = "1\n00:00:10,000 --> 00:00:09,000\nLast\n\n2\n00:00:01,000 --> 00:00:00,000\nFirst\n\n"
    text += "3\n00:00:02,000 --> 00:00:02,500\nSecond\n"
    cues = read_cues(text.encode(), "x.srt").found.cues
    assert [(cue.start_s, cue.end_s) for cue in cues] == [(1.0, 2.0), (2.0, 2.5), (10.0, 12.0)]
    many = "".join(f"{n}\n00:00:{n % 60:02d},000 --> 00:00:00,000\nx\n\n" for n in range(1, 20_000))
    assert len(read_cues(many.encode(), "x.srt").found.cues) > 19_000
