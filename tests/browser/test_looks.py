"""From a sound to a video in a look, and looks of one's own used on another sound."""

import re
import time

import av
import pytest
from playwright.sync_api import expect

from tests.browser.conftest import bring_in, drop, project_of, ready, settled, until
from tests.conftest import sine, song, write_wav
from velvetdrum.demo.pictures import lamp_svg


def looks_ready(page):
    page.wait_for_url("**/looks", timeout=60_000)
    until(page, "window.velvetLooks && velvetLooks.shelf.shown.length > 0 && velvetLooks.filling.look.id")
    expect(page.locator(".moving.drawn").first).to_be_visible(timeout=60_000)


@pytest.fixture
def looks(page, address, sound):
    """The looks for a new sound."""
    page.goto(address)
    drop(page, sound)
    looks_ready(page)
    return page


def test_from_the_drop_of_a_sound_to_a_finished_tall_video_in_four_presses(page, address, tmp_path, capsys):
    path = write_wav(tmp_path / "Harbour at Six.wav", song(8.0), subtype="PCM_16")
    begin = time.monotonic()
    page.goto(address)
    drop(page, path)
    looks_ready(page)
    page.locator("[data-look=pier-lights]").click()
    page.get_by_role("group", name="Frame").get_by_role("button", name="Tall").click()
    page.get_by_role("button", name="Make the video").click()
    expect(page.get_by_role("link", name="Save the video")).to_be_visible(timeout=180_000)
    elapsed = time.monotonic() - begin
    with capsys.disabled():
        print(f"\nfrom the drop of 8 s to its finished video at 1080x1920, three presses: {elapsed:.1f} s")
    with page.expect_download() as download:
        page.get_by_role("link", name="Save the video").click()
    with av.open(str(download.value.path())) as video:
        stream = video.streams.video[0]
        assert (stream.width, stream.height) == (1080, 1920) and stream.frames == 240
        assert video.streams.audio


def test_several_sounds_become_videos_in_one_look(page, address, tmp_path):
    files = [write_wav(tmp_path / f"{name}.wav", song(length)) for name, length in (("Ropes", 2.0), ("Kelp", 3.0))]
    page.goto(address)
    page.set_input_files("#file", [str(file) for file in files])
    page.wait_for_url("**/looks?others=*", timeout=60_000)
    until(page, "window.velvetLooks && velvetLooks.filling.look.id")
    page.locator("[data-look=wire-service]").click()
    page.get_by_role("button", name="Make 2 videos").click()
    expect(page.get_by_role("link", name="Save the video")).to_be_visible(timeout=180_000)
    idents = page.evaluate("[velvetLooks.video.given.project.id, ...velvetLooks.video.given.others.map((o) => o.id)]")
    for ident, name, frames in zip(idents, ("Ropes", "Kelp"), (60, 90), strict=True):
        made = page.request.get(f"{address}/projects/{ident}/exports").json()
        assert [(one["state"], one["frames"]) for one in made] == [("done", frames)]
        document = page.request.get(f"{address}/projects/{ident}/state").json()["document"]
        assert document["tags"]["title"] == name


def test_a_look_is_filled_and_opened_in_the_studio(looks, tmp_path):
    logo = tmp_path / "Lamp.svg"
    logo.write_text(lamp_svg())
    looks.locator("[data-look=lamp-at-sea]").click()
    looks.get_by_label("Title").fill("Harbour at Six")
    looks.set_input_files("#place-cover", str(logo))
    expect(looks.locator("label[for=place-cover]")).to_contain_text("Lamp.svg")
    looks.get_by_role("button", name="from the picture").click()
    until(looks, "Object.keys(velvetLooks.filling.colours).length === 6")
    looks.get_by_role("button", name="Open in the studio").click()
    looks.wait_for_url(re.compile(r"/projects/\w+$"))
    ready(looks)
    assert looks.evaluate("velvet.project.document.tags.title") == "Harbour at Six"
    assert looks.evaluate("velvet.project.document.layers.some((layer) => layer.name === 'Logo')")
    until(looks, "velvet.project.state.undo === 'Look: Lamp at sea'")


