"""A studio over an empty data folder, and the few things that every test does with it."""

from __future__ import annotations

import io
import struct
from urllib.parse import quote

import numpy as np
import pytest
import soundfile

from tests.conftest import RATE, song
from tests.waiting import until
from velvetdrum.studio.app import create_app

MARK = {"X-Velvet-Drum": "1"}


def wav(samples: np.ndarray, rate: int = RATE) -> bytes:
    file = io.BytesIO()
    soundfile.write(file, samples, rate, format="WAV", subtype="PCM_16")
    return file.getvalue()


class Studio:
    """A client that sends the page's mark, with the steps that tests repeat."""

    def __init__(self, app):
        self.app, self.client = app, app.test_client()
        self.services = app.extensions["services"]

    def get(self, path, **more):
        return self.client.get(path, headers={"Accept": "application/json"}, **more)

    def post(self, path, json=None, **more):
        return self.client.post(path, json=json if json is not None else {}, headers=MARK, **more)

    def send(self, data: bytes, name: str, query: str = ""):
        return self.client.post(f"/sounds{query}", data=data, headers=MARK | {"X-File-Name": quote(name)})

    def post_file(self, path: str, data: bytes, name: str):
        return self.client.post(path, data=data, headers=MARK | {"X-File-Name": quote(name)})

    def wait_import(self, ident: str, seconds: float = 60):
        return self._ended(f"/imports/{ident}", seconds)

    def bring(self, data: bytes, name: str = "song.wav", query: str = ""):
        answer = self.send(data, name, query)
        assert answer.status_code == 202, answer.json
        return self.wait_import(answer.json["import"])

    def wait_export(self, ident: str, seconds: float = 120):
        return self._ended(f"/exports/{ident}", seconds)

    def _ended(self, path: str, seconds: float):
        def ended():
            state = self.get(path).json
            return state if state["state"] not in ("waiting", "running") else None

        return until(ended, f"the end of {path}", seconds)

    def state(self, project: str):
        return self.get(f"/projects/{project}/state").json

    def edit(self, project: str, path: str, value, revision: int | None = None, label="Edit"):
        base = self.state(project)["revision"] if revision is None else revision
        patch = [{"op": "replace", "path": path, "value": value}]
        return self.post(f"/projects/{project}/edits", {"revision": base, "label": label, "patch": patch})


def unpack(data: bytes) -> list[tuple[int, bytes]]:
    out, at = [], 0
    while at < len(data):
        number, size = struct.unpack_from("<II", data, at)
        out.append((number, data[at + 8 : at + 8 + size]))
        at += 8 + size
    return out


@pytest.fixture(scope="module")
def studio(tmp_path_factory):
    app = create_app(tmp_path_factory.mktemp("data"), upload_limit=30_000_000, exporters=1)
    made = Studio(app)
    yield made
    made.services.close()


@pytest.fixture(scope="module")
def project(studio):
    return studio.bring(wav(song(4.0)), "Harbour song.wav")["project"]
