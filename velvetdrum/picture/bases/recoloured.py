"""Pictures in other colours: tinted, one colour for another, or their form alone."""

from __future__ import annotations

import numpy as np

from velvetdrum.declare.oklab import parse_hex, to_oklab
from velvetdrum.declare.settings import choice, colour, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.layer import DrawnLayer
from velvetdrum.picture.raster.areas import Pixels

_COLOURED = ("recolour", ("tint", "replace", "alpha"))


class Recoloured(DrawnLayer):
    """Settings of everything that shows a picture in other colours."""

    recolour: str = choice(
        "none",
        {"none": "As it is", "tint": "Tint", "replace": "One for another", "alpha": "One colour"},
        group="colour",
        help="The picture as it is, in shades of one colour, with one colour changed, or as its form alone.",
    )
    plain: str = colour("#e0ac55", label="Colour", help="The colour that it takes.", when=_COLOURED)
    replaced: str = colour(
        "#f4eadb",
        label="Replaced colour",
        help="The colour of the picture that is replaced.",
        when=("recolour", ("replace",)),
    )
    near: float = number(
        12,
        lo=0.5,
        hi=100,
        unit="%",
        step=0.5,
        label="Tolerance",
        group="colour",
        help="Colours that are this near are replaced too, even to the eye (Oklab).",
        when=("recolour", ("replace",)),
    )
    amount: float = percent(
        100, step=1, label="Amount", group="colour", help="How strongly the colour is applied.", when=_COLOURED
    )

    @property
    def recolouring(self) -> Recolouring:
        """What `recoloured` takes."""
        return self.recolour, self.plain, self.replaced, self.near / 100, self.amount / 100


Recolouring = tuple[str, str, str, float, float]
"""How a picture is recoloured; its new colour; the one that is replaced; how near, and how much, from 0 to 1."""


def recoloured(pixels: Pixels, recolouring: Recolouring) -> Pixels:
    """Premultiplied pixels in other colours."""
    how, new, old, near, amount = recolouring
    if how == "none" or amount <= 0:
        return pixels
    alpha = pixels[..., 3:].astype(np.float32) / 255
    target = np.array([int(new[i : i + 2], 16) for i in (5, 3, 1)], np.float32)
    own = pixels[..., :3].astype(np.float32)
    wanted = target * alpha
    if how == "tint":
        # From a dark form of the colour for black, through the colour itself, to white: Rec. 709 luma leads.
        luma = (own / np.maximum(alpha, 1e-3)) @ np.array([0.0722, 0.7152, 0.2126], np.float32) / 255
        tints = [np.interp(luma, (0.0, 0.6, 1.0), (0.3 * value, value, 255.0)) for value in target]
        wanted = np.stack(tints, axis=-1).astype(np.float32) * alpha
    elif how == "replace":
        share = _likeness(own / np.maximum(alpha, 1e-3), old, near)
        wanted = own + (wanted - own) * share[..., None]
    out = pixels.copy()
    out[..., :3] = np.rint(own * (1 - amount) + np.minimum(wanted, 255 * alpha) * amount)
    return out


def _likeness(colours: np.ndarray, old: str, near: float) -> np.ndarray:
    """How far each colour (blue, green, red, 0 to 255) is to be replaced: 1 at the old colour and near it, 0 from twice
    as far on, so that blended edges stay smooth."""
    away = np.linalg.norm(to_oklab(np.clip(colours[..., ::-1] / 255, 0, 1)) - to_oklab(parse_hex(old)), axis=-1)
    return np.asarray(np.clip(2.0 - away / max(near, 1e-3), 0.0, 1.0), np.float32)
