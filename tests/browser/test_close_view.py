"""The picture closer than it fits and in a window of its own; lanes' ends with their picture, ripple; levels read."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import box_of, saved, until


def test_the_picture_is_looked_at_pixel_by_pixel_and_panned(studio):
    studio.locator(".stage").focus()
    studio.keyboard.press("z")
    until(studio, "velvet.stage.picture.width === velvet.project.document.frame.width")
    box = box_of(studio.locator(".stage .fit"))
    assert box["width"] == studio.evaluate("velvet.project.document.frame.width")
    stage = studio.locator(".stage")
    before = stage.evaluate("(stage) => stage.scrollLeft")
    assert before > 0
    area = box_of(stage)
    x, y = area["x"] + area["width"] / 2, area["y"] + area["height"] / 2
    studio.mouse.move(x, y)
    studio.mouse.down(button="middle")
    studio.mouse.move(x - 80, y - 10, steps=4)
    studio.mouse.up(button="middle")
    assert stage.evaluate("(stage) => stage.scrollLeft") == pytest.approx(before + 80, abs=2)
    for _ in range(3):
        studio.keyboard.press("z")
    assert studio.evaluate("velvet.closeView.scale") == 0
    until(studio, "velvet.stage.picture.width < 1000")


def test_the_picture_stands_in_a_window_of_its_own(studio):
    with studio.expect_popup() as opened:
        studio.get_by_role("button", name="Window of its own").click()
    other = opened.value
    other.wait_for_load_state()
    other.wait_for_function("document.querySelector('canvas').width > 300")
    same = """() => {
      const read = (canvas) => { const small = document.createElement('canvas'); small.width = 16; small.height = 9;
        const to = small.getContext('2d'); to.drawImage(canvas, 0, 0, 16, 9); return [...to.getImageData(0, 0, 16, 9).data]; };
      return JSON.stringify(read(document.querySelector('canvas'))); }"""
    other.wait_for_timeout(300)
    pixels = other.evaluate(same)
    studio.evaluate("velvet.project.edit('Hide', [{op: 'replace', path: '/layers/0/visible', value: false}])")
    saved(studio)
    # A window in the background is not asked by its own clock.
    for _ in range(100):
        if other.evaluate(same) != pixels:
            break
        studio.wait_for_timeout(50)
    assert other.evaluate(same) != pixels
    other.close()
    until(studio, "velvet.views.preview.least === 0")


def test_an_end_of_a_lane_shows_its_frame_and_what_comes_later_goes_along(studio):
    studio.evaluate(
        "velvet.project.edit('Row', ["
        "{op: 'add', path: '/layers/0/settings/to_at', value: 'time'}, {op: 'add', path: '/layers/0/settings/to_s', value: 1},"
        "{op: 'add', path: '/layers/1/settings/from_at', value: 'time'}, {op: 'add', path: '/layers/1/settings/from_s', value: 1},"
        "{op: 'add', path: '/layers/1/settings/to_at', value: 'time'}, {op: 'add', path: '/layers/1/settings/to_s', value: 2},"
        "{op: 'add', path: '/layers/1/keyframes', value: {move_x: [{time_s: 1.5, value: 5, ease: 'linear'}]}}])"
    )
    saved(studio)
    first = studio.evaluate("velvet.project.document.layers[0].id")
    studio.evaluate("(id) => velvet.timing.dragSpan(id, {to: 1.5})", first)
    until(studio, "velvet.views.preview.shown === 44")
    studio.evaluate("velvet.timing.dragSpan(null)")
    until(studio, "velvet.views.preview.shown === 0")
    studio.get_by_role("button", name="ripple").click()
    studio.evaluate("(id) => velvet.timing.placeSpan(id, {to: 1.5}, 'out')", first)
    saved(studio)
    settings = studio.evaluate("velvet.project.document.layers[1].settings")
    assert (settings["from_s"], settings["to_s"]) == (1.5, 2.5)
    assert studio.evaluate("velvet.project.document.layers[1].keyframes.move_x[0].time_s") == 2
    studio.keyboard.press("Control+z")
    until(studio, "velvet.project.document.layers[1].settings.from_s === 1")


def test_levels_under_the_pointer_are_read_in_the_sound_room(studio):
    studio.keyboard.press("1")
    until(studio, "velvet.views.spectrum.data.ranged && velvet.views.spectrum.data.ranged.data")
    text = studio.evaluate("velvet.views.spectrum.data.levelsText(velvet.spectrumPanel.spectrumSource(), 440)")
    assert "average" in text and "loudest" in text and text.endswith(" dB")
    expect(studio.get_by_role("tab", name="Sound")).to_have_attribute("aria-selected", "true")
