"""Words find their times: against speech whose word times are known."""

from __future__ import annotations

import numpy as np
import pytest

from tests.words.speech import speak
from velvetdrum.words.alignment.aligner import align
from velvetdrum.words.alignment.pronunciation import phones_of_ipa, spelled, spoken
from velvetdrum.words.cues import CueError
from velvetdrum.words.untimed import guessed_lines

TEXT = (
    "The night ferry leaves the east pier at ten past nine this evening. Fog is expected after midnight. Small boats "
    "keep their lamps lit and stay close to the shore. The harbour office asks every captain to report before leaving. "
    "Somebody has left a paper lighthouse on the breakwater and it is still burning."
)
OTHER = (
    "The committee voted on Tuesday to increase funding for several new public libraries across the region. Officials "
    "said that work would begin next summer, and that residents could expect longer opening hours."
)


def soft_music(pcm: np.ndarray, level_db: float) -> np.ndarray:
    """The speech with a chord and a pulse under it, at a level below its own."""
    times = np.arange(pcm.shape[1]) / 48_000
    chord = sum(np.sin(2 * np.pi * hz * times) for hz in (110, 165, 220, 277, 330))
    music = chord + 2 * np.sin(2 * np.pi * 55 * times) * (times * 2 % 1 < 0.2)
    loud = np.sqrt(np.mean(pcm.astype(float) ** 2)) * 10 ** (level_db / 20)
    return np.clip(pcm + music * loud / np.sqrt(np.mean(music**2)), -32768, 32767).astype(np.int16)


@pytest.mark.parametrize(("voice", "music"), [("en-us", False), ("en-us+f3", True), ("en-gb-scotland", False)])
def test_words_are_found_where_they_are_said(voice, music):
    speech = speak(TEXT, voice)
    pcm = soft_music(speech.pcm, -20.0) if music else speech.pcm
    found = align(pcm, TEXT).tokens
    late = np.array(
        [abs(found[place].word.start_s - at) for place, at in speech.starts.items() if found[place].word is not None]
    )
    assert len(late) >= 0.98 * len(speech.starts) and len(speech.starts) > 50
    assert np.median(late) <= 0.040
    assert np.percentile(late, 95) <= 0.150
    assert all(item.word.start_s <= item.word.end_s for item in found if item.word)


def test_a_text_that_is_not_said_is_refused():
    with pytest.raises(CueError, match="do not sound like"):
        align(speak(TEXT, "en-us").pcm, OTHER)


def test_music_before_the_words_is_left_open():
    pcm = speak(TEXT, "en-us").pcm
    times = np.arange(9 * 48_000) / 48_000
    beat = 0.5 + 0.5 * np.sign(np.sin(4 * np.pi * times))
    music = (4000 * beat * sum(np.sin(2 * np.pi * hz * times) for hz in (220, 277, 330))).astype(np.int16)
    found = align(np.concatenate([music[None], pcm], axis=1), TEXT)
    first = found.tokens[0].word
    assert first and first.start_s == pytest.approx(9.0, abs=0.25)
    assert found.open and found.open[0][0] == 0.0 and found.open[0][1] > 5


def test_words_that_are_not_said_stay_without_a_time_and_the_rest_is_found():
    speech = speak(TEXT, "en-us")
    extra = "Nobody announced anything about bicycles yesterday morning. "
    places = TEXT.index("Somebody")
    tokens = align(speech.pcm, TEXT[:places] + extra + TEXT[places:]).tokens
    begin = len(TEXT[:places].split())
    lost = [item.word is None or item.word.confidence < 0.5 for item in tokens[begin : begin + 7]]
    after = [item.word for item in tokens[begin + 7 :]]
    assert sum(lost) >= 5
    assert sum(word is not None for word in after) >= 10


