"""The order in which mixed scripts stand: the Unicode Bidirectional Algorithm (UAX 9), from characters to levels.

Names of rules are those of the standard. Classes of characters come from Python's `unicodedata`.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, field

_DEEPEST = 125
_ISOLATES = ("LRI", "RLI", "FSI")
_REMOVED = ("RLE", "LRE", "RLO", "LRO", "PDF", "BN")
_NEUTRAL = ("B", "S", "WS", "ON", *_ISOLATES, "PDI")
_PAIRS = {
    "(": ")", "[": "]", "{": "}", "⁅": "⁆", "⁽": "⁾", "₍": "₎", "⌈": "⌉", "⌊": "⌋", "〈": "〉", "❨": "❩", "❪": "❫",
    "❬": "❭", "❮": "❯", "❰": "❱", "❲": "❳", "❴": "❵", "⟅": "⟆", "⟦": "⟧", "⟨": "⟩", "⟪": "⟫", "⟬": "⟭", "⟮": "⟯",
    "⦃": "⦄", "⦅": "⦆", "⧼": "⧽", "《": "》", "「": "」", "『": "』", "【": "】", "〔": "〕", "〖": "〗",
    "〘": "〙", "〚": "〛",
    "﹙": "﹚", "﹛": "﹜", "﹝": "﹞", "（": "）", "［": "］", "｛": "｝", "｟": "｠", "｢": "｣",
}  # fmt: skip
_CLOSERS = {closer: opener for opener, closer in _PAIRS.items()}


@dataclass
class _Sequence:
    """An isolating run sequence: places of its characters, and the directions before and after it."""

    places: list[int]
    before: str = ""
    after: str = ""
    level: int = 0
    opened: list[tuple[int, str]] = field(default_factory=list)


def classes_of(text: str) -> list[str]:
    """The bidirectional class of each character; unassigned ones count as left to right."""
    return [unicodedata.bidirectional(sign) or "L" for sign in text]


def base_level(classes: Sequence[str]) -> int:
    """The level of a paragraph by its first strong character (P2, P3): 1 for right to left."""
    depth = 0
    for kind in classes:
        if kind in _ISOLATES:
            depth += 1
        elif kind == "PDI" and depth:
            depth -= 1
        elif not depth and kind in ("L", "R", "AL"):
            return int(kind != "L")
    return 0


def levels_of(text: str, base: int | None = None) -> list[int]:
    """The embedding level of each character of a paragraph: odd ones run right to left."""
    given = classes_of(text)
    if base is None:
        base = base_level(given)
    classes = list(given)
    levels, removed = _explicit(given, classes, base)
    for sequence in _sequences(given, levels, removed, base):
        _weak(sequence, classes)
        _brackets(sequence, classes, text, given)
        _neutral(sequence, classes)
        for place in sequence.places:
            kind, level = classes[place], levels[place]
            if level % 2:
                levels[place] += int(kind in ("L", "EN", "AN"))
            else:
                levels[place] += 1 if kind == "R" else 2 if kind in ("AN", "EN") else 0
    for place in sorted(removed):
        levels[place] = levels[place - 1] if place else base
    return _ends(given, levels, base)


def visual_order(levels: Sequence[int]) -> list[int]:
    """Places of characters, or of runs, of one line in the order in which they stand from left to right (L2)."""
    order = list(range(len(levels)))
    if not levels:
        return order
    odd = [level for level in levels if level % 2]
    for level in range(max(levels), (min(odd) if odd else max(levels) + 1) - 1, -1):
        at = 0
        while at < len(order):
            if levels[order[at]] < level:
                at += 1
                continue
            end = at
            while end < len(order) and levels[order[end]] >= level:
                end += 1
            order[at:end] = order[at:end][::-1]
            at = end
    return order


def _explicit(given: Sequence[str], classes: list[str], base: int) -> tuple[list[int], set[int]]:
    """X1 to X9: levels by embeddings, overrides and isolates; and what is left out of account afterwards."""
    partner = _isolate_ends(given)
    stack: list[tuple[int, str, bool]] = [(base, "", False)]
    over_isolates = over_embeddings = isolates = 0
    levels, removed = [base] * len(given), set()
    for place, kind in enumerate(given):
        level, override, _ = stack[-1]
        levels[place] = level
        if kind in ("RLE", "LRE", "RLO", "LRO"):
            removed.add(place)
            upper = (level + 1) | 1 if kind[0] == "R" else (level + 2) & ~1
            if upper <= _DEEPEST and not over_isolates and not over_embeddings:
                stack.append((upper, {"RLO": "R", "LRO": "L"}.get(kind, ""), False))
            elif not over_isolates:
                over_embeddings += 1
        elif kind in _ISOLATES:
            classes[place] = override or classes[place]
            right = kind == "RLI" or (
                kind == "FSI" and base_level(given[place + 1 : partner.get(place, len(given))]) == 1
            )
            upper = (level + 1) | 1 if right else (level + 2) & ~1
            if upper <= _DEEPEST and not over_isolates and not over_embeddings:
                isolates += 1
                stack.append((upper, "", True))
            else:
                over_isolates += 1
        elif kind == "PDI":
            if over_isolates:
                over_isolates -= 1
            elif isolates:
                over_embeddings = 0
                while not stack[-1][2]:
                    stack.pop()
                stack.pop()
                isolates -= 1
            levels[place] = stack[-1][0]
            classes[place] = stack[-1][1] or classes[place]
        elif kind == "PDF":
            removed.add(place)
            if not over_isolates:
                if over_embeddings:
                    over_embeddings -= 1
                elif not stack[-1][2] and len(stack) > 1:
                    stack.pop()
        elif kind == "BN":
            removed.add(place)
        elif kind == "B":
            levels[place] = base
        else:
            classes[place] = override or kind
    return levels, removed


def _isolate_ends(given: Sequence[str]) -> dict[int, int]:
    """Where each isolate ends (BD9)."""
    waiting: list[int] = []
    out = {}
    for place, kind in enumerate(given):
        if kind in _ISOLATES:
            waiting.append(place)
        elif kind == "PDI" and waiting:
            out[waiting.pop()] = place
    return out


def _sequences(given: Sequence[str], levels: Sequence[int], removed: set[int], base: int) -> list[_Sequence]:
    """Isolating run sequences (X10): runs of one level, joined over isolates."""
    kept = [place for place in range(len(given)) if place not in removed]
    runs: list[list[int]] = []
    for place in kept:
        if runs and levels[runs[-1][-1]] == levels[place]:
            runs[-1].append(place)
        else:
            runs.append([place])
    partner = _isolate_ends(given)
    starts = {run[0]: run for run in runs}
    followers = {partner.get(run[-1]) for run in runs if given[run[-1]] in _ISOLATES}
    out = []
    for run in runs:
        if given[run[0]] == "PDI" and run[0] in followers:
            continue
        places = list(run)
        while given[places[-1]] in _ISOLATES and partner.get(places[-1]) in starts:
            places += starts[partner[places[-1]]]
        level = levels[places[0]]
        at = kept.index(places[0])
        earlier = levels[kept[at - 1]] if at else base
        open_end = given[places[-1]] in _ISOLATES and places[-1] not in partner
        at = kept.index(places[-1])
        later = base if open_end or at + 1 == len(kept) else levels[kept[at + 1]]
        out.append(_Sequence(places, _direction(max(earlier, level)), _direction(max(later, level)), level))
    return out


def _direction(level: int) -> str:
    return "R" if level % 2 else "L"


def _weak(sequence: _Sequence, classes: list[str]) -> None:
    """W1 to W7."""
    places = sequence.places
    last = sequence.before
    for place in places:  # W1
        if classes[place] == "NSM":
            classes[place] = "ON" if last in (*_ISOLATES, "PDI") else last
        last = classes[place]
    strong = sequence.before
    for place in places:  # W2, and W3 after it
        if classes[place] in ("L", "R", "AL"):
            strong = classes[place]
        elif classes[place] == "EN" and strong == "AL":
            classes[place] = "AN"
    for place in places:
        classes[place] = "R" if classes[place] == "AL" else classes[place]
    for one, two, three in zip(places, places[1:], places[2:], strict=False):  # W4
        pair = (classes[one], classes[three])
        if (classes[two] in ("ES", "CS") and pair == ("EN", "EN")) or (classes[two] == "CS" and pair == ("AN", "AN")):
            classes[two] = pair[0]
    for index, place in enumerate(places):  # W5
        if classes[place] != "ET":
            continue
        end = index
        while end < len(places) and classes[places[end]] == "ET":
            end += 1
        near = [classes[places[index - 1]]] if index else []
        near += [classes[places[end]]] if end < len(places) else []
        if "EN" in near:
            for inner in places[index:end]:
                classes[inner] = "EN"
    for place in places:  # W6
        if classes[place] in ("ES", "ET", "CS"):
            classes[place] = "ON"
    strong = sequence.before
    for place in places:  # W7
        if classes[place] in ("L", "R"):
            strong = classes[place]
        elif classes[place] == "EN" and strong == "L":
            classes[place] = "L"


def _strong(kind: str) -> str:
    return "R" if kind in ("R", "EN", "AN") else "L" if kind == "L" else ""


def _brackets(sequence: _Sequence, classes: list[str], text: str, given: Sequence[str]) -> None:
    """N0: pairs of brackets take the direction of what they hold."""
    places, pairs = sequence.places, []
    waiting: list[tuple[str, int]] = []
    for index, place in enumerate(places):
        sign = text[place]
        if classes[place] != "ON":
            continue
        if sign in _PAIRS:
            if len(waiting) == 63:
                break
            waiting.append((_PAIRS[sign], index))
        elif sign in _CLOSERS:
            for depth in range(len(waiting) - 1, -1, -1):
                if waiting[depth][0] == sign or {waiting[depth][0], sign} in ({"〉"},):
                    pairs.append((waiting[depth][1], index))
                    del waiting[depth:]
                    break
    own = _direction(sequence.level)
    for start, end in sorted(pairs):
        inside = {_strong(classes[place]) for place in places[start + 1 : end]}
        result = ""
        if own in inside:
            result = own
        elif inside - {""}:
            earlier = (
                next((s for place in places[start - 1 :: -1] if (s := _strong(classes[place]))), "") if start else ""
            )
            result = (earlier or sequence.before) if (earlier or sequence.before) != own else own
        if result:
            for index in (start, end):
                classes[places[index]] = result
                for place in places[index + 1 :]:
                    if given[place] != "NSM":
                        break
                    classes[place] = result


def _neutral(sequence: _Sequence, classes: list[str]) -> None:
    """N1 and N2: what has no direction takes that of both sides where they agree, else that of its level."""
    places = sequence.places
    index = 0
    while index < len(places):
        if classes[places[index]] not in _NEUTRAL:
            index += 1
            continue
        end = index
        while end < len(places) and classes[places[end]] in _NEUTRAL:
            end += 1
        before = _strong(classes[places[index - 1]]) if index else sequence.before
        after = _strong(classes[places[end]]) if end < len(places) else sequence.after
        result = before if before == after else _direction(sequence.level)
        for place in places[index:end]:
            classes[place] = result
        index = end


def _ends(given: Sequence[str], levels: list[int], base: int) -> list[int]:
    """L1: separators, and spaces before them or at the end of the line, have the level of the paragraph."""
    trailing = True
    for place in range(len(given) - 1, -1, -1):
        kind = given[place]
        if kind in ("B", "S"):
            levels[place], trailing = base, True
        elif kind in ("WS", *_ISOLATES, "PDI", *_REMOVED):
            if trailing:
                levels[place] = base
        else:
            trailing = False
    return levels
