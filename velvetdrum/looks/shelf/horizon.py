"""Horizon: bars on still water under an evening sky."""

from typing import Any

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Horizon",
    "Bars stand on the horizon and in the water below it.",
    uses=("song",),
    pace="calm",
    family="Bars",
    colours=("#0d1024", "#ffe9d0", "#ff7a66", "#f0b866", "#c06a9a", "#6f86ff"),
)
def horizon(scene: LookScene) -> None:
    """A sky, a sun that swells, bars and their mirror image, blurred by the water."""
    sky = scene.add(
        "backdrop",
        "Sky",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=62.0,
        colours=scene.ramp("ground", "#241d4a", "#6b3a6e", "#e0806a"),
    )
    scene.move(
        sky,
        "colours",
        "overall",
        scene.ramp("ground", "#1c1740", "#552f60", "#c06a62"),
        scene.ramp("#141433", "#32245c", "#8a4a7a", "#ffa06f"),
    )
    sun = scene.add(
        "shape",
        "Sun",
        form="ellipse",
        width=34.0,
        height=34.0,
        y=54.0,
        paint="field",
        field="linear",
        field_turn=90.0,
        field_y=50.0,
        field_size=60.0,
        colours=scene.ramp("2", "1"),
    )
    scene.effect(sun, "glow", level=20.0, radius=6.0, gain=70.0)
    scene.move(sun, "y", "overall", 58.0, 48.0)
    water = scene.add(
        "shape",
        "Water",
        form="rectangle",
        width=300.0,
        height=80.0,
        y=102.0,
        plain="#0a0c1c",
        wide={"height": 76.0, "y": 100.0},
        tall={"height": 76.0, "y": 81.4},
    )
    scene.move(water, "layer_opacity", "kick", 100.0, 92.0)
    common: dict[str, Any] = {
        "bands": 48,
        "mirror": True,
        "width": 100.0,
        "gap": 34.0,
        "least": 0.5,
        "paint": "along",
        "back": True,
        "low_hz": 40.0,
        "high_hz": 6000.0,
        "release_ms": 220.0,
        "colours": scene.ramp("4", "3", "1", "2"),
    }
    mirror = scene.add(
        "spectrum", "In the water", **common, grow="in", reach=20.0, y=62.2, opacity=34.0, tall={"y": 60.0}
    )
    scene.effect(mirror, "wave", amount=0.5, wavelength=5.0, angle=90.0, speed=0.6)
    scene.effect(mirror, "soft-blur", radius=0.3)
    bars = scene.add("spectrum", "Bars", **common, grow="out", reach=34.0, y=62.0, tall={"y": 60.0})
    scene.effect(bars, "glow", level=45.0, radius=1.6, gain=50.0)
    scene.move(bars, "reach", "kick", 0.96, 1.05, "multiply")
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=6.4,
        y=13.0,
        weight=560.0,
        plain=scene.colour("ink"),
        box_width=84.0,
        shadow=40.0,
        tall={"size": 6.6, "y": 19.5, "box_width": 76.0},
        enter="rise",
        each_s=0.8,
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=3.2,
        y=24.5,
        family="work-sans",
        weight=500.0,
        tracking=120.0,
        case="upper",
        plain=scene.colour("2"),
        tall={"size": 3.6, "y": 28.5},
        wide={"y": 21.5},
    )
    scene.finish(("vignette", {"amount": 40.0, "size": 55.0}), ("grain", {"amount": 4.0}))
    scene.open("title")
    scene.open("artist")
