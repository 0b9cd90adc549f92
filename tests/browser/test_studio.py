"""The studio as people use it: with the mouse, with keys, with wrong input, and in two windows."""

import re
import time
from pathlib import Path

import av
import pytest
from playwright.sync_api import expect

from tests.browser.conftest import at_rest, box_of, drop, ready, saved, until

pytestmark = pytest.mark.browser

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()


def setting(page, name):
    return page.evaluate(f"velvet.project.state.document.layers.find((l) => l.kind === 'spectrum').settings.{name}")


def lit(page) -> float:
    """Mean light of the picture on the page."""
    return page.evaluate(
        """() => {
            const canvas = document.querySelector('.stage canvas');
            const data = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data;
            let sum = 0;
            for (let i = 0; i < data.length; i += 4) sum += Math.max(data[i], data[i + 1], data[i + 2]);
            return sum / (data.length / 4);
        }"""
    )


def test_from_a_dropped_song_to_a_downloaded_video(page, address, sound, tmp_path):
    page.goto(address)
    drop(page, sound)
    page.wait_for_url("**/projects/*/looks")
    page.goto(page.url.removesuffix("/looks"))
    ready(page)
    expect(page.locator(".strip")).to_contain_text("LUFS")

    page.click(".play")
    until(page, "velvet.views.preview.last > 20")
    until(page, "Math.abs(velvet.views.preview.shown - velvet.views.player.now) < 6")
    expect(page.locator("[data-test=size]")).to_contain_text(re.compile(r"\d+ × \d+ · \d+"))
    page.click(".play")

    page.click("[data-moment=loudest]")
    until(page, "velvet.views.preview.shown === velvet.playback.frame && !velvet.views.preview.busy")
    before = lit(page)
    slider = page.locator("input[data-setting=reach]")
    slider.scroll_into_view_if_needed()
    box = box_of(slider)
    page.mouse.move(box["x"] + box["width"] * 0.26, box["y"] + box["height"] / 2)
    page.mouse.down()
    for step in range(12):
        page.mouse.move(box["x"] + box["width"] * (0.26 + step * 0.03), box["y"] + box["height"] / 2)
        page.wait_for_timeout(30)
    until(page, "velvet.views.preview.latencies.length > 0")
    assert page.evaluate("velvet.project.state.revision") == 1
    page.mouse.up()
    saved(page)
    until(page, "!velvet.views.preview.busy")
    assert page.evaluate("velvet.project.state.revision") == 2
    assert setting(page, "reach") > 80
    assert lit(page) > before + 1

    page.keyboard.press("Control+z")
    until(page, "velvet.project.state.revision === 3")
    assert setting(page, "reach") == 52
    page.reload()
    ready(page)
    page.keyboard.press("Control+Shift+z")
    until(page, "velvet.project.state.revision === 4")
    assert setting(page, "reach") > 80

    page.click("button.shape[aria-label^=Square]")
    until(page, "!velvet.views.preview.busy && Math.abs(velvet.stage.picture.width - velvet.stage.picture.height) < 3")
    page.click(".frame-panel summary")
    page.select_option("#rate", "25")
    saved(page)
    page.click("button:has-text('Export video') >> nth=0")
    page.click("[data-make]")
    made = page.locator(".export[data-state=done]", has_text="Evening song 1080x1080.mp4").first
    made.wait_for(timeout=240_000)
    with page.expect_download() as download:
        made.get_by_text("save").click()
    assert download.value.suggested_filename == "Evening song 1080x1080.mp4"
    path = tmp_path / "video.mp4"
    download.value.save_as(path)
    with av.open(str(path)) as container:
        assert container.streams.video[0].width == 1080
        assert container.streams.video[0].average_rate == 25
        assert len(container.streams.audio) == 1
        assert sum(1 for _ in container.decode(video=0)) == 200


