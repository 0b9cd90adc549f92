"""Cuts of a clip: found to the frame, and not where pictures fade, move or flicker a little."""

import numpy as np
import pytest

from tests.picture.media.clips import write_clip
from velvetdrum.picture.media.clips.scene_cuts import scene_cuts

SIZE = (180, 320)
CUTS = (24, 60, 75)


def textured(seed, shift=0, level=1.0):
    """A shot of blocks of colour, moved by some pixels."""
    blocks = np.random.Generator(np.random.PCG64(seed)).integers(30, 220, (9, 16, 3)).astype(float)
    whole = np.kron(blocks, np.ones((20, 20, 1)))
    return (np.roll(whole, shift, axis=1) * level).astype(np.uint8)


def shots(number):
    """Four shots in which the picture goes on all the time, and flickers."""
    shot = sum(number >= cut for cut in CUTS)
    return textured(shot, number * 2, 0.95 if number % 2 else 1.0)


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    return str(write_clip(tmp_path_factory.mktemp("cuts") / "shots.mp4", 96, frames=shots))


def test_cuts_are_found_to_the_frame(clip):
    assert scene_cuts(clip, 0.0, 10.0) == pytest.approx([cut / 25 for cut in CUTS])


def test_pieces_give_together_what_the_whole_gives(clip):
    pieces = [time for begin in np.arange(0, 4, 0.6) for time in scene_cuts(clip, begin, begin + 0.6)]
    assert pieces == scene_cuts(clip, 0.0, 10.0)


def test_a_fade_and_a_moving_picture_are_no_cuts(tmp_path):
    def fading(number):
        share = np.clip((number - 10) / 40, 0, 1)
        return (textured(1, number) * (1 - share) + textured(2, number) * share).astype(np.uint8)

    assert scene_cuts(str(write_clip(tmp_path / "fade.mp4", 60, frames=fading)), 0.0, 10.0) == []


def test_nothing_before_and_nothing_after_the_clip(clip):
    assert scene_cuts(clip, 50.0, 60.0) == []
    assert scene_cuts(clip, 0.0, 0.0) == []


def test_plain_colours_are_cut_between(tmp_path):
    def plain(number):
        return np.full((*SIZE, 3), (20, 30, 40) if number < 12 else (90, 200, 160), np.uint8)

    assert scene_cuts(str(write_clip(tmp_path / "plain.mp4", 30, frames=plain)), 0.0, 10.0) == [pytest.approx(12 / 25)]
