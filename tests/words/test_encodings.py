"""The encoding of files of words that say nothing of it: 280 of them in 22 languages."""

import pytest

from tests.words.tongues import SENTENCES, files, srt
from velvetdrum.words.cue_files import read_cues, read_text
from velvetdrum.words.cues import CueError
from velvetdrum.words.encodings import guesses

FILES = files()


def misread(item, language=""):
    _, _, text, data = item
    return read_text(data, [], language=language) != text


def test_at_most_three_of_all_files_are_misread_and_those_are_asked_about():
    wrong = [item for item in FILES if misread(item)]
    assert len(FILES) > 250 and len(wrong) <= 3
    for _, _, text, data in wrong:
        readings = read_cues(data, "x.srt").readings
        assert any(data.decode(reading.encoding) == text for reading in readings)


def test_the_language_of_the_project_helps():
    assert sum(misread(item, item[0]) for item in FILES) <= sum(misread(item) for item in FILES)


def test_two_lines_in_latin_1_stay_french():
    """Two letters tell little: what is likelier is taken, and the other way to read them is offered."""
    data = srt(["Un café crème"]).encode("latin-1")
    assert "café crème" in read_text(data, [])
    assert [reading.line for reading in read_cues(data, "menu.srt").readings] == ["Un café crème", "Un café crčme"]
    assert not read_cues(data, "menu.srt", language="fr").readings


def test_what_is_in_doubt_is_offered_with_the_line_that_tells():
    data = srt(["Båten går från hamnen klockan åtta."]).encode("mac_roman")
    read = read_cues(data, "boat.srt")
    assert len(read.readings) > 1 and "Båten går" in {reading.line[:9] for reading in read.readings}
    chosen = read_cues(data, "boat.srt", encoding="mac_roman")
    assert chosen.found.cues[0].text.startswith("Båten går från") and not chosen.readings and not chosen.repairs
    with pytest.raises(CueError, match="encoding"):
        read_cues(data, "boat.srt", encoding="rot13")


@pytest.mark.parametrize("encoding", ["utf-16-le", "utf-16-be", "utf-32-le", "utf-32-be"])
@pytest.mark.parametrize("language", ["fr", "ru", "ja"])
def test_wide_text_without_a_mark_is_read(encoding, language):
    text = srt(list(SENTENCES[language]))
    assert read_text(text.encode(encoding), []) == text


@pytest.mark.parametrize("data", [b"", b"\xff", b"\x80" * 400, bytes(range(256)) * 8, b"\x1b$" * 99, b"a\0b\0" * 99])
def test_anything_gets_a_guess(data):
    assert guesses(data)[0].title
