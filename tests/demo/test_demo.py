"""The sample world: small, real, made by its scripts."""

import hashlib
import json
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction
from itertools import pairwise

import av
import numpy as np
import pytest

from tests.picture.effects.effect_sources import applied, effect
from velvetdrum.deliver.export import used_part
from velvetdrum.deliver.formats.mp4 import video_frame
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.video_format import FORMATS, SPEEDS
from velvetdrum.demo.families import lantern_ring
from velvetdrum.demo.install import LAMP, NOTICE, SONG, WATER, install_demo
from velvetdrum.demo.song import RATE, paper_lighthouse
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.limits.process import worker_context
from velvetdrum.picture.frame.handles import handles, misfits
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_track, parse
from velvetdrum.scene.effects import EFFECT_KINDS
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.signal_set import SignalSet
from velvetdrum.signals.views import judged
from velvetdrum.store.projects import find
from velvetdrum.studio.services import Services


@pytest.fixture(scope="module")
def world(tmp_path_factory):
    """A server with the demo in it."""
    services = Services(tmp_path_factory.mktemp("world"))
    install_demo(services)
    yield services
    services.close()


@pytest.fixture(scope="module")
def recording(world):
    """The demo's song, analysed."""
    made = json.loads((world.data / "demo.json").read_text())["projects"]
    documents = [find(world.db, ident).document for ident in made]
    return next(
        world.recording(document["tracks"][0]["media"])
        for document in documents
        if document["tracks"][0]["name"] == SONG
    )


@pytest.fixture(scope="module")
def scenes(world, recording):
    """Documents of the demo's projects with their media, by name."""
    made = json.loads((world.data / "demo.json").read_text())["projects"]
    documents = [find(world.db, ident).document for ident in made]
    for document in documents:
        world.sums.wait(document)
    return {document["name"]: (document, world.sources(document)) for document in documents}


def test_the_song_has_a_loud_part_a_quiet_passage_and_room_above(recording):
    samples = paper_lighthouse()
    assert 38 < len(samples) / RATE < 44
    facts = recording.facts
    assert -20 < facts.loudness_lufs < -9
    assert facts.true_peak_dbtp <= -0.5
    assert facts.loudness_range_lu > 4
    loudest, quietest = recording.loudest_and_quietest_s(3.0, 38.0)
    assert 20 < quietest < 27
    assert not 20 < loudest < 27
    assert np.array_equal(samples, paper_lighthouse())


def test_the_media_are_small_and_can_be_read(world):
    folder = world.data / "demo"
    assert sum(path.stat().st_size for path in folder.iterdir()) < 20_000_000
    for name, kind in ((SONG, "audio"), (NOTICE, "audio"), (WATER, "video")):
        with av.open(str(folder / name)) as container:
            assert getattr(container.streams, kind)
    with av.open(str(folder / WATER)) as container:
        frames = [frame.to_ndarray(format="gray").astype(float) for frame in container.decode(video=0)]
    steps = [np.abs(a - b).mean() for a, b in pairwise(frames)]
    assert np.abs(frames[-1] - frames[0]).mean() < 3 * np.median(steps)  # it loops without a jump
    assert (folder / LAMP).read_text().startswith("<svg")


def digests(document, sources, seconds):
    """What frames of a project are, each by its second; drawn in the order of the seconds."""
    project, use = parse(document), used_part(parse(document), sources)
    size = project.frame.scaled_to(160)
    return {
        second: hashlib.sha256(
            render(project, use, project.time_of(round(second * 30)), size, media=sources.small).tobytes()
        ).hexdigest()
        for second in seconds
    }


def test_every_scene_is_the_same_in_any_order_and_in_another_process(scenes):
    seconds = (0.5, 7.0, 7.1, 19.3)
    with ProcessPoolExecutor(1, mp_context=worker_context()) as other:
        there = {name: other.submit(digests, *scene, (19.3, 7.1, 0.5)) for name, scene in scenes.items()}
        assert len(there) == 22
        for name, scene in scenes.items():
            straight = digests(*scene, seconds)
            assert len(set(straight.values())) == len(seconds), name
            assert digests(*scene, seconds[::-1]) == straight, name
            SHARED_CACHE.clear()
            assert digests(*scene, (7.1,))[7.1] == straight[7.1], name
            assert there[name].result() == {second: straight[second] for second in (19.3, 7.1, 0.5)}, name


