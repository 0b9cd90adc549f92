"""Pier lights: thick bars of lamps, as few as a hand can count twice."""

from typing import Any

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Pier lights",
    "Twenty-four columns of lamps light up from the quay.",
    uses=("song", "loop"),
    pace="lively",
    family="Bars",
    colours=("#0a0a0f", "#f5f0e6", "#4fc4b0", "#f0b866", "#ff6f5e"),
)
def pier_lights(scene: LookScene) -> None:
    """Segments in three zones, peaks that stay, a floor that shines."""
    ground = scene.add(
        "backdrop",
        "Ground",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=scene.ramp("ground", "#12131c", "#1c1a24"),
    )
    scene.move(
        ground,
        "colours",
        "kick",
        scene.ramp("ground", "#12131c", "#1c1a24"),
        scene.ramp("ground", "#151827", "#262030"),
    )
    common: dict[str, Any] = {
        "style": "segments",
        "segments": 18,
        "segment_gap": 36.0,
        "bands": 24,
        "grow": "out",
        "gap": 26.0,
        "corner": 40.0,
        "width": 78.0,
        "low_hz": 40.0,
        "high_hz": 10_000.0,
    }
    lamps = scene.add(
        "spectrum",
        "Lamps",
        **common,
        y=74.0,
        reach=50.0,
        paint="level",
        colours=[
            {"at": 0.0, "colour": scene.colour("1")},
            {"at": 0.6, "colour": scene.colour("1")},
            {"at": 0.66, "colour": scene.colour("2")},
            {"at": 0.82, "colour": scene.colour("2")},
            {"at": 0.88, "colour": scene.colour("3")},
            {"at": 1.0, "colour": scene.colour("3")},
        ],
        caps=True,
        cap_hold_ms=500.0,
        cap_fall=55.0,
        release_ms=280.0,
        tall={"y": 66.0, "width": 84.0, "reach": 50.0},
        square={"y": 78.0, "width": 84.0, "reach": 56.0},
    )
    scene.effect(lamps, "glow", level=30.0, radius=1.4, gain=60.0)
    shine = scene.add(
        "spectrum",
        "On the floor",
        **{**common, "grow": "in"},
        y=76.0,
        reach=18.0,
        paint="level",
        colours=scene.ramp("1", "2", "3"),
        opacity=24.0,
        tall={"y": 67.4, "width": 84.0},
        square={"y": 80.0, "width": 84.0},
    )
    scene.effect(shine, "soft-blur", radius=0.5)
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=4.6,
        align="left",
        box_width=60.0,
        family="roboto-condensed",
        weight=700.0,
        case="upper",
        tracking=60.0,
        plain=scene.colour("ink"),
        y=12.0,
        tall={"y": 18.0, "size": 4.8, "box_width": 56.0, "x": 36.0},
        square={"y": 10.0, "size": 4.8, "box_width": 60.0, "x": 38.0},
        x=41.0,
    )
    scene.add(
        "text",
        "Time",
        text="{elapsed m:ss}",
        size=4.6,
        y=12.0,
        align="right",
        box_width=78.0,
        family="jetbrains-mono",
        weight=400.0,
        plain=scene.colour("2"),
        tall={"y": 17.0, "box_width": 84.0},
        square={"y": 10.0, "box_width": 84.0},
    )
    scene.finish(("vignette", {"amount": 35.0, "size": 60.0}))
    scene.open("title")
