"""Layers by hand: their order, their marks, their way into other projects, and what each has as a whole."""

from playwright.sync_api import expect

from tests.browser.conftest import until
from tests.browser.test_studio import saved, setting


def test_layers_are_added_hidden_moved_and_deleted(studio):
    studio.click("section[aria-label=Layers] button:has-text('add')")
    studio.click("[data-figure=Bars]")
    saved(studio)
    expect(studio.locator(".layers li button.pick")).to_have_count(3)
    studio.click("button[aria-label='Send back']")
    saved(studio)
    assert studio.evaluate("velvet.layerIndex") == 1
    studio.click("button[aria-label='Hide Bars']")
    saved(studio)
    assert studio.evaluate("velvet.state.document.layers[2].visible") is False
    studio.click("button[aria-label='Delete layer']")
    saved(studio)
    studio.click(".toasts button:has-text('Undo')")
    until(studio, "velvet.state.document.layers.length === 3")


def test_layers_are_dragged_moved_by_keys_kept_alone_and_locked(studio):
    names = "velvet.state.document.layers.map((layer) => layer.name)"
    assert studio.evaluate(names) == ["Night", "Bars"]
    studio.locator(".layers li").nth(1).drag_to(studio.locator(".layers li").nth(0))
    until(studio, f"{names}.join() === 'Bars,Night'")
    studio.locator("[data-layer=backdrop]").press("Alt+ArrowDown")
    until(studio, f"{names}.join() === 'Night,Bars'")
    studio.click("[data-layer=spectrum]")
    studio.click("button[title='Draw only this layer']")
    saved(studio)
    expect(studio.locator(".layers li").nth(0)).to_contain_text("spectrum · solo")
    # On black now: the backdrop is not drawn.
    until(
        studio,
        "[...velvet.$refs.picture.getContext('2d').getImageData(4, 4, 1, 1).data].slice(0, 3).every((v) => v < 4)",
    )
    studio.click("button[title='Draw only this layer']")
    studio.click("button[title='Keep this layer as it is']")
    saved(studio)
    studio.locator("input[data-field=gap]").fill("12")
    studio.locator("input[data-field=gap]").press("Enter")
    expect(studio.locator(".toasts")).to_contain_text("Bars is locked.")
    assert setting(studio, "gap") == 38
    studio.click(".toasts button:has-text('Unlock')")
    saved(studio)
    studio.locator("input[data-field=gap]").fill("12")
    studio.locator("input[data-field=gap]").press("Enter")
    saved(studio)
    assert setting(studio, "gap") == 12


def test_a_layer_is_pasted_into_another_project_with_its_signals(studio, address, sound):
    from tests.browser.conftest import bring_in

    studio.evaluate(
        """velvet.edit("Signal", [{ op: "add", path: "/signals/-", value: { id: "beat1", kind: "clock", name: "Beat", colour: "#ff7a66", settings: {} } },
            { op: "add", path: "/layers/1/patches/-", value: { setting: "reach", signal: "beat1", from: 0, to: 20, join: "add", on: true, lag_ms: 0 } }])"""
    )
    saved(studio)
    studio.click("[data-layer=spectrum]")
    studio.keyboard.press("Control+d")
    saved(studio)
    assert studio.evaluate("velvet.state.document.layers.map((layer) => layer.patches.length)") == [0, 1, 1]
    studio.keyboard.press("Control+c")
    bring_in(studio, address, sound)
    studio.click("[data-layer=backdrop]")
    studio.keyboard.press("Control+v")
    saved(studio)
    assert studio.evaluate("velvet.state.document.layers.map((layer) => layer.name)") == ["Night", "Bars copy", "Bars"]
    assert studio.evaluate("velvet.state.document.signals.map((signal) => signal.name)") == ["Beat"]
    assert studio.evaluate("velvet.state.document.layers[1].patches[0].signal") == "beat1"


def test_a_layer_blends_is_masked_and_lasts_a_while(studio):
    studio.click(".right .tabs button:has-text('Layer')")
    studio.select_option("[data-field=blend]", "screen")
    saved(studio)
    assert setting(studio, "blend") == "screen"
    studio.click("[aria-label=Mask] [data-choice=ellipse]")
    saved(studio)
    studio.locator("input[data-field=mask_feather]").fill("12")
    studio.locator("input[data-field=mask_feather]").press("Enter")
    saved(studio)
    studio.click("[aria-label=Shows] [data-choice=typed]")
    saved(studio)
    studio.locator("input[data-field=to_s]").fill("0")
    studio.locator("input[data-field=to_s]").press("Enter")
    expect(studio.get_by_text("To must lie after From.")).to_be_visible()
    assert studio.locator("input[data-field=to_s]").input_value() == "0"
    studio.locator("input[data-field=to_s]").fill("2.5")
    studio.locator("input[data-field=to_s]").press("Enter")
    saved(studio)
    assert setting(studio, "to_s") == 2.5
