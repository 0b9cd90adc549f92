"""Small videos whose every frame says which it is."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np

WIDTH, HEIGHT = 160, 96


def numbered(number: int) -> np.ndarray:
    """A picture with a number from 0 to 255 in it as eight bars, white for one; its upper left quarter is red."""
    out = np.zeros((HEIGHT, WIDTH, 3), np.uint8)
    for bit in range(8):
        if number >> bit & 1:
            out[HEIGHT // 2 :, bit * 20 : bit * 20 + 20] = 255
    out[: HEIGHT // 2, : WIDTH // 2] = (0, 0, 220)
    return out


def read_number(pixels: np.ndarray) -> int:
    """The number in a picture, whatever its size. Blue, green, red."""
    height, width = pixels.shape[:2]
    row = pixels[height * 3 // 4, :, :3].mean(axis=1)
    return sum(1 << bit for bit in range(8) if row[int((bit * 20 + 10) / WIDTH * width)] > 127)


def write_clip(
    path: Path,
    count: int,
    *,
    rate: int = 25,
    codec: str = "libx264",
    pix_fmt: str = "yuv420p",
    pts: list[int] | None = None,
    gop: int = 12,
    frames=numbered,
    sound: np.ndarray | None = None,
    sound_late: int = 0,
    options: dict[str, str] | None = None,
) -> Path:
    """A clip of numbered frames; `pts` in 1/1000 s for uneven times; `sound` mono at 48 kHz,
    `sound_late` samples after the first picture."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=rate)
        first = frames(0)
        stream.width, stream.height, stream.pix_fmt = first.shape[1], first.shape[0], pix_fmt
        stream.codec_context.gop_size = gop
        base = Fraction(1, 1000) if pts else Fraction(1, rate)
        stream.codec_context.time_base = base
        if codec == "libx264":
            stream.options = {"crf": "10", "preset": "veryfast", "bf": "2"} | (options or {})
        heard = container.add_stream("aac", rate=48_000, layout="mono") if sound is not None else None
        for number in range(count):
            pixels = np.ascontiguousarray(frames(number))
            frame = av.VideoFrame.from_ndarray(pixels, format="bgra" if pixels.shape[2] == 4 else "bgr24")
            frame.pts, frame.time_base = (pts[number] if pts else number), base
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
        if heard is not None:
            for at in range(0, len(sound), 1024):
                piece = np.ascontiguousarray(sound[None, at : at + 1024], np.float32)
                block = av.AudioFrame.from_ndarray(piece, format="fltp", layout="mono")
                block.sample_rate, block.pts, block.time_base = 48_000, at + sound_late, Fraction(1, 48_000)
                container.mux(heard.encode(block))
            container.mux(heard.encode(None))
    return path


def turned_quarter(path: Path) -> Path:
    """Mark an MP4 as lying on its side: its display matrix turns it clockwise by a quarter."""
    data = bytearray(path.read_bytes())
    at = data.index(b"tkhd") + 4
    # Version 0: flags, times, id, reserved, duration, reserved twice, layer, group, volume, reserved: the matrix.
    start = at + 4 + 4 + 4 + 4 + 4 + 4 + 8 + 2 + 2 + 2 + 2
    one, zero, w = (0x10000).to_bytes(4, "big"), bytes(4), (0x40000000).to_bytes(4, "big")
    less = (-0x10000 & 0xFFFFFFFF).to_bytes(4, "big")
    across = (HEIGHT << 16).to_bytes(4, "big")
    data[start : start + 36] = zero + one + zero + less + zero + zero + across + zero + w
    path.write_bytes(bytes(data))
    return path
