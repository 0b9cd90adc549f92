"""Project colours: all that a scene is drawn in, changed together."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import from_oklab, parse_hex, relative_luminance, to_oklab
from velvetdrum.scene.document import Document

_HEX = re.compile(r"(#[0-9a-fA-F]{6})([0-9a-fA-F]{2})?")
_ALIKE, _MOST_ACCENTS = 0.012, 4
"""How unlike colours are that stand for themselves."""
LEAST_CONTRAST = 4.5
"""Of words to what they stand on, as WCAG 2.2 asks (1.4.3)."""

Lab = NDArray[np.float64]


def recoloured(document: Document, colours: Mapping[str, str]) -> Document:
    """The document with its project colours changed to others: every colour and every stop of a gradient goes with the
    project colour that it is nearest to, and keeps its distance from it in lightness, its share of chroma, and its
    turn of hue (in Oklch).

    Parameters
    ----------
    document
        A project's document, with its project colours.
    colours
        New colours by the names of those that change, as #rrggbb.
    """
    own = document.get("colours", {})
    moved = {own[name].lower(): colours[name].lower() for name in own if name in colours and own[name] != colours[name]}
    if not moved:
        return document
    anchors = list(dict.fromkeys(value.lower() for value in own.values()))
    table: dict[str, str] = {}

    def new(colour: str) -> str:
        key = colour.lower()
        if key not in table:
            lab = _lab(key)
            nearest = min(anchors, key=lambda anchor: _apart(lab, _lab(anchor)))
            table[key] = _moved(lab, _lab(nearest), _lab(moved[nearest])) if nearest in moved else key
        return table[key]

    result = document | {"layers": _walked(document["layers"], new)}
    result["colours"] = own | {name: colours[name].lower() for name in own if name in colours}
    return result


def found_colours(document: Document) -> dict[str, str]:
    """Project colours of a scene without any: the darkest that it is drawn in is the ground, the lightest the ink, the
    others are accents, the commonest first.

    Parameters
    ----------
    document
        A project's document.
    """
    counted: dict[str, int] = {}

    def count(colour: str) -> str:
        counted[colour.lower()] = counted.get(colour.lower(), 0) + 1
        return colour

    for layer in document["layers"]:
        _walked({"settings": layer["settings"], "effects": layer.get("effects", [])}, count)
    kept: list[tuple[str, Lab]] = []
    for colour in sorted(counted, key=lambda colour: -counted[colour]):
        lab = _lab(colour)
        if all(_apart(lab, other) > _ALIKE for _, other in kept):
            kept.append((colour, lab))
    if not kept:
        return {}
    by_light = sorted(kept, key=lambda item: float(item[1][0]))
    ends = {"ground": by_light[0][0], "ink": by_light[-1][0]}
    accents = [colour for colour, _ in kept if colour not in ends.values()][:_MOST_ACCENTS]
    return ends | {f"accent {number}": colour for number, colour in enumerate(accents, 1)}


def _walked(value: Any, new: Any) -> Any:
    if isinstance(value, str):
        match = _HEX.fullmatch(value)
        return new(match[1]) + (match[2] or "") if match else value
    if isinstance(value, list):
        return [_walked(item, new) for item in value]
    if isinstance(value, dict):
        return {name: _walked(item, new) for name, item in value.items()}
    return value


def _lab(colour: str) -> Lab:
    return np.asarray(to_oklab(parse_hex(colour)), np.float64)


def _apart(one: Lab, other: Lab) -> float:
    """How unlike two colours are; hue tells more of which they belong to than lightness does."""
    return float((0.5 * (one[0] - other[0])) ** 2 + ((one[1:] - other[1:]) ** 2).sum())


def _moved(lab: Lab, before: Lab, after: Lab) -> str:
    """A colour that stands to `after` as it stood to `before`."""
    chroma_before, chroma_after = (float(np.hypot(*colour[1:])) for colour in (before, after))
    own = complex(lab[1], lab[2])
    if chroma_before > 0.02:
        # Turned as the colour turned, and as much more or less of it.
        turned = own * complex(after[1], after[2]) / complex(before[1], before[2])
    else:
        turned = own + complex(after[1], after[2]) - complex(before[1], before[2])
    most = max(chroma_after * 1.6, abs(own))
    if abs(turned) > most:
        turned *= most / abs(turned)
    light = float(np.clip(lab[0] + after[0] - before[0], 0.0, 1.0))
    return hex_of(np.array([light, turned.real, turned.imag]))


def hex_of(lab: Lab) -> str:
    """A colour in Oklab as #rrggbb, cut to what sRGB holds.

    Parameters
    ----------
    lab
        Lightness, a and b.
    """
    rgb = from_oklab(lab)
    return "#" + "".join(f"{round(float(value) * 255):02x}" for value in rgb)


def contrast(one: str, other: str) -> float:
    """The contrast ratio of two colours, 1 to 21 (WCAG 2.2).

    Parameters
    ----------
    one
        A colour as #rrggbb.
    other
        A colour as #rrggbb.
    """
    light, dark = sorted((_luminance(one), _luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def _luminance(colour: str) -> float:
    return float(relative_luminance(parse_hex(colour)))


def readable(ink: str, ground: str) -> str:
    """An ink that stands out from a ground: lightened or darkened until its contrast is 4.5.

    Parameters
    ----------
    ink
        A colour as #rrggbb.
    ground
        A colour as #rrggbb.
    """
    lab, step = _lab(ink), 0.02 if _luminance(ground) < 0.18 else -0.02
    for _ in range(60):
        if contrast(hex_of(lab), ground) >= LEAST_CONTRAST:
            break
        lab[0] = np.clip(lab[0] + step, 0.0, 1.0)
    return hex_of(lab)


def scheme_of(palette: list[str], names: list[str]) -> dict[str, str]:
    """Project colours out of a palette: a dark ground, an ink that can be read on it, accents by how rich they are.

    Parameters
    ----------
    palette
        Colours as #rrggbb, the commonest first.
    names
        Names of the project colours: *ground*, *ink*, and accents.
    """
    labs = [(colour, _lab(colour)) for colour in palette]
    accents = [name for name in names if name not in ("ground", "ink")]
    by_chroma = sorted(labs, key=lambda item: -float(np.hypot(*item[1][1:])))
    ground = min(labs, key=lambda item: float(item[1][0]))[1].copy()
    ground[0] = min(ground[0], 0.24)
    ground[1:] *= min(1.0, 0.07 / max(float(np.hypot(*ground[1:])), 1e-6))
    result = {"ground": hex_of(ground)}
    ink = max(labs, key=lambda item: float(item[1][0]))[1].copy()
    ink[0], ink[1:] = max(ink[0], 0.92), ink[1:] * 0.4
    result["ink"] = readable(hex_of(ink), result["ground"])
    for number, name in enumerate(accents):
        if number < len(by_chroma):
            lab = by_chroma[number][1].copy()
        else:
            # Fewer colours than places: the first ones again, turned by an eighth.
            lab = by_chroma[number % len(by_chroma)][1].copy()
            turned = complex(lab[1], lab[2]) * np.exp(1j * np.pi / 4 * (number // len(by_chroma)))
            lab[1:] = turned.real, turned.imag
        lab[0] = float(np.clip(lab[0], 0.6, 0.85))
        result[name] = readable(hex_of(lab), result["ground"])
    return {name: result[name] for name in names}
