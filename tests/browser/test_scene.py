"""A designed scene by mouse and by keys: footage, a logo that pulses, a ring that uncovers a gradient; keyframes and spans
dragged on the strip; three frames."""

import pytest
from playwright.sync_api import expect

import velvetdrum.picture.layers  # noqa: F401  (makes the kinds known)
from tests.browser.conftest import at_rest, box_of, saved, until
from tests.browser.test_layers import type_in
from tests.picture.media.clips import write_clip
from velvetdrum.demo.pictures import lamp_svg


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    folder = tmp_path_factory.mktemp("files")
    (folder / "Lamp.svg").write_text(lamp_svg())
    (folder / "bad.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><script>alert(1)</script></svg>'
    )
    (folder / "notes.mp4").write_text("not a video")
    write_clip(folder / "Water.mp4", 50)
    return folder


def setting(page, name):
    """A setting of the chosen layer."""
    return page.evaluate(f"velvet.selection.layer.settings.{name}")


def rest(page):
    """Wait until all is saved, drawn, and where it lies is known."""
    saved(page)
    until(page, "!velvet.views.preview.busy && !velvet.project.draft")
    at_rest(page)


def at(page, x, y):
    """A place of the frame, in per cent, on the screen."""
    box = box_of(page.locator("svg.handles"))
    return box["x"] + box["width"] * x / 100, box["y"] + box["height"] * y / 100


def drag(page, start, end, steps=8):
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(*end, steps=steps)
    page.mouse.up()


def tab(page, name):
    page.locator(".right .tabs button", has_text=name).click()


def add(page, figure, family):
    page.keyboard.press("a")
    page.locator(f"[data-family={family}]").click()
    page.locator(f"[data-figure='{figure}']:visible").click()
    saved(page)


def named(page, name):
    return page.evaluate(
        "(name) => JSON.parse(JSON.stringify(velvet.project.document.layers.find((layer) => layer.name === name)))",
        name,
    )


def emptied(page):
    """Take every layer away."""
    page.keyboard.press("Control+a")
    page.locator("button[aria-label='Delete layer']").press("Enter")
    saved(page)
    assert page.evaluate("velvet.project.document.layers.length") == 0
    expect(page.locator(".layers")).to_contain_text("Nothing is drawn yet")


def test_a_scene_is_built_with_the_mouse(studio, files):
    emptied(studio)
    # Footage, chosen in its field; what is no video is refused beside it.
    add(studio, "Footage", "shape")
    studio.set_input_files("input[data-clip]", str(files / "notes.mp4"))
    expect(studio.locator(".setting.text .fault:visible")).to_contain_text("no video that can be read")
    studio.set_input_files("input[data-clip]", str(files / "Water.mp4"))
    until(studio, "velvet.selection.layer.settings.clip.length === 64")
    rest(studio)
    expect(studio.locator(".small-note:visible")).to_contain_text("160 × 96 · 2.00 s · 25/s")
    tab(studio, "Colour")
    type_in(studio, "brightness", "45")
    # A logo as SVG; one that would run something is refused.
    add(studio, "Logo", "shape")
    studio.set_input_files("input[data-picture]", str(files / "bad.svg"))
    expect(studio.locator(".setting.text .fault:visible")).to_contain_text("script")
    studio.set_input_files("input[data-picture]", str(files / "Lamp.svg"))
    until(studio, "velvet.selection.layer.settings.image.length === 64")
    rest(studio)
    # Moved by its middle, sized by a corner, turned about itself: the frame stays on it.
    drag(studio, at(studio, 50, 50), at(studio, 40, 42))
    rest(studio)
    assert setting(studio, "x") == pytest.approx(40, abs=1) and setting(studio, "y") == pytest.approx(42, abs=1.5)
    lie = studio.evaluate("velvet.placement.lies[velvet.selection.chosen]")
    corner = lie["corners"][2]
    held = lie["corners"][0]
    start = at(studio, corner[0] / 19.2, corner[1] / 10.8)
    drag(studio, start, (start[0] + 30, start[1] + 30))
    rest(studio)
    now = studio.evaluate("velvet.placement.lies[velvet.selection.chosen].corners")
    assert setting(studio, "size") > 35 and now[0] == pytest.approx(held, abs=1.5)
    # A ring that uncovers a gradient.
    add(studio, "Ring of bars", "spectrum")
    studio.click("button[aria-label='Hide Ring of bars']")
    add(studio, "Ellipse", "shape")
    tab(studio, "Mask")
    studio.click("[data-add=layer]")
    saved(studio)
    studio.locator(".part[data-kind=layer] [data-field=source]").select_option(label="Ring of bars")
    saved(studio)
    light = named(studio, "Ellipse")
    assert light["masks"][0]["settings"]["source"] == named(studio, "Ring of bars")["id"]
    # The lamp pulses with a signal.
    studio.evaluate(
        """velvet.project.edit("Signal", [{ op: "add", path: "/signals/-", value: { id: "kick1", kind: "clock", name: "Kick", colour: "#ff7a66", settings: {} } }])"""
    )
    saved(studio)
    studio.click(".layers [data-layer=logo]")
    tab(studio, "Motion")
    studio.click("[data-socket=pulse]")
    studio.click("[data-plug=Kick]")
    saved(studio)
    studio.locator("[data-patch=pulse] [data-end=to]").fill("100")
    studio.locator("[data-patch=pulse] [data-end=to]").press("Enter")
    saved(studio)
    # All of it as a group, moved by the mouse.
    for name in ("Ellipse", "Ring of bars"):
        studio.click(f".layers [data-name='{name}']", modifiers=["Control"])
    studio.click(".arrange button:has-text('group')")
    rest(studio)
    assert studio.evaluate("velvet.selection.layer.kind") == "group"
    drag(studio, at(studio, 50, 50), at(studio, 55, 50))
    rest(studio)
    assert setting(studio, "move_x") == pytest.approx(5, abs=0.8)
    kinds = studio.evaluate("velvet.project.state.document.layers.map((layer) => layer.kind)")
    assert sorted(kinds) == ["footage", "group", "logo", "shape", "spectrum"]


