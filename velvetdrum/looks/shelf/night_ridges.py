"""Night ridges: past spectra go back to the horizon under a moon."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Night ridges",
    "The last bars of the music roll back to the horizon as hills.",
    uses=("song", "loop"),
    pace="calm",
    family="Ridges",
    colours=("#0b0d22", "#fff3d6", "#ff9a6b", "#d0608a", "#8a6cff"),
)
def night_ridges(scene: LookScene) -> None:
    """A moon that rises with the whole of it; ridges with the dark of the ground between them."""
    scene.add(
        "backdrop",
        "Sky",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=56.0,
        colours=scene.ramp("ground", "#251c4a", "#6e3564", "#e98a68", "#0b0d22"),
    )
    moon = scene.add(
        "shape",
        "Moon",
        form="ellipse",
        width=28.0,
        height=28.0,
        y=26.0,
        plain=scene.colour("ink"),
        wide={"y": 28.0},
        tall={"y": 32.0},
        square={"y": 28.0},
    )
    shine = scene.effect(moon, "glow", level=20.0, radius=8.0, gain=70.0)
    scene.move(moon, shine("gain"), "kick", 40.0, 130.0)
    space = scene.add(
        "space", "Camera", view=50.0, elevation=22.0, distance=92.0, fog_from=105.0, fog_to=330.0, fog_colour="#5a2f5c"
    )
    scene.move(space, "elevation", "overall", 20.0, 25.0)
    scene.add(
        "ridges",
        "Ridges",
        group=space,
        rows=28,
        step=0.25,
        unit="beats",
        height=20.0,
        row_gap=7.4,
        base_y=33.0,
        deep=True,
        taper=45.0,
        fill="#0d0b1f",
        line=0.36,
        fade=55.0,
        release_ms=240.0,
        bands=30,
        wide=240.0,
        high_hz=6000.0,
        colours=scene.ramp("ink", "1", "2", "3"),
    )
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=5.0,
        y=78.5,
        weight=560.0,
        plain=scene.colour("ink"),
        box_width=86.0,
        shadow=70.0,
        tall={"y": 71.0, "size": 6.0, "box_width": 68.0},
        plate="lines",
        plate_colour=scene.colour("ground"),
        plate_opacity=55.0,
        plate_pad=40.0,
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=3.0,
        y=6.5,
        family="work-sans",
        weight=500.0,
        tracking=160.0,
        case="upper",
        plain=scene.colour("ink"),
        opacity=85.0,
        tall={"y": 15.5, "size": 3.8},
    )
    scene.finish(("glow", {"level": 60.0, "radius": 1.6, "gain": 35.0}), ("vignette", {"amount": 45.0, "size": 52.0}))
    scene.open("title")
    scene.open("artist")
