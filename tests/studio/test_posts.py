"""Posting from the Export room: limits before, sending, what comes back."""

from __future__ import annotations

from dataclasses import replace

import pytest

from tests.channels.test_channels import serving
from tests.waiting import until


@pytest.fixture
def channels(studio, tmp_path):
    """The studio with the channels' service at hand."""
    with serving(tmp_path / "kept") as service:
        before, studio.services.posts.service = studio.services.posts.service, service
        yield service
        studio.services.posts.service = before


def waited(studio, ident, seconds=60):
    def ended():
        state = studio.get(f"/posts/{ident}").json
        return state if state["state"] != "running" else None

    return until(ended, "the end of the post", seconds)


def test_an_export_is_held_against_limits_made_and_posted(studio, project, channels):
    assert [item["id"] for item in studio.get("/channels").json][:2] == ["harbour-shorts", "lamp-square"]
    wanted = {"channel": "lamp-square", "frame": "480x480", "speed": "quick", "to_s": 1.5}
    assert studio.post(f"/projects/{project}/fitting", wanted).json == {"problems": []}
    wide = studio.post(f"/projects/{project}/fitting", wanted | {"frame": "640x360"}).json["problems"]
    assert wide == ["The frame is wide; Lamp Square takes square"]
    del wanted["channel"]
    ident = studio.post(f"/projects/{project}/exports", wanted).json["id"]
    assert studio.post(f"/exports/{ident}/posts", {"channel": "lamp-square"}).status_code == 404
    assert studio.wait_export(ident)["state"] == "done"
    good = studio.post(f"/exports/{ident}/posts", {"channel": "lamp-square", "title": "Evening"}).json
    state = waited(studio, good["id"])
    assert state["state"] == "done" and state["answer"].startswith("Posted as /posts/") and state["sent"] > 1000
    bad = waited(studio, studio.post(f"/exports/{ident}/posts", {"channel": "harbour-shorts"}).json["id"])
    assert bad["state"] == "failed" and "takes tall" in bad["answer"] and bad["answer"].startswith("Refused")
    assert len(studio.get(f"/exports/{ident}/posts").json) == 2
    assert studio.post(f"/exports/{ident}/posts", {"channel": "nowhere"}).status_code == 404


def test_a_service_that_is_away_is_told_and_tried_again(studio, project, channels):
    ident = studio.post(f"/projects/{project}/exports", {"frame": "480x480", "speed": "quick", "to_s": 1.5}).json["id"]
    assert studio.wait_export(ident)["state"] == "done"
    here = studio.services.posts
    here.service = replace(channels, address="http://127.0.0.1:9", waits_s=())
    post = studio.post(f"/exports/{ident}/posts", {"channel": "lamp-square"}).json["id"]
    state = waited(studio, post)
    assert state["state"] == "failed" and "can't be reached" in state["answer"]
    here.service = channels
    studio.post(f"/posts/{post}/again")
    assert waited(studio, post)["state"] == "done"


def test_own_channels_that_can_not_be_read_are_told(studio, project):
    own = studio.services.data / "channels.json"
    own.write_text("{")
    try:
        answer = studio.get("/channels")
        assert answer.status_code == 422 and "can't be read" in answer.json["error"]
    finally:
        own.unlink()
