"""Exports over HTTP, and through a killed server."""

import hashlib
import io
import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from pathlib import Path
from urllib.error import URLError

import av
import pytest

from tests.conftest import song
from tests.studio.conftest import MARK, wav


def test_an_export_is_made_played_and_downloaded(studio, project):
    studio.edit(project, "/frame", {"width": 320, "height": 180})
    begun = studio.post(f"/projects/{project}/exports", {"from_s": 0.5, "to_s": 2.5})
    assert begun.status_code == 202
    state = studio.wait_export(begun.json["id"])
    assert state["state"] == "done", state
    assert (state["done"], state["frames"], state["seconds"]) == (60, 60, 2.0)
    video = studio.client.get(f"/exports/{state['id']}/video", headers={"Range": "bytes=0-99"})
    assert video.status_code == 206
    saved = studio.client.get(f"/exports/{state['id']}/video?download=1")
    assert 'filename="Harbour song 320x180.mp4"' in saved.headers["Content-Disposition"]
    assert len(saved.data) == state["bytes"]
    assert studio.get(f"/projects/{project}/exports").json[0]["id"] == state["id"]


def test_an_export_can_be_cancelled_and_gone_on_with(studio, project):
    studio.edit(project, "/frame", {"width": 1280, "height": 720})
    ident = studio.post(f"/projects/{project}/exports", {}).json["id"]
    assert studio.client.get(f"/exports/{ident}/video", headers={"Accept": "application/json"}).status_code == 404
    time.sleep(0.5)
    studio.post(f"/exports/{ident}/cancel")
    assert studio.wait_export(ident)["state"] == "cancelled"
    assert not studio.services.exports.file(studio.services.exports.find(ident)).exists()
    studio.post(f"/exports/{ident}/again")
    assert studio.wait_export(ident, 240)["state"] == "done"


def test_an_export_that_waits_for_its_turn_is_cancelled_at_once(studio, project):
    first = studio.post(f"/projects/{project}/exports", {}).json["id"]
    second = studio.post(f"/projects/{project}/exports", {}).json["id"]
    studio.post(f"/exports/{second}/cancel")
    assert studio.get(f"/exports/{second}").json["state"] == "cancelled"
    studio.post(f"/exports/{second}/again")
    studio.post(f"/exports/{first}/cancel")
    assert studio.wait_export(first)["state"] == "cancelled"
    assert studio.wait_export(second, 240)["state"] == "done"


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({"to_s": 99}, "inside"),
        ({"frame": "3x3"}, "64 to 4096"),
        ({"from_s": 2, "to_s": 1}, "after"),
        ({"from_s": "x"}, "number"),
    ],
)
def test_impossible_exports_are_refused(studio, project, body, words):
    answer = studio.post(f"/projects/{project}/exports", body)
    assert answer.status_code == (400 if words == "number" else 422)
    assert words in answer.json["error"]


class Server:
    """`velvetdrum serve` as a process of its own, to be killed."""

    def __init__(self, data: Path) -> None:
        self.data = data
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]

    def start(self) -> None:
        command = [sys.executable, "-m", "velvetdrum", "serve", "--data", str(self.data), "--port", str(self.port)]
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, start_new_session=True)
        assert "http://127.0.0.1" in self.process.stdout.readline()

    def kill(self) -> None:
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def ask(self, path: str, data: bytes | None = None, **headers: str):
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", data, MARK | headers)
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.load(answer)

    def post(self, path: str, json_: dict | None = None):
        return self.ask(path, json.dumps(json_ or {}).encode(), **{"Content-Type": "application/json"})

    def wait(self, path: str, until, seconds: float = 180):
        end = time.time() + seconds
        while time.time() < end:
            try:
                state = self.ask(path)
                if until(state):
                    return state
            except URLError:
                pass
            time.sleep(0.05)
        raise AssertionError(f"{path} did not get there")


def pictures(path: Path) -> str:
    """Hash of every decoded picture and its time."""
    digest = hashlib.sha256()
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            digest.update(f"{frame.pts}".encode() + frame.to_ndarray().tobytes())
    return digest.hexdigest()


def is_as_it_was(path: Path, at_ns: int) -> bool:
    """True for a segment that was not made again, or that is gone by now: joined, and cleaned up."""
    try:
        return path.stat().st_mtime_ns == at_ns
    except FileNotFoundError:
        return True


