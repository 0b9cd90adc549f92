"""The picture room's routes: choices, palettes, pictures, paths, fits."""

import base64

import cv2
import numpy as np
import pytest

from tests.studio.conftest import MARK
from velvetdrum.looks.presets import choices as all_choices
from velvetdrum.scene.document import new_layer


def png(colour=(0, 0, 255), size=(40, 60)):
    picture = np.zeros((*size, 3), np.uint8)
    picture[:] = colour
    return cv2.imencode(".png", picture)[1].tobytes()


def send(studio, path, data, **headers):
    return studio.client.post(path, data=data, headers=MARK | headers)


def test_choices_are_drawn_from_the_projects_own_sound(studio, project):
    listed = studio.get("/choices").json
    assert [choice["name"] for choice in listed["choices"]] == [choice.design.name for choice in all_choices()]
    assert {choice["family"] for choice in listed["choices"]} == set(listed["families"])
    choices = []
    for first in range(0, len(listed["choices"]), 12):
        answer = studio.post(f"/projects/{project}/choices", {"first": first, "count": 12})
        assert answer.status_code == 200
        choices += answer.json["choices"]
    assert [choice["name"] for choice in choices] == [choice["name"] for choice in listed["choices"]]
    # Beyond the last one there is nothing.
    beyond = {"first": len(choices), "count": 1}
    assert studio.post(f"/projects/{project}/choices", beyond).json == {"choices": []}
    pictures = []
    for choice in choices:
        data = base64.b64decode(choice["picture"].removeprefix("data:image/jpeg;base64,"))
        pictures.append(cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR))
    assert all(picture.shape == pictures[0].shape for picture in pictures)
    assert len({picture.tobytes() for picture in pictures}) > len(all_choices()) - 2
    # What is chosen is a layer that the project takes as it is.
    layers = studio.state(project)["document"]["layers"]
    assert studio.edit(project, "/layers", [*layers, choices[4]["layer"]]).status_code == 200
    assert studio.edit(project, "/layers", layers).status_code == 200


def test_palettes_are_kept_for_all_projects(studio):
    before = studio.get("/palettes").json["palettes"]
    assert len(before) >= 5 and all(palette["id"] is None for palette in before)
    stops = [{"at": 0, "colour": "#112233"}, {"at": 1, "colour": "#ffffff"}]
    ident = studio.post("/palettes", {"name": " Quayside ", "stops": stops}).json["id"]
    kept = studio.get("/palettes").json["palettes"][0]
    assert (kept["id"], kept["name"], kept["stops"]) == (ident, "Quayside", stops)
    assert studio.post("/palettes", {"name": "Quayside", "stops": stops[:1]}).json["id"] == ident
    assert len(studio.get("/palettes").json["palettes"][0]["stops"]) == 1
    assert studio.client.delete(f"/palettes/{ident}", headers=MARK).status_code == 200
    assert studio.client.delete(f"/palettes/{ident}", headers=MARK).status_code == 404
    assert studio.get("/palettes").json["palettes"] == before


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"name": "", "stops": [{"at": 0, "colour": "#112233"}]}, "needs a name"),
        ({"name": "x" * 61, "stops": [{"at": 0, "colour": "#112233"}]}, "up to 60"),
        ({"name": "A", "stops": []}, "between 1 and"),
        ({"name": "A", "stops": [{"at": 0, "colour": "teal"}]}, "a colour like"),
    ],
)
def test_palettes_that_are_refused(studio, given, words):
    answer = studio.post("/palettes", given)
    assert answer.status_code == 422 and words in answer.json["error"]


def test_a_palette_is_read_from_css_from_a_picture_and_from_a_frame(studio, project):
    read = studio.post("/palettes/read", {"text": "linear-gradient(90deg, red, blue 25%, #fff)"})
    assert read.json["stops"] == [
        {"at": 0, "colour": "#ff0000"},
        {"at": 0.25, "colour": "#0000ff"},
        {"at": 1, "colour": "#ffffff"},
    ]
    assert studio.post("/palettes/read", {"text": "no colour"}).status_code == 422
    picture = np.zeros((40, 60, 3), np.uint8)
    picture[:, :20], picture[:, 20:40], picture[:, 40:] = (30, 20, 10), (0, 0, 200), (200, 220, 240)
    stops = send(studio, "/palettes/picture?count=3", cv2.imencode(".png", picture)[1].tobytes()).json["stops"]
    assert [stop["at"] for stop in stops] == [0, 0.5, 1]
    found = [tuple(int(stop["colour"][i : i + 2], 16) for i in (1, 3, 5)) for stop in stops]
    assert np.allclose(found, [(10, 20, 30), (200, 0, 0), (240, 220, 200)], atol=3)
    assert send(studio, "/palettes/picture", b"no picture").status_code == 422
    assert len(studio.post(f"/projects/{project}/palette", {"frame": 30}).json["stops"]) == 5
    assert studio.post(f"/projects/{project}/palette", {"frame": 10**6}).status_code == 400


