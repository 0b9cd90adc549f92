import assert from "node:assert/strict";
import test from "node:test";
import { typed, wholeStudio } from "./studio.js";

/** What a browser keeps. */
function storage(kept = {}) {
  return { getItem: (name) => kept[name] ?? null, setItem: (name, value) => (kept[name] = value), kept };
}

test("sizes are kept for each room, within bounds, and go back to what they are by themselves", () => {
  const { studio } = wholeStudio();
  const kept = storage();
  studio.layout.restore(kept);
  const usual = studio.layout.sizeOf("list");
  studio.layout.resize("list", 10_000);
  assert.equal(studio.layout.sizeOf("list"), 520);
  assert.equal(studio.layout.style["--list"], "520px");
  studio.selection.room = "words";
  assert.notEqual(studio.layout.sizeOf("list"), 520, "another room has its own");
  studio.selection.room = "picture";
  const again = wholeStudio().studio;
  again.layout.restore(kept);
  assert.equal(again.layout.sizeOf("list"), 520);
  studio.layout.reset("list");
  assert.equal(studio.layout.sizeOf("list"), usual);
});

test("what is folded stays so; what a browser keeps may be anything", () => {
  const { studio } = wholeStudio();
  const kept = storage();
  studio.layout.restore(kept);
  assert.ok(studio.layout.isOpen("signals"));
  studio.layout.keepOpen("signals", false);
  assert.ok(!studio.layout.isOpen("signals"));
  assert.ok(!studio.layout.isOpen("more", false));
  for (const text of ["{", "null", "[]", '{"sizes": 3, "folded": "x"}', '{"sizes": {"picture": {"list": "wide"}}}']) {
    const other = wholeStudio().studio;
    other.layout.restore(storage({ "velvet-layout": text }));
    assert.ok(other.layout.sizeOf("list") > 0, text);
  }
  const refusing = { getItem: () => null, setItem: () => assert.fail };
  studio.layout.restore({ ...refusing, setItem() { throw new Error("no room"); } }); // prettier-ignore
  studio.layout.resize("panel", 400);
  assert.equal(studio.layout.sizeOf("panel"), 400);
});

/** An event of a drag over a row, at a share of its height. */
const over = (share) => ({
  clientY: share * 100,
  currentTarget: { getBoundingClientRect: () => ({ top: 0, height: 100 }) },
  dataTransfer: { setData() {} },
});

test("a row that is dragged goes before, behind or into the one that it is dropped on", async () => {
  const { studio, layer, server } = wholeStudio();
  const { layerList } = studio;
  layerList.grabLayer(layer("bars"), over(0));
  layerList.overLayer(layer("box"), over(0.5));
  assert.ok(layerList.isTarget(layer("box"), "in"));
  layerList.layLayer(layer("box"));
  assert.equal((await server()).layers.find(({ id }) => id === "bars").group, "box");
  layerList.grabLayer(layer("bars"), over(0));
  layerList.overLayer(layer("ground"), over(0.9));
  assert.ok(layerList.isTarget(layer("ground"), "back"));
  layerList.layLayer(layer("ground"));
  const { layers } = await server();
  assert.deepEqual([layers[0].id, layers[0].group], ["bars", ""]);
  assert.equal(layerList.grabbedLayer, null);
});

test("a group is not dropped into itself, nor a locked layer moved", async () => {
  const { studio, edits, layer, open, server } = wholeStudio();
  const { layerList } = studio;
  layerList.grabLayer(layer("box"), over(0));
  layerList.overLayer(layer("title"), over(0.1));
  layerList.layLayer(layer("title"));
  await server();
  assert.deepEqual(edits, []);
  open("bars");
  studio.layerEdits.lockLayer();
  await server();
  const { length } = edits;
  layerList.grabLayer(layer("bars"), over(0));
  layerList.overLayer(layer("ground"), over(0.9));
  layerList.layLayer(layer("ground"));
  await server();
  assert.equal(edits.length, length);
});

test("a row says what a layer is and what was done with it", async () => {
  const { studio, layer, open, server } = wholeStudio();
  assert.match(studio.layerList.layerNote(layer("box")), /1 in it/);
  open("bars");
  studio.layerEdits.soloLayer();
  studio.layerEdits.lockLayer();
  await server();
  assert.match(studio.layerList.layerNote(layer("bars")), /solo · locked/);
});

