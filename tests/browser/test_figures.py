"""Figures by hand: each family is added from its picture, put on another shape and painted anew."""

import time
from base64 import b64decode

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.conftest import at_rest, box_of, ready, saved, until


def layer(page):
    return page.evaluate("JSON.parse(JSON.stringify(velvet.selection.layer))")


def shown(page):
    """The picture on show as pixels."""
    until(page, "velvet.project.waiting.length === 0")
    at_rest(page)
    data = b64decode(page.evaluate("velvet.page.refs.picture.toDataURL('image/png').split(',')[1]"))
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR).astype(int)


def changed(page, before, level=40, share=0.002):
    """The picture on show once more than a share of it differs by a level from what it was."""
    end = time.monotonic() + 20
    while True:
        now = shown(page)
        if now.shape != before.shape:
            before = cv2.resize(before.astype(np.float32), now.shape[1::-1], interpolation=cv2.INTER_AREA)
        if (np.abs(now - before).max(axis=2) > level).mean() > share:
            return now
        assert time.monotonic() < end, "the picture did not change"


def tab(page, name):
    page.locator(".right .tabs button", has_text=name).click()


@pytest.mark.parametrize(
    ("family", "figure", "kind", "grounds"),
    [
        ("spectrum", "Segments", "spectrum", "base"),
        ("waveform", "Scope", "scope", "base"),
        ("meter", "Lying bars", "meter", ""),
    ],
)
def test_a_figure_of_each_family_is_added_put_on_a_shape_and_painted(studio, family, figure, kind, grounds):
    studio.evaluate("velvet.playback.seek(100)")
    before = shown(studio)
    # By keys alone: A opens, arrows and Tab lead to the picture, Enter takes it.
    studio.keyboard.press("a")
    studio.locator(f"[data-family={family}]:visible").press("Enter")
    card = studio.locator(f"[data-figure='{figure}']:visible")
    assert card.locator("img").evaluate("image => image.complete && image.naturalWidth > 100")
    card.focus()
    card.press("Enter")
    saved(studio)
    assert layer(studio)["kind"] == kind and layer(studio)["name"] == figure
    added = changed(studio, before)
    tab(studio, "Shape")
    if grounds:
        studio.click("[aria-label='Base shape'] [data-choice=ring]")
        saved(studio)
        assert layer(studio)["settings"]["base"] == "ring"
        expect(studio.locator("input[data-field=radius]")).to_be_visible()
        expect(studio.locator("input[data-field=width]")).to_have_count(0)
    else:
        studio.click("[aria-label='Style'] [data-choice=dial]")
        saved(studio)
    other = changed(studio, added)
    tab(studio, "Colour")
    if kind == "meter":
        studio.click("[aria-label=Zones] [data-choice=off]")
        saved(studio)
    studio.click("[aria-label=Paint] [data-choice=along]")
    saved(studio)
    studio.click("[data-palettes]")
    studio.click("[data-palette=Kelp]")
    saved(studio)
    assert layer(studio)["settings"]["colours"][0]["colour"] == "#eaf2b0"
    studio.click("[aria-label=Paint] [data-choice=level]")
    saved(studio)
    ends = {"spectrum": "dB", "waveform": "full height", "meter": "0 dB"}[family]
    expect(studio.locator(".ramp-ends span").last).to_contain_text(ends)
    changed(studio, other, 25, 0.0005)
    # All of it is one edit each, and goes back.
    for _ in range(4):
        studio.click("button[aria-label=Undo]")
        saved(studio)


def test_palettes_are_pasted_saved_and_used_in_another_project(studio, address, sound, tmp_path):
    from tests.browser.conftest import bring_in

    tab(studio, "Colour")
    studio.click("[data-palettes]")
    paste = studio.locator("input[aria-label='CSS colours or a CSS gradient']")
    paste.fill("no colours at all")
    paste.press("Enter")
    expect(studio.locator(".palettes .fault")).to_contain_text("is no CSS colour")
    assert paste.input_value() == "no colours at all"
    paste.fill("linear-gradient(gold, #123456 40%, white)")
    paste.press("Enter")
    saved(studio)
    assert [stop["at"] for stop in layer(studio)["settings"]["colours"]] == [0, 0.4, 1]
    name = studio.locator("input[aria-label='Name of the palette']")
    name.fill("Test quay")
    name.press("Enter")
    expect(studio.locator("[data-palette='Test quay']")).to_be_visible()
    picture = np.zeros((20, 40, 3), np.uint8)
    picture[:, :20], picture[:, 20:] = (10, 10, 200), (240, 230, 220)
    cv2.imwrite(str(tmp_path / "flag.png"), picture)
    studio.set_input_files(".palettes input[type=file]", str(tmp_path / "flag.png"))
    until(studio, "velvet.selection.layer.settings.colours.length === 2")
    saved(studio)
    studio.click(".palettes button:has-text('From the preview')")
    until(studio, "velvet.selection.layer.settings.colours.length === 5")
    saved(studio)
    bring_in(studio, address, sound)
    tab(studio, "Colour")
    studio.click("[data-palettes]")
    studio.click("[data-palette='Test quay']")
    saved(studio)
    assert layer(studio)["settings"]["colours"][1] == {"at": 0.4, "colour": "#123456"}
    studio.click("[aria-label='Delete palette Test quay']")
    expect(studio.locator("[data-palette='Test quay']")).to_have_count(0)


