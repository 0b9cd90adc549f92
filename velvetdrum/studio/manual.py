"""The manual that ships with the studio: its pages as HTML, their sections, and where a thing is written about."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from pathlib import Path

from markdown_it import MarkdownIt
from markdown_it.token import Token

FOLDER = Path(__file__).resolve().parents[2] / "docs" / "manual"
"""Where the pages are, beside the package."""
REFERENCE = "reference"
"""The page with every setting, which is made from the declarations."""

_DEEPEST = {REFERENCE: 3}
"""How deep headings are listed, where it is not 2."""
_OF_ALL = {"command-line", "first-video", "glossary", "index", "recipes", REFERENCE}
"""Pages that name everything and are about none of it."""
_TITLE_COUNTS = 40
"""How often a thing's name would have to stand in a section to weigh as much as in its title; at its begin, twice."""


@dataclass(frozen=True)
class Section:
    """A heading of a page: its text, and `anchor`, by which it is reached."""

    page: str
    anchor: str
    title: str
    text: str
    """What stands under it, up to the next heading, as it is written."""


@cache
def page_names() -> tuple[str, ...]:
    """The names of the pages, without their suffix; none where the manual did not come with the program."""
    # Notes are written into other pages.
    return tuple(sorted(path.stem for path in FOLDER.glob("*.md") if not path.stem.endswith("-notes")))


@cache
def page_html(name: str) -> str:
    """A page of `page_names` as HTML; its headings have ids, pictures and links lead to the studio's own routes."""
    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = reader.parse(_source(name))
    for token, title in _headings(tokens):
        token.attrSet("id", anchor_of(title))
    for token in tokens:
        for child in token.children or []:
            _lead_here(child)
    return str(reader.renderer.render(tokens, reader.options, {}))


@cache
def sections() -> tuple[Section, ...]:
    """All headings that are listed, in the order of the pages, the reference last."""
    names = [name for name in page_names() if name != REFERENCE]
    return tuple(section for name in [*names, REFERENCE] for section in _sections(name))


def section_about(title: str) -> Section | None:
    """Where the manual says most of a thing with this name: the section with it in its title, else that which names it
    most often, else its settings."""
    words = re.compile(rf"\b{re.escape(title)}", re.IGNORECASE)

    def weight(section: Section) -> int:
        named = words.search(section.title)
        place = 0 if named is None else 1 if named.start() else 2
        return _TITLE_COUNTS * place + len(words.findall(section.text))

    told = [section for section in sections() if section.page not in _OF_ALL]
    best = max(told, key=weight, default=None)
    if best is not None and weight(best) > 1:
        return best
    return next((section for section in sections() if section.page == REFERENCE and words.match(section.title)), best)


def anchor_of(title: str) -> str:
    """The id of a heading: its letters and digits in lower case, with hyphens between."""
    return re.sub(r"[^\w]+", "-", title.lower()).strip("-")


def _source(name: str) -> str:
    return (FOLDER / f"{name}.md").read_text("utf-8")


def _headings(tokens: list[Token]) -> list[tuple[Token, str]]:
    """The tokens that open headings, each with its text without marks."""
    return [(token, _plain(inside)) for token, inside in pairwise(tokens) if token.type == "heading_open"]


def _plain(token: Token) -> str:
    return "".join(child.content for child in token.children or [] if child.type in ("text", "code_inline")).strip()


def _sections(name: str) -> list[Section]:
    source = _source(name)
    lines = source.splitlines()
    headings = _headings(MarkdownIt("commonmark").parse(source))
    begins = [token.map[0] if token.map else 0 for token, _ in headings] + [len(lines)]
    return [
        Section(name, anchor_of(title), title.split(" (`")[0], "\n".join(lines[begins[at] + 1 : begins[at + 1]]))
        for at, (token, title) in enumerate(headings)
        if int(token.tag[1]) <= _DEEPEST.get(name, 2)
    ]


def _lead_here(token: Token) -> None:
    """Links between pages, and pictures, as the studio's routes; links to files beside the manual lead nowhere."""
    if token.type == "image":
        token.attrSet("src", f"/manual/pictures/{Path(str(token.attrGet('src'))).name}")
    if token.type == "link_open":
        page, _, anchor = str(token.attrGet("href")).partition("#")
        known = page.removesuffix(".md") in page_names()
        token.attrSet("href", f"/manual/{page.removesuffix('.md')}" + (f"#{anchor}" if anchor else "") if known else "")
        if not known:
            token.attrs.pop("href")
