"""A picture: fitted, cropped, recoloured."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np

from velvetdrum.kinds.settings import choice, colour, number, picture
from velvetdrum.picture.blending import blended
from velvetdrum.picture.canvas import Canvas, Pixels
from velvetdrum.picture.drawing import DrawnLayer, Moment
from velvetdrum.picture.images import stored
from velvetdrum.scene.kinds import layer_kind


@layer_kind("picture", "Picture")
class Picture(DrawnLayer):
    """A picture of yours: PNG, JPEG, WebP or GIF."""

    first = ("image",)

    image: str = picture(label="Picture", help="The picture that is shown.")
    fit: str = choice("contain", {"contain": "Contain", "cover": "Cover", "stretch": "Stretch"},
                      help="All of it in the box, the box full of it, or pulled to the box.")  # fmt: skip
    x: float = number(50, lo=-50, hi=150, unit="%", label="Across", help="Middle of its box, across the frame.")
    y: float = number(50, lo=-50, hi=150, unit="%", label="Down", help="Middle of its box, down the frame.")
    width: float = number(40, lo=0.5, hi=300, unit="%", help="Of its box, of the frame's width.")
    height: float = number(40, lo=0.5, hi=300, unit="%", help="Of its box, of the frame's height.")
    crop_left: float = number(0, lo=0, hi=95, unit="%", often=False, help="Cut away on the left, of the picture.")
    crop_right: float = number(0, lo=0, hi=95, unit="%", often=False, help="Cut away on the right, of the picture.")
    crop_top: float = number(0, lo=0, hi=95, unit="%", often=False, help="Cut away at the top, of the picture.")
    crop_bottom: float = number(0, lo=0, hi=95, unit="%", often=False, help="Cut away at the bottom, of the picture.")
    recolour: str = choice("none", {"none": "As it is", "tint": "Tint", "alpha": "One colour"}, group="colour",
                           help="Its own colours; its light and dark in one colour; or its form.")  # fmt: skip
    plain: str = colour(
        "#e0ac55", label="Colour", help="The colour that it takes.", when=("recolour", ("tint", "alpha"))
    )
    amount: float = number(100, lo=0, hi=100, unit="%", step=1, group="colour", help="How much of it it takes.",
                           when=("recolour", ("tint", "alpha")))  # fmt: skip

    def draw(self, canvas: Canvas, at: Moment) -> None:
        path = at.media.get(self.image)
        if path is None:
            return
        crop = (self.crop_left, self.crop_top, self.crop_right, self.crop_bottom)
        colour_ = self.plain if self.recolour != "none" else ""
        box = (canvas.width * self.width / 100, canvas.height * self.height / 100)
        found = _prepared(path, crop, self.fit, box, self.recolour, colour_, self.amount / 100)
        left, top = canvas.x(self.x) - found.shape[1] / 2, canvas.y(self.y) - found.shape[0] / 2
        _lay(canvas, found, left, top)


def _lay(canvas: Canvas, pixels: Pixels, left: float, top: float) -> None:
    """Premultiplied pixels over the frame, their corner at a place between pixels."""
    x, y = int(np.floor(left)), int(np.floor(top))
    height, width = pixels.shape[:2]
    if left != x or top != y:
        move = np.array([[1.0, 0.0, left - x], [0.0, 1.0, top - y]])
        pixels = np.asarray(
            cv2.warpAffine(pixels, move, (width + 1, height + 1), flags=cv2.INTER_LINEAR, borderValue=(0, 0, 0, 0)),
            np.uint8,
        )
        height, width = pixels.shape[:2]
    right, bottom = min(x + width, canvas.width), min(y + height, canvas.height)
    begin_x, begin_y = max(x, 0), max(y, 0)
    if right <= begin_x or bottom <= begin_y:
        return
    above = np.ascontiguousarray(pixels[begin_y - y : bottom - y, begin_x - x : right - x])
    below = canvas.pixels[begin_y:bottom, begin_x:right]
    np.copyto(below, blended(np.ascontiguousarray(below), above, "normal"))


@lru_cache(maxsize=8)
def _prepared(
    path: str,
    crop: tuple[float, float, float, float],
    fit: str,
    box: tuple[float, float],
    recolour: str,
    colour_: str,
    amount: float,
) -> Pixels:
    """A stored picture cut, scaled to its box and recoloured, premultiplied."""
    source = stored(path)
    height, width = source.shape[:2]
    left, top = int(width * crop[0] / 100), int(height * crop[1] / 100)
    right, bottom = (
        max(width - int(width * crop[2] / 100), left + 1),
        max(height - int(height * crop[3] / 100), top + 1),
    )
    cut = source[top:bottom, left:right]
    height, width = cut.shape[:2]
    across, down = box[0] / width, box[1] / height
    if fit != "stretch":
        across = down = (min if fit == "contain" else max)(across, down)
    size = (max(round(width * across), 1), max(round(height * down), 1))
    scaled = cv2.resize(cut, size, interpolation=cv2.INTER_AREA if min(across, down) < 1 else cv2.INTER_CUBIC)
    found = np.asarray(scaled, np.uint8)
    # Cubic weights reach below zero and above alpha; premultiplied colours may not.
    found = np.minimum(found, found[..., 3:])
    if fit == "cover":
        x, y = (found.shape[1] - round(box[0])) // 2, (found.shape[0] - round(box[1])) // 2
        found = found[max(y, 0) : max(y, 0) + max(round(box[1]), 1), max(x, 0) : max(x, 0) + max(round(box[0]), 1)]
    return np.ascontiguousarray(_recoloured(found, recolour, colour_, amount))


def _recoloured(pixels: Pixels, recolour: str, colour_: str, amount: float) -> Pixels:
    if recolour == "none" or amount <= 0:
        return pixels
    alpha = pixels[..., 3:].astype(np.float32) / 255
    target = np.array([int(colour_[i : i + 2], 16) for i in (5, 3, 1)], np.float32)
    own = pixels[..., :3].astype(np.float32)
    wanted = target * alpha
    if recolour == "tint":
        # From a dark form of the colour for black, through the colour itself, to white: Rec. 709 luma leads.
        luma = (own / np.maximum(alpha, 1e-3)) @ np.array([0.0722, 0.7152, 0.2126], np.float32) / 255
        tints = [np.interp(luma, (0.0, 0.6, 1.0), (0.3 * value, value, 255.0)) for value in target]
        wanted = np.stack(tints, axis=-1).astype(np.float32) * alpha
    out = pixels.copy()
    out[..., :3] = np.rint(own * (1 - amount) + np.minimum(wanted, 255 * alpha) * amount)
    return out
