"""Looks: what ships, filled with sounds of every sort, recoloured, kept from a project, and what is wrong with one."""

from fractions import Fraction
from itertools import product

import numpy as np
import pytest

import velvetdrum.looks.shelf  # noqa: F401
from tests.conftest import RATE, song, write_wav
from tests.looks.test_refit import strings, voice
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.looks.kept_look import kept_look
from velvetdrum.looks.open_places import Filling, filled, fitted_layer_settings
from velvetdrum.looks.project_colours import contrast, readable, recoloured, scheme_of
from velvetdrum.looks.shelf_look import LOOKS
from velvetdrum.picture.frame.render import ProjectView, render
from velvetdrum.scene.document import new_document, new_layer, new_patch, new_track, parse
from velvetdrum.scene.frames import FRAMES, SHAPES
from velvetdrum.scene.look_section import PACES, USES
from velvetdrum.scene.problems import ProjectError
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.audio_range import AudioRange

SECONDS = 6.0
MADE = {
    "song": lambda: song(SECONDS),
    "dense": lambda: np.tanh(song(SECONDS) * 8) * 0.95,
    "solo": lambda: strings() * 0.3,
    "speech": voice,
    "no beat": lambda: swell(),
    "loud": lambda: np.clip(song(SECONDS) * 6, -1, 1),
    "near silence": lambda: song(SECONDS) * 1e-3,
}


def swell():
    """A breath of noise that comes and goes once."""
    time = np.arange(round(SECONDS * RATE)) / RATE
    noise = np.random.default_rng(11).standard_normal(len(time))
    return 0.1 * noise * np.sin(np.pi * time / SECONDS) ** 2


@pytest.fixture(scope="module")
def uses(tmp_path_factory):
    """Sounds by their names, analysed."""
    folder = tmp_path_factory.mktemp("looks")

    def used(name):
        recording = analyse(write_wav(folder / f"{name}.wav", MADE[name]()), folder / name, key=name)
        return AudioRange(recording, 0.0, SECONDS)

    return {name: used(name) for name in MADE}


TRACK = new_track("0" * 64, "song.wav", SECONDS)
FULL = Filling(title="Harbour at Six", artist="The Quay Band", speaker="Harbour office")


def look_of(ident, use, filling=FULL, shape=None):
    return filled(LOOKS[ident].document, filling, TRACK, use, FRAMES[shape] if shape else None)


def frame_of(document, use, at, width=160):
    project = parse(document)
    return render(project, use, Fraction(at).limit_denominator(1000), project.frame.scaled_to(width))[..., :3]


def test_what_ships_is_enough_for_every_use():
    looks = list(LOOKS.values())
    assert len(looks) == 24 and len({look.about for look in looks}) == 24
    assert sum(look.frame == "tall" for look in looks) >= 6
    assert sum("voice" in look.uses for look in looks) >= 4
    for kind, least in (("film", 5), ("cover", 4), ("words", 4)):
        assert sum(any(p["kind"] == kind for p in look.document["look"]["places"]) for look in looks) >= least, kind
    assert sum(look.family == "Type" for look in looks) >= 4
    assert len({look.family for look in looks}) >= 10
    for look in looks:
        assert set(look.uses) <= USES.keys() and look.pace in PACES and look.frame in SHAPES
        assert len(look.about) <= 80 and look.about.endswith(".")


@pytest.mark.parametrize(("ident", "name"), product(LOOKS, ("speech", "no beat")))
def test_every_look_takes_a_sound_without_beats_or_without_anything(uses, ident, name):
    document = look_of(ident, uses[name])
    assert parse(document).track and frame_of(document, uses[name], 2.0).max() > 0


@pytest.mark.parametrize("ident", LOOKS)
def test_every_look_moves_and_begins_and_ends_with_a_picture(uses, ident):
    use = uses["song"]
    document = look_of(ident, use)
    project = parse(document)
    view, size = ProjectView(project, use, {}), project.frame.scaled_to(160)
    frames = [
        render(project, use, Fraction(at).limit_denominator(1000), size)[..., :3].astype(float)
        for at in (0.0, 1.0, 2.2, 5.9)
    ]
    assert view.project is project
    # Rec. 709 luma of the first and the last frame, and a difference between two that sound.
    for picture in (frames[0], frames[-1]):
        assert picture.mean() >= 0.03 * 255
    assert np.abs(frames[1] - frames[2]).mean() > 0.5


@pytest.mark.parametrize("ident", LOOKS)
def test_every_look_goes_into_every_frame(uses, ident):
    for shape in SHAPES:
        document = look_of(ident, uses["song"], shape=shape)
        assert parse(document).frame.shape == shape


