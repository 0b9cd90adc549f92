"""Signals as people use them: dragging a pickup, patching a setting, copying, deleting, beats, drawn curves."""

import re

import pytest
from playwright.sync_api import expect

from tests.audio import rhythms
from tests.browser.conftest import at_rest, box_of, bring_in, saved, until
from tests.browser.test_studio import lit
from tests.conftest import write_wav

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def drums(tmp_path_factory):
    samples = rhythms.played(rhythms.straight, rhythms.steady(120, 8))
    return write_wav(tmp_path_factory.mktemp("sound") / "Drums.wav", samples, subtype="PCM_16")


@pytest.fixture
def sound_room(page, address, drums):
    """A fresh project with drums in the Sound room, its suggestions loaded."""
    bring_in(page, address, drums)
    page.locator(".rooms button", has_text="Sound").click()
    page.wait_for_selector("[data-found=Kick]")
    return page


def read(page):
    until(
        page,
        "!velvet.project.waiting.length && !velvet.signalCurve.readingCurve && velvet.signalCurve.curves && velvet.signalCurve.curves.mark === velvet.signalCurve.curveMark",
    )


def drag(page, x, y, by_x=0, by_y=0):
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 9):
        page.mouse.move(x + by_x * step / 8, y + by_y * step / 8)
        page.wait_for_timeout(30)


def on_spectrum(page, hz, db):
    box = box_of(page.locator(".spectrum canvas"))
    x, y = page.evaluate(f"[velvet.views.spectrum.x({hz}), velvet.views.spectrum.y({db})]")
    return box["x"] + x, box["y"] + y


def test_a_suggestion_is_dragged_patched_copied_and_undone(sound_room):
    page = sound_room
    page.click("[data-found=Kick]")
    saved(page)
    read(page)
    # Dragging an edge: the curve and the range on the page change before the mouse lets go.
    before = page.evaluate("JSON.stringify(velvet.signalCurve.curves.whole.high)")
    band = page.evaluate("velvet.signals.signal.settings")
    x, y = on_spectrum(page, band["high_hz"], (band["quiet_db"] + band["loud_db"]) / 2)
    drag(page, x, y, by_x=150)
    until(page, "velvet.project.draft && !velvet.signalCurve.readingCurve")
    until(page, f"JSON.stringify(velvet.signalCurve.curves.whole.high) !== {before!r}")
    assert page.evaluate("velvet.project.state.document.signals[0].settings.high_hz") == band["high_hz"]
    page.mouse.up()
    saved(page)
    assert page.evaluate("velvet.signals.signal.settings.high_hz") > band["high_hz"] * 2
    page.keyboard.press("Control+z")
    until(page, f"velvet.signals.signal.settings.high_hz === {band['high_hz']}")

    # A patch: the bars' height follows the kick, and the picture with it.
    page.locator(".rooms button", has_text="Picture").click()
    page.evaluate("velvet.playback.seek(43)")  # a kick sounds at 1.4 s
    until(page, "velvet.views.preview.shown === velvet.playback.frame && !velvet.views.preview.busy")
    light = lit(page)
    page.click("[data-socket=reach]")
    page.click("[data-plug=Kick]")
    page.locator("[data-patch=reach] [data-end=to]").fill("60")
    page.locator("[data-patch=reach] [data-end=to]").press("Enter")
    saved(page)
    until(page, "velvet.signals.live[velvet.signals.signals[0].id] > 0.4")
    until(page, "velvet.project.state.document.layers[1].patches[0].to === 60")
    at_rest(page)
    assert lit(page) > light * 1.1

    # A copied layer follows the song without being touched.
    page.get_by_role("button", name="Copy layer").click()
    saved(page)
    layers = page.evaluate("velvet.project.state.document.layers")
    assert layers[2]["patches"] == layers[1]["patches"]
    for _ in range(3):
        page.keyboard.press("Control+z")
        saved(page)
    until(
        page,
        "velvet.project.state.document.layers.length === 2 && velvet.project.state.document.layers[1].patches.length === 0",
    )


def test_wrong_values_stand_beside_their_field_and_the_last_good_state_stays(sound_room):
    page = sound_room
    page.click("[data-found=Kick]")
    saved(page)
    read(page)
    good = page.evaluate("JSON.stringify(velvet.signalCurve.curves.whole.high)")
    for name, text, words in (
        ("high_hz", "5", "goes from 10"),
        ("quiet_db", "loud", "needs a number"),
        ("loud_db", "-70", "at least 1 dB above"),
    ):
        field = page.locator(f".side.right [data-field={name}]")
        field.fill(text)
        field.press("Enter")
        row = page.locator(".side.right .setting", has=page.locator(f"[data-field={name}]"))
        expect(row.locator(".fault")).to_contain_text(words)
        assert field.input_value() == text
    assert page.evaluate("JSON.stringify(velvet.signalCurve.curves.whole.high)") == good


def test_deleting_a_signal_names_what_hangs_on_it(sound_room):
    page = sound_room
    page.click("[data-found=Kick]")
    saved(page)
    page.locator(".rooms button", has_text="Picture").click()
    page.click("[data-socket=gap]")
    page.click("[data-plug=Kick]")
    saved(page)
    page.get_by_role("button", name="patch list").first.click()
    expect(page.locator(".patch-table tbody tr")).to_have_count(1)
    page.get_by_role("button", name="Close").last.click()
    page.locator(".rooms button", has_text="Sound").click()
    page.get_by_role("button", name="Delete signal").click()
    expect(page.locator("dialog[open]")).to_contain_text("Bars: Gap")
    page.get_by_role("button", name="Delete", exact=True).click()
    saved(page)
    assert page.evaluate("[velvet.signals.signals.length, velvet.project.state.document.layers[1].patches.length]") == [
        0,
        0,
    ]
    page.locator(".toasts").get_by_role("button", name="Undo").click()
    until(page, "velvet.signals.signals.length === 1 && velvet.project.state.document.layers[1].patches.length === 1")


