"""Halo: hairlines round a cover, in colours that run round it, with its own shadow at twice the size."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Halo",
    "Two hundred hairlines round a cover, in colours that wander.",
    uses=("song", "loop"),
    pace="lively",
    family="Ring",
    frame="square",
    colours=("#0b0d14", "#f3f6ff", "#ff5d8f", "#ffb84d", "#4de1c1", "#6f7bff"),
)
def halo(scene: LookScene) -> None:
    """Fine lines out and in, a ghost of all of it behind, a thin progress ring."""
    scene.add(
        "backdrop",
        "Ground",
        start_x=50.0,
        start_y=50.0,
        end_x=120.0,
        end_y=50.0,
        colours=scene.ramp("#1b1f33", "#10131f", "ground"),
    )
    dust = scene.add(
        "particles",
        "Dust",
        base="ring",
        radius=30.0,
        inside=True,
        rate=26.0,
        speed=5.0,
        life=6.0,
        dot=0.4,
        heading="any",
        opacity=55.0,
        colours=scene.ramp("ink", "3"),
        tall={"y": 42.0},
        y=40.0,
        wide={"y": 43.0},
    )
    scene.move(dust, "rate", "shimmer", 8.0, 110.0)
    halo_ = scene.add(
        "group",
        "Halo",
        tall={"move_y": -8.0, "scale_x": 74.0, "scale_y": 74.0},
        move_y=-10.0,
        scale_x=78.0,
        scale_y=78.0,
        wide={"move_y": -7.0},
    )
    lines = scene.add(
        "spectrum",
        "Hairlines",
        group=halo_,
        style="hairlines",
        base="ring",
        grow="out",
        mirror=True,
        bands=100,
        radius=24.0,
        reach=19.0,
        line=0.34,
        turn=90.0,
        least=1.0,
        paint="along",
        back=True,
        hue_drift=12.0,
        colours=scene.ramp("1", "2", "3", "4"),
        release_ms=180.0,
        smooth=1.2,
    )
    scene.move(lines, "radius", "bass", 0.98, 1.06, "multiply")
    inner = scene.add(
        "spectrum",
        "Inner line",
        group=halo_,
        style="line",
        base="ring",
        grow="in",
        mirror=True,
        bands=40,
        radius=22.6,
        reach=5.0,
        line=0.3,
        high_hz=2000.0,
        paint="one",
        plain=scene.colour("ink"),
        opacity=60.0,
        turn=90.0,
        smooth=2.0,
    )
    scene.move(inner, "reach", "lead", 2.0, 8.0)
    disc = scene.add("shape", "Disc", group=halo_, form="ellipse", width=33.0, height=33.0, plain=scene.colour("ink"))
    cover = scene.add("logo", "Cover", group=halo_, size=23.0, clear=0.0, pulse_by=6.0)
    scene.move(cover, "pulse", "kick", 0.0, 100.0)
    name = scene.add(
        "text",
        "Title inside",
        group=halo_,
        text="{title}",
        size=5.0,
        family="inter",
        weight=700.0,
        plain=scene.colour("ink"),
        box_width=32.0,
        leading=112.0,
    )
    ghost = scene.add(
        "instance",
        "Ghost",
        source=lines["id"],
        scale_x=240.0,
        scale_y=240.0,
        layer_opacity=9.0,
        blend="plus-lighter",
        tall={"move_y": -8.0},
        move_y=-10.0,
        wide={"move_y": -7.0},
    )
    scene.effect(ghost, "soft-blur", radius=1.4)
    scene.layers.insert(1, scene.layers.pop())
    scene.add(
        "progress",
        "Way",
        base="ring",
        radius=36.5,
        stroke=0.4,
        plain=scene.colour("ink"),
        ground_opacity=10.0,
        over="sound",
        tall={"y": 42.0, "radius": 34.0},
        y=40.0,
        wide={"y": 43.0},
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=3.4,
        family="inter",
        weight=500.0,
        tracking=120.0,
        case="upper",
        y=81.5,
        plain=scene.colour("ink"),
        opacity=85.0,
        wide={"y": 80.0, "x": 14.0, "box_width": 24.0},
        tall={"y": 74.5, "size": 3.8, "box_width": 70.0},
    )
    glow = scene.finish(
        ("glow", {"level": 40.0, "radius": 2.4, "gain": 70.0}), ("vignette", {"amount": 40.0, "size": 55.0})
    )
    scene.move(glow, f"effect:{glow['effects'][0]['id']}:gain", "kick", 40.0, 120.0)
    scene.open("title")
    scene.open("artist")
    scene.open("cover", image=cover, beside=(disc,), instead=(name,))