def test_play_begins_ready_once_the_page_has_rested_and_whoever_acts_comes_first(studio):
    studio.evaluate("velvet.playback.seek(40)")
    until(studio, "velvet.views.preview.readiness.until === 40 + 2 * velvet.project.rate")
    asked = []

    def note(request):
        if request.url.endswith("/frames") and "form" in request.post_data_json:
            asked.append(request.post_data_json)

    studio.on("request", note)
    # Nothing is drawn ahead of what somebody waits for.
    studio.evaluate("velvet.playback.seek(120)")
    until(studio, "velvet.views.preview.shown === 120 && !velvet.views.preview.busy")
    assert [item["frames"] for item in asked] == [[120]]
    assert studio.evaluate("velvet.views.preview.readiness.until") == -1
    # What play shows is what was drawn, at its size and in its form.
    until(studio, "velvet.views.preview.readiness.until === 120 + 2 * velvet.project.rate")
    ahead = {(number, item["width"], item["form"]) for item in asked[1:] for number in item["frames"]}
    asked.clear()
    studio.keyboard.press("Space")
    until(studio, "velvet.views.player.elapsed > 20")
    studio.keyboard.press("Space")
    begun = [(number, item["width"], item["form"]) for item in asked[:2] for number in item["frames"]]
    assert begun and set(begun) <= ahead
    # At the end play goes on from the beginning.
    studio.evaluate("velvet.playback.seek(velvet.project.frames - 1)")
    until(studio, "velvet.views.preview.readiness.until === 2 * velvet.project.rate")


def test_a_changed_setting_is_on_screen_at_once(studio):
    studio.evaluate("velvet.playback.seek(120)")
    at_rest(studio)
    studio.evaluate(
        """async () => {
            velvet.views.preview.latencies.length = 0;
            for (let i = 0; i < 25; i += 1) {
                velvet.project.tryOut([{ op: 'replace', path: '/layers/1/settings/gap', value: 10 + i }]);
                await new Promise((resolve) => setTimeout(resolve, 40));
            }
            velvet.project.draft = null;
        }"""
    )
    until(studio, "!velvet.views.preview.busy")
    # Times are measured by `make bench`; here, every step of a drag is drawn and none waits in a queue.
    assert studio.evaluate("velvet.views.preview.latencies.length") >= 5
    assert studio.evaluate("velvet.project.state.revision") == 1


def test_keys_alone_are_enough(studio):
    studio.keyboard.press("End")
    assert studio.evaluate("velvet.playback.frame") == 239
    studio.keyboard.press("Home")
    for _ in range(3):
        studio.keyboard.press("ArrowRight")
    studio.keyboard.press("Shift+ArrowRight")
    assert studio.evaluate("velvet.playback.frame") == 33
    expect(studio.locator("[data-test=clock]")).to_have_text("0:01.10")
    until(studio, "velvet.views.preview.shown === 33")
    studio.keyboard.press("l")
    assert studio.evaluate("velvet.playback.loop.on && velvet.playback.loop.first") == 33
    studio.keyboard.press("Space")
    until(studio, "velvet.playback.playing && velvet.views.player.elapsed > 5")
    studio.keyboard.press("Space")
    until(studio, "!velvet.playback.playing")
    studio.keyboard.press("g")
    expect(studio.locator("svg.guides")).to_be_visible()
    studio.keyboard.press("?")
    expect(studio.locator("dialog[open]")).to_contain_text("One frame back")
    studio.keyboard.press("Escape")
    studio.locator(".rooms button >> nth=0").focus()
    studio.keyboard.press("Enter")
    expect(studio.locator(".spectrum canvas")).to_be_visible()
    studio.get_by_role("tab", name="Recording").focus()
    studio.keyboard.press("Enter")
    expect(studio.locator("section[aria-label=Recording]")).to_be_visible()
    studio.locator("#in-point").focus()
    studio.keyboard.press("Control+a")
    studio.keyboard.type("0:01.5")
    studio.keyboard.press("Tab")
    until(studio, "velvet.project.state.document.tracks[0].in_s === 1.5")
    # Every stop of the Tab key shows where it is.
    for _ in range(25):
        studio.keyboard.press("Tab")
        ring = studio.evaluate("getComputedStyle(document.activeElement).outlineStyle")
        assert ring != "none" or studio.evaluate("document.activeElement === document.body")


def test_a_loop_repeats_its_stretch(studio):
    studio.evaluate("velvet.playback.setLoop(1, 1.5)")
    studio.evaluate("velvet.playback.seek(30)")
    studio.keyboard.press("Space")
    until(studio, "velvet.views.player.elapsed > 40")
    frames = []
    for _ in range(20):
        frames.append(studio.evaluate("velvet.views.preview.shown"))
        studio.wait_for_timeout(40)
    assert min(frames) >= 30
    assert max(frames) < 45
    studio.keyboard.press("Space")


