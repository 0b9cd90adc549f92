"""States of a project: seen by pointing, taken by a press, also those that an undo left; versions; comparison."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import saved, until


def put(studio, setting, value):
    studio.evaluate(
        "([name, value]) => velvet.project.edit(`Set ${name}`, [{op: 'add',"
        " path: `/layers/0/settings/${name}`, value}])",
        [setting, value],
    )
    saved(studio)


@pytest.fixture
def edited(studio):
    put(studio, "layer_opacity", 80)
    put(studio, "move_x", 10)
    studio.keyboard.press("Control+z")
    until(studio, "velvet.project.state.redo === 'Set move_x'")
    put(studio, "move_y", 20)
    studio.keyboard.press("h")
    expect(studio.locator("[data-state='Set move_x']")).to_be_visible()
    return studio


def value(studio, setting):
    return studio.evaluate(f"velvet.project.document.layers[0].settings.{setting}")


def test_a_state_that_an_undo_left_is_seen_and_taken(edited):
    listed = edited.locator(".history ol")
    expect(listed.locator("li")).to_have_count(4)
    expect(listed.locator("li").first).to_contain_text("now")
    expect(listed.locator("li", has_text="Set move_x")).to_contain_text("undone")
    edited.locator("[data-state='Set move_x']").hover()
    until(edited, "velvet.project.draft && velvet.project.draft.some(({path}) => path.endsWith('move_x'))")
    edited.mouse.move(900, 790)
    until(edited, "!velvet.project.draft")
    edited.locator("[data-state='Set move_x']").click()
    saved(edited)
    assert (value(edited, "move_x"), value(edited, "move_y"), value(edited, "layer_opacity")) == (10, 0, 80)
    edited.locator("[data-state='Set layer_opacity']").click()
    until(edited, "velvet.project.state.redo === 'Set move_y'")
    assert (value(edited, "move_x"), value(edited, "layer_opacity")) == (0, 80)


def test_a_version_is_kept_compared_and_taken(edited):
    edited.get_by_label("Name for the state now").fill("Low")
    edited.keyboard.press("Enter")
    expect(edited.get_by_role("button", name="Take version Low")).to_be_visible()
    put(edited, "move_y", -15)
    edited.get_by_role("button", name="Compare with Low", exact=True).click()
    dialog = edited.get_by_role("dialog", name="Now, and another state")
    expect(dialog.get_by_role("list", name="What differs")).to_contain_text("Offset Y -15 % → 20 %")
    dialog.get_by_role("button", name="On the picture").click()
    edge = edited.get_by_role("slider", name="Edge between both pictures")
    expect(edge).to_be_visible()
    edge.fill("30")
    expect(edge).to_have_attribute("aria-valuetext", "now to the left, Low to the right of 30 %")
    edited.get_by_role("button", name="End the comparison").click()
    edited.get_by_role("button", name="Take version Low").click()
    saved(edited)
    assert value(edited, "move_y") == 20
    edited.get_by_label("Name for the state now").fill(" ")
    edited.keyboard.press("Enter")
    expect(edited.locator(".history [role=alert]")).to_have_text("Give this version a name first.")
