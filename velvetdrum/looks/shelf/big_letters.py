"""Big letters: a title that fills the frame and swells; drawn for tall frames."""

from typing import Any

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Big letters",
    "The title fills the frame and swells with the music.",
    uses=("song", "loop"),
    pace="lively",
    family="Type",
    frame="tall",
    colours=("#1a0933", "#ffffff", "#ff4d7c", "#ffb400", "#08d9d6", "#a892ff"),
)
def big_letters(scene: LookScene) -> None:
    """Letters in a gradient that wanders, echoes of their outline behind them, bars under them."""
    ground = scene.add(
        "backdrop",
        "Ground",
        fill="corners",
        corner_1="#330a42",
        corner_2="#140d40",
        corner_3="#0c0a2a",
        corner_4="#200630",
    )
    scene.move(ground, "layer_opacity", "kick", 70.0, 100.0)
    words: dict[str, Any] = {
        "text": "{title}",
        "family": "unbounded",
        "weight": 900.0,
        "size": 8.2,
        "case": "upper",
        "leading": 100.0,
        "box_width": 72.0,
        "y": 37.0,
    }
    frames: dict[str, Any] = {
        "wide": {"size": 12.0, "y": 40.0, "box_width": 88.0},
        "square": {"size": 10.2, "y": 38.0, "box_width": 88.0},
    }
    echo = scene.add(
        "text",
        "Echo",
        **words,
        **frames,
        hollow=True,
        outline=1.0,
        outline_colour=scene.colour("3"),
        plain=scene.colour("3"),
    )
    scene.move(echo, "scale_x", "kick", 100.0, 106.0)
    scene.move(echo, "scale_y", "kick", 100.0, 106.0)
    scene.move(echo, "layer_opacity", "kick", 0.0, 80.0)
    title = scene.add(
        "text",
        "Title",
        **words,
        **frames,
        paint="field",
        field="linear",
        field_turn=35.0,
        back=True,
        drift=8.0,
        shadow=60.0,
        shadow_soft=30.0,
        shadow_y=0.0,
        colours=scene.ramp("1", "2", "3", "4"),
    )
    scene.move(title, "scale_x", "bass", 97.0, 104.0)
    scene.move(title, "scale_y", "bass", 97.0, 104.0)
    lyric = scene.add(
        "lyrics",
        "Words",
        style="pair",
        family="unbounded",
        weight=600.0,
        size=5.2,
        y=59.0,
        box_width=68.0,
        highlight="sweep",
        highlight_colour=scene.colour("2"),
        plain=scene.colour("ink"),
        wide={"y": 66.0, "size": 5.0, "box_width": 84.0},
        square={"y": 68.0, "size": 5.0, "box_width": 84.0},
    )
    bars = scene.add(
        "spectrum",
        "Bars",
        bands=26,
        mirror=True,
        y=74.0,
        width=88.0,
        reach=13.0,
        grow="out",
        gap=22.0,
        corner=30.0,
        paint="along",
        colours=scene.ramp("4", "3", "2", "1"),
        high_hz=6000.0,
        wide={"y": 97.0, "reach": 18.0, "width": 92.0},
        square={"y": 97.0, "reach": 16.0},
    )
    scene.effect(bars, "glow", level=40.0, radius=1.4, gain=50.0)
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        family="work-sans",
        weight=600.0,
        size=4.2,
        y=15.5,
        tracking=80.0,
        plain=scene.colour("ink"),
        wide={"y": 9.0, "size": 3.6},
        square={"y": 8.0},
    )
    scene.finish(("grain", {"amount": 5.0}), ("vignette", {"amount": 30.0, "size": 60.0}))
    scene.open("title", optional=False)
    scene.open("artist")
    scene.open("words", beside=(lyric,))
