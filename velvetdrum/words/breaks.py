"""Where a reader would break a line: at marks, then before words that begin a part of a sentence, never after one that
belongs to what follows it."""

from __future__ import annotations

import re
from functools import cache
from typing import NamedTuple

SENTENCE_END = re.compile(r"[.!?…。！？][\"'”’»)\]]*$")
CLAUSE_END = re.compile(r"[,;:–—、，][\"'”’»)\]]*$")
_BARE = re.compile(r"^\W+|\W+$")

AFTER_SENTENCE, AFTER_CLAUSE = -1.0, -0.8
BEFORE_CONJUNCTION, BEFORE_PREPOSITION = -0.45, -0.3
WITHIN_GROUP, WITHIN_NAME, AFTER_NUMBER, AFTER_SHORT = 2.0, 0.5, 0.6, 0.3
"""What a break costs beside what makes it uneven, as shares of a line: below 0 it is a good place."""


class _Words(NamedTuple):
    """Words of a language, small: those that belong to what follows (articles, possessives, numerals that stand for
    one), conjunctions, and prepositions."""

    leading: frozenset[str]
    conjunctions: frozenset[str]
    prepositions: frozenset[str]


_LEADING = {
    "en": "a an the this that these those my your his her its our their every each some any no which whose to",
    "de": "der die das den dem des ein eine einen einem einer eines mein meine dein deine sein seine ihr ihre unser "
    "unsere euer eure kein keine dieser diese dieses jeder jede jedes zu",
    "fr": "le la les l un une des du de d au aux ce cet cette ces mon ma mes ton ta tes son sa ses notre nos votre vos "
    "leur leurs chaque ne se me te",
    "es": "el la los las un una unos unas lo mi mis tu tus su sus este esta estos estas ese esa cada al del se me te",
    "it": "il lo la i gli le l un uno una del della dei delle al alla dal dalla nel nella sul sulla mio mia tuo tua "
    "suo sua questo questa ogni si mi ti",
    "pt": "o a os as um uma uns umas do da dos das no na nos nas ao à pelo pela meu minha teu tua seu sua este esta "
    "cada se me te",
    "nl": "de het een mijn jouw zijn haar ons onze hun deze dit die dat elke elk te",
    "sv": "en ett den det de min mitt mina din ditt dina sin sitt sina denna detta varje att",
    "da": "en et den det de min mit mine din dit dine sin sit sine denne dette hver at",
}
_CONJUNCTIONS = {
    "en": "and or but nor so yet because although though while when whenever where wherever if unless until since as "
    "that which who whom whose after before than",
    "de": "und oder aber denn sondern weil obwohl während wenn als dass ob bevor nachdem damit welche welcher wo wie",
    "fr": "et ou mais donc or ni car que qui dont où quand lorsque puisque parce si comme pendant",
    "es": "y e o u pero sino porque aunque cuando mientras si que quien donde como",
    "it": "e ed o ma perché anche quando mentre se che chi dove come però",
    "pt": "e ou mas porque embora quando enquanto se que quem onde como",
    "nl": "en of maar want omdat hoewel terwijl wanneer als dat die wie waar voordat nadat",
    "sv": "och eller men för eftersom fast medan när om att som där innan",
    "da": "og eller men for fordi skønt mens når hvis at som der hvor før",
}
_PREPOSITIONS = {
    "en": "in on at by with from of for to into onto over under through between among about against during without "
    "within along across behind beside beyond near toward towards",
    "de": "in im am an auf bei beim mit von vom für zu zum zur über unter durch zwischen gegen ohne neben hinter vor "
    "nach aus um seit",
    "fr": "dans sur sous avec sans pour par en chez vers entre contre depuis pendant avant après derrière à",
    "es": "en con sin por para sobre bajo desde hasta entre contra hacia de a ante tras",
    "it": "in con senza per su sotto da fra tra contro verso dopo prima di a",
    "pt": "em com sem por para sobre sob desde até entre contra de após perante",
    "nl": "in op aan bij met van voor over onder door tussen tegen zonder naast achter na uit om sinds naar",
    "sv": "i på vid med från av för till över under genom mellan mot utan bredvid bakom efter ur",
    "da": "i på ved med fra af for til over under gennem mellem mod uden bag efter ud",
}


@cache
def _words(language: str) -> _Words:
    known = {"nb": "da"}.get(language, language)
    return _Words(*(frozenset(words.get(known, "").split()) for words in (_LEADING, _CONJUNCTIONS, _PREPOSITIONS)))


def break_cost(before: str, after: str, language: str = "en") -> float:
    """What a break between two words costs, as a share of a line; below 0 where a reader would break.

    Parameters
    ----------
    before
        The word before the break.
    after
        The word after the break.
    language
        A language as BCP 47 has it.
    """
    if SENTENCE_END.search(before):
        return AFTER_SENTENCE
    if CLAUSE_END.search(before):
        return AFTER_CLAUSE
    words = _words(language.lower().split("-")[0])
    last, first = _BARE.sub("", before).lower(), _BARE.sub("", after).lower()
    if last in words.leading or last in words.prepositions or last in words.conjunctions or last.endswith(("'", "’")):
        return WITHIN_GROUP
    cost = 0.0
    if first in words.conjunctions:
        cost += BEFORE_CONJUNCTION
    elif first in words.prepositions:
        cost += BEFORE_PREPOSITION
    if last.replace(",", "").replace(".", "").isdigit():
        cost += AFTER_NUMBER
    if before[:1].isupper() and after[:1].isupper() and len(last) > 1:
        cost += WITHIN_NAME
    if len(last) <= 2 and cost >= 0:
        cost += AFTER_SHORT
    return cost
