"""The stages of a layer: what is drawn beyond the frame, effects and their order, backgrounds, other times, stillness."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, seed, settings
from hypothesis import strategies as st

from tests.picture.scenes import SMALL, black, project
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.looks.presets import choices, fitted_layer
from velvetdrum.picture.effects.soft_blur import SoftBlur
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.picture.layers.shape import Shape
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.scene.document import new_layer, new_patch, parse
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.masks import new_mask
from velvetdrum.scene.problems import ProjectError
from velvetdrum.scene.signal_part import new_signal

WHITE = {"paint": "one", "plain": "#ffffff"}


def box(name="Box", effects=(), masks=(), **given):
    """A white rectangle."""
    made = new_layer("shape", name, **{"form": "rectangle", "width": 40.0, "height": 40.0, **WHITE} | given)
    return made | {"effects": list(effects), "masks": list(masks)}


def blur(radius=4.0, **more):
    return new_effect("soft-blur", radius=radius, **more)


def shown(*layers, at=0.0, background="opaque", size=SMALL, frame="wide"):
    made = project(*layers, frame=frame)
    return render(made, None, Fraction(at).limit_denominator(10_000), size, background=background).astype(int)


# Beyond the frame


def test_what_lies_beyond_the_frame_is_there_for_a_blur():
    # A box whose right edge is the frame's left one: blurred it reaches in.
    outside = box(x=-11.25, effects=[blur(5.0)])
    column = shown(black(), outside)[90, :, 0]
    # A Gaussian of sigma 9 from an edge: at 0.5 and 9.5 pixels from it.
    assert column[0] == pytest.approx(255 * 0.478, abs=4) and column[9] == pytest.approx(255 * 0.146, abs=4)
    assert shown(black(), outside | {"effects": []})[..., 0].max() == 0


def test_a_moved_layer_is_not_cut_where_the_frame_ended():
    moved = box(x=0.0, move_x=50.0)
    assert np.array_equal(shown(black(), moved), shown(black(), box(x=50.0)))


def test_a_picture_that_fills_the_frame_keeps_its_edges_or_fades():
    ground = new_layer("backdrop", fill="plain", plain="#808080")
    held = shown(black(), ground | {"effects": [blur(8.0)]})
    assert (held[..., :3] == 128).all() and (held[..., 3] == 255).all()
    faded = shown(black(), ground | {"effects": [blur(8.0, edges="clear")]})
    assert faded[90, 160, 0] == 128 and faded[0, 0, 0] == pytest.approx(128 / 4, abs=3)


@pytest.mark.parametrize("choice", choices(), ids=lambda choice: f"{choice.design.family}-{choice.design.name}")
def test_all_that_a_design_draws_lies_where_it_says(use, choice):
    layer = fitted_layer(choice.kind, choice.design.name, choice.design.settings, use)
    view = ProjectView(project(layer), use).at(Fraction(3), SMALL)
    (placed,) = view.project.layers
    item = view.shown(placed)
    around = (-160, -90, 480, 270)
    canvas = Canvas(320, 180, around)
    canvas.clear_through()
    item.layer.draw(canvas, view.moment(item.layer))
    image = LayerImage(*around[:2], canvas.pixels).trimmed()
    if image.empty:
        return
    drawn = image.bounds
    bounds = item.layer.paint_bounds(canvas, view.moment(item.layer)).pixels(around)
    assert drawn[0] >= bounds[0] and drawn[1] >= bounds[1] and drawn[2] <= bounds[2] and drawn[3] <= bounds[3]
    # What it touched is known, too: a group is as large as that.
    touched = canvas.touched or (0, 0, 0, 0)
    assert touched[0] <= drawn[0] and touched[3] >= drawn[3]


def test_an_area_of_a_frame_is_what_the_whole_frame_has_there(use):
    layers = [fitted_layer(kind, kind, {}, use) for kind in ("spectrum", "scope", "shape", "graticule")]
    stage = ProjectView(project(new_layer("backdrop"), *layers), use).at(Fraction(3), SMALL)
    whole = Canvas(320, 180)
    stage.draw_frame(whole)
    part = Canvas(320, 180, (40, 30, 200, 150))
    stage.draw_frame(part)
    # The grain that keeps gradients from banding lies anew: a level or two.
    assert np.abs(part.pixels.astype(int) - whole.pixels[30:150, 40:200]).max() <= 2


# Effects


def test_effects_work_in_their_order_and_only_while_they_are_on():
    sharp = shown(black(), box())
    soft = shown(black(), box(effects=[blur(2.0)]))
    softer = shown(black(), box(effects=[blur(2.0), blur(2.0)]))
    off = [blur(2.0) | {"on": False}]
    assert np.array_equal(shown(black(), box(effects=off)), sharp) and not np.array_equal(soft, sharp)
    # Two blurs are one of their radii's root sum of squares.
    once = shown(black(), box(effects=[blur(float(np.hypot(2.0, 2.0)))]))
    assert np.abs(softer - once).max() <= 3


def test_masks_cut_what_effects_have_left():
    mask = new_mask("shape", form="rectangle", width=20.0, height=20.0)
    picture = shown(black(), box(effects=[blur(6.0)], masks=[mask]))
    # The mask's edge is sharp, however soft the layer is.
    assert picture[90, 160 + 17, 0] > 200 and picture[90, 160 + 19, 0] == 0


def test_a_mask_that_is_off_hides_nothing():
    mask = new_mask("shape", form="rectangle", width=10.0, height=10.0)
    assert np.array_equal(shown(black(), box(masks=[mask | {"on": False}])), shown(black(), box()))


def test_keyframes_and_signals_move_an_effect():
    layer = box(effects=[blur(0.0)])
    place = f"effect:{layer['effects'][0]['id']}:radius"
    layer["keyframes"] = {place: [{"time_s": 0, "value": 0, "ease": "linear"}, {"time_s": 2, "value": 4}]}
    assert np.array_equal(shown(black(), layer, at=1.0), shown(black(), box(effects=[blur(2.0)])))
    signal = new_signal("drawn", "Up", curve=[{"time_s": 0, "value": 0.0}, {"time_s": 2, "value": 1.0}])
    patched = box(effects=[blur(1.0)])
    patched["patches"] = [new_patch(f"effect:{patched['effects'][0]['id']}:radius", signal, 0.0, 2.0, "add")]
    document = {
        "format": "velvetdrum-project",
        "version": 4,
        "name": "T",
        "frame": {"width": 1920, "height": 1080},
        "rate": "30",
        "length_s": 6,
        "tracks": [],
        "signals": [signal],
        "layers": [black(), patched],
    }
    found = render(parse(document), None, Fraction(2), SMALL).astype(int)
    assert np.array_equal(found, shown(black(), box(effects=[blur(3.0)])))


def test_what_is_wrong_with_an_effect_is_said_at_its_place():
    layer = box(effects=[blur(99.0), {"id": "a", "kind": "none"}, blur() | {"on": 3}])
    with pytest.raises(ProjectError) as caught:
        project(layer)
    paths = {problem.path for problem in caught.value.problems}
    assert paths == {
        "/layers/0/effects/0/settings/radius",
        "/layers/0/effects/1/kind",
        "/layers/0/effects/2/on",
    }


@pytest.mark.parametrize("size", [(320, 180), (640, 360), (961, 541), (180, 320)])
def test_a_blurred_layer_lies_where_the_sharp_one_does_at_any_size(size):
    width, height = size
    frame = FrameSize(width // 2 * 2, height // 2 * 2)
    effects = [blur(3.0)]
    soft = shown(box(effects=effects), background="transparent", size=frame, frame=frame)[..., 3]
    sharp = shown(box(), background="transparent", size=frame, frame=frame)[..., 3]
    rows, columns = np.mgrid[0 : frame.height, 0 : frame.width]
    middles = [np.array([(alpha * rows).sum(), (alpha * columns).sum()]) / alpha.sum() for alpha in (soft, sharp)]
    assert np.abs(middles[0] - middles[1]).max() < 0.1
    assert soft.sum() == pytest.approx(sharp.sum(), rel=0.01)


# Background


def test_a_transparent_background_has_true_alpha_and_no_fringe(use):
    layers = [
        fitted_layer("spectrum", "Bars", {"opacity": 70.0}, use),
        box(x=30.0, corner=8.0, effects=[blur(2.0)], layer_opacity=60.0),
    ]
    made = project(*layers)
    clear = render(made, use, Fraction(3), SMALL, background="transparent").astype(float)
    assert (clear[..., :3] <= clear[..., 3:] + 1).all() and clear[0, 0, 3] == 0 and clear[..., 3].max() > 150
    for plain, word in (("#000000", 0.0), ("#ffffff", 255.0)):
        over = clear[..., :3] + word * (1 - clear[..., 3:] / 255)
        ground = new_layer("backdrop", fill="plain", plain=plain)
        straight = render(project(ground, *layers), use, Fraction(3), SMALL)[..., :3]
        assert np.abs(over - straight).max() <= 2.5


def test_an_opaque_frame_is_opaque_whatever_is_in_it():
    assert (shown(box(layer_opacity=30.0))[..., 3] == 255).all()


# Times


def test_a_project_can_be_seen_at_several_times_for_one_frame():
    layer = box()
    layer["keyframes"] = {"x": [{"time_s": 0, "value": 20, "ease": "linear"}, {"time_s": 4, "value": 80}]}
    view = ProjectView(project(black(), layer), None)
    canvas = Canvas(320, 180)
    for time in (3, 1, 2, 1):
        view.at(Fraction(time), SMALL).draw_frame(canvas)
        alone = render(view.project, None, Fraction(time), SMALL)
        assert np.array_equal(canvas.pixels, alone)


# Stillness


def counted(monkeypatch):
    """How often shapes are drawn from here on."""
    SHARED_CACHE.clear()
    drawn = []
    before = Shape.draw

    def draw(self, canvas, at):
        drawn.append(self)
        before(self, canvas, at)

    monkeypatch.setattr(Shape, "draw", draw)
    return drawn


def test_a_still_group_is_drawn_once_with_all_that_is_in_it(monkeypatch):
    outer, inner = new_layer("group", spin=20.0), new_layer("group")
    inner["group"] = outer["id"]
    members = [box(f"{n}", x=30.0 + 10 * n) | {"group": inner["id"]} for n in range(3)]
    made = project(black(), outer, inner, *members)
    drawn = counted(monkeypatch)
    first = render(made, None, Fraction(0), SMALL).copy()
    assert len(drawn) == 3
    assert np.array_equal(render(made, None, Fraction(1), SMALL), first) and len(drawn) == 3


def test_a_group_moves_when_a_member_does(monkeypatch):
    group = new_layer("group", spin=20.0)
    still, moving = box("a") | {"group": group["id"]}, box("b", x=20.0) | {"group": group["id"]}
    moving["keyframes"] = {"x": [{"time_s": 0, "value": 20, "ease": "linear"}, {"time_s": 2, "value": 80}]}
    made = project(black(), group, still, moving)
    drawn = counted(monkeypatch)
    first = render(made, None, Fraction(0), SMALL).copy()
    second = render(made, None, Fraction(1), SMALL)
    # The still member is kept all the same.
    assert not np.array_equal(first, second) and len(drawn) == 3


def test_a_member_that_blends_with_what_is_behind_its_group_is_not_kept_with_it():
    group = new_layer("group")
    member = box(blend="multiply", plain="#404040") | {"group": group["id"]}
    grey = new_layer("backdrop", fill="plain", plain="#808080")
    assert shown(grey, group, member)[90, 160, 0] == 32
    assert shown(grey, group | {"settings": group["settings"] | {"isolate": True}}, member)[90, 160, 0] == 64


NUMBERS = [
    name for name, setting in LAYER_KINDS["shape"].settings.items() if setting.numeric and setting.group != "layer"
]


@given(st.dictionaries(st.sampled_from(NUMBERS), st.floats(0, 1), max_size=6), st.floats(0, 6), st.booleans())
@seed(3)
@settings(max_examples=20, deadline=None)
def test_a_kept_layer_looks_as_one_that_is_drawn_anew(shares, radius, moved):
    settings_ = LAYER_KINDS["shape"].settings
    given_ = {
        name: round(settings_[name].lo + share * (settings_[name].hi - settings_[name].lo))
        for name, share in shares.items()
    }
    layer = box(effects=[blur(radius)], **{"corner": 1.0} | given_, spin=15.0 if moved else 0.0)
    SHARED_CACHE.clear()
    fresh = shown(black(), layer)
    assert np.array_equal(shown(black(), layer, at=2.0), fresh)


def test_the_blur_reaches_as_far_as_it_says():
    effect = SoftBlur({"radius": 3.0, "edges": "clear"})
    canvas = Canvas(320, 180)
    margin = effect.margin(canvas)
    # Beyond that, less than half a level of a layer at full alpha is left.
    soft = shown(box(width=4.0, height=4.0, effects=[new_effect("soft-blur", radius=3.0)]), background="transparent")
    assert 16 <= margin <= 18 and soft[90, 160 + 4 + margin + 1, 3] == 0


def test_a_picture_is_held_from_the_hit_on_that_a_setting_tells():
    """A layer that fades in over two seconds, held anew at 0.5 s and at 1.2 s: then it is as it was at the hit."""
    held = new_effect("hold", by="hit", longest=400.0)
    layer = box(effects=[held]) | {
        "keyframes": {
            "width": [
                {"time_s": 0.0, "value": 2.0, "ease": "linear"},
                {"time_s": 2.0, "value": 90.0, "ease": "linear"},
            ],
            f"effect:{held['id']}:hit": [
                {"time_s": at, "value": value, "ease": "hold"}
                for at, value in ((0.0, 0.0), (0.5, 100.0), (0.6, 0.0), (1.2, 80.0), (1.3, 0.0))
            ],
        }
    }
    free = layer | {"effects": [], "keyframes": {"width": layer["keyframes"]["width"]}}
    moments = {0.4: 0.4, 0.5: 0.5, 0.62: 0.5, 0.85: 0.5, 0.95: 0.95, 1.25: 1.2, 1.58: 1.2, 1.65: 1.65}
    for at, shown_at in moments.items():
        width = np.count_nonzero(shown(layer, at=at)[SMALL.height // 2, :, 0] > 127)
        expected = np.count_nonzero(shown(free, at=shown_at)[SMALL.height // 2, :, 0] > 127)
        assert abs(int(width) - int(expected)) <= 1, at
