"""Make the typefaces that pictures are drawn with: packages of the npm registry, turned into TTF without hints.

`python tools/make_fonts.py` fetches each package by its name and version, takes the cuts that are asked for, and puts
them with their licences into `velvetdrum/picture/typesetting/fonts`.
"""

from __future__ import annotations

import subprocess
import tarfile
import tempfile
from dataclasses import dataclass, field
from pathlib import Path

from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import OverlapMode, instantiateVariableFont

ROOT = Path(__file__).parents[1] / "velvetdrum"
WEB, TARGET = ROOT / "studio/static/vendor/fonts", ROOT / "picture/typesetting/fonts"


@dataclass(frozen=True)
class Source:
    """A package, and its files by the name that each gets here."""

    package: str
    licence: str
    cuts: dict[str, str]
    common: bool = False
    """True for a typeface of which only the common characters are kept."""
    features: tuple[str, ...] = field(default=("*",))


def _weights(folder: str, name: str, *weights: str) -> dict[str, str]:
    """Cuts as their packages name them: `400Regular/Name_400Regular.ttf`."""
    return {f"{name}-{weight[:3]}": f"{weight}/{folder}_{weight}.ttf" for weight in weights}


_TWO = ("400Regular", "700Bold")
_THREE = (*_TWO, "900Black")

SOURCES = (
    Source("@expo-google-fonts/unbounded@0.4.1", "LICENSE_FONT", _weights("Unbounded", "unbounded", *_THREE)),
    Source("@expo-google-fonts/inter@0.4.2", "LICENSE_FONT", _weights("Inter", "inter", *_THREE)),
    Source("@expo-google-fonts/work-sans@0.4.2", "LICENSE_FONT", _weights("WorkSans", "work-sans", *_THREE)),
    Source("@expo-google-fonts/literata@0.4.3", "LICENSE_FONT", _weights("Literata", "literata", *_TWO)),
    Source(
        "@expo-google-fonts/jetbrains-mono@0.4.1", "LICENSE_FONT", _weights("JetBrainsMono", "jetbrains-mono", *_TWO)
    ),
    Source("@expo-google-fonts/nunito@0.4.2", "LICENSE_FONT", _weights("Nunito", "nunito", *_THREE)),
    Source(
        "@expo-google-fonts/roboto-condensed@0.4.2",
        "LICENSE_FONT",
        _weights("RobotoCondensed", "roboto-condensed", *_THREE),
    ),
    Source("@expo-google-fonts/caveat@0.4.2", "LICENSE_FONT", _weights("Caveat", "caveat", *_TWO)),
    Source("@expo-google-fonts/roboto-slab@0.4.2", "LICENSE_FONT", _weights("RobotoSlab", "roboto-slab", *_THREE)),
    Source(
        "@expo-google-fonts/noto-sans-arabic@0.4.3",
        "LICENSE_FONT",
        _weights("NotoSansArabic", "noto-sans-arabic", *_TWO),
    ),
    Source(
        "@expo-google-fonts/noto-sans-hebrew@0.4.1",
        "LICENSE_FONT",
        _weights("NotoSansHebrew", "noto-sans-hebrew", *_TWO),
    ),
    Source("@expo-google-fonts/m-plus-1p@0.4.2", "LICENSE_FONT", _weights("MPLUS1p", "m-plus-1p", *_TWO), common=True),
    Source("@expo-google-fonts/noto-emoji@0.4.7", "LICENSE_FONT", _weights("NotoEmoji", "noto-emoji", "400Regular")),
    Source(
        "@expo-google-fonts/noto-sans-symbols-2@0.4.1",
        "LICENSE_FONT",
        _weights("NotoSansSymbols2", "noto-sans-symbols-2", "400Regular"),
    ),
    Source(
        "@fontsource-variable/fraunces@5.3.0",
        "LICENSE",
        {
            "fraunces-latin": "files/fraunces-latin-full-normal.woff2",
            "fraunces-latin-ext": "files/fraunces-latin-ext-full-normal.woff2",
        },
    ),
    Source(
        "@fontsource-variable/recursive@5.3.0",
        "LICENSE",
        {"recursive-latin": "files/recursive-latin-full-normal.woff2"},
    ),
    Source(
        "@fontsource-variable/archivo@5.3.0",
        "LICENSE",
        {
            "archivo-latin": "files/archivo-latin-standard-normal.woff2",
            "archivo-latin-ext": "files/archivo-latin-ext-standard-normal.woff2",
        },
    ),
)

CUTS = {
    "work-sans-medium": ("work-sans-latin-wght-normal", 500),
    "work-sans-bold": ("work-sans-latin-wght-normal", 700),
    "fraunces-semibold": ("fraunces-latin-wght-normal", 600),
}
"""Typefaces of base shapes and small print: one weight each of the studio's web fonts."""

HINTS = ("fpgm", "prep", "cvt ", "cvar", "hdmx", "VDMX", "LTSH", "gasp", "DSIG", "meta", "MVAR", "STAT")


def main() -> None:
    """Make all of them."""
    for name, (source, weight) in CUTS.items():
        font = instantiateVariableFont(TTFont(WEB / f"{source}.woff2"), {"wght": weight}, overlap=OverlapMode.REMOVE)
        font.flavor = None
        font.save(TARGET / f"{name}.ttf")
    with tempfile.TemporaryDirectory() as folder:
        for source in SOURCES:
            _make(source, Path(folder))


def _make(source: Source, folder: Path) -> None:
    packed = subprocess.run(
        ["npm", "pack", source.package, "--silent"], cwd=folder, check=True, capture_output=True, text=True
    ).stdout.strip()
    with tarfile.open(folder / packed) as archive:
        archive.extractall(folder / packed.removesuffix(".tgz"), filter="data")
    inside = folder / packed.removesuffix(".tgz") / "package"
    family = source.package.split("/")[1].split("@")[0]
    (TARGET / f"LICENSE-{family}").write_text((inside / source.licence).read_text())
    for name, path in source.cuts.items():
        font = TTFont(inside / path)
        font.flavor = None
        options = Options(
            hinting=False,
            layout_features=["*"],
            glyph_names=False,
            name_IDs=["*"],
            notdef_outline=True,
            drop_tables=[*HINTS],
        )
        subsetter = Subsetter(options)
        kept = _common() if source.common else set(font.getBestCmap())
        subsetter.populate(unicodes=kept & set(font.getBestCmap()))
        subsetter.subset(font)
        font.save(TARGET / f"{name}.ttf")
        print(name, (TARGET / f"{name}.ttf").stat().st_size)


def _common() -> set[int]:
    """Characters of everyday Japanese: those of JIS X 0208, level 1, with kana and signs, and Latin."""
    rows = [*range(1, 9), *range(16, 48)]
    jis = {bytes((0xA0 + row, 0xA0 + cell)).decode("euc_jp", "ignore") for row in rows for cell in range(1, 95)}
    return {ord(sign) for sign in jis if sign} | set(range(0x20, 0x250))


if __name__ == "__main__":
    main()
