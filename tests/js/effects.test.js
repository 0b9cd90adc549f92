import assert from "node:assert/strict";
import test from "node:test";
import { wholeStudio } from "./studio.js";

/** What a browser keeps for the next page. */
function browser() {
  const kept = {};
  globalThis.localStorage = { getItem: (name) => kept[name] ?? null, setItem: (name, value) => (kept[name] = value) };
}

/** The bars with a glow and a displacement by the title; the glow's gain follows the kick. */
async function effects() {
  browser();
  const whole = wholeStudio();
  const { studio, open, server } = whole;
  open("bars");
  studio.selection.openTab("effect");
  for (const kind of ["glow", "displacement"])
    studio.parts.addPart(studio.parts.partSort.kinds.find((one) => one.kind === kind));
  await server();
  const [glow, displacement] = studio.parts.shownParts;
  const gain = studio.parts.partFields(glow, true).find((setting) => setting.numeric);
  studio.patches.plug(gain, studio.signals.signalById("kick"));
  const source = studio.parts.partFields(displacement, true).find((setting) => setting.type === "layer");
  studio.settings.put(source, "title");
  await server();
  const bars = async () => (await server()).layers.find(({ id }) => id === "bars");
  return { ...whole, bars, gain };
}

test("copied effects come with what moves them, under ids of their own", async () => {
  const { studio, bars, open, server } = await effects();
  studio.effectChains.copy();
  open("ground");
  studio.effectChains.paste();
  const ground = (await server()).layers.find(({ id }) => id === "ground");
  const own = (await bars()).effects.map(({ id }) => id);
  assert.deepEqual(
    ground.effects.map(({ kind }) => kind),
    ["glow", "displacement"],
  );
  assert.ok(ground.effects.every(({ id }) => !own.includes(id)));
  assert.deepEqual(
    ground.patches.map(({ setting, signal }) => [setting.split(":")[1], signal]),
    [[ground.effects[0].id, "kick"]],
  );
});

test("in another project a signal is found by its name; what follows none is left out, and said", async () => {
  const { studio } = await effects();
  const chain = studio.effectChains.ofLayer();
  chain.patches[0].signal = "elsewhere";
  assert.equal(studio.effectChains.fitting(chain).patches[0].signal, "kick", "by its name");
  chain.patches[0].signal_name = "Snare";
  const fitting = studio.effectChains.fitting(chain);
  assert.deepEqual([fitting.patches.length, fitting.lost], [0, 1]);
});

test("an effect that reads a layer which is not here reads none", async () => {
  const { studio } = await effects();
  const chain = studio.effectChains.ofLayer();
  const reads = ({ effects: row }) => Object.values(row[1].settings).includes("title");
  assert.ok(reads(studio.effectChains.fitting(chain)));
  for (const effect of chain.effects)
    for (const [name, value] of Object.entries(effect.settings))
      if (value === "title") effect.settings[name] = "gone";
  const fitted = studio.effectChains.fitting(chain).effects[1].settings;
  assert.ok(!Object.values(fitted).includes("gone"));
});

test("nothing copied is said; what a browser keeps may be no effects at all", () => {
  browser();
  const { studio, edits, open } = wholeStudio();
  open("bars");
  studio.effectChains.paste();
  globalThis.localStorage.getItem = () => "{";
  studio.effectChains.paste();
  assert.deepEqual(edits, []);
  assert.match(JSON.stringify(studio.messages), /No effects have been copied/);
});

test("the look without effects is shown while a key is held, and stored nowhere", async () => {
  const { studio, edits, server } = await effects();
  const { length } = edits;
  studio.beforeAfter.hold();
  assert.equal(studio.project.draft.length, 2);
  studio.beforeAfter.hold();
  studio.beforeAfter.release();
  assert.equal(studio.project.draft, null);
  await server();
  assert.equal(edits.length, length);
});

test("layers are aligned with the frame, or with each other, and moved no further than that", async () => {
  const { studio, open, server } = wholeStudio();
  const lies = (left, top, right, bottom) => ({
    box: [left, top, right, bottom],
    place: [1, 0, 0, 0, 1, 0],
    above: [1, 0, 0, 0, 1, 0],
    corners: [
      [left, top],
      [right, top],
      [right, bottom],
      [left, bottom],
    ],
    shown: true,
  });
  studio.placement.lies = {
    bars: lies(100, 50, 300, 150),
    ground: lies(0, 0, 640, 360),
    title: lies(400, 200, 500, 240),
  };
  open("bars");
  const before = structuredClone((await server()).layers.find(({ id }) => id === "bars"));
  studio.arrangement.align(0, 0);
  const after = (await server()).layers.find(({ id }) => id === "bars");
  const by = (name) => Math.abs((after.settings[name] ?? 0) - (before.settings[name] ?? 0));
  const moved = Object.keys(after.settings).filter((name) => by(name) > 1e-9);
  const of = (layer) => layer.settings[moved[0]] ?? 0;
  assert.equal(moved.length, 1, "across alone");
  assert.ok(Math.abs(of(after) - (of(before) ?? 0) + (100 / 640) * 100) < 1e-6, `${moved[0]}: ${of(after)}`);
  studio.arrangement.distribute(0);
  assert.match(JSON.stringify(studio.messages), /three layers or more/);
});

test("excerpts: a bar where the strip shows it, none where it does not", () => {
  const { studio } = wholeStudio();
  studio.excerpts.seen = { start: 10, span: 20 };
  const item = { start_s: 12, end_s: 20, why: "the loudest", colour: "brass" };
  assert.deepEqual((({ left, width, visibility }) => [left, width, visibility])(studio.excerpts.bar(item)), [
    "10%",
    "40%",
    "visible",
  ]);
  assert.equal(studio.excerpts.bar({ ...item, start_s: 40, end_s: 50 }).visibility, "hidden");
  assert.equal(studio.excerpts.text(item), "0:12 the loudest");
});
