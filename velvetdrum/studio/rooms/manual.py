"""The manual: its pages, its pictures, and the list of its sections."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import Blueprint, Response, abort, jsonify, render_template, send_from_directory

from velvetdrum.declare.schema import Declared
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.studio import manual

blueprint = Blueprint("manual", __name__)

_GONE = "The manual has no such page."


@blueprint.get("/manual")
def contents() -> Any:
    """All sections of the manual, and where each kind of layer and of signal is written about."""
    listed = [{"title": section.title, "address": _address(section)} for section in manual.sections()]
    return jsonify(sections=listed, layers=_places(LAYER_KINDS), signals=_places(SIGNAL_KINDS))


@blueprint.get("/manual/<page>")
def page(page: str) -> str:
    """A page of the manual."""
    if page not in manual.page_names():
        abort(404, _GONE)
    return render_template("manual_page.html", body=manual.page_html(page))


@blueprint.get("/manual/pictures/<name>")
def picture(name: str) -> Response:
    """A picture of the manual."""
    folder = manual.FOLDER / "figures"
    if not (folder / name).is_file():
        folder = manual.FOLDER.parent / "screenshots"
    answer = send_from_directory(folder, name)
    answer.headers["Cache-Control"] = "max-age=86400"
    return answer


def _places(kinds: Mapping[str, type[Declared]]) -> dict[str, str]:
    sections = {kind: manual.section_about(cls.title) for kind, cls in kinds.items()}
    return {kind: _address(section) for kind, section in sections.items() if section is not None}


def _address(section: manual.Section) -> str:
    return f"/manual/{section.page}#{section.anchor}"
