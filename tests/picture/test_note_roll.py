"""Notes in the picture: bars that pass a line when their notes sound, and particles that burst at each."""

from fractions import Fraction

import numpy as np
import pytest

from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_document, new_layer, new_patch, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.signal_part import new_signal

SIZE = FrameSize(320, 180)
ROWS = [[2.0, 1.0, 60, 100, 1], [3.0, 0.5, 72, 100, 1]]


def picture(second, rows=ROWS, **settings):
    roll = new_layer("note-roll", width=100.0, height=80.0, span_s=4.0, line=False, corner=0.0, **settings)
    ground = new_layer("backdrop", fill="plain", plain="#000000")
    document = new_document("Roll", frame=SIZE, rate=Fraction(30), layers=[ground, roll]) | {"length_s": 8.0}
    document["notes"] = {"a": {"name": "A", "rows": rows}} if rows else {}
    return render(parse(document), None, Fraction(second), SIZE)[..., :3].max(axis=2)


def test_bars_lie_at_their_times_and_pitches():
    """80 pixels a second, now in the middle: the low note at 2 s begins at x 160 when it sounds."""
    lit = picture(2, ahead=100.0) > 60
    low, high = lit[90:], lit[:90]
    assert np.flatnonzero(low.any(axis=0))[[0, -1]] == pytest.approx([160, 239], abs=1.5)
    assert np.flatnonzero(high.any(axis=0))[[0, -1]] == pytest.approx([240, 279], abs=1.5)


def test_a_note_is_brighter_while_it_sounds_and_equal_in_any_order():
    before, during = picture(1, ahead=40.0), picture(Fraction(5, 2), ahead=40.0)
    assert during[90:].max() > before[90:].max() * 1.8
    assert np.array_equal(picture(1, ahead=40.0), before)


def test_without_notes_nothing_is_drawn():
    assert not picture(2, rows=None).any()


def test_particles_burst_at_each_note():
    notes = new_signal("notes", "Notes", reads="onset")
    swarm = new_layer("particles", rate=0.0, burst_on="hit", burst=12, life=0.5, life_spread=0.0, speed=20.0, size=2.0)
    swarm["patches"] = [new_patch("hit", notes, 0.0, 100.0)]
    ground = new_layer("backdrop", fill="plain", plain="#000000")
    document = new_document("Swarm", frame=SIZE, rate=Fraction(30), layers=[ground, swarm]) | {"length_s": 8.0}
    document |= {"signals": [notes], "notes": {"a": {"name": "A", "rows": ROWS}}}
    lit = [
        render(parse(document), None, Fraction(at), SIZE)[..., :3].any() for at in ("1.9", "2.1", "2.7", "3.1", "3.9")
    ]
    assert lit == [False, True, False, True, False]
