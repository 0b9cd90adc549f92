"""Channels: their limits as data, the service that stands in for them, and posting to it, however it behaves."""

from __future__ import annotations

import json
import threading
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import sine
from tests.deliver.test_video import Here, make_job, white_bars
from velvetdrum.channels.client import Interrupted, NotReached, Refused, Service
from velvetdrum.channels.limits import (
    ChannelError,
    against_plan,
    known_channels,
    read_channels,
    shipped_channels,
)
from velvetdrum.channels.service import PIECE, Faults, create_service
from velvetdrum.cli.channels import by_length
from velvetdrum.deliver.export import run_export
from velvetdrum.deliver.plan import plan_export
from velvetdrum.scene.document import new_layer
from velvetdrum.scene.frames import FrameSize
from velvetdrum.studio.http.server import make_server

LIMITS = Path(__file__).parents[2] / "velvetdrum" / "channels" / "limits.json"


@contextmanager
def serving(folder, faults=None):
    """The service on a port of its own."""
    app = create_service(shipped_channels(), LIMITS.read_bytes(), folder, faults)
    server = make_server(app, by_length, host="127.0.0.1", port=0)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    try:
        yield Service(f"http://127.0.0.1:{server.effective_port}", timeout_s=30.0, waits_s=(0.01, 0.01, 0.01))
    finally:
        server.task_dispatcher.shutdown()
        server.close()


@pytest.fixture(scope="module")
def clips(tmp_path_factory):
    """A tall clip of four seconds at −15 LUFS, and the same sound as MP3."""
    folder = tmp_path_factory.mktemp("clips")
    job = make_job(folder, sine(440, 4.0, -14.0), size=(540, 960), layers=[new_layer("backdrop"), white_bars()])
    found = {}
    for name, part in {
        "tall": {"loudness": -15.0, "speed": "quick"},
        "wide": {"size": FrameSize(960, 540), "speed": "quick", "to_s": 1.0},
        "sound": {"form": "sound-mp3"},
    }.items():
        plan = plan_export(job.document, **part)
        path = folder / f"{name}.{'mp3' if name == 'sound' else 'mp4'}"
        run_export(replace(job, plan=plan, folder=str(folder / name)), Here(), 1, path)
        found[name] = path
    return job, found


def test_a_good_file_is_posted_in_pieces_and_a_bad_one_refused_for_its_reasons(clips, tmp_path):
    _, files = clips
    with serving(tmp_path / "kept") as service:
        assert {item["id"] for item in json.loads(service.described())["channels"]} >= {"harbour-shorts"}
        heard = []
        answer = service.post(
            "harbour-shorts", files["tall"], "Lamp.mp4", "The lamp", sent=lambda count, upload: heard.append(count)
        )
        size = files["tall"].stat().st_size
        assert answer["state"] == "posted" and heard[-1] == size
        assert any(path.suffix == ".mp4" and path.stat().st_size == size for path in (tmp_path / "kept").iterdir())
        with pytest.raises(Refused) as wide:
            service.post("harbour-shorts", files["wide"], "Wide.mp4", "")
        said = " ".join(wide.value.reasons)
        assert "The frame is wide; Harbour Shorts takes tall" in said and "It is 1 s long" in said
        with pytest.raises(Refused, match="no captions; Quay Cast needs them"):
            service.post("quay-cast", files["sound"], "Cast.mp3", "")
        with pytest.raises(Refused, match="There is no such channel"):
            service.post("nowhere", files["tall"], "a.mp4", "")


def test_what_is_no_video_or_too_large_is_refused(tmp_path):
    fake, large = tmp_path / "fake.mp4", tmp_path / "large.mp4"
    fake.write_bytes(b"no video at all" * 500)
    with large.open("wb") as file:
        file.truncate(80_000_000)
    with serving(tmp_path / "kept") as service:
        with pytest.raises(Refused, match="could not be read as a video"):
            service.post("harbour-shorts", fake, "../../fake.mp4", "")
        with pytest.raises(Refused, match=r"80\.0 MB; Harbour Shorts takes at most 72 MB"):
            service.post("harbour-shorts", large, "large.mp4", "")
    assert not [path for path in tmp_path.rglob("*fake*") if path != fake]


