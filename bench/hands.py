"""What a hand waits for in a large project: everything by its name, sixty layers chosen, five thousand states."""

from __future__ import annotations

import copy
import time
from collections.abc import Iterator
from pathlib import Path
from statistics import median
from typing import Any

from playwright.sync_api import Page

from bench.edits import edited
from bench.load import Load
from bench.playing import studio_page, until
from bench.rows import Row

_LAYERS = 60
_STATES = 5000
_FOLLOWED = """() => {
    window.spent = 0;
    const begin = ({ key }) => {
        if (key === "Control") return;
        removeEventListener("keydown", begin, { capture: true });
        const begun = performance.now();
        requestAnimationFrame(() => setTimeout(() => { window.spent = performance.now() - begun; }, 0));
    };
    addEventListener("keydown", begin, { capture: true });
}"""
"""From the next key until what it changed stands on the screen: after the frame that the browser then lays out."""


def bench_hands(folder: Path) -> Iterator[Row]:
    """Rows for the finder and many chosen layers in a project of sixty, and for a history of five thousand states."""
    with studio_page(folder) as (page, address, _listed):
        load = Load(address)
        ident = str(load.read(f"/projects/{load.projects[0]}/duplicate", {})["id"])
        revision = many_layers(load, ident)
        page.goto(f"{address}/projects/{ident}", wait_until="commit")
        until(page, "window.velvet && velvet.stage && velvet.stage.picture.width > 0 && velvet.sound.facts")
        page.wait_for_timeout(1500)
        yield Row("Ctrl K: a letter to its answers, median", median(letters(page)), "ms", 50, "50 ms")
        page.evaluate("velvet.page.go('picture')")
        yield Row(f"{_LAYERS} layers chosen, median", median(all_chosen(page)), "ms", 100, "100 ms")
        for turn in range(_STATES):
            name = [{"op": "replace", "path": "/name", "value": f"State {turn}"}]
            revision = edited(load, ident, revision, name)
        root = f"/projects/{ident}/history"
        yield Row(f"history of {_STATES:,} states: its list", _asked(load, root), "ms", 100, "100 ms")
        last = load.read(root)["position"]
        for what, place in (("the one before", last - 1), ("the middle", last // 2), ("the first", 1)):
            spent = _asked(load, f"{root}/state?branch=0&position={place}")
            yield Row(f"history of {_STATES:,} states: {what}", spent, "ms", 300, "300 ms")


def many_layers(load: Load, ident: str) -> int:
    """Give the project sixty layers, copies of its own; answers with its revision."""
    state = load.read(f"/projects/{ident}/state")
    layers: list[dict[str, Any]] = state["document"]["layers"]
    revision = int(state["revision"])
    while len(layers) < _LAYERS:
        layer = copy.deepcopy(layers[len(layers) % len(state["document"]["layers"])])
        layer |= {"id": f"b{len(layers):07d}", "name": f"Copy {len(layers)}"}
        layers.append(layer)
    return edited(load, ident, revision, [{"op": "replace", "path": "/layers", "value": layers}])


def letters(page: Page) -> list[float]:
    """Milliseconds from a letter in the finder to its answers on the screen, a letter after another."""
    page.keyboard.press("Control+k")
    page.wait_for_timeout(800)
    spent = [_followed(page, letter) for letter in "opacity ring bars"]
    page.keyboard.press("Escape")
    return spent


def all_chosen(page: Page, times: int = 8) -> list[float]:
    """Milliseconds from the key that chooses all layers to the panel of what they share."""
    spent = []
    for _ in range(times):
        page.evaluate("velvet.selection.choose(velvet.layers.layersFrontFirst[0])")
        page.wait_for_timeout(700)
        page.evaluate("document.activeElement.blur()")
        spent.append(_followed(page, "Control+a"))
        until(page, "velvet.selection.several")
    return spent


def _followed(page: Page, key: str) -> float:
    page.evaluate(_FOLLOWED)
    page.keyboard.press("Space" if key == " " else key)
    until(page, "window.spent > 0")
    page.wait_for_timeout(60)
    return float(page.evaluate("window.spent"))


def _asked(load: Load, path: str, times: int = 5) -> float:
    spent = []
    for _ in range(times):
        begun = time.perf_counter()
        load.ask(path)
        spent.append((time.perf_counter() - begun) * 1000)
    return median(spent)
