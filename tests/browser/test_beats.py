"""The likeliest tempos, chosen with one press; and a picture sequence that is one clip."""

import re

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from tests.audio import rhythms
from tests.browser.conftest import bring_in, until
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
