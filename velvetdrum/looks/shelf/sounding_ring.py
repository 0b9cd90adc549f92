"""Sounding ring: the spectrogram as a disc that is written as it plays."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Sounding ring",
    "A disc of all frequencies is written as the music plays.",
    uses=("loop", "song"),
    pace="lively",
    family="Spectrogram",
    frame="square",
    colours=("#05060f", "#fdf3d8", "#3b1d6e", "#b0307a", "#ff8a4c"),
)
def sounding_ring(scene: LookScene) -> None:
    """The disc, a bright line where it is now, a ring of hairlines about it."""
    scene.add(
        "backdrop",
        "Ground",
        start_x=50.0,
        start_y=50.0,
        end_x=118.0,
        end_y=50.0,
        colours=scene.ramp("#191533", "#0c0b1d", "ground"),
    )
    scene.add(
        "spectrogram",
        "Disc",
        form="ring",
        reach=8.0,
        radius=28.0,
        hole=34.0,
        colours=scene.ramp("ground", "1", "2", "3", "ink"),
        tall={"y": 42.0},
        y=41.0,
    )
    lines = scene.add(
        "spectrum",
        "Hairlines",
        style="hairlines",
        base="ring",
        grow="out",
        bands=90,
        mirror=True,
        radius=29.2,
        reach=6.4,
        line=0.3,
        paint="one",
        plain=scene.colour("3"),
        tall={"y": 42.0},
        y=41.0,
    )
    scene.move(lines, "turn", "bars", 0.0, 360.0)
    heart = scene.add(
        "flare",
        "Heart",
        size=6.4,
        core=90.0,
        ring=30.0,
        streak=0.0,
        ghosts=0,
        colour=scene.colour("3"),
        blend="plus-lighter",
        tall={"y": 42.0},
        y=41.0,
    )
    scene.move(heart, "gain", "kick", 10.0, 120.0)
    scene.add(
        "progress",
        "Way",
        base="ring",
        radius=37.0,
        stroke=0.4,
        plain=scene.colour("ink"),
        ground_opacity=8.0,
        over="sound",
        tall={"y": 42.0},
        y=41.0,
    )
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=3.4,
        family="jetbrains-mono",
        weight=700.0,
        case="upper",
        tracking=120.0,
        x=50.0,
        y=82.0,
        plain=scene.colour("ink"),
        opacity=90.0,
        wide={"x": 14.0, "y": 76.0, "box_width": 24.0},
        tall={"y": 73.0, "size": 3.4, "box_width": 66.0},
    )
    scene.finish(("glow", {"level": 50.0, "radius": 1.6, "gain": 55.0}), ("vignette", {"amount": 35.0, "size": 60.0}))
    scene.open("title")