def test_fresh_light_adds_hardly_any_clipped_area_to_a_frame_of_the_demo(scenes):
    lights = [name for name, kind in EFFECT_KINDS.items() if "response" in kind.settings]
    assert len(lights) >= 3
    frames = [(name, second) for name in scenes for second in (10.3, 27.6)]
    assert len(frames) >= 20
    for name, second in frames:
        document, sources = scenes[name]
        project, use = parse(document), used_part(parse(document), sources)
        pixels = render(project, use, project.time_of(round(second * 30)), FrameSize(240, 136), media=sources.small)
        clipped = np.mean(pixels[..., :3].max(axis=2) >= 254)
        for kind in lights:
            lit = applied(effect(kind), pixels.copy())
            assert np.mean(lit[..., :3].max(axis=2) >= 254) <= clipped + 0.02, (name, kind)


def test_the_demo_is_installed_once(world, recording):
    services = world
    made = json.loads((world.data / "demo.json").read_text())["projects"]
    assert len(made) == 22
    for ident in made:
        document = find(services.db, ident).document
        services.sums.wait(document)
        parsed, sources = parse(document), services.sources(document)
        use = used_part(parsed, sources)
        signals = SignalSet(parsed.signals, parsed.beats, use, parsed.length_s)
        assert signals.signals
        for named in parsed.signals:
            assert judged(signals, named.id)["at_1"] < 0.03, named.name
            assert any(patch.signal == named.id for layer in parsed.layers for patch in layer.patches), named.name
    (night,) = (
        document
        for document in (find(services.db, ident).document for ident in made)
        if document["name"] == "Paper Lighthouse"
    )
    scene = parse(night)
    assert services.missing_media(night) == []
    sources = services.sources(night)
    for size in (FRAMES["wide"], FRAMES["square"], FRAMES["tall"]):
        for second in (2, 12, 37):
            lies = handles(scene, use, Fraction(second), size, sources.media)
            assert misfits(scene, lies, size) == [], (size, second)
    services.db.execute("DELETE FROM project")
    install_demo(services)
    assert services.db.execute("SELECT count(*) FROM project").fetchone()[0] == 0


@pytest.mark.parametrize("speed", list(SPEEDS))
def test_every_speed_is_exact_to_43_db_on_the_demo(ring, speed):
    frames, planes = ring
    plan = ExportPlan(1080, 1080, "30", 0, len(frames), speed=speed)
    path = frames[0].parent / f"{speed}.mp4"
    FORMATS[plan.format].encode((np.load(file) for file in frames), path, plan)
    errors = []
    with av.open(str(path)) as container:
        for frame, exact in zip(container.decode(video=0), planes, strict=True):
            found = [
                np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)[:, : plane.width] for plane in frame.planes
            ]
            total = sum(((one.astype(int) - other) ** 2).sum() for one, other in zip(found, exact, strict=True))
            errors.append(total / sum(one.size for one in exact))
    assert 10 * np.log10(255**2 / np.mean(errors)) >= 43


@pytest.fixture(scope="module")
def ring(tmp_path_factory, recording):
    """Frames of the demo scene that is hardest to encode, as files, and the planes that they become."""
    folder = tmp_path_factory.mktemp("ring")
    document = lantern_ring(new_track("0" * 64, "song.wav", recording.facts.duration_s), recording)
    made, use = parse(document), AudioRange(recording, 0.0, recording.facts.duration_s)
    files, planes = [], []
    for number in range(500, 518):
        pixels = render(made, use, made.time_of(number), FrameSize(1080, 1080))
        files.append(folder / f"{number}.npy")
        np.save(files[-1], pixels)
        frame = video_frame(pixels)
        planes.append([np.frombuffer(p, np.uint8).reshape(-1, p.line_size)[:, : p.width].copy() for p in frame.planes])
    return files, planes
