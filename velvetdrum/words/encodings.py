"""The encoding of a text that says nothing of it: every one that it may be in is tried, and the letters weighed.

A text in the right encoding has the letters of a language, about as often as that language has them, in words of one
script, capitals at their beginning. Each encoding is weighed with each of the languages that are written in it: the
logarithm of how likely its letters beyond ASCII are, less what stands where none should. What editors mostly write, and
the language of the project, weigh a little; they decide where a text has only a few such letters.
"""

from __future__ import annotations

import math
import unicodedata
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

_SAMPLE = 64 << 10
"""Bytes that are weighed."""
_NEAR = 3.0
"""Two guesses whose weights, in nats, differ by less are both shown."""
_MOST_WEIGHED = 400
"""Letters beyond ASCII that are weighed: more of them tell nothing new."""
_OWN_LANGUAGE = 4.0

# Per mille of all letters, of those beyond ASCII.
_LATIN: Mapping[str, str] = {
    "de": "ü6.5 ä5.4 ß3.1 ö3",
    "fr": "é19 à5 è2.7 ê2.2 ç0.9 ù0.6 û0.6 î0.5 ô0.4 â0.5 ë0.1 ï0.1 œ0.2",
    "es": "ó8.3 í7.3 á5 é4.3 ñ3.1 ú1.7 ü0.1 ¿2 ¡1",
    "pt": "ã7.3 ç5.3 ê4.5 é3.4 ó3 á1.2 í1.3 à0.7 â0.6 ô0.6 ú0.6 õ0.5",
    "it": "à6.4 è2.6 ù1.7 ì0.3 ò0.3 é0.3",
    "nl": "é0.4 ë0.6 ï0.3 ö0.1 è0.1",
    "sv": "ä18 å13 ö13 é0.4",
    "da": "å12 ø9.4 æ9 é0.3",
    "fi": "ä36 ö4.4 å0.1",
    "is": "ð44 á18 í16 þ15 ó10 ö8 æ9 ú6 é6 ý2",
    "pl": "ł18 ę11 ą10 ó8.5 ż8.3 ś6.6 ć4 ń2 ź0.6",
    "cs": "í16 ě12 ý10 á9 ž7 š7 é6.3 č4.6 ř3.8 ů2 ú1 ň0.2 ó0.3 ť0.2 ď0.2",
    "sk": "á15 í10 ý8 é8 č6 ž6 š5 ť5 ľ4 ú4 ó1 ä1 ô1.5 ň1 ď1 ŕ0.1 ĺ0.1",
    "hu": "é39 á36 ő8.8 ó8.2 ö8 ü6.2 í4.7 ú2.2 ű1.5",
    "ro": "ă41 î15 ş15 ș15 ţ10 ț10 â9",
    "tr": "ı51 ü19 ş18 ç11.6 ğ11 ö8 i̇1 â0.3",
    "hr": "č12 š9 ž5.5 ć6 đ2",
    "lt": "ė16 š12 ų13 ž8 ą7 į6 č4 ū5 ę2",
    "lv": "ā37 ī18 ē18 š8 ū6 ņ6 ļ3 ž2 č1 ķ1 ģ1",
}
# By how often they come, the most frequent letter first.
_OTHERS: Mapping[str, str] = {
    "ru": "оеаинтсрвлкмдпуяыьгзбчйхжшюцщэфъё",
    "uk": "оаниівертслкдумпзяьбгчхцжшюйєїщфґ'",
    "bg": "аионетрсвлкдпмзъугячбщцжхшйюфь",
    "sr": "аоиенрстјувкдпмлзбгчшцхжљњћђфџ",
    "el": "αοιετσνηυρπκμλςόάίέδωγήχθφβξύώζψϊΐ",
    "he": "יוהלאמתרשבנדםקחפעטכגזסצןךףץ",
    "ar": "اليمنتروعبدسفكهقحجشصطخضذثزغظءةىأإآئؤ",
}
_BY_ENCODING: Mapping[str, tuple[float, str]] = {
    "cp1252": (0.0, "de fr es pt it nl sv da fi is"),
    "mac_roman": (-5.0, "de fr es pt it nl sv da fi is"),
    "cp850": (-6.0, "de fr es pt it nl sv da fi is"),
    "cp1250": (-1.0, "pl cs sk hu ro hr de"),
    "iso8859_2": (-2.0, "pl cs sk hu ro hr de"),
    "cp852": (-5.0, "pl cs sk hu ro hr"),
    "cp1254": (-1.0, "tr"),
    "cp1257": (-2.0, "lt lv"),
    "cp1251": (-1.0, "ru uk bg sr"),
    "koi8_u": (-2.0, "ru uk bg"),
    "iso8859_5": (-4.0, "ru bg sr"),
    "cp866": (-4.0, "ru bg"),
    "mac_cyrillic": (-5.0, "ru uk bg"),
    "cp1253": (-1.0, "el"),
    "iso8859_7": (-2.0, "el"),
    "cp1255": (-1.0, "he"),
    "iso8859_8": (-3.0, "he"),
    "cp1256": (-1.0, "ar"),
    "iso8859_6": (-3.0, "ar"),
    "cp932": (-1.0, "ja"),
    "euc_jp": (-1.5, "ja"),
    "gb18030": (-1.0, "zh"),
    "big5": (-1.5, "zh"),
    "cp949": (-1.0, "ko"),
}
"""How much less it is written than the first, in nats, and what is written in it."""

