"""A voice and a bed by hand: brought in, dragged, ducked, exported, and the file measured."""

import io

import numpy as np
import pytest
import soundfile
from playwright.sync_api import expect

from tests.browser.conftest import box_of, project_of, saved, until
from tests.conftest import RATE, sine, write_wav
from tests.mix.conftest import said


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    folder = tmp_path_factory.mktemp("episode")
    voice = write_wav(folder / "Host voice.wav", said([(1.0, 2.0, -12), (4.0, 5.0, -12)], 6.0))
    return voice, write_wav(folder / "Music bed.wav", sine(300.0, 4.0, -20.0))


def summed(page):
    saved(page)
    until(page, "!velvet.sum.busy && velvet.sum.mark === velvet.sum.heardMark")


@pytest.fixture
def tracks(page, address, files):
    page.goto(f"{address}/projects/{project_of(page, address, files[0])}")
    until(page, "window.velvet && velvet.sound.facts")
    page.evaluate("velvet.page.go('sound')")
    page.get_by_role("tab", name="Tracks").click()
    page.set_input_files("#add-tracks", str(files[1]))
    until(page, "velvet.tracks.listed.length === 2 && !velvet.trackEdits.adding", 60)
    summed(page)
    return page


def level_db(samples, begin, end):
    part = samples[round(begin * RATE) : round(end * RATE)]
    return float(10 * np.log10((part**2).mean()))


def track(page, index):
    return page.evaluate("n => JSON.parse(JSON.stringify(velvet.project.document.tracks[n]))", index)


def test_a_bed_is_brought_in_dragged_looped_and_ducked_and_the_file_has_it(tracks, address):
    page = tracks
    canvas = page.locator(".track-lanes canvas")
    box = box_of(canvas)
    lane = box["y"] + 64 + 40

    def x(second):
        return box["x"] + page.evaluate("s => velvet.views.trackLanes.x(s)", second)

    # Its end is dragged beyond the end of its recording: it goes round again.
    page.mouse.move(x(4.0) - 1, lane)
    page.mouse.down()
    page.mouse.move(x(5.0), lane, steps=4)
    page.keyboard.down("Alt")
    page.mouse.move(x(5.5), lane, steps=3)
    page.mouse.up()
    page.keyboard.up("Alt")
    summed(page)
    assert track(page, 1)["length_s"] == pytest.approx(5.5, abs=0.1) and track(page, 1)["out_s"] == 4.0
    # All of it is moved on by half a second.
    page.keyboard.down("Alt")
    page.mouse.move(x(3.0), lane)
    page.mouse.down()
    page.mouse.move(x(3.5), lane, steps=5)
    page.mouse.up()
    page.keyboard.up("Alt")
    summed(page)
    assert track(page, 1)["at_s"] == pytest.approx(0.5, abs=0.05)
    page.get_by_role("button", name="duck under voices").click()
    summed(page)
    assert track(page, 1)["settings"]["ducked"] is True
    until(page, "velvet.trackLanes.gains && Object.keys(velvet.trackLanes.gains.tracks).length === 1")
    page.get_by_role("button", name="Solo Music bed.wav").click()
    summed(page)
    ident = page.evaluate("velvet.project.state.id")
    headers = {"X-Velvet-Drum": "1"}
    begun = page.request.post(
        f"{address}/projects/{ident}/exports", data={"format": "sound-wav", "loudness": None}, headers=headers
    ).json()
    for _ in range(300):
        state = page.request.get(f"{address}/exports/{begun['id']}").json()
        if state["state"] not in ("waiting", "running"):
            break
        page.wait_for_timeout(100)
    assert state["state"] == "done", state
    data, _ = soundfile.read(io.BytesIO(page.request.get(f"{address}/exports/{begun['id']}/video").body()))
    mono = data if data.ndim == 1 else data.mean(axis=1)
    # The bed alone is heard: nothing before it begins, 12 dB less under the voice, whole where nobody speaks.
    assert np.abs(mono[: round(0.4 * RATE)]).max() < 1e-4
    rest = level_db(mono, 3.0, 3.6)
    assert level_db(mono, 1.2, 1.9) - rest == pytest.approx(-12.0, abs=0.5)
    assert level_db(mono, 4.2, 4.9) - rest == pytest.approx(-12.0, abs=0.5)
    assert rest == pytest.approx(-23.0, abs=0.5)


