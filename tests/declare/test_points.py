"""Points of a drawn curve, read from what may be anything."""

import math

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from velvetdrum.declare.settings import EASINGS, SettingError, parse_points

numbers = st.integers(-12, 12) | st.floats(-12, 12) | st.sampled_from([math.nan, math.inf, True, None, "1", 10**400])
point = st.fixed_dictionaries(
    {"time_s": numbers, "value": numbers}, optional={"ease": st.sampled_from([*EASINGS, "bounce", 3, ["linear"]])}
)


def right(points):
    """Whether points are as the schema says, point by point."""
    last = -1.0
    for entry in points:
        time, value, ease = entry.get("time_s"), entry.get("value"), entry.get("ease", "linear")
        for number in (time, value):
            if isinstance(number, bool) or not isinstance(number, int | float) or not abs(number) <= 1e15:
                return False
        if time < 0 or not time > last or not -10 <= value <= 10 or ease not in EASINGS or not isinstance(ease, str):
            return False
        last = time
    return True


@given(st.lists(point | st.dictionaries(st.text("ab", max_size=1), numbers, max_size=2), min_size=1, max_size=4))
@example([{"time_s": 0, "value": 10}, {"time_s": 1.5, "value": -10, "ease": "hold"}])
@example([{"time_s": 0, "value": math.nan}])
@example([{"time_s": -5e-324, "value": 0}])
@example([{"time_s": 1, "value": 0}, {"time_s": 1, "value": 0}])
def test_points_are_read_exactly_when_each_of_them_is_right(points):
    if right(points):
        expected = tuple((float(p["time_s"]), float(p["value"]), p.get("ease", "linear")) for p in points)
        assert parse_points(points, "Curve") == expected
    else:
        with pytest.raises(SettingError, match="Curve: point"):
            parse_points(points, "Curve")


@pytest.mark.parametrize("value", [None, [], {}, "points", [3], [[0, 1]]])
def test_what_is_no_list_of_points_is_refused(value):
    with pytest.raises(SettingError, match="Curve"):
        parse_points(value, "Curve")
