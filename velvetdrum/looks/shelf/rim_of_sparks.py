"""Rim of sparks: a ring that throws sparks with the kick, seen by a camera that circles it."""

from velvetdrum.looks.shelf_look import LookScene, look
from velvetdrum.picture.figures.emission.designs import drawn


@look(
    "Rim of sparks",
    "A ring throws sparks with every kick while the camera circles it.",
    uses=("song", "loop"),
    pace="lively",
    family="Particles",
    colours=("#08060e", "#fff3dc", "#ff5a5f", "#ffb24d", "#a78bff", "#59d8ff"),
)
def rim_of_sparks(scene: LookScene) -> None:
    """Hard colours near, fine dust on the ring, what is far out of focus."""
    ground = scene.add(
        "backdrop",
        "Glow",
        start_x=50.0,
        start_y=50.0,
        end_x=112.0,
        end_y=62.0,
        colours=scene.ramp("#2e1236", "#150b22", "ground"),
    )
    scene.move(
        ground,
        "colours",
        "kick",
        scene.ramp("#2a1032", "#150b22", "ground"),
        scene.ramp("#6b2148", "#241033", "ground"),
    )
    space = scene.add(
        "space",
        "Camera",
        view=60.0,
        elevation=20.0,
        aperture=2.4,
        distance=92.0,
        fog_from=110.0,
        fog_to=330.0,
        fog_colour=scene.colour("ground"),
    )
    scene.move(space, "orbit", "lead", -38.0, 34.0)
    dust = scene.add(
        "particles",
        "Dust",
        group=space,
        radius=18.0,
        rate=320.0,
        speed=3.0,
        speed_spread=100.0,
        life=1.6,
        dot=0.5,
        heading="any",
        stray_z=100.0,
        colours=scene.ramp("ink", "2"),
    )
    scene.move(dust, "dot", "shimmer", 0.4, 1.2)
    sparks = scene.add(
        "particles",
        "Sparks",
        group=space,
        radius=18.0,
        rate=200.0,
        speed=26.0,
        drag=1.1,
        life=2.4,
        dot=1.4,
        stray_z=80.0,
        wander=7.0,
        curl_size=30.0,
        by="seed",
        hard=True,
        colours=scene.ramp("ink", "2", "1", "3", "4"),
        size_life=drawn((0, 30), (0.12, 100), (0.6, 80), (1, 10)),
        opacity_life=drawn((0, 0), (0.05, 100), (0.5, 90), (1, 0)),
    )
    scene.move(sparks, "rate", "kick", 70.0, 900.0)
    scene.move(sparks, "speed", "kick", 12.0, 72.0)
    scene.move(sparks, "orbit", "lead", 6.0, 26.0)
    hoop = scene.add(
        "shape", "Hoop", group=space, form="ring", radius=18.3, hole=97.4, plain=scene.colour("2"), blend="plus-lighter"
    )
    scene.move(hoop, "layer_opacity", "beat", 18.0, 100.0)
    logo = scene.add("logo", "Logo", size=22.0, clear=0.0, pulse_by=10.0)
    scene.move(logo, "pulse", "kick", 0.0, 100.0)
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=4.4,
        y=80.0,
        family="work-sans",
        weight=600.0,
        plain=scene.colour("ink"),
        tall={"y": 71.0, "size": 5.4, "box_width": 66.0},
        plate="lines",
        plate_colour=scene.colour("ground"),
        plate_opacity=62.0,
        plate_pad=42.0,
        box_width=86.0,
    )
    scene.finish(
        ("glow", {"level": 10.0, "radius": 3.6, "gain": 42.0}),
        ("vignette", {"amount": 50.0, "size": 52.0}),
        ("grain", {"amount": 4.0}),
    )
    scene.open("title")
    scene.open("cover", image=logo)
