"""Effects in the panel, and the speeds of an export."""

from playwright.sync_api import expect

from tests.browser.conftest import saved


def effects(studio):
    return studio.evaluate("velvet.selection.layer.effects")


def test_an_effect_is_added_set_keyed_driven_switched_ordered_and_removed(studio):
    studio.click(".right .tabs button:has-text('Effects')")
    expect(studio.locator(".parts")).to_contain_text("An effect changes the layer's picture")
    studio.click("[data-add=soft-blur]")
    saved(studio)
    radius = studio.locator(".part input[data-field=radius]")
    radius.fill("77")
    radius.press("Enter")
    expect(studio.locator(".part .fault:visible")).to_contain_text("Radius goes from 0 to 20")
    assert radius.input_value() == "77"
    radius.fill("3")
    radius.press("Enter")
    saved(studio)
    (one,) = effects(studio)
    assert one["settings"]["radius"] == 3 and one["on"] is True
    expect(studio.locator(".part-name")).to_contain_text("3 %")
    # A keyframe and a signal, at the effect's own address.
    studio.click(".part [data-key=radius]")
    saved(studio)
    place = f"effect:{one['id']}:radius"
    assert list(studio.evaluate("velvet.selection.layer.keyframes")) == [place]
    # A second one stands below, goes up, and is switched off.
    studio.click("[data-add=soft-blur]")
    saved(studio)
    second = effects(studio)[1]["id"]
    studio.locator(".part").nth(1).locator("[aria-label=Earlier]").click()
    saved(studio)
    assert [item["id"] for item in effects(studio)] == [second, one["id"]]
    switch = studio.locator(".part").nth(0).locator("[role=switch]")
    switch.focus()
    studio.keyboard.press("Space")
    saved(studio)
    assert [item["on"] for item in effects(studio)] == [False, True]
    expect(studio.locator(".part-name").nth(0)).to_contain_text("off")
    # The keyframes of an effect go with it, and come back with undo.
    studio.locator(".part").nth(1).locator("button[aria-label^=Remove]").click()
    saved(studio)
    assert studio.evaluate("velvet.selection.layer.keyframes") == {} and len(effects(studio)) == 1
    studio.click("[aria-label^=Undo]")
    saved(studio)
    assert list(studio.evaluate("velvet.selection.layer.keyframes")) == [place] and len(effects(studio)) == 2


def test_a_video_is_asked_for_at_a_speed(studio):
    studio.click("text=Export video")
    studio.click("[data-speed=quick]")
    expect(studio.locator("[data-speed=quick]")).to_have_attribute("aria-pressed", "true")
    expect(studio.get_by_text("Done first; the file is larger.")).to_be_visible()
    studio.evaluate("velvet.exports.exportPart = 'all'")
    studio.click("[aria-label='New video'] .pill.main")
    expect(studio.locator(".export[data-state=done]")).to_be_visible(timeout=120_000)
    expect(studio.locator(".export .dim").first).to_contain_text("quick, took")
