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


PARTED = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 200"><defs><linearGradient id="g"><stop stop-color="#fff"/>
</linearGradient></defs><g transform="translate(0 10)"><circle id="ground" cx="100" cy="100" r="60" fill="url(#g)"/>
<g id="tower" fill="#fff"><rect x="90" y="10" width="20" height="60"/><rect x="80" y="0" width="40" height="12"/></g>
<path id="wave" d="M20 170h160v12H20z" fill="#fff"/></g></svg>"""


def brought(studio, ident, svg):
    return studio.post_file(f"/projects/{ident}/pictures", svg.encode(), "Mark.svg").json["key"]


def test_a_logo_is_taken_apart_and_its_parts_together_are_the_whole(studio, ident):
    logo = new_layer("logo", image=brought(studio, ident, PARTED), size=80)
    whole = drawn(studio, ident, [logo])
    answer = studio.post(f"/projects/{ident}/layers/{logo['id']}/parts", {})
    parts = answer.json["parts"]
    assert [item["settings"]["part"] for item in parts] == ["ground", "tower", "wave"]
    layers = [new_layer("logo", **(logo["settings"] | item["settings"])) for item in parts]
    together = drawn(studio, ident, layers)
    assert whole.sum() > 5000 and (whole != together).sum() < 0.01 * whole.sum()
    apart = [drawn(studio, ident, [layer]) for layer in layers]
    assert all(part.sum() > 300 for part in apart)
    assert sum(part.sum() for part in apart) == pytest.approx(whole.sum(), rel=0.05), "none is in another"
    # Each is a path of its own, too, whose strokes can be drawn on.
    drawn(studio, ident, layers)
    tower = studio.post(f"/projects/{ident}/layers/{layers[1]['id']}/path", {}).json
    covered = drawn(studio, ident, [new_layer("shape", form="path", plain="#ffffff", **tower)])
    assert (covered & apart[1]).sum() / (covered | apart[1]).sum() > 0.85


STROKED = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 100"><style>.l{stroke:#5fc4b4;stroke-width:4}</style>
<path id="line" class="l" fill="none" d="M20 50H180"/><g id="box" transform="scale(2)"><rect x="10" y="35" width="20"
height="10" fill="#ff7a66"/></g></svg>"""


def test_parts_in_one_colour_take_it_as_theirs_and_have_their_strokes(studio, ident):
    """Their colours go with those of the project then, and each stroke is drawn on as wide as it stood."""
    logo = new_layer("logo", image=brought(studio, ident, STROKED), size=80)
    whole = drawn(studio, ident, [logo])
    line, box = studio.post(f"/projects/{ident}/layers/{logo['id']}/parts", {}).json["parts"]
    assert (line["settings"]["recolour"], line["settings"]["plain"]) == ("alpha", "#5fc4b4")
    assert box["settings"]["plain"] == "#ff7a66" and line["stroke"]["plain"] == "#5fc4b4"
    assert line["stroke"]["stroke"] == pytest.approx(80 * 4 / 200, rel=0.02), "of the short side"
    strokes = [new_layer("shape", **item["stroke"]) for item in (line, box)]
    alone = drawn(studio, ident, strokes[:1])
    assert alone.sum() == pytest.approx((whole & alone).sum(), rel=0.1) and alone.sum() > 100
    half = drawn(studio, ident, [strokes[0] | {"settings": strokes[0]["settings"] | {"draw_to": 50.0}}])
    assert half.sum() == pytest.approx(alone.sum() / 2, rel=0.1)


def test_what_has_no_parts_says_so(studio, ident):
    plain = new_layer("logo", image=brought(studio, ident, lamp_svg()))
    empty, bars = new_layer("logo"), new_layer("spectrum")
    gone = new_layer("logo", image=brought(studio, ident, PARTED), part="nobody")
    drawn(studio, ident, [plain, empty, bars])
    for layer, words in ((plain, "no parts with ids"), (empty, "Only an SVG"), (bars, "no parts to be taken")):
        answer = studio.post(f"/projects/{ident}/layers/{layer['id']}/parts", {})
        assert answer.status_code in (400, 422) and words in answer.json["error"], answer.json
    assert studio.post(f"/projects/{ident}/layers/none/parts", {}).status_code == 404
    # The place of a part that is gone is marked, as that of a picture that is gone.
    assert drawn(studio, ident, [gone]).shape == (270, 480)
