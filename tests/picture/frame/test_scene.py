"""Scenes: groups, masks together, keyframes, overrides, what is kept; and equal frames in any order."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.picture.media.clips import write_clip
from tests.picture.scenes import SMALL, black, blended, drawn, lit, project, similarity
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.frame.animation import keyed_value
from velvetdrum.picture.frame.handles import handles, misfits
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_document, new_layer, new_patch, parse
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.scene.keyframes import Keyframe
from velvetdrum.scene.kinds import BLEND_MODES, LAYER_KINDS
from velvetdrum.scene.masks import new_mask
from velvetdrum.scene.signal_part import new_signal

WHITE = {"plain": "#ffffff"}
RED = {"plain": "#ff0000"}


def shape(name="Box", group="", **given):
    return new_layer("shape", name, form="rectangle", **{"width": 40.0, "height": 40.0} | given) | {"group": group}


def shown(*layers, at=0.0, size=SMALL, frame="wide", media=None):
    made = project(*layers, frame=frame)
    return render(made, None, Fraction(at).limit_denominator(10_000), size, media=media)[..., 2::-1].astype(int)


# Groups


def test_a_group_draws_its_members_in_their_order():
    group = new_layer("group")
    back, front = shape(group=group["id"], **RED), shape(group=group["id"], width=20.0, **WHITE)
    beside = shape(x=80.0, width=10.0, **WHITE)
    assert np.array_equal(
        shown(black(), group, back, front, beside), shown(black(), back | {"group": ""}, front | {"group": ""}, beside)
    )
    assert np.array_equal(shown(black(), back, front, group, beside), shown(black(), group, back, front, beside))


def test_a_group_fades_as_one():
    group = new_layer("group", layer_opacity=50.0)
    under, over = shape(group=group["id"], **RED), shape(group=group["id"], width=20.0, **WHITE)
    picture = shown(black(), group, under, over)
    # One by one the upper would let the lower through.
    assert np.allclose(picture[90, 160], (127, 127, 127), atol=2) and np.allclose(picture[90, 130], (127, 0, 0), atol=2)


def test_a_group_moves_turns_and_scales_its_members():
    group = new_layer("group", spin=90.0, scale_x=50.0, scale_y=50.0, move_x=10.0)
    member = shape(group=group["id"], x=65.0, width=40.0, height=20.0, **WHITE)
    picture = lit(shown(black(), group, member))
    rows, columns = np.flatnonzero(picture.any(axis=1)), np.flatnonzero(picture.any(axis=0))
    # 48 px right of the middle, at half size 24, turned a quarter: 24 below; and 32 to the right for the group's move.
    assert (columns.mean() + 0.5, rows.mean() + 0.5) == pytest.approx((192, 114), abs=0.6)
    assert (np.ptp(columns) + 1, np.ptp(rows) + 1) == pytest.approx((18, 36), abs=1.5)


@pytest.mark.parametrize(("flip_x", "flip_y"), [(True, False), (False, True), (True, True)])
def test_a_flipped_layer_is_the_mirror_image_about_its_anchor(flip_x, flip_y):
    def frame(**settings):
        shape = new_layer("shape", form="polygon", sides=3, radius=20.0, turn=20.0, x=40.0, y=60.0, **settings)
        return render(project(black(), shape), None, Fraction(1), SMALL)

    flipped = frame(flip_x=flip_x, flip_y=flip_y).astype(int)
    expected = frame().astype(int)
    if flip_x:
        expected = expected[:, ::-1]
    if flip_y:
        expected = expected[::-1]
    assert expected[..., :3].max() > 200
    assert np.abs(flipped - expected).max() <= 24, "but for its smoothed edges"


def test_groups_nest_and_their_marks_reach_their_members():
    outer = new_layer("group", "Outer")
    inner = new_layer("group", "Inner") | {"group": outer["id"]}
    member = shape(group=inner["id"], **WHITE)
    assert lit(shown(black(), outer, inner, member)).any()
    for hidden in (outer, inner, member):
        layers = [layer | {"visible": layer is not hidden} for layer in (outer, inner, member)]
        assert not lit(shown(black(), *layers)).any()
    other = shape(x=90.0, width=10.0, **WHITE)
    alone = shown(black(), outer, inner | {"solo": True}, member, other)
    assert lit(alone)[90, 160] and not lit(alone)[90, 288]
    timed = outer | {"settings": outer["settings"] | {"from_at": "time", "from_s": 1.0, "to_at": "time", "to_s": 2.0}}
    assert not lit(shown(black(), timed, inner, member, at=0.5)).any()
    assert lit(shown(black(), timed, inner, member, at=1.5)).any()


def test_a_group_blends_with_what_is_behind_it_unless_it_is_isolated():
    ground = new_layer("backdrop", fill="plain", plain="#808080")
    for isolate, expected in ((False, 128 * 64 // 255), (True, 64)):
        group = new_layer("group", isolate=isolate)
        member = shape(group=group["id"], plain="#404040", blend="multiply")
        assert shown(ground, group, member)[90, 160, 0] == pytest.approx(expected, abs=1)


def test_a_masked_group_shows_through_its_mask_only():
    group = new_layer("group") | {"masks": [new_mask("shape", form="rectangle", width=20.0, height=20.0)]}
    picture = lit(shown(black(), group, shape(group=group["id"], **WHITE)))
    assert picture.sum() == pytest.approx(36 * 36, abs=80)


# Masks


def cover(*masks, at=None):
    layer = new_layer("backdrop", fill="plain", plain="#ffffff") | {"masks": list(masks)}
    return shown(black(), layer)[..., 0] / 255


def test_masks_are_joined_as_the_standard_says():
    one = new_mask("shape", form="rectangle", width=60.0, height=60.0, feather=8.0)
    other = {"form": "ellipse", "x": 60.0, "width": 60.0, "height": 60.0, "feather": 5.0}
    a, b = cover(one), cover(new_mask("shape", **other))
    for join, expected in (("add", a + b - a * b), ("subtract", a * (1 - b)), ("intersect", a * b)):
        assert np.abs(cover(one, new_mask("shape", **other, join=join)) - expected).max() < 0.012, join
    assert np.abs(cover(new_mask("shape", **other, join="subtract")) - (1 - b)).max() < 0.012
    assert np.abs(cover(new_mask("shape", **other, strength=40.0)) - (0.6 + 0.4 * b)).max() < 0.012


def test_another_layer_masks_by_how_solid_or_how_light_it_is():
    rainbow = new_layer("backdrop", fill="plain", plain="#ffffff")
    reader = shape(plain="#404040", width=50.0, layer_opacity=80.0) | {"visible": False}
    for by, expected in (("alpha", 0.8), ("luminance", 0.8 * 0.25)):
        masked = rainbow | {"masks": [new_mask("layer", source=reader["id"], by=by)]}
        picture = shown(black(), masked, reader)[..., 0] / 255
        assert picture[90, 160] == pytest.approx(expected, abs=0.01) and picture[90, 20] == 0
    outside = rainbow | {"masks": [new_mask("layer", source=reader["id"], invert=True)]}
    assert shown(black(), outside, reader)[90, 20, 0] == 255


@pytest.mark.parametrize("feather", [5e-324, 1e-6, 5.0, 20.0, 60.0])
def test_any_feather_on_a_narrow_layer_is_drawn(feather):
    reader = shape(**WHITE) | {"visible": False}
    for width, height in ((0.5, 90.0), (90.0, 0.5), (0.5, 0.5)):
        for mask in (new_mask("shape", feather=feather), new_mask("layer", source=reader["id"], feather=feather)):
            masked = shape(width=width, height=height, **WHITE) | {"masks": [mask]}
            assert shown(black(), reader, masked).max() > 0


def test_a_mask_goes_with_its_layer_or_stays():
    wide = {"width": 160.0, "height": 90.0, "move_x": 20.0, **WHITE}
    masked = shape(**wide) | {"masks": [new_mask("shape", width=20.0, height=20.0)]}
    assert np.flatnonzero(lit(shown(black(), masked)).any(axis=0)).mean() + 0.5 == pytest.approx(224, abs=1)
    masked = shape(**wide) | {"masks": [new_mask("shape", width=20.0, height=20.0, follow=False)]}
    assert np.flatnonzero(lit(shown(black(), masked)).any(axis=0)).mean() + 0.5 == pytest.approx(160, abs=1)


def test_a_mask_is_keyed_and_patched_like_any_setting():
    mask = new_mask("shape", form="rectangle", width=20.0, height=20.0)
    beat = new_signal("lfo", shape="saw", rate_hz=0.5)
    layer = new_layer("backdrop", fill="plain", plain="#ffffff") | {
        "masks": [mask],
        "keyframes": {f"mask:{mask['id']}:x": [{"time_s": 0, "value": 20.0}, {"time_s": 2, "value": 80.0}]},
        "patches": [new_patch(f"mask:{mask['id']}:height", beat, 0.0, 40.0, "add")],
    }
    made = parse(new_document("M", frame=FRAMES["wide"], rate=Fraction(30), layers=[black(), layer], signals=[beat]))
    picture = lit(render(made, None, Fraction(1), SMALL)[..., 2::-1])
    assert np.flatnonzero(picture.any(axis=0)).mean() + 0.5 == pytest.approx(160, abs=1)
    assert picture.any(axis=1).sum() == pytest.approx(72, abs=2)


# Keyframes and overrides


@pytest.mark.parametrize(
    ("ease", "part", "expected"),
    [
        ("linear", 0.25, 0.25),
        ("hold", 0.99, 0.0),
        ("ease", 0.5, 0.8024),
        ("ease-in", 0.5, 0.3154),
        ("ease-out", 0.5, 0.6846),
        ("ease-in-out", 0.5, 0.5),
        ("cubic-bezier(0, 0, 1, 1)", 0.3, 0.3),
        ("cubic-bezier(0.3, 1.6, 0.5, 1)", 0.4, 1.0896),
        ("steps(4, jump-end)", 0.3, 0.25),
        ("steps(4, jump-start)", 0.3, 0.5),
        ("steps(3, jump-none)", 0.4, 0.5),
        ("steps(3, jump-both)", 0.4, 0.5),
        ("steps(2)", 0.49, 0.0),
    ],
)
def test_keyframes_ease_as_css_does(ease, part, expected):
    setting = LAYER_KINDS["shape"].settings["x"]
    frames = (Keyframe(1.0, 10.0, ease), Keyframe(3.0, 20.0, "linear"))
    assert keyed_value(setting, frames, 1 + 2 * part) == pytest.approx(10 + 10 * expected, abs=0.002)
    assert keyed_value(setting, frames, 0.0) == 10 and keyed_value(setting, frames, 9.0) == 20


def test_keyed_colours_are_mixed_even_to_the_eye_and_numbers_stay_in_range():
    colour = LAYER_KINDS["shape"].settings["plain"]
    frames = (Keyframe(0.0, "#ff0000", "linear"), Keyframe(1.0, "#0000ff", "linear"))
    # Half way in Oklab, as CSS color-mix(in oklab, red, blue) gives it.
    assert keyed_value(colour, frames, 0.5) == "#8c53a2"
    opacity = LAYER_KINDS["shape"].settings["layer_opacity"]
    over = (Keyframe(0.0, 0.0, "cubic-bezier(0.3, 1.6, 0.5, 1)"), Keyframe(1.0, 100.0, "linear"))
    assert keyed_value(opacity, over, 0.4) == 100.0


def test_keyframes_come_first_and_patches_move_what_they_make():
    rise = new_signal("lfo", shape="saw", rate_hz=0.1)
    layer = shape(**WHITE) | {
        "keyframes": {"x": [{"time_s": 0, "value": 20.0}, {"time_s": 10, "value": 80.0}]},
        "patches": [new_patch("x", rise, 0.0, 10.0, "add")],
    }
    made = parse(new_document("K", frame=FRAMES["wide"], rate=Fraction(30), layers=[black(), layer], signals=[rise]))
    picture = lit(render(made, None, Fraction(5), SMALL)[..., 2::-1])
    assert (np.flatnonzero(picture.any(axis=0)).mean() + 0.5) / 320 == pytest.approx(0.55, abs=0.003)


def test_a_signal_goes_between_two_keyframed_poses():
    rise = new_signal("lfo", shape="saw", rate_hz=0.1)
    poses = {
        "x": [{"time_s": 1, "value": 20.0}, {"time_s": 1.5, "value": 80.0}],
        "turn": [{"time_s": 1, "value": 0.0}, {"time_s": 1.5, "value": 90.0}],
    }
    layer = shape(width=40.0, height=10.0, **WHITE) | {
        "keyframes": poses,
        "patches": [new_patch(name, rise, 0.0, 0.0, "poses") for name in poses],
    }
    made = parse(new_document("P", frame=FRAMES["wide"], rate=Fraction(30), layers=[black(), layer], signals=[rise]))
    for at, part in ((0, 0.0), (5, 0.5), (9.99, 0.999)):
        picture = lit(render(made, None, Fraction(at).limit_denominator(1000), SMALL)[..., 2::-1])
        middle = (np.flatnonzero(picture.any(axis=0)).mean() + 0.5) / 320
        assert middle == pytest.approx(0.2 + 0.6 * part, abs=0.004)
    assert np.ptp(np.flatnonzero(picture.any(axis=1))) > np.ptp(np.flatnonzero(picture.any(axis=0)))


def test_a_tall_frame_has_its_own_place_for_a_layer():
    layer = shape(**WHITE) | {
        "frames": {"tall": {"x": 30.0}},
        "keyframes": {"x": [{"time_s": 0, "value": 80.0}]},
    }
    for size, place in ((SMALL, 0.8), (FrameSize(180, 180), 0.8), (FrameSize(180, 320), 0.3)):
        picture = lit(shown(black(), layer, size=size))
        assert (np.flatnonzero(picture.any(axis=0)).mean() + 0.5) / size.width == pytest.approx(place, abs=0.01)


# Handles


@given(
    x=st.floats(30, 70),
    y=st.floats(30, 70),
    width=st.floats(10, 40),
    height=st.floats(10, 40),
    turn=st.floats(-180, 180),
    spin=st.floats(-180, 180),
    scale=st.floats(60, 150),
    skew=st.floats(-20, 20),
)
@settings(max_examples=40)
def test_handles_lie_on_what_is_drawn(x, y, width, height, turn, spin, scale, skew):
    group = new_layer("group", move_x=3.0, spin=10.0)
    # An even ellipse has no corner that antialiasing hides.
    layer = new_layer(
        "shape",
        form="rectangle",
        x=x,
        y=y,
        width=width,
        height=height,
        spin=spin,
        scale_x=scale,
        skew_x=skew,
        anchor_x=x,
        anchor_y=y,
        plain="#ffffff",
    ) | {"group": group["id"]}
    made = project(black(), group, layer)
    size = FrameSize(640, 360)
    found = handles(made, None, Fraction(0), size)[2]
    corners = np.array(found.corners)
    if corners.min() < 2 or corners[:, 0].max() > 638 or corners[:, 1].max() > 358:
        return
    picture = render(made, None, Fraction(0), size)[..., 0].astype(float) / 255
    rows, columns = np.arange(360) + 0.5, np.arange(640) + 0.5
    area = picture.sum()
    polygon = 0.5 * abs(
        sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True))
    )
    # An edge that crosses pixels aslant is off by up to a quarter of a pixel along its length.
    edge = np.hypot(*(corners - np.roll(corners, -1, axis=0)).T).sum()
    assert area == pytest.approx(polygon, rel=0.02, abs=0.25 * edge)
    middle = ((picture.sum(axis=0) * columns).sum() / area, (picture.sum(axis=1) * rows).sum() / area)
    assert middle == pytest.approx(corners.mean(axis=0).tolist(), abs=0.5)
    lit_rows, lit_columns = np.flatnonzero(picture.max(axis=1) > 0.5), np.flatnonzero(picture.max(axis=0) > 0.5)
    edges = (corners[:, 0].min(), corners[:, 1].min(), corners[:, 0].max(), corners[:, 1].max())
    # A sharp corner covers less than half of its last pixels.
    assert (lit_columns[0], lit_rows[0], lit_columns[-1] + 1, lit_rows[-1] + 1) == pytest.approx(edges, abs=2.5)


@pytest.mark.parametrize(
    ("kind", "more"),
    [
        ("shape", {"form": "ellipse", "turn": 0}),
        ("shape", {"form": "star", "sides": 8, "stroked": True, "stroke": 2.0}),
        ("shape", {"form": "path", "turn": 30.0}),
        ("graticule", {"mask": "round", "opacity": 100.0, "line": 1.0}),
        ("phase", {}),
        ("meter", {"scale": False, "unlit": 100.0}),
    ],
)
def test_the_box_of_a_kind_holds_what_it_draws(use, kind, more):
    layer = new_layer(kind, **more)
    made = project(black(), layer)
    size = FrameSize(640, 360)
    left, top, right, bottom = handles(made, use, Fraction(3), size)[1].box
    picture = lit(render(made, use, Fraction(3), size)[..., 2::-1], 30)
    rows, columns = np.flatnonzero(picture.any(axis=1)), np.flatnonzero(picture.any(axis=0))
    margin = 4 if kind == "graticule" else 1.5
    assert columns[0] >= left - margin and columns[-1] + 1 <= right + margin
    assert rows[0] >= top - margin and rows[-1] + 1 <= bottom + margin
    if kind == "shape":
        assert (columns[0], columns[-1] + 1, rows[0], rows[-1] + 1) == pytest.approx(
            (left, right, top, bottom), abs=1.0
        )


def test_what_does_not_fit_a_frame_is_said():
    inside, out, low = shape("Inside", **WHITE), shape("Out", x=0.0), shape("Low", y=90.0, height=8.0)
    made = project(black(), inside, out, low)
    said = misfits(made, handles(made, None, Fraction(0), FrameSize(1920, 1080)), FrameSize(1920, 1080))
    assert said == [
        "Out lies 50% outside of the wide frame.",
        "Low lies under the channel's progress line in the wide frame.",
    ]
    tall = FrameSize(1080, 1920)
    said = misfits(made, handles(made, None, Fraction(0), tall), tall)
    assert "Low lies under the channel's caption in the tall frame." in said
    masked = shape("Out", x=0.0) | {"masks": [new_mask("shape", x=20.0, width=10.0, height=10.0)]}
    made = project(black(), masked)
    assert misfits(made, handles(made, None, Fraction(0), FrameSize(1920, 1080)), FrameSize(1920, 1080)) == []


# What is kept, and purity


def test_a_still_layer_is_drawn_once(monkeypatch):
    from velvetdrum.picture.layers.shape import Shape

    calls = []
    drawing = Shape.draw
    monkeypatch.setattr(Shape, "draw", lambda self, canvas, at: calls.append(1) or drawing(self, canvas, at))
    made = project(black(), shape(x=41.7, **WHITE))
    frames = [render(made, None, Fraction(n, 30), SMALL).copy() for n in range(20)]
    assert len(calls) == 1 and all(np.array_equal(frames[0], frame) for frame in frames)
    moving = project(
        black(),
        shape(x=41.7, **WHITE) | {"keyframes": {"x": [{"time_s": 0, "value": 1.0}, {"time_s": 1, "value": 9.0}]}},
    )
    for n in range(3):
        render(moving, None, Fraction(n, 30), SMALL)
    assert len(calls) == 4


@pytest.fixture(scope="module")
def media(tmp_path_factory):
    folder = tmp_path_factory.mktemp("media")
    (folder / "lamp.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4" fill="#fc8"/></svg>'
    )
    return {"a" * 64: str(folder / "lamp.svg"), "b" * 64: str(write_clip(folder / "clip.mp4", 40))}


KINDS = st.sampled_from(
    ["backdrop", "shape", "spectrum", "scope", "meter", "logo", "footage", "haze", "group", "whole-track"]
)


@st.composite
def scenes(draw):
    """A random scene: layers of all kinds in groups, masked, keyed, patched, blended, placed, for a while."""
    beat = new_signal("lfo", rate_hz=1.3)
    layers = []
    for number in range(draw(st.integers(2, 6))):
        kind = draw(KINDS)
        values = {"blend": draw(st.sampled_from(BLEND_MODES)), "layer_opacity": draw(st.sampled_from([100.0, 60.0]))}
        if draw(st.booleans()):
            values |= {
                "spin": draw(st.floats(-90, 90)),
                "scale_x": draw(st.floats(50, 150)),
                "move_x": draw(st.floats(-20, 20)),
            }
        if draw(st.booleans()):
            values |= {"to_at": "time", "to_s": 2.0, "fade_out_s": 1.0}
        values |= {"logo": {"image": "a" * 64}, "footage": {"clip": "b" * 64, "shake": 9.0}}.get(kind, {})
        layer = new_layer(kind, f"L{number}", **values)
        groups = [other["id"] for other in layers if other["kind"] == "group"]
        layer["group"] = draw(st.sampled_from(["", *groups]))
        if draw(st.booleans()):
            layer["masks"] = [
                new_mask("shape", feather=draw(st.floats(0, 10)), join=draw(st.sampled_from(["add", "subtract"])))
            ]
        if layers and draw(st.integers(0, 3)) == 0:
            layer["masks"] += (
                [new_mask("layer", source=layers[0]["id"])]
                if layer["group"] == "" and layers[0]["group"] == "" and kind != "group"
                else []
            )
        if draw(st.booleans()):
            edges = draw(st.sampled_from(["hold", "clear"]))
            layer["effects"] = [new_effect("soft-blur", radius=draw(st.floats(0, 9)), edges=edges)]
        if draw(st.booleans()):
            layer["keyframes"] = {"move_y": [{"time_s": 0, "value": -9.0, "ease": "ease"}, {"time_s": 2, "value": 9.0}]}
        if draw(st.booleans()):
            layer["patches"] = [new_patch("layer_opacity", beat, 20.0, 100.0)]
        layers.append(layer)
    return new_document("Random", frame=FRAMES["wide"], rate=Fraction(30), layers=layers, signals=[beat]) | {
        "length_s": 4.0
    }


@given(document=scenes(), order=st.permutations([0, 7, 31, 44, 59, 60, 95]))
@settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture])
def test_frames_are_equal_in_any_order(use, media, document, order):
    made = parse(document)
    size = FrameSize(160, 90)
    straight = {n: render(made, use, made.time_of(n), size, media=media).tobytes() for n in sorted(order)}
    # What was kept on the way makes no difference either.
    SHARED_CACHE.clear()
    for n in order:
        assert render(made, use, made.time_of(n), size, media=media).tobytes() == straight[n]


def test_a_scene_looks_the_same_at_half_size(use, media):
    group = new_layer("group", spin=12.0, scale_x=90.0)
    ring = new_layer(
        "spectrum", base="ring", radius=30.0, reach=20.0, grow="out", bands=24, paint="one", plain="#ffffff"
    )
    ring |= {"group": group["id"], "masks": [new_mask("shape", width=90.0, height=90.0, feather=10.0)]}
    made = project(
        new_layer("backdrop"),
        new_layer("footage", clip="b" * 64, fit="stretch", blend="screen", layer_opacity=40.0),
        group,
        ring,
    )
    full = render(made, use, Fraction(2), FrameSize(640, 360), media=media)
    half = render(made, use, Fraction(2), FrameSize(320, 180), media=media)
    import cv2

    assert similarity(cv2.resize(half, (640, 360), interpolation=cv2.INTER_CUBIC), full) > 0.97


def test_alpha_edges_are_premultiplied_through_groups():
    group = new_layer("group", layer_opacity=99.0)
    edge = new_layer("shape", form="ellipse", plain="#ffffff", spin=20.0, scale_x=130.0) | {
        "group": group["id"],
        "masks": [new_mask("shape", feather=8.0, width=30.0, height=30.0)],
    }
    picture = shown(new_layer("backdrop", fill="plain", plain="#ffffff"), group, edge)
    assert picture.min() >= 252


def test_blending_over_nothing_is_the_source():
    rng = np.random.default_rng(5)
    above = rng.integers(0, 256, (8, 8, 4)).astype(np.uint8)
    above[..., :3] = np.minimum(above[..., :3], above[..., 3:])
    for mode in BLEND_MODES:
        found = blended(np.zeros((8, 8, 4), np.uint8), above, mode)
        assert np.abs(found.astype(int) - above).max() <= 1, mode


def test_footage_shows_inside_of_letters(media, use):
    letters = new_layer(
        "spectrum",
        "Letters",
        base="text",
        words="LAMP",
        style="bars",
        size=120.0,
        least=2.0,
        gap=0.0,
        grow="both",
        reach=2.0,
        paint="one",
        plain="#ffffff",
    ) | {"visible": False}
    clip = new_layer("footage", clip="b" * 64, fit="stretch") | {"masks": [new_mask("layer", source=letters["id"])]}
    made = project(black(), letters, clip)
    picture = render(made, use, Fraction(1), SMALL, media=media)
    assert 100 < lit(picture[..., 2::-1]).sum() < 320 * 180 * 0.5
    assert drawn(use, "spectrum", 1.0).shape == (180, 320, 3)