def test_a_path_is_pasted_brought_from_a_file_and_refused_with_a_sentence(studio, tmp_path):
    studio.click("[aria-label='Base shape'] [data-choice=path]")
    saved(studio)
    field = studio.locator("textarea[data-field=path]")
    field.fill("M0 0 L 10 0 L 10 ten")
    field.blur()
    expect(studio.locator(".setting.text .fault")).to_contain_text("no “n”")
    assert field.input_value() == "M0 0 L 10 0 L 10 ten"
    field.fill("M0 0 L 10 0 L 10 10 Z")
    field.blur()
    saved(studio)
    assert layer(studio)["settings"]["path"] == "M0 0 L 10 0 L 10 10 Z"
    expect(studio.locator(".setting.text .fault")).to_be_hidden()
    (tmp_path / "mark.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg"><circle cx="9" cy="9" r="5"/></svg>')
    studio.set_input_files(".setting.text input[type=file]", str(tmp_path / "mark.svg"))
    until(studio, "velvet.selection.layer.settings.path.startsWith('M4 9')")


def test_the_choices_and_the_palettes_meet_wcag(studio):
    from tests.browser.test_studio import AXE

    tab(studio, "Colour")
    studio.click("[data-palettes]")
    expect(studio.locator("[data-palette=Kelp]")).to_be_visible()
    studio.evaluate(AXE)
    rules = "axe.run({ runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'] })"
    assert [(fault["id"], fault["nodes"][0]["html"][:160]) for fault in studio.evaluate(rules)["violations"]] == []
    studio.locator("body").press("a")
    expect(studio.locator("[data-figure=Bars]")).to_be_visible(timeout=30_000)
    assert [(fault["id"], fault["nodes"][0]["html"][:160]) for fault in studio.evaluate(rules)["violations"]] == []


def test_choices_say_when_they_cannot_be_drawn(studio):
    studio.route(
        "**/choices", lambda route: route.fulfill(status=503, json={"error": "This could not be drawn in time."})
    )
    # Under load a request now and then passed before the route was in force.
    until(studio, "fetch('/projects/none/choices').then((answer) => answer.status === 503)")
    studio.keyboard.press("a")
    expect(studio.locator("dialog.choices .fault")).to_contain_text("could not be drawn in time")
    studio.unroute("**/choices")
    studio.click("dialog.choices button:has-text('Try again')")
    expect(studio.locator("[data-figure=Bars]")).to_be_visible(timeout=30_000)
    studio.keyboard.press("Escape")
    expect(studio.locator("dialog.choices")).to_be_hidden()


def test_choices_are_searched_over_all_families_with_pictures_as_large_as_asked(studio):
    """A word shows the rings of every family; the slider makes cards wider, and it is kept for next time."""
    studio.keyboard.press("a")
    search = studio.locator("[data-seek-figure]")
    expect(search).to_be_focused()
    search.type("ring")
    cards = studio.locator("dialog.choices .choice-card")
    expect(cards.filter(has_text="Ring of bars")).to_be_visible(timeout=30_000)
    expect(cards.filter(has_text="Progress ring")).to_be_visible()
    before = box_of(cards.first)["width"]
    slider = studio.locator("dialog.choices .picture-size input")
    slider.focus()
    for _ in range(40):
        studio.keyboard.press("ArrowRight")
    assert box_of(cards.first)["width"] > before * 1.4
    search.fill("no figure of this name")
    expect(studio.locator("dialog.choices [role=status]:visible")).to_contain_text("No layer goes by that name")
    search.fill("progress ring")
    cards.filter(has_text="Progress ring").click()
    until(studio, "velvet.selection.layer.name === 'Progress ring'")
    saved(studio)
    studio.reload()
    ready(studio)
    assert studio.evaluate("velvet.layout.sizeOf('cards')") > 300
