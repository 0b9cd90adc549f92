"""Carries out the manual's recipes in the page, on the demo song, and keeps what each leads to as a picture.

Usage: make_recipe_figures.py DOCS
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np

from tests.browser.conftest import ready
from tests.browser.recipes import RECIPES, Hand, emptied
from tools.make_shots import launched, served
from velvetdrum.studio.workers.drawn_frames import unpacked

_WIDTH = 640
_QUALITY = 82


def main() -> None:
    """Draw the pictures into the folder of the manual's figures."""
    if len(sys.argv) != 2:
        raise SystemExit(__doc__)
    figures = Path(sys.argv[1]) / "manual/figures"
    with served("--demo") as address, launched() as browser:
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.wait_for_selector("[x-data=coming]", state="detached", timeout=240_000)
        project = page.locator("a.open:has-text('Paper Lighthouse')").first.get_attribute("href")
        for name, recipe in RECIPES.items():
            page.goto(f"{address}{project}")
            ready(page)
            emptied(page)
            hand = Hand(page)
            recipe(hand)
            frame = page.evaluate("velvet.given.loudest")
            asked = {"frames": [frame], "width": _WIDTH, "form": "png"}
            answer = page.request.post(
                f"{address}{project}/frames", data=asked, headers={"X-Velvet-Drum": "1"}, timeout=60_000
            )
            ((_, data),) = unpacked(answer.body())
            picture = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
            _, kept = cv2.imencode(".webp", picture, [cv2.IMWRITE_WEBP_QUALITY, _QUALITY])
            (figures / f"recipe-{name}.webp").write_bytes(kept.tobytes())
            print(f"{name}: {hand.actions} actions")


if __name__ == "__main__":
    main()
