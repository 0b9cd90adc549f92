"""Gradients and meters coloured by hand: stops dragged on the ramp, zones dragged on the meter; actions are counted."""

import pytest
from playwright.sync_api import expect

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from tests.browser.conftest import box_of, saved, settled, until
from velvetdrum.scene.document import new_layer


def with_layer(studio, kind, **settings):
    """A project with one layer more, in front and chosen, its colours open."""
    layer = new_layer(kind, **settings)
    studio.evaluate("(value) => velvet.project.edit('Add', [{op: 'add', path: '/layers/-', value}])", layer)
    saved(studio)
    studio.evaluate("(id) => velvet.selection.choose(velvet.layers.byId(id))", layer["id"])
    studio.evaluate("velvet.selection.openTab('colour')")
    settled(studio)


def stops(studio):
    return [(stop["at"], stop["colour"]) for stop in studio.evaluate("velvet.selection.layer.settings.colours")]


def drag(studio, begin, end):
    studio.mouse.move(*begin)
    studio.mouse.down()
    for step in range(1, 5):
        studio.mouse.move(*(a + (b - a) * step / 4 for a, b in zip(begin, end, strict=True)))
    studio.mouse.up()


@pytest.fixture
def ramp(studio):
    with_layer(studio, "meter", zones="off", paint="level", look="bar", columns="mono", scale=False)
    box = studio.locator(".ramp-box:visible")
    expect(box).to_be_visible()
    return box


def on_ramp(ramp, share, below=9):
    box = box_of(ramp)
    return box["x"] + box["width"] * share, box["y"] + below


def test_hard_zones_of_a_meter_in_few_actions(studio, ramp):
    """Three flat zones out of a gradient of four stops: seven actions."""
    grips = ramp.locator("[data-stop]")
    expect(grips).to_have_count(4)
    drag(studio, on_ramp(ramp, 1 / 3, 24), (on_ramp(ramp, 1 / 3)[0], 20))  # off the ramp: taken away
    saved(studio)
    expect(grips).to_have_count(3)
    drag(studio, on_ramp(ramp, 0.67, 24), on_ramp(ramp, 0.6, 24))
    saved(studio)
    studio.get_by_role("button", name="hard edge").click()
    saved(studio)
    ramp.locator("[data-stop]").last.focus()
    studio.get_by_role("button", name="hard edge").click()
    saved(studio)
    at = [round(place, 2) for place, _ in stops(studio)]
    assert at == [0, 0.6, 0.6, 1, 1]
    drag(studio, on_ramp(ramp, 1, 24), on_ramp(ramp, 0.8, 24))
    saved(studio)
    assert [round(place, 2) for place, _ in stops(studio)] == [0, 0.6, 0.6, 0.8, 0.8]
    colours = [colour for _, colour in stops(studio)]
    assert colours[0] == colours[1] and colours[2] == colours[3]


def test_zones_are_dragged_on_the_meter_itself(studio):
    with_layer(studio, "meter", look="bar", columns="mono", scale=False, x=50.0, y=50.0)
    handle = studio.locator("[data-handle='part:colour mark warning_db']")
    expect(handle).to_be_visible()
    box = box_of(handle)
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    before = studio.evaluate("velvet.selection.layer.settings.warning_db")
    drag(studio, at, (at[0], at[1] + 40))
    saved(studio)
    lower = studio.evaluate("velvet.selection.layer.settings.warning_db")
    assert lower <= before - 4
    # It does not pass the zone above it.
    box = box_of(handle)
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    drag(studio, at, (at[0], at[1] - 300))
    saved(studio)
    values = studio.evaluate("velvet.selection.layer.settings")
    assert values["warning_db"] == values["over_db"]


def test_stops_are_handled_on_the_meter_and_by_keys(studio, ramp):
    handle = studio.locator("[data-handle='part:colour stop 1']")
    expect(handle).to_be_visible()
    box = box_of(handle)
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    drag(studio, at, (at[0], at[1] + 20))
    saved(studio)
    place = stops(studio)[1][0]
    assert place < 0.33
    grip = ramp.locator("[data-stop='1']")
    grip.focus()
    studio.keyboard.press("ArrowRight")
    saved(studio)
    assert stops(studio)[1][0] == pytest.approx(place + 0.01)
    expect(ramp.locator("[data-stop='1']")).to_be_focused()
    studio.keyboard.press("Delete")
    saved(studio)
    assert len(stops(studio)) == 3


def test_a_stop_has_lightness_hue_opacity_and_typed_colours(studio, ramp):
    studio.get_by_label("Stop 1 as hex").fill("#20406080")
    studio.keyboard.press("Enter")
    saved(studio)
    assert stops(studio)[0][1] == "#20406080"
    studio.get_by_label("Opacity of stop 1").fill("100")
    saved(studio)
    assert stops(studio)[0][1] == "#204060"
    studio.get_by_label("Lightness of stop 1").fill("80")
    saved(studio)
    assert int(stops(studio)[0][1][5:7], 16) > 0xA0
    before = stops(studio)
    studio.get_by_label("Stop 1 as hex").fill("reddish")
    studio.keyboard.press("Enter")
    expect(studio.locator(".panel [role=alert]:visible")).to_contain_text("“reddish” is none")
    assert stops(studio) == before


def test_where_a_gradient_lies_is_dragged_on_the_picture(studio):
    with_layer(studio, "spectrum", paint="field", field="linear", field_turn=0.0)
    end = studio.locator("[data-handle='part:colour end']")
    expect(end).to_be_visible()
    middle = box_of(studio.locator("[data-handle='part:colour point 0']"))
    centre = (middle["x"] + middle["width"] / 2, middle["y"] + middle["height"] / 2)
    box = box_of(end)
    drag(studio, (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2), (centre[0] + 100, centre[1]))
    saved(studio)
    assert studio.evaluate("velvet.selection.layer.settings.field_turn") == pytest.approx(90, abs=1.5)
    drag(studio, centre, (centre[0] + 60, centre[1]))
    saved(studio)
    assert studio.evaluate("velvet.selection.layer.settings.field_x") > 55
    studio.evaluate("velvet.selection.openTab('shape')")
    until(studio, "!document.querySelector(\"[data-handle='part:colour end']\")")
