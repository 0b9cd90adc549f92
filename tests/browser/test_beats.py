"""The likeliest tempos, chosen with one press; and a picture sequence that is one clip."""

import re
from itertools import pairwise

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from tests.audio import rhythms
from tests.browser.conftest import at_rest, box_of, bring_in, until
from tests.conftest import write_wav

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def triplets(tmp_path_factory):
    samples = rhythms.played(rhythms.twelve_eight, rhythms.steady(113, 14))
    return write_wav(tmp_path_factory.mktemp("triplets") / "Harbour dance.wav", samples, subtype="PCM_16")


def test_a_tempo_is_chosen_from_the_likeliest_with_one_press(page, address, triplets):
    bring_in(page, address, triplets)
    page.get_by_role("tablist", name="Rooms").get_by_role("tab", name="Sound").click()
    until(page, "velvet.tempo.beatGrid.readings.length > 1")
    group = page.get_by_role("group", name="Likeliest tempos")
    page.get_by_role("tab", name="Recording").click()
    choices = group.get_by_role("button")
    expect(choices.first).to_have_attribute("aria-pressed", "true")
    wanted = re.match(r"[\d.]+", choices.nth(1).inner_text())[0]
    choices.nth(1).click()
    expect(choices.nth(1)).to_have_attribute("aria-pressed", "true")
    until(page, f"Math.abs(velvet.tempo.beatGrid.tempo_bpm - {wanted}) < 1.5")
    until(page, "velvet.project.waiting.length === 0 && velvet.project.state.document.beats.reading === '2'")
    page.keyboard.press("Control+z")
    until(page, "velvet.project.state.document.beats.reading !== '2'")
    expect(choices.first).to_have_attribute("aria-pressed", "true")


def test_a_tempo_map_is_typed_and_a_beat_is_dragged(page, address, sound):
    bring_in(page, address, sound)
    page.get_by_role("tablist", name="Rooms").get_by_role("tab", name="Sound").click()
    page.get_by_role("tab", name="Recording").click()
    until(page, "velvet.tempo.beatGrid.beats.length > 4")
    page.get_by_label("From", exact=True).select_option("map")
    until(page, "velvet.tempo.beatValue('source') === 'map'")
    rows = page.get_by_role("group", name="Tempo map").get_by_role("group")
    expect(rows).to_have_count(1)
    rows.get_by_label("Tempo in beats a minute").fill("100")
    page.keyboard.press("Enter")
    rows.get_by_label("Meter").fill("3/4")
    page.keyboard.press("Enter")
    until(page, "velvet.tempo.beatGrid.tempo_bpm === 100")
    page.get_by_label("Pick-up, beats").fill("1")
    page.keyboard.press("Enter")
    page.evaluate("velvet.playback.seek(3.0 * velvet.project.rate)")
    page.get_by_role("button", name="+ row here").click()
    expect(rows).to_have_count(2)
    second = rows.nth(1)
    second.get_by_label("Meter").fill("waltz")
    page.keyboard.press("Enter")
    expect(page.get_by_text("“waltz” is none.")).to_be_visible()
    second.get_by_label("Meter").fill("6/8")
    page.keyboard.press("Enter")
    expect(second.get_by_label("Note of a beat")).to_have_value("3/8")
    until(page, "velvet.project.waiting.length === 0 && velvet.tempo.beatGrid.tempo_bpm")
    at_rest(page)
    firsts = page.evaluate("velvet.tempo.beatGrid.beats.filter((beat) => beat[1]).map((beat) => beat[0])")
    bar = page.evaluate("velvet.tempo.beatValue('tempos')[1].bar")
    gaps = [round(after - before, 3) for before, after in pairwise(firsts)]
    assert bar == 2 and gaps[0] == 1.8 and set(gaps[1:]) == {1.2}
    box = box_of(page.locator(".recording canvas").first)
    shown = "velvet.beatMoves.shown.map(([time]) => velvet.views.whole.x(time, velvet.views.whole.box.width))"
    before = page.evaluate(shown)
    foot = box["y"] + box["height"] - 9
    page.mouse.move(box["x"] + before[3], foot)
    page.mouse.down()
    page.mouse.move(box["x"] + before[3] + 8, foot)
    page.mouse.move(box["x"] + before[3] + 12, foot)
    page.mouse.up()
    until(page, "velvet.project.waiting.length === 0 && velvet.beatMoves.count === 1")
    at_rest(page)
    after = page.evaluate(shown)
    # In an even grid the others go along; another one may have come in at the begin.
    assert all(min(abs(x + 12 - other) for other in after) < 1 for x in before[:-1])
    page.get_by_role("button", name="alone", exact=True).click()
    page.get_by_role("button", name="beat here").click()
    until(page, "velvet.project.waiting.length === 0 && velvet.beatMoves.moved.length > 1")
    page.get_by_role("button", name="moved beats back").click()
    until(page, "velvet.project.waiting.length === 0 && velvet.beatMoves.moved.length === 0")


def test_numbered_pictures_dropped_together_become_one_clip(page, address, triplets):
    bring_in(page, address, triplets)
    files = []
    for number in range(4):
        picture = np.full((24, 40, 3), number * 60, np.uint8)
        files.append([f"walk{number:03d}.png", list(cv2.imencode(".png", picture)[1].tobytes())])
    handle = page.evaluate_handle(
        """(files) => {
            const data = new DataTransfer();
            for (const [name, bytes] of files) data.items.add(new File([Uint8Array.from(bytes)], name));
            return data;
        }""",
        files,
    )
    page.dispatch_event("body", "drop", {"dataTransfer": handle})
    until(page, "velvet.project.document.layers.some((layer) => layer.kind === 'footage' && layer.settings.clip)", 60)
    key = page.evaluate("velvet.project.document.layers.find((layer) => layer.kind === 'footage').settings.clip")
    until(page, f"(velvet.media.clipFacts['{key}'] || {{}}).frames === 4", 60)