_FREQUENT = {
    "ko": frozenset(
        "이다는을의에가하고지로기리도사한어나시자은서그라아들를대인부수정스보해있전일상여"
        "원주구제과장게소성동안비만데신면진치조마"
    ),
    "zh": frozenset(
        "的一是不了在人有我他这這个個们們中来來上大为為和国國地到以说說时時要就出会會可也你对對"
        "生能而子那得于於着下自之年过過发發后後作里裡用道行所然家种種事成方多经經么麼去法学學"
        "如都同现現当當没沒动動面起看定天分还還进進好小部其些主样樣理心她本前开開但因只从從想实實"
    ),
}
"""Signs that every text has."""

_TITLES = {
    "utf-8": "UTF-8",
    "cp1252": "Western European (Windows-1252)",
    "mac_roman": "Western European (Mac Roman)",
    "cp850": "Western European (DOS 850)",
    "cp1250": "Central European (Windows-1250)",
    "iso8859_2": "Central European (ISO 8859-2)",
    "cp852": "Central European (DOS 852)",
    "cp1254": "Turkish (Windows-1254)",
    "cp1257": "Baltic (Windows-1257)",
    "cp1251": "Cyrillic (Windows-1251)",
    "koi8_u": "Cyrillic (KOI8)",
    "iso8859_5": "Cyrillic (ISO 8859-5)",
    "cp866": "Cyrillic (DOS 866)",
    "mac_cyrillic": "Cyrillic (Mac)",
    "cp1253": "Greek (Windows-1253)",
    "iso8859_7": "Greek (ISO 8859-7)",
    "cp1255": "Hebrew (Windows-1255)",
    "iso8859_8": "Hebrew (ISO 8859-8)",
    "cp1256": "Arabic (Windows-1256)",
    "iso8859_6": "Arabic (ISO 8859-6)",
    "cp932": "Japanese (Shift JIS)",
    "euc_jp": "Japanese (EUC-JP)",
    "iso2022_jp": "Japanese (ISO 2022)",
    "gb18030": "Chinese (GB 18030)",
    "big5": "Chinese (Big5)",
    "cp949": "Korean (EUC-KR)",
    "utf-16-le": "UTF-16",
    "utf-16-be": "UTF-16",
    "utf-32-le": "UTF-32",
    "utf-32-be": "UTF-32",
}
_IN_WORDS = frozenset("'’-·ʼ\u00ad\u200c\u200d")
_USUAL_MARKS = frozenset("«»“”„‘’‚‹›–—…¿¡·•°№€£©®™♪♫\u00a0、。「」『』！？・，：；（）ー〜～")

