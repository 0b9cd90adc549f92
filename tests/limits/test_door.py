"""What reads a file that somebody brought: its own process, which has an end."""

import ast
import inspect
import io
import os
import signal
import subprocess
import sys
import time
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

import numpy as np
import psutil
import pytest

from tests.waiting import until
from velvetdrum.limits import openers
from velvetdrum.limits.door import Bounds, Unreadable, read

SHORT = Bounds(0.5, 1_000_000_000)


def test_what_a_reader_gives_and_raises_comes_back():
    assert read(sum, [1, 2, 3]) == 6
    with pytest.raises(ZeroDivisionError):
        read(divmod, 1, 0)


def test_memory_time_and_a_death_are_one_sentence_each():
    with pytest.raises(Unreadable, match="more time or memory"):
        read(np.ones, 2 * SHORT.memory // 8, bounds=SHORT)
    with pytest.raises(Unreadable, match="more time or memory"):
        read(eval, "[n for n in iter(int, 1)]", bounds=SHORT)
    with pytest.raises(Unreadable, match="ended by it"):
        read(os._exit, 3)


def test_a_worker_that_is_given_runs_it_under_the_same_limits():
    asked = []

    def worker(task, *values):
        asked.append(values)
        return task(*values)

    assert read(sum, [1, 2], worker=worker, bounds=SHORT) == 3
    assert asked[0][0] == SHORT.seconds

    def dies(task, *values):
        raise BrokenProcessPool

    with pytest.raises(Unreadable, match="ended by it"):
        read(sum, [1], worker=dies)


OPENERS = {
    "media": (Path("none.wav"),),
    "picture": (Path("none.png"),),
    "typeface": (b"",),
    "face": (b"",),
    "archive": (Path("none.zip"),),
    "tar": (b"",),
    "xml": (b"<a/>",),
    "table": (["a,b"], ","),
    "subtitles": ("[Events]", "ass"),
    "midi": (io.BytesIO(b"MThd"),),
    "timeline": ("{}",),
}


@pytest.mark.parametrize("name", OPENERS)
def test_nothing_is_opened_where_people_wait(name):
    named = {"lazy": True} if name == "typeface" else {}

    def opened():
        made = getattr(openers, name)(*OPENERS[name], **named)
        return list(made) if name == "table" else made

    with openers.kept_outside(), pytest.raises(openers.OutsideError):
        opened()
    try:
        opened()
    except openers.OutsideError:
        pytest.fail("inside of the door it is open")
    except Exception:
        pass  # what the library says of nothing
    assert set(OPENERS) == {
        name
        for name, item in vars(openers).items()
        if inspect.isfunction(item) and "_admit(" in inspect.getsource(item)
    } - {"_admit"}


LIBRARIES = {
    "av.open": "media",
    "Image.open": "pictures",
    "TTFont": "typefaces",
    "hb.Face": "typefaces",
    "zipfile.ZipFile": "archives",
    "ElementTree.fromstring": "XML",
    "ElementTree.parse": "XML",
    "ElementTree.iterparse": "XML",
    "ElementTree.XML": "XML",
    "ET.fromstring": "XML",
    "csv.reader": "tables",
    "csv.DictReader": "tables",
    "pysubs2.SSAFile.from_string": "captions",
    "pysubs2.SSAFile.load": "captions",
    "pysubs2.load": "captions",
    "cv2.imdecode": "pictures",
    "soundfile.read": "media",
    "skia.Image.MakeFromEncoded": "pictures",
    "tarfile.open": "archives",
    "pickle.loads": "anything",
}


def calls(tree):
    """Calls with the dotted names of what is called."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Call):
            yield node, ast.unparse(node.func)


def writes(node):
    """True for a call that opens a file to write it, or reads what this program holds in memory."""
    words = [ast.unparse(item) for item in node.args] + [ast.unparse(word.value) for word in node.keywords]
    return "'w'" in words or "'webvtt'" in words


def test_the_door_is_the_only_place_where_files_of_others_are_opened():
    package = Path(openers.__file__).parents[1]
    seen, elsewhere = 0, []
    for path in sorted(package.rglob("*.py")):
        for node, name in calls(ast.parse(path.read_text())):
            if name in LIBRARIES and not writes(node):
                seen += 1
                if path != Path(openers.__file__):
                    elsewhere.append(f"{path.relative_to(package)}:{node.lineno} {name}")
    assert not elsewhere
    assert seen >= 8


def test_the_studio_and_commands_do_not_import_what_opens():
    """Their rooms and commands call the door; what opens is imported by readers."""
    package = Path(openers.__file__).parents[1]
    for path in [*package.glob("studio/*.py"), *package.glob("cli/*.py"), *package.glob("channels/*.py")]:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module == "velvetdrum.limits.openers":
                assert [item.name for item in node.names] == ["kept_outside"], path
            if isinstance(node, ast.ImportFrom) and node.module == "velvetdrum.limits":
                assert "openers" not in [item.name for item in node.names], path


@pytest.mark.parametrize("how", [signal.SIGINT, signal.SIGKILL])
def test_what_reads_ends_with_the_command(how):
    code = "import time; from velvetdrum.limits.door import read; read(time.sleep, 120)"
    process = subprocess.Popen(
        [sys.executable, "-c", code],
        stderr=subprocess.PIPE,
        start_new_session=True,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )
    # The tracker, the process that forks, and the worker.
    made = until(lambda: len(found := psutil.Process(process.pid).children(recursive=True)) > 2 and found, "the worker")
    time.sleep(0.5)  # what reads is at work by then
    if how == signal.SIGINT:
        os.killpg(process.pid, how)  # as a terminal does
    else:
        process.kill()
    process.communicate(timeout=15)
    _, alive = psutil.wait_procs(made, timeout=15)
    assert not [item for item in alive if item.status() != psutil.STATUS_ZOMBIE]
