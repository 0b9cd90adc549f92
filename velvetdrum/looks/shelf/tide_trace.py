"""Tide trace: the waveform as one glowing line with its past behind it."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Tide trace",
    "The waveform as one line of light, with its past behind it.",
    uses=("song", "loop"),
    pace="calm",
    family="Trace",
    colours=("#04110f", "#dffaf0", "#7dffb2", "#3fb8ff", "#b98cff"),
)
def tide_trace(scene: LookScene) -> None:
    """A scope over a faint graticule; copies fall back as waves do."""
    scene.add(
        "backdrop",
        "Ground",
        start_x=50.0,
        start_y=50.0,
        end_x=120.0,
        end_y=50.0,
        colours=scene.ramp("#0d2a2a", "#071a1a", "ground"),
    )
    scene.add(
        "graticule",
        "Field",
        width=86.0,
        height=56.0,
        plain=scene.colour("2"),
        opacity=10.0,
        rim=False,
        tall={"y": 44.0, "height": 40.0},
    )
    back = scene.add(
        "scope",
        "Behind",
        window_ms=42.0,
        width=92.0,
        reach=20.0,
        line=0.3,
        copies=6,
        copy_y=-3.2,
        copy_size=94.0,
        copy_opacity=72.0,
        paint="along",
        colours=scene.ramp("3", "2", "1"),
        opacity=30.0,
        y=57.0,
        tall={"y": 48.0},
    )
    scene.effect(back, "soft-blur", radius=0.12)
    line = scene.add(
        "scope",
        "Line",
        window_ms=42.0,
        width=92.0,
        reach=24.0,
        line=0.62,
        paint="along",
        colours=scene.ramp("1", "2", "3"),
        afterglow_ms=45.0,
        y=57.0,
        tall={"y": 48.0},
    )
    scene.effect(line, "glow", level=20.0, radius=2.2, gain=50.0)
    scene.move(line, "line", "kick", 0.0, 0.5, "add")
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=5.0,
        y=12.0,
        align="left",
        box_width=86.0,
        family="work-sans",
        weight=500.0,
        plain=scene.colour("ink"),
        tall={"y": 18.0, "size": 5.4},
        square={"y": 11.0},
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=3.2,
        y=18.5,
        align="left",
        box_width=86.0,
        family="work-sans",
        weight=400.0,
        plain=scene.colour("1"),
        tall={"y": 25.0, "size": 3.6},
        square={"y": 17.0},
    )
    scene.add(
        "progress",
        "Way",
        y=90.0,
        width=86.0,
        stroke=0.35,
        plain=scene.colour("1"),
        ground_opacity=14.0,
        over="sound",
        head=True,
        head_size=1.6,
        tall={"y": 72.0},
    )
    scene.finish(("vignette", {"amount": 50.0, "size": 50.0}))
    scene.open("title")
    scene.open("artist")