_UNKNOWN, _SYMBOL, _CONTROL, _MARK = -9.0, -8.0, -14.0, -4.0
_CAPITAL_INSIDE, _TWO_SCRIPTS, _SYMBOL_INSIDE = -5.0, -6.0, -5.0
_FREQUENT_SIGN, _COMMON_SIGN, _RARE_SIGN, _KANA = -5.0, -7.6, -12.0, -4.2


@dataclass(frozen=True)
class Guess:
    """An encoding that a text may be in, by the name that Python knows, and how likely that is, in nats."""

    encoding: str
    weight: float

    @property
    def title(self) -> str:
        """As people know it."""
        return _TITLES.get(self.encoding, self.encoding)


def is_known(encoding: str) -> bool:
    """True for an encoding that texts can be read in.

    Parameters
    ----------
    encoding
        Name of an encoding, as Python has it.
    """
    return encoding in _TITLES


def guesses(data: bytes, language: str = "") -> list[Guess]:
    """Encodings that a text without a mark may be in, the likeliest first; others only where they are near it.
    `language` (BCP 47) is what it is probably written in.

    Parameters
    ----------
    data
        The bytes of a file.
    language
        A language as BCP 47 has it.
    """
    certain = _wide(data) or ("iso2022_jp" if _escapes(data) else "")
    if certain:
        return [Guess(certain, 0.0)]
    own = language.lower().split("-")[0]
    result = []
    for encoding, (prior, languages) in _BY_ENCODING.items():
        text = _decoded(data, encoding)
        if text is not None:
            best = max(
                _weight(text, encoding, name) + (_OWN_LANGUAGE if name == own else 0.0) for name in languages.split()
            )
            result.append(Guess(encoding, best + prior))
    if not result:
        return [Guess("cp1252", 0.0)]
    result.sort(key=lambda guess: -guess.weight)
    first, near = result[0], []
    shown = {data[:_SAMPLE].decode(first.encoding, "replace")}
    for guess in result[1:]:
        text = data[:_SAMPLE].decode(guess.encoding, "replace")
        if first.weight - guess.weight < _NEAR and text not in shown:
            near.append(guess)
            shown.add(text)
    return [first, *near[:2]]


