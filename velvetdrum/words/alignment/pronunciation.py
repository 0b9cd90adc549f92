"""How words sound, in the 39 phones of the acoustic model: from its dictionary, and where that has none, from spelling.

Spelling is turned into IPA by the rules of a language, and IPA into the phones that lie nearest in English. For other
languages this is rough, and so are the times that come of it.
"""

from __future__ import annotations

import logging
import re
import threading
import unicodedata
from collections.abc import Iterable
from functools import cache
from typing import Any

from velvetdrum.limits.cache import cached
from velvetdrum.words.cues import CueError

ENGLISH = "en-us"
LANGUAGES = {
    "en": ENGLISH,
    "de": "de",
    "fr": "fr-fr",
    "es": "es",
    "it": "it",
    "pt": "pt",
    "nl": "nl",
    "sv": "sv",
    "da": "da",
    "nb": "nb",
    "fi": "fi",
    "pl": "pl",
    "cs": "cs",
    "el": "el",
    "ru": "ru",
    "uk": "uk",
    "tr": "tr",
    "ja": "ja",
}
"""Languages by their BCP 47 code, with the name of the rules for each. All but English are rough."""

LANGUAGE_NAMES = {
    "en": "English",
    "de": "German",
    "fr": "French",
    "es": "Spanish",
    "it": "Italian",
    "pt": "Portuguese",
    "nl": "Dutch",
    "sv": "Swedish",
    "da": "Danish",
    "nb": "Norwegian",
    "fi": "Finnish",
    "pl": "Polish",
    "cs": "Czech",
    "el": "Greek",
    "ru": "Russian",
    "uk": "Ukrainian",
    "tr": "Turkish",
    "ja": "Japanese",
}
"""The same languages as people call them."""

LONGEST_WORD = 60
"""Characters of a word that are turned into phones."""

_NEAREST = {
    # vowels
    "aɪ": "AY", "aʊ": "AW", "ɔɪ": "OY", "eɪ": "EY", "oʊ": "OW", "əʊ": "OW", "ɪə": "IH R", "eə": "EH R", "ʊə": "UH R",
    "ɔø": "OY", "ɔʏ": "OY", "iː": "IY", "uː": "UW", "ɑː": "AA", "ɔː": "AO", "ɜː": "ER", "ɚ": "ER", "ɝ": "ER",
    "i": "IY", "ɪ": "IH", "e": "EY", "ɛ": "EH", "æ": "AE", "a": "AA", "ɑ": "AA", "ɒ": "AA", "ɔ": "AO", "o": "OW",
    "u": "UW", "ʊ": "UH", "ʌ": "AH", "ə": "AH", "ɐ": "AH", "ɜ": "ER", "y": "UW", "ʏ": "UH", "ø": "ER", "œ": "ER",
    "ɨ": "IH", "ɯ": "UH", "ɤ": "AH", "ɵ": "UH", "ʉ": "UW", "ᵻ": "IH",
    # consonants
    "tʃ": "CH", "dʒ": "JH", "ts": "T S", "dz": "D Z", "pf": "P F",
    "p": "P", "b": "B", "t": "T", "d": "D", "k": "K", "g": "G", "ɡ": "G", "q": "K", "c": "K", "ɟ": "G", "ʔ": "",
    "m": "M", "n": "N", "ŋ": "NG", "ɲ": "N Y", "ɳ": "N", "ɱ": "M",
    "f": "F", "v": "V", "θ": "TH", "ð": "DH", "s": "S", "z": "Z", "ʃ": "SH", "ʒ": "ZH", "ç": "HH", "x": "HH",
    "ɕ": "SH", "ʑ": "ZH", "ʂ": "SH", "ʐ": "ZH", "h": "HH", "ɦ": "HH", "ɣ": "G", "χ": "HH", "β": "V", "ɸ": "F",
    "r": "R", "ɹ": "R", "ɾ": "D", "ʁ": "R", "ʀ": "R", "ɻ": "R", "ɽ": "R", "l": "L", "ɫ": "L", "ʎ": "L Y", "ɭ": "L",
    "j": "Y", "w": "W", "ʋ": "V", "ɥ": "W",
}  # fmt: skip
_LONGEST = max(len(sign) for sign in _NEAREST)
_QUIET = {"ˈ", "ˌ", "ː", "ˑ", "̃", "̩", "̯", "ʲ", "ʰ", "ʷ", "‿", ".", "-"}
_BARE = re.compile(r"[^\w']+", re.UNICODE)


def spelled(token: str) -> tuple[str, ...]:
    """The parts of a token as a dictionary has them: lower case, without marks; empty where nothing is spoken.

    Parameters
    ----------
    token
        A word as it is written.
    """
    plain = unicodedata.normalize("NFKC", token).lower().replace("’", "'").replace("_", " ")
    parts = (part.strip("'") for part in _BARE.sub(" ", plain).split())
    return tuple(part[:LONGEST_WORD] for part in parts if part)


def phones_of_ipa(ipa: str) -> str:
    """The model's phones nearest to a text in IPA, parted by spaces.

    Parameters
    ----------
    ipa
        Sounds in the International Phonetic Alphabet.
    """
    text = unicodedata.normalize("NFD", ipa).replace("ç", "ç")
    out, at = [], 0
    while at < len(text):
        for length in range(_LONGEST, 0, -1):
            piece = text[at : at + length]
            if piece in _NEAREST:
                out.append(_NEAREST[piece])
                at += len(piece)
                break
        else:
            at += 1  # marks of stress and length, and what has no phone
    return " ".join(phone for phone in out if phone)


@cached
def spoken(words: tuple[str, ...], language: str) -> tuple[str, ...]:
    """Phones of words by the spelling of a language, one text each.

    Parameters
    ----------
    words
        Words of the text.
    language
        A language as BCP 47 has it.

    Raises
    ------
    CueError
        For a language without rules.
    """
    rules = LANGUAGES.get(language.split("-")[0].lower())
    if rules is None:
        raise CueError(
            f"There are no rules of spelling for the language {language[:20]}; there are some for "
            f"{', '.join(sorted(LANGUAGE_NAMES.values()))}. Tap the words along instead."
        )
    with _LOCK:
        result = _backend(rules).phonemize(list(words), strip=True)
    return tuple(phones_of_ipa(re.sub(r"\([a-z-]+\)", "", ipa)) for ipa in result)


_LOCK = threading.Lock()


@cache
def _backend(rules: str) -> Any:
    import espeakng_loader
    from phonemizer.backend import EspeakBackend
    from phonemizer.backend.espeak.wrapper import EspeakWrapper

    EspeakWrapper.set_library(espeakng_loader.get_library_path())
    EspeakWrapper.set_data_path(espeakng_loader.get_data_path())
    quiet = logging.getLogger("velvetdrum.words.phonemizer")
    quiet.addHandler(logging.NullHandler())
    quiet.propagate = False
    return EspeakBackend(rules, with_stress=False, preserve_punctuation=False, logger=quiet)


def distinct(words: Iterable[str]) -> tuple[str, ...]:
    """Each word once, in the order in which they come.

    Parameters
    ----------
    words
        Words of the text.
    """
    return tuple(dict.fromkeys(words))