def test_the_like_is_built_with_keys_only(studio, files):
    def press(locator, key="Enter"):
        locator.focus()
        locator.press(key)

    def add_by_keys(figure, family):
        press(studio.locator("section[aria-label=Layers] button:has-text('add')"))
        press(studio.locator(f"[data-family={family}]"))
        press(studio.locator(f"[data-figure='{figure}']:visible"))
        saved(studio)

    def bring(selector, name):
        with studio.expect_file_chooser() as chooser:
            press(studio.locator(selector))
        chooser.value.set_files(str(files / name))

    def open_tab(name):
        press(studio.locator(".right .tabs button", has_text=name))

    emptied(studio)
    add_by_keys("Footage", "shape")
    bring("input[data-clip]", "Water.mp4")
    until(studio, "velvet.selection.layer.settings.clip.length === 64")
    rest(studio)
    add_by_keys("Ring of bars", "spectrum")
    press(studio.locator("button[aria-label='Hide Ring of bars']"))
    saved(studio)
    add_by_keys("Ellipse", "shape")
    open_tab("Mask")
    press(studio.locator("[data-add=layer]"))
    saved(studio)
    # A letter chooses in a list.
    press(studio.locator(".part[data-kind=layer] [data-field=source]"), "r")
    saved(studio)
    assert named(studio, "Ellipse")["masks"][0]["settings"]["source"] == named(studio, "Ring of bars")["id"]
    add_by_keys("Logo", "shape")
    bring("input[data-picture]", "Lamp.svg")
    until(studio, "velvet.selection.layer.settings.image.length === 64")
    rest(studio)
    studio.evaluate(
        """velvet.project.edit("Signal", [{ op: "add", path: "/signals/-", value: { id: "kick1", kind: "clock", name: "Kick", colour: "#ff7a66", settings: {} } }])"""
    )
    saved(studio)
    open_tab("Motion")
    press(studio.locator("[data-socket=pulse]"))
    press(studio.locator("[data-plug=Kick]"))
    saved(studio)
    studio.locator(".layers [data-layer=logo]").focus()
    # Everything as a group, moved, turned and masked.
    studio.keyboard.press("Control+a")
    studio.keyboard.press("Control+g")
    rest(studio)
    assert (
        studio.evaluate("velvet.selection.layer.kind") == "group"
        and studio.evaluate("velvet.layers.membersOf(velvet.selection.chosen).length") == 4
    )
    stage = studio.locator("svg.handles")
    press(stage, "Shift+ArrowRight")
    rest(studio)
    press(stage, "Alt+ArrowLeft")
    rest(studio)
    assert setting(studio, "spin") == -1
    open_tab("Mask")
    press(studio.locator("[data-add=shape]"))
    saved(studio)
    assert [layer["kind"] for layer in studio.evaluate("velvet.project.state.document.layers")].count("group") == 1
    assert studio.evaluate("velvet.selection.layer.masks.length") == 1


