"""The Export room in use: what is asked for, the queue, a look before posting, excerpts, posting, a batch."""

from __future__ import annotations

import json

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import saved, until
from tests.conftest import sine, write_wav

QUICK = "velvet.newExport.set('speed', 'quick')"


@pytest.fixture
def room(studio):
    """A small project, in the Export room."""
    studio.evaluate(
        "velvet.project.edit('Size', [{ op: 'replace', path: '/frame', value: { width: 256, height: 144 } }])"
    )
    saved(studio)
    studio.click(".rooms button:has-text('Export')")
    studio.evaluate(QUICK)
    return studio


def made(page):
    return page.locator("[aria-label=Made] .export[data-state=done]")


def test_several_files_are_made_at_one_press_and_the_queue_is_ordered(room):
    until(room, "velvet.newExport.estimate")
    expect(room.locator("[data-estimate]")).to_contain_text("about")
    room.click("[data-formats]")
    room.click("[data-group=still]")
    room.click("[data-video-format=still-jpeg]")
    room.click("[data-group=sound]")
    room.click("[data-video-format=sound-opus]")
    expect(room.locator("[data-make]")).to_have_text("Make 3 files")
    room.evaluate("velvet.exports.pauseAll()")
    until(room, "velvet.exports.paused")
    room.fill("#name-pattern", "{project} {format}")
    room.press("#name-pattern", "Enter")
    room.click("[data-make]")
    until(room, "velvet.exports.waiting.length === 3")
    queue = room.locator("[aria-label=Queue] .export")
    expect(queue.nth(2)).to_contain_text("OPUS.opus")
    queue.nth(2).get_by_text("first").click()
    expect(queue.nth(0)).to_contain_text("OPUS.opus")
    queue.nth(1).get_by_role("button", name="pause", exact=True).click()
    expect(queue.nth(1)).to_contain_text("paused at 0 %")
    room.click("[data-pause-all]")
    expect(made(room)).to_have_count(2, timeout=60_000)
    queue.nth(0).get_by_text("go on").click()
    expect(made(room)).to_have_count(3, timeout=60_000)
    # Played, and cleaned up: each stays in the list and is made again.
    made(room).filter(has_text="MP4").get_by_text("play").click()
    expect(room.locator("[aria-label=Made] video")).to_be_visible()
    room.click("[aria-label=Made] summary:has-text('tidy up')")
    room.click(".tidy .pill:has-text('all')")
    expect(made(room)).to_have_count(0)
    room.click(".removed summary")
    room.locator(".removed .export").first.get_by_text("make again").click()
    expect(made(room)).to_have_count(1, timeout=60_000)


def test_what_is_asked_for_is_kept_under_a_name_and_asked_for_again(room):
    room.click("[data-formats]")
    room.click("[data-video-format=gif]")
    room.click("[data-export-shape=tall]")
    room.click("[aria-label='New export'] summary:has-text('kept')")
    room.fill("[aria-label='Name of these settings']", "Clip and loop")
    room.press("[aria-label='Name of these settings']", "Enter")
    expect(room.locator("[data-kept='Clip and loop']")).to_be_visible()
    room.click("[aria-label='New export'] h2")
    room.click("[data-video-format=gif]")
    room.click("[data-export-shape=tall]")
    room.reload()
    until(room, "window.velvet && velvet.exportSettings.kept.length === 1")
    expect(room.locator("[data-make]")).to_have_text("Make 1 video")
    room.click("[aria-label='New export'] summary:has-text('kept')")
    room.click("[data-kept='Clip and loop']")
    expect(room.locator("[data-make]")).to_have_text("Make 4 videos")
    # Deleted, with a way back; then for good.
    room.click("[aria-label='New export'] summary:has-text('kept')")
    delete = "[aria-label='Delete settings Clip and loop']"
    room.click(delete)
    expect(room.locator("[data-kept]")).to_have_count(0)
    room.click("button:has-text('Undo'):visible")
    expect(room.locator("[data-kept]")).to_have_count(1)
    room.click(delete)
    expect(room.locator("[data-kept]")).to_have_count(0)


def test_the_browser_tells_of_what_is_finished_while_the_page_is_out_of_sight(room):
    room.context.grant_permissions(["notifications"])
    room.evaluate(
        """() => {
            window.told = [];
            window.Notification = class extends window.Notification {
                constructor(title, options) {
                    super(title, options);
                    this.onshow = () => window.told.push(options.body);
                }
            };
            Object.defineProperty(document, "hidden", { get: () => true });
        }"""
    )
    room.fill("#name-pattern", "Told of")
    room.press("#name-pattern", "Enter")
    room.click("[data-make]")
    until(room, "window.told.length === 1", 60)
    assert room.evaluate("window.told[0]").startswith("Told of")


def test_what_can_not_be_is_said_beside_the_button(room):
    room.fill("#name-pattern", "{nothing}")
    room.press("#name-pattern", "Enter")
    room.click("[data-make]")
    expect(room.locator("[aria-label='New export'] [role=alert]:visible")).to_contain_text(
        "{nothing} is no field of a name"
    )
    room.select_option("#for-channel", "harbour-shorts")
    expect(room.locator(".refusals")).to_contain_text("The frame is wide; Harbour Shorts takes tall")


