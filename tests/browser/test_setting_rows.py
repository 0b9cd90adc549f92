"""A setting's row in the hands: its name dragged, its menu, parts of a layer copied to others; hints of the first time."""

import json

from playwright.sync_api import expect

from tests.browser.conftest import box_of, bring_in, saved, until


def layer(studio, name):
    return studio.evaluate("(name) => velvet.project.document.layers.find((layer) => layer.name === name)", name)


def label_of(studio, setting):
    return studio.locator(f"[data-row={setting}] label").first


def test_a_name_is_dragged_and_pressed_twice_for_the_middle(studio):
    studio.locator(".layers [data-name=Bars]").click()
    studio.get_by_role("tab", name="Layer").click()
    box = box_of(label_of(studio, "layer_opacity"))
    begin = studio.evaluate("velvet.project.state.revision")
    x, y = box["x"] + 20, box["y"] + box["height"] / 2
    studio.mouse.move(x, y)
    studio.mouse.down()
    studio.mouse.move(x - 30, y, steps=5)
    studio.mouse.move(x - 60, y, steps=5)
    studio.mouse.up()
    saved(studio)
    assert layer(studio, "Bars")["settings"]["layer_opacity"] == 70
    label_of(studio, "layer_opacity").dblclick(position={"x": 20, "y": 8})
    until(studio, "velvet.selection.layer.settings.layer_opacity === 50")
    saved(studio)
    assert studio.evaluate("velvet.project.state.revision") == begin + 2


def test_a_right_press_tells_of_a_setting_and_copies_it(studio):
    studio.locator(".layers [data-name=Bars]").click()
    studio.get_by_role("tab", name="Layer").click()
    row = studio.locator("[data-row=layer_opacity]")
    row.locator("[data-field]").fill("35")
    studio.keyboard.press("Enter")
    saved(studio)
    row.locator("[data-field]").click(button="right")
    menu = studio.get_by_role("dialog", name="Layer opacity")
    expect(menu).to_contain_text("layer_opacity")
    expect(menu).to_contain_text("0 to 100 %")
    expect(menu).to_contain_text("nothing")
    menu.get_by_role("button", name="Copy this setting").click()
    expect(menu).to_be_hidden()
    others = studio.evaluate("velvet.project.document.layers.filter(({name}) => name !== 'Bars').map(({id}) => id)")
    studio.locator(".layers [data-name=Bars]").click()
    studio.keyboard.press("Control+a")
    begin = studio.evaluate("velvet.project.state.revision")
    studio.keyboard.press("Control+Alt+v")
    saved(studio)
    assert others and studio.evaluate("velvet.project.state.revision") == begin + 1
    assert studio.evaluate("velvet.project.document.layers.every(({settings}) => settings.layer_opacity === 35)")
    studio.locator(".layers [data-name=Bars]").click()
    row.locator("[data-field]").click(button="right")
    menu.get_by_role("button", name="Back to its default").click()
    until(studio, "velvet.selection.layer.settings.layer_opacity === 100")
    row.locator("[data-field]").click(button="right")
    studio.keyboard.press("Escape")
    expect(menu).to_be_hidden()


def test_effects_masks_patches_and_keyframes_go_from_one_layer_to_others(studio):
    effect = {"id": "e1", "kind": "glow", "on": True, "settings": {}}
    mask = {"id": "m1", "kind": "shape", "on": True, "settings": {}}
    studio.evaluate(
        "([effect, mask]) => velvet.project.edit('Parts', ["
        "{op: 'add', path: '/layers/1/effects', value: [effect]}, {op: 'add', path: '/layers/1/masks', value: [mask]},"
        "{op: 'add', path: '/layers/1/keyframes', value: {move_x: ["
        "{time_s: 0, value: 0, ease: 'linear'}, {time_s: 1, value: 20, ease: 'linear'}]}}])",
        [effect, mask],
    )
    saved(studio)
    studio.evaluate(
        "velvet.project.edit('Another', [{op: 'add', path: '/layers/-', value:"
        " {...JSON.parse(JSON.stringify(velvet.project.document.layers[1])), id: 'other', name: 'Other',"
        " effects: [], masks: [], keyframes: {}}}])"
    )
    saved(studio)
    for action in ("copyParts('effects')", "copyParts('masks')", "copyKeyframes()"):
        studio.evaluate("velvet.selection.choose(velvet.project.document.layers[1])")
        studio.evaluate(f"velvet.partClipboard.{action}")
        studio.evaluate("velvet.selection.choose(velvet.layers.byId('other'))")
        studio.keyboard.press("Control+Alt+v")
        saved(studio)
    other = layer(studio, "Other")
    assert [item["kind"] for item in other["effects"]] == ["glow"] and other["effects"][0]["id"] != "e1"
    assert [item["kind"] for item in other["masks"]] == ["shape"]
    assert [key["value"] for key in other["keyframes"]["move_x"]] == [0, 20]
    studio.evaluate("velvet.selection.choose(velvet.layers.byId('other'))")
    studio.evaluate("velvet.partClipboard.copyPatches()")
    expect(studio.locator(".toasts")).to_contain_text("No signal moves Other yet.")


def test_a_hint_comes_once(page, address, sound):
    page.add_init_script(
        "localStorage['velvet-hints'] === undefined || 0; if (!sessionStorage.begun)"
        " { localStorage['velvet-hints'] = '[]'; sessionStorage.begun = '1'; }"
    )
    bring_in(page, address, sound)
    hint = page.locator(".toasts", has_text="The ring beside a setting")
    expect(hint).to_be_visible()
    hint.get_by_role("button", name="close").first.click()
    expect(hint).to_be_hidden()
    page.keyboard.press("1")
    expect(page.locator(".toasts")).to_contain_text("Drag on the spectrum")
    page.keyboard.press("2")
    assert set(json.loads(page.evaluate("localStorage['velvet-hints']"))) == {"picture", "sound"}
    expect(hint).to_be_hidden()
