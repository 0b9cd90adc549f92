"""Settings, as kinds declare them: class attributes made with `number`, `whole`, `choice`, `flag`, `colour`, `stops`
and so on. Panels, validation, the JSON Schema and the reference page are made from these declarations.
"""

from velvetdrum.declare.setting import Condition, Setting, SettingError, When
from velvetdrum.declare.types.choice import choice, flag
from velvetdrum.declare.types.colour import MOST_STOPS, Stop, colour, parse_colour, parse_stops, stops
from velvetdrum.declare.types.curve import CurvePoint, curve, curve_at
from velvetdrum.declare.types.number import is_number, number, rate, whole
from velvetdrum.declare.types.points import EASINGS, MOST_INPUTS, MOST_POINTS, Point, parse_points, points, signals
from velvetdrum.declare.types.tempo import TempoRow, moved_times, tempo_rows
from velvetdrum.declare.types.text import (
    band_text,
    footage,
    heard_sound,
    is_content_key,
    layer,
    lookup_table,
    path_data,
    picture,
    text,
)
from velvetdrum.declare.types.typeface import cue_track, font_family, note_row

__all__ = [
    "EASINGS",
    "MOST_INPUTS",
    "MOST_POINTS",
    "MOST_STOPS",
    "Condition",
    "CurvePoint",
    "Point",
    "Setting",
    "SettingError",
    "Stop",
    "TempoRow",
    "When",
    "band_text",
    "choice",
    "colour",
    "cue_track",
    "curve",
    "curve_at",
    "flag",
    "font_family",
    "footage",
    "heard_sound",
    "is_content_key",
    "is_number",
    "layer",
    "lookup_table",
    "moved_times",
    "note_row",
    "number",
    "parse_colour",
    "parse_points",
    "parse_stops",
    "path_data",
    "picture",
    "points",
    "rate",
    "signals",
    "stops",
    "tempo_rows",
    "text",
    "whole",
]
