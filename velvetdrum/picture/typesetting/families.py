"""The type families that ship, and which of them step in where one has no letters for a text."""

from __future__ import annotations

from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

Axes = tuple[tuple[str, float], ...]
"""Places on variable axes by their tags, as in CSS font-variation-settings."""


@dataclass(frozen=True)
class Family:
    """A family: its name, what it is good for, the files of its weights, and what it is for other scripts."""

    name: str
    sort: str
    weights: tuple[tuple[int, tuple[str, ...]], ...]
    """Weight, and the files that have it: those of a variable family stand under 0."""
    sample: str = "Lantern Quay"


def _static(stem: str, *weights: int) -> tuple[tuple[int, tuple[str, ...]], ...]:
    return tuple((weight, (f"{stem}-{weight}",)) for weight in weights)


FAMILIES: dict[str, Family] = {
    "fraunces": Family("Fraunces", "Soft serif, variable", ((0, ("fraunces-latin", "fraunces-latin-ext")),)),
    "work-sans": Family("Work Sans", "Sans", _static("work-sans", 400, 700, 900)),
    "unbounded": Family("Unbounded", "Sturdy display", _static("unbounded", 400, 700, 900)),
    "inter": Family("Inter", "Clean sans", _static("inter", 400, 700, 900)),
    "literata": Family("Literata", "Humanist serif", _static("literata", 400, 700)),
    "jetbrains-mono": Family("JetBrains Mono", "Mono", _static("jetbrains-mono", 400, 700)),
    "nunito": Family("Nunito", "Rounded", _static("nunito", 400, 700, 900)),
    "roboto-condensed": Family("Roboto Condensed", "Condensed", _static("roboto-condensed", 400, 700, 900)),
    "caveat": Family("Caveat", "Handwriting", _static("caveat", 400, 700)),
    "roboto-slab": Family("Roboto Slab", "Slab", _static("roboto-slab", 400, 700, 900)),
    "recursive": Family("Recursive", "Sans to mono, variable", ((0, ("recursive-latin",)),)),
    "archivo": Family("Archivo", "Narrow to wide, variable", ((0, ("archivo-latin", "archivo-latin-ext")),)),
    "noto-sans-arabic": Family("Noto Sans Arabic", "Arabic", _static("noto-sans-arabic", 400, 700), "ميناء الفانوس"),
    "noto-sans-hebrew": Family("Noto Sans Hebrew", "Hebrew", _static("noto-sans-hebrew", 400, 700), "רציף הפנסים"),
    "m-plus-1p": Family("M PLUS 1p", "Japanese", _static("m-plus-1p", 400, 700), "灯台の港"),
}
"""The families by what projects store."""

_SIGNS = ("noto-emoji-400", "noto-sans-symbols-2-400")
_STEPPING_IN = ("inter", "noto-sans-arabic", "noto-sans-hebrew", "m-plus-1p")


def shipped_file(stem: str) -> Path:
    """The file of a typeface that ships."""
    return Path(str(files("velvetdrum.picture.typesetting").joinpath(f"fonts/{stem}.ttf")))


def cascade(family: str, weight: float) -> tuple[Path, ...]:
    """Files in which letters are looked for, one after the other: those of the family in the weight that is nearest,
    then those that step in. `family`: one that ships by its id, or the path of a file of the user's."""
    own = files_of(family, weight) if family in FAMILIES else (Path(family),) if family else ()
    more = [path for name in _STEPPING_IN if name != family for path in files_of(name, weight)]
    return (*own, *more, *(shipped_file(stem) for stem in _SIGNS))


def files_of(family: str, weight: float) -> tuple[Path, ...]:
    """The files of a family that ships, in the weight nearest to one that is asked for."""
    _, stems = min(FAMILIES[family].weights, key=lambda item: abs(item[0] - weight))
    return tuple(shipped_file(stem) for stem in stems)
