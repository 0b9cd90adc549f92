"""Figures as pictures: every style on every shape, edges, stillness, and sounds of all kinds."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st

from tests.conftest import RATE, sine, song
from tests.picture.scenes import SMALL, black, drawn, lit, project, similarity
from velvetdrum.looks.presets import choices, fitted_layer
from velvetdrum.picture.figures.base_shape import BASES
from velvetdrum.picture.figures.marks.spectrum_settings import STYLES
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.designs import FAMILIES
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.band_text import parse_bands

LOUD = {"quiet_db": -70.0, "loud_db": -30.0}
WHITE = {"paint": "one", "plain": "#ffffff"}


@pytest.mark.parametrize("base", list(BASES))
@pytest.mark.parametrize("style", list(STYLES))
def test_every_style_is_drawn_on_every_base_shape(use, style, base):
    on = drawn(use, "spectrum", style=style, base=base, reach=10.0, grow="out", line=1.0, **LOUD)
    assert 0.002 < lit(on).mean() < 0.5
    # It moves with the sound: a range that nothing reaches leaves something else.
    low = drawn(use, "spectrum", style=style, base=base, reach=10.0, grow="out", line=1.0, quiet_db=-1.0, loud_db=0.0)
    assert np.abs(on - low).max() > 60


@pytest.mark.parametrize("count", [4, 7, 100, 512])
def test_a_ring_of_full_bars_is_a_ring_without_a_gap(use, count):
    # All bars at their full length and no gap between: every direction from the middle meets one.
    picture = drawn(
        use,
        "spectrum",
        base="ring",
        grow="out",
        bands=count,
        gap=0,
        corner=0,
        reach=12.0,
        radius=24.0,
        quiet_db=-120.0,
        loud_db=-110.0,
        tilt_db=6.0,
        **WHITE,
    )
    on = lit(picture, 127)
    angles = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    # Flat bars on a bend: a few broad ones leave wedges outside, so what counts is just over their feet.
    x = np.rint(160 + 46 * np.sin(angles) - 0.5).astype(int)
    y = np.rint(90 - 46 * np.cos(angles) - 0.5).astype(int)
    if count > 7:
        assert on[y, x].mean() > 0.995
    assert not on[80:100, 150:170].any()


def test_growing_in_is_inside_and_growing_one_way_is_all_one_way(use):
    common = {"base": "ring", "radius": 30.0, "reach": 10.0, "least": 0.0, **LOUD, **WHITE}
    y, x = np.mgrid[0:180, 0:320] + 0.5
    away = np.hypot(x - 160, y - 90) - 54
    assert away[lit(drawn(use, "spectrum", grow="in", **common), 127)].max() < 1.5
    assert away[lit(drawn(use, "spectrum", grow="out", **common), 127)].min() > -1.5
    fixed = lit(drawn(use, "spectrum", grow="fixed", direction=90, **common), 127)
    assert x[fixed].max() > 160 + 54 + 4 and x[fixed].min() > 160 - 54 - 1.5


@pytest.mark.parametrize("style", list(STYLES))
@pytest.mark.parametrize("mirror_from", ["ends", "middle"])
def test_a_mirrored_half_may_grow_the_other_way(use, style, mirror_from):
    """The left half of a line is as it was; what was above its right half is below it."""
    common = {"style": style, "base": "line", "grow": "out", "mirror": True, "mirror_from": mirror_from, "line": 2.0}
    common |= {"reach": 20.0, "bands": 16, "least": 1.0, "segments": 4} | LOUD | WHITE
    same, other = (
        lit(drawn(use, "spectrum", **common, mirror_grow=grow), 127)[:, :, None] for grow in ("same", "opposite")
    )
    left, right = np.s_[:, :152], np.s_[:, 168:]
    assert same[left].sum() > 50 and (same[left] != other[left]).mean() < 0.002
    turned = other[::-1]
    assert (same[right] & turned[right]).sum() / (same[right] | turned[right]).sum() > 0.8
    assert np.abs(same[right].astype(int) - other[right]).sum() > 50


def test_copies_are_the_figure_again_a_step_further(use):
    common = {
        "base": "ring",
        "radius": 30.0,
        "reach": 4.0,
        "least": 3.0,
        "gap": 0.0,
        "corner": 0.0,
        "quiet_db": -1.0,
        "loud_db": 0.0,
        "grow": "out",
        "bands": 200,
        **WHITE,
    }
    picture = drawn(use, "spectrum", copies=3, copy_size=60.0, copy_opacity=50.0, **common)[..., 0]
    row = picture[90, 160:]
    # Foot of the bars at 54, 32.4 and 19.44 pixels from the middle, as solid as 1, 1/2 and 1/4.
    for radius, level in ((54, 255), (32.4, 127), (19.44, 64)):
        assert row[round(radius + 1.2)] == pytest.approx(level, abs=20)
    shifted = drawn(use, "spectrum", copies=2, copy_size=100.0, copy_x=25.0, copy_opacity=100.0, **common)[..., 0]
    assert shifted[90, 240 + 55] > 200


def test_copies_step_through_the_bands(analysed):
    from velvetdrum.picture.layers.spectrum import Spectrum

    two = Spectrum({"copies": 3, "copy_octaves": 1.0, "low_hz": 100.0, "high_hz": 800.0})
    assert [(round(one.low_hz), round(one.high_hz)) for one in map(two.stepped, range(3))] == [
        (100, 800),
        (200, 1600),
        (400, 3200),
    ]
    shared = Spectrum({"copies": 3, "copy_split": True, "low_hz": 100.0, "high_hz": 800.0})
    assert [(round(one.low_hz), round(one.high_hz)) for one in map(shared.stepped, range(3))] == [
        (100, 200),
        (200, 400),
        (400, 800),
    ]
    # A tone in the middle third shows in the second copy alone.
    use = AudioRange(analysed(sine(283, 2.0, -12.0)), 0.0, 2.0)
    common = {
        "grow": "out",
        "y": 30.0,
        "width": 100.0,
        "reach": 20.0,
        "low_hz": 100.0,
        "high_hz": 800.0,
        "least": 0.0,
        "copies": 3,
        "copy_split": True,
        "copy_size": 100.0,
        "copy_y": 30.0,
        "copy_opacity": 100.0,
        "bands": 8,
        "quiet_db": -40.0,
        "loud_db": -10.0,
        "tilt_db": 0.0,
        **WHITE,
    }
    rows = lit(drawn(use, "spectrum", 1.0, **common)).sum(axis=1)
    assert rows[66:108].sum() > 4 * (rows[:54].sum() + rows[120:].sum())


def test_a_cluster_shares_its_band_and_differs_by_its_seed(use):
    from velvetdrum.picture.figures.marks.clusters import cluster_heights

    heights = np.array([0.2, 0.9, 0.5])
    one, other = (cluster_heights(heights, 5, 0.6, seed, 0.0).reshape(3, 5) for seed in (1, 2))
    assert (one <= heights[:, None] + 1e-12).all() and (one >= heights[:, None] * 0.4 - 1e-12).all()
    assert not np.allclose(one[0] / 0.2, one[1] / 0.9) and not np.allclose(one, other)
    steps = [cluster_heights(heights, 5, 0.6, 1, t / 60) for t in range(240)]
    assert 0.01 < np.abs(np.diff(steps, axis=0)).max() < 0.03
    assert np.array_equal(cluster_heights(heights, 5, 0.6, 1, 2.0), steps[120])


def test_whole_segments_are_on_or_off_and_part_ones_are_as_long_as_asked(analysed):
    use = AudioRange(analysed(sine(1000, 2.0, -33.0)), 0.0, 2.0)
    common = {
        "style": "segments",
        "segments": 4,
        "bands": 4,
        "segment_gap": 0.0,
        "gap": 0.0,
        "corner": 0.0,
        "y": 100.0,
        "width": 100.0,
        "reach": 100.0,
        "grow": "out",
        "tilt_db": 0.0,
        "quiet_db": -60.0,
        "loud_db": -10.0,
        "attack_ms": 0.0,
        "least": 0.0,
        **WHITE,
    }
    column = lit(drawn(use, "spectrum", 1.0, **common), 127)[:, 200].sum()
    assert column == pytest.approx(90, abs=1)
    part = lit(drawn(use, "spectrum", 1.0, partly="part", **common), 127)[:, 200].sum()
    assert part == pytest.approx(180 * 27 / 50, abs=2)


def test_caps_stay_above_their_bars(use):
    bare = drawn(use, "spectrum", at=3.4, y=90.0, grow="out", **LOUD, **WHITE)
    capped = drawn(use, "spectrum", at=3.4, y=90.0, grow="out", caps=True, **LOUD, **WHITE)
    more = lit(capped) & ~lit(bare)
    assert more.any()
    assert (more.argmax(axis=0)[more.any(axis=0)] <= lit(bare).argmax(axis=0)[more.any(axis=0)] + 180).all()


def test_a_steady_tone_stands_still_in_the_scope(analysed):
    use = AudioRange(analysed(sine(1000, 3.0, -6.0)), 0.0, 3.0)
    frames = [drawn(use, "scope", Fraction(60 + n, 60), window_ms=10, line=1.0, gain_db=4.0) for n in range(12)]
    assert all(np.abs(frame - frames[0]).max() <= 6 for frame in frames)
    assert lit(frames[0]).sum() > 400
    free = [drawn(use, "scope", Fraction(60 * 7 + 7 * n, 420), window_ms=10.3, trigger="free") for n in (0, 1)]
    assert np.abs(free[0] - free[1]).max() > 100


@pytest.mark.parametrize(
    ("kind", "settings"),
    [("spectrum", {"style": style}) for style in STYLES] + [("meter", {"look": "bar"}), ("meter", {"look": "dial"})],
)
def test_nothing_flickers_in_a_steady_tone(analysed, kind, settings):
    use = AudioRange(analysed(sine(1000, 6.0, -12.0)), 0.0, 6.0)
    frames = [drawn(use, kind, Fraction(300 + n, 60), **settings) for n in range(0, 24, 3)]
    assert all(np.abs(frame - frames[0]).max() <= 12 for frame in frames)


def test_a_scope_begins_with_the_first_sound(analysed):
    use = AudioRange(analysed(np.concatenate([np.zeros(RATE), sine(200, 2.0, -6.0)])), 0.0, 3.0)
    for style in ("line", "dots", "filled", "mirrored"):
        assert not lit(drawn(use, "scope", 0.9, style=style)).any()
        assert lit(drawn(use, "scope", 1.5, style=style)).any()
    assert not lit(drawn(use, "phase", 0.9)).any()


def test_a_scope_round_a_ring_closes(use):
    picture = lit(
        drawn(use, "scope", base="ring", reach=6.0, radius=30.0, line=0.8, gain_db=10.0, size=FrameSize(640, 360))
    )
    angles = np.linspace(-0.06, 0.06, 25)
    for angle in angles:
        radii = np.arange(80, 140, 0.5)
        x, y = 320 + radii * np.sin(angle), 180 - radii * np.cos(angle)
        assert picture[y.astype(int), x.astype(int)].any()


def test_afterglow_leaves_older_traces_fainter(analysed):
    use = AudioRange(analysed(song(6.0)), 0.0, 6.0)
    plain, glowing = (drawn(use, "scope", 3.01, trigger="free", afterglow_ms=ms) for ms in (0, 300))
    more = lit(glowing) & ~lit(plain, 8)
    assert more.sum() > 100
    assert glowing[more].max() < 245


def test_a_sweep_retraces_a_phrase_that_repeats(analysed):
    phrase = np.concatenate([sine(110 * (n + 2), 0.5, -8.0 - 3 * n) * np.hanning(RATE // 2) for n in range(4)])
    use = AudioRange(analysed(np.tile(phrase, 4)), 0.0, 8.0)
    made = project(black(), new_layer("scope", trigger="beats", beats=4, line=0.6), length=8.0)
    from velvetdrum.signals.grid import BeatSettings

    made = replace(made, beats=BeatSettings({"source": "typed", "tempo_bpm": 120.0}))
    first, second = (render(made, use, Fraction(time), SMALL).astype(int) for time in ("2.9", "4.9"))
    assert np.abs(first - second).max() < 60
    assert similarity(first, second) > 0.995


def test_the_phase_figure_shows_mono_upright_and_opposite_phase_flat(analysed):
    tone = sine(300, 2.0, -3.0)
    spreads = {}
    for name, pair in (("mono", (tone, tone)), ("opposite", (tone, -tone)), ("left", (tone, 0 * tone))):
        use = AudioRange(analysed(np.stack(pair, axis=1)), 0.0, 2.0)
        y, x = np.nonzero(lit(drawn(use, "phase", 1.0)))
        spreads[name] = np.ptp(x), np.ptp(y), np.corrcoef(x, y)[0, 1] if np.ptp(x) > 5 and np.ptp(y) > 5 else 0.0
    assert spreads["mono"][0] <= 4 and spreads["mono"][1] > 60
    assert spreads["opposite"][1] <= 4 and spreads["opposite"][0] > 60
    # Left alone leans to the left: up on the screen is left of the middle, so x and y rise together.
    assert spreads["left"][2] > 0.99


def test_the_whole_track_is_played_from_the_first_sound_to_the_last(analysed):
    use = AudioRange(analysed(np.concatenate([np.zeros(RATE), sine(400, 4.0, -12.0), np.zeros(RATE)])), 0.0, 6.0)
    common = {
        "style": "area",
        "paint": "one",
        "plain": "#ff0000",
        "rest": "#0000ff",
        "rest_opacity": 100.0,
        "width": 100.0,
        "reach": 60.0,
    }
    for at, share in ((0.5, 0.0), (1.0, 0.0), (2.0, 0.25), (4.0, 0.75), (5.5, 1.0)):
        picture = drawn(use, "whole-track", at, **common)
        red, blue = (picture[90, :, channel] > 200 for channel in (0, 2))
        assert red.mean() == pytest.approx(share, abs=0.02)
        assert blue.mean() == pytest.approx(1 - share, abs=0.02)
        revealed = drawn(use, "whole-track", at, played="reveal", **common)
        assert not (revealed[..., 2] > 100).any()


def test_a_rolling_strip_moves_and_does_not_change_while_it_does(use):
    common = {
        "seconds": 2.0,
        "width": 100.0,
        "bars": 40,
        "paint": "one",
        "plain": "#ffffff",
        "rest": "#ffffff",
        "rest_opacity": 100.0,
        "now_line": False,
        "gap": 50.0,
    }
    one = drawn(use, "rolling-strip", 3.0, **common)[..., 0]
    # A twentieth of two seconds is sixteen of 320 pixels.
    other = drawn(use, "rolling-strip", 3.1, **common)[..., 0]
    assert np.abs(one[:, 40:300] - other[:, 24:284]).max() <= 3


@pytest.mark.parametrize("style", ["bar", "segments"])
def test_a_meter_stands_at_its_level(analysed, style):
    use = AudioRange(analysed(sine(1000, 3.0, -12.0)), 0.0, 3.0)
    picture = drawn(
        use,
        "meter",
        2.0,
        look=style,
        columns="mono",
        low_db=-48.0,
        high_db=0.0,
        length=100.0,
        thickness=20.0,
        segments=48,
        segment_gap=0.0,
        unlit=0.0,
        scale=False,
        zones="off",
        corner=0.0,
        hold=False,
        x=50.0,
        ballistics="rms",
        **WHITE,
    )
    assert lit(picture, 127)[:, 160].sum() == pytest.approx(180 * 36 / 48, abs=2)


def test_zones_change_colour_and_shape_at_their_levels(analysed):
    use = AudioRange(analysed(sine(1000, 3.0, 0.0)), 0.0, 3.0)
    common = {
        "look": "bar",
        "columns": "mono",
        "low_db": -40.0,
        "high_db": 0.0,
        "length": 100.0,
        "thickness": 40.0,
        "scale": False,
        "corner": 0.0,
        "hold": False,
        "ballistics": "peak",
        "warning_db": -20.0,
        "over_db": -10.0,
        "safe": "#00ff00",
        "warning": "#ffff00",
        "over": "#ff0000",
        "gap": 0.0,
    }
    picture = drawn(use, "meter", 2.0, **common)
    assert picture[150, 150].tolist() == [0, 255, 0]
    assert picture[70, 150].tolist() == [255, 255, 0]
    assert picture[20, 160].tolist() == [255, 0, 0]
    stripes = [int((np.diff(lit(picture, 127)[row].astype(int)) == 1).sum()) for row in (150, 70, 20)]
    assert stripes == [1, 2, 3]
    plain = drawn(use, "meter", 2.0, zone_shapes=False, **common)
    assert [int((np.diff(lit(plain, 127)[row].astype(int)) == 1).sum()) for row in (150, 70, 20)] == [1, 1, 1]


def test_a_picture_is_uncovered_by_the_level(analysed, tmp_path):
    import cv2

    path = tmp_path / "flag.png"
    stripes = np.zeros((20, 40, 3), np.uint8)
    stripes[:, :20], stripes[:, 20:] = (0, 0, 255), (255, 0, 0)
    cv2.imwrite(str(path), stripes)
    use = AudioRange(analysed(sine(1000, 3.0, -12.0)), 0.0, 3.0)
    key = "a" * 64
    picture = drawn(
        use,
        "meter",
        2.0,
        media={key: str(path)},
        look="uncover",
        image=key,
        columns="mono",
        stands="lying",
        length=160.0,
        thickness=60.0,
        low_db=-48.0,
        high_db=0.0,
        unlit=0.0,
        scale=False,
        corner=0.0,
        gap=0.0,
        hold=False,
        ballistics="rms",
        zones="off",
    )
    row = picture[90]
    assert row[40].tolist() == [255, 0, 0] and row[200].tolist() == [0, 0, 255]
    assert (row.max(axis=1) > 127).sum() == pytest.approx(288 * 0.75, abs=3)
    # A picture that is gone leaves the paint.
    assert lit(drawn(use, "meter", 2.0, look="uncover", image=key, columns="mono", zones="off")).any()


def test_typed_bands():
    assert parse_bands("40-160, 160 - 2.5k,2.5k–15k Hz", 32) == [(40, 160), (160, 2500), (2500, 15_000)]
    for wrong, words in (
        ("", "is none"),
        ("40", "is none"),
        ("160-40", "upward"),
        ("1-9", "10 Hz"),
        (",".join(["40-50"] * 33), "up to 32"),
    ):
        with pytest.raises(ValueError, match=words):
            parse_bands(wrong, 32)


DEFAULTS = [kind for kind in LAYER_KINDS if kind not in ("backdrop", "haze")]


@pytest.mark.parametrize("choice", choices(), ids=lambda choice: f"{choice.design.family}-{choice.design.name}")
def test_a_small_picture_of_every_choice_looks_like_the_large_one(use, choice):
    layer = fitted_layer(choice.kind, choice.design.name, choice.design.settings, use)
    made = project(new_layer("backdrop", fill="plain", plain="#1b1119"), layer)
    large = render(made, use, Fraction(3), FRAMES["wide"])
    small = render(made, use, Fraction(3), FrameSize(960, 540))
    shrunk = large.reshape(540, 2, 960, 2, 4).mean(axis=(1, 3))
    assert similarity(shrunk, small) >= 0.97
    assert choice.design.family in FAMILIES


SOUNDS = {
    "square": lambda: np.where(np.arange(2 * RATE) // 50 % 2, 1.0, -1.0),
    "mono": lambda: sine(440, 2.0, -12.0),
    "silent half": lambda: np.concatenate([sine(440, 0.05, -12.0), np.zeros(2 * RATE)]),
    "short": lambda: sine(440, 0.08, -12.0),
}


@pytest.mark.parametrize("sound", list(SOUNDS))
@pytest.mark.parametrize("kind", DEFAULTS)
def test_any_sound_draws_something_sensible(analysed, sound, kind):
    samples = SOUNDS[sound]()
    use = AudioRange(analysed(samples), 0.0, len(samples) / RATE)
    more = {"channel": "halves"} if kind == "spectrum" else {}
    for at in (Fraction(0), Fraction(use.out_s).limit_denominator(1000) / 2):
        picture = drawn(use, kind, at, **more)
        assert lit(picture, 8).mean() < 0.7
    assert drawn(None, kind, 1.0).shape == (180, 320, 3)


@st.composite
def any_layer(draw):
    """A layer of any kind with some of its settings anywhere in their range."""
    kind = draw(st.sampled_from(sorted(LAYER_KINDS)))
    values = {}
    names = [
        name for name, one in LAYER_KINDS[kind].settings.items() if one.type in ("number", "whole", "choice", "flag")
    ]
    for name in draw(st.lists(st.sampled_from(names), max_size=12, unique=True)):
        setting = LAYER_KINDS[kind].settings[name]
        match setting.type:
            case "choice":
                values[name] = draw(st.sampled_from([key for key, _ in setting.choices]))
            case "flag":
                values[name] = draw(st.booleans())
            case "whole":
                values[name] = draw(st.integers(int(setting.lo), min(int(setting.hi), 40)))
            case _:
                values[name] = draw(st.floats(setting.lo, setting.hi))
    if LAYER_KINDS[kind].problems(values):
        # Some values belong together: ranges of level and pitch, and when a layer comes and goes.
        values = {name: value for name, value in values.items() if not name.endswith(("_db", "_hz", "_at"))}
    return new_layer(kind, **values)


@seed(11)
@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(st.lists(any_layer(), min_size=1, max_size=3), st.permutations([0, 7, 45, 101, 179]))
def test_equal_frames_in_any_order_whatever_the_scene(use, layers, order):
    made = project(black(), *layers, frame=FrameSize(160, 90))
    ahead = {n: render(made, use, Fraction(n, 30)).tobytes() for n in sorted(order)}
    again = {n: render(made, use, Fraction(n, 30)).tobytes() for n in order}
    assert ahead == again


def test_echoes_are_earlier_spectra_smaller_and_dimmer(use):
    """Under the spectrum of now lie those before it; without any it is what it was."""
    settings = {
        "grow": "out",
        "y": 90.0,
        "reach": 60.0,
        "bands": 12,
        "paint": "one",
        "plain": "#ffffff",
        "base": "line",
    }
    plain = drawn(use, "spectrum", 2.0, **settings)
    echoed = drawn(use, "spectrum", 2.0, echoes=3, echo_ms=120, echo_size=90, echo_opacity=50, **settings)
    assert np.all(echoed >= plain - 1) and (echoed > plain + 20).any()
    solid = plain.max(axis=2) > 250
    assert np.abs(echoed[solid] - plain[solid]).max() <= 5, "in front stands the spectrum of now"
    first = drawn(use, "spectrum", 0.05, echoes=3, echo_ms=120, **settings)
    assert np.array_equal(first, drawn(use, "spectrum", 0.05, **settings)), "nothing from before the start"


def test_mid_and_side_stand_on_two_halves(use):
    halves = drawn(use, "spectrum", 2.0, channel="mid-side", bands=8, grow="out")
    mid = drawn(use, "spectrum", 2.0, channel="mid", bands=8, grow="out")
    assert lit(halves)[:, :160].any()
    assert not np.array_equal(halves, mid)