def test_words_of_no_dictionary_and_of_other_languages_get_phones():
    assert spelled("“Lantern-Quay’s”,") == ("lantern", "quay's") and spelled("—") == ()
    assert phones_of_ipa("kwˈeɪnʃ") == "K W EY N SH"
    (zorblax,) = spoken(("zorblax",), "en")
    assert zorblax.startswith("Z AO R B") and set(zorblax.split()) <= {"Z", "AO", "R", "B", "L", "AH", "AE", "K", "S"}
    assert spoken(("hafen",), "de")[0].split()[0] == "HH"
    with pytest.raises(CueError, match="rules of spelling"):
        spoken(("x",), "tlh")


def test_german_is_aligned_roughly():
    text = "Die letzte Fähre fährt heute Abend um zehn nach neun vom Ostpier ab. Nach Mitternacht wird Nebel erwartet."
    speech = speak(text, "de")
    found = align(speech.pcm, text, language="de")
    late = [abs(found.tokens[n].word.start_s - at) for n, at in speech.starts.items() if found.tokens[n].word]
    assert found.rough and len(late) > 12 and np.median(late) < 0.1
    assert max(word.confidence for word in found.found) <= 0.8


def test_nothing_to_align_is_said():
    pcm = speak(TEXT, "en-us").pcm
    for text in ("", " — ! "):
        with pytest.raises(CueError, match="no words"):
            align(pcm, text)
    with pytest.raises(CueError, match="no sound"):
        align(np.zeros((1, 48_000), np.int16), "hello there")


def test_progress_is_told_and_can_end_the_work():
    told = []

    def progress(share: float) -> None:
        told.append(share)
        if share > 0.2:
            raise InterruptedError

    with pytest.raises(InterruptedError):
        align(speak(TEXT, "en-us").pcm, TEXT, progress=progress)
    assert told == sorted(told) and len(told) >= 2


def test_lines_are_guessed_from_pauses():
    speech = speak(TEXT, "en-us")
    cues = guessed_lines(speech.pcm, 0.0, speech.pcm.shape[1] / 48_000)
    sentences = [n for n, word in enumerate(TEXT.split()) if n == 0 or TEXT.split()[n - 1].endswith(".")]
    begins = [speech.starts[n] for n in sentences]
    assert all(min(abs(cue.start_s - at) for cue in cues) < 0.15 for at in begins)
    assert all(not cue.text and cue.end_s - cue.start_s < 8 for cue in cues)


FRENCH = (
    "Le ferry de nuit quitte le quai est à neuf heures dix. On attend du brouillard après minuit. Quelqu'un a laissé un "
    "phare en papier sur la jetée."
)
SPANISH = (
    "El barco de la noche sale del muelle este a las nueve y diez. Se espera niebla después de medianoche. Alguien ha "
    "dejado un faro de papel en el muelle."
)


@pytest.mark.parametrize(
    ("text", "language", "voice", "speed", "pitch", "level_db"),
    [
        (TEXT, "en", "en-us", 190, 70, None),
        (TEXT, "en", "en-us", 150, 45, -6.0),
        (FRENCH, "fr", "roa/fr", 150, 45, None),
        (SPANISH, "es", "roa/es", 150, 45, None),
    ],
)
def test_words_are_found_at_other_speeds_in_music_and_in_other_languages(text, language, voice, speed, pitch, level_db):
    """None is left open, those that are sure are right, and those that are wrong are marked."""
    speech = speak(text, voice, speed, pitch)
    pcm = speech.pcm if level_db is None else soft_music(speech.pcm, level_db)
    tokens = align(pcm, text, language=language).tokens
    rows = [(tokens[n].word, at) for n, at in speech.starts.items()]
    lost = sum(word is None for word, _ in rows)
    assert lost <= 0.02 * len(rows)
    sure = [abs(word.start_s - at) for word, at in rows if word and word.confidence > 0.8]
    assert sum(late <= 0.15 for late in sure) >= 0.98 * len(sure)
    wrong = [word.confidence for word, at in rows if word and abs(word.start_s - at) > 0.25]
    assert sum(confidence <= 0.8 for confidence in wrong) >= 0.8 * len(wrong)
