"""Numbers in the units that a project shows; rulers, guides and distances on the picture."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import box_of, saved, until


def shown_in(studio, **units):
    studio.evaluate("(units) => velvet.workspace.edit('Units', { units })", units)
    saved(studio)


def field(studio, name):
    return studio.locator(f"[data-field={name}]").first


@pytest.fixture
def bars(studio):
    studio.locator(".layers [data-name=Bars]").click()
    studio.get_by_role("tab", name="Layer").click()
    return studio


def value(studio, name):
    return studio.evaluate(f"velvet.selection.layer.settings.{name}")


def typed(studio, name, text):
    field(studio, name).fill(text)
    studio.keyboard.press("Enter")
    saved(studio)


def test_lengths_stand_in_pixels_and_are_typed_so(bars):
    shown_in(bars, length="px")
    row = bars.locator("[data-row=move_x]")
    expect(row.locator(".value")).to_contain_text("px")
    typed(bars, "move_x", "192")
    assert value(bars, "move_x") == 10
    expect(field(bars, "move_x")).to_have_value("192")
    typed(bars, "move_x", "5%")
    assert value(bars, "move_x") == 5
    typed(bars, "move_x", "*2")
    typed(bars, "move_x", "+96")
    assert value(bars, "move_x") == 15
    field(bars, "move_x").press("ArrowUp")
    saved(bars)
    expect(field(bars, "move_x")).to_have_value("289")
    # What is no length stays as it is, and a width about an anchor is none.
    expect(bars.locator("[data-row=scale_x] .value")).to_contain_text("%")
    typed(bars, "move_x", "1000000")
    expect(bars.locator("[data-row=move_x]")).to_contain_text("is outside")


def test_times_stand_in_frames_beats_and_timecode(bars):
    typed(bars, "fade_in_s", "2")
    shown_in(bars, time="f")
    expect(field(bars, "fade_in_s")).to_have_value("60")
    typed(bars, "fade_in_s", "45")
    assert value(bars, "fade_in_s") == 1.5
    shown_in(bars, time="timecode")
    expect(field(bars, "fade_in_s")).to_have_value("00:00:01:15")
    typed(bars, "fade_in_s", "00:00:02:03")
    assert value(bars, "fade_in_s") == 2.1
    shown_in(bars, time="b")
    beat = 60 / bars.evaluate("velvet.tempo.beatGrid.tempo_bpm")
    typed(bars, "fade_in_s", "2")
    assert value(bars, "fade_in_s") == pytest.approx(2 * beat, abs=1e-5)


def test_what_a_patch_and_a_keyframe_say_stands_in_the_same_unit(bars):
    shown_in(bars, length="px")
    bars.locator("[data-socket=move_x]").click()
    bars.locator("[data-role=kick]").click()
    until(bars, "velvet.selection.layer.patches.length === 1")
    saved(bars)
    end = bars.locator("[data-patch=move_x] [data-end=to]")
    end.fill("384")
    end.press("Enter")
    saved(bars)
    assert bars.evaluate("velvet.selection.layer.patches[0].to") == 20
    expect(bars.locator("[data-patch=move_x]")).to_contain_text("px")
    shown_in(bars, length="px", time="f")
    bars.evaluate("velvet.playback.seek(15)")
    bars.locator("[data-key=move_y]").click()
    bars.locator("[data-curve=move_y]").click()
    at = bars.locator("[data-curve-field=time]")
    expect(at).to_have_value("15")
    at.fill("30")
    at.press("Enter")
    saved(bars)
    assert bars.evaluate("velvet.selection.layer.keyframes.move_y[0].time_s") == 1


def test_the_choice_is_made_in_the_panel(bars):
    bars.evaluate("velvet.layout.keepOpen('frame', true, false)")
    bars.get_by_label("Angles in").select_option("turn")
    saved(bars)
    expect(bars.locator("[data-row=spin] .value")).to_contain_text("turns")
    typed(bars, "spin", "0.25")
    assert value(bars, "spin") == 90


def test_a_guide_is_dragged_out_moved_and_taken_away(studio):
    studio.keyboard.press("r")
    svg = studio.locator("svg.rulers")
    box = box_of(svg)
    middle = box["y"] + box["height"] / 2
    studio.mouse.move(box["x"] + 5, middle)
    studio.mouse.down()
    studio.mouse.move(box["x"] + box["width"] * 0.3, middle, steps=6)
    studio.mouse.up()
    saved(studio)
    (guide,) = studio.evaluate("velvet.workspace.guides")
    assert guide == {"axis": "x", "at": pytest.approx(30, abs=0.5)}
    studio.mouse.move(box["x"] + box["width"] * guide["at"] / 100, middle)
    studio.mouse.down()
    studio.mouse.move(box["x"] + box["width"] * 0.6, middle, steps=6)
    studio.mouse.up()
    saved(studio)
    assert studio.evaluate("velvet.workspace.guides[0].at") == pytest.approx(60, abs=0.5)
    studio.mouse.move(box["x"] + box["width"] * 0.6, middle)
    studio.mouse.down()
    studio.mouse.move(box["x"] + 4, middle, steps=6)
    studio.mouse.up()
    saved(studio)
    assert studio.evaluate("velvet.workspace.guides") == []


def test_what_is_dragged_lies_at_a_guide_and_says_how_far_it_is(studio):
    studio.evaluate(
        "velvet.project.edit('Square', [{op: 'add', path: '/layers/-', value: {...JSON.parse(JSON.stringify("
        "velvet.project.document.layers[0])), id: 'square', name: 'Square', kind: 'shape', settings: "
        "{form: 'rectangle', width: 20, height: 20, x: 40, y: 50}, patches: [], keyframes: {}, effects: [], masks: []}}])"
    )
    saved(studio)
    studio.evaluate("velvet.workspace.addGuide('x', 70)")
    saved(studio)
    studio.evaluate("velvet.selection.choose(velvet.layers.byId('square'))")
    until(studio, "velvet.placement.lies.square")
    box = box_of(studio.locator("svg.handles"))
    x, y = box["x"] + box["width"] * 0.4, box["y"] + box["height"] * 0.5
    studio.mouse.move(x, y)
    studio.mouse.down()
    studio.mouse.move(x + box["width"] * 0.1, y, steps=4)
    studio.mouse.move(x + box["width"] * 0.303, y, steps=6)
    lines = studio.evaluate("velvet.placement.snapLines.map(({text}) => text)")
    assert "guide" in lines and "middle of the frame" in lines
    assert any(text.endswith(" %") for text in lines), lines
    expect(studio.locator("svg.handles text", has_text="guide")).to_be_visible()
    studio.mouse.up()
    saved(studio)
    assert studio.evaluate("velvet.layers.byId('square').settings.x") == pytest.approx(70, abs=0.01)


def test_size_and_rate_are_halved_and_doubled_by_a_press(studio):
    studio.evaluate("velvet.layout.keepOpen('frame', true, false)")
    for name, frame in (
        ("Half the size", [960, 540]),
        ("Double the size", [1920, 1080]),
        ("Double the size", [3840, 2160]),
    ):
        studio.get_by_role("button", name=name).click()
        saved(studio)
        assert studio.evaluate("[velvet.project.document.frame.width, velvet.project.document.frame.height]") == frame
    studio.get_by_role("button", name="Double the size").click()
    expect(studio.get_by_text("7680 × 4320 is outside")).to_be_visible()
    studio.get_by_role("button", name="Double the frames per second").click()
    saved(studio)
    assert studio.evaluate("velvet.project.document.rate") == "60"


def test_play_and_pause_are_announced(studio):
    status = studio.locator("[role=status].visually-hidden").first
    studio.keyboard.press("Space")
    expect(status).to_have_text("Playing")
    studio.keyboard.press("Space")
    expect(status).to_contain_text("Paused at")
