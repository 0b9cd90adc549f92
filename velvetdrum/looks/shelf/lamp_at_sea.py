"""Lamp at sea: a cover in a ring of bars over slow water."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Lamp at sea",
    "A cover or logo in a ring of bars over slow water.",
    uses=("song",),
    pace="calm",
    family="Ring",
    colours=("#0d1224", "#f4eadb", "#ff7a66", "#f0b866", "#5fc4b4", "#a99bff"),
)
def lamp_at_sea(scene: LookScene) -> None:
    """Footage behind, a light that beats behind the ring, the logo on a disc."""
    scene.add(
        "backdrop",
        "Night",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=scene.ramp("#2a1f3d", "#141228", "ground"),
    )
    mist = scene.add(
        "haze", "Mist", scale=90.0, contrast=62.0, density=46.0, thick="#3b4d78", thin=scene.colour("ground"), speed=2.0
    )
    sea = scene.add(
        "footage",
        "Water",
        brightness=52.0,
        saturation=125.0,
        zoom=106.0,
        zoom_rate=12.0,
        speed=70.0,
        fade_in_s=0.6,
        fade_out_s=1.5,
    )
    scene.move(sea, "brightness", "kick", 0.0, 18.0, "add")
    lamp = scene.add(
        "group",
        "Lamp",
        move_y=-11.0,
        tall={"move_y": -9.0, "scale_x": 80.0, "scale_y": 80.0},
        scale_x=86.0,
        scale_y=86.0,
    )
    glow = scene.add(
        "flare",
        "Light",
        group=lamp,
        size=34.0,
        core=26.0,
        ring=0.0,
        streak=0.0,
        ghosts=0,
        colour=scene.colour("1"),
        blend="plus-lighter",
    )
    scene.move(glow, "gain", "kick", 22.0, 100.0)
    ring = scene.add(
        "spectrum",
        "Ring of bars",
        group=lamp,
        base="ring",
        grow="out",
        mirror=True,
        bands=56,
        radius=23.0,
        reach=16.0,
        gap=36.0,
        turn=180.0,
        least=0.7,
        paint="along",
        back=True,
        high_hz=4000.0,
        colours=scene.ramp("1", "2", "3", "4"),
        release_ms=210.0,
        from_at="sound",
        fade_in_s=0.2,
    )
    scene.move(ring, "radius", "kick", 1.0, 1.05, "multiply")
    scene.effect(ring, "glow", level=40.0, radius=1.8, gain=55.0)
    disc = scene.add("shape", "Disc", group=lamp, form="ellipse", width=40.0, height=40.0, plain=scene.colour("ink"))
    logo = scene.add("logo", "Logo", group=lamp, size=27.0, clear=0.0, pulse_by=8.0)
    scene.move(logo, "pulse", "kick", 0.0, 100.0)
    name = scene.add(
        "text",
        "Title inside",
        group=lamp,
        text="{title}",
        size=5.4,
        plain=scene.colour("ink"),
        box_width=38.0,
        leading=108.0,
    )
    way = scene.add(
        "whole-track",
        "Way",
        bars=120,
        y=83.0,
        width=56.0,
        reach=3.4,
        shows="peak",
        gap=46.0,
        paint="one",
        plain=scene.colour("2"),
        rest=scene.colour("ink"),
        rest_opacity=26.0,
        fade_in_s=1.0,
        tall={"y": 75.0, "width": 60.0},
        square={"y": 83.0, "width": 74.0},
    )
    title = scene.add(
        "text",
        "Title",
        text="{title}",
        size=4.2,
        y=77.5,
        plain=scene.colour("ink"),
        weight=560.0,
        box_width=70.0,
        shadow=50.0,
        tall={"y": 70.5, "size": 5.4},
        square={"y": 77.5},
    )
    scene.finish(("vignette", {"amount": 45.0, "size": 50.0}))
    scene.open("title")
    scene.open("cover", image=logo, beside=(disc, title), instead=(name,))
    scene.open("film", clip=sea, instead=(mist,))
    scene.move(way, "reach", "beat", 0.0, 1.0, "add")
