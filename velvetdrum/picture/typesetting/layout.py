"""Text as glyphs in their places: shaped, with letters of other typefaces where one lacks them, in the order of its
scripts, broken into lines, aligned.

Everything is in thousandths of an em, so that a layout is the same at every size of the frame.
"""

from __future__ import annotations

import itertools
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Literal

import numpy as np
import uharfbuzz as hb
from numpy.typing import NDArray
from uniseg.graphemecluster import grapheme_cluster_boundaries
from uniseg.linebreak import line_break_boundaries

from velvetdrum.limits.cache import cached
from velvetdrum.picture.typesetting.bidi import base_level, classes_of, levels_of, visual_order
from velvetdrum.picture.typesetting.families import Axes, cascade
from velvetdrum.picture.typesetting.typefaces import EM, Typeface, typeface

Align = Literal["left", "center", "right", "start", "end"]
_BALANCED_LINES = 8
LONGEST = 4000
"""Characters of a text that are laid out."""


@dataclass(frozen=True)
class TextSpec:
    """What a layout is made of. `family`: an id, or a path. `width`: of the box that lines are broken in, in ems times
    1000; 0 breaks only where the text does. `tracking` is added after each letter, `leading` is the distance of
    baselines; both in thousandths of an em."""

    text: str
    family: str = "work-sans"
    weight: float = 400.0
    axes: Axes = ()
    tracking: float = 0.0
    leading: float = 1200.0
    align: Align = "center"
    width: float = 0.0
    tabular: bool = False
    balanced: bool = False
    """True for lines of a paragraph that are about as long as each other, as with CSS `text-wrap: balance`."""


@dataclass(frozen=True)
class Line:
    """A line: its baseline, its left and right edge, how far its letters reach above and below the baseline, and the
    characters of the text that stand in it."""

    baseline: float
    left: float
    right: float
    ascent: float
    descent: float
    begin: int
    end: int


