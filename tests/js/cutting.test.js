// Layers cut in two at the playhead, and put one after the other on the beats.

import assert from "node:assert/strict";
import test from "node:test";

import { typed, wholeStudio } from "./studio.js";

/** Bars and title chosen, the playhead at 2 s, a beat every half second. */
async function chosen() {
  const whole = wholeStudio();
  const { studio } = whole;
  studio.tempo.beatGrid = { ...studio.tempo.beatGrid, beats: Array.from({ length: 40 }, (_, n) => [n * 0.5, n % 4]) };
  studio.playback.frame = Math.round(2 * studio.project.rate);
  studio.page.refs.beatCut = { showModal() {}, close() {} };
  studio.selection.choose(studio.layers.byId("title"));
  studio.selection.also = ["bars", "title"];
  const layers = async () => (await whole.server()).layers;
  return { ...whole, layers };
}

test("a layer is cut in two at the playhead, and goes on where it was", async () => {
  const { studio, layers, edits } = await chosen();
  studio.selection.choose(studio.layers.byId("bars"));
  const count = edits.length;
  studio.cutting.cutHere();
  const after = await layers();
  assert.equal(edits.length, count + 1);
  const [first, second] = after.filter(({ name }) => name.startsWith(studio.layers.byId("bars").name));
  assert.equal(first.id, "bars");
  assert.deepEqual([first.settings.to_at, first.settings.to_s], ["time", 2]);
  assert.deepEqual([second.settings.from_at, second.settings.from_s], ["time", 2]);
  assert.notEqual(second.id, "bars");
  assert.equal(studio.cutting.slipped(first, 2).slip_s, undefined, "what does not run through a source has no slip");
});

test("what runs through a source goes on where it was", async () => {
  const { studio } = await chosen();
  const kind = studio.kinds.find(({ running }) => running.slip);
  assert.ok(kind);
  const layer = /** @type {any} */ ({ kind: kind.kind, settings: { speed: 50, slip_s: 1 } });
  assert.deepEqual(studio.cutting.slipped(layer, 3), { [kind.running.slip]: 2.5 });
});

test("cuts of a clip lie where its layer shows them, and it is cut there in one step", async () => {
  const { studio, layers, edits } = await chosen();
  const kind = studio.kinds.find(({ running }) => running.slip);
  const settings = { clip: "c".repeat(64), in_s: 1, speed: 50, slip_s: 0.5, to_at: "time", to_s: 9 };
  const film = {
    ...structuredClone(studio.layers.byId("bars")),
    id: "film",
    name: "Film",
    kind: kind.kind,
    settings,
  };
  await studio.project.edit("Film", [
    { op: "add", path: "/layers/-", value: { ...film, patches: [], keyframes: {} } },
  ]);
  studio.sceneCuts.cuts["c".repeat(64)] = [1.2, 2.5, 4, 30];
  const places = studio.sceneCuts.placesOf(studio.layers.byId("film"));
  assert.deepEqual(places, [2, 5], "in point, slip and speed are minded; what is not shown is left out");
  const count = edits.length;
  studio.sceneCuts.cutThere(studio.layers.byId("film"));
  const pieces = (await layers()).filter(({ name }) => name.startsWith("Film"));
  assert.equal(edits.length, count + 1);
  assert.deepEqual(
    pieces.map(({ settings: { from_s: from, to_s: to, slip_s: slip } }) => [from, to, slip]),
    [
      [undefined, 2, 0.5],
      [2, 5, 1.5],
      [5, 9, 3],
    ],
  );
});

test("chosen layers come one after the other on the beats, in their order or by chance", async () => {
  const { studio, layers, edits } = await chosen();
  const count = edits.length;
  studio.cutting.set("each", typed("2"));
  studio.cutting.onBeats();
  const spans = async () =>
    Object.fromEntries((await layers()).map(({ id, settings }) => [id, [settings.from_s, settings.to_s]]));
  const once = await spans();
  assert.equal(edits.length, count + 1);
  const chosenIds = studio.cutting.chosen.map(({ id }) => id).reverse();
  assert.deepEqual(
    chosenIds.map((id) => once[id]),
    chosenIds.map((_, n) => [2 + n, 3 + n]),
  );
  studio.cutting.set("each", typed("90"));
  studio.cutting.onBeats();
  assert.match(studio.cutting.fault, /no beats from the playhead/);
  assert.equal(edits.length, count + 1);
});

test("a picture that is dropped on an empty scene fills it, on a full one it asks", async () => {
  const { studio, layers } = await chosen();
  const told = /** @type {any[]} */ ([]);
  studio.messages.tell = (...said) => told.push(said);
  studio.media.checkMissing = () => {};
  studio.media.addMedia("picture", "quay.png", "k".repeat(64));
  const [after] = (await layers()).filter(({ name }) => name === "quay");
  const [, action, fill] = told[told.length - 1];
  assert.equal(action, "Fill the frame");
  fill();
  const filled = (await layers()).find(({ id }) => id === after.id);
  assert.deepEqual([filled.settings.width, filled.settings.height, filled.settings.fit], [100, 100, "cover"]);
  studio.project.edit("Empty", [{ op: "replace", path: "/layers", value: [] }]);
  studio.media.addMedia("picture", "pier.jpg", "p".repeat(64));
  const [only] = await layers();
  assert.deepEqual([only.settings.width, only.settings.fit], [100, "cover"]);
});

test("a flipped layer is moved, scaled and turned by numbers alone, and stays flipped", async () => {
  const { studio, layers, edits } = await chosen();
  const title = studio.layers.byId("title");
  const values = studio.placement.placeValues(title);
  assert.deepEqual([values.flip_x, values.flip_y], [0, 0]);
  const steps = studio.placement.valueSteps(title, { ...values, flip_x: 1, spin: 30 });
  assert.ok(steps.every(({ path, value }) => Number.isFinite(value) && !path.includes("flip")));
  const count = edits.length;
  studio.project.edit("Turn", steps);
  const [turned] = (await layers()).filter(({ id }) => id === "title");
  assert.deepEqual([turned.settings.spin, edits.length], [30, count + 1]);
});
