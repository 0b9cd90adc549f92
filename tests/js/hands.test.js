// Everything by name, keys that are changed and several layers at once.

import assert from "node:assert/strict";
import test from "node:test";
import { typed, wholeStudio } from "./studio.js";
import { ACTIONS, combinationOf, keyText } from "../../velvetdrum/studio/static/js/views/actions.js";

test("no two actions of one room have the same key", () => {
  const rooms = ["sound", "picture", "words", "export"];
  assert.equal(new Set(ACTIONS.map(({ id }) => id)).size, ACTIONS.length);
  for (const room of rooms) {
    const own = ACTIONS.filter((action) => action.key && action.room === room).map(({ key }) => key);
    const all = ACTIONS.filter((action) => action.key && !action.room).map(({ key }) => key);
    assert.equal(new Set(own).size, own.length);
    assert.equal(new Set(all).size, all.length);
  }
});

test("keys are one text, and stand on the sheet as people write them", () => {
  const combination = (key, more = {}) => combinationOf({ key, ...more });
  assert.equal(combination("z", { ctrlKey: true, shiftKey: true }), "Ctrl+Shift+Z");
  assert.equal(combination("Z", { metaKey: true, shiftKey: true }), "Ctrl+Shift+Z");
  assert.equal(combination("?", { shiftKey: true }), "?");
  assert.equal(combination(" "), "Space");
  assert.equal(combination("ArrowLeft", { altKey: true }), "Alt+ArrowLeft");
  assert.deepEqual(["Ctrl+Shift+Z", "Alt+ArrowLeft", "+", "Ctrl++", ""].map(keyText), [
    "Ctrl Shift Z",
    "Alt ←",
    "+",
    "Ctrl +",
    "",
  ]);
});

test("a key is changed, taken from who had it, kept, and given back", () => {
  const { studio } = wholeStudio();
  const { keyMap } = studio;
  const held = {};
  const storage = { getItem: (name) => held[name] ?? null, setItem: (name, text) => (held[name] = text) };
  keyMap.restore(storage);
  const of = (id) => ACTIONS.find((action) => action.id === id);
  const press = (key, more = {}) => keyMap.take({ key, preventDefault() {}, stopPropagation() {}, ...more });
  keyMap.change(of("loop"));
  press("Shift", { shiftKey: true });
  assert.equal(keyMap.buttonText(of("loop")), "press the keys");
  press("m");
  assert.equal(keyMap.textOf(of("loop")), "M");
  assert.match(keyMap.note, /Mute has no key any more/);
  assert.equal(keyMap.actionOf("M").id, "loop");
  assert.equal(keyMap.actionOf("L"), null);
  const again = wholeStudio().studio.keyMap;
  again.restore(storage);
  assert.equal(again.textOf(of("loop")), "M");
  assert.equal(JSON.parse(decodeURIComponent(again.exported.split(",")[1])).loop, "M");
  again.reset(of("loop"));
  assert.equal(again.textOf(of("loop")), "L");
  again.resetAll();
  assert.equal(again.textOf(of("mute")), "M");
  held["velvet-keys"] = "no JSON";
  again.restore(storage);
  assert.equal(again.textOf(of("play")), "Space");
});

test("keys do what the table says, in the room where they hold", () => {
  const { studio } = wholeStudio();
  globalThis.getSelection = () => "";
  const press = (key, more = {}) =>
    studio.keys.key({ key, target: { matches: () => false }, preventDefault() {}, ...more });
  press("n");
  assert.equal(studio.tempo.snapping, false);
  press("a", { ctrlKey: true });
  assert.ok(studio.selection.several);
  press("Escape");
  assert.ok(!studio.selection.several);
  studio.selection.room = "words";
  press("a", { ctrlKey: true });
  assert.ok(!studio.selection.several);
});

