"""Double orbit: nested rings that turn against each other round the time that is left; drawn for tall frames."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Double orbit",
    "Three rings turn against each other round the time that is left.",
    uses=("song", "loop"),
    pace="lively",
    family="Ring",
    frame="tall",
    colours=("#120a1c", "#fff1e0", "#ff6a5a", "#ffc15a", "#59d0c0", "#9a7bff"),
)
def double_orbit(scene: LookScene) -> None:
    """Blocks outside, dots, a line within; each hears a part of its own."""
    ground = scene.add(
        "backdrop",
        "Ground",
        start_x=50.0,
        start_y=44.0,
        end_x=130.0,
        end_y=44.0,
        colours=scene.ramp("#3a1a3f", "#1f1030", "ground"),
    )
    scene.move(
        ground,
        "colours",
        "kick",
        scene.ramp("#2c1434", "#1a0d28", "ground"),
        scene.ramp("#6b2547", "#2b123a", "ground"),
    )
    haze = scene.add(
        "haze",
        "Haze",
        scale=120.0,
        contrast=40.0,
        density=26.0,
        thick=scene.colour("4"),
        thin=scene.colour("ground"),
        blend="screen",
    )
    scene.move(haze, "density", "overall", 12.0, 34.0)
    rings = scene.add(
        "group",
        "Rings",
        tall={"move_y": -10.0, "scale_x": 72.0, "scale_y": 72.0},
        square={"move_y": -12.0, "scale_x": 76.0, "scale_y": 76.0},
        wide={"move_y": -7.0, "scale_x": 90.0, "scale_y": 90.0},
    )
    outer = scene.add(
        "spectrum",
        "Outer blocks",
        group=rings,
        style="segments",
        segments=7,
        segment_gap=34.0,
        base="ring",
        grow="out",
        bands=48,
        mirror=True,
        radius=33.0,
        reach=13.0,
        gap=26.0,
        paint="level",
        colours=scene.ramp("1", "2", "ink"),
        low_hz=40.0,
        high_hz=2000.0,
    )
    middle = scene.add(
        "spectrum",
        "Middle dots",
        group=rings,
        style="dots",
        dot=1.0,
        base="ring",
        grow="both",
        bands=40,
        mirror=True,
        radius=26.0,
        reach=9.0,
        paint="along",
        back=True,
        colours=scene.ramp("3", "4"),
        low_hz=200.0,
        high_hz=5000.0,
    )
    inner = scene.add(
        "spectrum",
        "Inner line",
        group=rings,
        style="line",
        base="ring",
        grow="in",
        bands=32,
        mirror=True,
        radius=22.0,
        reach=3.4,
        line=0.5,
        copies=2,
        copy_size=95.0,
        copy_turn=24.0,
        copy_opacity=70.0,
        smooth=1.5,
        paint="along",
        back=True,
        colours=scene.ramp("2", "1"),
        high_hz=4000.0,
    )
    for ring, turns in ((outer, 360.0), (middle, -360.0), (inner, 360.0)):
        scene.move(ring, "turn", "bars", 0.0, turns)
    scene.move(outer, "radius", "kick", 1.0, 1.04, "multiply")
    scene.add(
        "text",
        "Timer",
        group=rings,
        text="{remaining m:ss}",
        size=8.0,
        family="work-sans",
        weight=600.0,
        plain=scene.colour("ink"),
    )
    scene.add(
        "progress",
        "Way",
        group=rings,
        base="ring",
        radius=17.6,
        stroke=0.9,
        plain=scene.colour("2"),
        ground_opacity=14.0,
        over="sound",
    )
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=6.2,
        y=70.5,
        weight=600.0,
        plain=scene.colour("ink"),
        box_width=70.0,
        leading=108.0,
        wide={"y": 72.0, "size": 4.4, "x": 13.0, "box_width": 22.0},
        square={"y": 76.5, "size": 3.8},
    )
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=3.8,
        y=77.0,
        family="work-sans",
        weight=500.0,
        plain=scene.colour("2"),
        wide={"y": 72.0, "x": 87.0, "size": 3.4, "box_width": 20.0},
        square={"y": 82.5, "size": 3.0},
        box_width=70.0,
    )
    glow = scene.effect(rings, "glow", level=35.0, radius=2.6, gain=45.0)
    scene.move(rings, glow("gain"), "beat", 25.0, 60.0)
    scene.finish(("vignette", {"amount": 50.0, "size": 55.0}), ("grain", {"amount": 4.0}))
    scene.open("title")
    scene.open("artist")
