"""Project files that somebody else made: nothing outside is written, nothing half is kept, and the reason is told."""

import hashlib
import json
import os
import struct
import zipfile

import pytest

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.deliver.bundle import read_bundle, write_bundle
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.scene.document import new_document, new_layer
from velvetdrum.scene.frames import FRAMES, RATES

SOUND = b"not decoded here" * 200
KEY = hashlib.sha256(SOUND).hexdigest()


def document(media=KEY, layers=()):
    track = {"id": "t", "media": media, "name": "x", "in_s": 0.0, "out_s": 1.0}
    return new_document("x", frame=FRAMES["wide"], rate=RATES["30"], layers=list(layers), track=track)


def packed(path, told, entries, how=zipfile.ZIP_STORED):
    with zipfile.ZipFile(path, "w", how) as bundle:
        bundle.writestr("project.json", told if isinstance(told, str) else json.dumps(told))
        for name, data in entries.items():
            bundle.writestr(name, data)
    return path


def tree(folder):
    return sorted(str(path.relative_to(folder)) for path in folder.rglob("*"))


def refused(path, tmp_path, said):
    out = tmp_path / "out"
    out.mkdir(exist_ok=True)
    before = tree(tmp_path)
    with pytest.raises(DeliverError, match=said):
        read_bundle(path, out)
    assert tree(tmp_path) == before


def test_a_file_that_was_written_is_read_with_its_content(tmp_path):
    source = tmp_path / "song.wav"
    source.write_bytes(SOUND)
    write_bundle(tmp_path / "x.vdrum", document(), {KEY: source})
    (tmp_path / "out").mkdir()
    read, media = read_bundle(tmp_path / "x.vdrum", tmp_path / "out")
    assert read["name"] == "x" and media[KEY].read_bytes() == SOUND and media[KEY].parent == tmp_path / "out"


@pytest.mark.parametrize(
    "key", ["{victim}", "../../victim", "../victim", "", "A" * 64, "g" * 64, KEY + "/../../victim"]
)
def test_media_are_named_by_content_hashes_only_and_no_file_outside_is_touched(tmp_path, key):
    victim = tmp_path / "victim.txt"
    victim.write_text("kept")
    named = key.format(victim=tmp_path / "victim")
    path = packed(tmp_path / "x.vdrum", document(media=named), {f"media/{named}.txt": b"overwritten"})
    refused(path, tmp_path, "content hash")
    assert victim.read_text() == "kept"


@pytest.mark.parametrize("kind", ["picture", "footage"])
def test_the_keys_of_layers_are_held_to_the_same_form(tmp_path, kind):
    setting = {"picture": "image", "footage": "clip"}[kind]
    layer = new_layer(kind, **{setting: "../../victim"})
    path = packed(tmp_path / "x.vdrum", document(layers=[layer]), {f"media/{KEY}.wav": SOUND})
    refused(path, tmp_path, "content hash")


def test_content_that_does_not_match_its_name_leaves_nothing(tmp_path):
    refused(packed(tmp_path / "x.vdrum", document(), {f"media/{KEY}.wav": SOUND + b"!"}), tmp_path, "does not match")
    refused(packed(tmp_path / "y.vdrum", document(), {}), tmp_path, "lacks the recording")
    refused(packed(tmp_path / "z.vdrum", document(), {f"media/{KEY}.wav/../../x": SOUND}), tmp_path, "lacks the record")


def test_what_would_unpack_to_too_much_is_judged_by_its_directory(tmp_path):
    bomb = packed(tmp_path / "x.vdrum", document(), {f"media/{KEY}.wav": bytes(40 << 20)}, zipfile.ZIP_DEFLATED)
    refused(bomb, tmp_path, "far more than it is")
    many = packed(tmp_path / "y.vdrum", document(), {f"media/{number}": b"" for number in range(2001)})
    refused(many, tmp_path, "more than 2000 parts")
    deep = "[" * 100_000
    refused(packed(tmp_path / "d.vdrum", deep, {}), tmp_path, "nests deeper")
    refused(packed(tmp_path / "n.vdrum", json.dumps(document()).replace("1.0", "1e999"), {}), tmp_path, "number")


def changed(path, tmp_path, change):
    data = bytearray(path.read_bytes())
    change(data)
    out = tmp_path / f"changed-{path.name}"
    out.write_bytes(data)
    return out


def test_encrypted_unknown_and_damaged_archives_are_told(tmp_path):
    good = packed(tmp_path / "x.vdrum", document(), {f"media/{KEY}.wav": SOUND}, zipfile.ZIP_DEFLATED)

    def flag(data):
        at = data.find(b"PK\x01\x02")
        data[at + 8] |= 1

    def method(data):
        at = data.find(b"PK\x01\x02")
        struct.pack_into("<H", data, at + 10, 93)

    refused(changed(good, tmp_path, flag), tmp_path, "encrypted")
    refused(changed(good, tmp_path, method), tmp_path, "way that is not read")
    refused(changed(good, tmp_path, lambda data: data.__delitem__(slice(-30, None))), tmp_path, "directory")
    (tmp_path / "s.vdrum").write_bytes(b"PK\x03\x04 and nothing after it")
    refused(tmp_path / "s.vdrum", tmp_path, "directory")
    (tmp_path / "t.vdrum").write_bytes(b"no zip")
    refused(tmp_path / "t.vdrum", tmp_path, "not a project file")


def test_every_single_damage_of_a_small_file_is_a_sentence(tmp_path):
    """Each byte turned once: what comes is the same content, or a sentence."""
    good = packed(tmp_path / "x.vdrum", document(), {f"media/{KEY}.wav": SOUND}, zipfile.ZIP_DEFLATED)
    whole = good.read_bytes()
    for at in range(0, len(whole), 7):
        data = bytearray(whole)
        data[at] ^= 0x55
        path, out = tmp_path / "d.vdrum", tmp_path / f"out-{at}"
        path.write_bytes(data)
        out.mkdir()
        try:
            _, media = read_bundle(path, out)
            assert media[KEY].read_bytes() == SOUND
        except DeliverError:
            assert os.listdir(out) == []