def test_looks_are_filtered_and_found_by_keyboard_alone(looks):
    assert looks.evaluate("velvetLooks.shelf.shown.every((look) => look.uses.includes('song'))")
    looks.get_by_role("button", name="Voice", exact=True).focus()
    looks.keyboard.press("Enter")
    until(looks, "velvetLooks.shelf.shown.every((look) => look.uses.includes('voice'))")
    looks.get_by_label("Find a look").fill("card")
    until(looks, "velvetLooks.shelf.shown.length === 1")
    looks.locator("[data-look=quote-card]").focus()
    looks.keyboard.press("Enter")
    expect(looks.get_by_role("heading", name="Quote card")).to_be_visible()
    looks.get_by_label("Find a look").fill("no such thing")
    expect(looks.get_by_text("No look is like this")).to_be_visible()


def test_wrong_files_are_told_beside_their_place(looks, tmp_path):
    wrong = tmp_path / "notes.png"
    wrong.write_text("bread, lamp oil, string")
    looks.locator("[data-look=lamp-at-sea]").click()
    looks.set_input_files("#place-cover", str(wrong))
    place = looks.locator(".place", has=looks.locator("#place-cover"))
    expect(place.locator(".fault")).to_be_visible()
    expect(place.locator(".fault")).not_to_be_empty()
    looks.get_by_label("Title").fill("Still here")
    assert looks.evaluate("velvetLooks.filling.values.title") == "Still here"


def test_looks_of_ones_own_are_used_on_another_sound(page, address, sound, tmp_path):
    bring_in(page, address, sound)
    page.get_by_role("button", name="Keep as a look").click()
    dialog = page.locator("dialog[open]")
    dialog.get_by_label("Name").fill("All of mine")
    dialog.get_by_role("button", name="Keep the look").click()
    expect(page.locator(".toasts")).to_contain_text("All of mine is kept")

    page.evaluate("velvet.selection.choose(velvet.project.document.layers[1])")
    settled(page)
    page.get_by_role("button", name="Keep as a look").click()
    dialog.get_by_label("Name").fill("Only bars")
    dialog.get_by_label("Tags").fill("weekly, plain")
    dialog.locator("select").select_option("chosen")
    dialog.get_by_role("button", name="Keep the look").click()
    expect(page.locator(".toasts")).to_contain_text("Only bars is kept")

    other = write_wav(tmp_path / "quiet.wav", 0.1 * song(3.0), subtype="PCM_16")
    page.goto(address)
    drop(page, other)
    looks_ready(page)
    page.get_by_role("button", name="Mine", exact=True).click()
    until(page, "velvetLooks.shelf.shown.length === 2")
    for name, layers in (("All of mine", 2), ("Only bars", 1)):
        page.get_by_role("button", name=name).click()
        page.evaluate("velvetLooks.video.apply()")
        ident = page.evaluate("velvetLooks.video.given.project.id")
        document = page.request.get(f"{address}/projects/{ident}/state").json()["document"]
        assert len(document["layers"]) == layers and document["tracks"][0]["name"] == "quiet.wav"
        assert document["layers"][-1]["settings"]["loud_db"] < -30
    page.get_by_label("Find a look").fill("weekly")
    until(page, "velvetLooks.shelf.shown.map((look) => look.name).join() === 'Only bars'")
    with page.expect_download() as download:
        page.get_by_role("link", name="save it as a file").click()
    page.get_by_role("button", name="delete it").click()
    page.get_by_role("button", name="really? for good").click()
    expect(page.locator(".toasts")).to_contain_text("Only bars is deleted")
    page.goto(address)
    shared = tmp_path / "Only bars.vdrum"
    download.value.save_as(shared)
    drop(page, shared)
    expect(page.locator(".toasts")).to_contain_text("Only bars is a look")


