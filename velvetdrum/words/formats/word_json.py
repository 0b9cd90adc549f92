"""JSON with words: all that a cue has."""

from __future__ import annotations

import json
from typing import Any

from velvetdrum.limits.json_text import JsonError, read_json
from velvetdrum.words.cue_format import CueFormat, cue_format
from velvetdrum.words.cues import Cue, CueError, CueList, Word

_MOST_BYTES = 8 << 20


@cue_format
class WordJson(CueFormat):
    """Cues as JSON."""

    suffix = "json"
    title = "JSON with words"
    keeps = frozenset({"times", "lines", "speakers", "words"})
    media_type = "application/json"
    rank = 0

    def claims(self, text: str) -> bool:
        return text.lstrip()[:1] in ("{", "[")

    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        try:
            given = read_json(text, most_bytes=_MOST_BYTES)
        except JsonError as problem:
            raise CueError(str(problem)) from problem
        rows = given.get("cues") if isinstance(given, dict) else None
        if not isinstance(rows, list):
            raise CueError("This JSON file holds no cues; it needs a list called cues.")
        cues, unread = [], 0
        for row in rows:
            cue = _cue(row)
            if cue:
                cues.append(cue)
            else:
                unread += 1
        if unread:
            repairs.append(f"{unread} cues have no start_s, end_s and text; they are left out.")
        language = given.get("language", "")
        return cues, language[:35] if isinstance(language, str) else ""

    def write(self, found: CueList) -> str:
        cues = [
            {
                "start_s": round(cue.start_s, 4),
                "end_s": round(cue.end_s, 4),
                "text": cue.text,
                "speaker": cue.speaker,
                "words": [
                    {
                        "start_s": round(word.start_s, 4),
                        "end_s": round(word.end_s, 4),
                        "text": word.text,
                        "confidence": round(word.confidence, 3),
                    }
                    for word in cue.words
                ],
            }
            for cue in found.cues
        ]
        return json.dumps({"language": found.language, "cues": cues}, ensure_ascii=False, indent=1) + "\n"


def _cue(row: Any) -> Cue | None:
    if not isinstance(row, dict):
        return None
    times, text = _times(row), row.get("text")
    if times is None or not isinstance(text, str):
        return None
    speaker, words = row.get("speaker", ""), row.get("words", [])
    result: list[Word] = []
    for item in words if isinstance(words, list) else []:
        at = _times(item) if isinstance(item, dict) else None
        if at is None or not isinstance(item.get("text"), str):
            result = []
            break
        sure = item.get("confidence", 1.0)
        share = float(sure) if isinstance(sure, int | float) and not isinstance(sure, bool) else 1.0
        result.append(Word(*at, item["text"], min(max(share, 0.0), 1.0)))
    return Cue(*times, text, speaker if isinstance(speaker, str) else "", tuple(result))


def _times(row: dict[str, Any]) -> tuple[float, float] | None:
    result = [row.get("start_s"), row.get("end_s")]
    if not all(isinstance(at, int | float) and not isinstance(at, bool) and abs(at) < 1e6 for at in result):
        return None
    return float(result[0]), float(result[1])  # type: ignore[arg-type]