test("everything that has a name is found by it, what begins with it first", async () => {
  const { studio } = wholeStudio();
  const { finder } = studio;
  globalThis.location = { href: "" };
  studio.page.go = (room) => (studio.selection.room = room);
  finder.open();
  const texts = (query) => {
    finder.seek(query);
    return finder.results.map(({ sort, text }) => `${sort}: ${text}`);
  };
  assert.equal(texts("spectrum")[0], "layer: Spectrum");
  assert.ok(texts("mute").includes("action: Mute"));
  assert.ok(texts("spectrum radius").includes("setting: Radius"));
  const [signal] = studio.signals.signals;
  assert.ok(texts(signal.name).includes(`signal: ${signal.name}`));
  assert.deepEqual(texts("no such thing at all"), []);
  assert.ok(finder.empty);
  finder.seek("spectrum");
  finder.key({ key: "Enter", preventDefault() {} });
  assert.equal(studio.selection.layer.id, "bars");
  finder.open();
  finder.seek("spectrum corner radius");
  finder.take(finder.results[0]);
  assert.match(studio.shownSettings.sought, /radius/i);
  finder.open();
  finder.seek("go to words");
  finder.take(finder.results[0]);
  assert.equal(studio.selection.room, "words");
});

/** Bars and the title, chosen together. */
async function chosenTwo() {
  const made = wholeStudio();
  const { studio } = made;
  studio.selection.choose(studio.layers.byId("bars"));
  studio.selection.also = ["title"];
  const named = (name) => studio.selection.kind.settings.find((known) => known.name === name);
  const values = async (name) => {
    const { layers } = await made.server();
    return ["bars", "title"].map((id) => layers.find((layer) => layer.id === id).settings[name]);
  };
  return { ...made, named, values };
}

test("what several layers share is set the same, changed by as much, or spread over them", async () => {
  const { studio, named, values, edits } = await chosenTwo();
  const opacity = named("layer_opacity");
  assert.ok(studio.manyLayers.isShared(opacity));
  assert.ok(!studio.manyLayers.isShared(named("bands")), "a text has no bands");
  assert.ok(studio.shownSettings.often.every((shown) => studio.manyLayers.isShared(shown)));
  const count = edits.length;
  studio.fields.type(opacity, typed("40"));
  assert.deepEqual(await values("layer_opacity"), [40, 40]);
  studio.fields.type(opacity, typed("20 … 80"));
  // In the order of the list: the title stands in front.
  assert.deepEqual(await values("layer_opacity"), [80, 20]);
  assert.equal(studio.fields.numberShown(opacity), "20 · 80");
  studio.fields.type(opacity, typed("+10"));
  assert.deepEqual(await values("layer_opacity"), [90, 30]);
  studio.fields.type(opacity, typed("*0.5"));
  assert.deepEqual(await values("layer_opacity"), [45, 15]);
  studio.fields.type(opacity, typed("0 to 100 by chance 7"));
  const once = await values("layer_opacity");
  studio.fields.type(opacity, typed("0 to 100 by chance 7"));
  assert.deepEqual(await values("layer_opacity"), once, "the same seed, the same values");
  assert.equal(edits.length, count + 6, "one step of undo each");
  studio.fields.type(opacity, typed("+90"));
  assert.match(studio.fields.faultOf(opacity), /goes from 0 to 100/);
  assert.deepEqual(await values("layer_opacity"), once, "nothing was changed");
});

test("a locked layer among several refuses for all of them", async () => {
  const { studio, named, values, server } = await chosenTwo();
  await studio.project.edit("Lock", [
    { op: "add", path: `/layers/${studio.layers.indexOf("title")}/locked`, value: true },
  ]);
  await server();
  const before = await values("layer_opacity");
  studio.settings.put(named("layer_opacity"), 10);
  assert.deepEqual(await values("layer_opacity"), before);
});

