"""What an editor waits for: from an edit, and from a dragged playhead, to the picture; the names and pictures of what
can be added; an edit of a document that is as large as one may be."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from statistics import median
from typing import Any

from playwright.sync_api import Page

from bench.load import Load
from bench.playing import studio_page, until
from bench.rows import Row
from velvetdrum.declare.settings import MOST_POINTS

_CURVES = 4


def bench_edits(folder: Path) -> Iterator[Row]:
    """Rows for each demo project: edit and dragged playhead to picture; then adding a layer, and a large document."""
    with studio_page(folder) as (page, address, listed):
        for name, ident in listed:
            page.goto(f"{address}/projects/{ident}", wait_until="commit")
            until(page, "window.velvet && velvet.stage && velvet.stage.picture.width > 0 && velvet.sound.facts")
            page.wait_for_timeout(1500)
            edits = sorted(edit_to_picture(page, 16))
            yield Row(f"{name}: edit to picture, median", median(edits), "ms", 50, "50 ms")
            yield Row(f"{name}: edit to picture, 90th percentile", edits[int(len(edits) * 0.9)], "ms", 90, "90 ms")
            yield Row(f"{name}: dragged playhead to picture, median", median(seek_to_picture(page)), "ms", 50, "50 ms")
        for what, seconds, limit in add_a_layer(page):
            yield Row(f"add a layer: {what}", seconds, "s", limit, f"{limit:g} s")
        large = large_edits(Load(address))
        yield Row(f"an edit of {_CURVES} curves of {MOST_POINTS:,} points", median(large), "ms", 60, "60 ms")


def add_a_layer(page: Page) -> Iterator[tuple[str, float, float]]:
    """Seconds from the key to names, to the first six pictures and to a family's, and their limits."""
    cards = page.locator("dialog.choices .choice-card")
    page.locator("body").focus()
    begun = time.perf_counter()
    page.keyboard.press("a")
    cards.first.wait_for()
    yield "names", time.perf_counter() - begun, 0.3
    cards.locator("img").nth(5).wait_for()
    yield "the first six pictures", time.perf_counter() - begun, 0.7
    while page.locator("dialog.choices .picture-to-come").count():
        page.wait_for_timeout(10)
    yield "its first family", time.perf_counter() - begun, 1.0
    page.keyboard.press("Escape")


def large_edits(load: Load, times: int = 12) -> list[float]:
    """Milliseconds of edits of one name each, in a document of several curves as long as they may be."""
    ident = str(load.read(f"/projects/{load.projects[0]}/duplicate", {})["id"])
    revision = load.read(f"/projects/{ident}/state")["revision"]
    points = [[n * 0.0006, (n % 7) / 7, "linear"] for n in range(MOST_POINTS)]
    for number in range(_CURVES):
        curve = [{"time_s": at, "value": value, "ease": ease} for at, value, ease in points]
        signal = {
            "id": f"s{number:07d}",
            "kind": "drawn",
            "name": f"Curve {number}",
            "colour": "#5fc4b4",
            "settings": {"curve": curve},
        }
        revision = edited(load, ident, revision, [{"op": "add", "path": "/signals/-", "value": signal}])
    spent = []
    for turn in range(times):
        begun = time.perf_counter()
        revision = edited(load, ident, revision, [{"op": "replace", "path": "/name", "value": f"Large {turn}"}])
        spent.append((time.perf_counter() - begun) * 1000)
    return spent


def edited(load: Load, ident: str, revision: int, patch: list[dict[str, Any]]) -> int:
    """One edit of a project; answers with the revision that it made."""
    body = {"revision": revision, "label": "Change", "patch": patch}
    return int(load.read(f"/projects/{ident}/edits", body)["revision"])


def edit_to_picture(page: Page, times: int = 30) -> list[float]:
    """Milliseconds from an arrow key in a field to the picture with the new value, in the project that is open."""
    page.evaluate("velvet.selection.choose(velvet.layers.layersFrontFirst[0])")
    page.wait_for_timeout(400)
    page.click("[role=tab]:text-is('Layer')")
    page.focus("[data-field=layer_opacity]")
    # Always a new value: what was drawn before would be shown from there.
    return [_until_shown(page, lambda: page.keyboard.press("ArrowDown")) for _ in range(times)]


def seek_to_picture(page: Page, seconds: float = 2.5) -> list[float]:
    """Milliseconds from a move of the held playhead to the picture of that place, for every picture that is drawn while
    it is dragged across the strip and back."""
    box = page.locator(".strip .wave").bounding_box()
    assert box is not None
    y, left, width = box["y"] + box["height"] / 2, box["x"], box["width"]
    page.wait_for_timeout(1500)
    page.mouse.move(left + width * 0.2, y)
    page.mouse.down()
    page.evaluate("velvet.views.preview.passing.latencies.length = 0")
    begun = time.perf_counter()
    while (past := (time.perf_counter() - begun) / seconds) < 1:
        page.mouse.move(left + width * (0.2 + 0.6 * (1 - abs(2 * past - 1))), y)
        page.wait_for_timeout(12)
    result = page.evaluate("velvet.views.preview.passing.latencies")
    page.mouse.up()
    return [float(value) for value in result]


def _until_shown(page: Page, act: Any) -> float:
    """Milliseconds from an event in the page to the next picture that is drawn, with nothing else on its way."""
    until(page, "!velvet.views.preview.busy && !velvet.project.waiting.length && !velvet.project.sending")
    page.wait_for_timeout(600)
    page.evaluate(
        """() => {
            const { preview } = velvet.views;
            const draw = preview.constructor.prototype.draw;
            window.shownAfter = 0;
            let begun = 0;
            const begin = () => { begun ||= performance.now(); };
            for (const name of ["keydown", "pointermove"]) addEventListener(name, begin, { capture: true, once: true });
            preview.draw = function (bitmap, frame) {
                draw.call(this, bitmap, frame);
                if (begun && !window.shownAfter) window.shownAfter = performance.now() - begun;
            };
        }"""
    )
    act()
    until(page, "window.shownAfter > 0", 10)
    return float(page.evaluate("window.shownAfter"))