@pytest.mark.parametrize("name", ["dense", "loud", "solo", "near silence"])
@pytest.mark.parametrize("ident", sorted(LOOKS)[::3])
def test_nothing_in_a_look_sticks(uses, ident, name):
    document = look_of(ident, uses[name])
    project = parse(document)
    signals = ProjectView(project, uses[name]).signals
    times = np.arange(0, SECONDS, 1 / 30)
    for signal in document["signals"]:
        if signal["kind"] == "pickup":
            values = signals.values(signal["id"], times)
            assert values.max() >= 0.85 and (values >= 0.999).mean() <= 0.35, (signal["name"], name)


def test_open_places_disappear_and_filled_ones_stand(uses):
    bare = look_of("lamp-at-sea", uses["song"], Filling(title="Harbour at Six"))
    names = {layer["name"] for layer in bare["layers"]}
    assert {"Mist", "Title inside"} <= names and not {"Water", "Logo", "Disc"} & names
    full = look_of("lamp-at-sea", uses["song"], Filling("Harbour at Six", cover="a" * 64, film="b" * 64))
    layers = {layer["name"]: layer for layer in full["layers"]}
    assert layers["Logo"]["settings"]["image"] == "a" * 64 and layers["Water"]["settings"]["clip"] == "b" * 64
    assert not {"Mist", "Title inside"} & layers.keys()
    assert full["tags"]["title"] == full["name"] == "Harbour at Six"


def test_a_photo_stands_where_footage_would(uses):
    made = look_of("column", uses["song"], Filling("Quay", film="c" * 64, photo=True))
    layer = next(layer for layer in made["layers"] if layer["name"] == "Footage")
    assert layer["kind"] == "picture" and layer["settings"]["image"] == "c" * 64
    assert layer["settings"]["fit"] == "cover" and layer["settings"]["width"] == 100
    parse(made)


def test_roles_find_their_place_in_the_sound(uses):
    for name, beats in (("song", True), ("no beat", False)):
        made = look_of("double-orbit", uses[name])
        by_role = {role: ident for ident, role in LOOKS["double-orbit"].document["look"]["roles"].items()}
        kinds = {signal["id"]: signal["kind"] for signal in made["signals"]}
        assert kinds[by_role["beat"]] == ("clock" if beats else "pickup")
        assert kinds[by_role["bars"]] == ("clock" if beats else "lfo")
        kick = next(signal for signal in made["signals"] if signal["id"] == by_role["kick"])["settings"]
        assert (kick["high_hz"] <= 120) is beats


@pytest.mark.parametrize("title", ["", "x" * 300, "فنار من ورق", "A\nB", "{title}"])
def test_any_title_is_a_picture(uses, title):
    for ident in ("big-letters", "lyric-light", "quote-card"):
        made = look_of(ident, uses["song"], Filling(title=title))
        assert made["name"] and frame_of(made, uses["song"], 3.0).max() > 0


# Colours


def test_a_new_accent_recolours_all_that_is_near_it_and_nothing_else():
    layers = [
        new_layer("spectrum", colours=[{"at": 0, "colour": "#ff7a66"}, {"at": 1, "colour": "#5fc4b4"}]),
        new_layer("text", plain="#f4eadb"),
    ]
    document = new_document("Quay", frame=FRAMES["wide"], rate=Fraction(30), layers=layers)
    document["colours"] = {"ground": "#1b1119", "ink": "#f4eadb", "accent 1": "#ff7a66", "accent 2": "#5fc4b4"}
    made = recoloured(document, {"accent 1": "#3050ff"})
    stops = made["layers"][0]["settings"]["colours"]
    assert stops[0]["colour"] == "#3050ff" and stops[1]["colour"] == "#5fc4b4"
    assert made["layers"][1]["settings"]["plain"] == "#f4eadb" and made["colours"]["accent 1"] == "#3050ff"
    assert (
        recoloured(made, {"accent 1": "#ff7a66"})["layers"][0]["settings"]["colours"]
        == layers[0]["settings"]["colours"]
    )
    assert recoloured(document, {}) is document


def test_a_shade_of_a_colour_goes_with_it():
    document = new_document(
        "Quay", frame=FRAMES["wide"], rate=Fraction(30), layers=[new_layer("text", plain="#8a3328")]
    )
    document["colours"] = {"ground": "#101010", "accent 1": "#e05a48"}
    shade = recoloured(document, {"accent 1": "#4858e0"})["layers"][0]["settings"]["plain"]
    red, _, blue = (int(shade[i : i + 2], 16) for i in (1, 3, 5))
    # As dark as before beside it, and blue.
    assert blue > red and blue < 0xE0


