"""Whole way: the whole of the recording as a ring that fills."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Whole way",
    "All of the recording as a ring that fills as it plays.",
    uses=("voice", "song"),
    pace="calm",
    family="Whole track",
    frame="square",
    colours=("#16202a", "#f3f0e8", "#ffb703", "#fb8500", "#8ecae6"),
)
def whole_way(scene: LookScene) -> None:
    """A cover or a name in the middle, the time beside it."""
    ground = scene.add(
        "backdrop",
        "Ground",
        start_x=50.0,
        start_y=42.0,
        end_x=120.0,
        end_y=42.0,
        colours=scene.ramp("#2b4152", "#1d2b38", "ground"),
    )
    scene.move(ground, "end_x", "overall", 106.0, 136.0)
    scene.add(
        "haze",
        "Haze",
        scale=130.0,
        contrast=30.0,
        density=10.0,
        thick=scene.colour("3"),
        thin=scene.colour("ground"),
        speed=1.0,
    )
    ring = scene.add(
        "whole-track",
        "Ring",
        base="ring",
        bars=150,
        radius=20.0,
        reach=10.0,
        gap=40.0,
        y=33.0,
        shows="peak",
        paint="along",
        back=True,
        colours=scene.ramp("2", "1"),
        rest=scene.colour("ink"),
        rest_opacity=20.0,
        wide={"y": 44.0, "radius": 26.0, "reach": 13.0},
        tall={"y": 45.0, "radius": 17.0, "reach": 8.0},
    )
    scene.move(ring, "reach", "kick", 1.0, 1.05, "multiply")
    disc = scene.add(
        "shape",
        "Disc",
        form="ellipse",
        width=28.0,
        height=28.0,
        y=33.0,
        plain=scene.colour("ink"),
        wide={"y": 44.0, "width": 36.0, "height": 36.0},
        tall={"y": 45.0, "width": 24.0, "height": 24.0},
    )
    cover = scene.add(
        "logo",
        "Cover",
        size=19.0,
        y=33.0,
        clear=0.0,
        pulse_by=4.0,
        wide={"y": 44.0, "size": 25.0},
        tall={"y": 45.0, "size": 16.0},
    )
    scene.move(cover, "pulse", "voice", 0.0, 100.0)
    inside = scene.add(
        "text",
        "Remaining",
        text="{remaining m:ss}",
        size=8.0,
        y=33.0,
        family="work-sans",
        weight=600.0,
        plain=scene.colour("ink"),
        wide={"y": 44.0},
        tall={"y": 45.0, "size": 6.0},
    )
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=5.0,
        y=76.5,
        weight=600.0,
        plain=scene.colour("ink"),
        box_width=88.0,
        wide={"x": 83.0, "y": 38.0, "box_width": 27.0, "size": 5.4},
        tall={"y": 17.0, "size": 5.0, "box_width": 78.0},
    )
    scene.add(
        "text",
        "Who",
        text="{artist}",
        size=3.4,
        y=82.5,
        family="work-sans",
        weight=500.0,
        plain=scene.colour("1"),
        box_width=88.0,
        wide={"x": 83.0, "y": 58.0, "box_width": 26.0},
        tall={"y": 23.0, "size": 3.6, "box_width": 78.0},
    )
    captions = scene.add(
        "captions",
        "Words",
        family="work-sans",
        size=4.2,
        place="free",
        y=68.0,
        plate="none",
        shadow=60.0,
        highlight="word",
        highlight_colour=scene.colour("1"),
        tall={"y": 71.0, "size": 5.0, "box_width": 68.0},
        wide={"x": 17.0, "y": 44.0, "box_width": 27.0, "rows": 5},
    )
    scene.finish(("vignette", {"amount": 35.0, "size": 60.0}), ("grain", {"amount": 3.0}))
    scene.open("title")
    scene.open("artist")
    scene.open("cover", image=cover, beside=(disc,), instead=(inside,))
    scene.open("words", beside=(captions,))
