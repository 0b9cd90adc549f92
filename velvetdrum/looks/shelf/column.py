"""Column: footage with a row of bars across its foot and a large title; drawn for tall frames."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Column",
    "Your footage, a large title, fine bars across the foot.",
    uses=("song", "loop"),
    pace="lively",
    family="Footage",
    frame="tall",
    colours=("#0b0f16", "#ffffff", "#ffd166", "#ff6f59", "#43bccd"),
)
def column(scene: LookScene) -> None:
    """The picture fills the frame and darkens toward the foot, where the bars stand."""
    scene.add(
        "backdrop",
        "Ground",
        fill="linear",
        start_x=20.0,
        start_y=0.0,
        end_x=80.0,
        end_y=100.0,
        colours=scene.ramp("#28344a", "#151c2b", "ground"),
    )
    haze = scene.add(
        "haze",
        "Haze",
        scale=90.0,
        contrast=70.0,
        density=60.0,
        thick=scene.colour("3"),
        thin=scene.colour("ground"),
        speed=3.0,
    )
    film = scene.add("footage", "Footage", brightness=82.0, contrast=108.0, zoom=104.0, zoom_rate=10.0)
    scene.move(film, "brightness", "kick", 0.0, 12.0, "add")
    scene.add(
        "backdrop",
        "Dark foot",
        fill="linear",
        start_x=50.0,
        start_y=35.0,
        end_x=50.0,
        end_y=80.0,
        colours=scene.ramp("#ffffff", "#10141d"),
        blend="multiply",
    )
    bars = scene.add(
        "spectrum",
        "Bars",
        bands=64,
        mirror=True,
        y=74.0,
        width=86.0,
        reach=26.0,
        grow="out",
        gap=46.0,
        least=0.4,
        paint="along",
        colours=scene.ramp("3", "2", "1"),
        back=True,
        high_hz=8000.0,
        release_ms=180.0,
        wide={"y": 86.0, "reach": 22.0, "width": 70.0},
        square={"y": 84.0, "reach": 24.0},
    )
    scene.effect(bars, "glow", level=45.0, radius=1.2, gain=45.0)
    scene.move(bars, "reach", "kick", 0.95, 1.06, "multiply")
    title = scene.add(
        "text",
        "Title",
        text="{title}",
        family="roboto-condensed",
        weight=900.0,
        case="upper",
        size=10.0,
        leading=98.0,
        y=30.0,
        plain=scene.colour("ink"),
        box_width=70.0,
        shadow=40.0,
        enter="rise",
        each_s=0.6,
        wide={"size": 10.0, "y": 40.0, "box_width": 84.0},
        square={"size": 10.0, "y": 38.0, "box_width": 84.0},
    )
    scene.move(title, "tracking", "beat", 0.0, 14.0, "add")
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        family="work-sans",
        weight=500.0,
        size=4.0,
        y=49.5,
        plain=scene.colour("1"),
        shadow=40.0,
        wide={"y": 60.0, "size": 3.8},
        square={"y": 59.0},
        box_width=70.0,
    )
    scene.add(
        "progress",
        "Way",
        y=75.4,
        width=86.0,
        stroke=0.5,
        plain=scene.colour("ink"),
        ground_opacity=20.0,
        over="sound",
        wide={"y": 88.5, "width": 70.0},
        square={"y": 86.0},
    )
    scene.finish(("grain", {"amount": 4.0}))
    scene.open("title", optional=False)
    scene.open("artist")
    scene.open("film", clip=film, instead=(haze,))
