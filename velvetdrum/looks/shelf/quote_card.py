"""Quote card: what is said, in a frame of its own; drawn to be read without sound."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Quote card",
    "A card with what is said and who says it, to be read without sound.",
    uses=("voice",),
    pace="calm",
    family="Type",
    frame="square",
    colours=("#14322b", "#f6f1e3", "#e9c46a", "#f4a261", "#2a9d8f"),
)
def quote_card(scene: LookScene) -> None:
    """A card on a coloured ground, its edge drawn by the voice."""
    ground = scene.add(
        "backdrop",
        "Ground",
        fill="linear",
        start_x=0.0,
        start_y=0.0,
        end_x=100.0,
        end_y=100.0,
        colours=scene.ramp("#2a9d8f", "#1d5c52", "ground"),
    )
    scene.move(ground, "end_x", "overall", 80.0, 130.0)
    card = scene.add(
        "shape",
        "Card",
        form="rectangle",
        width=86.0,
        height=62.0,
        y=42.0,
        corner=6.0,
        plain=scene.colour("ink"),
        wide={"width": 142.0, "height": 64.0},
        tall={"height": 62.0, "y": 40.0},
    )
    scene.effect(card, "shadow", distance=1.2, angle=90.0, softness=3.0, solid=45.0)
    edge = scene.add(
        "spectrum",
        "Edge",
        base="rectangle",
        box_width=84.0,
        box_height=60.0,
        box_corner=6.0,
        y=42.0,
        style="bars",
        bands=60,
        mirror=True,
        grow="out",
        reach=5.0,
        gap=40.0,
        low_hz=90.0,
        high_hz=6000.0,
        paint="one",
        plain=scene.colour("1"),
        wide={"box_width": 140.0, "box_height": 62.0},
        tall={"box_width": 84.0, "box_height": 60.0, "y": 40.0},
    )
    scene.layers.insert(1, scene.layers.pop())
    scene.move(edge, "reach", "voice", 2.0, 6.5)
    scene.add(
        "text",
        "Mark",
        text="\u201c",
        size=18.0,
        y=23.0,
        weight=700.0,
        plain="#b5521f",
        x=17.0,
        wide={"x": 17.0, "y": 24.0},
        tall={"x": 17.0, "y": 28.0},
    )
    captions = scene.add(
        "captions",
        "Words",
        family="literata",
        weight=600.0,
        size=6.2,
        rows=5,
        place="free",
        y=43.0,
        plate="none",
        leading=132.0,
        box_width=70.0,
        plain=scene.colour("ground"),
        highlight="word",
        highlight_colour="#b5521f",
        wide={"size": 7.0, "rows": 4, "box_width": 64.0},
        tall={"y": 41.0, "size": 6.4, "rows": 5, "box_width": 68.0},
    )
    quote = scene.add(
        "text",
        "Title on the card",
        text="{title}",
        family="literata",
        weight=700.0,
        size=7.4,
        y=43.0,
        leading=118.0,
        plain=scene.colour("ground"),
        box_width=70.0,
        tall={"y": 41.0, "size": 6.6, "box_width": 68.0},
    )
    scene.add(
        "text",
        "Speaker",
        text="{speaker}",
        family="work-sans",
        weight=700.0,
        size=3.8,
        y=67.0,
        plain=scene.colour("ground"),
        box_width=70.0,
        wide={"y": 68.0},
        tall={"y": 54.0, "size": 4.0, "box_width": 66.0},
    )
    scene.add(
        "progress",
        "Way",
        y=88.0,
        width=86.0,
        stroke=0.7,
        plain=scene.colour("1"),
        ground_opacity=24.0,
        over="sound",
        tall={"y": 80.5, "width": 66.0},
    )
    title = scene.add(
        "text",
        "Title",
        text="{title}",
        family="work-sans",
        weight=600.0,
        size=3.8,
        y=79.5,
        plain=scene.colour("ink"),
        box_width=86.0,
        tall={"y": 76.5, "size": 3.4, "box_width": 66.0},
    )
    scene.finish(("grain", {"amount": 3.0}))
    scene.open("title", optional=False)
    scene.open("speaker")
    scene.open("words", beside=(captions, title), instead=(quote,))
