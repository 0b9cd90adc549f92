"""Documents, settings and edits: what is valid, what is said when it is not, and the way back."""

from fractions import Fraction

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import velvetdrum.picture.layers  # noqa: F401
from velvetdrum.scene.document import ProjectError, new_document, new_layer, new_patch, new_track, parse, schema
from velvetdrum.scene.edits import apply
from velvetdrum.scene.frames import FRAMES, RATES, FrameError, FrameSize, parse_rate
from velvetdrum.scene.kinds import LAYER_KINDS, Layer
from velvetdrum.scene.migrate import VERSION, upgraded
from velvetdrum.scene.signal_part import new_signal


def document(**changes):
    made = new_document(
        "Test",
        frame=FRAMES["wide"],
        rate=Fraction(30000, 1001),
        layers=[new_layer("backdrop"), new_layer("spectrum")],
        track=new_track("a" * 64, "song.wav", 12.5),
    )
    return made | changes


def bars(**changes):
    made = document()
    made["layers"][1]["settings"] |= changes
    return made


def test_a_new_document_is_valid_by_its_own_schema():
    jsonschema.Draft202012Validator.check_schema(schema())
    jsonschema.validate(document(), schema())
    parsed = parse(document())
    assert parsed.rate == Fraction(30000, 1001)
    assert parsed.length_s == 12.5


def test_every_setting_says_what_it_is():
    for cls in LAYER_KINDS.values():
        assert cls.__doc__
        for setting in cls.settings.values():
            assert setting.label, setting.name
            assert setting.help.endswith("."), setting.name
            assert setting.parse(setting.default) is not None
            if setting.type in ("number", "whole"):
                assert setting.lo <= setting.default <= setting.hi


@pytest.mark.parametrize(
    ("broken", "path", "words"),
    [
        (document(format="other"), "", "not a Velvet Drum project"),
        (document(version=99), "/version", "newer"),
        (document(name=" "), "/name", "name"),
        (document(frame={"width": 63, "height": 90}), "/frame", "64 to 4096"),
        (document(frame={"width": 101, "height": 90}), "/frame", "even"),
        (document(rate="31"), "/rate", "Frame rates"),
        (document(length_s=-1), "/length_s", "length"),
        (document(length_s=float("nan")), "/length_s", "length"),
        (document(surprise=1), "/surprise", "surprise"),
        (document(tracks=[new_track("a" * 64, "x", 5.0) | {"in_s": 6.0}]), "/tracks/0/out_s", "after"),
        (document(layers=[{"id": "1", "kind": "hologram"}]), "/layers/0/kind", "hologram"),
        (bars(bands=0), "/layers/1/settings/bands", "1 to 512"),
        (bars(bands=8.5), "/layers/1/settings/bands", "whole"),
        (bars(bands=True), "/layers/1/settings/bands", "number"),
        (bars(gap="wide"), "/layers/1/settings/gap", "number"),
        (bars(glitter=1), "/layers/1/settings/glitter", "no setting"),
        (bars(low_hz=5000.0, high_hz=400.0), "/layers/1/settings/high_hz", "above"),
        (bars(quiet_db=-10.0, loud_db=-40.0), "/layers/1/settings/loud_db", "above"),
        (bars(colours=[{"at": 2, "colour": "#ffffff"}]), "/layers/1/settings/colours", "place"),
        (bars(colours=[{"at": 0, "colour": "red"}]), "/layers/1/settings/colours", "colour like"),
        (bars(colours=[]), "/layers/1/settings/colours", "between 1 and 256"),
        (bars(grow="sideways"), "/layers/1/settings/grow", "out, in, both"),
    ],
)
def test_what_is_wrong_is_said_where_it_is(broken, path, words):
    with pytest.raises(ProjectError, match=words) as caught:
        parse(broken)
    assert caught.value.problems[0].path == path
    assert caught.value.problems[0].sentence.endswith(".")


def test_all_problems_are_reported_at_once():
    with pytest.raises(ProjectError) as caught:
        parse(bars(bands=0, gap=-1) | {"name": ""})
    assert len(caught.value.problems) == 3


NUMBERS = [
    s for s in LAYER_KINDS["spectrum"].settings.values() if s.type == "number" and not s.name.endswith(("_hz", "_db"))
]


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(NUMBERS), st.floats(0, 1)), min_size=1, max_size=6))
def test_every_edit_has_a_way_back(changes):
    before = document()
    now, ways_back = before, []
    for setting, part in changes:
        value = setting.lo + part * (setting.hi - setting.lo)
        patch = [{"op": "replace", "path": f"/layers/1/settings/{setting.name}", "value": value}]
        now, back, _ = apply(now, patch)
        ways_back.append(back)
    for back in reversed(ways_back):
        now, _, _ = apply(now, back)
    assert now == before