def test_when_pictures_come_too_slowly_the_size_drops_before_frames_do(studio):
    studio.evaluate("velvet.playback.toggleLoop(); velvet.playback.setLoop(0, 8)")
    turn = []

    def slow(route):
        turn.append(1)
        time.sleep(0.35)
        route.continue_()

    studio.route("**/frames", slow)
    studio.evaluate("""
        const { pace } = velvet.views.preview;
        const judge = pace.judge.bind(pace);
        window.steps = [[pace.level, pace.every]];
        pace.judge = (...given) => {
          judge(...given);
          const last = steps[steps.length - 1];
          if (last[0] !== pace.level || last[1] !== pace.every) steps.push([pace.level, pace.every]);
        };
        steps.length;
    """)
    studio.keyboard.press("Space")
    until(studio, "steps[steps.length - 1][1] > 1", seconds=40)
    steps = studio.evaluate("steps")
    studio.keyboard.press("Space")
    studio.unroute("**/frames")
    assert turn
    smallest = max(level for level, _ in steps)
    assert smallest > steps[0][0]
    # Frames are only left out at the smallest size.
    assert all(every == 1 for level, every in steps if level < smallest)
    assert [level for level, _ in steps] == sorted(level for level, _ in steps)


def test_volume_and_mute_reach_the_sound(studio):
    studio.keyboard.press("Space")
    until(studio, "velvet.views.player.elapsed > 3")
    studio.locator("input[aria-label=Volume]").fill("0.5")
    until(studio, "Math.abs(velvet.views.player.gain.gain.value - 0.25) < 0.01")
    studio.keyboard.press("m")
    until(studio, "velvet.views.player.gain.gain.value < 0.01")
    studio.keyboard.press("m")
    until(studio, "Math.abs(velvet.views.player.gain.gain.value - 0.25) < 0.01")
    studio.keyboard.press("Space")


def test_wrong_values_are_said_beside_the_field_and_nothing_is_lost(studio):
    field = studio.locator("input[data-field=bands]")
    field.fill("many")
    field.press("Enter")
    expect(studio.get_by_text("Bands needs a number")).to_be_visible()
    assert field.input_value() == "many"
    field.fill("999")
    field.press("Enter")
    expect(studio.get_by_text("Bands goes from 1 to 512")).to_be_visible()
    assert studio.evaluate("velvet.project.state.revision") == 1
    field.fill("12")
    field.press("Enter")
    saved(studio)
    assert setting(studio, "bands") == 12
    studio.click(".frame-panel summary")
    studio.locator("#length").fill("yesterday")
    studio.locator("#length").press("Enter")
    expect(studio.get_by_text("The length goes from")).to_be_visible()
    studio.get_by_role("tab", name="Sound").nth(1).click()
    low = studio.locator("input[data-field=low_hz]")
    low.fill("18000")
    low.press("Enter")
    expect(studio.get_by_text("Highest must lie above Lowest")).to_be_visible()
    assert low.input_value() == "18000"
    assert setting(studio, "low_hz") == 40
    low.fill("60")
    low.press("Enter")
    saved(studio)
    expect(studio.get_by_text("Highest must lie above Lowest")).to_be_hidden()


def test_two_windows_do_not_overwrite_each_other(studio):
    other = studio.context.new_page()
    other.goto(studio.url)
    ready(other)
    for page, value in ((other, 20), (studio, 30)):
        field = page.locator("input[data-field=gap]")
        field.fill(str(value))
        field.press("Enter")
        if page is other:
            saved(page)
    expect(studio.locator("dialog[open]")).to_contain_text("changed in another window")
    studio.click("dialog[open] button:has-text('Make my change on it')")
    saved(studio)
    assert setting(studio, "gap") == 30
    assert studio.evaluate("velvet.project.state.revision") == 3
    field = other.locator("input[data-field=corner]")
    field.fill("5")
    field.press("Enter")
    expect(other.locator("dialog[open]")).to_be_visible()
    other.click("dialog[open] button:has-text('Load the other version')")
    until(other, "velvet.project.state.revision === 3")
    assert setting(other, "gap") == 30
    assert setting(other, "corner") == 100


def test_edits_wait_while_the_server_is_away(studio):
    studio.route("**/edits", lambda route: route.abort())
    field = studio.locator("input[data-field=gap]")
    field.fill("21")
    field.press("Enter")
    expect(studio.locator(".saved")).to_contain_text("the server does not answer")
    studio.unroute("**/edits")
    saved(studio)
    assert setting(studio, "gap") == 21


