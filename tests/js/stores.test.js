import assert from "node:assert/strict";
import test from "node:test";
import { Events } from "../../velvetdrum/studio/static/js/lib/events.js";
import { DocumentStore } from "../../velvetdrum/studio/static/js/stores/document.js";
import { Exports } from "../../velvetdrum/studio/static/js/stores/exports.js";
import { LayerTree } from "../../velvetdrum/studio/static/js/stores/layer_tree.js";
import { Playback } from "../../velvetdrum/studio/static/js/stores/playback.js";
import { Selection } from "../../velvetdrum/studio/static/js/stores/selection.js";
import { Sound } from "../../velvetdrum/studio/static/js/stores/sound.js";
import { Tempo } from "../../velvetdrum/studio/static/js/stores/tempo.js";

const layer = (id, group = "") => ({ id, kind: "dot", name: id, visible: true, settings: {}, patches: [], group });
const KINDS = [
  { kind: "dot", title: "Dot", members: false, settings: [{ name: "x", group: "shape" }], sounding: [], sounds: [] },
  { kind: "box", title: "Box", members: true, settings: [], sounding: [], sounds: [] },
];

/** As much of the studio as a store asks for, with nothing that is drawn. */
function studioOf(layers = [layer("a"), layer("b"), { ...layer("c"), kind: "box" }, layer("d", "c")]) {
  const told = [];
  const studio = {
    given: { partSorts: [], speeds: [{ name: "balanced", help: "" }], beatSettings: [] },
    kinds: KINDS,
    raw: (value) => value,
    events: new Events(),
    settings: { dragValue: 1, typed: {} },
    messages: { tell: (text) => told.push(text) },
    signals: { signal: null },
    trim: { inS: 0, outS: 4 },
    views: { player: { pause() {}, playing: false, setVolume() {}, grain() {} }, preview: { stop() {}, play() {} } },
    told,
  };
  studio.project = new DocumentStore(studio);
  studio.layers = new LayerTree(studio);
  studio.selection = new Selection(studio);
  studio.tempo = new Tempo(studio);
  studio.playback = new Playback(studio);
  const document = { name: "p", rate: "30/1", length_s: 4, tracks: [], layers, signals: [], frame: {}, beats: {} };
  studio.project.accept({ id: "p", revision: 1, document, undo: null, redo: null });
  return studio;
}

/** The server: answers one after the other, each a body or a status with a body. */
function server(...answers) {
  const asked = [];
  globalThis.fetch = async (path, options) => {
    asked.push([path, options.body && JSON.parse(options.body)]);
    const answer = answers.shift();
    if (!answer) throw new Error("no answer is left");
    const { status = 200, body } = answer;
    return { ok: status < 300, status, json: async () => body };
  };
  return asked;
}

const rename = (name) => [{ op: "replace", path: "/name", value: name }];
const after = (studio, revision, name) => ({
  body: { ...studio.project.state, revision, document: { ...studio.project.state.document, name }, undo: "Rename" },
});

test("an edit is seen at once, sent with the revision it was made on, and then kept", async () => {
  const studio = studioOf();
  const { project } = studio;
  const heard = [];
  for (const name of ["changed", "saved"]) studio.events.on(name, () => heard.push(name));
  const asked = server(after(studio, 2, "q"));
  project.edit("Rename", rename("q"));
  assert.equal(project.document.name, "q");
  assert.equal(project.saved, "saving");
  await project.settled();
  assert.deepEqual(asked, [["/projects/p/edits", { revision: 1, label: "Rename", patch: rename("q") }]]);
  assert.equal(project.saved, "saved · edit 1");
  assert.deepEqual(heard, ["changed", "saved"]);
});

test("edits behind each other go out in order, each on the revision of the one before", async () => {
  const studio = studioOf();
  const asked = server(after(studio, 2, "q"), after(studio, 3, "r"));
  studio.project.edit("Rename", rename("q"));
  studio.project.edit("Rename", rename("r"));
  assert.equal(studio.project.document.name, "r");
  await studio.project.settled();
  assert.deepEqual(
    asked.map(([, body]) => body.revision),
    [1, 2],
  );
});

test("an edit that is refused is taken back, with the reason where it was made", async () => {
  const studio = studioOf();
  const path = "/layers/0/settings/x";
  const problems = [{ path, sentence: "X goes from 0 to 1." }];
  server({ status: 422, body: { error: "No.", problems } });
  studio.project.edit("Set", [{ op: "add", path, value: 9 }]);
  await studio.project.settled();
  assert.deepEqual(studio.project.document.layers[0].settings, {});
  assert.equal(studio.project.faults[path], "X goes from 0 to 1.");
  assert.equal(studio.settings.typed[path], "9");
});

test("an edit on an older revision asks which one goes on, and loses nothing", async () => {
  const studio = studioOf();
  let open = null;
  studio.events.on("conflict", (is) => (open = is));
  server({ status: 409, body: { error: "Changed.", revision: 5 } });
  studio.project.edit("Rename", rename("q"));
  for (let i = 0; i < 20 && open === null; i += 1) await new Promise((done) => setTimeout(done, 5));
  assert.equal(open, true);
  assert.equal(studio.project.document.name, "q");
  server({ body: { ...studio.project.state, revision: 5 } }, after(studio, 6, "q"));
  await studio.project.keepMine();
  await studio.project.settled();
  assert.equal(open, false);
  assert.equal(studio.project.state.revision, 6);
});

