"""What moves by the sound, by hand: bands dragged on the spectrum, a logo drawn on, layers repeated and traced."""

from playwright.sync_api import expect

from tests.browser.conftest import box_of, drop, saved, until
from tests.browser.test_effects import add_effect
from tests.browser.test_figures import changed, shown, tab

MARK = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 200"><path id="wave" d="M20 150q40-30 80 0t80 0"
fill="none" stroke="#5fc4b4" stroke-width="10"/><rect id="tower" x="85" y="20" width="30" height="100"
fill="#ff7a66"/></svg>"""


def chosen(page, name):
    page.evaluate(
        "name => velvet.selection.choose(velvet.project.document.layers.find((layer) => layer.name === name))", name
    )


def added(page, family, figure):
    page.keyboard.press("a")
    page.locator(f"[data-family={family}]:visible").press("Enter")
    page.locator(f"[data-figure='{figure}']:visible").click()
    saved(page)


def test_bands_are_dragged_by_their_edges_split_and_joined(studio):
    added(studio, "spectrum", "Bars")
    tab(studio, "Sound")
    studio.get_by_role("button", name="Typed edges").click()
    saved(studio)
    canvas = studio.locator("[data-bands]")
    canvas.scroll_into_view_if_needed()
    until(studio, "[...velvet.bandField.views].some((view) => view.inner && view.canvas.isConnected)")
    box = box_of(canvas)

    def x(hz):
        return box["x"] + studio.evaluate("hz => [...velvet.bandField.views].at(-1).x(hz)", hz)

    y = box["y"] + box["height"] / 2
    studio.mouse.click(x(900), y)
    studio.mouse.move(x(640), y)
    studio.mouse.down()
    studio.mouse.move(x(900), y, steps=5)
    studio.mouse.up()
    saved(studio)
    edges = studio.locator("[data-field=edges]")
    low = studio.evaluate("velvet.bandField.bands(velvet.settings.settingOf(velvet.selection.layer, 'edges'))[4].low")
    assert 850 < low < 950
    assert f"320-{low:g}, {low:g}-1.3k" in edges.input_value(), "the neighbour keeps its edge on it"
    studio.get_by_role("button", name="split").click()
    saved(studio)
    assert edges.input_value().count(",") == 8
    studio.get_by_role("button", name="join with the next").click()
    saved(studio)
    assert edges.input_value().count(",") == 7
    edges.fill("40-200, 100-400")
    edges.blur()
    expect(studio.locator(".fault:visible")).to_contain_text("Bands must not cross")


def test_a_logo_is_drawn_on_stroke_by_stroke_and_its_colours_are_those_of_its_layers(studio, tmp_path):
    path = tmp_path / "Mark.svg"
    path.write_text(MARK)
    drop(studio, path)
    until(studio, "velvet.project.document.layers.some((layer) => layer.kind === 'logo')")
    saved(studio)
    chosen(studio, "Mark")
    studio.evaluate("velvet.playback.seek(30)")
    studio.get_by_role("button", name="draw on", exact=True).click()
    until(studio, "velvet.project.document.layers.length >= 5")
    saved(studio)
    layers = studio.evaluate("JSON.parse(JSON.stringify(velvet.project.document.layers))")
    whole, *parts = layers[-5:]
    assert not whole["visible"]
    assert [part["name"] for part in parts] == [
        "Mark: wave",
        "Mark: wave, stroke",
        "Mark: tower",
        "Mark: tower, stroke",
    ]
    assert [part["settings"]["plain"] for part in parts] == ["#5fc4b4", "#5fc4b4", "#ff7a66", "#ff7a66"]
    starts = [part["keyframes"]["draw_to"][0]["time_s"] for part in parts[1::2]]
    assert starts[1] > starts[0] >= 0.9, "one after the other, from the playhead on"
    studio.evaluate("velvet.playback.seek(45)")
    half = shown(studio)
    studio.evaluate("velvet.playback.seek(110)")
    changed(studio, half)
    studio.keyboard.press("Control+z")
    saved(studio)
    assert studio.evaluate("velvet.project.document.layers.length") == len(layers) - 4, "one step of undo"


def test_a_layer_is_repeated_traced_and_blurred(studio):
    for family, figure, kind in (("shape", "Array on a ring", "array"), ("waveform", "Trace, sweep", "trace")):
        before = shown(studio)
        added(studio, family, figure)
        assert studio.evaluate("velvet.selection.layer.kind") == kind
        changed(studio, before)
    chosen(studio, "Array on a ring")
    studio.evaluate(
        """() => velvet.project.edit("Turned", [{
          op: "add",
          path: `/layers/${velvet.layers.indexOf(velvet.selection.layer.id)}/keyframes/spin`,
          value: [{ time_s: 0, value: 0, ease: "linear" }, { time_s: 3, value: 720, ease: "linear" }],
        }])"""
    )
    saved(studio)
    studio.evaluate("velvet.playback.seek(30)")
    tab(studio, "Effects")
    before = shown(studio)
    add_effect(studio, "Motion blur", "time")
    assert studio.evaluate("velvet.selection.layer.effects[0].kind") == "shutter"
    changed(studio, before, level=20)
