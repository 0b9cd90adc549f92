"""Pictures of frames that were drawn last. A frame is a pure function of its scene, so a loop that is played again, or
a place that is come back to, is shown without drawing it anew."""

from __future__ import annotations

import struct
from base64 import b64encode
from collections.abc import Callable, Sequence
from typing import Any

from velvetdrum.deliver.export import Sources
from velvetdrum.limits.cache import Kept

MOST_BYTES = 96_000_000
"""A minute and more of pictures at the width of the page's own."""


class DrawnFrames:
    """Encoded pictures by scene, media, number, width and form, as many as fit. Safe for several threads."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._kept = Kept(most_bytes)

    def packed(
        self,
        scene: str,
        sources: Sources | None,
        numbers: Sequence[int],
        width: int,
        form: str,
        draw: Callable[[list[int]], bytes],
    ) -> bytes:
        """Pictures of a scene, by its name, as `tasks.draw_frames` packs them. `draw` is asked, once, for
        those that are not here."""
        media = (sources.analysis, *sorted(sources.small.items())) if sources else ()
        name = scene, media, width, form
        result = {number: self._kept.peek((*name, number)) for number in numbers}
        if missing := [number for number, data in result.items() if data is None]:
            for number, data in unpacked(draw(missing)):
                result[number] = self._kept.put((*name, number), data)
        return b"".join(struct.pack("<II", number, len(result[number])) + result[number] for number in numbers)


def with_pictures(choices: list[dict[str, Any]], packed: bytes) -> list[dict[str, Any]]:
    """Choices, each with its picture as data for `img`."""
    return [
        choice | {"picture": "data:image/jpeg;base64," + b64encode(data).decode()}
        for choice, (_, data) in zip(choices, unpacked(packed), strict=True)
    ]


def unpacked(packed: bytes) -> list[tuple[int, bytes]]:
    """Numbers and pictures from how `tasks.draw_frames` packs them."""
    out, place = [], 0
    while place < len(packed):
        number, size = struct.unpack_from("<II", packed, place)
        out.append((number, packed[place + 8 : place + 8 + size]))
        place += 8 + size
    return out
