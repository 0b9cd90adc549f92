"""The page in Chromium: what it holds of each demo project in play, what its scripts cost a frame, how soon a large
project can be used, and whether memory stays flat."""

from __future__ import annotations

import shutil
import socket
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Page, sync_playwright

from bench.rows import Row
from velvetdrum.demo.install import is_installed

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
_REST_S, _SETTLE_S = 3.5, 2.0
"""From the last thing that is done until play, and from there until it is judged."""


@dataclass
class Held:
    """What was held of a project while it played: frames a second on the picture, its sizes, script time a frame."""

    name: str
    frames_s: float
    width: int
    share_at_width: float
    fitting: int
    script_ms: float
    long_tasks: int
    late_share: float


def play(page: Page, address: str, name: str, ident: str, seconds: float) -> Held:
    """Open a project, let the page rest, and play it for so many seconds after it has settled."""
    page.goto(f"{address}/projects/{ident}")
    page.wait_for_selector(".play", state="visible")
    until(page, "window.velvet && velvet.stage.picture.width > 0 && velvet.moments.moments.length > 0")
    time.sleep(1.0)
    page.evaluate("velvet.playback.seek(0)")
    time.sleep(_REST_S)
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
            window.longTasks = 0;
            new PerformanceObserver((list) => { window.longTasks += list.getEntries().length; })
                .observe({ type: "longtask" });
            window.lateFrames = 0;
            window.dueFrames = 0;
            const tick = preview.tick;
            preview.tick = function () {
                const due = Math.floor(this.player.elapsed);
                const before = this.last;
                tick.call(this);
                if (this.last > before) { window.dueFrames += 1; if (due - this.last > 1) window.lateFrames += 1; }
            };
        }"""
    )
    before, begun = scripting(client), time.perf_counter()
    time.sleep(seconds)
    took = time.perf_counter() - begun
    sizes, spent = page.evaluate("window.drawnSizes"), scripting(client) - before
    long_tasks, late, due = page.evaluate("[window.longTasks, window.lateFrames, window.dueFrames]")
    fitting = page.evaluate(
        "Math.min(640, Math.ceil(velvet.views.preview.fit() / 2) * 2, velvet.formats.frameSize.width)"
    )
    page.keyboard.press("Space")
    width, count = Counter(sizes).most_common(1)[0] if sizes else (0, 0)
    share = count / max(len(sizes), 1)
    script_ms = spent * 1000 / max(len(sizes), 1)
    return Held(name, len(sizes) / took, width, share, fitting, script_ms, long_tasks, late / max(due, 1))


_COPY = """async ([ident, edit, count]) => {
    const ask = (path, body) => fetch(path, { method: "POST", body: body && JSON.stringify(body), headers: {
        "X-Velvet-Drum": "1", Accept: "application/json", "Content-Type": "application/json" } });
    const copy = (await (await ask(`/projects/${ident}/duplicate`)).json()).id;
    const state = await (await fetch(`/projects/${copy}/state`)).json();
    const own = state.document.layers;
    const filled = () => Array.from({ length: count - own.length }, (_, n) => ({
        ...own.filter((layer) => !layer.group && layer.kind !== "group")[0],
        id: `f${String(n).padStart(7, "0")}`, name: `Copy ${n}`, visible: n % 4 === 0, masks: [], effects: [] }));
    const plain = () => own.filter(({ kind }) => kind === "backdrop" || kind === "spectrum").slice(0, 2).map((layer) =>
        ({ ...layer, group: "", visible: true, patches: [], keyframes: {}, masks: [], effects: [] }));
    const patch = edit === "fill" ? filled().map((value) => ({ op: "add", path: "/layers/-", value }))
        : [{ op: "replace", path: "/layers", value: plain() }, { op: "replace", path: "/rate", value: "60" }];
    const answer = await ask(`/projects/${copy}/edits`, { revision: state.revision, label: "Change", patch });
    if (!answer.ok) throw new Error(await answer.text());
    return copy;
}"""


def large_project(page: Page, address: str, ident: str, layers: int = 60) -> float:
    """Seconds from opening a copy of a project, filled up to so many layers, until it can be used."""
    made = page.evaluate(_COPY, [ident, "fill", layers])
    begun = time.perf_counter()
    page.goto(f"{address}/projects/{made}", wait_until="commit")
    until(page, "window.velvet && velvet.stage && velvet.stage.picture.width > 0 && velvet.sound.facts")
    assert page.evaluate("velvet.project.document.layers.length") == layers
    return time.perf_counter() - begun


def heap_growth(page: Page, seconds: float) -> float:
    """MB by which the page's heap grows in so many seconds of looped play, after rubbish was collected."""
    client = page.context.new_cdp_session(page)
    page.evaluate("velvet.playback.loop || velvet.playback.toggleLoop()")
    page.keyboard.press("Space")
    page.wait_for_timeout(15_000)

    def used() -> float:
        client.send("HeapProfiler.collectGarbage")
        return float(client.send("Runtime.getHeapUsage")["usedSize"]) / 1e6

    before = used()
    time.sleep(seconds)
    grown = used() - before
    page.keyboard.press("Space")
    return grown


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
    while not is_installed(folder):
        time.sleep(0.5)
    return process, f"http://127.0.0.1:{port}"


