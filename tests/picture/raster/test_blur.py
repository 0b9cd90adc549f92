"""The soft blur against exact convolution, and where it leaves things."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from velvetdrum.picture.raster.blur import gaussian


def picture():
    """Discs and bars with sharp edges, premultiplied, 200x320."""
    rng = np.random.default_rng(4)
    y, x = np.mgrid[0:200, 0:320]
    out = np.zeros((200, 320, 4), np.uint8)
    for _ in range(40):
        at, radius = rng.uniform((0, 0), (320, 200)), rng.uniform(2, 30)
        inside = np.hypot(x - at[0], y - at[1]) < radius
        out[inside] = [*rng.integers(0, 256, 3), 255]
    return out


@pytest.mark.parametrize("sigma", [0.4, 0.9, 1.7, 2.9, 3.1, 5.0, 6.3, 9.0, 12.0, 17.5, 20.0, 33.0, 60.0])
def test_a_blur_is_as_exact_as_45_db(sigma):
    pixels = picture()
    exact = np.stack(
        [gaussian_filter(pixels[..., k].astype(np.float64), sigma, mode="constant", truncate=6) for k in range(4)], -1
    )
    found = gaussian(pixels, sigma)
    assert 10 * np.log10(255**2 / np.mean((found - exact) ** 2)) > 45
    # Colours stay premultiplied to a level.
    assert (found[..., :3].astype(int) <= found[..., 3:].astype(int) + 1).all()


@pytest.mark.parametrize("size", [(180, 180), (180, 320), (181, 317), (97, 55)])
def test_nothing_shifts_whatever_the_size(size):
    height, width = size
    pixels = np.zeros((height, width, 4), np.uint8)
    y, x = height // 2, width // 2
    pixels[y - 8 : y + 8, x - 8 : x + 8] = 255
    for sigma in (1.0, 2.0, 4.0, 7.0, 13.0):
        found = gaussian(pixels, sigma)[..., 3].astype(float)
        # What reaches beyond an edge is cut off, there as here.
        exact = gaussian_filter(pixels[..., 3].astype(float), sigma, mode="constant", truncate=7)
        rows, columns = np.mgrid[0:height, 0:width]
        middles = [np.array([(p * rows).sum(), (p * columns).sum()]) / p.sum() for p in (found, exact)]
        assert np.abs(middles[0] - middles[1]).max() < 0.1


@pytest.mark.parametrize("sigma", [5.0, 9.0, 12.0, 16.0, 23.9, 45.0, 60.0])
def test_beside_a_hard_edge_and_far_from_a_light_it_is_as_exact(sigma):
    """Within 3.5 levels at an edge, wherever it lies in the cells of the small copy; and no light is lost."""
    for place in (240, 243, 250):
        pixels = np.zeros((270, 480, 4), np.uint8)
        pixels[:, :place] = 255
        exact = gaussian_filter(pixels[..., 3].astype(float), sigma, mode="constant", truncate=7)
        assert np.abs(gaussian(pixels, sigma)[..., 3] - exact).max() < 3.5
    pixels = np.zeros((540, 960, 4), np.uint8)
    pixels[200:300, 400:433] = 255
    exact = gaussian_filter(pixels[..., 3].astype(float), sigma, mode="constant", truncate=7)
    lost = gaussian(pixels, sigma)[..., 3].astype(float).sum() / exact.sum() - 1
    assert abs(lost) < 0.002