test("undo asks for one step after the other", async () => {
  const studio = studioOf();
  studio.project.state.undo = "Rename";
  const asked = server(after(studio, 2, "o"), after(studio, 3, "n"));
  studio.project.undo();
  await studio.project.undo();
  assert.deepEqual(asked, [
    ["/projects/p/undo", { revision: 1 }],
    ["/projects/p/undo", { revision: 2 }],
  ]);
  assert.equal(studio.project.document.name, "n");
});

test("layers are chosen one by one, together, and all at once", () => {
  const { selection, layers } = studioOf();
  selection.pick(layers.byId("a"), {});
  selection.pick(layers.byId("b"), { ctrlKey: true });
  assert.deepEqual(selection.selected, ["a", "b"]);
  selection.pick(layers.byId("a"), { shiftKey: true });
  assert.deepEqual(selection.selected, ["b"]);
  selection.chooseAll();
  assert.deepEqual(new Set(selection.selected), new Set(["a", "b", "c"]));
  selection.choose(layers.byId("a"));
  assert.deepEqual(selection.tabs, [{ name: "shape", title: "Shape" }]);
});

test("the tree is listed front first, members under their group", () => {
  const { layers } = studioOf();
  assert.deepEqual(
    layers.layersFrontFirst.map((item) => item.id),
    ["c", "d", "b", "a"],
  );
  assert.deepEqual(
    layers.branch("c").map((item) => item.id),
    ["c", "d"],
  );
  assert.equal(layers.depthOf(layers.byId("d")), 1);
  layers.fold(layers.byId("c"));
  assert.deepEqual(
    layers.layersFrontFirst.map((item) => item.id),
    ["c", "b", "a"],
  );
  assert.equal(layers.freshName("a"), "a 2");
});

test("seeking stays within the project, and a loop within it, too", () => {
  const studio = studioOf();
  const heard = [];
  for (const name of ["seek", "rest", "loop"]) studio.events.on(name, () => heard.push(name));
  studio.playback.seek(1000);
  assert.equal(studio.playback.frame, 119);
  studio.playback.seek(-3);
  assert.equal(studio.playback.frame, 0);
  assert.deepEqual(heard, ["seek", "rest", "seek", "rest"]);
  studio.playback.setLoop(3.99, 9);
  assert.deepEqual({ ...studio.playback.loop }, { first: 117, last: 120, on: true });
  studio.playback.setLoop(1, 2);
  assert.deepEqual({ ...studio.playback.loop }, { first: 30, last: 60, on: true });
  assert.equal(studio.playback.loopText, "loop 1.0 s");
});

test("without a sound the picture plays in silence", async () => {
  const studio = studioOf();
  const { player } = studio.views;
  Object.assign(player, { play: async () => (player.playing = true) });
  await studio.playback.toggle();
  assert.equal(studio.playback.playing, true);
});

test("facts of a sound are told with their units", () => {
  const sound = new Sound(studioOf());
  sound.facts = { channels: 2, sample_rate: 44100, loudness_lufs: -14.04, loudness_range_lu: null };
  sound.facts.true_peak_dbtp = -1;
  assert.deepEqual(
    [sound.channelText, sound.rateText, sound.loudnessText, sound.rangeText, sound.peakText],
    ["stereo", "44.1 kHz", "−14.0 LUFS", "–", "−1.0 dBTP"],
  );
});

test("a time near a beat snaps to it while snapping is on", () => {
  const { tempo } = studioOf();
  tempo.beatGrid = {
    ...tempo.beatGrid,
    tempo_bpm: 120,
    beats: [
      [0, true],
      [0.5, false],
      [1, false],
    ],
  };
  assert.equal(tempo.snapped(0.55), 0.5);
  assert.equal(tempo.snapped(0.75), 0.75);
  tempo.toggleSnap();
  assert.equal(tempo.snapped(0.55), 0.55);
});

test("exports say how far they are, in order, and what they were found to be", () => {
  const exports = new Exports(studioOf());
  assert.equal(exports.exportLine({ state: "waiting", frames: 3, done: 0 }), "waiting for its turn");
  assert.equal(exports.exportLine({ state: "waiting", held: "paused", done: 1, frames: 4 }), "paused at 25 %");
  assert.equal(exports.exportLine({ state: "cancelled", done: 1, frames: 3 }), "cancelled at 33 %");
  const done = { state: "done", bytes: 2.5e6, format: "MP4", seconds: 61, speed: "Quick", took_s: 12.4, edit: 7 };
  assert.equal(exports.exportLine(done), "2.5 MB · 1:01.00 · MP4 · quick, took 12 s · edit 7");
  const found = { loudness_lufs: -14.02, true_peak_dbtp: -1.1, flashes: 0, black: 0, frozen: 0 };
  assert.equal(exports.foundLine({ found }), "−14.0 LUFS, −1.1 dBTP, no flashes");
  assert.ok(exports.foundWell({ found }) && !exports.foundWell({ found: { ...found, flashes: 2 } }));
});

test("what is cleaned up is told with what it frees", () => {
  const exports = new Exports(studioOf());
  const now = Date.now() / 1000;
  const item = (id, age, form = "mp4") => ({
    id,
    state: "done",
    project: "p",
    form,
    width: 64,
    bytes: 1e6,
    made_at: now - age,
  });
  exports.exports = [item("new", 10), item("other", 20, "gif"), item("old", 9 * 86_400)];
  const ways = Object.fromEntries(exports.tidyWays.map((way) => [way.name, way.ids]));
  assert.deepEqual(ways["older than a week"], ["old"]);
  assert.deepEqual(ways["replaced by newer ones"], ["old"]);
  assert.deepEqual(ways.all, ["new", "other", "old"]);
});
