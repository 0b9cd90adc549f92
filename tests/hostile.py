"""Files that nobody means well with, made by a seed: cut, turned, grown, nested, lying about their size."""

from __future__ import annotations

import io
import json
import random
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import soundfile
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

from tests.conftest import RATE, song
from tests.picture.media.clips import numbered, write_clip
from velvetdrum.picture.typesetting.families import shipped_file

SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 90 90">'


@dataclass(frozen=True)
class Hostile:
    """A file: what it is brought in as (`sound`, `picture`, `clip`, `path`, `points`, `cues`, `typeface`, `table`,
    `episodes`, `palette` for the picture of one, `colours` for its text), its name and its bytes."""

    sort: str
    name: str
    data: bytes


def damaged(rng: random.Random, data: bytes) -> bytes:
    """A file cut, with bytes turned, with a piece doubled, or with a number made as large as it can be."""
    out = bytearray(data)
    match rng.randrange(5):
        case 0:
            return bytes(out[: rng.randrange(len(out))])
        case 1:
            for _ in range(rng.choice((1, 4, 40))):
                out[rng.randrange(len(out))] ^= 1 << rng.randrange(8)
        case 2:
            at = rng.randrange(min(len(out), 300))
            out[at : at + 4] = rng.choice((b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", bytes(4)))
        case 3:
            at, size = rng.randrange(len(out)), rng.randrange(1, 400)
            out[at:at] = out[at : at + size]
        case _:
            at = rng.randrange(len(out))
            out[at : at + rng.randrange(1, 600)] = rng.randbytes(rng.randrange(1, 600))
    return bytes(out)


def sounds(folder: Path) -> list[tuple[str, bytes]]:
    samples = song(0.5)
    out = []
    for form, subtype in (
        ("WAV", "PCM_16"),
        ("WAV", "FLOAT"),
        ("FLAC", None),
        ("OGG", None),
        ("AIFF", None),
        ("MP3", None),
    ):
        file = io.BytesIO()
        soundfile.write(file, samples, RATE, format=form, subtype=subtype)
        out.append((f"sound.{form.lower()}", file.getvalue()))
    path = write_clip(folder / "heard.mp4", 12, sound=samples[:, 0].astype(np.float32))
    out.append(("heard.mp4", path.read_bytes()))
    odd = bytearray(out[0][1])
    struct.pack_into("<H", odd, 34, 0)  # WAV of 0 bits
    out.append(("none.wav", bytes(odd)))
    struct.pack_into("<H", odd, 20, 0x7777)  # an unknown codec
    out.append(("unknown.wav", bytes(odd)))
    return out


def pictures() -> list[tuple[str, bytes]]:
    rng = np.random.default_rng(1)
    image = rng.integers(0, 255, (24, 40, 4), np.uint8)
    out = [(f"p{suffix}", cv2.imencode(suffix, image)[1].tobytes()) for suffix in (".png", ".webp", ".jpg")]
    frames = [image[..., :3], image[::-1, :, :3]]
    from PIL import Image

    for form in ("GIF", "PNG", "WEBP"):
        file = io.BytesIO()
        stills = [Image.fromarray(frame) for frame in frames]
        stills[0].save(file, form, save_all=True, append_images=stills[1:], duration=60)
        out.append((f"moves.{form.lower()}", file.getvalue()))
    return out


def lying_png(width: int, height: int) -> bytes:
    """A PNG of a few bytes that says how many pixels it has."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    packed = zlib.compress(bytes(min(width * 4 + 1, 70_000)), 9)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", packed) + chunk(b"IEND", b"")


def svgs(rng: random.Random) -> Iterator[bytes]:
    """SVG files that would take all time and memory there is."""
    rules = "".join(f".c{n} {{ fill: #f00; stroke: #00{n % 10}{n % 10}00 }}" for n in range(2500))
    rect = '<rect class="c7" width="9" height="9"/>'
    uses = "".join(f'<g id="u{n + 1}">' + f'<use href="#u{n}"/>' * 10 + "</g>" for n in range(7))
    painted = "".join(
        f'<pattern id="p{n + 1}" width="1" height="1">'
        + f'<rect fill="url(#p{n})" width="9" height="9"/>' * 12
        + "</pattern>"
        for n in range(7)
    )
    entities = "".join(f'<!ENTITY {chr(98 + n)} "{f"&{chr(97 + n)};" * 10}">' for n in range(8))
    texts = [
        SVG + "<style>g{" + "fill:red;" * 9000 + "}</style>" + "<g/>" * rng.randrange(5_000, 20_000) + "</svg>",
        SVG + "<style>" + "/*" * 100_000 + "</style></svg>",
        SVG + "<style>" + rules * 12 + "</style>" + rect * 10_000 + "</svg>",
        SVG + f'<defs><g id="u0">{rect}</g>{uses}</defs><use href="#u7"/></svg>',
        SVG + '<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g></svg>',
        SVG + '<path d="M0 0' + "l1 1-1-1" * 400_000 + '"/></svg>',
        SVG + "<g>" * 190 + rect + "</g>" * 190 + "</svg>",
        SVG + f'<defs>{painted}</defs><rect fill="url(#p7)" width="90" height="90"/></svg>',
        SVG + '<filter id="f">' + '<feTurbulence numOctaves="255"/>' * 300 + "</filter></svg>",
        SVG + '<text font-size="9">' + "Quay " * 9000 + "</text></svg>",
        SVG + '<image width="9" height="9" href="data:image/png;base64,' + "A" * 5000 + '"/></svg>',
        f'<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa">{entities}]>{SVG}<desc>&i;</desc></svg>',
        SVG + '<path stroke="red" stroke-dasharray="0.0001" d="M0 0H90V90H0Z"/></svg>',
        SVG + "<style>" + "a{" * 60_000 + "</style><style>url(" + " " * 60_000 + "</style></svg>",
    ]
    yield from (text.encode() for text in texts)


def bundles(folder: Path, rng: random.Random) -> list[tuple[str, bytes]]:
    out = []
    for name, entries in (
        ("up.vdrum", {"project.json": "{}", "../../up.txt": "x"}),
        ("deep.vdrum", {"project.json": "[" * 50_000}),
        ("odd.vdrum", {"project.json": json.dumps({"format": "velvetdrum-project", "version": [3]})}),
        ("null.vdrum", {"project.json": json.dumps({"format": "velvetdrum-project", "version": 1, "layers": None})}),
        ("number.vdrum", {"project.json": '{"format": "velvetdrum-project", "version": 3, "length_s": 1e999}'}),
        ("bomb.vdrum", {"project.json": " " * (30 << 20)}),
        ("many.vdrum", {"project.json": "{}"} | {f"media/{n}": "" for n in range(2500)}),
        ("plain.zip", {"0001.png": "no picture", "0002.png": "none"}),
    ):
        path = folder / name
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as bundle:
            for entry, text in entries.items():
                bundle.writestr(entry, text)
        out.append((name, path.read_bytes()))
    return out


def points(rng: random.Random) -> Iterator[bytes]:
    yield b'time,value\n0,"' + b"x" * 200_000
    yield b"0," + b"9" * 140_000 + b"\n"
    yield b"0,1\n1,nan\n"
    yield b"\xff\xfe0,1"
    yield b"0;1\n" * 60_000
    yield b"".join(b"%d,0.5\n" % n for n in range(60_000))
    yield b"\x00" * 5000
    yield ",".join(["1"] * 100_000).encode()


TIMES = "00:00:05,000 --> 00:00:01,000"


def cue_files(rng: random.Random) -> Iterator[Hostile]:
    """Files of words that would take all time there is, hide numbers beyond use, or are damaged."""
    ttml = '<tt xmlns="http://www.w3.org/ns/ttml" xmlns:p="http://www.w3.org/ns/ttml#parameter"'
    events = "[Events]\nFormat: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text\n"
    line = "Dialogue: 0,0:00:01.00,0:00:02.00,Default,,0,0,0,,"
    vtt = "WEBVTT\n\n00:01.000 --> 00:02.000\n"
    texts = [
        ("a.srt", "".join(f"{n}\n{TIMES}\nx\n\n" for n in range(30_000))),
        ("a.srt", f"{TIMES}\n" * 40_000),
        ("a.srt", "1:2:3 " + "-" * 1_000_000 + "> 2"),
        ("a.srt", "0:" * 400_000 + " --> 0:1"),
        ("a.vtt", vtt + "<" * 1_000_000),
        ("a.vtt", vtt + "<00:01.500>a " * 80_000),
        ("a.vtt", vtt + "&" * 900_000),
        ("a.lrc", "[00:01.00]" * 100_000),
        ("a.lrc", "[00:01.00]" + "<00:01.00>" * 100_000),
        ("a.ass", events + line + "{\\k10}a" * 100_000),
        ("a.ass", events + line + "{" * 900_000),
        ("a.ass", "[Script Info]\n" + "Format: " * 100_000),
        ("a.ttml", f"{ttml}><body>" + "<div>" * 60_000),
        ("a.ttml", f'{ttml}><body><p begin="{"9" * 5000}s" end="2s">a</p></body></tt>'),
        ("a.ttml", f'{ttml} p:tickRate="{"1" * 5000}"><body><p begin="1t" end="2s">a</p></body></tt>'),
        ("a.ttml", f'{ttml} p:frameRate="\u00b2"><body><p begin="\u00b2f" end="1h">a</p></body></tt>'),
        ("a.ttml", f'{ttml} p:frameRateMultiplier="0 0"><body><p begin="1f" dur="-1s">a</p></body></tt>'),
        ("a.ttml", f'<!DOCTYPE tt [<!ENTITY a "aa"><!ENTITY b "&a;&a;">]>{ttml}><body>&b;</body></tt>'),
        ("a.json", '{"cues":' + "[" * 90_000),
        ("a.json", '{"cues":[' + ",".join(['{"start_s":3,"end_s":1e999,"text":"a"}'] * 9000) + "]}"),
        ("a.json", '{"cues":[{"start_s":-1,"end_s":1e300,"text":"' + "a " * 90_000 + '"}]}'),
    ]
    whole = [(name, text.encode()) for name, text in texts]
    yield from (Hostile("cues", *item) for item in whole)
    for _ in range(24):
        name, data = rng.choice(whole)
        yield Hostile("cues", name, damaged(rng, data[:60_000]))
    for encoding in ("utf-16", "utf-7", "cp037", "shift_jis"):
        yield Hostile("cues", "a.srt", "1\n00:00:01,000 --> 00:00:02,000\nQuay\n".encode(encoding))
    yield from (Hostile("cues", "a.srt", rng.randbytes(40_000)) for _ in range(3))


def typefaces(rng: random.Random) -> Iterator[Hostile]:
    """Typefaces that are cut, turned, grown, or draw without an end."""
    plain = shipped_file("work-sans-400").read_bytes()
    for _ in range(30):
        yield Hostile("typeface", "odd.ttf", damaged(rng, plain))
    yield Hostile("typeface", "endless.ttf", endless_typeface())
    yield Hostile("typeface", "lies.woff2", b"wOF2" + plain[:12] + b"\x02\x00\x00\x00" + plain[16:4000])
    yield Hostile("typeface", "none.otf", b"OTTO" + rng.randbytes(4000))


def endless_typeface() -> bytes:
    """A typeface whose one glyph is a polygon of sixty thousand corners."""
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder([".notdef", "A"])
    builder.setupCharacterMap({65: "A"})
    pens = {name: TTGlyphPen(None) for name in (".notdef", "A")}
    pen = pens["A"]
    pen.moveTo((0, 0))
    for number in range(60_000):
        pen.lineTo((number % 997, number % 883))
    pen.closePath()
    builder.setupGlyf({name: made.glyph() for name, made in pens.items()})
    builder.setupHorizontalMetrics(dict.fromkeys(pens, (600, 0)))
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Endless", "styleName": "Regular"})
    builder.setupOS2()
    builder.setupPost()
    file = io.BytesIO()
    builder.save(file)
    return file.getvalue()


def tables(rng: random.Random) -> Iterator[Hostile]:
    """Look-up tables that say they are larger than they are, or have no numbers."""
    whole = "LUT_3D_SIZE 2\n" + "\n".join(f"{n & 1} {n >> 1 & 1} {n >> 2}" for n in range(8)) + "\n"
    texts = [
        "LUT_3D_SIZE 4096\n0 0 0\n",
        "LUT_3D_SIZE -1\n",
        "LUT_1D_SIZE 99999999999999999999\n0 0 0\n",
        "LUT_3D_SIZE 2\n" + "nan nan nan\n" * 8,
        "LUT_3D_SIZE 2\n" + "1e999 0 0\n" * 8,
        "LUT_3D_SIZE 65\n" + "0.5 0.5 0.5\n" * 1000,
        'TITLE "' + "x" * 500_000 + '"\n' + whole,
        "0 0 0\n" * 300_000,
        "DOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 0 0\n" + whole,
        whole + "0 0 0\n" * 100_000,
    ]
    yield from (Hostile("table", "odd.cube", text.encode()) for text in texts)
    yield from (Hostile("table", "odd.cube", damaged(rng, whole.encode())) for _ in range(10))


def episodes(rng: random.Random) -> Iterator[Hostile]:
    """Tables of episodes: empty lines without an end, cells without an end, names that are headers."""
    texts = [
        b"sound\n" + b"\n" * 4_000_000,
        b"sound\n" + b"a.wav\n" * 100_000,
        b"sound," * 200_000 + b"\n",
        b'sound\n"' + b"x" * 3_000_000,
        b"sound,title\n" + b"a.wav," + b"t" * 2_000_000 + b"\n",
        b"sound;title\n../../etc/passwd;x\n/dev/zero;y\n",
        b"\xff\xfes\0o\0u\0n\0d\0",
        b"sound\r\na.wav\r\n\0\0\0",
    ]
    yield from (Hostile("episodes", "table\r\nX-Evil: 1.csv", data) for data in texts)
    yield from (Hostile("episodes", "t.csv", damaged(rng, b"sound,title\na.wav,One\nb.wav,Two\n")) for _ in range(6))


def palettes(rng: random.Random) -> Iterator[str]:
    """Texts that are to be colours."""
    yield from ("", "#", "#ffffff " * 20_000, "rgb(" * 5000, "color(" + "9" * 5000 + ")", "hsl(1e999 0 0)", "0x" * 999)
    plain = "#102030 0%, rebeccapurple, oklch(60% 0.2 30), rgb(1 2 3 / 50%)"
    yield from (damaged(rng, plain.encode()).decode("latin-1") for _ in range(12))


def hostile_files(seed: int = 1, count: int = 500) -> list[Hostile]:
    """About `count` files, the same for the same seed."""
    rng = random.Random(seed)
    out: list[Hostile] = []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        out += [Hostile("picture", "bomb.svg", data) for data in svgs(rng)]
        out += [Hostile("path", "bomb.svg", data) for data in svgs(rng)]
        out += [Hostile("points", "t.csv", data) for data in points(rng)]
        sizes = ((60_000, 60_000), (16_000, 16_000), (1, 16_384), (16_384, 1), (0, 0), (2**31 - 1, 1), (9_000, 9_000))
        out += [Hostile(sort, "lies.png", lying_png(*size)) for size in sizes for sort in ("picture", "clip")]
        zips = bundles(folder, rng)
        out += [Hostile("sound", *item) for item in zips] + [Hostile("clip", *item) for item in zips]
        clips = [
            (path.name, path.read_bytes())
            for path in (
                write_clip(folder / "a.mp4", 12),
                write_clip(folder / "a.mkv", 12),
                write_clip(folder / "a.ts", 12),
                write_clip(folder / "a.avi", 12, codec="mpeg4"),
            )
        ]
        heard, seen = sounds(folder), pictures()
        out += [Hostile("sound", *item) for item in heard]
        sources = [("sound", heard), ("picture", seen), ("clip", clips + seen[3:]), ("sound", zips)]
        shares = (0.34, 0.34, 0.22, 0.1)
        for (sort, items), share in zip(sources, shares, strict=True):
            for _ in range(round(share * (count - 90))):
                title, data = rng.choice(items)
                out.append(Hostile(sort, title, damaged(rng, data)))
        out += [
            Hostile(rng.choice(("sound", "picture", "clip")), "x.bin", rng.randbytes(rng.randrange(1, 4000)))
            for _ in range(30)
        ]
        out += [
            Hostile(sort, "empty", b"")
            for sort in (
                *("sound", "picture", "clip", "path", "points", "cues", "typeface", "table", "episodes"),
                *("palette", "colours"),
            )
        ]
        out += [Hostile("palette", title, damaged(rng, data)) for title, data in seen for _ in range(3)]
        out += [Hostile("palette", "lies.png", lying_png(*size)) for size in sizes]
        out += [Hostile("colours", "colours.txt", text.encode()) for text in palettes(rng)]
        out += [item for sort in (cue_files, typefaces, tables, episodes) for item in sort(rng)]
        out.append(Hostile("clip", "moves.mp4", numbered(3).tobytes()))
    return out
