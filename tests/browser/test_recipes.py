"""The manual's recipes lead from an empty project to what their pictures show, in few actions."""

import pytest

from tests.browser.conftest import until
from tests.browser.recipes import RECIPES, Hand, emptied

MOST_ACTIONS = 60


def layers(page):
    return page.evaluate("velvet.project.document.layers")


@pytest.fixture
def hand(studio):
    emptied(studio)
    return Hand(studio)


@pytest.mark.parametrize("name", RECIPES)
def test_a_recipe_is_done_in_few_actions_and_moves_with_the_sound(hand, name):
    RECIPES[name](hand)
    page = hand.page
    assert hand.actions <= MOST_ACTIONS
    assert page.evaluate("Object.keys(velvet.project.faults).length") == 0
    kinds = {layer["kind"] for layer in layers(page)}
    signals = {signal["id"] for signal in page.evaluate("velvet.project.document.signals")}
    patched = {patch["signal"] for layer in layers(page) for patch in layer["patches"]}
    assert patched <= signals
    if name == "twelve-clusters":
        bands = [layer["settings"]["low_hz"] for layer in layers(page) if layer["kind"] == "spectrum"]
        seeds = {layer["settings"]["seed"] for layer in layers(page) if layer["kind"] == "spectrum"}
        steps = [high / low for low, high in zip(sorted(bands), sorted(bands)[1:], strict=False)]
        assert len(bands) == 12 and max(steps) / min(steps) < 1.1, "each as many octaves above the one before"
        assert len(seeds) == 12
        assert {"haze", "particles", "backdrop"} <= kinds
    elif name == "pushed-field":
        assert len(patched) >= 3
    else:
        assert {"particles", "space", "backdrop"} <= kinds and patched
    until(page, "!velvet.views.preview.busy && velvet.stage.picture.width > 0")