@contextmanager
def studio_page(folder: Path) -> Iterator[tuple[Page, str, list[tuple[str, str]]]]:
    """A page of the demo's studio, its address, and the projects as names and ids."""
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
            yield page, address, [tuple(item) for item in listed]
            browser.close()
    finally:
        process.terminate()
        process.wait(20)


def bench_playing(folder: Path, times: int = 3) -> Iterator[Row]:
    """Rows for each demo project, opened and played so many times, for the worst of them: frames and size that were
    held, script time, long tasks; opening."""
    with studio_page(folder) as (page, address, listed):
        for name, ident in listed:
            held = min((play(page, address, name, ident, 5.0) for _ in range(times)), key=lambda one: one.frames_s)
            size = f"at {held.width} px, {held.share_at_width * 100:.0f} % of the time"
            yield Row(f"play {name}: 30 frames/s, {size}", 30, "/s", held.frames_s, "what was held")
            yield Row(f"play {name}: width", held.fitting, "px", held.width, "what was held")
            yield Row(f"play {name}: scripts a frame", held.script_ms, "ms", 4, "4 ms")
            yield Row(f"play {name}: long tasks over 50 ms in 5 s", held.long_tasks, "", 1, "none")
            yield Row(f"play {name}: frames late", held.late_share * 100, "%", 1, "1 %")
        plain = page.evaluate(_COPY, [listed[0][1], "plain", 0])
        held = play(page, address, "plain", plain, 8.0)
        size = f"at {held.width} px, {held.share_at_width * 100:.0f} % of the time"
        yield Row(f"play a plain scene: 60 frames/s, {size}", 60, "/s", held.frames_s, "what was held")
        opened = large_project(page, address, listed[0][1])
        yield Row("a project of 60 layers can be used", opened, "s", 1.5, "1.5 s")
        yield Row("heap grown in 20 s of play", heap_growth(page, 20), "MB", 5, "5 MB")


if __name__ == "__main__":
    import tempfile

    # play FOLDER SECONDS: memory over so many seconds of play.
    with tempfile.TemporaryDirectory(prefix="velvetdrum-play-") as made:
        data = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(made)
        with studio_page(data) as (page, address, listed):
            page.goto(f"{address}/projects/{listed[0][1]}")
            until(page, "window.velvet && velvet.moments.moments.length > 0")
            print(f"{heap_growth(page, float(sys.argv[2]) if len(sys.argv) > 2 else 600.0):.2f} MB")
