"""Pictures as they come from cameras and programs: profiles, turns, depths, and sizes that nobody can hold whole."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image, ImageCms

from tests.hostile import lying_png
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.media.picture_decoder import PictureError, decoded, halve, picture_facts
from velvetdrum.picture.media.pictures import LEVELS, check_picture, prepare_picture, scaled

RED = (200, 40, 30)


def encoded(picture: Image.Image, form: str, **more) -> bytes:
    file = io.BytesIO()
    picture.save(file, form, **more)
    return file.getvalue()


def wide_profile() -> bytes:
    """An RGB profile that is not sRGB: LittleCMS's Lab-based ones won't do, so sRGB with its red and green changed."""
    data = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    red, green = data.index(b"rXYZ"), data.index(b"gXYZ")
    data[red : red + 4], data[green : green + 4] = b"gXYZ", b"rXYZ"
    return bytes(data)


@pytest.mark.parametrize("form", ["PNG", "JPEG", "WEBP"])
def test_profiles_are_honoured(form):
    picture = Image.new("RGB", (16, 16), RED)
    more = {"quality": 100} if form != "PNG" else {}
    if form == "WEBP":
        more["lossless"] = True
    plain = decoded(encoded(picture, form, **more))[8, 8]
    shown = decoded(encoded(picture, form, icc_profile=wide_profile(), **more))[8, 8]
    own, target = ImageCms.ImageCmsProfile(io.BytesIO(wide_profile())), ImageCms.createProfile("sRGB")
    # The reference: LittleCMS on the picture itself, by the way of its own transform.
    transform = ImageCms.buildTransform(own, target, "RGB", "RGB", ImageCms.Intent.RELATIVE_COLORIMETRIC)
    wanted = np.array(ImageCms.applyTransform(picture, transform))[8, 8][::-1]
    assert np.abs(shown[:3].astype(int) - wanted).max() <= 3
    assert np.abs(plain[:3].astype(int) - np.array(RED[::-1])).max() <= 3
    assert np.abs(shown[:3].astype(int) - plain[:3]).max() > 50


def test_alpha_stays_beside_a_profile_and_damaged_profiles_are_passed_over():
    picture = Image.new("RGBA", (8, 8), (*RED, 128))
    shown = decoded(encoded(picture, "PNG", icc_profile=wide_profile()))
    assert shown[4, 4, 3] == 128 and shown[4, 4, :3].max() <= 128
    for profile in (b"nonsense", wide_profile()[:200], b""):
        assert decoded(encoded(Image.new("RGB", (8, 8), RED), "PNG", icc_profile=profile)).shape == (8, 8, 4)


@pytest.mark.parametrize("mode", ["RGB", "L"])
@pytest.mark.parametrize("turn", range(1, 9))
def test_pictures_are_turned_as_their_camera_noted(mode, turn):
    own = np.zeros((16, 32), np.uint8)
    own[:8, :8] = 255
    exif = Image.Exif()
    exif[0x0112] = turn
    data = encoded(Image.fromarray(own).convert(mode), "JPEG", exif=exif, quality=95)
    facts = check_picture(data)
    found = decoded(data)
    wanted = (16, 32) if turn >= 5 else (32, 16)
    assert (facts.width, facts.height) == wanted == found.shape[1::-1]
    corners = {1: (0, 0), 2: (0, -1), 3: (-1, -1), 4: (-1, 0), 5: (0, 0), 6: (0, -1), 7: (-1, -1), 8: (-1, 0)}
    assert found[..., 0][corners[turn]] > 200


def test_depths_and_kinds_of_colour_become_eight_bit():
    deep = np.full((8, 8), 0x8000, np.uint16)
    assert abs(int(decoded(cv2.imencode(".png", deep)[1].tobytes())[4, 4, 0]) - 128) <= 1
    colours = np.full((8, 8, 3), (0x1000, 0x8000, 0xF000), np.uint16)
    found = decoded(cv2.imencode(".png", colours)[1].tobytes())[4, 4]
    assert np.abs(found[:3].astype(int) - (0x10, 0x80, 0xF0)).max() <= 1
    cmyk = decoded(encoded(Image.new("CMYK", (8, 8), (0, 255, 255, 0)), "JPEG", quality=95))[4, 4]
    assert cmyk[2] > 200 and cmyk[:2].max() < 60
    palette = Image.new("P", (8, 8), 1)
    palette.putpalette([0, 0, 0, *RED])
    assert tuple(decoded(encoded(palette, "PNG", transparency=0))[4, 4]) == (*RED[::-1], 255)


def test_halves_are_means_and_odd_sides_are_kept():
    pixels = np.zeros((5, 7, 4), np.uint8)
    pixels[..., 3], pixels[4, 6] = 255, (200, 200, 200, 255)
    found = halve(pixels)
    assert found.shape == (3, 4, 4) and tuple(found[2, 3]) == (200, 200, 200, 255)
    rng = np.random.default_rng(2)
    even = rng.integers(0, 256, (40, 60, 4), np.uint8)
    mean = even.reshape(20, 2, 30, 2, 4).mean(axis=(1, 3))
    assert np.abs(halve(even) - mean).max() <= 0.5


def test_a_large_picture_is_read_at_the_size_that_is_needed(tmp_path):
    rng = np.random.default_rng(3)
    small = cv2.resize(rng.integers(0, 255, (30, 50, 3), np.uint8), (5000, 3000), interpolation=cv2.INTER_LINEAR)
    path = tmp_path / "large.jpg"
    path.write_bytes(cv2.imencode(".jpg", small)[1].tobytes())
    fresh = scaled(str(path), 640, 384).copy()
    SHARED_CACHE.clear()
    levels = tmp_path / f"large.jpg{LEVELS}"
    facts = prepare_picture(path, levels)
    assert (facts.width, facts.height) == (5000, 3000)
    assert sorted(item.name for item in levels.iterdir()) == ["1.png", "2.png", "3.png"]
    # The same pixels, with levels that were prepared and without.
    assert np.array_equal(scaled(str(path), 640, 384), fresh)
    assert 0 < SHARED_CACHE.held()["picture.media.pictures.level"] < 3 * 640 * 384 * 4 * 4
    exact = cv2.resize(small, (640, 384), interpolation=cv2.INTER_AREA).astype(int)
    assert np.abs(fresh[..., :3] - exact).mean() < 1.5


@pytest.mark.parametrize(("width", "height"), [(60_000, 3), (3, 20_000), (12_000, 12_000), (2**31 - 1, 2**31 - 1)])
def test_pictures_that_are_too_large_are_refused_by_their_head(width, height):
    with pytest.raises(PictureError):
        picture_facts(lying_png(width, height))