def test_an_upload_goes_on_where_it_was_stopped(clips, tmp_path):
    path = tmp_path / "long.mp4"
    path.write_bytes(clips[1]["tall"].read_bytes() + b"\0" * (2 * PIECE + 5))
    with serving(tmp_path / "kept") as service:
        state = {"upload": "", "calls": 0}

        def note(count, upload):
            state.update(upload=upload, count=count, calls=state["calls"] + 1)

        with pytest.raises(Interrupted):
            service.post("harbour-shorts", path, "a.mp4", "", sent=note, cancelled=lambda: state["calls"] >= 1)
        assert 0 < state["count"] <= PIECE or state["calls"] == 1
        first = []
        answer = service.post(
            "harbour-shorts", path, "a.mp4", "", upload=state["upload"], sent=lambda count, _: first.append(count)
        )
        assert answer["state"] == "posted" and first[-1] == path.stat().st_size
        # What the channel no longer knows is begun anew.
        assert service.post("harbour-shorts", path, "a.mp4", "", upload="0" * 16)["state"] == "posted"


def test_a_channel_that_refuses_now_and_then_is_asked_again(clips, tmp_path):
    with serving(tmp_path / "kept", Faults(every=2)) as service:
        assert service.post("harbour-shorts", clips[1]["tall"], "a.mp4", "")["state"] == "posted"


@pytest.mark.parametrize("faults", [Faults(late_s=1.0), Faults(garbled=True), None])
def test_a_channel_that_answers_late_wrongly_or_not_at_all_is_told(clips, tmp_path, faults):
    if faults is None:
        service = Service("http://127.0.0.1:9", timeout_s=0.3, waits_s=(0.01,))
        with pytest.raises(NotReached, match="can't be reached"):
            service.post("harbour-shorts", clips[1]["tall"], "a.mp4", "")
        return
    with serving(tmp_path / "kept", faults) as service, pytest.raises(NotReached, match="Try it again later"):
        replace(service, timeout_s=0.3).post("harbour-shorts", clips[1]["tall"], "a.mp4", "")


def test_a_plan_is_held_against_limits_before_it_is_made(clips):
    job, _ = clips
    tall = next(channel for channel in shipped_channels() if channel.id == "harbour-shorts")
    plan = plan_export(job.document, loudness=-14.0)
    told = {"loudness_lufs": -9.0, "peak_dbtp": 0.4, "captions": False}
    assert against_plan(tall, plan, **told) == []
    loud = against_plan(tall, plan_export(job.document), **told)
    assert loud == [
        "It has −9 LUFS; Harbour Shorts takes −18 to −12 LUFS",
        "It peaks at 0.4 dBTP; Harbour Shorts takes at most −0.5 dBTP",
    ]
    webm = against_plan(tall, plan_export(job.document, form="webm", size=FrameSize(1920, 1080)), **told)
    assert any(line.startswith("The file ends in .webm") for line in webm)
    assert "Pictures are coded in vp9; Harbour Shorts takes h264 or hevc" in webm


def test_a_users_own_channels_join_those_that_ship(tmp_path):
    own = tmp_path / "channels.json"
    described = {
        "format": "velvetdrum-channels",
        "version": 1,
        "channels": [
            {"id": "mine", "name": "Mine", "about": "My page", "limits": {"seconds": {"most": 20}}},
            {"id": "lamp-square", "name": "Lamp Square", "about": "Changed", "limits": {}},
        ],
    }
    own.write_text(json.dumps(described))
    found = {channel.id: channel for channel in known_channels(own)}
    assert 30 not in found["mine"].ranges["seconds"] and found["lamp-square"].about == "Changed"
    assert len(found) == 5 and known_channels(tmp_path / "none.json") == shipped_channels()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"id": "No Good"}, "/channels/0/id needs"),
        ({"name": ""}, "/channels/0/name needs"),
        ({"limits": {"speed": {}}}, "/channels/0/limits/speed is no limit; there are"),
        ({"limits": {"seconds": {"least": 9, "most": 3}}}, "/channels/0/limits/seconds/least lies above"),
        ({"limits": {"shapes": []}}, "/channels/0/limits/shapes needs a list"),
        ({"limits": {"captions": "maybe"}}, "needed, allowed or none"),
        ({"limits": []}, "/channels/0/limits needs an object"),
    ],
)
def test_a_wrong_description_says_where(change, words):
    item = {"id": "a", "name": "A", "about": "A", "limits": {}} | change
    with pytest.raises(ChannelError, match=words.replace("/", "/")):
        read_channels(json.dumps({"format": "velvetdrum-channels", "version": 1, "channels": [item]}).encode())


JSON = st.recursive(
    st.none() | st.booleans() | st.floats() | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=8,
)


@given(
    st.binary(max_size=60)
    | JSON.map(lambda value: json.dumps({"format": "velvetdrum-channels", "version": 1, "channels": value}).encode())
)
def test_any_description_is_read_or_refused_with_a_sentence(data):
    try:
        read_channels(data)
        said = "read"
    except ChannelError as problem:
        said = str(problem)
    assert said
