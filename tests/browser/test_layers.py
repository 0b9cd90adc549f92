"""Layers by hand: their order, their marks, their way into other projects, and what each has as a whole."""

from playwright.sync_api import expect

from tests.browser.conftest import at_rest, box_of, saved, until
from tests.browser.test_studio import setting


def type_in(page, name, value):
    """Type into the shown field of a setting."""
    field = page.locator(f"input[data-field={name}]:visible")
    field.fill(value)
    field.press("Enter")


def test_layers_are_added_hidden_moved_and_deleted(studio):
    studio.click("section[aria-label=Layers] button:has-text('add')")
    studio.click("[data-figure=Bars]")
    saved(studio)
    expect(studio.locator(".layers li button.pick")).to_have_count(3)
    studio.click("button[aria-label='Send back']")
    saved(studio)
    assert studio.evaluate("velvet.selection.layerIndex") == 1
    studio.click("button[aria-label='Hide Bars']")
    saved(studio)
    assert studio.evaluate("velvet.project.state.document.layers[2].visible") is False
    studio.click("button[aria-label='Delete layer']")
    saved(studio)
    studio.click(".toasts button:has-text('Undo')")
    until(studio, "velvet.project.state.document.layers.length === 3")


def test_layers_are_dragged_moved_by_keys_kept_alone_and_locked(studio):
    names = "velvet.project.state.document.layers.map((layer) => layer.name)"
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
        "[...velvet.page.refs.picture.getContext('2d').getImageData(4, 4, 1, 1).data].slice(0, 3).every((v) => v < 4)",
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
        """velvet.project.edit("Signal", [{ op: "add", path: "/signals/-", value: { id: "beat1", kind: "clock", name: "Beat", colour: "#ff7a66", settings: {} } },
            { op: "add", path: "/layers/1/patches/-", value: { setting: "reach", signal: "beat1", from: 0, to: 20, join: "add", on: true, lag_ms: 0 } }])"""
    )
    saved(studio)
    studio.click("[data-layer=spectrum]")
    studio.keyboard.press("Control+d")
    saved(studio)
    assert studio.evaluate("velvet.project.state.document.layers.map((layer) => layer.patches.length)") == [0, 1, 1]
    studio.keyboard.press("Control+c")
    bring_in(studio, address, sound)
    studio.click("[data-layer=backdrop]")
    studio.keyboard.press("Control+v")
    saved(studio)
    assert studio.evaluate("velvet.project.state.document.layers.map((layer) => layer.name)") == [
        "Night",
        "Bars copy",
        "Bars",
    ]
    assert studio.evaluate("velvet.project.state.document.signals.map((signal) => signal.name)") == ["Beat"]
    assert studio.evaluate("velvet.project.state.document.layers[1].patches[0].signal") == "beat1"


def test_a_layer_blends_is_masked_and_lasts_a_while(studio):
    studio.click(".right .tabs button:has-text('Layer')")
    studio.select_option("[data-field=blend]", "screen")
    saved(studio)
    assert setting(studio, "blend") == "screen"
    studio.click("[aria-label=Out] [data-choice=time]")
    saved(studio)
    studio.click("[aria-label=In] [data-choice=time]")
    saved(studio)
    type_in(studio, "to_s", "0")
    expect(studio.get_by_text("To must lie after From.")).to_be_visible()
    assert studio.locator("input[data-field=to_s]").input_value() == "0"
    type_in(studio, "to_s", "2.5")
    saved(studio)
    assert setting(studio, "to_s") == 2.5
    studio.click(".right .tabs button:has-text('Mask')")
    studio.click("[data-add=shape]")
    saved(studio)
    studio.click(".part [data-choice=polygon]")
    saved(studio)
    type_in(studio, "feather", "900")
    expect(studio.locator(".part .fault:visible")).to_contain_text("Feather goes from 0 to 60")
    type_in(studio, "feather", "12")
    saved(studio)
    studio.click("[data-add=layer]")
    saved(studio)
    studio.locator(".part[data-kind=layer] [data-field=source]").select_option(label="Night")
    saved(studio)
    studio.click(".part[data-kind=layer] [data-choice=subtract]")
    saved(studio)
    masks = studio.evaluate("velvet.project.state.document.layers[1].masks")
    assert [mask["kind"] for mask in masks] == ["shape", "layer"]
    assert masks[0]["settings"]["feather"] == 12 and masks[1]["settings"]["join"] == "subtract"
    # A mask that is keyed moves; the layer that it reads takes it along when it goes.
    studio.click(".part:first-of-type .part-name")
    studio.click(".part[data-kind=shape] [data-key=x]")
    saved(studio)
    assert list(studio.evaluate("velvet.project.state.document.layers[1].keyframes")) == [f"mask:{masks[0]['id']}:x"]
    studio.click(".layers [data-name=Night]")
    studio.click("button[aria-label='Delete layer']")
    saved(studio)
    assert [mask["kind"] for mask in studio.evaluate("velvet.project.state.document.layers[0].masks")] == ["shape"]


