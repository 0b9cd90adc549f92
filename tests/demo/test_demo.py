"""The sample world: small, real, made by its scripts."""

import json
from fractions import Fraction
from itertools import pairwise

import av
import numpy as np

from tests.conftest import write_wav
from velvetdrum.audio.analysing import analyse
from velvetdrum.deliver.export import used_part
from velvetdrum.demo.install import LAMP, NOTICE, SONG, WATER, install_demo, make_media
from velvetdrum.demo.song import RATE, paper_lighthouse
from velvetdrum.picture.placing import handles, misfits
from velvetdrum.scene.document import parse
from velvetdrum.scene.frames import FRAMES
from velvetdrum.signals.signal_set import SignalSet
from velvetdrum.signals.views import judged
from velvetdrum.store.projects import find
from velvetdrum.studio.services import Services


def test_the_song_has_a_loud_part_a_quiet_passage_and_room_above(tmp_path):
    samples = paper_lighthouse()
    assert 38 < len(samples) / RATE < 44
    recording = analyse(write_wav(tmp_path / "song.wav", samples, RATE), tmp_path / "analysis")
    facts = recording.facts
    assert -20 < facts.loudness_lufs < -9
    assert facts.true_peak_dbtp <= -0.5
    assert facts.loudness_range_lu > 4
    loudest, quietest = recording.loudest_and_quietest_s(3.0, 38.0)
    assert 20 < quietest < 27
    assert not 20 < loudest < 27
    assert np.array_equal(samples, paper_lighthouse())


def test_the_media_are_small_and_can_be_read(tmp_path):
    make_media(tmp_path)
    assert sum(path.stat().st_size for path in tmp_path.iterdir()) < 6_000_000
    for name, kind in ((SONG, "audio"), (NOTICE, "audio"), (WATER, "video")):
        with av.open(str(tmp_path / name)) as container:
            assert getattr(container.streams, kind)
    with av.open(str(tmp_path / WATER)) as container:
        frames = [frame.to_ndarray(format="gray").astype(float) for frame in container.decode(video=0)]
    steps = [np.abs(a - b).mean() for a, b in pairwise(frames)]
    assert np.abs(frames[-1] - frames[0]).mean() < 3 * np.median(steps)  # it loops without a jump
    assert (tmp_path / LAMP).read_text().startswith("<svg")


def test_the_demo_is_installed_once(tmp_path):
    services = Services(tmp_path)
    try:
        install_demo(services)
        made = json.loads((tmp_path / "demo.json").read_text())["projects"]
        assert len(made) == 7
        for ident in made:
            document = find(services.db, ident).document
            parsed, sources = parse(document), services.sources(document)
            use = used_part(parsed, sources)
            signals = SignalSet(parsed.signals, parsed.beats, use, parsed.length_s)
            assert signals.signals
            for named in parsed.signals:
                assert judged(signals, named.id)["at_1"] < 0.03, named.name
                assert any(patch.signal == named.id for layer in parsed.layers for patch in layer.patches), named.name
        scene = parse(find(services.db, made[-1]).document)
        assert services.missing_media(find(services.db, made[-1]).document) == []
        sources = services.sources(find(services.db, made[-1]).document)
        for size in (FRAMES["wide"], FRAMES["square"], FRAMES["tall"]):
            for second in (2, 12, 37):
                lies = handles(scene, use, Fraction(second), size, sources.media)
                assert misfits(scene, lies, size) == [], (size, second)
        services.db.execute("DELETE FROM project")
        install_demo(services)
        assert services.db.execute("SELECT count(*) FROM project").fetchone()[0] == 0
    finally:
        services.close()
