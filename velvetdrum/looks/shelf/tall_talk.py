"""Tall talk: captions over a photo or footage; drawn for tall frames."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Tall talk",
    "Your photo, large captions, the voice in fine bars.",
    uses=("voice",),
    pace="calm",
    family="Speech",
    frame="tall",
    colours=("#0d1117", "#ffffff", "#ffd23f", "#ee6c4d", "#3d5a80"),
)
def tall_talk(scene: LookScene) -> None:
    """What is said fills the middle, word for word."""
    scene.add(
        "backdrop",
        "Ground",
        fill="linear",
        start_x=30.0,
        start_y=0.0,
        end_x=70.0,
        end_y=100.0,
        colours=scene.ramp("#3d5a80", "#1b2738", "ground"),
    )
    haze = scene.add(
        "haze",
        "Haze",
        scale=120.0,
        contrast=50.0,
        density=40.0,
        thick=scene.colour("3"),
        thin=scene.colour("ground"),
        speed=1.5,
    )
    photo = scene.add("footage", "Photo", brightness=60.0, saturation=90.0, zoom=104.0, zoom_rate=6.0)
    scene.add(
        "backdrop",
        "Shade",
        fill="linear",
        start_x=50.0,
        start_y=10.0,
        end_x=50.0,
        end_y=90.0,
        colours=scene.ramp("#e6e6e6", "#5a606c"),
        blend="multiply",
    )
    scene.add(
        "text",
        "Speaker",
        text="{speaker}",
        family="work-sans",
        weight=700.0,
        size=4.2,
        case="upper",
        tracking=90.0,
        y=15.0,
        plain=scene.colour("1"),
        box_width=84.0,
        shadow=60.0,
        wide={"y": 9.0, "size": 3.4},
        square={"y": 9.0},
    )
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=6.6,
        y=22.0,
        weight=600.0,
        plain=scene.colour("ink"),
        box_width=80.0,
        shadow=60.0,
        wide={"y": 17.0, "size": 5.6},
        square={"y": 17.0, "size": 5.8},
    )
    captions = scene.add(
        "captions",
        "Words",
        family="inter",
        weight=800.0,
        size=8.4,
        rows=4,
        place="free",
        y=44.0,
        plate="none",
        shadow=75.0,
        shadow_soft=30.0,
        highlight="word",
        highlight_colour=scene.colour("1"),
        leading=122.0,
        box_width=70.0,
        wide={"y": 48.0, "size": 8.0, "rows": 3, "box_width": 84.0},
        square={"y": 50.0, "size": 7.4, "box_width": 84.0},
    )
    bars = scene.add(
        "spectrum",
        "Voice",
        bands=44,
        mirror=True,
        low_hz=90.0,
        high_hz=6000.0,
        y=68.0,
        width=70.0,
        reach=12.0,
        grow="both",
        gap=46.0,
        least=0.5,
        paint="along",
        back=True,
        colours=scene.ramp("1", "2"),
        release_ms=150.0,
        wide={"y": 82.0, "width": 50.0},
        square={"y": 82.0},
    )
    scene.move(bars, "opacity", "voice", 55.0, 100.0)
    scene.add(
        "progress",
        "Way",
        y=74.5,
        width=84.0,
        stroke=0.6,
        plain=scene.colour("1"),
        ground_opacity=24.0,
        over="sound",
        wide={"y": 93.0},
        square={"y": 93.0},
    )
    scene.finish(("grain", {"amount": 3.0}))
    scene.open("title")
    scene.open("speaker")
    scene.open("film", clip=photo, instead=(haze,))
    scene.open("words", beside=(captions,))
