"""Glass bay: lenses of glass over colours in hard steps."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Glass bay",
    "Two lenses of glass bend slow fields of colour.",
    uses=("loop", "song"),
    pace="calm",
    family="Glass",
    frame="square",
    colours=("#10131f", "#fff6e8", "#1d3b5f", "#2f8f9d", "#f2c078", "#e4572e"),
)
def glass_bay(scene: LookScene) -> None:
    """Haze in steps of six colours, mirrored; rings of glass that widen with lead and kick."""
    haze = scene.add(
        "haze",
        "Fields",
        scale=110.0,
        detail=3,
        contrast=64.0,
        speed=3.0,
        boil=0.1,
        thick="#f2f2f2",
        thin="#050505",
        density=100.0,
        veil=100.0,
    )
    scene.effect(haze, "gradient-map", stepped=True, colours=scene.ramp("ground", "1", "2", "ink", "3", "4"))
    scene.effect(haze, "soft-blur", radius=0.15)
    for name, radius, width, role, way in (
        ("Great lens", 32.0, 11.0, "lead", 1),
        ("Small lens", 14.0, 9.0, "kick", -1),
    ):
        ring = scene.add("shape", name, form="ring", radius=radius + width / 2, hole=60.0)
        glass = scene.effect(
            ring,
            "glass-ring",
            under="behind",
            radius=radius,
            width=width,
            bend=64.0,
            facets=0,
            dispersion=0.0,
            softness=0.3,
        )
        scene.effect(ring, "shadow", distance=0.6, softness=1.6, solid=50.0)
        scene.move(ring, glass("radius"), role, radius - 1.6, radius + 2.4)
        scene.move(ring, glass("turn"), "bars", 0.0, 360.0 * way)
        rim = scene.add(
            "shape",
            f"{name}, rim",
            form="ring",
            radius=radius + width / 2,
            hole=97.8,
            plain=scene.colour("ink"),
            layer_opacity=75.0,
        )
        scene.move(rim, "radius", role, radius + width / 2 - 1.6, radius + width / 2 + 2.4)
    title = scene.add(
        "text",
        "Title",
        text="{title}",
        size=4.2,
        y=80.5,
        family="work-sans",
        weight=600.0,
        plain=scene.colour("ink"),
        box_width=86.0,
        plate="lines",
        plate_colour=scene.colour("ground"),
        plate_opacity=78.0,
        plate_pad=40.0,
        tall={"y": 71.0, "size": 4.0, "box_width": 66.0},
    )
    scene.move(title, "plate_opacity", "beat", 70.0, 86.0)
    finish = scene.finish(
        ("pump", {"quiet": -0.4, "loud": 0.2, "black": 3.0, "white": 97.0}),
        ("vignette", {"amount": 50.0, "size": 46.0}),
        ("grain", {"amount": 6.0}),
    )
    scene.move(finish, f"effect:{finish['effects'][0]['id']}:amount", "lead", 20.0, 100.0)
    scene.open("title")