def test_layers_are_grouped_nested_folded_and_kept_out_of_themselves(studio):
    studio.click(".layers [data-name=Bars]")
    studio.keyboard.press("Control+d")
    saved(studio)
    studio.click(".layers [data-name=Bars]", modifiers=["Control"])
    studio.keyboard.press("Control+g")
    saved(studio)
    names = "velvet.layers.layersFrontFirst.map((layer) => `${velvet.layers.depthOf(layer)}${layer.name}`).join()"
    assert studio.evaluate(names) == "0Group,1Bars copy,1Bars,0Night"
    studio.keyboard.press("Control+g")
    saved(studio)
    assert studio.evaluate(names) == "0Group 2,1Group,2Bars copy,2Bars,0Night"
    # By drag: the outer group into the inner one, which is in it.
    studio.evaluate(
        "velvet.layerList.grabbedLayer = velvet.project.document.layers.find((layer) => layer.name === 'Group 2').id"
    )
    inner = studio.locator(".layers li").nth(1)
    inner.dispatch_event("dragover", {"clientY": box_of(inner)["y"] + 24})
    inner.dispatch_event("drop")
    expect(studio.locator(".toasts")).to_contain_text("A group can't be moved into itself.")
    assert studio.evaluate(names) == "0Group 2,1Group,2Bars copy,2Bars,0Night"
    studio.locator(".layers [data-name='Bars copy']").click()
    studio.locator(".layers [data-name='Bars copy']").press("Alt+ArrowLeft")
    saved(studio)
    assert studio.evaluate(names) == "0Group 2,1Bars copy,1Group,2Bars,0Night"
    studio.locator(".layers [data-name=Night]").click()
    studio.locator(".layers [data-name=Night]").press("Alt+ArrowRight")
    saved(studio)
    assert studio.evaluate(names) == "0Group 2,1Night,1Bars copy,1Group,2Bars"
    studio.click("button[aria-label='Members of Group']")
    assert studio.evaluate(names) == "0Group 2,1Night,1Bars copy,1Group"
    studio.locator(".layers [data-name='Group 2']").click()
    studio.keyboard.press("Control+Shift+g")
    saved(studio)
    assert studio.evaluate(names) == "0Night,0Bars copy,0Group"
    studio.locator(".layers [data-name=Group]").click()
    studio.keyboard.press("Control+d")
    saved(studio)
    assert studio.evaluate("velvet.project.document.layers.filter((layer) => layer.name === 'Bars').length") == 2
    studio.click("button[aria-label='Delete layer']")
    saved(studio)
    assert studio.evaluate("velvet.project.document.layers.filter((layer) => layer.name === 'Bars').length") == 1


def test_several_layers_are_aligned_and_distributed(studio):
    for x in (20, 45, 90):
        studio.evaluate(
            """(x) => { const layer = velvet.layers.newLayer("shape", `S${x}`, { form: "rectangle", width: 10, height: x / 2, x, y: x });
                velvet.project.edit("Add", [{ op: "add", path: "/layers/-", value: layer }]); velvet.selection.choose(layer); }""",
            x,
        )
        saved(studio)
    for name in ("S20", "S45"):
        studio.click(f".layers [data-name={name}]", modifiers=["Control"])
    until(
        studio,
        "velvet.selection.selected.length === 3 && velvet.selection.selected.every((id) => velvet.placement.lies[id])",
    )
    studio.click(".menu.align summary")
    studio.click("[aria-label='Even gaps horizontally']")
    saved(studio)
    places = "velvet.project.document.layers.filter((layer) => layer.name[0] === 'S').map((layer) => [layer.settings.x, layer.settings.y])"
    assert [round(x, 2) for x, _ in studio.evaluate(places)] == [20, 55, 90]
    at_rest(studio)
    studio.click("[aria-label='Align bottom edges']")
    saved(studio)
    feet = [y + half for (_, y), half in zip(studio.evaluate(places), (5, 11.25, 22.5), strict=True)]
    assert max(feet) - min(feet) < 0.02
