"""How far work is, told through a file; and how it is stopped."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from velvetdrum.audio.errors import Cancelled


def teller(notes: str) -> Callable[[float], None]:
    """Writes a share to the file `notes` a few times a second; raises Cancelled when `notes` + ".cancel" appears."""
    told, stop = Path(notes), Path(notes + ".cancel")
    last = 0.0

    def progress(share: float) -> None:
        nonlocal last
        if stop.exists():
            raise Cancelled
        if time.monotonic() - last > 0.2:
            last = time.monotonic()
            told.write_text(f"{share:.4f}")

    return progress