def test_a_scene_is_placed_and_timed_with_keys_only(studio):
    studio.keyboard.press("a")
    # A key goes to what is in sight, and tabs come into sight a moment after they are there.
    studio.locator("[data-family=shape]:visible").press("Enter")
    studio.locator("[data-figure=Star]:visible").press("Enter")
    rest(studio)
    stage = studio.locator("svg.handles")
    stage.focus()
    assert stage.evaluate("(element) => getComputedStyle(element).outlineStyle") == "solid"
    before = studio.evaluate("velvet.playback.frame")
    for key in ("ArrowRight", "Shift+ArrowRight", "ArrowUp"):
        stage.press(key)
        rest(studio)
    assert setting(studio, "x") == pytest.approx(50 + 11 / 19.2, abs=0.01)
    assert setting(studio, "y") == pytest.approx(50 - 1 / 10.8, abs=0.01)
    assert studio.evaluate("velvet.playback.frame") == before  # the arrows moved the layer, not the time
    stage.press("Alt+ArrowRight")
    rest(studio)
    stage.press("Alt+Shift+ArrowUp")
    rest(studio)
    assert setting(studio, "spin") == 1 and setting(studio, "scale_x") == pytest.approx(110)
    # Keyframes: K here, arrows on, a number, another; the curve's fields take times, values and easings.
    stage.evaluate("(element) => element.blur()")
    studio.keyboard.press("Home")
    studio.keyboard.press("k")
    saved(studio)
    for _ in range(2):
        studio.keyboard.press("Shift+ArrowRight")
    rest(studio)
    tab(studio, "Layer")
    type_in(studio, "spin", "90")
    saved(studio)
    frames = studio.evaluate("velvet.selection.layer.keyframes.spin")
    assert [(frame["time_s"], frame["value"]) for frame in frames] == [(0, 1), (2, 90)]
    studio.locator("[data-curve=spin]").press("Enter")
    ease = studio.locator("[data-curve-field=ease]")
    ease.fill("bounce")
    ease.press("Enter")
    expect(studio.locator(".keycurve .fault")).to_contain_text("An easing is linear")
    time = studio.locator("[data-curve-field=time]")
    time.fill("99")
    time.press("Enter")
    expect(studio.locator(".keycurve .fault")).to_contain_text("the end of the project; “99” is not in it")
    ease.fill("cubic-bezier(0.3, 1.6, 0.5, 1)")
    ease.press("Enter")
    saved(studio)
    assert "cubic-bezier(0.3, 1.6, 0.5, 1)" in [
        frame["ease"] for frame in studio.evaluate("velvet.selection.layer.keyframes.spin")
    ]
    # The field shows what the keyframes make of it in between, as the renderer does.
    studio.evaluate("velvet.playback.seek(30)")
    rest(studio)
    from velvetdrum.picture.frame.animation import keyed_value
    from velvetdrum.scene.keyframes import Keyframe
    from velvetdrum.scene.kinds import LAYER_KINDS

    listed = tuple(
        Keyframe(frame["time_s"], frame["value"], frame["ease"])
        for frame in studio.evaluate("velvet.selection.layer.keyframes.spin")
    )
    expected = keyed_value(LAYER_KINDS["shape"].settings["spin"], listed, 1.0)
    assert float(studio.locator("input[data-field=spin]").input_value()) == pytest.approx(expected, abs=0.51)
    # It comes and goes here.
    studio.keyboard.press("Escape")
    studio.locator("body").press("Alt+i")
    saved(studio)
    assert setting(studio, "from_at") == "time" and setting(studio, "from_s") == pytest.approx(1.0)
    # Markers: one here, named; jump to it and away.
    studio.locator("body").press(".")
    saved(studio)
    studio.keyboard.press("End")
    studio.keyboard.press("PageUp")
    until(studio, "velvet.playback.frame === 30")
    studio.locator("details.markers summary").press("Enter")
    text = studio.locator("[aria-label='Text of the marker']")
    text.fill("Lamp on")
    text.press("Enter")
    saved(studio)
    assert studio.evaluate("velvet.project.state.document.markers") == [{"time_s": 1, "text": "Lamp on"}]
    studio.locator("[aria-label='Time of the marker']").fill("1:00")
    studio.locator("[aria-label='Time of the marker']").press("Enter")
    expect(studio.locator(".marker-list .fault")).to_contain_text("“1:00” does not")


def lane(page, name):
    """Middle of a layer's lane on the screen, and seconds to pixels."""
    at_rest(page)
    box = box_of(page.locator(".lanes canvas"))
    row = page.evaluate("(name) => velvet.lanes.laneLayers.findIndex((layer) => layer.name === name)", name)
    length = page.evaluate("velvet.project.length")
    return lambda second: (box["x"] + box["width"] * second / length, box["y"] + row * 17 + 9)


