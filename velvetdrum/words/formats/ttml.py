"""TTML, as the text profile of IMSC uses it: paragraphs and spans with times, who speaks, line breaks."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from xml.etree import ElementTree
from xml.sax.saxutils import escape, quoteattr

from velvetdrum.limits import openers
from velvetdrum.words.clock_texts import clock
from velvetdrum.words.cue_format import CueFormat, cue_format
from velvetdrum.words.cues import MOST_CUES, Cue, CueError, CueList
from velvetdrum.words.tagged_times import words_from_tags

TT = "http://www.w3.org/ns/ttml"
_PARAMETER, _METADATA = f"{{{TT}#parameter}}", f"{{{TT}#metadata}}"
_XML = "{http://www.w3.org/XML/1998/namespace}"
_CLOCK = re.compile(r"^(\d{2,6}):(\d\d):(\d\d)(?:(\.\d{1,12})\d*|:(\d{1,6})(?:\.\d+)?)?$", re.ASCII)
_OFFSET = re.compile(r"^(\d{1,15}(?:\.\d{1,12})?)\d*(h|ms|m|s|f|t)$", re.ASCII)
_WHOLE = re.compile(r"\d{1,9}", re.ASCII)
_SPACE = re.compile(r"\s+")
DEEPEST = 40


@dataclass(frozen=True)
class _Rates:
    """What a frame and a tick are, in units a second."""

    frames: Fraction
    ticks: Fraction

    def seconds(self, text: str | None) -> float | None:
        """A time expression in seconds; None for none."""
        if not text:
            return None
        if result := _CLOCK.match(text.strip()):
            whole = int(result[1]) * 3600 + int(result[2]) * 60 + int(result[3])
            part = Fraction(result[4]) if result[4] else Fraction(int(result[5] or 0)) / self.frames
            return float(whole + part)
        if result := _OFFSET.match(text.strip()):
            units: dict[str, Fraction | int] = {
                "h": 3600,
                "m": 60,
                "s": 1,
                "ms": Fraction(1, 1000),
                "f": 1 / self.frames,
                "t": 1 / self.ticks,
            }
            return float(Fraction(result[1]) * units[result[2]])
        return None


@cue_format
class Ttml(CueFormat):
    """TTML files."""

    suffix = "ttml"
    aliases = frozenset({"xml", "dfxp"})
    title = "TTML (IMSC text)"
    keeps = frozenset({"times", "lines", "speakers", "words"})
    media_type = "application/ttml+xml"
    rank = 0

    def claims(self, text: str) -> bool:
        return re.search(r"<(?:\w+:)?tt[\s>]", text[:4000]) is not None

    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        if "<!DOCTYPE" in text or "<!ENTITY" in text:
            raise CueError("This TTML file declares entities of its own; such files are not read. Save it without.")
        try:
            root = openers.xml(text.encode())
        except (ElementTree.ParseError, ValueError) as problem:
            raise CueError("This TTML file is no well-formed XML; it may be cut off or damaged.") from problem
        if _local(root) != "tt":
            raise CueError("This XML file holds no timed text.")
        reader = _Reader(root, repairs)
        return reader.cues(), root.get(f"{_XML}lang", "")[:35]

    def write(self, found: CueList) -> str:
        speakers = list(dict.fromkeys(cue.speaker for cue in found.cues if cue.speaker))
        agents = "".join(
            f'      <ttm:agent xml:id="speaker{number}" type="person"><ttm:name type="full">{escape(name)}</ttm:name>'
            "</ttm:agent>\n"
            for number, name in enumerate(speakers, 1)
        )
        rows = []
        for cue in found.cues:
            who = f' ttm:agent="speaker{speakers.index(cue.speaker) + 1}"' if cue.speaker else ""
            times = f'begin="{clock(cue.start_s)}" end="{clock(cue.end_s)}"'
            rows.append(f"      <p {times}{who}>{_spans(cue)}</p>")
        body = "\n".join(rows)
        return (
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            f'<tt xmlns="{TT}" xmlns:ttp="{TT}#parameter" xmlns:ttm="{TT}#metadata" xml:space="preserve"\n'
            f'    ttp:contentProfiles="{TT}/profile/imsc1.1/text" ttp:timeBase="media" '
            f"xml:lang={quoteattr(found.language)}>\n"
            f"  <head>\n    <metadata>\n{agents}    </metadata>\n  </head>\n"
            f"  <body>\n    <div>\n{body}\n    </div>\n  </body>\n</tt>\n"
        )


def _spans(cue: Cue) -> str:
    def lines(text: str) -> str:
        return "<br/>".join(escape(line) for line in text.split("\n"))

    if not cue.words or cue.text.split() != [word.text for word in cue.words]:
        return lines(cue.text)
    out, at = [], 0
    for word in cue.words:
        result = cue.text.index(word.text, at)
        # Times within a paragraph count from its beginning.
        times = f'begin="{clock(word.start_s - cue.start_s)}" end="{clock(word.end_s - cue.start_s)}"'
        out.append(f"{lines(cue.text[at:result])}<span {times}>{escape(word.text)}</span>")
        at = result + len(word.text)
    return "".join(out) + lines(cue.text[at:])


class _Reader:
    """Goes through the elements of a file, with the times of those around it."""

    def __init__(self, root: ElementTree.Element, repairs: list[str]) -> None:
        rate = _number(root.get(f"{_PARAMETER}frameRate"), Fraction(30))
        pair = (root.get(f"{_PARAMETER}frameRateMultiplier") or "1 1").split()
        if len(pair) == 2 and all(_WHOLE.fullmatch(part) and int(part) for part in pair):
            rate *= Fraction(int(pair[0]), int(pair[1]))
        self.rates = _Rates(rate, _number(root.get(f"{_PARAMETER}tickRate"), rate))
        self.root, self.repairs, self.untimed = root, repairs, 0
        self.keep = root.get(f"{_XML}space") == "preserve"
        names = {}
        for agent in root.iter(f"{_METADATA}agent"):
            name = agent.find(f"{_METADATA}name")
            names[agent.get(f"{_XML}id", "")] = "".join(name.itertext()).strip() if name is not None else ""
        self.names = names

    def cues(self) -> list[Cue]:
        out: list[Cue] = []
        body = next((part for part in self.root if _local(part) == "body"), None)
        if body is not None:
            self._within(body, 0.0, None, "", out, 0)
        if self.untimed:
            self.repairs.append(f"{self.untimed} paragraphs have no times; they are left out.")
        return out

    def _span(self, part: ElementTree.Element, start: float, stop: float | None) -> tuple[float, float | None]:
        begin = start + (self.rates.seconds(part.get("begin")) or 0.0)
        end, length = self.rates.seconds(part.get("end")), self.rates.seconds(part.get("dur"))
        ends = [start + end] if end is not None else []
        ends += [begin + length] if length is not None else []
        ends += [stop] if stop is not None else []
        return begin, min(ends) if ends else None

    def _within(
        self, part: ElementTree.Element, start: float, stop: float | None, who: str, out: list[Cue], depth: int
    ) -> None:
        if depth > DEEPEST:
            raise CueError("This TTML file is nested too deeply.")
        if len(out) > MOST_CUES:
            return
        begin, end = self._span(part, start, stop)
        who = self.names.get(part.get(f"{_METADATA}agent", ""), "") or who
        if _local(part) == "p":
            pieces = list(self._pieces(part, begin, end, 0))
            if end is None:
                times = [until for _, until, _ in pieces if until is not None]
                end = max(times) if times else None
            if end is None:
                self.untimed += 1
                return
            out.append(self._cue(begin, end, pieces, who))
            return
        for child in part:
            if isinstance(child.tag, str):
                self._within(child, begin, end, who, out, depth + 1)

    def _pieces(
        self, part: ElementTree.Element, begin: float, end: float | None, depth: int
    ) -> Iterator[tuple[float | None, float | None, str]]:
        """Texts with their begin and end, where a span gives them."""
        if depth > DEEPEST:
            raise CueError("This TTML file is nested too deeply.")
        yield None, None, part.text or ""
        for child in part:
            if not isinstance(child.tag, str):
                pass
            elif _local(child) == "br":
                yield None, None, "\n"
            elif _local(child) == "span":
                timed = child.get("begin") is not None
                start, stop = self._span(child, begin, end)
                for at, until, text in self._pieces(child, start, stop, depth + 1):
                    yield (start, stop, text) if timed and at is None and text.strip() else (at, until, text)
            yield None, None, child.tail or ""

    def _cue(self, begin: float, end: float, pieces: list[tuple[float | None, float | None, str]], who: str) -> Cue:
        cleaned = [
            (at, until, text if self.keep or text == "\n" else _SPACE.sub(" ", text)) for at, until, text in pieces
        ]
        tags: list[tuple[float | None, str]] = []
        timed = any(at is not None for at, _, _ in cleaned)
        for at, until, text in cleaned:
            if not text:
                continue
            if at is None:
                tags.append((None if not timed or not tags else tags[-1][0], text))
                continue
            tags.append((at, text))
            if until is not None:
                tags.append((until, ""))
        if timed:
            tags = [(begin if at is None else at, text) for at, text in tags]
        text, words = words_from_tags(tags, end)
        lines = [line.strip() for line in text.split("\n")]
        return Cue(begin, end, "\n".join(line for line in lines if line), who, words)


def _local(part: ElementTree.Element) -> str:
    return part.tag.rsplit("}", 1)[-1] if isinstance(part.tag, str) else ""


def _number(text: str | None, otherwise: Fraction) -> Fraction:
    return Fraction(int(text)) if text and _WHOLE.fullmatch(text) and int(text) else otherwise
