"""The Words room: words pasted, aligned, corrected, tapped, and taken out as files."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.conftest import box_of, project_of, saved, settled, until
from tests.conftest import write_wav
from tests.words.speech import speak
from velvetdrum.words.cue_files import read_cues

TEXT = "The night ferry leaves at ten past nine. Fog is expected after midnight. Keep your lamps lit."


@pytest.fixture(scope="module")
def voice(tmp_path_factory) -> Path:
    speech = speak(TEXT, "en-us").pcm[0].astype(np.float64) / 32768
    return write_wav(tmp_path_factory.mktemp("voice") / "Harbour voice.wav", speech[:, None], subtype="PCM_16")


@pytest.fixture
def words(page, address, voice):
    """The Words room of a new project with a voice in it."""
    page.goto(f"{address}/projects/{project_of(page, address, voice)}")
    until(page, "window.velvet && velvet.sound.facts !== null")
    page.get_by_role("tab", name="Words").click()
    settled(page)
    return page


def cues(page):
    return page.evaluate("velvet.cues.row.map((cue) => ({...cue}))")


def test_words_are_pasted_aligned_corrected_and_saved_as_files(words):
    expect(words.get_by_text("No words yet.")).to_be_visible()
    words.click("[data-paste]")
    # Nothing to align is said beside the field, and what was chosen stays.
    words.click("[data-align]")
    expect(words.locator("dialog[open] .fault")).to_contain_text("no words to align")
    words.fill("[data-words]", TEXT)
    words.click("[data-align]")
    expect(words.get_by_text("words found their times")).to_be_visible(timeout=60_000)
    saved(words)
    found = cues(words)
    starts = speak(TEXT, "en-us").starts
    assert [cue["text"] for cue in found] == [part.strip() + "." for part in TEXT.split(".")[:-1]] or len(found) >= 3
    late = [abs(word[0] - starts[n]) for n, word in enumerate(w for cue in found for w in cue["words"]) if n in starts]
    assert np.median(late) < 0.04
    # Layers show them at one press.
    words.click("text=show them on the picture")
    saved(words)
    assert words.evaluate("velvet.project.document.layers.at(-1).settings.cues") == ""
    # A word is corrected in the cue's text; the others keep their times.
    words.locator("[data-cue='2']").click()
    box = words.locator(".cue-text")
    before = found[1]["words"]
    box.fill(box.input_value().replace("Fog", "Mist"))
    box.blur()
    saved(words)
    after = cues(words)[1]
    assert after["words"][0][2] == "Mist" and after["words"][1:] == before[1:]
    # A word is moved by a frame with the keys, and a wrong time is refused with what was typed left alone.
    words.locator("[data-word='1']").click()
    words.keyboard.press("Alt+ArrowRight")
    saved(words)
    assert cues(words)[1]["words"][1][0] == pytest.approx(before[1][0] + 1 / 30, abs=2e-3)
    words.fill("#cue-in", "nine")
    words.locator("#cue-in").blur()
    expect(words.locator(".fault:visible")).to_contain_text("“nine” is no time")
    # Out as files, and each says the same.
    words.click("[aria-label='This cue track']")
    for suffix in ("srt", "vtt", "lrc"):
        with words.expect_download() as download:
            words.click(f"[data-save={suffix}]")
        read = read_cues(Path(download.value.path()).read_bytes(), f"x.{suffix}").found.cues
        assert [" ".join(cue.text.split()) for cue in read] == [" ".join(cue["text"].split()) for cue in cues(words)]
    words.keyboard.press("Escape")
    # Undo takes all of it back, a step at a time.
    for _ in range(5):
        words.evaluate("velvet.project.undo()")
    until(words, "velvet.cues.count === 0")


def test_a_lyric_is_tapped_along(words):
    words.click(".cue-ways button:has-text('Tap')")
    words.fill("[data-lines]", "first line here\nsecond line\nthird")
    words.evaluate("velvet.playback.seek(0)")
    words.click("[data-tap]")
    expect(words.locator(".tap-bar")).to_be_visible()
    taps = []
    for _ in range(3):
        words.wait_for_timeout(450)
        words.keyboard.press("Space")
        taps.append(words.evaluate("velvet.tapping.taps.at(-1)"))
    words.wait_for_timeout(300)
    words.keyboard.press("Enter")
    until(words, "velvet.cues.count === 3")
    found = cues(words)
    assert [cue["text"] for cue in found] == ["first line here", "second line", "third"]
    assert [cue["start_s"] for cue in found] == pytest.approx(taps, abs=0.002)
    assert found[0]["end_s"] == pytest.approx(taps[1], abs=0.002) and len(found[0]["words"]) == 3
    assert words.evaluate("velvet.playback.playing") is False


def test_cues_are_split_joined_dragged_shifted_found_and_mended(words, tmp_path):
    file = tmp_path / "notice.srt"
    file.write_text(
        "1\n00:00:00,500 --> 00:00:01,000\nslow water turns the light around and around again\n\n"
        "2\n00:00:02,000 --> 00:00:03,500\nfar out\n3\n00:00:04,000 --> 00:00:05,000\nfar home\n"
    )
    words.set_input_files(".file-pill input", str(file))
    until(words, "velvet.cues.count === 3")
    saved(words)
    expect(words.locator(".repairs")).to_contain_text("1 repairs")
    # The check leads to its cue, and its mending splits it.
    line = words.locator(".checks li:visible", has_text="reading speed")
    expect(line).to_contain_text("cue 1", timeout=30_000)
    line.get_by_text("split it").click()
    saved(words)
    assert len(cues(words)) == 4
    words.keyboard.press("j")
    saved(words)
    assert len(cues(words)) == 3
    # An edge is dragged on the strip.
    box = box_of(words.locator(".cue-lanes canvas"))
    seen = words.evaluate("[velvet.views.strip.seen.start, velvet.views.strip.seen.span]")

    def x(second):
        return box["x"] + (second - seen[0]) / seen[1] * box["width"]

    words.mouse.move(x(3.5), box["y"] + 44)
    words.mouse.down()
    words.mouse.move(x(3.7), box["y"] + 44, steps=4)
    words.mouse.up()
    saved(words)
    assert cues(words)[1]["end_s"] == pytest.approx(3.7, abs=0.12) and cues(words)[1]["end_s"] > 3.55
    # Shift from here on, find and replace.
    words.locator("[data-cue='2']").click()
    words.fill("[aria-label='Shift by, in seconds']", "0.25")
    words.get_by_role("button", name="shift", exact=True).click()
    saved(words)
    assert cues(words)[0]["start_s"] == 0.5 and cues(words)[1]["start_s"] == 2.25
    words.fill("[aria-label='Find in the cues']", "far")
    expect(words.locator(".cue-find")).to_contain_text("in 2 cues")
    words.fill("[aria-label='Replace by']", "near")
    words.click("text=replace all")
    saved(words)
    assert [cue["text"] for cue in cues(words)][1:] == ["near out", "near home"]
    # What is no file of words is told, and nothing changes.
    bad = tmp_path / "picture.srt"
    bad.write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(40))
    words.set_input_files(".file-pill input", str(bad))
    expect(words.locator(".told-line")).to_contain_text("This is no text file")
    assert len(cues(words)) == 3


def test_three_thousand_cues_are_edited_without_waiting(words):
    words.evaluate(
        """velvet.cueEdits.take("Many", Object.fromEntries(Array.from({ length: 3000 }, (_, n) => [`c${n}`, {
            start_s: n, end_s: n + 0.9, text: `line number ${n}` }])), "en")"""
    )
    saved(words)
    assert words.locator(".cue-rows li").count() < 60
    took = words.evaluate(
        """new Promise((done) => {
            velvet.cues.choose(velvet.cues.row[2]);
            const begin = performance.now();
            velvet.cueEdits.put("Edit", [{ ...velvet.cues.cue, text: "another text" }]);
            const look = () => document.querySelector("[data-cue='3'] .cue-line").textContent === "another text"
                ? done(performance.now() - begin) : requestAnimationFrame(look);
            look();
        })"""
    )
    saved(words)
    print("edit to list", took)
    words.locator("[data-cue='3']").click()
    words.keyboard.press("End")
    until(words, "velvet.cues.index === 2999")
    expect(words.locator("[data-cue='3000']")).to_be_visible()


def test_a_text_is_typed_on_the_picture_and_takes_a_typeface(words):
    words.get_by_role("tab", name="Picture").click()
    words.evaluate("velvet.presets.openChoices()")
    words.locator(".choices .families").get_by_role("tab", name="Words").click(timeout=60_000)
    words.locator(".choice-card", has_text="Title").first.click()
    saved(words)
    words.locator("svg.handles").focus()
    words.keyboard.press("Enter")
    field = words.locator(".stage-text")
    field.fill("Lamp night")
    field.press("Enter")
    saved(words)
    assert words.evaluate("velvet.selection.layer.settings.text") == "Lamp night"
    expect(field).to_have_count(0)
    words.click("details[data-field=family] summary")
    words.click("[data-face=unbounded]")
    saved(words)
    assert words.evaluate("velvet.selection.layer.settings.family") == "unbounded"


def test_words_are_aligned_again_and_stretched_from_here_on(words):
    words.click("[data-paste]")
    words.fill("[data-words]", TEXT)
    words.click("[data-align]")
    until(words, "velvet.cues.count > 1 && !velvet.alignment.work", 60)
    saved(words)
    right = cues(words)
    words.locator("[data-cue='2']").click()
    words.fill("[aria-label='Shift by, in seconds']", "0.4")
    words.get_by_role("button", name="shift", exact=True).click()
    saved(words)
    assert cues(words)[1]["start_s"] == pytest.approx(right[1]["start_s"] + 0.4)
    words.locator("[data-cue='2']").click()
    words.get_by_role("button", name="align again").click()
    until(words, "velvet.alignment.work !== null")
    until(words, "velvet.alignment.work === null", 60)
    saved(words)
    again = cues(words)
    assert [cue["text"] for cue in again] == [cue["text"] for cue in right]
    assert [cue["start_s"] for cue in again] == pytest.approx([cue["start_s"] for cue in right], abs=0.06)
    # The last cue ends at the playhead after a stretch, the first of them stays where it begins.
    words.locator("[data-cue='2']").click()
    end = again[-1]["end_s"] - 0.25
    words.evaluate(f"velvet.playback.seek(Math.round(({end} - velvet.cues.inS) * velvet.project.rate))")
    words.get_by_role("button", name="stretch").click()
    saved(words)
    assert cues(words)[-1]["end_s"] == pytest.approx(end, abs=0.02)
    assert cues(words)[1]["start_s"] == pytest.approx(again[1]["start_s"], abs=1e-3)
    assert cues(words)[0] == again[0]
    # Where no playhead makes sense, it is said beside the cue.
    words.evaluate("velvet.playback.seek(0)")
    words.get_by_role("button", name="stretch").click()
    expect(words.locator(".fault:visible")).to_contain_text("Put the playhead where the last cue shall end")


def test_the_hand_is_measured_and_half_the_speed_is_played(words):
    words.click(".cue-ways button:has-text('Tap')")
    words.fill("[data-lines]", "one\ntwo")
    words.get_by_role("button", name="Measure the hand").click()
    until(words, "velvet.tapping.measuring !== null")
    # Taps that come 90 ms after each click.
    words.evaluate(
        """for (const at of velvet.tapping.measuring.clicks)
            setTimeout(() => velvet.tapping.tap(), 1000 * at + 90 - performance.now())"""
    )
    until(words, "velvet.tapping.measuring === null")
    until(words, "velvet.tapping.delay > 0 || velvet.tapping.fault !== ''")
    assert words.evaluate("velvet.tapping.delay") == pytest.approx(0.09, abs=0.03)
    expect(words.locator("dialog[open]")).to_contain_text("ms are taken off each tap")
    words.get_by_label("At half speed").check()
    words.evaluate("velvet.playback.seek(0)")
    words.click("[data-tap]")
    until(words, "velvet.views.player.elapsed > 6")
    # Against the clock of what sounds: it stands where the machine is too busy to go on.
    read = "[velvet.views.player.context.currentTime, velvet.views.player.elapsed]"
    first = words.evaluate(read)
    words.wait_for_timeout(1200)
    last = words.evaluate(read)
    assert (last[1] - first[1]) / 30 / (last[0] - first[0]) == pytest.approx(0.5, abs=0.08)
    words.keyboard.press("Enter")
    until(words, "velvet.views.player.speed === 1 && !velvet.playback.playing")


def test_words_on_a_bright_ground_get_their_plate_by_one_press(words, tmp_path):
    file = tmp_path / "pale.srt"
    file.write_text("1\n00:00:00,500 --> 00:00:02,500\npale as the fog\n")
    words.set_input_files(".file-pill input", str(file))
    until(words, "velvet.cues.count === 1")
    saved(words)
    words.evaluate(
        """velvet.project.edit("A bright ground", [{ op: "add", path: "/layers", value: [
            { id: "ground", kind: "backdrop", name: "Fog", settings: { fill: "plain", plain: "#f4f1ea" } },
            { id: "said", kind: "captions", name: "Said", settings: { paint: "one", plain: "#ffffff", plate: "none", shadow: 0 } }] }])"""
    )
    saved(words)
    words.get_by_role("button", name="measure contrast and places").click()
    line = words.locator(".checks li:visible", has_text="contrast")
    line.get_by_role("button", name="add a plate").click(timeout=60_000)
    saved(words)
    assert words.evaluate("velvet.project.document.layers[1].settings.plate") == "lines"
    words.get_by_role("button", name="measure contrast and places").click()
    until(words, "!velvet.cueChecks.measuring && velvet.cueChecks.contrasts !== null", 60)
    # What is left lies under a channel's own words, perhaps; the letters are read.
    left = words.evaluate("velvet.cueChecks.listed")
    assert [item["sentence"] for item in left if item["check"] == "contrast"] == []


def test_a_file_whose_letters_can_be_read_in_two_ways_is_asked_about(words):
    """Each way with a line of it; what is chosen is taken, and saving says what a format leaves out."""
    page = words
    data = "1\n00:00:01,000 --> 00:00:02,000\nBåten går från hamnen klockan åtta.\n".encode("mac_roman")
    file = {"name": "boat.srt", "mimeType": "text/plain", "buffer": data}
    page.set_input_files("input[aria-label='Open a file of words']", file)
    page.get_by_text("Which of these is right?").wait_for()
    page.click("[data-encoding=mac_roman]")
    page.get_by_text("1 cue from boat.srt.").wait_for()
    assert "Båten går från hamnen" in page.inner_text(".cue-rows")
    page.click("summary[aria-label='This cue track']")
    assert "Plain text has no times" in page.inner_text(".losses")
    assert page.locator(".track-fields select option").first.inner_text() == "English"