def test_a_file_that_is_no_sound_says_so(page, address, tmp_path):
    page.goto(address)
    path = tmp_path / "list ünï.wav"
    path.write_text("bread, lamp oil, string " * 40)
    drop(page, path)
    expect(page.locator(".importing")).to_contain_text("not a sound file")
    page.click(".importing button:has-text('Close')")
    expect(page.locator(".importing")).to_be_hidden()


def test_in_and_out_are_dragged_on_the_recording(studio):
    studio.click(".rooms button:has-text('Sound')")
    studio.get_by_role("tab", name="Recording").click()
    canvas = studio.locator("section[aria-label=Recording] canvas[x-ref]")
    box = box_of(canvas)
    at_rest(studio)
    studio.mouse.move(box["x"] + 2, box["y"] + 60)
    studio.mouse.down()
    studio.mouse.move(box["x"] + box["width"] / 4, box["y"] + 60, steps=5)
    studio.mouse.up()
    saved(studio)
    assert studio.evaluate("velvet.project.state.document.tracks[0].in_s") == pytest.approx(2.0, abs=0.1)
    expect(studio.locator(".transport .clock")).to_contain_text("/ 0:0")
    assert studio.evaluate("velvet.project.length") == pytest.approx(6.0, abs=0.1)


def test_projects_are_renamed_duplicated_deleted_and_brought_back(studio, address):
    name = f"Lamp {time.time_ns()}"
    studio.fill("input.name", name)
    studio.press("input.name", "Enter")
    saved(studio)
    studio.goto(address)
    studio.click(f"button[aria-label='Duplicate {name}']")
    card = studio.locator(".card-project", has_text=f"{name} copy")
    expect(card).to_be_visible()
    # The page is loaded anew; a press before its scripts are there has nobody to hear it.
    until(studio, "document.readyState === 'complete'")
    studio.click(f"button[aria-label='Delete {name} copy']")
    expect(card).to_be_hidden()
    studio.click(".toasts button:has-text('Undo')")
    expect(card).to_be_visible()


@pytest.mark.parametrize("theme", ["dark", "light"])
@pytest.mark.parametrize("room", ["sound", "picture", "words", "export", "start", "looks"])
def test_every_view_passes_the_accessibility_rules(studio, address, room, theme):
    studio.evaluate(f"localStorage.setItem('velvet-theme', '{theme}')")
    if room == "start":
        studio.goto(address)
        studio.wait_for_selector(".cards")
    elif room == "looks":
        studio.goto(f"{studio.url}/looks")
        studio.wait_for_selector(".moving.drawn")
        studio.evaluate("velvetLooks.moving.rest(true)")
    else:
        studio.reload()
        ready(studio)
        studio.click(f".rooms button >> nth={['sound', 'picture', 'words', 'export'].index(room)}")
    at_rest(studio)
    studio.evaluate(AXE)
    found = studio.evaluate("axe.run({ runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'] })")
    assert [(fault["id"], [node["html"][:160] for node in fault["nodes"]][:3]) for fault in found["violations"]] == []


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (1920, 1080)])
@pytest.mark.parametrize("room", [0, 1, 2, 3])
def test_nothing_is_cut_off(studio, width, height, room):
    studio.set_viewport_size({"width": width, "height": height})
    studio.click(f".rooms button >> nth={room}")
    at_rest(studio)
    cut = studio.evaluate(
        """() => [...document.querySelectorAll('.studio button, .studio h2, .studio label, .studio dd, .studio dt, .clock')]
            .filter((element) => element.offsetParent && !element.closest('.scroll, .visually-hidden, dialog'))
            .filter((element) => {
                const box = element.getBoundingClientRect();
                return box.right > innerWidth + 1 || box.bottom > innerHeight + 1 || box.left < -1 || element.scrollWidth > element.clientWidth + 2;
            }).map((element) => element.outerHTML.slice(0, 120))"""
    )
    assert cut == []
    assert studio.evaluate("document.documentElement.scrollHeight <= innerHeight + 1")


def test_start_page_and_playback_fit_a_phone(studio, address):
    studio.set_viewport_size({"width": 390, "height": 844})
    at_rest(studio)
    assert studio.evaluate("document.documentElement.scrollWidth <= 390")
    studio.click(".play")
    until(studio, "velvet.views.player.elapsed > 5")
    studio.click(".play")
    studio.goto(address)
    assert studio.evaluate("document.documentElement.scrollWidth <= 390")