@pytest.mark.parametrize(
    "patch",
    [
        [{"op": "replace", "path": "/layers/9/visible", "value": False}],
        [{"op": "frobnicate", "path": "/name"}],
        [{"op": "replace", "path": "no pointer", "value": 1}],
        [{"nonsense": 1}],
        [{"op": "test", "path": "/name", "value": "Other"}],
        [{"op": "remove", "path": "/rate"}],
        [{"op": "replace", "path": "/layers/1/settings/bands", "value": 100000}],
    ],
)
def test_an_edit_that_does_not_fit_changes_nothing(patch):
    before = document()
    with pytest.raises(ProjectError):
        apply(before, patch)
    assert before["layers"][1]["settings"]["bands"] == 64
    parse(before)


def test_a_layer_that_was_parsed_before_is_asked_again_what_depends_on_others():
    kick = new_signal("lfo", "Kick")
    layer = new_layer("spectrum") | {"patches": [new_patch("layer_opacity", kick, 0.0, 100.0)]}
    given = document(layers=[new_layer("backdrop"), layer], signals=[kick])
    first, again = parse(given), parse(given)
    assert again.layers[1] is first.layers[1] and again.layers[1].patches
    # The same layer, in a project in which its signal is gone.
    with pytest.raises(ProjectError) as problem:
        parse(given | {"signals": []})
    assert problem.value.problems[0].path.startswith("/layers/1/patches/0")
    # An id that is taken twice is told, although the layer is known.
    with pytest.raises(ProjectError):
        parse(given | {"layers": [layer, layer]})
    edited, _, _ = apply(given, [{"op": "add", "path": "/layers/1/settings/layer_opacity", "value": 40.0}])
    other = parse(edited)
    assert other.layers[0] is first.layers[0]
    assert (other.layers[1].layer.layer_opacity, first.layers[1].layer.layer_opacity) == (40.0, 100.0)


@pytest.mark.parametrize(("text", "size"), [("tall", (1080, 1920)), ("640x360", (640, 360)), ("4096×64", (4096, 64))])
def test_frames_by_name_and_size(text, size):
    frame = FrameSize.parse(text)
    assert (frame.width, frame.height) == size


@pytest.mark.parametrize("text", ["huge", "10x10", "641x360", "5000x200", "", "64x"])
def test_impossible_frames_are_refused(text):
    with pytest.raises(FrameError):
        FrameSize.parse(text)


def test_rates_are_exact():
    for name, rate in RATES.items():
        assert parse_rate(name) == rate == parse_rate(f"{rate.numerator}/{rate.denominator}")
        assert float(rate) == pytest.approx(float(name), abs=0.005)
    with pytest.raises(FrameError):
        parse_rate("1/0")


@pytest.mark.parametrize("rate", list(RATES.values()))
def test_the_frame_count_covers_the_length_and_no_more(rate):
    parsed = parse(document(rate=str(rate), length_s=10.0))
    assert parsed.time_of(parsed.frame_count - 1) < 10
    assert parsed.time_of(parsed.frame_count) >= 10


def test_a_row_of_bars_of_version_2_becomes_a_spectrum():
    old = document()
    old |= {"version": 2, "frame": {"width": 1080, "height": 1920}}
    old["signals"] = [new_signal("clock")]
    patches = [
        {"setting": "height", "signal": old["signals"][0]["id"], "from": 10, "to": 20, "join": "add"},
        {"setting": "height", "signal": old["signals"][0]["id"], "from": 0.5, "to": 1.0, "join": "multiply"},
        {"setting": "bars", "signal": old["signals"][0]["id"], "from": 8, "to": 20},
    ]
    settings = {"bars": 32, "height": 45.0, "grow": "down", "colour_by": "frequency", "gap": 10.0}
    old["layers"][1] = {"id": "b", "kind": "spectrum-bars", "name": "B", "settings": settings, "patches": patches}
    layer = parse(old).layers[1]
    shown = layer.layer
    assert (shown.kind, shown.bands, shown.grow, shown.paint, shown.gap) == ("spectrum", 32, "in", "along", 10.0)
    assert shown.reach == pytest.approx(45 * 1920 / 1080)
    assert [(patch.setting, round(patch.low, 3)) for patch in layer.patches] == [
        ("reach", 17.778),
        ("reach", 0.5),
        ("bands", 8),
    ]


def test_no_kind_takes_a_name_that_every_layer_has():
    for cls in LAYER_KINDS.values():
        assert all(cls.settings[name].group in ("layer", "space") for name in Layer.settings), cls.title


def test_light_of_version_6_stays_as_it_was():
    lights = [
        {"id": f"e{n}", "kind": kind, "settings": {}} for n, kind in enumerate(("glow", "light-rays", "vignette"))
    ]
    old = document(version=6, layers=[{"id": "l1", "kind": "backdrop", "effects": lights}])
    responses = [part["settings"].get("response") for part in upgraded(old)["layers"][0]["effects"]]
    assert responses == ["hard", "hard", None] and parse(old)
    assert upgraded(old | {"version": VERSION})["layers"][0]["effects"] == lights