def test_tracks_are_muted_faded_cut_and_deleted_and_each_step_is_undone(tracks):
    page = tracks
    before = page.evaluate("velvet.project.heardKey")
    page.get_by_role("button", name="Mute Host voice.wav").click()
    summed(page)
    until(page, f"velvet.project.heardKey !== '{before}'")
    page.get_by_role("button", name="Mute Host voice.wav").click()
    summed(page)
    until(page, f"velvet.project.heardKey === '{before}'")
    # All gains change alike, and the sum is where it was asked to be.
    page.locator("[data-lufs='-23']").click()
    summed(page)
    until(page, "velvet.sound.factsOf === velvet.project.heardKey && velvet.sound.facts")
    assert page.evaluate("velvet.sound.facts.loudness_lufs") == pytest.approx(-23.0, abs=0.1)
    until(page, "velvet.views.levelMeters.lufs && velvet.views.levelMeters.lufs.length === 400")
    page.keyboard.press("Control+z")
    summed(page)
    page.locator("[data-track='Music bed.wav']").click()
    page.locator("#track-at_s").fill("0:01.25")
    page.locator("#track-at_s").press("Enter")
    summed(page)
    assert track(page, 1)["at_s"] == 1.25
    page.locator("#track-in_s").fill("soon")
    page.locator("#track-in_s").press("Enter")
    expect(page.locator(".side.right .fault:visible")).to_contain_text("no time")
    assert track(page, 1)["in_s"] == 0
    page.evaluate("velvet.playback.seek(90)")
    page.get_by_role("button", name="cut here").click()
    summed(page)
    assert [round(track(page, n)["at_s"], 3) for n in (1, 2)] == [1.25, 3.0]
    assert track(page, 2)["in_s"] == pytest.approx(1.75) and track(page, 1)["out_s"] == pytest.approx(1.75)
    page.get_by_role("button", name="Delete track").click()
    saved(page)
    assert page.evaluate("velvet.tracks.listed.length") == 2
    for _ in range(2):
        page.keyboard.press("Control+z")
        saved(page)
    assert track(page, 1)["at_s"] == 1.25 and track(page, 1).get("out_s") == 4.0


def test_a_gain_is_drawn_over_a_lane_and_moves_with_its_track(tracks):
    page = tracks
    page.locator("[data-track='Music bed.wav']").click()
    box = box_of(page.locator(".track-lanes canvas"))

    def x(second):
        return box["x"] + page.evaluate("s => velvet.views.trackLanes.x(s)", second)

    def gain():
        return track(page, 1).get("gain", [])

    lane = box["y"] + 64 + 40
    page.mouse.dblclick(x(1.0), lane)
    saved(page)
    page.mouse.dblclick(x(3.0), lane)
    saved(page)
    assert [point["value"] for point in gain()] == [0, 0]
    assert [point["time_s"] for point in gain()] == pytest.approx([1.0, 3.0], abs=0.05)
    # 0 dB lies a quarter down: the second point is dragged to the foot of the lane.
    zero = page.evaluate("import('/static/js/views/gain_line.js').then(({ gainY }) => gainY(0, 58))")
    page.keyboard.down("Alt")
    page.mouse.move(x(3.0), box["y"] + 67 + zero)
    page.mouse.down()
    page.mouse.move(x(3.0), box["y"] + 67 + zero + 30, steps=4)
    page.mouse.up()
    page.keyboard.up("Alt")
    summed(page)
    assert gain()[0]["value"] == 0 and -32 < gain()[1]["value"] < -24
    page.get_by_text("gain over time").click()
    rows = page.get_by_role("group", name="Gain at")
    expect(rows).to_have_count(2)
    rows.nth(1).get_by_label("Gain", exact=True).fill("-90")
    page.keyboard.press("Enter")
    expect(page.locator(".side.right .fault:visible")).to_contain_text("−60 to +24 dB")
    rows.nth(1).get_by_label("Gain", exact=True).fill("-12")
    page.keyboard.press("Enter")
    saved(page)
    assert gain()[1]["value"] == -12
    page.locator("#track-at_s").fill("0:00.50")
    page.locator("#track-at_s").press("Enter")
    saved(page)
    assert [point["time_s"] for point in gain()] == pytest.approx([1.5, 3.5], abs=0.05)
    page.mouse.dblclick(x(1.5), box["y"] + 67 + zero)
    saved(page)
    assert len(gain()) == 1
    page.get_by_role("button", name="make points").wait_for(state="hidden")
    page.evaluate("velvet.signalEdits.addKind(velvet.given.signalKinds.find(({ kind }) => kind === 'lfo'))")
    saved(page)
    page.evaluate("velvet.spectrumPanel.showView('tracks')")
    page.get_by_role("button", name="make points").click()
    until(page, "velvet.trackGain.points.length > 3 && !velvet.trackGain.making")
    summed(page)


