"""Paper layers: filled ridges like torn paper, one behind the other; drawn for tall frames."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Paper layers",
    "Torn paper hills, each a moment of the music, behind a title.",
    uses=("song", "loop"),
    pace="calm",
    family="Ridges",
    frame="tall",
    colours=("#2b1a2e", "#fff4e2", "#f2a65a", "#d9596a", "#6a4c93", "#1982a0"),
)
def paper_layers(scene: LookScene) -> None:
    """Areas stand on rows from the back to the front, each with a shadow, each hearing another part."""
    sky = scene.add(
        "backdrop",
        "Sky",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=70.0,
        colours=scene.ramp("#f7d9a8", "#f0a878", "#c96a6e"),
    )
    scene.move(
        sky,
        "colours",
        "overall",
        scene.ramp("#efcf9f", "#e39a70", "#b85f68"),
        scene.ramp("#fff0c0", "#ffbb82", "#e0757a"),
    )
    sun = scene.add("shape", "Sun", form="ellipse", width=30.0, height=30.0, x=78.0, y=33.0, plain="#fff3d0")
    scene.move(sun, "y", "overall", 36.0, 29.0)
    rows = (
        ("Far", 52.0, "2", 40.0, 400.0, 15.0, "kick"),
        ("Middle", 60.0, "3", 150.0, 2000.0, 16.0, "lead"),
        ("Near", 69.0, "4", 400.0, 6000.0, 15.0, "lead"),
        ("Nearest", 79.0, "ground", 40.0, 1200.0, 14.0, "bass"),
    )
    for number, (name, y, colour, low, high, reach, role) in enumerate(rows):
        paper = scene.add(
            "spectrum",
            f"{name} paper",
            style="area",
            bands=18,
            low_hz=low,
            high_hz=high,
            width=112.0,
            y=y,
            grow="out",
            reach=reach,
            smooth=2.2,
            mirror=number % 2 == 0,
            reverse=number == 3,
            paint="one",
            plain=scene.colour(colour),
            least=2.0,
            attack_ms=50.0,
            release_ms=420.0,
        )
        scene.add(
            "shape",
            f"{name} foot",
            form="rectangle",
            width=300.0,
            height=120.0,
            y=y,
            plain=scene.colour(colour),
            wide={"height": 100.0 - y, "y": y + (100.0 - y) / 2},
            square={"height": 100.0 - y, "y": y + (100.0 - y) / 2},
            tall={"height": (100.0 - y) * 16 / 9, "y": y + (100.0 - y) / 2},
        )
        scene.effect(paper, "shadow", distance=0.6, angle=-90.0, softness=1.4, solid=45.0)
        scene.move(paper, "reach", role, 0.9, 1.12, "multiply")
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=7.4,
        y=20.0,
        weight=640.0,
        leading=104.0,
        plain=scene.colour("ground"),
        box_width=84.0,
        enter="rise",
        each_s=0.7,
        wide={"size": 8.0, "y": 14.0},
        square={"size": 7.0, "y": 13.5},
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=4.0,
        y=30.0,
        family="work-sans",
        weight=600.0,
        plain=scene.colour("ground"),
        wide={"size": 3.4, "y": 27.0},
        square={"size": 3.6, "y": 26.0},
    )
    scene.finish(("grain", {"amount": 6.0}), ("vignette", {"amount": 18.0, "size": 70.0}))
    scene.open("title")
    scene.open("artist")
