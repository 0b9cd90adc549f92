"""Quay wall: lit boxes that grow from a mirror floor, the past in rows behind them."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Quay wall",
    "Lit boxes grow from a wet floor, the last beats in rows behind.",
    uses=("song", "loop"),
    pace="lively",
    family="Boxes",
    colours=("#0b0d20", "#ffe9cf", "#ff7a66", "#9a5fc0", "#4a55c8"),
)
def quay_wall(scene: LookScene) -> None:
    """A camera a little above the ground, a lamp that beats, fog."""
    scene.add(
        "backdrop",
        "Night",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=scene.ramp("ground", "#1a1b3e", "#4f2c50", "#150f24"),
    )
    space = scene.add(
        "space",
        "Camera",
        view=44.0,
        elevation=16.0,
        orbit=24.0,
        distance=114.0,
        look_y=5.0,
        floor=True,
        floor_y=24.0,
        reflection=42.0,
        grid=10.0,
        grid_colour=scene.colour("1"),
        light=95.0,
        light_azimuth=44.0,
        light_elevation=38.0,
        light_colour="#ffe0c0",
        ambient=30.0,
        lamp_y=-12.0,
        lamp_z=26.0,
        lamp_colour=scene.colour("1"),
        fog_from=88.0,
        fog_to=210.0,
        fog_colour="#1a1b3e",
        tall={"distance": 150.0},
    )
    scene.move(space, "lamp", "kick", 60.0, 110.0)
    scene.move(space, "orbit", "overall", 20.0, 27.0)
    scene.add(
        "solids",
        "Boxes",
        group=space,
        bands=22,
        rows=7,
        step=1,
        unit="beats",
        span=120.0,
        height=42.0,
        base_y=24.0,
        row_gap=10.0,
        gap=24.0,
        rounding=55.0,
        attack_ms=30.0,
        release_ms=420.0,
        shine=24.0,
        by="level",
        high_hz=6000.0,
        colours=scene.ramp("3", "2", "1", "ink"),
    )
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=5.0,
        y=10.0,
        family="unbounded",
        weight=600.0,
        plain=scene.colour("ink"),
        box_width=86.0,
        tall={"y": 17.0, "size": 6.4},
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=3.0,
        y=17.0,
        family="work-sans",
        weight=500.0,
        plain=scene.colour("1"),
        tall={"y": 24.0, "size": 4.0},
    )
    scene.finish(
        ("vignette", {"amount": 45.0, "size": 50.0}),
        ("grain", {"amount": 4.0}),
    )
    scene.open("title")
    scene.open("artist")
