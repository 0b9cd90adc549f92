"""The queue of exports: order, pauses, a full disk, names, estimates, and what is cleaned up."""

from __future__ import annotations

import shutil
import time
from collections import namedtuple

import pytest

from tests.studio.conftest import MARK
from tests.waiting import until
from velvetdrum.deliver.errors import NoRoom

SMALL = {"frame": "128x96", "speed": "quick", "to_s": 1.0}


@pytest.fixture
def paused(studio, project):
    """A project, and a queue that stands still until the test lets it go on."""
    studio.post("/exports/queue", {"paused": "yes"})
    yield project
    studio.post("/exports/queue", {"paused": "no"})


def asked(studio, project, **more):
    answer = studio.post(f"/projects/{project}/exports", SMALL | more)
    assert answer.status_code == 202, answer.json
    return answer.json["id"]


def line(studio):
    return [item for item in studio.get("/exports").json["exports"] if item["state"] in ("waiting", "running")]


def test_a_queue_that_stands_still_is_put_in_order_and_goes_on_in_it(studio, paused):
    one, two, three = (asked(studio, paused, name=f"{{project}} {n}") for n in "abc")
    assert [item["id"] for item in line(studio)] == [one, two, three]
    studio.post(f"/exports/{three}/first")
    assert [item["id"] for item in line(studio)] == [three, one, two]
    studio.post("/exports/order", {"ids": [two, three, one]})
    assert [item["id"] for item in line(studio)] == [two, three, one]
    studio.post(f"/exports/{three}/pause")
    assert studio.get("/exports").json["paused"] and not any(item["done"] for item in line(studio))
    studio.post("/exports/queue", {"paused": "no"})
    assert studio.wait_export(one)["state"] == "done"
    waits = studio.get(f"/exports/{three}").json
    assert (waits["state"], waits["held"]) == ("waiting", "paused")
    # The one that was put first ended first.
    ended = [item["id"] for item in studio.get("/exports").json["exports"] if item["state"] == "done"]
    assert ended.index(one) < ended.index(two)
    studio.post(f"/exports/{three}/again")
    assert studio.wait_export(three)["state"] == "done"


def test_one_that_runs_is_paused_where_it_is_and_others_go_on(studio, project):
    long = asked(studio, project, frame="1280x720", to_s=None, speed="small")
    short = asked(studio, project)
    until(lambda: studio.get(f"/exports/{long}").json["state"] == "running", "the export")
    studio.post(f"/exports/{long}/pause")
    assert studio.wait_export(short)["state"] == "done"
    assert studio.get(f"/exports/{long}").json["held"] == "paused"
    studio.post(f"/exports/{long}/cancel")
    assert studio.get(f"/exports/{long}").json["state"] == "cancelled"


def test_a_paused_queue_stays_so_over_a_restart(studio, paused):
    ident = asked(studio, paused)
    here = studio.services.exports
    here._all_parked = False
    here.resume()
    time.sleep(0.3)
    assert studio.get(f"/exports/{ident}").json["done"] == 0 and here.paused
    studio.post(f"/exports/{ident}/cancel")


def test_without_room_it_waits_for_it_and_goes_on_by_itself(studio, project, monkeypatch):
    room = namedtuple("room", "total used free")
    free = {"bytes": 5_000_000}
    monkeypatch.setattr(shutil, "disk_usage", lambda path: room(10**9, 0, free["bytes"]))
    monkeypatch.setattr("velvetdrum.studio.jobs.exports._ROOM_S", 0.1)
    refused = {"times": 0}

    def full(job, executor, workers, output, progress, cancelled):
        if free["bytes"] < 10**8:
            refused["times"] += 1
            raise NoRoom("The video could not be written: No space left on device.")
        from velvetdrum.deliver.export import run_export

        run_export(job, executor, workers, output, progress, cancelled)

    monkeypatch.setattr("velvetdrum.studio.jobs.exports.run_export", full)
    ident = asked(studio, project)
    until(lambda: studio.get(f"/exports/{ident}").json["held"] == "room", "the want of room")
    state = studio.get(f"/exports/{ident}").json
    assert "the disk is full. 19 MB are missing" in state["error"] and state["state"] == "waiting"
    # Tried once, not over and over while there is none.
    time.sleep(0.5)
    assert refused["times"] == 1
    free["bytes"] = 10**9
    assert studio.wait_export(ident)["state"] == "done"


def test_names_come_from_a_pattern_and_are_told_apart(studio, paused):
    studio.edit(paused, "/name", "Night: one/two")
    first = asked(studio, paused, name="{project} {frame} {length}")
    second = asked(studio, paused, name="{project} {frame} {length}")
    names = [studio.get(f"/exports/{ident}").json["name"] for ident in (first, second)]
    assert names == ["Night one two wide 1s.mp4", "Night one two wide 1s 2.mp4"]
    wrong = studio.post(f"/projects/{paused}/exports", SMALL | {"name": "{title}"})
    assert wrong.status_code == 422 and "{title} is no field of a name" in wrong.json["error"]
    empty = studio.post(f"/projects/{paused}/exports", SMALL | {"name": " ./ "})
    assert empty.status_code == 422 and "no letter left" in empty.json["error"]
    for ident in (first, second):
        studio.post(f"/exports/{ident}/cancel")