def test_projects_are_found_sorted_and_brought_back_from_the_bin(page, address, sound):
    names = [f"Bollard {word}" for word in ("rope", "anchor", "kelp")]
    for name in names:
        state = page.request.get(f"{address}/projects/{project_of(page, address, sound)}/state").json()
        patch = [{"op": "replace", "path": "/name", "value": name}]
        json = {"revision": state["revision"], "label": "Rename", "patch": patch}
        page.request.post(f"{address}/projects/{state['id']}/edits", data=json, headers={"X-Velvet-Drum": "1"})
    page.goto(address)
    page.get_by_label("Find a project").fill("bollard")
    page.get_by_label("Sorted by").select_option("name")
    shown = page.locator(".card-project:visible a.open")
    expect(shown).to_have_text(sorted(names))
    page.get_by_label("Find a project").fill("no such")
    expect(page.get_by_text("No project is called so.")).to_be_visible()
    page.get_by_label("Find a project").fill("bollard anchor")
    page.get_by_role("button", name="Delete Bollard anchor").click()
    expect(shown).to_have_count(0)
    page.reload()
    page.get_by_text("Bin (").click()
    row = page.locator(".bin li", has_text="Bollard anchor")
    row.get_by_role("button", name="restore").click()
    expect(page.locator(".card-project", has_text="Bollard anchor")).to_be_visible()
    page.get_by_role("button", name="Delete Bollard kelp").click()
    page.reload()
    page.get_by_text("Bin (").click()
    row = page.locator(".bin li", has_text="Bollard kelp")
    row.get_by_role("button", name="delete for good").click()
    row.get_by_role("button", name="really").click()
    expect(row).to_be_hidden()


def test_several_files_become_as_many_projects_and_a_wrong_one_is_told(page, address, tmp_path):
    paths = [write_wav(tmp_path / f"Bell {n}.wav", sine(300 + 40 * n, 1.0, -20), subtype="PCM_16") for n in (1, 2)]
    wrong = tmp_path / "list.wav"
    wrong.write_text("bread, lamp oil, string " * 40)
    page.goto(address)
    page.set_input_files("#file", [str(path) for path in (paths[0], wrong, paths[1])])
    expect(page.locator(".toasts")).to_contain_text("2 projects were made of 3 files.", timeout=60_000)
    expect(page.locator(".toasts")).to_contain_text("list.wav")
    for path in paths:
        expect(page.locator(".card-project", has_text=path.stem)).to_be_visible()


def test_projects_are_chosen_tagged_and_deleted_together(page, address):
    names = ["Mooring one", "Mooring two", "Mooring three"]
    for name in names:
        page.request.post(f"{address}/projects", data={"name": name}, headers={"X-Velvet-Drum": "1"})
    page.goto(address)
    for name in names[:2]:
        page.get_by_label(f"Choose {name}").check()
    bar = page.get_by_role("group", name="The chosen projects")
    expect(bar).to_contain_text("2 chosen")
    bar.get_by_label("New tag").fill("week 48")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="week 48", exact=True).click()
    expect(page.locator(".card-project:visible a.open")).to_have_count(2)
    bar.get_by_role("button", name="Delete").click()
    expect(page.locator(".toasts")).to_contain_text("2 projects are deleted")
    page.locator(".toasts").get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Choose Mooring one")).to_be_visible()


def test_an_empty_frame_is_begun_and_played_in_silence(page, address):
    page.goto(address)
    page.get_by_role("button", name="or begin with an empty frame").click()
    dialog = page.get_by_role("dialog")
    dialog.locator("select").first.select_option("tall")
    dialog.get_by_label("Length").fill("never")
    dialog.get_by_role("button", name="Begin", exact=True).click()
    expect(dialog.locator(".fault")).to_be_visible()
    dialog.get_by_label("Length").fill("0:04")
    dialog.get_by_role("button", name="Begin", exact=True).click()
    page.wait_for_url(re.compile(r"/projects/\w+$"))
    ready(page)
    assert page.evaluate("velvet.project.document.frame.height") == 1920
    page.keyboard.press("Space")
    until(page, "velvet.playback.playing && velvet.views.player.now > 10")
    page.keyboard.press("Space")


def test_room_on_the_disk_says_what_cleaning_frees(page, address):
    page.goto(address)
    page.get_by_text("Room on the disk").click()
    expect(page.get_by_text("Files that no project uses:")).to_contain_text(re.compile("none|MB"))