test("sixty chosen layers are set in one step", async () => {
  const { studio, server, edits } = wholeStudio();
  const bars = studio.layers.byId("bars");
  const copies = Array.from({ length: 60 }, (_, number) => ({
    op: "add",
    path: "/layers/-",
    value: { ...structuredClone(bars), id: `b${number}` },
  }));
  await studio.project.edit("Many", copies);
  studio.selection.choose(studio.layers.byId("b0"));
  studio.selection.also = copies.slice(1).map(({ value }) => value.id);
  const radius = studio.selection.kind.settings.find(({ name }) => name === "layer_opacity");
  const count = edits.length;
  studio.fields.type(radius, typed("0 … 59"));
  const { layers } = await server();
  const values = copies.map(({ value }) => layers.find(({ id }) => id === value.id).settings.layer_opacity);
  assert.deepEqual(
    values,
    values.map((_, number) => 59 - number),
  );
  assert.equal(edits.length, count + 1);
});

test("copies by steps are shown, then made in one step", async () => {
  const { studio, server, edits } = wholeStudio();
  studio.selection.choose(studio.layers.byId("bars"));
  const { steps } = studio;
  steps.open();
  steps.rows = [
    { name: "layer_opacity", by: "-10" },
    { name: "turn", by: "15" },
  ];
  steps.setCount(typed(3));
  assert.equal(studio.project.draft.length, 3, "shown");
  const before = (await server()).layers.length;
  steps.make();
  const { layers } = await server();
  const at = layers.findIndex(({ id }) => id === "bars");
  assert.equal(layers.length, before + 3);
  assert.deepEqual(
    layers.slice(at + 1, at + 4).map(({ settings }) => [settings.layer_opacity, settings.turn]),
    [90, 80, 70].map((opacity, number) => [opacity, (number + 1) * 15]),
  );
  assert.match(edits.at(-1), /3 copies of Spectrum by steps/);
  steps.rows = [{ name: "layer_opacity", by: "-60" }];
  assert.deepEqual(steps.steps(), []);
  assert.match(steps.fault, /Copy \d: .* is outside/);
});

test("the style of a layer goes to others: colours and effects, not place and name", async () => {
  const { studio, server } = wholeStudio();
  globalThis.localStorage = {
    held: {},
    getItem(name) {
      return this.held[name] ?? null;
    },
    setItem(name, text) {
      this.held[name] = text;
    },
  };
  const [front, back] = ["title", "bars"].map((id) => studio.layers.indexOf(id));
  await studio.project.edit("Styled", [
    { op: "add", path: `/layers/${back}/settings/layer_opacity`, value: 37 },
    { op: "add", path: `/layers/${back}/settings/x`, value: 11 },
    { op: "add", path: `/layers/${back}/effects`, value: [{ id: "e", kind: "glow", on: true, settings: {} }] },
  ]);
  studio.selection.choose(studio.layers.byId("bars"));
  studio.clipboard.keepLayer();
  studio.selection.choose(studio.layers.byId("title"));
  studio.clipboard.pasteStyle();
  const { layers } = await server();
  assert.equal(layers[front].settings.layer_opacity, 37);
  assert.notEqual(layers[front].settings.x, 11);
  assert.equal(layers[front].name, studio.layers.byId("title").name);
  assert.equal(layers[front].effects[0].kind, "glow");
  assert.notEqual(layers[front].effects[0].id, "e");
});

test("only what differs is shown, and a section goes back to its defaults", async () => {
  const { studio, server, setting: of } = wholeStudio();
  const opacity = of("bars", "layer_opacity");
  studio.selection.openTab("layer");
  studio.settings.put(opacity, 55);
  await server();
  studio.shownSettings.toggleOnlyChanged();
  const names = [...studio.shownSettings.often, ...studio.shownSettings.seldom].map(({ name }) => name);
  assert.ok(names.includes("layer_opacity") && names.length < 6);
  studio.shownSettings.resetSection();
  const { layers } = await server();
  assert.equal(layers.find(({ id }) => id === "bars").settings.layer_opacity, opacity.default);
});
