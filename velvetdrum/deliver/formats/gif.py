"""GIF: 256 colours chosen from the whole video, dithered; without sound."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

import av

from velvetdrum.deliver.moving_picture import MovingPicture, Pictures
from velvetdrum.deliver.video_format import known_format

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


@known_format("gif", "GIF (256 colours)")
class Gif(MovingPicture):
    """One palette for all pictures, so that nothing flickers; a pixel is there or not."""

    label: ClassVar[str] = "GIF"
    about: ClassVar[str] = "Anywhere, in 256 colours, without sound."
    suffix: ClassVar[str] = ".gif"
    mime: ClassVar[str] = "image/gif"

    def passes(self, plan: ExportPlan) -> int:
        return 2

    def write(self, pictures: Pictures, path: Path, plan: ExportPlan) -> None:
        size: dict[str, Any] = {
            "width": plan.width,
            "height": plan.height,
            "format": "bgra",
            "time_base": 1 / plan.fraction,
        }
        chosen = av.filter.Graph()
        source = chosen.add_buffer(**size)
        palette = chosen.add("palettegen", f"stats_mode=full:reserve_transparent={int(plan.transparent)}")
        sink = chosen.add("buffersink")
        source.link_to(palette)
        palette.link_to(sink)
        chosen.configure()
        for number, pixels in enumerate(pictures()):
            frame = av.VideoFrame.from_ndarray(pixels, format="bgra")
            frame.pts, frame.time_base = number, 1 / plan.fraction
            source.push(frame)
        source.push(None)
        colours = sink.pull()
        colours.pts = 0
        with av.open(str(path), "w", format="gif", options={"loop": "0"}) as out:
            # Times in a GIF are hundredths of a second.
            stream: Any = out.add_stream("gif", rate=plan.fraction)
            stream.width, stream.height, stream.pix_fmt = plan.width, plan.height, "pal8"
            graph = av.filter.Graph()
            source = graph.add_buffer(**size)
            coloured = graph.add_buffer(**size | {"width": 16, "height": 16})
            use = graph.add("paletteuse", "dither=sierra2_4a:diff_mode=rectangle")
            sink = graph.add("buffersink")
            source.link_to(use, 0, 0)
            coloured.link_to(use, 0, 1)
            use.link_to(sink)
            graph.configure()
            coloured.push(colours)
            coloured.push(None)
            for number, pixels in enumerate(pictures()):
                frame = av.VideoFrame.from_ndarray(pixels, format="bgra")
                frame.pts, frame.time_base = number, 1 / plan.fraction
                source.push(frame)
                for shown in _ready(sink):
                    out.mux(stream.encode(shown))
            source.push(None)
            for shown in _ready(sink):
                out.mux(stream.encode(shown))
            out.mux(stream.encode(None))


def _ready(sink: Any) -> Iterator[Any]:
    """What a filter has ready."""
    while True:
        try:
            yield sink.pull()
        except (av.error.BlockingIOError, av.error.EOFError):
            return
