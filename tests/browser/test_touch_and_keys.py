"""The studio by touch on a tablet of 1024 x 768, and a small video made by keyboard alone."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import HINTED, box_of, project_of, ready, saved, until


@pytest.fixture
def tablet(chromium, address, sound):
    """A project on a tablet, touched."""
    context = chromium.new_context(viewport={"width": 1024, "height": 768}, has_touch=True)
    page = context.new_page()
    page.set_default_timeout(30_000)
    page.add_init_script(HINTED)
    faults = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.goto(f"{address}/projects/{project_of(page, address, sound)}")
    ready(page)
    yield page
    context.close()
    assert faults == []


def touch_drag(page, start, end, steps=8):
    """A finger put down, drawn along and lifted."""
    client = page.context.new_cdp_session(page)
    points = [[a + (b - a) * step / steps for a, b in zip(start, end, strict=True)] for step in range(steps + 1)]
    for name, point in [("touchStart", points[0]), *[("touchMove", p) for p in points[1:]]]:
        client.send("Input.dispatchTouchEvent", {"type": name, "touchPoints": [{"x": point[0], "y": point[1]}]})
    client.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})


def middle(box):
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_list_handles_sliders_and_strip_are_touched(tablet):
    tablet.locator(".layers [data-name=Bars]").tap()
    until(tablet, "velvet.selection.layer.name === 'Bars'")
    tablet.get_by_role("tab", name="Layer").tap()
    slider = box_of(tablet.locator("[data-setting=layer_opacity]"))
    x, y = middle(slider)
    touch_drag(tablet, (slider["x"] + slider["width"] - 8, y), (x, y))
    saved(tablet)
    opacity = tablet.evaluate("velvet.selection.layer.settings.layer_opacity")
    assert 25 <= opacity <= 75
    strip = box_of(tablet.locator(".wave canvas").last)
    tablet.touchscreen.tap(strip["x"] + strip["width"] * 0.5, strip["y"] + strip["height"] * 0.6)
    until(tablet, "velvet.playback.frame > 10")
    until(tablet, "Object.values(velvet.placement.lies).length > 0")
    picture = box_of(tablet.locator("svg.handles"))
    before = tablet.evaluate("JSON.stringify(velvet.selection.layer.settings)")
    x, y = middle(picture)
    touch_drag(tablet, (x, y), (x + 60, y + 20))
    saved(tablet)
    assert tablet.evaluate("JSON.stringify(velvet.selection.layer.settings)") != before


def test_nothing_is_cut_off_on_a_tablet(tablet):
    assert tablet.evaluate("document.documentElement.scrollWidth") <= 1024
    for name in ("Sound", "Picture", "Words", "Export"):
        tablet.get_by_role("tab", name=name, exact=True).first.tap()
        expect(tablet.get_by_role("tab", name=name, exact=True).first).to_have_attribute("aria-selected", "true")
        assert tablet.evaluate("document.documentElement.scrollWidth") <= 1024


def tab_to(page, locator, most=200):
    """Press Tab until something has the focus."""
    for _ in range(most):
        if locator.evaluate("(element) => element === document.activeElement"):
            break
        page.keyboard.press("Tab")
    expect(locator).to_be_focused()


def test_a_small_video_is_made_by_keyboard_alone(studio):
    """A layer by its name, a value typed, a signal tied to it, an export begun and done: no pointer."""
    keys = studio.keyboard
    keys.press("Control+k")
    keys.type("bars")
    keys.press("Enter")
    until(studio, "velvet.selection.layer.name === 'Bars'")
    keys.press("Control+k")
    keys.type("layer opacity bars")
    keys.press("Enter")
    field = studio.locator("[data-field=layer_opacity]").first
    expect(field).to_be_focused()
    keys.press("Control+a")
    keys.type("80")
    keys.press("Enter")
    saved(studio)
    assert studio.evaluate("velvet.selection.layer.settings.layer_opacity") == 80
    socket = studio.locator("[data-socket=layer_opacity]").first
    tab_to(studio, socket)
    keys.press("Enter")
    role = studio.locator("[data-role=kick]").first
    tab_to(studio, role)
    keys.press("Enter")
    until(studio, "velvet.selection.layer.patches.length === 1")
    saved(studio)
    keys.press("Escape")
    # From the start to a second later is used.
    for key in ("Home", "i", "Shift+ArrowRight", "o"):
        keys.press(key)
    saved(studio)
    assert studio.evaluate("velvet.project.length") == pytest.approx(1, abs=0.05)
    keys.press("4")
    make = studio.locator("[data-make]")
    tab_to(studio, make)
    keys.press("Enter")
    # Videos of other tests stand in the list, too: the announcement is of this one.
    expect(studio.locator(".toasts[role=status]")).to_contain_text("is finished", timeout=120_000)
    studio.wait_for_selector(".export[data-state=done]")
