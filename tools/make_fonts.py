"""Make the typefaces that pictures are drawn with from the studio's web fonts: one static weight each, as TTF."""

from __future__ import annotations

from pathlib import Path

from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import OverlapMode, instantiateVariableFont

ROOT = Path(__file__).parents[1] / "velvetdrum"
WEB, TARGET = ROOT / "studio/static/vendor/fonts", ROOT / "picture/text/fonts"
CUTS = {
    "work-sans-medium": ("work-sans-latin-wght-normal", 500),
    "work-sans-bold": ("work-sans-latin-wght-normal", 700),
    "fraunces-semibold": ("fraunces-latin-wght-normal", 600),
}


def main() -> None:
    for name, (source, weight) in CUTS.items():
        font = instantiateVariableFont(TTFont(WEB / f"{source}.woff2"), {"wght": weight}, overlap=OverlapMode.REMOVE)
        font.flavor = None
        font.save(TARGET / f"{name}.ttf")
    for name in ("LICENSE-fraunces", "LICENSE-work-sans"):
        (TARGET / name).write_text((WEB / name).read_text())


if __name__ == "__main__":
    main()
