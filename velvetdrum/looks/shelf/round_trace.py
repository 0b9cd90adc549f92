"""Round trace: the waveform drawn round a cover."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Round trace",
    "The waveform runs round a cover, on paper.",
    uses=("song", "voice"),
    pace="calm",
    family="Trace",
    frame="square",
    colours=("#efe6d6", "#2b211d", "#c8452f", "#24567a", "#d99a2b"),
)
def round_trace(scene: LookScene) -> None:
    """Ink on paper: a light look."""
    scene.add(
        "backdrop",
        "Paper",
        start_x=50.0,
        start_y=44.0,
        end_x=120.0,
        end_y=100.0,
        colours=scene.ramp("#f8f1e4", "ground", "#d9cbb4"),
    )
    shade = scene.add(
        "haze",
        "Shade",
        scale=110.0,
        contrast=40.0,
        density=14.0,
        thick="#8a6f55",
        thin=scene.colour("ground"),
        speed=1.0,
    )
    scene.move(shade, "density", "overall", 6.0, 20.0)
    rings = scene.add(
        "group",
        "Rings",
        move_y=-13.0,
        wide={"move_y": -5.0, "scale_x": 84.0, "scale_y": 84.0},
        tall={"move_y": -10.0, "scale_x": 70.0, "scale_y": 70.0},
        scale_x=72.0,
        scale_y=72.0,
    )
    far = scene.add(
        "scope",
        "Blue",
        group=rings,
        base="ring",
        radius=30.0,
        reach=9.0,
        line=0.35,
        window_ms=60.0,
        plain=scene.colour("2"),
        opacity=75.0,
        copies=3,
        copy_size=112.0,
        copy_opacity=55.0,
        copy_turn=20.0,
    )
    near = scene.add(
        "scope",
        "Red",
        group=rings,
        base="ring",
        radius=25.5,
        reach=8.0,
        line=0.7,
        window_ms=34.0,
        plain=scene.colour("1"),
    )
    scene.move(near, "reach", "lead", 4.0, 12.0)
    scene.move(far, "turn", "bars", 0.0, 360.0)
    disc = scene.add("shape", "Disc", group=rings, form="ellipse", width=40.0, height=40.0, plain=scene.colour("ink"))
    cover = scene.add("logo", "Cover", group=rings, size=27.0, clear=0.0, pulse_by=5.0)
    scene.move(cover, "pulse", "kick", 0.0, 100.0)
    name = scene.add(
        "text",
        "Title inside",
        group=rings,
        text="{title}",
        size=6.0,
        plain=scene.colour("ink"),
        weight=620.0,
        box_width=36.0,
        leading=106.0,
    )
    title = scene.add(
        "text",
        "Title",
        text="{title}",
        size=5.4,
        y=77.0,
        weight=620.0,
        plain=scene.colour("ink"),
        box_width=86.0,
        wide={"x": 84.0, "y": 44.0, "box_width": 26.0, "size": 5.4},
        tall={"y": 70.5, "size": 6.0, "box_width": 70.0},
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=3.6,
        y=83.0,
        family="work-sans",
        weight=500.0,
        plain=scene.colour("ink"),
        wide={"x": 84.0, "y": 62.0, "box_width": 26.0},
        tall={"y": 76.5, "size": 3.8, "box_width": 70.0},
    )
    scene.finish(("grain", {"amount": 5.0}))
    scene.open("title")
    scene.open("artist")
    scene.open("cover", image=cover, beside=(disc, title), instead=(name,))
