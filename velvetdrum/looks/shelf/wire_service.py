"""Wire service: type and a line; nothing else is needed for what is said."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Wire service",
    "Large type, ranged left, over the line of the voice.",
    uses=("voice", "song"),
    pace="calm",
    family="Type",
    colours=("#f2efe9", "#191919", "#d7263d", "#1b998b", "#8d8478"),
)
def wire_service(scene: LookScene) -> None:
    """A light ground, black letters, one red line."""
    ground = scene.add(
        "backdrop",
        "Paper",
        fill="linear",
        start_x=0.0,
        start_y=0.0,
        end_x=100.0,
        end_y=100.0,
        colours=scene.ramp("#f8f6f1", "ground", "#ddd7cc"),
    )
    scene.move(ground, "end_y", "overall", 80.0, 120.0)
    scene.add(
        "text",
        "Speaker",
        text="{artist}",
        family="jetbrains-mono",
        weight=700.0,
        size=3.2,
        case="upper",
        tracking=60.0,
        align="left",
        y=10.0,
        plain="#a81228",
        box_width=86.0,
        tall={"y": 15.0, "size": 3.6, "box_width": 60.0, "x": 39.0},
    )
    title = scene.add(
        "text",
        "Title",
        text="{title}",
        family="roboto-slab",
        weight=800.0,
        size=8.4,
        align="left",
        leading=104.0,
        y=22.0,
        plain=scene.colour("ink"),
        box_width=86.0,
        tall={"y": 27.0, "size": 7.4, "box_width": 82.0},
        square={"size": 7.4},
    )
    scene.move(title, "tracking", "overall", -6.0, 6.0)
    captions = scene.add(
        "captions",
        "Words",
        family="roboto-slab",
        weight=500.0,
        size=6.4,
        rows=3,
        place="free",
        align="left",
        y=52.0,
        plate="none",
        highlight="word",
        highlight_colour=scene.colour("1"),
        leading=130.0,
        box_width=86.0,
        tall={"y": 50.0, "size": 6.4, "box_width": 70.0, "x": 44.0, "rows": 4},
        square={"y": 54.0, "rows": 4},
    )
    captions["settings"]["plain"] = scene.colour("ink")
    line = scene.add(
        "scope",
        "Voice",
        window_ms=60.0,
        width=100.0,
        reach=12.0,
        line=0.6,
        plain=scene.colour("1"),
        y=82.0,
        tall={"y": 66.0},
    )
    scene.move(line, "line", "voice", 0.4, 0.9)
    scene.add(
        "progress",
        "Way",
        y=94.0,
        width=86.0,
        stroke=0.5,
        plain=scene.colour("ink"),
        ground_colour=scene.colour("ink"),
        ground_opacity=14.0,
        over="sound",
        tall={"y": 74.0, "width": 82.0},
    )
    scene.add(
        "text",
        "Time",
        text="{elapsed m:ss}",
        family="jetbrains-mono",
        weight=400.0,
        size=3.0,
        align="right",
        y=10.0,
        plain="#5c554b",
        box_width=86.0,
        tall={"y": 15.0, "size": 3.6, "box_width": 82.0},
    )
    scene.open("title")
    scene.open("artist")
    scene.open("words", beside=(captions,))
