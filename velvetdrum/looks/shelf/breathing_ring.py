"""Breathing ring: five lines of one ring that swell with the bass."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Breathing ring",
    "Five lines of light swell with the bass; nothing else.",
    uses=("song", "loop"),
    pace="calm",
    family="Ring",
    frame="square",
    colours=("#07131a", "#e8fff7", "#3fd0b0", "#7fe3ff", "#c7b6ff"),
)
def breathing_ring(scene: LookScene) -> None:
    """Copies of a smooth line, turned a little each, over a slow haze."""
    scene.add(
        "backdrop",
        "Deep",
        start_x=50.0,
        start_y=48.0,
        end_x=125.0,
        end_y=48.0,
        colours=scene.ramp("#12303a", "#0b1c25", "ground"),
    )
    scene.add(
        "haze",
        "Haze",
        scale=140.0,
        detail=3,
        contrast=30.0,
        density=20.0,
        thick="#1f6d74",
        thin=scene.colour("ground"),
        speed=1.5,
    )
    line = scene.add(
        "spectrum",
        "Lines",
        style="line",
        base="ring",
        grow="out",
        mirror=True,
        bands=24,
        low_hz=30.0,
        high_hz=300.0,
        radius=13.0,
        reach=7.0,
        line=0.42,
        smooth=2.0,
        copies=5,
        copy_size=116.0,
        copy_turn=60.0,
        copy_opacity=84.0,
        paint="along",
        back=True,
        drift=4.0,
        colours=scene.ramp("1", "2", "3"),
        attack_ms=60.0,
        release_ms=420.0,
        tall={"y": 42.0},
        y=42.0,
    )
    scene.move(line, "radius", "bass", 11.5, 14.5)
    heart = scene.add(
        "flare",
        "Heart",
        size=9.0,
        core=70.0,
        ring=0.0,
        streak=0.0,
        ghosts=0,
        colour=scene.colour("2"),
        blend="plus-lighter",
        tall={"y": 42.0},
        y=42.0,
    )
    scene.move(heart, "gain", "overall", 20.0, 110.0)
    scene.add(
        "text",
        "Title",
        text="{title}",
        size=3.6,
        y=81.0,
        family="work-sans",
        weight=400.0,
        tracking=220.0,
        case="upper",
        plain=scene.colour("ink"),
        opacity=80.0,
        enter="fade",
        each_s=1.2,
        box_width=86.0,
        tall={"y": 74.0, "size": 4.2, "box_width": 68.0},
    )
    scene.finish(("glow", {"level": 18.0, "radius": 2.4, "gain": 80.0}), ("vignette", {"amount": 55.0, "size": 48.0}))
    scene.open("title")