def test_hearing_only_the_band_and_the_tempo(sound_room):
    page = sound_room
    page.click("[data-found=Kick]")
    saved(page)
    page.get_by_role("button", name="hear what it hears").click()
    until(page, "velvet.playback.playing && velvet.views.player.chain.length === 5")
    kinds = page.evaluate("velvet.views.player.chain.slice(1).map((node) => node.type)")
    assert kinds == ["highpass", "highpass", "lowpass", "lowpass"]
    page.get_by_role("button", name="hear everything").click()
    until(page, "velvet.views.player.chain.length === 0")
    page.keyboard.press("Escape")
    page.locator(".play").click()
    page.get_by_role("tab", name="Recording").click()
    expect(page.locator("[data-test=bpm]")).to_have_text(re.compile(r"1(19\.9|20\.\d) bpm"))
    page.get_by_role("button", name="double", exact=True).click()
    expect(page.locator("[data-test=bpm]")).to_have_text(re.compile(r"2(39\.|40\.)\d bpm"))
    page.locator("#tempo").fill("9000")
    page.locator("#tempo").press("Enter")
    expect(page.locator(".beats-box .fault")).to_contain_text("20 to 400")
    page.get_by_role("button", name="as measured").click()
    until(page, "Math.abs(velvet.tempo.beatGrid.tempo_bpm - 120) < 0.5")
    assert (
        abs(
            page.evaluate("velvet.tempo.snapped(velvet.tempo.beatGrid.beats[3][0] + 0.05)")
            - page.evaluate("velvet.tempo.beatGrid.beats[3][0]")
        )
        < 1e-6
    )


def test_a_drawn_curve_from_the_mouse_and_from_a_file(sound_room, tmp_path):
    page = sound_room
    page.locator("summary", has_text="add").first.click()
    page.click("[data-kind=drawn]")
    saved(page)
    read(page)
    box = box_of(page.locator(".curve canvas"))
    page.mouse.dblclick(box["x"] + box["width"] * 0.7, box["y"] + box["height"] - 30)
    until(page, "velvet.project.state.document.signals[0].settings.curve.length === 3")
    good = tmp_path / "curve.csv"
    good.write_text("time,value\n0,0\n1,1\n2,0.25\n4,1\n")
    page.set_input_files("#points-file", str(good))
    until(page, "velvet.project.state.document.signals[0].settings.curve.length === 4")
    bad = tmp_path / "bad.csv"
    bad.write_text("time,value\n0,0\n1,much\n")
    page.set_input_files("#points-file", str(bad))
    expect(page.locator(".side.right .fault:visible").first).to_contain_text("Line 3 has “much”")
    assert page.evaluate("velvet.project.state.document.signals[0].settings.curve.length") == 4


def test_usual_places_fitting_tapping_and_a_loop_of_mixes(sound_room, sound):
    page = sound_room
    page.locator("section[aria-label=Signals]:visible summary").click()
    page.locator(".places .choice button", has_text="Air").click()
    until(
        page,
        "velvet.project.state.document.signals.length === 1 && velvet.project.state.document.signals[0].settings.quiet_db !== -50",
    )
    saved(page)
    field = page.locator(".side.right [data-field=loud_db]")
    field.fill("20")
    field.press("Enter")
    saved(page)
    page.get_by_role("button", name="Fit", exact=True).click()
    until(page, "velvet.project.state.document.signals[0].settings.loud_db < 10")

    # Two mixes that would read each other: refused with both names, the last good state stays.
    for _ in range(2):
        page.locator("section[aria-label=Signals]:visible summary").click()
        page.click("[data-kind=mix]")
        saved(page)
    page.locator(".mix-of button", has_text="Mix").click()
    saved(page)
    page.locator("[data-signal='Mix']").click()
    page.locator(".mix-of button", has_text="Mix 2").click()
    expect(page.locator(".mix-of .fault")).to_contain_text(re.compile("Mix.* reads Mix"))
    assert page.evaluate("velvet.project.state.document.signals[1].settings.of") == []

    # A typed and a tapped tempo.
    page.get_by_role("tab", name="Recording").click()
    page.locator("#tempo").fill("90")
    page.locator("#tempo").press("Enter")
    expect(page.locator("[data-test=bpm]")).to_have_text("90.0 bpm")
    page.keyboard.press("Escape")
    page.locator(".play").click()
    until(page, "velvet.views.player.elapsed > 2")
    for _ in range(24):
        page.keyboard.press("t")
        page.wait_for_timeout(400)
        if page.evaluate("velvet.project.state.document.beats.tempo_bpm !== 90"):
            break
    # How fast the taps really came depends on the machine; that they count does not.
    assert page.evaluate("velvet.project.state.document.beats.tempo_bpm") != 90
    page.locator(".play").click()

    # Another track under it: the signals stay, and are fitted to it in the same step.
    until(page, "!velvet.playback.playing && !velvet.project.waiting.length && !velvet.project.sending")
    page.set_input_files("#replace", str(sound))
    expect(page.locator(".toasts")).to_contain_text("all that hears it is fitted", timeout=20_000)
    until(page, "velvet.project.state.undo === 'Replace the sound'")
    assert page.evaluate("velvet.signals.signals.length") == 3
