"""Curves of values by hand: handles of easings, easings as pictures, reversed, out of signals and into them."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import saved, until


@pytest.fixture
def curve(studio):
    """Two keyframes of a layer's offset, with the curve open and the first one chosen."""
    studio.evaluate(
        "velvet.project.edit('Keys', [{op: 'add', path: '/layers/1/keyframes', value: {move_x: ["
        "{time_s: 0.5, value: 0, ease: 'linear'}, {time_s: 2.5, value: 40, ease: 'linear'}]}}])"
    )
    saved(studio)
    studio.evaluate("velvet.selection.choose(velvet.project.document.layers[1])")
    studio.get_by_role("tab", name="Layer").click()
    studio.locator("[data-curve=move_x]").click()
    studio.evaluate("velvet.curvePanel.curveKey = 0; velvet.views.keyCurve.draw()")
    return studio


def keys(studio):
    return studio.evaluate("velvet.project.document.layers[1].keyframes.move_x")


def place(studio, time, value):
    return studio.evaluate(
        "([time, value]) => { const view = velvet.views.keyCurve, f = view.frame(),"
        " box = view.canvas.getBoundingClientRect(); return [box.left + f.x(time), box.top + f.y(value)]; }",
        [time, value],
    )


def test_a_handle_bends_the_curve(curve):
    handle = curve.evaluate("velvet.views.keyCurve.handles()[0]")
    x, y = place(curve, handle["time"], handle["value"])
    to = place(curve, 1.5, 0.0)
    curve.mouse.move(x, y)
    curve.mouse.down()
    curve.mouse.move(*to, steps=6)
    curve.mouse.up()
    saved(curve)
    ease = keys(curve)[0]["ease"]
    assert ease.startswith("cubic-bezier(")
    x1, y1, x2, y2 = (float(part) for part in ease[13:-1].split(","))
    assert x1 == pytest.approx(0.5, abs=0.03) and y1 == pytest.approx(0.0, abs=0.05)
    assert (x2, y2) == (0.75, 0.75)
    # It moves the picture as the renderer reads the same text.
    halfway = curve.evaluate(
        "velvet.settings.valueNow(velvet.project.document.layers[1],"
        " velvet.settings.settingOf(velvet.project.document.layers[1], 'move_x'))"
    )
    assert isinstance(halfway, int | float)


def test_an_easing_is_picked_as_a_picture_and_the_keys_reversed(curve):
    curve.get_by_role("group", name="Easings").get_by_role("button", name="ease-in", exact=True).click()
    saved(curve)
    assert keys(curve)[0]["ease"] == "ease-in"
    curve.get_by_role("button", name="reverse").click()
    saved(curve)
    first, last = keys(curve)
    assert [(first["time_s"], first["value"]), (last["time_s"], last["value"])] == [(0.5, 40), (2.5, 0)]
    assert first["ease"] == "cubic-bezier(0, 0, 0.58, 1)"


def test_picked_keys_are_stretched_and_reversed(curve):
    curve.evaluate(
        "velvet.keyPicks.pickedKeys = [0.5, 2.5].map((time) => ({layer: velvet.project.document.layers[1].id, time}))"
    )
    curve.evaluate("velvet.keyPicks.stretchKeys(0.5)")
    saved(curve)
    assert [key["time_s"] for key in keys(curve)] == [0.5, 1.5]
    curve.evaluate("velvet.keyPicks.reverseKeys()")
    saved(curve)
    assert [key["value"] for key in keys(curve)] == [40, 0]


def test_a_curve_becomes_a_signal_and_a_signal_keyframes(curve):
    curve.get_by_role("button", name="as a signal").click()
    saved(curve)
    layer = curve.evaluate("velvet.project.document.layers[1]")
    signal = curve.evaluate("velvet.project.document.signals.at(-1)")
    assert "move_x" not in layer["keyframes"]
    assert [(point["time_s"], point["value"]) for point in signal["settings"]["curve"]] == [(0.5, 0), (2.5, 1)]
    (patch,) = layer["patches"]
    assert (patch["from"], patch["to"], patch["signal"]) == (0, 40, signal["id"])
    curve.locator("[data-at-work=move_x]").click()
    curve.locator("[data-as-keyframes=move_x]").click()
    until(curve, "(velvet.project.document.layers[1].keyframes.move_x || []).length > 1")
    saved(curve)
    frames = keys(curve)
    assert curve.evaluate("velvet.project.document.layers[1].patches.length") == 0
    assert len(frames) <= 5 and frames[0]["value"] == 0 and frames[-1]["value"] == 40
    assert [frame["time_s"] for frame in frames if 0.4 < frame["time_s"] < 2.6] == pytest.approx([0.5, 2.5], abs=0.04)
    expect(curve.locator(".toasts")).to_contain_text("keyframes in place of signals")


def test_several_settings_stand_over_each_other(curve):
    curve.evaluate(
        "velvet.project.edit('More', [{op: 'add', path: '/layers/1/keyframes/move_y', value: ["
        "{time_s: 0, value: -5, ease: 'linear'}, {time_s: 3, value: 5, ease: 'linear'}]}])"
    )
    saved(curve)
    curve.get_by_role("button", name="Offset Y", exact=True).click()
    assert curve.evaluate("velvet.curvePanel.curveOf.place") == "move_y"
    expect(curve.get_by_role("button", name="Offset X", exact=True)).to_be_visible()