def test_a_keyframe_and_a_span_are_dragged_on_the_strip(studio):
    studio.click(".layers [data-name=Bars]")
    studio.evaluate("velvet.tempo.toggleSnap()")
    for frame, value in ((30, 20), (90, 70)):
        studio.evaluate(f"velvet.playback.seek({frame})")
        rest(studio)
        if frame == 30:
            studio.click("[data-key=y]")
            saved(studio)
        type_in(studio, "y", str(value))
        rest(studio)
    studio.evaluate("velvet.playback.seek(0)")
    rest(studio)
    place = lane(studio, "Bars")
    revision = studio.evaluate("velvet.project.state.revision")
    drag(studio, place(3.0), place(5.0))
    rest(studio)
    times = [frame["time_s"] for frame in studio.evaluate("velvet.selection.layer.keyframes.y")]
    assert (
        times == [1.0, pytest.approx(5.0, abs=0.05)]
        and studio.evaluate("velvet.project.state.revision") == revision + 1
    )
    # Both, picked one after the other, moved, copied to another time, and taken away.
    studio.mouse.click(*place(1.0))
    studio.keyboard.down("Shift")
    studio.mouse.click(*place(times[1]))
    studio.keyboard.up("Shift")
    assert studio.evaluate("velvet.keyPicks.pickedKeys.length") == 2
    drag(studio, place(1.0), place(2.0))
    rest(studio)
    moved = [frame["time_s"] for frame in studio.evaluate("velvet.selection.layer.keyframes.y")]
    assert moved == [pytest.approx(2.0, abs=0.05), pytest.approx(6.0, abs=0.1)]
    studio.keyboard.press("Control+c")
    studio.evaluate("velvet.playback.seek(6)")
    rest(studio)
    studio.keyboard.press("Control+v")
    saved(studio)
    assert len(studio.evaluate("velvet.selection.layer.keyframes.y")) == 4
    studio.keyboard.press("Delete")
    saved(studio)
    assert len(studio.evaluate("velvet.selection.layer.keyframes.y")) == 2
    # The span: its start trimmed, all of it moved, a fade drawn in.
    studio.evaluate("velvet.playback.seek(0)")
    rest(studio)
    drag(studio, place(0.02), place(1.5))
    rest(studio)
    assert setting(studio, "from_at") == "time" and setting(studio, "from_s") == pytest.approx(1.5, abs=0.08)
    drag(studio, place(7.98), place(6.5))
    rest(studio)
    assert setting(studio, "to_s") == pytest.approx(6.5, abs=0.08)
    drag(studio, place(4.2), place(4.7))
    rest(studio)
    assert setting(studio, "from_s") == pytest.approx(2.0, abs=0.1) and setting(studio, "to_s") == pytest.approx(
        7.0, abs=0.1
    )
    x, y = place(setting(studio, "from_s"))
    drag(studio, (x, y - 9), (place(3.0)[0], y - 9))
    rest(studio)
    assert setting(studio, "fade_in_s") == pytest.approx(1.0, abs=0.12)
    # With the snap on, an end goes to the playhead.
    studio.evaluate("velvet.tempo.toggleSnap()")
    studio.evaluate("velvet.playback.seek(193)")
    rest(studio)
    end = place(193 / 30)
    drag(studio, place(setting(studio, "to_s")), (end[0] + 3, end[1]))
    rest(studio)
    assert setting(studio, "to_s") == pytest.approx(193 / 30, abs=0.001)


def test_a_keyframe_is_dragged_on_its_curve(studio):
    studio.click(".layers [data-name=Bars]")
    studio.click("[data-key=y]")
    saved(studio)
    studio.evaluate("velvet.playback.seek(120)")
    rest(studio)
    type_in(studio, "y", "80")
    rest(studio)
    studio.click("[data-curve=y]")
    at_rest(studio)
    box = box_of(studio.locator(".keycurve canvas"))
    place = studio.evaluate(
        "(() => { const f = velvet.views.keyCurve.frame(); return [f.x(4), f.y(80), f.x(5), f.y(60)]; })()"
    )
    drag(studio, (box["x"] + place[0], box["y"] + place[1]), (box["x"] + place[2], box["y"] + place[3]))
    rest(studio)
    last = studio.evaluate("velvet.selection.layer.keyframes.y")[-1]
    assert last["time_s"] == pytest.approx(5.0, abs=0.1) and last["value"] == pytest.approx(60, abs=1.5)
    studio.mouse.dblclick(box["x"] + place[0] - 60, box["y"] + box["height"] / 2)
    rest(studio)
    assert len(studio.evaluate("velvet.selection.layer.keyframes.y")) == 3


