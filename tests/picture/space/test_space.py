"""Depth: a camera against a reference, plates, solids against rays, fields, and what can't be drawn."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import RATE, sine
from velvetdrum.declare.oklab import ramp
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.picture.layers.dot_field import DotField, pushed
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.space.camera import Camera, Lens, Pose
from velvetdrum.picture.space.clouds import Brush, Cloud, draw_clouds
from velvetdrum.picture.space.covers import FaceTexture, picture_sheet
from velvetdrum.picture.space.floor import REACH, SPACING, draw_grid
from velvetdrum.picture.space.placement import placed_at
from velvetdrum.picture.space.plates import homography
from velvetdrum.picture.space.solids import Lights, boxes, draw_solids, picture_places
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.audio_range import AudioRange

SIZE = FrameSize(320, 180)
VIEW = Viewport(320, 180)


def project(layers, length=12.0, size=SIZE):
    document = new_document("x", frame=size, rate=Fraction(30), layers=layers)
    document["length_s"] = length
    return parse(document)


def within(space, *members):
    for member in members:
        member["group"] = space["id"]
    return [space, *members]


def picture(layers, at=1, use=None, size=SIZE, media=None):
    return render(project(layers, size=size), use, Fraction(at), size, media=media).copy()


def poses(count, seed=1):
    draws = np.random.default_rng(seed)
    for _ in range(count):
        yield Pose(
            tuple(draws.uniform(-30, 30, 3)),
            draws.uniform(-180, 180),
            draws.uniform(-80, 80),
            draws.uniform(-180, 180),
            draws.uniform(0.5, 2),
            tuple(draws.uniform(-5, 5, 2)),
        )


def test_a_camera_at_rest_shows_a_flat_picture_as_it_is():
    flat = [new_layer("backdrop"), new_layer("shape", form="polygon", radius=30.0, x=40.0)]
    plain = picture(flat)
    shape = new_layer("shape", form="polygon", radius=30.0, x=40.0)
    spaced = picture([new_layer("backdrop"), *within(new_layer("space"), shape)])
    assert np.abs(plain.astype(int) - spaced).max() <= 2
    seen = Camera.standing(VIEW).seen(np.array([[0.0, 0, 0], [50, -50, 0]]))
    assert np.allclose(seen.x, [160, 250]) and np.allclose(seen.y, [90, 0])


def test_perspective_is_that_of_a_reference():
    """Against OpenCV's pinhole camera, whose space has z away from the viewer."""
    away = np.array([1.0, 1.0, -1.0])
    points = np.random.default_rng(2).uniform(-60, 60, (50, 3))
    for pose in poses(12):
        camera = Camera.standing(VIEW, pose, Lens(55.0))
        inner = np.array([[camera.focal, 0, 160.0], [0, camera.focal, 90.0], [0, 0, 1]])
        turn, _ = cv2.Rodrigues(camera.axes * away)
        wanted, _ = cv2.projectPoints(points * away, turn, -camera.axes @ camera.eye, inner, None)
        seen = camera.seen(points)
        there = seen.there
        found = np.stack([seen.x, seen.y], axis=1)
        assert np.abs(found - wanted[:, 0])[there].max() < 1e-6
        assert np.allclose(camera.axes @ camera.axes.T, np.eye(3), atol=1e-12) and np.linalg.det(camera.axes) < 0
        homogeneous = np.concatenate([points, np.ones((50, 1))], axis=1) @ camera.matrix.T
        assert np.allclose((homogeneous[:, :2] / homogeneous[:, 2:])[there], found[there])


def test_a_camera_looks_at_its_point_from_where_it_stands():
    camera = Camera.standing(VIEW, Pose((10.0, -5.0, 3.0), orbit_deg=90.0, elevation_deg=30.0))
    assert np.allclose(camera.seen(np.array([[10.0, -5.0, 3.0]])).x, 160)
    # To the right and above: what lies farther along z is on the left then, what lies on the ground behind is higher.
    seen = camera.seen(np.array([[10.0, -5.0, 13.0], [0.0, -5.0, 3.0]]))
    assert seen.x[0] < 160 and seen.y[1] < 90


