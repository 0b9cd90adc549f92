"""Evening talk: a cover, who speaks, what is said, and how far it is."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Evening talk",
    "A cover, the speaker's name, captions and the voice as a ribbon.",
    uses=("voice",),
    pace="calm",
    family="Speech",
    frame="square",
    colours=("#171021", "#f7e9d7", "#f0b866", "#ff7a66", "#5a3a6e"),
)
def evening_talk(scene: LookScene) -> None:
    """The ribbon of the voice runs past a line; captions stand large below it."""
    ground = scene.add(
        "backdrop",
        "Dusk",
        start_x=50.0,
        start_y=30.0,
        end_x=118.0,
        end_y=60.0,
        colours=scene.ramp("#53345f", "#2b1c3a", "ground"),
    )
    scene.move(ground, "start_y", "voice", 34.0, 24.0)
    disc = scene.add(
        "shape",
        "Disc",
        form="ellipse",
        width=30.0,
        height=30.0,
        x=50.0,
        y=24.0,
        plain=scene.colour("ink"),
        tall={"y": 25.0},
        wide={"x": 22.0, "y": 36.0, "width": 40.0, "height": 40.0},
    )
    cover = scene.add(
        "logo",
        "Cover",
        size=20.0,
        y=24.0,
        clear=0.0,
        pulse_by=4.0,
        tall={"y": 25.0},
        wide={"x": 22.0, "y": 36.0, "size": 27.0},
    )
    scene.move(cover, "pulse", "voice", 0.0, 100.0)
    ring = scene.add(
        "spectrum",
        "Ring",
        base="ring",
        grow="out",
        mirror=True,
        bands=40,
        radius=16.2,
        reach=5.0,
        gap=40.0,
        y=24.0,
        turn=180.0,
        low_hz=90.0,
        high_hz=5000.0,
        paint="one",
        plain=scene.colour("1"),
        tall={"y": 25.0},
        wide={"x": 22.0, "y": 36.0, "radius": 21.6},
    )
    scene.move(ring, "opacity", "voice", 60.0, 100.0)
    scene.add(
        "text",
        "Speaker",
        text="{speaker}",
        family="work-sans",
        weight=700.0,
        size=3.8,
        case="upper",
        tracking=100.0,
        y=49.0,
        plain=scene.colour("1"),
        box_width=86.0,
        tall={"y": 46.0, "size": 4.2, "box_width": 68.0},
        wide={"x": 70.0, "y": 14.0, "box_width": 50.0},
    )
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=5.0,
        y=55.0,
        weight=600.0,
        plain=scene.colour("ink"),
        box_width=86.0,
        tall={"y": 51.5, "size": 5.0, "box_width": 68.0},
        wide={"x": 70.0, "y": 24.0, "box_width": 50.0, "size": 5.4},
    )
    captions = scene.add(
        "captions",
        "Words",
        family="fraunces",
        weight=560.0,
        size=5.6,
        rows=3,
        place="free",
        y=69.0,
        plate="none",
        highlight="sweep",
        highlight_colour=scene.colour("1"),
        leading=128.0,
        box_width=86.0,
        tall={"y": 63.0, "size": 6.4, "box_width": 68.0},
        wide={"x": 70.0, "y": 50.0, "box_width": 50.0, "size": 6.2},
    )
    scene.add(
        "rolling-strip",
        "Voice",
        bars=90,
        seconds=5.0,
        y=87.0,
        width=88.0,
        reach=11.0,
        gap=44.0,
        paint="one",
        plain=scene.colour("1"),
        rest=scene.colour("ink"),
        rest_opacity=34.0,
        shows="peak",
        now_colour=scene.colour("2"),
        tall={"y": 73.0, "reach": 8.0, "width": 68.0},
        wide={"y": 79.0},
    )
    scene.add(
        "progress",
        "Way",
        y=94.0,
        width=88.0,
        stroke=0.5,
        plain=scene.colour("1"),
        ground_opacity=16.0,
        over="sound",
        tall={"y": 77.5, "width": 68.0},
        wide={"y": 88.0},
    )
    scene.finish(("grain", {"amount": 3.0}))
    scene.open("title")
    scene.open("speaker")
    scene.open("cover", image=cover, beside=(disc,))
    scene.open("words", beside=(captions,))
