"""What requests may say: declared, bounded before it is read, refused with a sentence that names the place."""

import json
import time

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from tests.conftest import song
from tests.studio.conftest import MARK, Studio, wav
from velvetdrum.studio.app import create_app
from velvetdrum.studio.http.openapi import described

# A schema of the routes is made from an application of its own; the calls go to the one of this module.
_APP = None


@pytest.fixture(scope="module")
def here(tmp_path_factory):
    app = create_app(tmp_path_factory.mktemp("data"), upload_limit=30_000_000, exporters=1)
    made = Studio(app)
    made.project = made.bring(wav(song(2.0)), "Quay.wav")["project"]
    made.key = made.state(made.project)["document"]["tracks"][0]["media"]
    yield made
    made.services.close()


def sentence(answer):
    text = answer.get_data(as_text=True)
    assert "Traceback" not in text
    assert answer.is_json and answer.json["error"].endswith((".", "?", "!")), text[:300]
    return answer.json["error"]


BODIES = [
    ("frames", {"frames": [0], "width": 64, "nonsense": 1}, "no part called nonsense"),
    ("frames", {"frames": [[0]], "width": 64}, "frames/0 needs a whole number"),
    ("frames", {"frames": [0], "width": [64]}, "width needs a whole number"),
    ("frames", {"frames": [0], "width": 64, "draft": "text"}, "draft needs a JSON Patch"),
    ("frames", {"frames": [0], "width": 64, "draft": [{"op": ["add"], "path": "/name"}]}, "draft/0 needs an op"),
    ("frames", {"frames": [0], "width": 64, "only": ["x"]}, "only needs a text"),
    ("curves", {"count": 3, "detail": ["x"]}, "detail needs a text"),
    ("curves", {"signals": [["a"]], "count": 3}, "signals/0 needs a text"),
    ("edits", {"revision": [1], "patch": []}, "revision needs a whole number"),
    ("taps", {"taps_s": [True]}, "taps_s/0 needs a number"),
    ("fit", {"kind": ["spectrum"]}, "kind is"),
    ("exports", {"from_s": {}}, "from_s needs a number"),
]


@pytest.mark.parametrize(("route", "body", "said"), BODIES)
def test_wrong_types_are_named_with_their_place(here, route, body, said):
    answer = here.post(f"/projects/{here.project}/{route}", body)
    assert answer.status_code == 400
    assert said in sentence(answer)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('{"revision": 1, "patch": ' + "[" * 5000 + "]" * 5000 + "}", "nests deeper"),
        ('{"revision": 1e400, "patch": []}', "larger than anything"),
        ('{"revision": ' + "9" * 500 + ', "patch": []}', "larger than anything"),
        ('{"revision": NaN, "patch": []}', "no number of JSON"),
        ('{"revision": Infinity, "patch": []}', "no number of JSON"),
        ('{"revision": 1, "label": "\\ud800", "patch": []}', "lone surrogate"),
        ('{"revision": 1, "label": "a\\u0000b", "patch": []}', "null character"),
        ("[1, 2]", "JSON object"),
        ("nonsense", "no JSON"),
        ('{"revision": 1, "label": "' + "x" * (5 << 20) + '", "patch": []}', "larger than 4 MB"),
    ],
)
def test_json_is_read_under_limits(here, text, said):
    answer = here.client.post(f"/projects/{here.project}/edits", data=text.encode(), headers=MARK)
    assert answer.status_code in (400, 413)
    assert said in sentence(answer)


def test_an_edit_that_would_grow_without_bounds_is_refused_at_once(here):
    before = here.state(here.project)
    layers = [{"op": "copy", "from": "/layers", "path": "/layers/-"} for _ in range(40)]
    began = time.monotonic()
    answer = here.post(f"/projects/{here.project}/edits", {"revision": before["revision"], "patch": layers})
    assert answer.status_code == 422 and "larger than it may be" in sentence(answer)
    assert time.monotonic() - began < 10
    assert here.state(here.project) == before


@pytest.mark.parametrize(
    ("path", "code"),
    [
        ("/sounds/{key}/pcm?start=100000000000000000000000&count=5", 400),
        ("/sounds/{key}/pcm?start=1e3&count=5", 400),
        ("/sounds/{key}/spectrogram?from=0&to=1&width=10&height=10&floor=nan", 400),
        ("/sounds/{key}/wave?from=inf&to=nan&columns=5", 400),
        ("/sounds/{key}/spectra?start=0&count=5&channel=both", 400),
        ("/projects/a%00b/state", 404),
        ("/projects/" + "x" * 5000, 404),
        ("/exports/" + "%F0%9F%92%A5" * 40, 404),
        ("/imports/nothing", 404),
        ("/pictures/" + "Z" * 63, 404),
        ("/projects/{project}/signals.csv?signal=%00", 404),
    ],
)
def test_odd_addresses_are_refused_with_a_sentence(here, path, code):
    answer = here.get(path.format(key=here.key, project=here.project))
    assert answer.status_code == code
    sentence(answer)