@dataclass(frozen=True, eq=False)
class Layout:
    """Glyphs in the order of their characters. `x`, `y`: their origins on the baseline; `advance`: how far the pen
    goes on; `face`: index of their typeface; `char`: the first character that they stand for; `letter`, `word` and
    `row`: which letter, word and line they belong to. The origin is the middle of the box."""

    faces: tuple[tuple[Path, Axes], ...]
    glyph: NDArray[np.int64]
    face: NDArray[np.int64]
    x: NDArray[np.float64]
    y: NDArray[np.float64]
    advance: NDArray[np.float64]
    char: NDArray[np.int64]
    letter: NDArray[np.int64]
    word: NDArray[np.int64]
    row: NDArray[np.int64]
    lines: tuple[Line, ...]
    missing: str
    """Characters that no typeface has."""

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of its lines."""
        if not self.lines:
            return 0.0, 0.0, 0.0, 0.0
        return (
            min(line.left for line in self.lines),
            self.lines[0].baseline - self.lines[0].ascent,
            max(line.right for line in self.lines),
            self.lines[-1].baseline + self.lines[-1].descent,
        )

    @property
    def nbytes(self) -> int:
        """About what it takes in memory."""
        return 9 * self.glyph.nbytes + 2000


@dataclass(frozen=True)
class _Run:
    """Characters of one level and one typeface."""

    begin: int
    end: int
    level: int
    face: int
    script: str


@dataclass(frozen=True)
class _Shaped:
    """A shaped run, in the order in which it stands from left to right."""

    run: _Run
    glyph: list[int]
    char: list[int]
    dx: list[float]
    dy: list[float]
    advance: list[float]


@cached
def laid_out(spec: TextSpec) -> Layout:
    """The glyphs of a text in their places."""
    return _Layouter(spec).layout()


def words_of(text: str) -> list[tuple[int, int]]:
    """Begin and end of each word of a text, parted by white space."""
    out, begin = [], -1
    for place, sign in enumerate(text + " "):
        if sign.isspace():
            if begin >= 0:
                out.append((begin, place))
            begin = -1
        elif begin < 0:
            begin = place
    return out


class _Layouter:
    """Makes the layout of one text."""

    def __init__(self, spec: TextSpec) -> None:
        text = unicodedata.normalize("NFC", spec.text.replace("\r\n", "\n").replace("\r", "\n").replace("\t", "    "))
        self.text = text[:LONGEST]
        self.spec = spec
        axes = tuple(sorted({"wght": spec.weight, **dict(spec.axes)}.items()))
        self.keys = [(path, axes) for path in cascade(spec.family, spec.weight)]
        self.missing: list[str] = []

    def face(self, index: int) -> Typeface:
        return typeface(*self.keys[index])

    def layout(self) -> Layout:
        """All lines of all paragraphs."""
        lines: list[tuple[int, int, list[_Shaped], bool]] = []
        begin = 0
        for paragraph in self.text.split("\n"):
            lines += self._paragraph(paragraph, begin)
            begin += len(paragraph) + 1
        return self._placed(lines)

    def _paragraph(self, text: str, begin: int) -> list[tuple[int, int, list[_Shaped], bool]]:
        """Begin, end and shaped runs of each line, and whether the paragraph runs right to left."""
        classes = classes_of(text)
        base = base_level(classes)
        if not text:
            return [(begin, begin, [], False)]
        runs = self._runs(text, levels_of(text, base))
        widths = self._widths(text, runs)
        out = []
        for start, stop in self._breaks(text, widths):
            kept_to = start + len(text[start:stop].rstrip())
            # Where a line ends, levels of its last spaces change (L1), and letters may join otherwise.
            cut = self._runs(text[start:kept_to], levels_of(text[start:kept_to], base))
            order = visual_order([run.level for run in cut])
            shaped = [self._shape(text[start:kept_to], cut[index], begin + start) for index in order]
            out.append((begin + start, begin + kept_to, shaped, base == 1))
        return out

    def _runs(self, text: str, levels: Sequence[int]) -> list[_Run]:
        from fontTools.unicodedata import script

        bounds = [*_clusters(text)]
        if not bounds or bounds[0] != 0:
            bounds = [0, *bounds]
        if bounds[-1] != len(text):
            bounds.append(len(text))
        out: list[_Run] = []
        current = "Zyyy"
        for begin, end in itertools.pairwise(bounds):
            cluster = text[begin:end]
            own = script(cluster[0])
            joined = own in ("Zyyy", "Zinh") or own == current
            current = current if own in ("Zyyy", "Zinh") else own
            previous = out[-1].face if out else 0
            face = self._face_for(cluster, previous)
            same = out and out[-1].level == levels[begin] and out[-1].face == face
            if same and (joined or out[-1].script == "Zyyy"):
                out[-1] = replace(out[-1], end=end, script=current if out[-1].script == "Zyyy" else out[-1].script)
            else:
                out.append(_Run(begin, end, levels[begin], face, current))
        return out

    def _face_for(self, cluster: str, previous: int) -> int:
        """The first typeface that has all of a cluster; spaces and marks stay with the one before them."""
        if cluster.isspace():
            return previous
        needed = {ord(sign) for sign in cluster if not _unseen(sign)}
        emoji = "\ufe0f" in cluster or "\u200d" in cluster
        order = list(range(len(self.keys)))
        if emoji:
            order = [*order[-2:], *order[:-2]]
        for index in order:
            if needed <= self.face(index).characters:
                return index
        # A base with a mark that no typeface joins to it is better than nothing.
        first = ord(cluster[0])
        for index in order:
            if first in self.face(index).characters:
                return index
        self.missing += [sign for sign in cluster if not _unseen(sign) and sign not in self.missing]
        return 0

    def _shape(self, text: str, run: _Run, begin: int) -> _Shaped:
        face = self.face(run.face)
        buffer = hb.Buffer()
        buffer.add_codepoints([ord(sign) for sign in text], run.begin, run.end - run.begin)
        buffer.direction = "rtl" if run.level % 2 else "ltr"
        buffer.script = run.script
        buffer.guess_segment_properties()
        tracked = self.spec.tracking != 0
        features = {"kern": True, "liga": not tracked, "clig": not tracked}
        if self.spec.tabular:
            features["tnum"] = True
        hb.shape(face.font, buffer, features)
        scale = face.scale
        glyphs, chars, dx, dy, advances = [], [], [], [], []
        infos, places = buffer.glyph_infos, buffer.glyph_positions
        for index, (info, place) in enumerate(zip(infos, places, strict=True)):
            last = index + 1 == len(infos) or infos[index + 1].cluster != info.cluster
            shown = info.codepoint != 0
            ahead, way = place.x_offset * scale, place.x_advance * scale
            if self.spec.tabular and text[info.cluster] in _DIGITS and shown:
                # On one width whatever the typeface has of its own for that: in many its feature is missing or empty.
                # The pen's way has kerning in it, the glyph's own has none.
                own = face.font.get_glyph_h_advance(info.codepoint) * scale
                ahead, way = ahead + (face.digit_width - own) / 2, face.digit_width
            glyphs.append(info.codepoint if shown else -1)
            chars.append(begin + info.cluster)
            dx.append(ahead)
            dy.append(-place.y_offset * scale)
            advances.append(way + (self.spec.tracking if last else 0.0))
        return _Shaped(run, glyphs, chars, dx, dy, advances)

    def _widths(self, text: str, runs: Sequence[_Run]) -> NDArray[np.float64]:
        """How far the pen goes for each character, those of a cluster under its first one."""
        out = np.zeros(len(text) + 1)
        if not self.spec.width:
            return out
        for run in runs:
            shaped = self._shape(text, run, 0)
            np.add.at(out, shaped.char, shaped.advance)
        return out

    def _breaks(self, text: str, widths: NDArray[np.float64]) -> list[tuple[int, int]]:
        """Begin and end of each line (UAX 14); a word that is wider than the box is broken between its letters."""
        if not self.spec.width:
            return [(0, len(text))]
        way = np.concatenate([[0.0], np.cumsum(widths)])
        result = self._broken(text, way, self.spec.width + 0.01)
        if not self.spec.balanced or not 1 < len(result) <= _BALANCED_LINES:
            return result
        # The narrowest box that takes no more lines has the most even ones.
        low, high = self.spec.width / len(result) / 2, self.spec.width + 0.01
        for _ in range(8):
            middle = (low + high) / 2
            tried = self._broken(text, way, middle)
            if len(tried) <= len(result) and not self._cuts_words(text, tried):
                result, high = tried, middle
            else:
                low = middle
        return result

    @staticmethod
    def _cuts_words(text: str, lines: Sequence[tuple[int, int]]) -> bool:
        return any(end < len(text) and not text[end - 1].isspace() and text[end - 1].isalnum() for _, end in lines)

    def _broken(self, text: str, way: NDArray[np.float64], room: float) -> list[tuple[int, int]]:
        """Begin and end of each line in a box of a width, as many words in each as it takes."""
        allowed = _line_ends(text)
        out, begin, last = [], 0, 0
        for place in allowed:
            end = begin + len(text[begin:place].rstrip())
            if way[end] - way[begin] <= room:
                last = place
                continue
            if last > begin:
                out.append((begin, last))
                begin = last
            end = begin + len(text[begin:place].rstrip())
            while way[end] - way[begin] > room:
                fitting = max(int(np.searchsorted(way, way[begin] + room, side="right")) - 1, begin + 1)
                cut = max((b for b in _clusters(text[begin:]) if 0 < b <= fitting - begin), default=0)
                cut = begin + max(cut, _first_cluster(text[begin:]))
                if cut >= place:
                    break
                out.append((begin, cut))
                begin = cut
            last = place
        out.append((begin, len(text)))
        return out

    def _placed(self, lines: Sequence[tuple[int, int, list[_Shaped], bool]]) -> Layout:
        spec = self.spec
        first_up, _ = self.face(0).measures
        edges = [
            sum(sum(part.advance) for part in shaped) - (spec.tracking if shaped else 0.0) for _, _, shaped, _ in lines
        ]
        room = max([spec.width, *edges]) if edges else spec.width
        middle = -(len(lines) - 1) * spec.leading / 2
        rows: list[tuple[int, int, float, float, float, int, int]] = []
        out = []
        for number, ((begin, end, shaped, rtl), width) in enumerate(zip(lines, edges, strict=True)):
            align = {"start": "right" if rtl else "left", "end": "left" if rtl else "right"}.get(spec.align, spec.align)
            left = {"left": -room / 2, "center": -width / 2, "right": room / 2 - width}[align]
            faces = {part.run.face for part in shaped} or {0}
            up = max(self.face(index).measures[0] for index in faces)
            down = max(self.face(index).measures[1] for index in faces)
            # Capitals about the middle of the box: about seven tenths of an em stand above the baseline.
            baseline = middle + number * spec.leading + 0.35 * EM
            pen = left
            for part in shaped:
                for glyph, char, dx, dy, advance in zip(
                    part.glyph, part.char, part.dx, part.dy, part.advance, strict=True
                ):
                    if glyph >= 0:
                        rows.append((glyph, part.run.face, pen + dx, baseline + dy, advance, char, number))
                    pen += advance
            out.append(Line(baseline, left, left + width, min(up, first_up * 1.3), min(down, 0.5 * EM), begin, end))
        rows.sort(key=lambda item: (item[6], item[5]))
        table = [np.array(column) for column in zip(*rows, strict=True)] if rows else [np.zeros(0)] * 7
        chars = table[5].astype(np.int64)
        words = np.zeros(len(self.text) + 1, np.int64)
        for index, (begin, _) in enumerate(words_of(self.text)):
            words[begin:] = index  # a space belongs to the word before it
        _, letters = np.unique(chars, return_inverse=True)
        return Layout(
            tuple(self.keys),
            table[0].astype(np.int64),
            table[1].astype(np.int64),
            table[2].astype(float),
            table[3].astype(float),
            table[4].astype(float),
            chars,
            letters.astype(np.int64),
            words[chars],
            table[6].astype(np.int64),
            tuple(out),
            "".join(self.missing),
        )


_DIGITS = frozenset("0123456789")


def _unseen(sign: str) -> bool:
    """True for characters that show nothing themselves: joiners, marks of direction, selectors."""
    return unicodedata.category(sign) in ("Cf", "Cc", "Zl", "Zp") or "\ufe00" <= sign <= "\ufe0f"


def _first_cluster(text: str) -> int:
    return next((place for place in _clusters(text) if place > 0), len(text))


@lru_cache(maxsize=512)
def _line_ends(text: str) -> tuple[int, ...]:
    """Where a line may end (UAX 14). The search for even lines and for a size that fits asks again and again."""
    return tuple(sorted({*line_break_boundaries(text), len(text)}))


@lru_cache(maxsize=512)
def _clusters(text: str) -> tuple[int, ...]:
    """Where what is read as one letter begins and ends (UAX 29)."""
    return tuple(grapheme_cluster_boundaries(text))
