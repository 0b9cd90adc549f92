"""The studio in the hands of people who sit at it all day: names, keys, many layers, signals where the setting is."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import box_of, bring_in, drop, saved, settled, until
from velvetdrum.demo.pictures import lamp_svg


@pytest.fixture
def studio(page, address, sound):
    bring_in(page, address, sound)
    return page


def test_everything_is_found_by_name_and_done_by_keyboard(studio):
    studio.keyboard.press("Control+k")
    field = studio.get_by_role("combobox", name="Find anything")
    expect(field).to_be_focused()
    studio.keyboard.type("bars")
    expect(studio.locator("#found").get_by_role("option").first).to_contain_text("Bars")
    studio.keyboard.press("Enter")
    expect(field).to_be_hidden()
    assert studio.evaluate("velvet.selection.layer.name") == "Bars"
    studio.keyboard.press("Control+k")
    studio.keyboard.type("go to exp")
    studio.keyboard.press("Enter")
    assert studio.evaluate("velvet.selection.room") == "export"
    studio.keyboard.press("2")
    studio.keyboard.press("Control+k")
    studio.keyboard.type("nothing of that kind")
    expect(studio.get_by_text("Nothing goes by that name.")).to_be_visible()
    studio.keyboard.press("Escape")
    expect(field).to_be_hidden()


def test_a_key_is_changed_and_kept(studio):
    studio.keyboard.press("?")
    sheet = studio.get_by_role("dialog", name="Keys")
    sheet.get_by_role("button", name="Key of Loop", exact=True).click()
    studio.keyboard.press("q")
    expect(sheet.get_by_role("button", name="Key of Loop", exact=True)).to_have_text("Q")
    with studio.expect_download() as download:
        sheet.get_by_role("link", name="Save as a file").click()
    assert '"loop": "Q"' in Path(download.value.path()).read_text()
    sheet.get_by_role("button", name="Close", exact=True).click()
    studio.keyboard.press("q")
    until(studio, "velvet.playback.loop && velvet.playback.loop.on")
    studio.reload()
    until(studio, "window.velvet && velvet.keyMap.own.loop === 'Q'")


def test_a_logo_follows_the_kick_in_three_presses(studio, tmp_path):
    logo = tmp_path / "Lamp.svg"
    logo.write_text(lamp_svg())
    drop(studio, logo)
    until(studio, "velvet.layers.layersFrontFirst[0].kind === 'logo'")
    saved(studio)
    before = studio.evaluate("velvet.project.state.revision")
    name = studio.evaluate("velvet.layers.layersFrontFirst[0].name")
    studio.locator(f".layers [data-name='{name}']").click()
    studio.locator("[data-socket=size]").click()
    studio.locator("[data-role=kick]").click()
    until(studio, "velvet.signals.signals.some((signal) => signal.name === 'Kick')")
    saved(studio)
    patch = studio.evaluate("velvet.selection.layer.patches[0]")
    assert patch["setting"] == "size" and patch["to"] - patch["from"] >= 20
    assert studio.evaluate("velvet.selection.room") == "picture"
    assert studio.evaluate("velvet.project.state.revision") == before + 1
    assert studio.evaluate("velvet.selection.layer.patches[0].signal === velvet.signals.signals.at(-1).id")


def test_many_groups_of_bars_get_bands_turns_and_opacities_of_their_own_in_six_edits(studio):
    begin = studio.evaluate("velvet.project.state.revision")
    studio.locator(".layers [data-name=Bars]").click()
    studio.keyboard.press("Control+Shift+d")
    dialog = studio.get_by_role("dialog", name="Double by steps")
    dialog.get_by_label("Copies").fill("11")
    dialog.get_by_label("Setting 1", exact=True).select_option(label="Rotation")
    dialog.get_by_label("Step 1", exact=True).fill("30")
    dialog.get_by_role("button", name="Double").click()
    saved(studio)
    assert studio.evaluate("velvet.project.document.layers.length") == 13
    studio.keyboard.press("Escape")
    studio.locator(".layers [data-name=Bars]").click()
    studio.locator(".layers li").nth(0).locator(".pick").click(modifiers=["Shift"])
    studio.evaluate("velvet.selection.also = velvet.project.document.layers.slice(2).map((layer) => layer.id)")
    settled(studio)
    expect(studio.locator(".arrange")).to_contain_text("12 layers")
    tabs = {"Sound": {"low_hz": "40 … 2000", "high_hz": "80 … 4000"}, "Layer": {"layer_opacity": "100 … 40"}}
    for tab, fields in tabs.items():
        studio.get_by_role("tab", name=tab, exact=True).last.click()
        for name, text in fields.items():
            field = studio.locator(f"[data-field={name}]")
            field.fill(text)
            field.press("Enter")
            saved(studio)
    studio.keyboard.press("Escape")
    assert studio.evaluate("velvet.project.state.revision") - begin == 4
    layers = studio.evaluate(
        "velvet.project.document.layers.slice(1).map(({settings: s}) => [s.turn, s.low_hz, s.layer_opacity])"
    )
    assert len({tuple(layer) for layer in layers}) == 12
    assert {layer[0] for layer in layers} == {number * 30 for number in range(12)}


def test_a_number_is_typed_in_pixels_and_says_so(studio):
    studio.locator(".layers [data-name=Bars]").click()
    field = studio.locator("[data-field=x]")
    field.fill("480px")
    field.press("Enter")
    saved(studio)
    assert studio.evaluate("velvet.selection.layer.settings.x") == 25
    assert "480 px" in field.get_attribute("title")
    field.fill("3 fathoms")
    field.press("Enter")
    expect(studio.get_by_text(re.compile("needs a number in %"))).to_be_visible()
    assert studio.evaluate("velvet.selection.layer.settings.x") == 25


def test_eight_layers_and_eight_lanes_stand_at_the_smallest_size(studio):
    studio.set_viewport_size({"width": 1280, "height": 800})
    for _ in range(6):
        studio.evaluate("velvet.selection.choose(velvet.layers.layersFrontFirst[0])")
        studio.evaluate("velvet.clipboard.copyLayer()")
        saved(studio)
    expect(studio.locator(".row-names li")).to_have_count(8)
    panel = box_of(studio.locator(".layers"))
    last = box_of(studio.locator(".layers li").nth(7))
    assert last["y"] + last["height"] <= panel["y"] + panel["height"] + 1
    studio.get_by_role("button", name="tall rows").click()
    assert box_of(studio.locator(".layers li").nth(0))["height"] > last["height"] + 8


def press(studio, x, y):
    """A press at a place of the frame, in per cent."""
    box = box_of(studio.locator("svg.handles"))
    studio.mouse.click(box["x"] + box["width"] * x / 100, box["y"] + box["height"] * y / 100)


def test_a_mask_is_drawn_by_pen(studio):
    """Three corners, a curve, closed: six actions from the Masks tab."""
    studio.evaluate("velvet.selection.choose(velvet.layers.layersFrontFirst.find(({kind}) => kind === 'spectrum'))")
    studio.click(".right .tabs button:has-text('Masks')")
    settled(studio)
    studio.click("[data-pen]")
    press(studio, 30, 30)
    press(studio, 70, 30)
    box = box_of(studio.locator("svg.handles"))
    corner = box["x"] + box["width"] * 0.7, box["y"] + box["height"] * 0.7
    studio.mouse.move(*corner)
    studio.mouse.down()
    studio.mouse.move(corner[0] - 40, corner[1] + 30, steps=4)
    studio.mouse.up()
    press(studio, 30, 70)
    assert studio.locator("svg.handles .pen-path").get_attribute("d").count("C") == 2
    studio.keyboard.press("Backspace")
    press(studio, 32, 72)
    press(studio, 30, 30)
    saved(studio)
    mask = studio.evaluate("velvet.selection.layer.masks[0].settings")
    assert mask["form"] == "path"
    assert mask["path"].count("C") == 2 and mask["path"].endswith("z")
    assert 40 < mask["x"] < 60 and 45 < mask["y"] < 60
    expect(studio.locator("svg.handles [data-handle^='part:corner']")).to_have_count(4)
    expect(studio.locator("svg.handles [data-handle^='part:curve']")).to_have_count(2)
    # What was too little is said, and nothing is made.
    studio.click("[data-pen]")
    press(studio, 40, 40)
    studio.keyboard.press("Enter")
    expect(studio.get_by_text("An outline needs three points")).to_be_visible()
    assert studio.evaluate("velvet.selection.layer.masks.length") == 1


def test_how_much_and_what_is_heard_stand_beside_the_setting(studio):
    studio.locator(".layers [data-name=Bars]").click()
    studio.get_by_role("tab", name="Shape", exact=True).last.click()
    studio.locator("[data-socket=reach]").click()
    studio.locator("[data-role=kick]").click()
    saved(studio)
    studio.locator("[data-at-work=reach]").click()
    ends = studio.evaluate("velvet.selection.layer.patches[0]")
    lo, hi = studio.evaluate("(({lo, hi}) => [lo, hi])(velvet.settings.settingOf(velvet.selection.layer, 'reach'))")
    studio.get_by_label("How much Kick moves Height").fill("10")
    saved(studio)
    moved = studio.evaluate("velvet.selection.layer.patches[0]")
    assert moved["from"] == ends["from"]
    assert moved["to"] - moved["from"] == pytest.approx((hi - lo) * 0.1, rel=0.02)
    expect(studio.locator(".scope-curve figcaption")).to_contain_text("The last 4 s")
    # The band is dragged in place, and the signal has it.
    until(studio, "velvet.patchScope.spectrum && velvet.patchScope.spectrum.inner")
    before = studio.evaluate("velvet.signals.signals.at(-1).settings.high_hz")
    edge = studio.evaluate("velvet.patchScope.spectrum.x(velvet.signals.signals.at(-1).settings.high_hz)")
    box = box_of(studio.locator(".scope-spectrum"))
    middle = studio.evaluate(
        "(({quiet_db: q, loud_db: l}) => velvet.patchScope.spectrum.y((q + l) / 2))(velvet.signals.signals.at(-1).settings)"
    )
    studio.mouse.move(box["x"] + edge, box["y"] + middle)
    studio.mouse.down()
    studio.mouse.move(box["x"] + edge + 30, box["y"] + middle, steps=4)
    studio.mouse.up()
    saved(studio)
    assert studio.evaluate("velvet.signals.signals.at(-1).settings.high_hz") > before * 1.3


def test_a_list_brings_markers_cues_and_the_part_that_is_used(studio, tmp_path):
    path = tmp_path / "Cuts.csv"
    path.write_text(
        "time_s,end_s,kind,text\n1,,in,\n2,,marker,Bell\n3,4.5,cue,Fog is expected\n4,,chapter,Verse\n6,,out,\n",
        encoding="utf-8",
    )
    studio.locator("input[data-markers]").set_input_files(str(path))
    saved(studio)
    until(studio, "velvet.markers.markers.length === 2")
    document = "velvet.project.document"
    cues = studio.evaluate(f"Object.values(Object.values({document}.cue_tracks)[0].cues)")
    assert [(cue["start_s"], cue["end_s"], cue["text"]) for cue in cues] == [(3, 4.5, "Fog is expected")]
    studio.get_by_role("button", name="Use this part").click()
    saved(studio)
    markers = studio.evaluate(f"{document}.markers.map((marker) => [marker.time_s, marker.text])")
    assert markers == [[1, "Bell"], [3, "Verse"]]
    assert studio.evaluate("[velvet.trim.inS, velvet.trim.outS]") == [1, 6]
    # The same list again: its cue is there already.
    studio.evaluate("velvet.cues.refresh()")
    assert studio.evaluate("velvet.cues.row.length") == 1