def test_poses_by_a_signal(studio):
    studio.evaluate(
        """velvet.project.edit("Signal", [{ op: "add", path: "/signals/-", value: { id: "kick1", kind: "clock", name: "Kick", colour: "#ff7a66", settings: {} } }])"""
    )
    saved(studio)
    studio.click(".layers [data-name=Bars]")
    tab(studio, "Layer")
    for frame, value in ((0, "0"), (60, "30")):
        studio.evaluate(f"velvet.playback.seek({frame})")
        rest(studio)
        if not frame:
            studio.click("[data-key=spin]")
            studio.click("[data-key=move_y]")
            saved(studio)
        type_in(studio, "spin", value)
        saved(studio)
        type_in(studio, "move_y", value)
        saved(studio)
    studio.select_option("#poses", label="Kick")
    saved(studio)
    patches = studio.evaluate("velvet.selection.layer.patches")
    assert [(patch["setting"], patch["join"]) for patch in patches] == [("spin", "poses"), ("move_y", "poses")]
    expect(studio.locator("[data-patch=spin]")).to_contain_text("from its first keyframe to its last")


def test_three_frames_and_a_place_of_its_own_in_the_tall_one(studio):
    studio.click(".layers [data-name=Bars]")
    studio.click("button.shape[aria-label^=Tall]")
    until(studio, "velvet.stage.picture.height > velvet.stage.picture.width * 1.5")
    assert studio.evaluate("velvet.project.state.document.frame") == {"width": 1920, "height": 1080}
    studio.click(".only-here")
    type_in(studio, "y", "97")
    rest(studio)
    assert setting(studio, "y") == 50
    assert studio.evaluate("velvet.project.state.document.layers[1].frames") == {"tall": {"y": 97}}
    expect(studio.locator(".key-line.only")).to_contain_text("only in tall frames")
    studio.click("button[aria-label='All three frames']")
    until(studio, "Object.keys(velvet.threeFrames.threeNotes).length === 3")
    expect(studio.locator(".three-one[data-shape=tall] .misfits")).to_contain_text(
        "Bars lies under the channel's caption"
    )
    sizes = studio.evaluate(
        "[...document.querySelectorAll('.three canvas')].map((canvas) => canvas.width / canvas.height)"
    )
    assert sizes == pytest.approx([16 / 9, 1, 9 / 16], rel=0.03)
    studio.click(".three-one[data-shape=tall] button")
    until(studio, "!velvet.formats.threeUp && velvet.formats.frameShape === 'tall'")
    studio.click(".key-line.only button")
    saved(studio)
    assert studio.evaluate("velvet.project.state.document.layers[1].frames") == {}
    studio.click("button:has-text('Export video') >> nth=0")
    studio.click("[data-export-shape=square]")
    frames = studio.evaluate("velvet.newExport.bodies.map((body) => body.frame)")
    assert sorted(frames) == ["1080x1080", "1080x1920"]
    expect(studio.locator("[data-make]")).to_have_text("Make 2 videos")


def test_a_missing_file_is_said_and_found_again(studio, files):
    from tests.browser.conftest import drop

    drop(studio, files / "Lamp.svg")
    until(studio, "velvet.selection.layer && velvet.selection.layer.kind === 'logo'")
    rest(studio)
    good = studio.evaluate("velvet.selection.layer.settings.image")
    studio.evaluate(
        "velvet.settings.put({ name: 'image', label: 'Logo', type: 'picture', default: '' }, 'f'.repeat(64))"
    )
    rest(studio)
    studio.evaluate("velvet.media.checkMissing()")
    expect(studio.locator(".missing")).to_contain_text("The file behind Lamp is not here")
    studio.set_input_files("input[data-picture]", str(files / "Lamp.svg"))
    until(studio, f"velvet.selection.layer.settings.image === '{good}'")
    rest(studio)
    expect(studio.locator(".missing")).to_be_hidden()


def test_the_new_parts_meet_wcag(studio):
    from tests.browser.test_studio import AXE

    rules = "axe.run({ runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'] })"
    studio.click(".layers [data-name=Bars]")
    tab(studio, "Layer")
    studio.click("[data-key=spin]")
    saved(studio)
    studio.click("[data-curve=spin]")
    studio.evaluate(AXE)
    for _ in range(2):
        assert [(fault["id"], fault["nodes"][0]["html"][:160]) for fault in studio.evaluate(rules)["violations"]] == []
        tab(studio, "Mask")
        studio.click("[data-add=shape]")
        saved(studio)
        studio.click("button[aria-label='All three frames']")
        until(studio, "Object.keys(velvet.threeFrames.threeNotes).length === 3")
