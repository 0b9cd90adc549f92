"""The manual's recipes, carried out in the page by hand: every press, drag, key and typed value is counted."""

from __future__ import annotations

from tests.browser.conftest import box_of, saved, settled


class Hand:
    """What somebody does in the studio, action by action."""

    def __init__(self, page):
        self.page = page
        self.actions = 0

    def press(self, selector: str) -> None:
        self.actions += 1
        self.page.locator(selector).first.click(timeout=60_000)

    def key(self, key: str) -> None:
        self.actions += 1
        self.page.keyboard.press(key)

    def add(self, family: str, figure: str) -> str:
        """A layer from the pictures to choose from; gives its id."""
        self.key("a")
        self.press(f"[data-family={family}]")
        self.press(f"[data-figure='{figure}']:visible")
        saved(self.page)
        return self.page.evaluate("velvet.selection.chosen")

    def put(self, label: str, name: str, text: str) -> None:
        """A setting that is found by its label, and typed."""
        self.actions += 2
        self.page.get_by_label("Find a setting").fill(label)
        field = self.page.locator(f"[data-matches] [data-field={name}]")
        field.fill(text)
        field.press("Enter")
        saved(self.page)

    def tie(self, label: str, name: str, role: str) -> None:
        """A setting that follows a part of the sound, found where the setting is."""
        self.actions += 1
        self.page.get_by_label("Find a setting").fill(label)
        self.press(f"[data-matches] [data-socket={name}]")
        self.press(f"[data-matches] [data-role={role}]:visible, [data-matches] [data-plug='{role}' i]:visible")
        saved(self.page)

    def effect(self, family: str, name: str) -> None:
        self.page.get_by_label("Find a setting").fill("")
        self.press(".right .tabs button:has-text('Effects')")
        self.press("[data-add-effect]")
        self.press(f"[data-effects={family}]")
        self.press(f"[data-effect='{name}']")
        saved(self.page)

    def drag(self, by: tuple[float, float]) -> None:
        """Drag on the picture from its middle, by shares of its size."""
        self.actions += 1
        box = box_of(self.page.locator("svg.handles"))
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + by[0] * box["width"], y + by[1] * box["height"], steps=5)
        self.page.mouse.up()
        saved(self.page)


def emptied(page) -> None:
    """Take every layer and signal away: a recipe begins with a sound alone."""
    for path in ("layers", "signals"):
        page.evaluate("(path) => velvet.project.edit('Empty', [{op: 'replace', path: `/${path}`, value: []}])", path)
        saved(page)
    settled(page)


def sparks_in_a_space(hand: Hand) -> None:
    """Particles from a ring, under a camera that circles."""
    hand.add("particles", "Sparks from a ring")
    hand.put("Position Z", "place_z", "12")
    hand.add("space", "Space, camera circling")
    hand.drag((-0.12, 0.08))
    hand.tie("Field of view", "view", "kick")
    hand.effect("light", "Lamp glow")
    hand.add("ground", "Backdrop")


def twelve_clusters(hand: Hand) -> None:
    """Twelve clusters of bars, each with a band of its own, with haze, glow and dust."""
    page = hand.page
    hand.add("spectrum", "Clusters")
    hand.put("Length", "width", "6")
    hand.put("Bands", "bands", "5")
    hand.put("Position X", "x", "8")
    hand.key("Control+Shift+d")
    dialog = page.get_by_role("dialog", name="Double by steps")
    hand.actions += 4
    dialog.get_by_label("Copies", exact=True).fill("11")
    dialog.get_by_label("Setting 1", exact=True).select_option(label="Position X")
    dialog.get_by_label("Step 1", exact=True).fill("7.6")
    dialog.get_by_role("button", name="Double").click()
    saved(page)
    hand.key("Control+a")
    hand.put("Lowest frequency", "low_hz", "20 … 11000")
    hand.put("Highest frequency", "high_hz", "36 … 20000")
    hand.put("Layer opacity", "layer_opacity", "100 … 70")
    hand.key("Shift+s")
    hand.key("Control+g")
    saved(page)
    hand.effect("light", "Lamp glow")
    hand.add("ground", "Haze")
    hand.add("particles", "Dust in the air")
    hand.add("ground", "Backdrop")


def field_pushed_by_three(hand: Hand) -> None:
    """A field of dots that kick, voice and a slow wander push."""
    hand.add("fields", "Parted by a ball")
    hand.tie("Ball radius", "ball", "kick")
    hand.tie("Ball X", "ball_x", "wander")
    hand.tie("Flow", "flow_amount", "shimmer")
    hand.effect("light", "Lamp glow")
    hand.add("ground", "Backdrop")


RECIPES = {
    "sparks-in-a-space": sparks_in_a_space,
    "twelve-clusters": twelve_clusters,
    "pushed-field": field_pushed_by_three,
}
