"""Rising lanterns: soft lights go up through the dark; drawn for tall frames."""

from typing import Any

from velvetdrum.looks.shelf_look import LookScene, look
from velvetdrum.picture.figures.emission.designs import drawn


@look(
    "Rising lanterns",
    "Soft lights rise through the dark, more of them as it swells.",
    uses=("song", "loop"),
    pace="calm",
    family="Particles",
    frame="tall",
    colours=("#0a0d1f", "#ffeccf", "#ffb45e", "#ff7d6b", "#7f8cff"),
)
def rising_lanterns(scene: LookScene) -> None:
    """Large and near, small and far; a title in the middle of them."""
    sky = scene.add(
        "backdrop",
        "Sky",
        fill="linear",
        start_x=50.0,
        start_y=100.0,
        end_x=50.0,
        end_y=0.0,
        colours=scene.ramp("#4a2748", "#1e1838", "ground"),
    )
    scene.move(
        sky,
        "colours",
        "overall",
        scene.ramp("#3a2040", "#191531", "ground"),
        scene.ramp("#7a3a50", "#2c2148", "ground"),
    )
    film = scene.add("footage", "Footage", brightness=46.0, saturation=90.0, zoom=104.0, zoom_rate=8.0, fade_in_s=0.6)
    scene.move(film, "brightness", "overall", 34.0, 58.0)
    space = scene.add(
        "space", "Camera", view=46.0, aperture=2.6, distance=90.0, fog_from=100.0, fog_to=320.0, fog_colour="#1e1838"
    )
    scene.move(space, "orbit", "lead", -5.0, 5.0)
    common: dict[str, Any] = {
        "base": "line",
        "width": 150.0,
        "y": 118.0,
        "heading": "fixed",
        "spread": 16.0,
        "form": "soft",
        "wander": 8.0,
        "curl_size": 60.0,
        "by": "seed",
        "stray_z": 100.0,
        "drag": 0.1,
        "size_life": drawn((0, 40), (0.2, 100), (0.8, 90), (1, 50)),
        "opacity_life": drawn((0, 0), (0.15, 90), (0.8, 80), (1, 0)),
        "colours": scene.ramp("1", "2", "ink"),
    }
    far = scene.add("particles", "Far", group=space, **common, rate=22.0, speed=13.0, life=11.0, dot=1.6)
    near = scene.add("particles", "Near", group=space, **{**common, "seed": 5}, rate=5.0, speed=20.0, life=8.0, dot=5.0)
    scene.move(far, "rate", "lead", 8.0, 60.0)
    scene.move(near, "rate", "kick", 1.0, 14.0)
    scene.move(near, "dot", "kick", 4.2, 6.4)
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=10.0,
        y=33.0,
        weight=560.0,
        leading=106.0,
        plain=scene.colour("ink"),
        box_width=74.0,
        enter="blur",
        each_s=1.0,
        shadow=55.0,
        wide={"y": 42.0, "size": 9.0, "box_width": 84.0},
        square={"y": 40.0, "size": 9.0, "box_width": 84.0},
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=4.2,
        y=50.0,
        family="work-sans",
        weight=500.0,
        plain=scene.colour("1"),
        enter="fade",
        each_s=1.0,
        wide={"y": 62.0, "size": 3.6},
        square={"y": 62.0, "size": 3.8},
        box_width=70.0,
        plate="lines",
        plate_colour=scene.colour("ground"),
        plate_opacity=60.0,
        plate_pad=45.0,
    )
    bars = scene.add(
        "spectrum",
        "Fine bars",
        bands=50,
        mirror=True,
        y=71.0,
        width=62.0,
        reach=8.0,
        gap=70.0,
        paint="one",
        plain=scene.colour("ink"),
        opacity=70.0,
        high_hz=6000.0,
        wide={"y": 86.0, "width": 50.0},
        square={"y": 86.0},
    )
    scene.move(bars, "opacity", "overall", 30.0, 90.0)
    scene.finish(("glow", {"level": 25.0, "radius": 2.6, "gain": 45.0}), ("vignette", {"amount": 45.0, "size": 55.0}))
    scene.open("title")
    scene.open("artist")
    scene.open("film", clip=film)