def test_an_estimate_is_within_bounds_and_says_the_room(studio, project):
    answer = studio.post(f"/projects/{project}/estimate", {"frame": "320x180", "speed": "quick"}).json
    ident = asked(studio, project, frame="320x180", to_s=None)
    state = studio.wait_export(ident)
    assert answer["bytes"] == pytest.approx(state["bytes"], rel=0.3) and answer["free_bytes"] > 0
    assert 0 < answer["seconds"] < 60 and answer["frame_ms"] > 0
    for form in ("gif", "still-png", "contact-sheet", "sound-flac"):
        other = studio.post(f"/projects/{project}/estimate", SMALL | {"format": form})
        assert other.status_code == 200 and other.json["bytes"] > 0, other.json


def test_what_is_made_is_looked_at_and_can_be_cleaned_up_and_made_again(studio, project):
    ident = asked(studio, project, loudness=-20.0)
    state = studio.wait_export(ident)
    until(lambda: studio.get(f"/exports/{ident}").json["found"], "the look at the file")
    state = studio.get(f"/exports/{ident}").json
    assert state["found"]["loudness_lufs"] == pytest.approx(-20, abs=0.3) and state["found"]["flashes"] == 0
    before = state["bytes"]
    freed = studio.post("/exports/remove", {"ids": [ident]}).json
    assert freed["freed_bytes"] >= before
    gone = studio.get(f"/exports/{ident}").json
    assert gone["removed"] and gone["state"] == "done" and gone["name"] == state["name"]
    assert studio.client.get(f"/exports/{ident}/video").status_code == 404
    studio.post(f"/exports/{ident}/again")
    again = studio.wait_export(ident)
    assert again["bytes"] == pytest.approx(before, rel=0.01) and not again["removed"]


def test_one_press_makes_many_kinds_of_files(studio, paused):
    wanted = [
        {"frame": "128x72"},
        {"frame": "96x96"},
        {"frame": "72x128"},
        {"format": "webm", "transparent": "yes"},
        {"format": "gif"},
        {"format": "still-jpeg"},
        {"format": "contact-sheet", "moments": 4},
        {"format": "sound-opus"},
        {"format": "mp4-av1", "seamless": "yes", "fade_in": 0.1},
        {"megabytes": 0.2},
    ]
    made = [asked(studio, paused, **more) for more in wanted]
    studio.post("/exports/queue", {"paused": "no"})
    for ident in made:
        state = studio.wait_export(ident, 120)
        assert state["state"] == "done", state
        saved = studio.client.get(f"/exports/{ident}/video?download=1")
        assert saved.status_code == 200 and len(saved.data) == state["bytes"] > 100


def test_what_is_asked_for_is_kept_by_name(studio):
    asked = {
        "wanted": ["mp4", "webm+"],
        "shapes": ["tall"],
        "speed": "quick",
        "short": "2160",
        "rate": "60",
        "loudness": "-14",
        "truePeak": "-1",
        "captions": "none",
        "name": "{project} {size}",
        "channel": "",
        "fadeIn": 0,
        "fadeOut": 1.5,
        "megabytes": "",
    }
    first = studio.post("/export-settings", {"name": " Short clips ", "asked": asked}).json["id"]
    # One that has that name is replaced.
    assert (
        studio.post("/export-settings", {"name": "Short clips", "asked": asked | {"speed": "small"}}).json["id"]
        == first
    )
    (kept,) = studio.get("/export-settings").json["kept"]
    assert kept["name"] == "Short clips" and kept["asked"] == asked | {"speed": "small"}
    # Those that were kept before sizes and rates could be chosen are asked for as the project is.
    earlier = {name: value for name, value in asked.items() if name not in ("short", "rate")}
    studio.post("/export-settings", {"name": "Short clips", "asked": earlier})
    (kept,) = studio.get("/export-settings").json["kept"]
    assert kept["asked"] == earlier | {"short": "", "rate": ""}
    assert studio.post("/export-settings", {"name": " ", "asked": asked}).status_code == 422
    for wrong in (asked | {"wanted": []}, asked | {"fadeIn": -1}, asked | {"more": 1}):
        assert studio.post("/export-settings", {"name": "Wrong", "asked": wrong}).status_code == 400
    assert studio.client.delete(f"/export-settings/{first}", headers=MARK).status_code == 200
    assert studio.client.delete(f"/export-settings/{first}", headers=MARK).status_code == 404
