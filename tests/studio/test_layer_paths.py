"""A text and a logo as paths: a shape of them covers what they cover."""

import cv2
import numpy as np
import pytest

from velvetdrum.demo.pictures import lamp_svg
from velvetdrum.scene.document import new_layer


@pytest.fixture(scope="module")
def ident(studio, project):
    return studio.post(f"/projects/{project}/duplicate").json["id"]


def drawn(studio, ident, layers):
    studio.edit(ident, "/layers", [new_layer("backdrop", fill="plain", plain="#000000"), *layers])
    answer = studio.post(f"/projects/{ident}/frames", {"frames": [0], "width": 480, "form": "png"})
    at = answer.data.index(b"\x89PNG")
    pixels = cv2.imdecode(np.frombuffer(answer.data[at:], np.uint8), cv2.IMREAD_COLOR)
    return pixels.max(axis=2) > 100


def as_path(studio, ident, layer):
    answer = studio.post(f"/projects/{ident}/layers/{layer['id']}/path", {})
    assert answer.status_code == 200, answer.json
    return new_layer("shape", form="path", plain="#ffffff", **answer.json)


@pytest.mark.parametrize("words", ["Quay", "Lantern\nQuay", "& 8"])
def test_a_text_and_its_path_cover_the_same(studio, ident, words):
    text = new_layer("text", text=words, plain="#ffffff", size=20, x=40, y=60)
    before = drawn(studio, ident, [text])
    after = drawn(studio, ident, [as_path(studio, ident, text)])
    assert before.sum() > 500
    assert (before != after).sum() < 0.06 * before.sum()


def test_a_logo_and_its_path_cover_the_same(studio, ident):
    key = studio.post_file(f"/projects/{ident}/pictures", lamp_svg().encode(), "Lamp.svg").json["key"]
    logo = new_layer("logo", image=key, size=50, recolour="alpha", plain="#ffffff")
    before = drawn(studio, ident, [logo])
    after = drawn(studio, ident, [as_path(studio, ident, logo)])
    both = (before & after).sum() / (before | after).sum()
    assert before.sum() > 500 and both > 0.8


def test_what_has_no_outlines_says_so(studio, ident):
    turned = new_layer("text", text="Quay", turn=20)
    bars = new_layer("spectrum")
    drawn(studio, ident, [turned, bars])
    for layer, words in ((turned, "stands straight"), (bars, "nothing of this layer")):
        answer = studio.post(f"/projects/{ident}/layers/{layer['id']}/path", {})
        assert answer.status_code in (400, 422) and words in answer.json["error"], answer.json
    assert studio.post(f"/projects/{ident}/layers/none/path", {}).status_code == 404