def test_a_picture_is_kept_shown_and_goes_into_the_project_file(studio, project):
    answer = send(studio, f"/projects/{project}/pictures", png(), **{"X-File-Name": "Flag.png"})
    assert answer.json["width"] == 60 and answer.json["height"] == 40
    key = answer.json["key"]
    small = studio.get(f"/pictures/{key}")
    assert small.mimetype == "image/jpeg"
    assert studio.get(f"/pictures/{'0' * 64}").status_code == 404
    layers = studio.state(project)["document"]["layers"]
    meter = new_layer(
        "meter",
        look="uncover",
        image=key,
        columns="mono",
        stands="lying",
        length=150.0,
        low_db=-90.0,
        ballistics="peak",
        scale=False,
    )
    studio.edit(project, "/layers", [layers[0], meter])
    drawn = studio.post(f"/projects/{project}/frames", {"frames": [60], "width": 320, "form": "png"}).data
    picture = cv2.imdecode(np.frombuffer(drawn[8:], np.uint8), cv2.IMREAD_COLOR)
    assert ((picture[..., 2] > 240) & (picture[..., 1] < 20)).sum() > 2000
    file = studio.get(f"/projects/{project}/file").data
    other = studio.bring(file, "Harbour.vdrum")
    again = studio.post(f"/projects/{other['project']}/frames", {"frames": [60], "width": 320, "form": "png"}).data
    assert again == drawn
    studio.edit(project, "/layers", layers)


@pytest.mark.parametrize(
    ("data", "status", "words"),
    [
        (b"", 422, "no picture"),
        (b"GIF89a", 422, "no picture"),
        (png()[:60], 422, "damaged|no picture"),
        (b"\0" * 60_000_001, 413, "60 MB"),
    ],
)
def test_pictures_that_are_refused(studio, project, data, status, words):
    answer = send(studio, f"/projects/{project}/pictures", data)
    if answer.status_code == 200:
        # The head is whole: it is found damaged when it is first shown, and drawn as a field of its own.
        assert studio.get(f"/pictures/{answer.json['key']}").status_code == 422
        return
    assert answer.status_code == status
    import re

    assert re.search(words, answer.json["error"])


def test_an_svg_files_shapes_come_as_path_data(studio):
    file = b"<svg xmlns='http://www.w3.org/2000/svg'><rect width='20' height='10'/></svg>"
    assert send(studio, "/paths", file).json["path"].startswith("M0 0")
    refused = send(studio, "/paths", b"<!DOCTYPE svg [<!ENTITY x 'y'>]><svg>&x;</svg>")
    assert refused.status_code == 422 and "entities" in refused.json["error"]


def test_fit_reads_what_a_figure_needs(studio, project):
    for kind, names in (
        ("spectrum", {"quiet_db", "loud_db"}),
        ("scope", {"gain_db"}),
        ("phase", {"gain_db"}),
        ("meter", set()),
    ):
        assert set(studio.post(f"/projects/{project}/fit", {"kind": kind, "settings": {}}).json) == names


def test_a_path_that_cannot_be_drawn_is_refused_beside_its_field(studio, project):
    layers = studio.state(project)["document"]["layers"]
    answer = studio.edit(project, "/layers", [*layers, new_layer("scope", base="path", path="hello")])
    assert answer.status_code == 422
    assert answer.json["problems"][0]["path"] == "/layers/2/settings/path"
    assert "no “o”" in answer.json["problems"][0]["sentence"]


@pytest.mark.parametrize("size", [(1, 16_384), (16_384, 1), (1, 1), (300, 2)])
def test_a_picture_of_any_form_has_a_palette(studio, size):
    picture = np.zeros((size[1], size[0], 3), np.uint8)
    picture[:] = (30, 60, 200)
    data = cv2.imencode(".png", picture)[1].tobytes()
    answer = studio.client.post("/palettes/picture", data=data, headers=MARK)
    assert answer.status_code == 200 and answer.json["stops"][0]["colour"] == "#c83c1e"


def test_a_layer_is_shown_when_it_is_seen_and_as_large_as_it_can_be(studio, project):
    """A word in a corner, at the end of the project alone: its picture is of that time, and mostly of that corner."""
    ident = studio.post(f"/projects/{project}/duplicate").json["id"]
    word = new_layer("text", text="Quay", size=6.0, x=88.0, y=92.0, from_at="time", from_s=3.4)
    bar = new_layer("shape", form="rectangle", width=4.0, height=4.0, x=10.0, y=10.0)
    studio.edit(ident, "/layers", [word, bar])
    body = {"layers": [word["id"], bar["id"]]}
    pictures = studio.post(f"/projects/{ident}/small-pictures", body).json["layers"]
    for layer in (word, bar):
        data = base64.b64decode(pictures[layer["id"]].partition(",")[2])
        pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
        assert pixels.shape[1] == 92
        share = (pixels.max(axis=2) > 60).mean()
        assert share > 0.008, "its whole frame would show a tenth of that"


def test_all_small_pictures_come_in_one_answer(studio, project):
    document = studio.state(project)["document"]
    ids = [layer["id"] for layer in document["layers"]]
    path = f"/projects/{project}/small-pictures"
    answer = studio.post(path, {"frame": 3, "layers": [*ids, "nobody"]}).json
    marks = studio.get(f"/projects/{project}/moments").json
    assert [(moment["name"], moment["frame"]) for moment in answer["moments"]] == [
        (mark["name"], mark["frame"]) for mark in marks
    ]
    # A layer that another window deleted is left out; the others are there.
    assert list(answer["layers"]) == ids
    pictures = [moment["picture"] for moment in answer["moments"]] + [answer["now"], *answer["layers"].values()]
    assert all(picture.startswith("data:image/jpeg;base64,") for picture in pictures)
    alone = studio.post(path, {"layers": ids[:1]}).json
    assert alone == {"moments": [], "now": "", "layers": {ids[0]: answer["layers"][ids[0]]}}
    assert studio.post(path, {"frame": 1 << 30, "layers": []}).status_code == 200, "beyond the end is the last frame"
    assert studio.post(path, {"layers": ids[:1] * 13}).status_code == 400
