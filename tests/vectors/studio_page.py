"""What the server sends with the studio's page, of a project with layers of several kinds, for the tests of its scripts.

Usage: python -m tests.vectors.studio_page > FILE
"""

from __future__ import annotations

import re
import sys
import tempfile
from pathlib import Path

from velvetdrum.scene.document import new_document, new_layer
from velvetdrum.scene.frames import FrameSize, parse_rate
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.store import projects
from velvetdrum.studio.app import create_app


def page_data() -> str:
    """The JSON that the page of a project holds."""
    with tempfile.TemporaryDirectory(prefix="velvetdrum-page-") as folder:
        app = create_app(Path(folder))
        services = app.extensions["services"]
        layers = [new_layer("backdrop"), new_layer("spectrum"), new_layer("text"), new_layer("group")]
        for ident, layer in zip(("ground", "bars", "title", "box"), layers, strict=True):
            layer["id"] = ident
        layers[2]["group"] = "box"
        document = new_document("Quay", frame=FrameSize(640, 360), rate=parse_rate("30"), layers=layers)
        curve = SIGNAL_KINDS["drawn"].defaults()
        document["signals"] = [
            {"id": "rise", "kind": "drawn", "name": "Rise", "colour": "#5fc4b4", "settings": curve},
            {"id": "kick", "kind": "pickup", "name": "Kick", "colour": "#ff7a66", "settings": {}},
        ]
        with app.app_context():
            ident = projects.create(services.db, document)
        page = app.test_client().get(f"/projects/{ident}", headers={"Accept": "text/html"}).get_data(as_text=True)
        services.close()
    found = re.search(r'<script type="application/json" id="given">(.*?)</script>', page, re.DOTALL)
    assert found is not None, page[:400]
    return found[1]


if __name__ == "__main__":
    sys.stdout.write(page_data())
