"""Takes the pictures in docs/screenshots from the demo data.

Usage: make_shots.py FOLDER
"""

from __future__ import annotations

import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import NamedTemporaryFile

from playwright.sync_api import Browser, Page, sync_playwright

from velvetdrum.demo.pictures import lamp_svg

_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--autoplay-policy=no-user-gesture-required",
]


def until(page: Page, condition: str) -> None:
    end = time.monotonic() + 60
    while not page.evaluate(condition):
        if time.monotonic() > end:
            raise SystemExit(f"never came true: {condition}")
        page.wait_for_timeout(50)


def settled(page: Page) -> None:
    until(page, "window.velvet && velvet.stage.picture.width > 0 && !velvet.views.preview.busy")
    until(page, "velvet.moments.moments.length === 5")
    until(page, "Object.keys(velvet.moments.thumbs).length === velvet.project.document.layers.length")
    page.wait_for_timeout(700)


def take(page: Page, address: str, folder: Path) -> None:
    def shot(name: str) -> None:
        page.screenshot(path=folder / f"{name}.png")

    # Somebody who has seen the hints of the first time.
    page.add_init_script('localStorage[\'velvet-hints\'] = \'["picture","sound","words","export","several"]\'')
    page.goto(address)
    page.wait_for_selector("[x-data=coming]", state="detached", timeout=120_000)
    page.wait_for_timeout(4000)
    shot("start")
    looks = page.locator("a.open:has-text('Paper Lighthouse')").first.get_attribute("href")
    page.goto(f"{address}{looks}/looks")
    page.locator("[data-look=lamp-at-sea]").click()
    page.get_by_label("Artist").or_(page.get_by_label("Title")).first.fill("Paper Lighthouse")
    with NamedTemporaryFile("w", suffix=".svg", prefix="Lamp-") as logo:
        logo.write(lamp_svg())
        logo.flush()
        page.set_input_files("#place-cover", logo.name)
        until(page, "velvetLooks.filling.hasPicture")
    until(page, "[...velvetLooks.moving.seen.keys()].every((id) => velvetLooks.moving.of(id).frames.length === 48)")
    page.wait_for_timeout(1500)
    shot("looks")
    page.goto(address)
    page.click("a.open:has-text('Paper Lighthouse')")
    settled(page)
    page.click("[data-moment=loudest]")
    page.click(".layers [data-name=Lamp]")
    page.wait_for_timeout(900)
    page.get_by_role("tab", name="Motion").click()
    page.wait_for_timeout(600)
    shot("picture")
    page.click(".layers [data-name='Light of the ring']")
    page.get_by_role("tab", name="Masks").click()
    page.click(".part-name")
    page.wait_for_timeout(600)
    shot("mask")
    page.click(".layers [data-name='Lamp and ring']")
    page.get_by_role("tab", name="Effects").click()
    page.click("[data-add-effect]")
    page.locator("[data-effect='Light rays']").wait_for(timeout=60_000)
    page.hover("[data-effect='Light rays']")
    page.wait_for_timeout(1500)
    shot("effects")
    page.click("[data-add-effect]")
    page.wait_for_timeout(1000)
    page.click(".layers [data-name='Lamp and ring']")
    page.get_by_role("tab", name="Layer").click()
    page.evaluate("velvet.playback.seek(90)")
    page.click("[data-curve=scale_x]")
    page.wait_for_timeout(900)
    shot("keyframes")
    page.click("[aria-label='Close the curve']")
    page.click("[data-moment=loudest]")
    page.click("[aria-label='All three frames']")
    until(page, "Object.keys(velvet.threeFrames.threeNotes).length === 3")
    page.wait_for_timeout(1500)
    shot("frames")
    page.click("[aria-label='Wide frame']")
    page.wait_for_timeout(900)
    page.click(".rooms button:has-text('Sound')")
    until(page, "velvet.signalCurve.curves && velvet.signalEdits.suggested && !velvet.signalCurve.readingCurve")
    page.wait_for_timeout(900)
    shot("signals")
    page.get_by_role("tab", name="Recording").click()
    page.wait_for_timeout(700)
    shot("sound")
    page.get_by_role("tab", name="Signals").click()
    page.click(".rooms button:has-text('Picture')")
    page.click(".layers [data-name='Way through the song']")
    page.locator(".right .tabs button", has_text="Sound").click()
    page.evaluate("document.querySelector('[aria-label=\"Light or dark\"]').click()")
    page.wait_for_timeout(600)
    shot("picture-light")
    page.evaluate("document.querySelector('[aria-label=\"Light or dark\"]').click()")
    page.click("button.shape[aria-label^=Tall]")
    page.wait_for_timeout(1800)
    page.keyboard.press("g")
    page.keyboard.press("g")
    page.wait_for_timeout(400)
    shot("picture-tall")
    page.keyboard.press("g")
    page.click("[aria-label='Wide frame']")
    page.wait_for_timeout(900)
    page.evaluate("velvet.playback.setLoop(27, 33)")
    page.click(".rooms button:has-text('Export')")
    page.evaluate("velvet.newExport.set('part', 'loop')")
    page.evaluate("velvet.newExport.set('loudness', '-14')")
    page.click("[data-look]")
    until(page, "velvet.reviews.found")
    page.click("[data-make]")
    page.wait_for_selector(".export[data-state=done]", timeout=240_000)
    until(page, "velvet.newExport.estimate")
    page.evaluate("velvet.newExport.toggleShape('tall')")
    page.click("[data-make]")
    until(page, "velvet.exports.waiting.length && velvet.exports.waiting[0].done > 40")
    page.wait_for_timeout(2200)
    shot("export")
    for item in page.evaluate("velvet.exports.waiting.map((item) => item.id)"):
        page.evaluate(f"velvet.exports.does({{ id: '{item}' }}, 'cancel')")
    for project, frame, name in (
        ("Paper Lighthouse, the lyric", 330, "lyric"),
        ("Sparks", 1098, "depth"),
    ):
        page.goto(address)
        page.click(f"a.open:has-text('{project}')")
        settled(page)
        page.evaluate(f"velvet.playback.seek({frame})")
        page.wait_for_timeout(1500)
        shot(name)
    page.goto(address)
    page.click("a.open:has-text('Bulletin')")
    settled(page)
    page.evaluate("velvet.playback.seek(280)")
    page.click(".rooms button:has-text('Sound')")
    page.get_by_role("tab", name="Tracks").click()
    until(page, "!velvet.sum.pending && velvet.trackLanes.gains && velvet.views.levelMeters.lufs")
    page.locator("[data-track='Evening bed']").click()
    page.wait_for_timeout(1500)
    shot("tracks")
    page.goto(address)
    page.click("a.open:has-text('Evening notice')")
    settled(page)
    page.click(".rooms button:has-text('Words')")
    page.locator("[data-cue='3']").click()
    page.locator("[data-word='2']").click()
    page.evaluate("Object.assign(velvet.views.strip, { start: 2.5, span: 8 })")
    page.evaluate("velvet.playback.seek(166)")
    until(page, "velvet.cueLanes.pauses.length > 0")
    page.wait_for_timeout(1500)
    shot("words")
    page.click(".rooms button:has-text('Picture')")
    page.click("section[aria-label=Layers] button:has-text('add')")
    page.wait_for_selector("[data-figure=Bars] img")
    until(page, "!document.querySelector('dialog.choices .picture-to-come')")
    page.wait_for_timeout(300)
    shot("choices")
    page.keyboard.press("Escape")
    page.goto(address)
    page.click("a.open:has-text('Paper Lighthouse')")
    settled(page)
    page.set_viewport_size({"width": 390, "height": 844})
    page.click(".rooms button:has-text('Picture')")
    page.click("[data-moment=loudest]")
    page.wait_for_timeout(900)
    shot("phone")


@contextmanager
def launched() -> Iterator[Browser]:
    """This machine's Chromium, without a window."""
    chromium = shutil.which("chromium") or shutil.which("chromium-browser")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium, args=_FLAGS)
        yield browser
        browser.close()


@contextmanager
def served(*options: str) -> Iterator[str]:
    """The studio over an empty data folder, by its address."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with tempfile.TemporaryDirectory() as data:
        command = [sys.executable, "-m", "velvetdrum", "serve", "--data", data, "--port", str(port), *options]
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        try:
            assert server.stdout is not None
            while "http" not in server.stdout.readline():
                pass
            yield f"http://127.0.0.1:{port}"
        finally:
            server.send_signal(signal.SIGTERM)
            server.wait(30)


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    with launched() as browser:
        with served("--demo") as address:
            take(browser.new_page(viewport={"width": 1280, "height": 800}), address, folder)
        with served("--host", "0.0.0.0") as address:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{address}/sign-in")
            page.wait_for_timeout(500)
            page.screenshot(path=folder / "sign-in.png")


if __name__ == "__main__":
    main()
