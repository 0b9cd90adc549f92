"""Room to work: dividers, folding, lanes, arrow keys and sums in fields, and where the studio opens."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import REFRESHED, box_of, ready, saved, until

WIDTHS = {"list": ".side.left:visible", "panel": ".side.right:visible"}


def size_of(page, name: str) -> float:
    place = ".strip" if name == "strip" else WIDTHS[name]
    return box_of(page.locator(place).first)["height" if name == "strip" else "width"]


def test_dividers_are_dragged_moved_by_keys_kept_for_each_room_and_put_back(studio):
    usual = {name: size_of(studio, name) for name in ("list", "panel", "strip")}
    for name, (dx, dy), by in (("list", (60, 0), 60), ("panel", (-40, 0), 40), ("strip", (0, -48), 48)):
        box = box_of(studio.locator(f"[data-divider={name}]"))
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        studio.mouse.move(x, y)
        studio.mouse.down()
        studio.mouse.move(x + dx / 2, y + dy / 2)
        studio.mouse.move(x + dx, y + dy)
        studio.mouse.up()
        assert size_of(studio, name) == pytest.approx(usual[name] + by, abs=1.5)
    studio.focus("[data-divider=list]")
    studio.keyboard.press("ArrowLeft")
    assert size_of(studio, "list") == pytest.approx(usual["list"] + 52, abs=1.5)
    studio.click("role=tab[name=Sound]")
    assert size_of(studio, "list") == pytest.approx(usual["list"], abs=1.5)
    studio.reload()
    ready(studio)
    studio.click("role=tab[name=Picture]")
    assert size_of(studio, "list") == pytest.approx(usual["list"] + 52, abs=1.5)
    for name in usual:
        studio.dblclick(f"[data-divider={name}]")
        assert size_of(studio, name) == pytest.approx(usual[name], abs=1.5)


def test_the_strip_grows_to_as_many_lanes_as_there_is_room_for(studio):
    for _ in range(11):
        studio.evaluate("velvet.selection.choose(velvet.layers.layersFrontFirst[0])")
        studio.evaluate("velvet.clipboard.copyLayer()")
        saved(studio)
    rows = studio.locator(".row-names li")
    expect(rows).to_have_count(8)
    studio.focus("[data-divider=strip]")
    for _ in range(2):
        studio.keyboard.press("Shift+ArrowUp")
    expect(rows).to_have_count(12)
    shown = studio.evaluate("[...document.querySelectorAll('.row-names li')].map((row) => row.textContent.trim())")
    assert shown == studio.evaluate("velvet.layers.layersFrontFirst.slice(0, 12).map((layer) => layer.name)")


def test_cards_and_sections_fold_and_stay_folded(studio):
    signals, frame = studio.locator(".signals-panel"), studio.locator(".frame-panel")
    assert signals.get_attribute("open") is not None and frame.get_attribute("open") is None
    signals.locator("h2").click()
    frame.locator("h2").click()
    section = studio.locator("details.section").first
    section.locator("summary").first.click()
    expect(section).not_to_have_attribute("open", "")
    studio.reload()
    ready(studio)
    assert studio.locator(".signals-panel").get_attribute("open") is None
    assert studio.locator(".frame-panel").get_attribute("open") is not None
    expect(studio.locator("details.section").first).not_to_have_attribute("open", "")


def test_nothing_of_the_panel_is_cut_at_any_width(studio):
    """With a patch on a setting, in every tab: no control reaches past the panel's edge."""
    name = studio.evaluate(
        """() => {
            const { settings, selection } = velvet;
            const setting = selection.kind.settings.find(({ moves, numeric, group }) =>
                moves && numeric && group === "layer");
            const signal = velvet.signalEdits.addSignal(velvet.given.signalKinds[0].kind);
            velvet.patches.plug(setting, signal);
            return setting.name;
        }"""
    )
    saved(studio)
    assert name
    for width in (300, 348, 500, 680):
        studio.evaluate("width => velvet.layout.resize('panel', width)", width)
        for tab in studio.evaluate("velvet.selection.tabs.map((tab) => tab.name)"):
            studio.evaluate("tab => { velvet.selection.tab = tab; }", tab)
            studio.evaluate(REFRESHED)
            cut = studio.evaluate(
                """() => {
                    const panel = document.querySelector("section[aria-label=Settings]");
                    const edge = panel.getBoundingClientRect().right + 0.5;
                    return [...panel.querySelectorAll("input, button, select, label, span")]
                        .filter((item) => item.offsetParent && item.getBoundingClientRect().right > edge)
                        .map((item) => item.outerHTML.slice(0, 90));
                }"""
            )
            assert cut == [], f"{tab} at {width} px"