def test_a_look_finds_flashes_and_one_press_softens_them(room):
    lamp = {"id": "lamp0001", "kind": "lfo", "name": "Signal lamp", "colour": "#e0ac55", "settings": {}}
    field = room.evaluate("JSON.parse(JSON.stringify(velvet.project.document.layers[0]))")
    signal = room.evaluate("velvet.given.signalKinds.find((kind) => kind.kind === 'lfo')")
    assert field["kind"] == "backdrop" and signal
    lamp["settings"] = {"rate_hz": 6.0, "shape": "square"}
    field |= {"id": "flash001", "name": "Flash", "group": "", "keyframes": {}, "effects": [], "masks": []}
    field["settings"] |= {"fill": "plain", "plain": "#ffffff"}
    field["patches"] = [
        {"setting": "layer_opacity", "signal": "lamp0001", "from": 0, "to": 100, "join": "replace", "on": True}
    ]
    steps = [{"op": "add", "path": "/signals/-", "value": lamp}, {"op": "add", "path": "/layers/-", "value": field}]
    room.evaluate(f"velvet.project.edit('Flash', {json.dumps(steps)})")
    saved(room)
    room.click("[data-look]")
    until(room, "velvet.reviews.found", 60)
    expect(room.locator(".watch li.bad b").first).to_have_text("Flashes")
    assert room.evaluate("velvet.reviews.tooMany.length > 10")
    room.locator("[data-soften]").first.click(timeout=60_000)
    saved(room)
    layers = room.evaluate("velvet.project.document.layers")
    assert next(item for item in layers if item["id"] == "flash001")["patches"][0]["to"] < 100
    expect(room.locator("[aria-label='Before you post']")).to_contain_text("changed since")
    room.click("[data-look]")
    until(room, "velvet.reviews.found && velvet.reviews.review.edit === velvet.project.state.revision", 60)
    expect(room.locator(".watch li.good", has_text="Flashes")).to_be_visible()


def test_an_excerpt_becomes_the_part(room):
    room.evaluate("velvet.excerpts.setLength(3)")
    until(room, "velvet.excerpts.found.length && velvet.excerpts.found[0].end_s - velvet.excerpts.found[0].start_s < 4")
    room.locator("[data-excerpt='0']").click()
    expect(room.locator("[data-excerpt='0']")).to_have_attribute("aria-pressed", "true")
    start, end = room.evaluate("[velvet.excerpts.found[0].start_s, velvet.excerpts.found[0].end_s]")
    bodies = room.evaluate("velvet.newExport.bodies")
    assert bodies[0]["from_s"] == pytest.approx(start, abs=0.05) and bodies[0]["to_s"] == pytest.approx(end, abs=0.05)


def test_a_batch_is_made_from_a_table(room, tmp_path):
    for number in range(2):
        write_wav(tmp_path / f"{number}.wav", sine(300 + 200 * number, 1.0, -20.0))
    table = tmp_path / "episodes.csv"
    table.write_text("sound,title\n0.wav,First\n1.wav,Second\ngone.wav,Third\n")
    room.click("[data-batch]")
    room.set_input_files("dialog input[accept*=csv]", str(table))
    expect(room.locator("[data-row=lacks]")).to_have_count(3)
    room.set_input_files("dialog input[multiple]", [str(tmp_path / "0.wav"), str(tmp_path / "1.wav"), str(table)])
    expect(room.locator("[data-row=ready]")).to_have_count(2)
    expect(room.locator("dialog[open] [role=alert]")).to_contain_text("names no episodes.csv; passed over")
    room.click("dialog .pill.main:has-text('Make 2 of 3')")
    expect(room.locator("[data-row=done]")).to_have_count(2, timeout=90_000)
    expect(room.locator("[data-row=failed]")).to_contain_text("gone.wav")
    assert "/report.csv" in room.locator("dialog a:has-text('Report')").get_attribute("href")


@pytest.mark.parametrize("theme", ["dark", "light"])
def test_the_export_room_meets_wcag_and_cuts_nothing_off(room, theme):
    from tests.browser.test_studio import AXE

    room.evaluate(f"document.documentElement.dataset.theme = '{theme}'")
    room.evaluate("velvet.newExport.set('channel', 'harbour-shorts')")
    room.click("[data-make]")
    room.click("[data-look]")
    made(room).first.wait_for(timeout=60_000)
    until(room, "velvet.exports.made[0].found && velvet.reviews.found && velvet.newExport.fitting.length", 60)
    made(room).first.get_by_text("play").click()
    room.evaluate(AXE)
    found = room.evaluate("axe.run(document, { runOnly: ['wcag2a', 'wcag2aa'] })")
    told = [(item["id"], [node["html"][:160] for node in item["nodes"][:4]]) for item in found["violations"]]
    assert not told
    wide = room.evaluate("document.documentElement.scrollWidth")
    assert wide <= 1280