def test_only_imports_that_run_can_be_cancelled(here):
    before = sorted(path.name for path in here.services.folder.incoming.iterdir())
    answer = here.post("/imports/nothing/cancel")
    assert answer.status_code == 404 and "no such import" in sentence(answer)
    assert sorted(path.name for path in here.services.folder.incoming.iterdir()) == before


@pytest.mark.parametrize("origin", ["http://[", "http://evil.example", "null", "http://localhost:1"])
def test_other_origins_are_refused_however_they_are_written(here, origin):
    answer = here.client.post("/palettes/read", json={"text": "#fff"}, headers=MARK | {"Origin": origin})
    assert answer.status_code == 403
    sentence(answer)


@pytest.mark.parametrize("host", ["localhost", "127.0.0.1:8765", "[::1]", "[::1]:8765", "LOCALHOST:80"])
def test_this_machine_is_known_under_all_its_names(here, host):
    assert here.client.get("/palettes", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize("host", ["evil.example", "localhost.evil.example", "192.168.3.4", "[::1", "a:b:c", "x/y"])
def test_other_names_are_refused(here, host):
    assert here.client.get("/palettes", headers={"Host": host}).status_code == 400


def test_pages_and_states_are_not_kept_by_browsers(here):
    for path in ("/", f"/projects/{here.project}", f"/projects/{here.project}/state", "/palettes"):
        assert here.get(path).headers["Cache-Control"] == "no-store"


def test_a_project_that_cannot_be_read_does_not_disable_the_start_page(here):
    db = here.services.db
    kept = db.execute("SELECT text FROM document WHERE project_id = ?", (here.project,)).fetchone()[0]

    def write(text):
        db.execute("UPDATE document SET text = ? WHERE project_id = ?", (text, here.project))
        db.execute("UPDATE project SET changed_at = changed_at + 1 WHERE id = ?", (here.project,))

    odd = [
        {"version": [1]},
        {"format": "velvetdrum-project", "version": 1, "layers": None},
        [],
        "text",
        {},
        None,
        json.loads(kept) | {"layers": [None]},
        json.loads(kept) | {"tracks": [{"media": "../../x"}]},
    ]
    try:
        for document in odd:
            write(json.dumps(document))
            answer = here.client.get("/", headers={"Accept": "text/html"})
            assert answer.status_code == 200 and "Quay" in answer.get_data(as_text=True)
            page = here.get(f"/projects/{here.project}/moments")
            assert page.status_code == 422 and "Traceback" not in page.get_data(as_text=True)
    finally:
        write(kept)


def test_a_document_may_leave_out_what_has_a_default(here):
    state = here.state(here.project)
    bare = [{"id": "a", "kind": "backdrop"}, {"id": "b", "kind": "spectrum"}]
    revision = here.edit(here.project, "/layers", bare).json["revision"]
    shown = here.state(here.project)["document"]["layers"]
    assert [layer["visible"] for layer in shown] == [True, True] and shown[0]["name"] == "Backdrop"
    for body in ({"frames": [0], "width": 64}, {"frames": [0], "width": 64, "only": "b"}):
        assert here.post(f"/projects/{here.project}/frames", body).status_code == 200
    assert here.post(f"/projects/{here.project}/choices", {"first": 0, "count": 2}).status_code == 200
    undone = here.post(f"/projects/{here.project}/undo", {"revision": revision}).json
    assert "patch" in undone and here.state(here.project)["document"]["layers"] == state["document"]["layers"]


# What takes long, or ends the work of the other tests, has tests of its own.
_SLOW = {"export.begin.post", "picture.choices.post", "start.delete.post", "access.sign_out.post"}


def _operations():
    import tempfile
    from pathlib import Path

    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder))
        app.extensions["services"].close()
        schema = schemathesis.openapi.from_dict(described(app))
    found = [result.ok() for result in schema.get_all_operations()]
    return [item for item in found if item.definition.raw["operationId"] not in _SLOW]


@pytest.mark.parametrize("operation", _operations(), ids=lambda item: item.label)
def test_no_request_that_can_be_described_ends_in_a_fault(here, operation):
    known = {"ident": here.project, "key": here.key}

    @seed(20)
    @settings(
        max_examples=8, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
    )
    @given(case=operation.as_strategy(), real=st.booleans())
    def run(case, real):
        parts = dict(case.path_parameters or {})
        if real:
            parts |= {name: value for name, value in known.items() if name in parts}
        path = operation.path
        for name, value in parts.items():
            path = path.replace("{" + name + "}", str(value).replace("/", "%2F") or "x")
        body = {}
        if isinstance(case.body, bytes):
            body = {"data": case.body}
        elif isinstance(case.body, (dict, list, str, int, float, bool)) or case.body is None:
            body = {"data": json.dumps(case.body)} if operation.body else {}
        query = {name: value for name, value in (case.query or {}).items() if isinstance(value, (str, int, float))}
        answer = here.client.open(
            path.split("?")[0],
            method=operation.method.upper(),
            query_string=query,
            headers=MARK | {"Accept": "application/json"},
            **body,
        )
        assert answer.status_code < 500, (path, query, body, answer.get_data(as_text=True)[:400])
        assert b"Traceback" not in answer.data

    run()