def test_arrow_keys_and_sums_change_a_field(studio):
    studio.click("role=tab[name=Layer]")
    field = studio.locator("[data-field=layer_opacity]")
    value = "velvet.selection.layer.settings.layer_opacity"

    def typed(text: str) -> float:
        field.fill(text)
        field.press("Enter")
        saved(studio)
        return studio.evaluate(value)

    assert typed("200/4") == 50
    assert typed("+10") == 60
    assert typed("*1.5") == 90
    assert typed("-=30") == 60
    step = studio.evaluate("velvet.settings.settingOf(velvet.selection.layer, 'layer_opacity').step")
    for keys, by in (("ArrowUp", step), ("Shift+ArrowUp", 10 * step), ("ArrowDown", -step), ("Alt+ArrowUp", step / 10)):
        before = studio.evaluate(value)
        field.press(keys)
        saved(studio)
        assert studio.evaluate(value) == pytest.approx(before + by)
    field.fill("10*")
    field.press("Enter")
    expect(studio.locator("section[aria-label=Settings] p.fault:visible")).to_contain_text("needs a number")
    assert field.input_value() == "10*"


def test_sums_are_taken_by_the_frame_too(studio):
    studio.locator(".frame-panel h2").click()
    width = studio.locator("[aria-label='Width in pixels']")
    width.fill("1920/3")
    width.press("Tab")
    saved(studio)
    assert studio.evaluate("velvet.project.document.frame.width") == 640
    width.fill("*1.5")
    width.press("Tab")
    saved(studio)
    assert studio.evaluate("velvet.project.document.frame.width") == 960
    width.fill("641")
    width.press("Tab")
    expect(studio.locator(".frame-panel p.fault").first).to_contain_text("even number")


def test_the_studio_opens_at_the_loudest_moment_and_later_where_one_left_it(page, address, studio):
    ident = studio.evaluate("velvet.project.state.id")
    loudest = studio.evaluate("velvet.moments.moments.find((moment) => moment.name === 'loudest').frame")
    fresh = studio.context.browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    fresh.goto(f"{address}/projects/{ident}")
    until(fresh, "window.velvet && velvet.stage && velvet.stage.picture.width > 0 && !velvet.views.preview.busy")
    assert fresh.evaluate("[velvet.playback.frame, velvet.views.preview.shown]") == [loudest, loudest] and loudest > 0
    last = fresh.evaluate("velvet.layers.layersFrontFirst.at(-1).id")
    fresh.evaluate(
        """id => {
            velvet.selection.choose(velvet.layers.byId(id));
            velvet.playback.seek(7);
            velvet.timeStrip.zoomIn();
            velvet.selection.tab = "layer";
            velvet.page.go("export");
        }""",
        last,
    )
    seen = fresh.evaluate("velvet.views.strip.seen")
    fresh.goto(address)
    fresh.goto(f"{address}/projects/{ident}")
    until(fresh, "window.velvet && velvet.stage && velvet.stage.picture.width > 0 && !velvet.views.preview.busy")
    where = "[velvet.playback.frame, velvet.selection.chosen, velvet.selection.tab, velvet.selection.room]"
    assert fresh.evaluate(where) == [7, last, "layer", "export"]
    assert fresh.evaluate("velvet.views.strip.seen") == seen
    fresh.context.close()