def _wide(data: bytes) -> str:
    """UTF-16 or UTF-32 without a mark, by where its zeros are; empty for none."""
    sample = data[:4096]
    if len(sample) < 8:
        return ""
    quarters = [sample[n::4].count(0) / len(sample[n::4]) for n in range(4)]
    if min(quarters[2:]) > 0.95 and quarters[0] < 0.3 and len(data) % 4 == 0:
        return "utf-32-le"
    if min(quarters[:2]) > 0.95 and quarters[3] < 0.3 and len(data) % 4 == 0:
        return "utf-32-be"
    even, odd = (sample[n::2].count(0) / len(sample[n::2]) for n in range(2))
    # Line feeds, digits and spaces are there in every script.
    for zeros, others, encoding in ((odd, even, "utf-16-le"), (even, odd, "utf-16-be")):
        if zeros > 0.1 and others < 0.02 and zeros > 5 * others:
            try:
                data[: len(data) // 2 * 2].decode(encoding)
            except UnicodeDecodeError:
                continue
            return encoding
    return ""


def _escapes(data: bytes) -> bool:
    """True for the seven-bit text of Japanese mail: it says of itself where its signs begin (ISO/IEC 2022)."""
    return b"\x1b$" in data[:_SAMPLE] and b"\x1b(" in data[:_SAMPLE] and _decoded(data, "iso2022_jp") is not None


def _decoded(data: bytes, encoding: str) -> str | None:
    """The beginning of a text; None where it can't be in that encoding."""
    sample = data[:_SAMPLE]
    # A sign may be cut at the end of the sample.
    for cut in range(4 if len(data) > _SAMPLE else 1):
        try:
            return sample[: len(sample) - cut].decode(encoding)
        except UnicodeDecodeError:
            continue
    return None


@cache
def _weights(language: str) -> Mapping[str, float]:
    """Logarithms of how likely the letters of a language are."""
    if language in _LATIN:
        rows = [(row[0] if len(row) < 3 or row[1].isdigit() else row[:2], row) for row in _LATIN[language].split()]
        return {letter: math.log(float(row[len(letter) :]) / 1000) for letter, row in rows}
    return {letter: math.log(0.11) - 0.14 * rank for rank, letter in enumerate(_OTHERS.get(language, ""))}


def _weight(text: str, encoding: str, language: str) -> float:
    """How well the letters of a text beyond ASCII are those of a language, in nats."""
    weights, total, count, kana = _weights(language), 0.0, 0, 0
    ideographs = 0
    for place, sign in enumerate(text):
        if sign < "\x80":
            if sign < " " and sign not in "\t\n\r\f":
                total += _CONTROL
            continue
        count += 1
        if count > _MOST_WEIGHED:
            break
        before, after = text[place - 1 : place], text[place + 1 : place + 2]
        if language in ("ja", "zh", "ko"):
            total += _eastern(sign, encoding, language)
            total += _TWO_SCRIPTS * ((before.isalpha() and before < "\x80") or (after.isalpha() and after < "\x80"))
            kana += "\u3041" <= sign <= "\u30fe"
            ideographs += "\u4e00" <= sign <= "\u9fff"
            continue
        lower = sign.lower()
        if sign in _USUAL_MARKS and lower not in weights:
            total += _MARK
            total += _SYMBOL_INSIDE * (before.isalpha() and after.isalpha() and sign not in _IN_WORDS)
        elif unicodedata.category(sign)[0] in "LM":
            total += weights.get(lower, _UNKNOWN)
            total += _joined(sign, before, after)
        elif unicodedata.category(sign) in ("Cc", "Cn", "Co"):
            total += _CONTROL
        else:
            total += _SYMBOL
            total += _SYMBOL_INSIDE * ((before.isalpha() or after.isalpha()) and sign not in _IN_WORDS)
    if language == "ja" and ideographs > 8 and kana < 0.1 * ideographs:
        total += _RARE_SIGN / 2 * ideographs / 4
    return total


def _joined(sign: str, before: str, after: str) -> float:
    """What a letter beside others costs: a capital within a word, letters of two scripts."""
    cost = 0.0
    if (sign.isupper() and before.islower()) or (sign.islower() and before.isupper() and after.isupper()):
        cost += _CAPITAL_INSIDE
    if before.isalpha() and _is_latin(before) != _is_latin(sign):
        cost += _TWO_SCRIPTS
    return cost


@cache
def _is_latin(sign: str) -> bool:
    return unicodedata.name(sign, "").startswith(("LATIN", "COMBINING"))


def _eastern(sign: str, encoding: str, language: str) -> float:
    """How likely a sign of Japanese, Chinese or Korean is; it takes two bytes, mostly."""
    if sign in _FREQUENT.get(language, ()):
        return _FREQUENT_SIGN
    if "\u3041" <= sign <= "\u30fe":
        return _KANA if language == "ja" else _RARE_SIGN
    if "\uff61" <= sign <= "\uff9f":
        return _UNKNOWN  # halves of katakana: what two bytes of something else look like
    if "\uac00" <= sign <= "\ud7a3":
        return _COMMON_SIGN if language == "ko" else _RARE_SIGN
    if sign in _USUAL_MARKS or "\uff01" <= sign <= "\uff5e" or "\u3000" <= sign <= "\u303f":
        return _MARK
    if "\u4e00" <= sign <= "\u9fff":
        if language == "ko":
            return _RARE_SIGN
        # The first half of each character set, by how often its signs are used.
        head = sign.encode(encoding, "replace")[0]
        common = {"cp932": 0x98, "euc_jp": 0xD0, "gb18030": 0xD8, "big5": 0xC7}.get(encoding)
        first = {"cp932": 0x88, "euc_jp": 0xB0, "gb18030": 0xB0, "big5": 0xA4}.get(encoding, 0)
        return _COMMON_SIGN if common is None or first <= head < common else _RARE_SIGN
    return _CONTROL if unicodedata.category(sign) in ("Cc", "Cn", "Co") else _RARE_SIGN