def test_voices_are_heard_as_recorded_while_a_key_is_held(tracks):
    page = tracks
    page.locator("[data-track='Host voice.wav']").click()
    expect(page.get_by_role("button", name="hold: voices before")).to_be_hidden()
    page.evaluate("velvet.tracks.put(velvet.tracks.listed[0], { high_pass_hz: 300 }, 'High-pass')")
    summed(page)
    expect(page.get_by_role("button", name="hold: voices before")).to_be_visible()
    page.locator("h2", has_text="Tracks").first.click()
    page.keyboard.down("b")
    until(page, "velvet.views.player.track.query === '&sum=recorded' && velvet.playback.playing")
    page.keyboard.up("b")
    until(page, "!velvet.views.player.track.query")
    page.evaluate("velvet.playback.toggle()")


def test_a_change_is_heard_while_the_sum_is_being_made(tracks):
    """An hour's sum takes minutes: until it is there, the page plays what is mixed just now."""
    page = tracks
    key = page.evaluate("velvet.project.heardKey")
    asked = []

    def unfinished(route):
        asked.append(1)
        waits = len(asked) < 12
        route.fulfill(json={"key": key, "ready": not waits, "share": 0.1, "sentence": ""})

    page.route("**/sum", unfinished)
    page.evaluate("velvet.playback.toggle()")
    page.get_by_role("button", name="Mute Host voice.wav").click()
    until(page, "velvet.views.player.track.query === '&sum=now' && velvet.views.player.playing")
    expect(page.locator(".track-room [role=status]")).to_contain_text("10 %")
    until(page, "!velvet.views.player.track.query && !velvet.sum.busy")
    page.evaluate("velvet.playback.toggle()")


def test_stems_become_one_project_with_a_signal_each(page, address, tmp_path):
    for name, hz in (("Kick", 60.0), ("Bass", 110.0), ("Keys", 600.0)):
        write_wav(tmp_path / f"{name}.wav", sine(hz, 2.0, -16.0) * (np.arange(2 * RATE) % (RATE // 2) < RATE // 4))
    page.goto(address)
    page.set_input_files("#file", [str(tmp_path / f"{name}.wav") for name in ("Kick", "Bass", "Keys")])
    expect(page.get_by_role("dialog")).to_contain_text("Stems of one song?")
    page.get_by_role("button", name="One song").click()
    page.wait_for_url("**/projects/*", timeout=60_000)
    until(page, "window.velvet && velvet.project.document.tracks.length === 3")
    document = page.evaluate("JSON.parse(JSON.stringify(velvet.project.document))")
    assert [track["settings"]["role"] for track in document["tracks"]] == ["kick", "bass", "keys"]
    assert [signal["name"] for signal in document["signals"]] == ["Kick", "Bass", "Keys"]
    assert [signal["settings"]["listens"] for signal in document["signals"]] == [t["id"] for t in document["tracks"]]
    assert [signal["settings"]["detector"] for signal in document["signals"]] == ["hits", "level", "level"]
