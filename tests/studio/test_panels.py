"""The panels of the page: each one's markup uses the parts that its component gives it, all of them and no others."""

from __future__ import annotations

import re
from html.parser import HTMLParser
from pathlib import Path
from types import SimpleNamespace

import pytest
from flask import render_template

import velvetdrum.studio
from velvetdrum.studio.app import create_app

SCRIPTS = Path(velvetdrum.studio.__file__).parent / "static/js"
_ALONE = {"input", "img", "link", "meta", "br", "hr"}


def parts() -> set[str]:
    """What the studio is made of, by name."""
    made = (SCRIPTS / "studio.js").read_text(encoding="utf-8")
    return set(re.findall(r"^    this\.(\w+) = new \w+\(", made, re.M)) | {"given", "switchTheme"}


def panels() -> dict[str, set[str]]:
    """The parts that each panel's component has."""
    text = (SCRIPTS / "views/panels.js").read_text(encoding="utf-8")
    found = re.findall(r"^  (\w+): \[(.*?)\],$", text, re.M | re.S)
    return {name: set(re.findall(r'"(\w+)"', listed)) for name, listed in found}


class _Reader(HTMLParser):
    """The parts that expressions name, by the panel that they stand in."""

    def __init__(self, known: set[str]) -> None:
        super().__init__()
        self.known = known
        self.open: list[tuple[str, str | None]] = []
        self.used: dict[str, set[str]] = {}

    def handle_starttag(self, tag, attrs):
        panel = dict(attrs).get("x-data") or (self.open[-1][1] if self.open else None)
        for name, value in attrs:
            if panel and value and name.startswith(("x-", ":", "@")) and name != "x-data":
                words = re.findall(r"(?<![\w.'])[a-zA-Z]\w*", re.sub(r"'[^']*'", "''", value))
                self.used.setdefault(panel, set()).update(self.known.intersection(words))
        if tag not in _ALONE:
            self.open.append((tag, panel))

    def handle_startendtag(self, tag, attrs):
        self.handle_starttag(tag, attrs)
        if tag not in _ALONE:
            self.open.pop()

    def handle_endtag(self, tag):
        while self.open and self.open.pop()[0] != tag:
            pass


@pytest.fixture(scope="module")
def used(tmp_path_factory) -> dict[str, set[str]]:
    with create_app(tmp_path_factory.mktemp("data")).test_request_context("/"):
        page = render_template("studio.html", row=SimpleNamespace(id="1", name="Quay"), given={})
    reader = _Reader(parts())
    reader.feed(page)
    return reader.used


def test_every_panel_is_given_what_its_markup_uses_and_no_more(used):
    assert used == panels()


def test_every_part_of_the_studio_that_a_panel_names_is_made():
    assert set().union(*panels().values()) <= parts()


def test_no_template_has_a_line_over_120_characters_or_more_than_300_lines():
    for path in (SCRIPTS.parent.parent / "templates").rglob("*.html"):
        lines = path.read_text(encoding="utf-8").splitlines()
        assert len(lines) <= 300, path.name
        assert [line for line in lines if len(line) > 120] == [], path.name
