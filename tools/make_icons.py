"""Builds the icon sprite from a folder of Tabler outline icons.

Usage: make_icons.py FOLDER OUT.svg
"""

import re
import sys
from pathlib import Path

NAMES = [
    "player-play",
    "player-pause",
    "player-skip-back",
    "player-skip-forward",
    "repeat",
    "volume",
    "volume-off",
    "arrow-back-up",
    "arrow-forward-up",
    "plus",
    "eye",
    "eye-off",
    "copy",
    "trash",
    "chevron-up",
    "chevron-down",
    "zoom-in",
    "zoom-out",
    "arrows-maximize",
    "arrows-horizontal",
    "download",
    "x",
    "music",
    "photo",
    "movie",
    "upload",
    "dots",
    "settings",
    "keyboard",
    "sun",
    "moon",
    "frame",
    "ruler-2",
    "refresh",
    "restore",
    "pencil",
    "check",
    "alert-triangle",
    "folder-down",
    "arrow-left",
    "clock",
    "wand",
    "folder",
    "color-picker",
    "folder-minus",
    "flag",
    "lock",
    "chevron-left",
    "chevron-right",
    "layout-align-left",
    "layout-align-center",
    "layout-align-right",
    "layout-align-top",
    "layout-align-middle",
    "layout-align-bottom",
    "layout-distribute-horizontal",
    "layout-distribute-vertical",
    "columns-3",
    "mask",
]


def symbol(path: Path) -> str:
    body = re.search(r"<svg[^>]*>(.*)</svg>", path.read_text(), re.S)
    inner = re.sub(r"<!--.*?-->", "", body[1], flags=re.S)
    inner = re.sub(r"\s+", " ", inner).replace('<path stroke="none" d="M0 0h24v24H0z" fill="none"/>', "").strip()
    return f'<symbol id="{path.stem}" viewBox="0 0 24 24">{inner}</symbol>'


def main() -> None:
    folder, out = Path(sys.argv[1]), Path(sys.argv[2])
    symbols = "\n".join(symbol(folder / f"{name}.svg") for name in NAMES)
    out.write_text(f'<svg xmlns="http://www.w3.org/2000/svg">\n{symbols}\n</svg>\n')


if __name__ == "__main__":
    main()
