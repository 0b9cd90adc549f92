"""Effects in the panel, and the speeds of an export."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import box_of, saved, until


def effects(studio):
    return studio.evaluate("velvet.selection.layer.effects")


def add_effect(studio, name, family):
    """Choose an effect from the pictures."""
    studio.click("[data-add-effect]")
    studio.locator(f"[data-effects={family}]").click(timeout=60_000)
    studio.locator(f"[data-effect='{name}']").click()
    saved(studio)


def stage_point(studio, x, y):
    """A place of the frame, in per cent, as a place of the page."""
    box = box_of(studio.locator("svg.handles"))
    return box["x"] + box["width"] * x / 100, box["y"] + box["height"] * y / 100


def drag(studio, start, end):
    studio.mouse.move(*start)
    studio.mouse.down()
    studio.mouse.move(*end, steps=5)
    studio.mouse.up()
    saved(studio)


def test_an_effect_is_added_set_keyed_driven_switched_ordered_and_removed(studio):
    studio.click(".right .tabs button:has-text('Effects')")
    expect(studio.locator(".parts")).to_contain_text("An effect changes the layer's picture")
    add_effect(studio, "Soft blur", "blur")
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
    add_effect(studio, "Soft blur", "blur")
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


def test_effects_are_tried_chosen_ordered_masked_compared_and_undone(studio):
    studio.click(".right .tabs button:has-text('Effects')")
    held = []
    studio.route("**/projects/*/effect-choices", lambda route: held.append(route))
    studio.click("[data-add-effect]")
    card = studio.locator("[data-effect='Lamp glow']")
    card.wait_for(timeout=60_000)
    # Pointing shows it, from before it is drawn too, and leaves nothing behind.
    card.hover()
    until(studio, "velvet.effectChoices.pointed >= 0")
    for route in held:
        route.continue_()
    studio.unroute("**/projects/*/effect-choices")
    until(studio, "velvet.project.draft !== null")
    assert card.locator("img").get_attribute("src").startswith("data:image/jpeg")
    studio.mouse.move(5, 5)
    until(studio, "velvet.project.draft === null")
    assert effects(studio) == []
    card.click()
    saved(studio)
    add_effect(studio, "Light rays", "light")
    assert [item["kind"] for item in effects(studio)] == ["glow", "light-rays"]
    # Drawn by the pointer to another place.
    first = studio.locator(".part header").nth(0)
    studio.locator(".part header").nth(1).drag_to(first, source_position={"x": 60, "y": 8})
    saved(studio)
    assert [item["kind"] for item in effects(studio)] == ["light-rays", "glow"]
    # The origin of the rays is taken on the picture; the effect is open.
    studio.evaluate("velvet.parts.togglePart(velvet.parts.shownParts.find((p) => p.kind === 'light-rays'))")
    studio.evaluate("velvet.parts.openPart = velvet.parts.shownParts.find((p) => p.kind === 'light-rays').id")
    studio.evaluate("velvet.views.handlesView.draw()")
    drag(studio, stage_point(studio, 50, 50), stage_point(studio, 20, 70))
    rays = next(item for item in effects(studio) if item["kind"] == "light-rays")
    assert rays["settings"]["x"] == pytest.approx(20, abs=1) and rays["settings"]["y"] == pytest.approx(70, abs=1)
    # A signal at the effect's own address, and a mask of another layer.
    assert studio.locator(".part [data-socket=gain]").count() == 1
    studio.evaluate(
        """() => {
            const signal = velvet.signalEdits.addSignal(velvet.given.signalKinds[0].kind);
            const part = velvet.parts.shownParts.find(({ kind }) => kind === "light-rays");
            const gain = velvet.parts.partFields(part, true).find(({ name }) => name === "gain");
            velvet.patches.plug(gain, signal);
        }"""
    )
    saved(studio)
    (patch,) = studio.evaluate("velvet.selection.layer.patches.filter((p) => p.setting.startsWith('effect:'))")
    assert patch["setting"] == f"effect:{rays['id']}:gain"
    other = studio.evaluate("velvet.project.document.layers.find((l) => l.id !== velvet.selection.chosen).id")
    studio.locator(".part .more summary").first.click()
    studio.select_option(".part select[data-field=through]", other)
    saved(studio)
    assert next(item for item in effects(studio) if item["kind"] == "light-rays")["settings"]["through"] == other
    # Before, while the key is held.
    studio.locator("h2:has-text('Layers')").click()
    studio.keyboard.down("b")
    until(studio, "velvet.beforeAfter.held && velvet.project.draft.length === 2")
    studio.keyboard.up("b")
    until(studio, "velvet.project.draft === null")
    # Readings and costs.
    studio.click(".readings summary")
    until(studio, "velvet.readings.width > 0")
    expect(studio.locator(".part .cost").first).to_contain_text("ms")
    expect(studio.locator(".readings")).to_contain_text("at white")
    for _ in range(12):
        if [item["kind"] for item in effects(studio)] == ["glow"]:
            break
        studio.evaluate("velvet.project.undo()")
        saved(studio)
    assert [item["kind"] for item in effects(studio)] == ["glow"]
    assert studio.evaluate("velvet.selection.layer.patches.some((p) => p.setting.startsWith('effect:'))") is False


def test_a_chain_is_kept_and_put_on_another_layer(studio):
    studio.click(".right .tabs button:has-text('Effects')")
    studio.click("[data-add-effect]")
    studio.locator("[data-effects=chains]").click(timeout=60_000)
    studio.locator("[data-chain='Lift off the page']").click()
    saved(studio)
    assert [item["kind"] for item in effects(studio)] == ["bevel", "shadow"]
    studio.click("[data-add-effect]")
    studio.fill("[aria-label='Name of the chain']", "Pier words")
    studio.press("[aria-label='Name of the chain']", "Enter")
    expect(studio.locator("[data-chain='Pier words']")).to_be_visible()
    own = effects(studio)
    studio.evaluate("velvet.selection.choose(velvet.project.document.layers[0])")
    studio.evaluate("velvet.selection.tab = 'effect'")
    studio.locator("[data-chain='Pier words']").click()
    saved(studio)
    assert [item["kind"] for item in effects(studio)] == ["bevel", "shadow"]
    assert not {item["id"] for item in effects(studio)} & {item["id"] for item in own}
    # Copied and pasted as well; and a kept chain goes.
    studio.click(".effect-adding button:has-text('copy')")
    studio.click(".effect-adding button:has-text('paste')")
    saved(studio)
    assert len(effects(studio)) == 4
    studio.click("[data-add-effect]")
    studio.locator("[data-effects=chains]").click(timeout=60_000)
    studio.click("[aria-label='Delete chain Pier words']")
    expect(studio.locator("[data-chain='Pier words']")).to_have_count(0)


def test_the_points_of_a_mask_are_dragged_added_and_removed(studio):
    studio.click(".right .tabs button:has-text('Masks')")
    studio.click("[data-add=shape]")
    saved(studio)
    studio.evaluate(
        """velvet.settings.put(velvet.parts.partFields(velvet.parts.shownParts[0], true)
            .find((s) => s.name === 'form'), 'path')"""
    )
    saved(studio)
    path = "velvet.selection.layer.masks[0].settings.path"
    studio.evaluate(
        """velvet.settings.put(velvet.parts.partFields(velvet.parts.shownParts[0], true)
            .find((s) => s.name === 'path'), 'M0 0L100 0L100 100L0 100z')"""
    )
    saved(studio)
    expect(studio.locator("svg.handles [data-handle^='part:corner']")).to_have_count(4)
    corners = studio.evaluate("velvet.partPoints.handles.filter((h) => h.what.startsWith('corner')).map((h) => h.at)")
    size = studio.evaluate("velvet.placement.stageSize")

    def shown(point):
        return stage_point(studio, point[0] / size[0] * 100, point[1] / size[1] * 100)

    drag(studio, shown(corners[0]), shown([corners[0][0] - 60, corners[0][1] - 40]))
    moved = studio.evaluate("velvet.partPoints.handles.filter((h) => h.what.startsWith('corner')).map((h) => h.at)")
    assert moved[0] == pytest.approx([corners[0][0] - 60, corners[0][1] - 40], abs=6)
    for number in (1, 2, 3):
        assert moved[number] == pytest.approx(corners[number], abs=3), "the others stay where they are"
    middle = [(moved[2][0] + moved[3][0]) / 2, (moved[2][1] + moved[3][1]) / 2]
    studio.mouse.dblclick(*shown(middle))
    saved(studio)
    assert studio.evaluate(path).count("L") == 4
    studio.keyboard.down("Alt")
    studio.mouse.click(*shown(middle))
    studio.keyboard.up("Alt")
    saved(studio)
    assert studio.evaluate(path).count("L") == 3


def test_a_colour_is_picked_from_the_picture_and_a_bad_table_is_told(studio, tmp_path):
    studio.click(".right .tabs button:has-text('Effects')")
    add_effect(studio, "One colour", "colour")
    studio.click(".part [aria-label='Pick Colour from the picture']")
    studio.mouse.click(*stage_point(studio, 3, 50))
    saved(studio)
    assert effects(studio)[0]["settings"]["colour"] != "#f4eadb"
    add_effect(studio, "Look-up table", "colour")
    bad = tmp_path / "night.cube"
    bad.write_text("LUT_3D_SIZE 3\n0 0 0\n")
    studio.set_input_files("[data-table=table]", str(bad))
    expect(studio.locator(".part .fault:visible")).to_contain_text("27 lines; it has 1")
    good = tmp_path / "day.cube"
    good.write_text('TITLE "Day"\nLUT_1D_SIZE 2\n0.2 0 0\n1 1 0.8\n')
    studio.set_input_files("[data-table=table]", str(good))
    saved(studio)
    assert len(effects(studio)[1]["settings"]["table"]) == 64


def test_a_ring_and_a_pin_are_dragged_on_the_picture(studio):
    studio.click(".right .tabs button:has-text('Effects')")
    add_effect(studio, "Glass ring", "bend")
    studio.locator("svg.handles [data-handle^='part:radius']").wait_for(state="attached")
    size = studio.evaluate("velvet.placement.stageSize")

    def shown(what):
        at = studio.evaluate(f"velvet.partPoints.handles.find((handle) => handle.what === '{what}').at")
        return stage_point(studio, at[0] / size[0] * 100, at[1] / size[1] * 100)

    wheres = studio.evaluate("velvet.partPoints.handles.map((handle) => handle.what)")
    radius = next(what for what in wheres if what.startswith("radius"))
    start = shown(radius)
    middle = stage_point(studio, 50, 50)
    # Half as far from the middle: half the radius.
    drag(studio, start, ((start[0] + middle[0]) / 2, (start[1] + middle[1]) / 2))
    assert effects(studio)[0]["settings"]["radius"] == pytest.approx(15, abs=1)
    add_effect(studio, "Corner pin", "bend")
    studio.locator("svg.handles [data-handle='part:point 3']").wait_for(state="attached")
    pin = effects(studio)[1]["settings"]
    begun = stage_point(studio, pin["x1"], pin["y1"])
    drag(studio, begun, stage_point(studio, 30, 25))
    pin = effects(studio)[1]["settings"]
    assert (pin["x1"], pin["y1"]) == (pytest.approx(30, abs=1), pytest.approx(25, abs=1))


def test_a_curve_is_drawn_with_the_pointer_and_the_keys(studio):
    studio.click(".right .tabs button:has-text('Effects')")
    add_effect(studio, "Deeper darks, lighter lights", "colour")
    box = studio.locator("[data-drawn=all] .drawn-box")
    assert len(effects(studio)[0]["settings"]["all"]) == 4
    place = box_of(box)
    x, y = place["x"] + place["width"] / 2, place["y"] + place["height"] / 2
    drag(studio, (x, y), (x, y - place["height"] / 4))
    points = effects(studio)[0]["settings"]["all"]
    assert len(points) == 5 and points[2]["value"] == pytest.approx(75, abs=2)
    assert points[2]["at"] == pytest.approx(0.5, abs=0.02)
    # It can't pass its neighbour.
    drag(studio, (x, y - place["height"] / 4), (place["x"] + place["width"], y))
    points = effects(studio)[0]["settings"]["all"]
    assert points[2]["at"] < points[3]["at"] == 0.75
    box.locator("[data-point='2']").focus()
    before = points[2]["value"]
    studio.keyboard.press("Shift+ArrowUp")
    saved(studio)
    assert effects(studio)[0]["settings"]["all"][2]["value"] == pytest.approx(before + 10, abs=0.2)
    studio.keyboard.press("Delete")
    saved(studio)
    assert len(effects(studio)[0]["settings"]["all"]) == 4
    studio.click("[data-drawn=all] button:has-text('default')")
    saved(studio)
    assert effects(studio)[0]["settings"]["all"] == [{"at": 0, "value": 0}, {"at": 1, "value": 100}]


def test_effects_are_pasted_into_another_project(studio):
    studio.click(".right .tabs button:has-text('Effects')")
    add_effect(studio, "Lamp glow", "light")
    studio.click(".effect-adding button:has-text('copy')")
    first = studio.evaluate("velvet.project.state.id")
    other = studio.evaluate(
        f"""fetch("/projects/{first}/duplicate", {{method: "POST", headers: {{"X-Velvet-Drum": "1",
            "Content-Type": "application/json"}}, body: "{{}}"}}).then((answer) => answer.json())"""
    )
    studio.goto(studio.url.split("/projects/")[0] + f"/projects/{other['id']}")
    until(studio, "window.velvet && velvet.project && velvet.project.document")
    studio.evaluate("velvet.selection.choose(velvet.project.document.layers[0])")
    studio.evaluate("velvet.selection.tab = 'effect'")
    count = len(effects(studio))
    studio.click(".effect-adding button:has-text('paste')")
    saved(studio)
    assert [item["kind"] for item in effects(studio)][count:] == ["glow"]


def test_a_video_is_asked_for_at_a_speed(studio):
    studio.click("text=Export video")
    studio.click("[data-speed=quick]")
    expect(studio.locator("[data-speed=quick]")).to_have_attribute("aria-pressed", "true")
    expect(studio.locator("[data-speed=quick]")).to_have_attribute("title", "Done first; the file is larger.")
    studio.evaluate("velvet.newExport.set('part', 'all')")
    studio.click("[data-make]")
    expect(studio.locator(".export[data-state=done]")).to_be_visible(timeout=120_000)
    expect(studio.locator(".export .dim").first).to_contain_text("quick, took")
