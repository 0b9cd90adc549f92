"""The real studio in a process of its own, and Debian's Chromium in front of it."""

from __future__ import annotations

import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from playwright.sync_api import sync_playwright

from tests.conftest import song, write_wav

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]


@pytest.fixture(scope="session")
def chromium():
    path = shutil.which("chromium") or shutil.which("chromium-browser")
    assert path, "Chromium is missing: apt-get install chromium"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path, args=FLAGS)
        yield browser
        browser.close()


@pytest.fixture(scope="session")
def address(tmp_path_factory):
    import socket

    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    data = tmp_path_factory.mktemp("studio")
    command = [sys.executable, "-m", "velvetdrum", "serve", "--data", str(data), "--port", str(port)]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert "http" in process.stdout.readline()
    yield f"http://127.0.0.1:{port}"
    process.send_signal(signal.SIGTERM)
    process.wait(20)


@pytest.fixture(scope="session")
def sound(tmp_path_factory) -> Path:
    return write_wav(tmp_path_factory.mktemp("sound") / "Evening song.wav", song(8.0), subtype="PCM_16")


# What the page has under way: requests, and timers that are due soon. Slow ones only look whether there is news.
WATCH = """(() => {
    const SOON_MS = 500;
    const { setTimeout, clearTimeout, fetch } = window;
    const due = new Set();
    let asked = 0;
    window.setTimeout = (act, ms = 0, ...values) => {
        const timer = setTimeout((...given) => { due.delete(timer); act(...given); }, ms, ...values);
        if (ms <= SOON_MS) due.add(timer);
        return timer;
    };
    window.clearTimeout = (timer) => { due.delete(timer); clearTimeout(timer); };
    window.fetch = (...values) => {
        asked += 1;
        const answer = fetch(...values);
        answer.then(() => { asked -= 1; }, () => { asked -= 1; });
        return answer;
    };
    window.isAtRest = () => !due.size && !asked;
})()"""
# Two refreshes: what an event changed is in the page after the first, what that moved is laid out after the second.
REFRESHED = "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))"


HINTED = "localStorage['velvet-hints'] ??= JSON.stringify(['picture', 'sound', 'words', 'export', 'several'])"
"""Somebody who has seen all hints: they would lie over what the tests press."""


@pytest.fixture
def page(chromium):
    """A page that fails its test on any script error or refused content."""
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    made = context.new_page()
    made.set_default_timeout(30_000)
    made.add_init_script(WATCH)
    made.add_init_script(HINTED)
    faults: list[str] = []
    made.on("pageerror", lambda error: faults.append(str(error)))
    made.on(
        "console", lambda message: faults.append(message.text) if "Content Security Policy" in message.text else None
    )
    made.faults = faults
    yield made
    context.close()
    assert faults == []


def drop(page, path: Path) -> None:
    """Drop a file on the page as the mouse would."""
    handle = page.evaluate_handle(
        """([name, bytes]) => {
            const data = new DataTransfer();
            data.items.add(new File([Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0))], name));
            return data;
        }""",
        [path.name, __import__("base64").b64encode(path.read_bytes()).decode()],
    )
    page.dispatch_event("body", "dragover", {"dataTransfer": handle})
    page.dispatch_event("body", "drop", {"dataTransfer": handle})


def until(page, condition: str, seconds: float = 30) -> None:
    """Wait for a condition. Asked from outside: the page's policy forbids the browser to evaluate text."""
    end = time.monotonic() + seconds
    while not page.evaluate(condition):
        assert time.monotonic() < end, f"never came true: {condition}"
        page.wait_for_timeout(40)


def box_of(locator, seconds: float = 30) -> dict[str, float]:
    """The box of an element on the page. One that is drawn anew just now has none for a moment: it is asked again."""
    end = time.monotonic() + seconds
    while not (box := locator.bounding_box()):
        assert time.monotonic() < end, f"never had a box: {locator}"
        locator.page.wait_for_timeout(40)
    return box


def at_rest(page) -> None:
    """Wait until the page has nothing under way and shows what there is."""
    for _ in range(2):
        page.evaluate(REFRESHED)
        until(page, "isAtRest()")
    page.evaluate(REFRESHED)


_seen: dict[int, tuple[str, int]] = {}


def saved(page, seconds: float = 30) -> None:
    """Wait until an edit later than the last one that was waited for is with the server, and nothing else waits.

    The word on the page may still stand there from before: an action may ask the server something first, and only
    then make its edit. Where no edit comes (a button that had nothing to do), two quiet seconds are waited for.
    """
    project, before = _seen.get(id(page), ("", 0))
    end = time.monotonic() + seconds
    quiet = None
    while True:
        ident, revision, busy = page.evaluate(
            "[velvet.project.state.id, velvet.project.state.revision, velvet.project.waiting.length > 0 || velvet.project.sending || velvet.project.offline]"
        )
        later = ident != project or revision > before
        quiet = None if busy else quiet or time.monotonic()
        if quiet is not None and (later or time.monotonic() - quiet > 2):
            break
        assert time.monotonic() < end, "nothing was saved"
        page.wait_for_timeout(25)
    _seen[id(page)] = (ident, revision)


def settled(page) -> None:
    """What the next call of `saved` waits for is later than what the server has now."""
    _seen[id(page)] = tuple(page.evaluate("[velvet.project.state.id, velvet.project.state.revision]"))


def ready(page) -> None:
    """Wait until the studio has drawn its first picture and has nothing left to save."""
    page.wait_for_selector(".play", state="visible")
    until(page, "window.velvet && velvet.stage.picture.width > 0 && velvet.moments.moments.length > 0")
    # A project opens at its loudest moment; the tests begin at the first frame.
    page.evaluate("velvet.playback.seek(0)")
    until(page, "!velvet.views.preview.busy && velvet.views.preview.shown === 0")
    settled(page)


def project_of(page, address, sound) -> str:
    """The id of a new project with a sound, brought in without a page."""
    named = {"X-Velvet-Drum": "1", "X-File-Name": sound.name, "Content-Type": "application/octet-stream"}
    begun = page.request.post(f"{address}/sounds", data=sound.read_bytes(), headers=named).json()
    while True:
        state = page.request.get(f"{address}/imports/{begun['import']}").json()
        if state["state"] != "running":
            assert state["state"] == "done", state
            return state["project"]
        page.wait_for_timeout(50)


def bring_in(page, address, sound) -> None:
    """A fresh project with a sound, in the studio."""
    page.goto(f"{address}/projects/{project_of(page, address, sound)}")
    ready(page)


@pytest.fixture
def studio(page, address, sound):
    """A fresh project in the studio."""
    bring_in(page, address, sound)
    return page