def test_a_killed_server_goes_on_and_ends_in_the_same_video(tmp_path):
    server = Server(tmp_path)
    server.start()
    try:
        begun = server.ask("/sounds", wav(song(24.0)), **{"X-File-Name": "night.wav"})
        project = server.wait(f"/imports/{begun['import']}", lambda s: s["state"] == "done")["project"]
        edit = {
            "revision": 1,
            "label": "Size",
            "patch": [{"op": "replace", "path": "/frame", "value": {"width": 320, "height": 180}}],
        }
        server.post(f"/projects/{project}/edits", edit)
        ident = server.post(f"/projects/{project}/exports")["id"]
        folder = tmp_path / "exports" / ident
        server.wait(f"/exports/{ident}", lambda s: (folder / "segment-00001.mp4").exists())
        server.kill()
        kept = {path.name: path.stat().st_mtime_ns for path in folder.glob("segment-*.mp4")}
        assert 2 <= len(kept) < 6
        server.start()
        assert server.ask(f"/projects/{project}/state")["revision"] == 2
        server.wait(
            f"/exports/{ident}",
            lambda s: all(is_as_it_was(folder / name, at) for name, at in kept.items()) and s["state"] == "done",
        )
        whole = server.post(f"/projects/{project}/exports")["id"]
        server.wait(f"/exports/{whole}", lambda s: s["state"] == "done")
        files = [tmp_path / "exports" / key / "video.mp4" for key in (ident, whole)]
        assert pictures(files[0]) == pictures(files[1])
    finally:
        server.kill()


def test_exports_take_turns_in_one_thread_at_the_speed_that_was_asked_for(studio, project):
    studio.edit(project, "/frame", {"width": 320, "height": 180})
    body = {"from_s": 0.5, "to_s": 1.5}
    begun = [studio.post(f"/projects/{project}/exports", body | {"speed": speed}).json for speed in ("quick", "small")]
    begun += [studio.post(f"/projects/{project}/exports", body).json for _ in range(3)]
    turns = [thread for thread in threading.enumerate() if thread.name.startswith("_take_turns")]
    assert len(turns) == 1
    ended = [studio.wait_export(item["id"]) for item in begun]
    assert [item["speed"] for item in ended] == ["Quick", "Small", "Balanced", "Balanced", "Balanced"]
    rows = [studio.services.exports.find(item["id"]) for item in ended]
    assert [row.ended_at for row in rows] == sorted(row.ended_at for row in rows)
    turns[0].join(10)
    assert not turns[0].is_alive()
    assert studio.post(f"/projects/{project}/exports", {"speed": "fast"}).status_code == 400


def test_a_plan_that_an_earlier_version_stored_is_made(studio, project):
    studio.edit(project, "/frame", {"width": 320, "height": 180})
    row = studio.services.exports.find(studio.post(f"/projects/{project}/exports", {"to_s": 1.0}).json["id"])
    old = {name: row.plan[name] for name in ("width", "height", "rate", "first", "last")} | {
        "preset": "fast",
        "crf": 17,
    }
    ident = studio.services.exports.begin(project, "old.mp4", row.document, old)
    state = studio.wait_export(ident)
    assert state["state"] == "done" and state["speed"] == "Balanced"


def test_other_formats_are_made_from_the_page(studio, project):
    studio.edit(project, "/frame", {"width": 96, "height": 64})
    asked = {"from_s": 0.0, "to_s": 0.5, "format": "webm", "transparent": "yes", "loudness": -16, "speed": "quick"}
    through = studio.post(f"/projects/{project}/exports", asked).json["id"]
    moving = studio.post(f"/projects/{project}/exports", {"from_s": 0.0, "to_s": 0.5, "format": "gif"}).json["id"]
    state = studio.wait_export(through)
    assert state["state"] == "done", state
    assert state["name"].endswith("96x64 transparent.webm") and state["shown"] == "video"
    with av.open(str(studio.services.exports.file(studio.services.exports.find(through)))) as video:
        assert [stream.codec_context.name for stream in video.streams] == ["vp9", "opus"]
    state = studio.wait_export(moving)
    assert state["state"] == "done" and state["shown"] == "image"
    answer = studio.client.get(f"/exports/{moving}/video")
    assert answer.mimetype == "image/gif" and answer.data[:6] == b"GIF89a"
    # What a format can't hold, and captions that are not there, are refused before anything is drawn.
    for body, words in (
        ({"transparent": "yes"}, "can't hold transparency"),
        ({"captions": "inside"}, "no cues in this part"),
        ({"format": "avi"}, "format"),
    ):
        refused = studio.post(f"/projects/{project}/exports", body)
        assert refused.status_code in (400, 409, 422) and words in refused.json["error"], refused.json


def test_size_and_rate_are_chosen_for_one_export_alone(studio, project):
    asked = {"frame": "640x360", "rate": "60", "speed": "quick", "from_s": 1.0, "to_s": 1.5}
    before = studio.state(project)
    export = studio.post(f"/projects/{project}/exports", asked).json
    assert (export["width"], export["height"], export["frames"]) == (640, 360, 30)
    assert studio.wait_export(export["id"])["state"] == "done"
    with av.open(io.BytesIO(studio.get(f"/exports/{export['id']}/video").data)) as made:
        (video,) = made.streams.video
        assert (video.width, video.height, video.average_rate) == (640, 360, 60)
        assert video.frames == 30
    assert studio.state(project) == before
    for rate in ("0", "7/0", "fast"):
        answer = studio.post(f"/projects/{project}/exports", asked | {"rate": rate})
        assert answer.status_code == 422, answer.json
