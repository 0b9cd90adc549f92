"""Six hundred hostile files: no fault, no traceback, no hang, no process that grows without bounds."""

import contextlib
import time
from collections import Counter
from urllib.parse import quote

import psutil
import pytest

from tests.conftest import song
from tests.hostile import hostile_files
from tests.studio.conftest import MARK, Studio, wav
from velvetdrum.studio.app import create_app

LONGEST_S = 30
"""No file takes 10 s on a machine that does nothing else; this one may do much else."""

LARGEST_BYTES = 1_500_000_000


@pytest.fixture(scope="module")
def here(tmp_path_factory):
    made = Studio(create_app(tmp_path_factory.mktemp("data"), upload_limit=60_000_000, exporters=1))
    made.project = made.bring(wav(song(1.0)), "Quay.wav")["project"]
    yield made
    made.services.close()


def peak_bytes(process: psutil.Process) -> int:
    """The most memory that a process has had."""
    with contextlib.suppress(OSError, psutil.NoSuchProcess), open(f"/proc/{process.pid}/status") as status:
        for line in status:
            if line.startswith("VmHWM:"):
                return int(line.split()[1]) << 10
    return 0


def bring(studio, file) -> tuple[int, str]:
    path = {
        "sound": "/sounds",
        "picture": f"/projects/{studio.project}/pictures",
        "clip": f"/projects/{studio.project}/clips",
        "path": "/paths",
        "points": f"/projects/{studio.project}/points",
        "cues": f"/projects/{studio.project}/cues",
        "typeface": "/typefaces",
        "table": "/tables",
        "episodes": f"/projects/{studio.project}/batches",
        "palette": "/palettes/picture",
    }.get(file.sort)
    if file.sort == "colours":
        answer = studio.post("/palettes/read", {"text": file.data.decode()})
    else:
        answer = studio.client.post(path, data=file.data, headers=MARK | {"X-File-Name": quote(file.name)})
    said = answer.get_data(as_text=True)
    if answer.status_code == 202 and "import" in answer.json:
        state = studio.wait_import(answer.json["import"], LONGEST_S)
        said = state["error"]
        assert state["state"] != "failed" or said
    return answer.status_code, said


@pytest.mark.parametrize("part", range(4))
def test_six_hundred_files_are_read_or_refused_with_a_sentence(here, part):
    files = hostile_files()
    assert len(files) >= 600
    codes: Counter[int] = Counter()
    for number, file in enumerate(files[part::4]):
        begun = time.monotonic()
        code, said = bring(here, file)
        took = time.monotonic() - begun
        told = (part, number, file.sort, file.name, len(file.data), code, said[:200], took)
        assert code < 500, told
        assert "Traceback" not in said and "Something went wrong" not in said, told
        assert took < LONGEST_S, told
        codes[code] += 1
    assert codes[422] > 20
    for row in here.services.db.execute("SELECT id FROM batch").fetchall():
        # What a table is called goes into the head of an answer.
        assert here.get(f"/batches/{row['id']}/report.csv").status_code == 200
    peaks = {child.pid: peak_bytes(child) for child in psutil.Process().children(recursive=True)}
    assert max(peaks.values(), default=0) < LARGEST_BYTES, peaks
    assert not list(here.services.folder.incoming.iterdir())
    assert here.state(here.project)["document"]["name"] == "Quay"
