"""Play in the page: what Chromium holds of each demo project, and what the page's scripts cost a frame."""

from __future__ import annotations

import json
import shutil
import socket
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Page, sync_playwright

from bench.rows import Row

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]
_SETTLE_S = 3.0


@dataclass
class Held:
    """What was held of a project while it played: frames a second on the picture, its sizes, script time a frame."""

    name: str
    frames_s: float
    width: int
    share_at_width: float
    fitting: int
    script_ms: float


def play(page: Page, address: str, name: str, ident: str, seconds: float) -> Held:
    """Play a project for so many seconds after it has settled."""
    page.goto(f"{address}/projects/{ident}")
    page.wait_for_selector(".play", state="visible")
    until(page, "window.velvet && velvet.stage.picture.width > 0 && velvet.moments.moments.length > 0")
    time.sleep(1.0)
    page.keyboard.press("Space")
    time.sleep(_SETTLE_S)
    client = page.context.new_cdp_session(page)
    client.send("Performance.enable")
    page.evaluate(
        """() => {
            const { preview } = velvet.views; const draw = preview.draw;
            window.drawnSizes = [];
            preview.draw = function (bitmap, frame) {
                window.drawnSizes.push(bitmap.width);
                return draw.call(this, bitmap, frame);
            };
        }"""
    )
    before, begun = scripting(client), time.perf_counter()
    time.sleep(seconds)
    took = time.perf_counter() - begun
    sizes, spent = page.evaluate("window.drawnSizes"), scripting(client) - before
    fitting = page.evaluate("Math.min(640, Math.ceil(velvet.views.preview.fit() / 2) * 2, velvet.formats.frameSize.width)")
    page.keyboard.press("Space")
    width, count = Counter(sizes).most_common(1)[0] if sizes else (0, 0)
    return Held(name, len(sizes) / took, width, count / max(len(sizes), 1), fitting, spent * 1000 / max(len(sizes), 1))


def scripting(client: Any) -> float:
    """Seconds of script that a page has run so far."""
    metrics = {item["name"]: item["value"] for item in client.send("Performance.getMetrics")["metrics"]}
    return float(metrics["ScriptDuration"])


def until(page: Page, condition: str, seconds: float = 60) -> None:
    end = time.monotonic() + seconds
    while not page.evaluate(condition):
        if time.monotonic() > end:
            raise TimeoutError(condition)
        page.wait_for_timeout(50)


def with_studio(folder: Path) -> tuple[subprocess.Popen[str], str]:
    """The studio with its demo in a process of its own, and its address."""
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "velvetdrum", "serve", "--demo", "--data", str(folder), "--port", str(port)]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None and "http" in process.stdout.readline()
    return process, f"http://127.0.0.1:{port}"


def held_by_all(folder: Path, seconds: float = 20.0, only: str = "") -> list[Held]:
    """Play every demo project."""
    process, address = with_studio(folder)
    try:
        with sync_playwright() as playwright:
            path = shutil.which("chromium") or shutil.which("chromium-browser")
            browser: Browser = playwright.chromium.launch(executable_path=path, args=FLAGS)
            page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
            page.goto(address)
            listed = page.evaluate(
                "[...document.querySelectorAll('.card-project')].map((card) => [card.dataset.name, card.dataset.id])"
            )
            found = [play(page, address, *item, seconds) for item in listed if only in item[0]]
            browser.close()
            return found
    finally:
        process.terminate()
        process.wait(20)


def bench_playing(folder: Path) -> Iterator[Row]:
    """Rows for each demo project: shares of 30 frames a second and of the size, and script time."""
    for held in held_by_all(folder, 6.0):
        size = f"at {held.width} px, {held.share_at_width * 100:.0f} % of the time"
        yield Row(f"play {held.name}: 30 frames/s, {size}", 30, "/s", held.frames_s, "what was held")
        yield Row(f"play {held.name}: width", held.fitting, "px", held.width, "what was held")
        yield Row(f"play {held.name}: scripts a frame", held.script_ms, "ms", 8, "8 ms")


if __name__ == "__main__":
    import tempfile

    with tempfile.TemporaryDirectory(prefix="velvetdrum-play-") as name:
        data = Path(sys.argv[2]) if len(sys.argv) > 2 else Path(name)
        for found in held_by_all(data, float(sys.argv[1]) if len(sys.argv) > 1 else 20.0, *sys.argv[3:]):
            print(json.dumps(found.__dict__))
