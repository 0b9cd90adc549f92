"""Formats of timed text: one module a format, each made known by `cue_format`."""

from velvetdrum.words.formats import ass, lrc, plain, srt, ttml, vtt, word_json  # noqa: F401  (makes them known)
