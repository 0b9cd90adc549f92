"""Tasks for worker processes that end badly, as a damaged file may make them."""

import os
import time


def die(*values):
    os.kill(os.getpid(), 9)


def sleep(source, folder, key, notes):
    for _ in range(600):
        if os.path.exists(notes + ".cancel"):
            from velvetdrum.audio.errors import Cancelled

            raise Cancelled
        time.sleep(0.05)