def test_a_scheme_can_be_read_on_its_ground():
    names = ["ground", "ink", "accent 1", "accent 2", "accent 3"]
    for palette in (["#808080"], ["#ffffff", "#fefefe"], ["#101060", "#c02020", "#f0d040", "#20a060"], ["#000000"]):
        scheme = scheme_of(palette, names)
        assert list(scheme) == names
        for name in names[1:]:
            assert contrast(scheme[name], scheme["ground"]) >= 4.5, (palette, name)
    assert contrast("#ffffff", "#000000") == pytest.approx(21) and contrast("#777777", "#ffffff") == pytest.approx(
        4.48, abs=0.01
    )
    assert contrast(readable("#203040", "#101820"), "#101820") >= 4.5


# Kept ones


def test_a_kept_look_leaves_its_sound_and_keeps_what_was_moved_by_hand(uses):
    use = uses["song"]
    made = look_of("lamp-at-sea", use, Filling("Quay", cover="a" * 64, film="b" * 64))
    bars = next(layer for layer in made["layers"] if layer["kind"] == "spectrum")
    bars["settings"]["loud_db"] -= 3.0
    look = kept_look(made, use, "My lamp", "Mine.")
    assert look["tracks"] == [] and parse(look).media == set()
    assert [place["kind"] for place in look["look"]["places"]] == ["film", "cover", "title"]
    assert look["look"]["distances"][bars["id"]] == {"loud_db": -3.0}
    again = filled(look, Filling("Again", cover="d" * 64), new_track("1" * 64, "b.wav", SECONDS), uses["dense"])
    there = next(layer for layer in again["layers"] if layer["id"] == bars["id"])
    fit = fitted_layer_settings(there, uses["dense"])
    assert there["settings"]["loud_db"] == pytest.approx(fit["loud_db"] - 3.0)
    assert "Water" not in {layer["name"] for layer in again["layers"]}


def test_chosen_layers_become_a_look_with_the_signals_that_they_follow(uses):
    kick, other = new_signal("pickup", "Kick"), new_signal("lfo", "Other")
    bars, ground = new_layer("spectrum", "Bars"), new_layer("backdrop", "Ground")
    bars["patches"] = [new_patch("reach", kick, 20.0, 40.0)]
    document = new_document(
        "Quay", frame=FRAMES["wide"], rate=Fraction(30), layers=[ground, bars], track=TRACK, signals=[kick, other]
    )
    look = kept_look(document, uses["song"], "Bars", "", {bars["id"]})
    assert [layer["name"] for layer in look["layers"]] == ["Bars"]
    assert [signal["name"] for signal in look["signals"]] == ["Kick"]
    assert parse(filled(look, Filling(), TRACK, uses["song"])).layers


def test_what_a_chosen_layer_reads_comes_with_it(uses):
    made = look_of("halo", uses["song"])
    ghost = next(layer["id"] for layer in made["layers"] if layer["kind"] == "instance")
    look = kept_look(made, uses["song"], "Ghost", "", {ghost})
    assert {layer["name"] for layer in look["layers"]} == {"Ghost", "Hairlines"} and parse(look)
    group = next(layer["id"] for layer in made["layers"] if layer["kind"] == "group")
    assert len(kept_look(made, uses["song"], "All", "", {group})["layers"]) == 4


# What is wrong with one


def broken(**look):
    document = new_document("Quay", frame=FRAMES["wide"], rate=Fraction(30), layers=[new_layer("text")])
    return document | {"length_s": 4.0, "look": {"about": "A look.", "uses": ["song"], **look}}


@pytest.mark.parametrize(
    ("look", "said"),
    [
        ({"uses": ["film"]}, "A look is for song, voice, loop."),
        ({"pace": 3}, "A look's pace is calm or lively."),
        ({"roles": {"a": "tuba"}}, "Roles of signals are"),
        ({"places": [{"kind": "hat"}]}, "A place is one of title, artist"),
        ({"places": "all"}, "A look has up to 6 places."),
        ({"about": "x" * 500}, "up to 160 characters"),
        ({"distances": {"a": {"loud_db": 1e9}}}, "Distances are numbers"),
        ({"else": 1}, "A look has about"),
    ],
)
def test_a_look_that_is_wrong_is_told_by_a_sentence(look, said):
    with pytest.raises(ProjectError, match=said):
        parse(broken(**look))


def test_a_place_whose_layer_is_gone_is_said_and_the_rest_works(uses):
    document = broken(places=[{"kind": "cover", "fills": {"gone": "image"}}, {"kind": "title"}])
    section = parse(document).look
    assert section.gone == ("The place Logo or cover names a layer that is gone; it is left out.",)
    assert parse(filled(document, FULL, TRACK, uses["song"])).layers


def test_wrong_colours_are_told():
    with pytest.raises(ProjectError, match="up to 12 colours"):
        parse(broken() | {"colours": {"ground": "red"}})
