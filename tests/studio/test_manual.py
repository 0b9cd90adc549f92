"""The manual beside the work: pages, links, pictures, and where each kind is written about."""

import re

import pytest

from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.studio import manual


@pytest.fixture(scope="module")
def pages():
    return {name: manual.page_html(name) for name in manual.page_names()}


def test_every_link_leads_to_a_heading_that_there_is(pages):
    ids = {name: set(re.findall(r'id="([^"]+)"', html)) for name, html in pages.items()}
    links = [(name, link) for name, html in pages.items() for link in re.findall(r'href="([^"]+)"', html)]
    assert len(links) > 20
    for name, link in links:
        page, _, anchor = link.removeprefix("/manual/").partition("#")
        assert link.startswith("/manual/") and page in pages, (name, link)
        assert not anchor or anchor in ids[page], (name, link)


def test_sections_are_headings_of_their_pages_and_have_no_markup(pages):
    for section in manual.sections():
        assert f'id="{section.anchor}"' in pages[section.page], section
        assert not re.search(r"[`*\]]", section.title), section


def test_every_picture_is_served(studio, pages):
    pictures = {link for html in pages.values() for link in re.findall(r'src="([^"]+)"', html)}
    assert len(pictures) > 15
    for address in pictures:
        answer = studio.get(address)
        assert answer.status_code == 200 and answer.mimetype.startswith("image/"), address


def test_every_kind_of_layer_has_its_place(studio):
    answer = studio.get("/manual").json
    kinds = answer["layers"]
    assert set(kinds) == set(LAYER_KINDS) and set(answer["signals"]) == set(SIGNAL_KINDS)
    assert kinds["particles"] == "/manual/particles#particles"
    assert kinds["meter"] == "/manual/figures#meters"
    assert kinds["footage"].startswith("/manual/scenes#")


@pytest.mark.parametrize("name", ["nothing", "../security", "%2e%2e%2fsecurity", "figures-notes"])
def test_a_page_that_is_none_is_told(studio, name):
    answer = studio.get(f"/manual/{name}")
    assert answer.status_code == 404


def test_a_picture_from_elsewhere_is_not_served(studio):
    assert studio.get("/manual/pictures/..%2f..%2fsecurity.md").status_code == 404
    assert studio.get("/manual/pictures/reference.md").status_code == 404


def test_a_page_stands_in_a_window_of_its_own(studio):
    answer = studio.get("/manual/hands")
    assert answer.status_code == 200
    assert "<h1" in answer.text and "Working fast" in answer.text
