"""Tasks for worker processes that end badly, as a damaged file may make them."""

import os
import time
from pathlib import Path


def die(*values):
    os.kill(os.getpid(), 9)


def sleep(source, folder, key, notes, opening=""):
    for _ in range(600):
        if os.path.exists(notes + ".cancel"):
            from velvetdrum.audio.errors import Cancelled

            raise Cancelled
        time.sleep(0.05)


def slow_analysis(source, folder, key, notes, opening=""):
    """An analysis that takes long enough to be killed in the middle."""
    from velvetdrum.studio.workers.tasks import analyse_sound

    time.sleep(1.0)
    return analyse_sound(source, folder, key, notes)


def dies_on_odd_sizes(source, folder, key, notes, opening=""):
    from velvetdrum.studio.workers.tasks import analyse_sound

    if Path(source).stat().st_size % 2:
        die()
    return analyse_sound(source, folder, key, notes)


def draw_for_ever(scene, sources, frames, width, form):
    """A drawing whose second layer dies, as one does that runs over its time where nothing else comes to turn."""
    from velvetdrum.picture.frame import render
    from velvetdrum.studio.workers.scenes import document_of

    layers = document_of(scene)["layers"]
    for layer in layers:
        for note in render._WATCHERS.get():
            note(layer["id"])
        if layer is layers[1]:
            die()
    return b""
