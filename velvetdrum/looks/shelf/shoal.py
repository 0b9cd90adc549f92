"""Shoal: a field of dots that the sound pushes about; drawn for tall frames."""

from velvetdrum.looks.shelf_look import LookScene, look


@look(
    "Shoal",
    "A shoal of dots is pushed apart by the sound.",
    uses=("song", "loop"),
    pace="lively",
    family="Field",
    frame="tall",
    colours=("#03131c", "#eafff2", "#2fb8a6", "#8ff0c8", "#ffe98a"),
)
def shoal(scene: LookScene) -> None:
    """The lead swells a ball in the middle, the kick stirs the flow, shimmer makes dots bright."""
    scene.add(
        "backdrop",
        "Deep",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=scene.ramp("#0e4257", "#082a3a", "ground"),
    )
    space = scene.add("space", "Camera", view=46.0, aperture=1.2, fog_from=95.0, fog_to=240.0, fog_colour="#041a24")
    scene.move(space, "orbit", "lead", -7.0, 7.0)
    field = scene.add(
        "dot-field",
        "Shoal",
        group=space,
        columns=34,
        rows=34,
        layers=2,
        high=190.0,
        deep=80.0,
        dot=0.5,
        scatter=85.0,
        rise=5.0,
        flow_amount=5.0,
        flow_scale=44.0,
        flow_speed=6.0,
        flow_detail=3,
        ball=12.0,
        ball_strength=130.0,
        by="moved",
        swell=150.0,
        colours=scene.ramp("1", "2", "ink", "3"),
        opacity=80.0,
    )
    scene.move(field, "ball", "lead", 8.0, 32.0)
    scene.move(field, "flow_amount", "kick", 3.0, 11.0)
    scene.move(field, "dot", "shimmer", 0.42, 0.8)
    title = scene.add(
        "text",
        "Title",
        text="{title}",
        size=8.0,
        y=36.0,
        family="nunito",
        weight=800.0,
        plain=scene.colour("ink"),
        box_width=68.0,
        leading=128.0,
        plate="lines",
        plate_colour=scene.colour("ground"),
        plate_opacity=66.0,
        plate_pad=40.0,
        wide={"y": 46.0, "size": 7.0},
        square={"y": 46.0},
    )
    scene.move(title, "size", "beat", 0.0, 0.4, "add")
    scene.add(
        "text",
        "Artist",
        text="{artist}",
        size=3.8,
        y=72.0,
        family="nunito",
        weight=700.0,
        tracking=80.0,
        plain=scene.colour("3"),
        plate="lines",
        plate_colour=scene.colour("ground"),
        plate_opacity=66.0,
        plate_pad=50.0,
        wide={"y": 80.0, "size": 3.2},
        square={"y": 80.0},
        box_width=66.0,
    )
    scene.finish(("glow", {"level": 24.0, "radius": 2.6, "gain": 70.0}), ("vignette", {"amount": 50.0, "size": 48.0}))
    scene.open("title")
    scene.open("artist")
