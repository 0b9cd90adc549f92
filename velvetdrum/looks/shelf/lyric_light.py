"""Lyric light: lines that fill with light as they are sung."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Lyric light",
    "Lines fill with light as they are sung, over a sky that breathes.",
    uses=("song",),
    pace="calm",
    family="Type",
    colours=("#0d0b1e", "#fbeee0", "#ffc46b", "#ff6f91", "#5d5fef"),
)
def lyric_light(scene: LookScene) -> None:
    """Type alone: a gradient, the lines, a thin way through the song."""
    sky = scene.add(
        "backdrop",
        "Sky",
        fill="linear",
        start_x=30.0,
        start_y=0.0,
        end_x=70.0,
        end_y=100.0,
        colours=scene.ramp("#2a2260", "#3d1d4f", "ground"),
    )
    scene.move(
        sky,
        "colours",
        "overall",
        scene.ramp("#1f1a4c", "#2c1640", "ground"),
        scene.ramp("#4a3aa0", "#7a2f66", "#1c1030"),
    )
    film = scene.add("footage", "Footage", brightness=46.0, saturation=90.0, zoom=104.0, zoom_rate=8.0, fade_in_s=0.6)
    scene.move(film, "brightness", "overall", 34.0, 58.0)
    scene.add(
        "haze",
        "Haze",
        scale=150.0,
        contrast=36.0,
        density=22.0,
        thick=scene.colour("2"),
        thin=scene.colour("ground"),
        speed=1.5,
        blend="screen",
    )
    title = scene.add(
        "text",
        "Title",
        text="{title}\n{artist}",
        size=9.6,
        y=46.0,
        weight=600.0,
        leading=116.0,
        plain=scene.colour("ink"),
        enter="blur",
        leave="fade",
        each_s=0.9,
        to_at="time",
        to_s=4.0,
        box_width=84.0,
        shadow=50.0,
        tall={"y": 38.0, "size": 8.0, "box_width": 70.0},
    )
    whole = scene.add(
        "text",
        "Title, all of it",
        text="{title}",
        size=11.0,
        y=44.0,
        weight=600.0,
        leading=110.0,
        plain=scene.colour("ink"),
        enter="blur",
        each_s=1.2,
        box_width=84.0,
        shadow=50.0,
        tall={"y": 38.0, "size": 10.0, "box_width": 70.0},
    )
    scene.move(whole, "weight", "lead", 0.0, 140.0, "add")
    lyric = scene.add(
        "lyrics",
        "Lyric",
        style="pair",
        highlight="sweep",
        highlight_colour=scene.colour("1"),
        size=11.0,
        weight=620.0,
        y=46.0,
        box_width=82.0,
        enter="rise",
        leave="fade",
        parts="word",
        each_s=0.4,
        stagger_s=0.06,
        plain=scene.colour("ink"),
        from_at="time",
        from_s=4.0,
        fainter=44.0,
        shadow=50.0,
        tall={"size": 10.6, "y": 40.0, "rows": 3, "box_width": 68.0},
        square={"size": 10.0},
    )
    scene.move(lyric, "weight", "lead", 0.0, 120.0, "add")
    way = scene.add(
        "spectrum",
        "Fine bars",
        bands=80,
        mirror=True,
        y=93.0,
        width=100.0,
        reach=9.0,
        grow="out",
        gap=74.0,
        paint="along",
        colours=scene.ramp("3", "2", "1"),
        back=True,
        opacity=70.0,
        high_hz=8000.0,
        tall={"y": 73.0},
    )
    scene.move(way, "opacity", "overall", 40.0, 90.0)
    scene.finish(("vignette", {"amount": 40.0, "size": 52.0}), ("grain", {"amount": 4.0}))
    scene.open("title", optional=False)
    scene.open("artist")
    scene.open("words", beside=(lyric, title), instead=(whole,))
    scene.open("film", clip=film)