@pytest.mark.parametrize("turn", [(0.0, 40.0), (50.0, 0.0), (35.0, -55.0)])
def test_the_corners_of_a_plate_lie_where_they_are_projected(turn):
    size = FrameSize(640, 360)
    plate = new_layer("shape", form="rectangle", width=60.0, height=40.0, x=55.0, plain="#ffffff", corner=0.0)
    plate["settings"] |= {"turn_x": turn[0], "turn_y": turn[1], "place_z": 12.0, "move_x": 4.0, "spin": 10.0}
    ground = new_layer("backdrop", fill="plain", plain="#000000")
    space = new_layer("space", orbit=20.0, elevation=10.0)
    found = project([ground, *within(space, plate)], size=size)
    stage = ProjectView(found, None).at(Fraction(1), size)
    layer = stage.shown(found.by_id[plate["id"]]).layer
    box = layer.extent(Viewport(640, 360), stage.moment(layer))

    camera = stage.shown(found.by_id[space["id"]]).layer.standing(Viewport(640, 360), stage.moment(layer))
    matrix = homography(camera, placed_at(layer, Viewport(640, 360)), Viewport(640, 360))
    corners = (
        np.array(
            [
                [x, y, 1.0]
                for x, y in ((box.left, box.top), (box.right, box.top), (box.right, box.bottom), (box.left, box.bottom))
            ]
        )
        @ matrix.T
    )
    corners = corners[:, :2] / corners[:, 2:]
    fine = np.zeros((360 * 8, 640 * 8), np.uint8)
    cv2.fillPoly(fine, [np.rint(corners * 8 * 16).astype(np.int32)], 255, shift=4)
    wanted = cv2.resize(fine, (640, 360), interpolation=cv2.INTER_AREA).astype(float) / 255
    got = render(found, None, Fraction(1), size)[..., 1].astype(float) / 255
    edge = np.hypot(*(np.roll(corners, -1, axis=0) - corners).T).sum()
    assert np.abs(got - wanted).sum() / edge < 0.25
    for axis in (0, 1):
        assert (
            abs(
                np.average(np.indices(got.shape)[axis], weights=got + 1e-9)
                - np.average(np.indices(got.shape)[axis], weights=wanted + 1e-9)
            )
            < 0.15
        )