const TRACK = { id: "t", media: "0".repeat(64), name: "Quay.wav", in_s: 1, out_s: 9 };

/** A studio with a sound of ten seconds, used from 1 to 9. */
function sounding() {
  const whole = wholeStudio();
  whole.studio.sound.facts = { duration_s: 10, first_sound_s: 0.5, last_sound_s: 9.5, sample_rate: 48000 };
  whole.studio.sound.factsOf = TRACK.media;
  whole.studio.sound.loadFacts = async () => {};
  whole.studio.project.edit("Sound", [{ op: "replace", path: "/tracks", value: [TRACK] }]);
  return { ...whole, used: async () => (({ in_s, out_s }) => [in_s, out_s])((await whole.server()).tracks[0]) };
}

test("the used part is set at the playhead, typed, widened to the whole or to what sounds", async () => {
  const { studio, used } = sounding();
  studio.tempo.snapping = false;
  studio.playback.frame = studio.views.player.frame = 30;
  studio.trim.inHere();
  assert.deepEqual(await used(), [2, 9]);
  studio.trim.typePoint("out", typed("0:08"));
  assert.deepEqual(await used(), [2, 8]);
  studio.trim.wholeTrack();
  assert.deepEqual(await used(), [0, 10]);
  studio.trim.soundOnly();
  assert.deepEqual(await used(), [0.5, 9.5]);
});

test("points that are no times, beyond the recording or the wrong way round are refused in their field", async () => {
  const { studio, used } = sounding();
  studio.trim.typePoint("in", typed("0:30"));
  assert.match(studio.trim.inFault, /0:00 to 0:10/);
  studio.trim.typePoint("out", typed("0:00.5"));
  assert.match(studio.trim.outFault, /after the in point/);
  assert.deepEqual(await used(), [1, 9]);
  studio.trim.typePoint("out", typed("0:07"));
  assert.equal(studio.trim.outFault, "");
});

test("beats: half and double, shifted round a bar, typed with their bounds", async () => {
  const { studio, server } = sounding();
  const beats = async () => (await server()).beats;
  studio.tempo.doubleTempo();
  assert.equal((await beats()).factor, "2");
  studio.tempo.halfTempo();
  studio.tempo.halfTempo();
  assert.equal((await beats()).factor, "1/2");
  studio.tempo.shiftOn();
  assert.equal((await beats()).shift, 1);
  studio.tempo.shiftBack();
  studio.tempo.shiftBack();
  assert.equal((await beats()).shift, -1);
  studio.tempo.typeTempo(typed("126 bpm"));
  assert.deepEqual([(await beats()).source, (await beats()).tempo_bpm], ["typed", 126]);
  studio.tempo.doubleTempo();
  assert.equal((await beats()).tempo_bpm, 252);
  studio.tempo.doubleTempo();
  assert.equal((await beats()).tempo_bpm, 252, "beyond 400 there is none");
  studio.tempo.typeTempo(typed("900"));
  assert.match(studio.tempo.beatFault, /20 to 400/);
  studio.tempo.typeBar(typed("0"));
  assert.match(studio.tempo.beatFault, /1 to 16/);
  studio.tempo.typeBar(typed("3"));
  assert.equal((await beats()).bar, 3);
  studio.tempo.measuredBeats();
  assert.equal((await beats()).source, "measured");
});

test("a place snaps to the beat that is near, and to none when snapping is off", () => {
  const { studio } = sounding();
  studio.tempo.beatGrid = { ...studio.tempo.beatGrid, beats: [[0, 1], [0.5, 2], [1, 3]] }; // prettier-ignore
  assert.equal(studio.tempo.snapped(0.46), 0.5);
  assert.equal(studio.tempo.snapped(0.3), 0.3);
  assert.equal(studio.tempo.snapped(0.3, 0.3), 0.5);
  studio.tempo.toggleSnap();
  assert.equal(studio.tempo.snapped(0.46), 0.46);
  assert.match(studio.tempo.snapText, /off/);
});