def test_boxes_show_the_faces_that_rays_meet_first():
    """Against a ray from the eye through each pixel's middle and every face, on random scenes."""
    for seed in range(4):
        draws = np.random.default_rng(seed)
        count = 9
        mesh = boxes(draws.uniform(-28, 28, (count, 3)), draws.uniform(3, 14, (count, 3)), draws.random((count, 3)))
        number = np.arange(len(mesh.corners))
        # Each triangle in a colour of its own, and lit alike from all sides.
        colours = np.stack([number // 16 * 14 + 20, number % 16 * 14 + 20, np.full(len(number), 90)], axis=1) / 255
        mesh = type(mesh)(mesh.corners, mesh.normals, colours)
        pose = next(poses(1, seed + 40))
        camera = Camera.standing(VIEW, Pose((0, 0, 0), pose.orbit_deg, pose.elevation_deg, pose.roll_deg, 1.0))
        canvas = Canvas(320, 180)
        canvas.clear_through()
        draw_solids(canvas, [mesh], camera, Lights(strength=0.0, ambient=1.0))
        x, y = np.meshgrid(np.arange(320) + 0.5, np.arange(180) + 0.5)
        rays = (
            np.stack([(x - 160) / camera.focal, (y - 90) / camera.focal, np.ones_like(x)], -1) @ camera.axes
        ).reshape(-1, 3)
        best, owner = np.full(len(rays), np.inf), np.full(len(rays), -1)
        for index, (a, b, c) in enumerate(mesh.corners):
            one, other = b - a, c - a
            cross = np.cross(rays, other)
            scale = cross @ one
            with np.errstate(divide="ignore", invalid="ignore"):
                to = camera.eye - a
                u = cross @ to / scale
                v = (rays @ np.cross(to, one)) / scale
                far = (other @ np.cross(to, one)) / scale
            met = (u >= 0) & (v >= 0) & (u + v <= 1) & (far > 0) & (far < best)
            best[met], owner[met] = far[met], index
        wanted = np.zeros((180 * 320, 3))
        wanted[owner >= 0] = colours[owner[owner >= 0]] * 255
        off = np.abs(canvas.pixels[..., 2::-1].reshape(-1, 3) - wanted).max(axis=1) > 2
        # Pixels that an edge goes through are mixed: those are the ones whose neighbours differ.
        grid = owner.reshape(180, 320)
        edge = cv2.dilate(
            (cv2.morphologyEx(grid.astype(np.float32), cv2.MORPH_GRADIENT, np.ones((3, 3))) > 0).astype(np.uint8),
            np.ones((3, 3)),
        )
        assert (off.reshape(180, 320) & (edge == 0)).sum() <= 2 and (owner >= 0).mean() > 0.05


def test_edges_of_solids_are_smooth():
    mesh = boxes(np.zeros((1, 3)), np.full((1, 3), 20.0), np.ones((1, 3)))
    canvas = Canvas(320, 180)
    canvas.clear_through()
    draw_solids(canvas, [mesh], Camera.standing(VIEW, Pose(orbit_deg=33, elevation_deg=21)), Lights())
    levels = np.unique(canvas.pixels[..., 3])
    assert {64, 128, 191} <= set(levels.tolist())


def checks(width, height):
    """Coloured squares, and the middle of each clear."""
    rows, columns = np.indices((height, width)) // 32
    found = np.zeros((height, width, 4), np.uint8)
    found[..., 0], found[..., 1], found[..., 2] = rows * 40 % 256, columns * 50 % 256, (rows + columns) % 2 * 255
    found[..., 3] = 255
    return found


@pytest.mark.parametrize("pose", [Pose(), Pose(orbit_deg=35.0, elevation_deg=20.0, distance=1.2)])
def test_a_picture_on_a_face_lies_in_perspective(pose, tmp_path):
    """Against OpenCV's warp of the same picture by the projection of its corners."""
    given_picture = checks(256, 128)
    path = tmp_path / "checks.png"
    cv2.imwrite(str(path), given_picture)
    plate = boxes(np.zeros((1, 3)), np.array([[60.0, 30.0, 1.0]]), np.ones((1, 3)), "plate")
    sheet = picture_sheet(str(path))
    plate = replace(plate, cover=FaceTexture(sheet, picture_places("plate", 1)))
    view = Viewport(640, 360)
    canvas, camera = Canvas(640, 360), Camera.standing(view, pose)
    canvas.clear_through()
    draw_solids(canvas, [plate], camera, Lights(strength=0.0, ambient=1.0))
    seen = camera.seen(np.array([[-60.0, -30, 0], [60, -30, 0], [60, 30, 0], [-60, 30, 0]]))
    corners = np.stack([seen.x, seen.y], axis=1).astype(np.float32) - 0.5
    flat = np.array([[0, 0], [256, 0], [256, 128], [0, 128]], np.float32) - 0.5
    wanted = cv2.warpPerspective(given_picture, cv2.getPerspectiveTransform(flat, corners), (640, 360))
    inside = cv2.erode((wanted[..., 3] == 255).astype(np.uint8), np.ones((7, 7))) > 0
    # Where one colour meets another, half a texel more or less is another mix.
    plain = np.ptp(cv2.dilate(wanted, np.ones((5, 5))).astype(int) - cv2.erode(wanted, np.ones((5, 5))), axis=2) < 3
    assert inside.sum() > 20_000
    off = np.abs(canvas.pixels[..., :3].astype(int) - wanted[..., :3]).max(axis=2)
    assert off[inside & plain].max() <= 2 and off[inside].mean() < 4


def test_clear_parts_of_a_picture_show_the_colour_below_in_the_same_light_and_fog(tmp_path):
    path = tmp_path / "clear.png"
    cv2.imwrite(str(path), np.zeros((64, 64, 4), np.uint8))
    solid = boxes(np.zeros((1, 3)), np.full((1, 3), 25.0), np.array([[0.9, 0.4, 0.2]]), "box", 0.4)
    covered = replace(solid, cover=FaceTexture(picture_sheet(str(path)), picture_places("box", 1)))
    camera = Camera.standing(VIEW, Pose(orbit_deg=30.0, elevation_deg=25.0), Lens(fog_from=60.0, fog_to=140.0))
    found = []
    for mesh in (solid, covered):
        canvas = Canvas(320, 180)
        canvas.clear()
        draw_solids(canvas, [mesh], camera, Lights())
        found.append(canvas.pixels.astype(int))
    assert np.abs(found[0] - found[1]).max() <= 1 and found[0][..., :3].max() > 60


@pytest.mark.parametrize("form", ["box", "sphere", "cylinder", "plate"])
def test_a_picture_is_upright_and_unmirrored_on_what_faces_the_viewer(form, tmp_path):
    left = np.zeros((64, 64, 4), np.uint8)
    left[:, :, 3], left[:32, :32, :3] = 255, 255
    cv2.imwrite(str(tmp_path / "left.png"), left)
    solid = boxes(np.zeros((1, 3)), np.full((1, 3), 30.0), np.ones((1, 3)), form)
    solid = replace(solid, cover=FaceTexture(picture_sheet(str(tmp_path / "left.png")), picture_places(form, 1)))
    canvas = Canvas(320, 180)
    canvas.clear()
    draw_solids(canvas, [solid], Camera.standing(VIEW), Lights(strength=0.0, ambient=1.0))
    light = canvas.pixels[..., 1] > 128
    assert light[75, 145] and not light[75, 175] and not light[105, 145] and not light[105, 175]


def test_what_reaches_behind_the_eye_is_cut_and_not_dropped():
    """A long floor under the camera: as one box, and as many short ones of which those behind are not seen."""
    view, found = Viewport(320, 180), []
    camera = Camera.standing(view, Pose(elevation_deg=8.0))
    for count in (1, 400):
        edges = np.linspace(-300, 300, count + 1)
        centres = np.stack([np.zeros(count), np.full(count, 20.0), (edges[1:] + edges[:-1]) / 2], axis=1)
        halves = np.tile([40.0, 2.0, 300.0 / count], (count, 1))
        canvas = Canvas(320, 180)
        canvas.clear_through()
        draw_solids(canvas, [boxes(centres, halves, np.ones((count, 3)))], camera, Lights(strength=0, ambient=0.8))
        found.append(canvas.pixels.astype(int))
    assert (found[0][..., 3] > 0).mean() > 0.25
    off = np.abs(found[0] - found[1]).max(axis=2)
    assert (off > 3).mean() < 0.002


def test_what_is_nearer_hides_marks_and_plates():
    block = boxes(np.array([[0.0, 0, 10.0]]), np.full((1, 3), 10.0), np.ones((1, 3)))
    camera = Camera.standing(VIEW)
    for z, seen in ((-20.0, False), (40.0, True)):
        canvas = Canvas(320, 180)
        canvas.clear()
        nearest = draw_solids(canvas, [block], camera, Lights()).nearest
        red = Cloud(np.array([[0.0, 0, z]]), np.array([4.0]), np.array([[1.0, 0, 0]]), np.ones(1), Brush())
        draw_clouds(canvas, [red], camera, nearest)
        assert (canvas.pixels[90, 160].tolist()[:3] == [0, 0, 255]) is seen
    # A plate through the middle of another: each is seen on its side.
    ground = new_layer("backdrop", fill="plain", plain="#000000")
    one = new_layer("shape", form="rectangle", width=60.0, height=60.0, plain="#ff0000", turn_y=50.0)
    other = new_layer("shape", form="rectangle", width=60.0, height=60.0, plain="#0000ff", turn_y=-50.0)
    found = picture([ground, *within(new_layer("space"), one, other)])
    left, right = found[90, 140, :3].tolist(), found[90, 180, :3].tolist()
    assert {left.index(max(left)), right.index(max(right))} == {0, 2}


def test_marks_out_of_focus_keep_their_light():
    totals = []
    for aperture in (0.0, 4.0):
        canvas = Canvas(320, 180)
        canvas.clear_through()
        camera = Camera.standing(VIEW, Pose(), Lens(40.0, 60.0, aperture))
        cloud = Cloud(np.array([[0.0, 0, 0]]), np.array([6.0]), np.ones((1, 3)), np.ones(1), Brush(adds=True))
        draw_clouds(canvas, [cloud], camera)
        totals.append(canvas.pixels[..., 3].astype(float).sum())
        if aperture:
            # Thin lens: A f |d - s| / (d s), with the mark's own width.
            d = camera.distance
            wide = np.hypot(6 * 1.8, 4.0 * camera.focal * (d - 60) / (d * 60))
            across = canvas.pixels[90, :, 3]
            spread = np.flatnonzero(across > across.max() / 2)
            assert np.ptp(spread) + 1 == pytest.approx(wide, abs=1.5)
    assert totals[1] == pytest.approx(totals[0], rel=0.05)


def test_a_ball_leaves_nothing_inside_and_moves_far_points_little():
    places = np.random.default_rng(1).uniform(-50, 50, (500, 3))
    out = pushed(places, np.zeros(3), 20.0, 1.6, 2.0)
    assert np.linalg.norm(out, axis=1).min() > 19.9
    far = np.linalg.norm(places, axis=1) > 60
    assert np.abs(out - places)[far].max() < 0.1


@settings(max_examples=12, deadline=None)
@given(
    st.sampled_from(["solids", "dot-field", "particles", "ridges"]), st.integers(0, 5), st.permutations([0.4, 2.0, 5.5])
)
def test_frames_in_a_space_are_the_same_in_any_order(kind, number, times):
    cls = LAYER_KINDS[kind]
    design = cls.designs[number % len(cls.designs)]
    space = new_layer("space", orbit_turns=1.0, aperture=2.0, shake=1.0, elevation=15.0, fog_to=200.0)
    made = [new_layer("backdrop"), *within(space, new_layer(kind, **design.settings), new_layer("shape", turn_y=30.0))]
    found = project(made)
    view = ProjectView(found, None)
    canvas = Canvas(SIZE.width, SIZE.height)

    def drawn(time):
        view.at(Fraction(time).limit_denominator(100), SIZE).draw_frame(canvas)
        return canvas.pixels.copy()

    frames = {time: drawn(time) for time in times}
    for time in sorted(times):
        fresh = render(found, None, Fraction(time).limit_denominator(100), SIZE)
        assert np.array_equal(frames[time], fresh)


def test_a_spectrogram_has_the_levels_of_the_sound(analysed):
    made = new_layer("spectrogram", reach=2.0, wide=100.0, high=100.0, floor_db=-90.0, top_db=-10.0)
    layer = LAYER_KINDS["spectrogram"](made["settings"])
    # Tones in the middle of a row: one on an edge is shared by two.
    low, high = layer.bandset.centres_hz[[88, 125]].tolist()
    recording = analysed(np.concatenate([sine(low, 3.0, -26.0), sine(high, 3.0, -44.0)]))
    use = AudioRange(recording, 0.0, len(recording.pcm) / RATE)
    table = ramp(layer.colours, 1024, "oklab")
    for at, hz, level in ((2.5, low, -26.0), (5.8, high, -44.0)):
        # A row of pixels for each of its rows, so that none is a mean of two.
        size = FrameSize(320, 160)
        found = picture([made], at, use, size)
        edges = np.array(layer.bandset.edges)
        row = int(np.argmax((edges[:, 0] <= hz) & (hz < edges[:, 1])))
        assert len(edges) == size.height
        colour = found[size.height - 1 - row, 250, 2::-1] / 255
        place = int(np.argmin(np.abs(table - colour).sum(axis=1))) / 1023
        assert -90 + place * 80 == pytest.approx(level, abs=0.5)
    whole = picture([new_layer("spectrogram", span="whole", wide=100.0, high=100.0)], 3, use)
    # What has not come yet is not shown.
    assert whole[90, 40].any() and not whole[90, 300, :3].any()


@pytest.mark.parametrize(
    "settings_of_space",
    [{"view": 1.0}, {"view": 179.0}, {"distance": 5.0}, {"elevation": 89.0, "roll": 33.0}, {"aperture": 60.0}],
)
def test_odd_cameras_draw_something_and_nothing_fails(settings_of_space, use):
    space = new_layer("space", floor=True, **settings_of_space)
    members = [
        new_layer("solids", bands=12, rows=4),
        new_layer("dot-field", columns=20, rows=12, links=60.0),
        new_layer("particles", rate=200.0),
        new_layer("ridges", deep=True),
        new_layer("text", text="Quay", turn_x=60.0),
        new_layer("particles", form="picture", image="f" * 64),
    ]
    found = project([new_layer("backdrop"), *within(space, *members)])
    view = ProjectView(found, use)
    stage = view.at(Fraction(2), SIZE)
    canvas = Canvas(SIZE.width, SIZE.height)
    stage.draw_frame(canvas)
    assert (canvas.pixels[..., 3] == 255).all()
    notes = stage.shown(found.by_id[space["id"]]).layer.notes(stage.moment(stage.shown(found.layers[0]).layer))
    assert bool(notes) == (settings_of_space.get("view") == 179.0)


def test_two_hundred_layers_in_a_space_are_drawn():
    space = new_layer("space", orbit=15.0)
    members = [
        new_layer("shape", form="ellipse", width=4.0, height=4.0, x=number % 20 * 5.0, place_z=number % 7 * 5.0)
        for number in range(198)
    ]
    assert picture([new_layer("backdrop"), *within(space, *members)]).any()


def test_what_is_capped_is_said():
    layer = LAYER_KINDS["solids"](new_layer("solids", bands=256, rows=64)["settings"])
    (said,) = layer.notes(None)
    assert "4,096" in said and "16 rows" in said
    field = DotField(new_layer("dot-field", columns=256, rows=256, layers=8)["settings"])
    assert len(field._rest()[0]) <= 30_000


def test_flat_members_stay_before_and_behind():
    ground = new_layer("backdrop", fill="plain", plain="#000000")
    near = new_layer("shape", form="rectangle", width=50.0, height=50.0, plain="#ff0000", place_z=40.0)
    behind = new_layer(
        "shape", form="rectangle", width=90.0, height=90.0, plain="#00ff00", in_space="behind", place_z=90.0
    )
    front = new_layer("shape", form="ellipse", width=10.0, height=10.0, plain="#0000ff", in_space="front")
    found = picture([ground, *within(new_layer("space", orbit=30.0), front, near, behind)])
    assert found[90, 160, :3].tolist() == [255, 0, 0]
    assert max(range(3), key=lambda c: found[70, 160, c]) == 2
    assert found[12, 160, 1] > 200, "what is flat is not turned with the camera"


@pytest.mark.parametrize("pose", [Pose(elevation_deg=25.0), Pose(orbit_deg=33.0, elevation_deg=40.0, roll_deg=10.0)])
def test_the_grid_of_a_floor_lies_where_its_lines_are_projected(pose):
    view, level = Viewport(480, 270), 12.0
    camera = Camera.standing(view, pose)
    canvas = Canvas(480, 270)
    canvas.clear()
    draw_grid(canvas, camera, level, 0xFFFFFFFF, 1.0)
    shown = canvas.pixels[..., 0].astype(float) / 255
    rng = np.random.default_rng(4)
    on, between = [], []
    for _ in range(600):
        number, along = rng.integers(-4, 5), rng.uniform(-40, 40)
        for points, found in ((number * SPACING, on), ((number + 0.5) * SPACING, between)):
            # Away from the lines that cross it.
            other = (np.floor(along / SPACING) + 0.5) * SPACING
            place = np.array([[points, level, other], [other, level, points]])[rng.integers(2)]
            seen = camera.seen(place[None])
            x, y = int(seen.x[0]), int(seen.y[0])
            if not (2 <= x < 478 and 2 <= y < 268):
                continue
            fade = (1 - np.hypot(place[0], place[2]) / REACH) ** 1.5
            wide = max(0.15 * seen.scale[0], 0.7)
            part = shown[y - 1 : y + 2, x - 1 : x + 2]
            found.append((part.max() / fade, part.max(), wide))
    assert len(on) > 200 and len(between) > 200
    # A line covers a pixel as far as it is wide; a half of that where it lies between two.
    assert all(min(wide, 1) * 0.45 < cover < min(wide, 1) * 1.1 + 0.02 for cover, _, wide in on)
    assert all(level_ == 0 for _, level_, _ in between)
    # The sky is not drawn on, and nothing is beyond the floor's end.
    above = camera.seen(np.array([[0.0, level, -1e5]])).y[0]
    assert shown[: max(int(above) - 40, 0)].max(initial=0) == 0 if not pose.roll_deg else shown[0, 0] == 0
