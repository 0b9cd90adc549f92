import assert from "node:assert/strict";
import test from "node:test";
import { typed, wholeStudio } from "./studio.js";

const order = (document) => document.layers.map(({ id }) => id);

test("the list shows the front layer first, members under their group", async () => {
  const { studio } = wholeStudio();
  assert.deepEqual(
    studio.layers.layersFrontFirst.map(({ id }) => id),
    ["box", "title", "bars", "ground"],
  );
  assert.equal(studio.layers.depthOf(studio.layers.byId("title")), 1);
  assert.equal(studio.layers.groupOf(studio.layers.byId("title")), "box");
  assert.deepEqual(
    studio.layers.membersOf("box").map(({ id }) => id),
    ["title"],
  );
  assert.deepEqual(
    studio.layers.branch("box").map(({ id }) => id),
    ["title", "box"],
  );
});

test("a layer is hidden, renamed, raised and lowered, each one step of undo", async () => {
  const { studio, edits, open, layer, server } = wholeStudio();
  open("bars");
  studio.layerEdits.toggleLayer(layer("bars"));
  assert.equal((await server()).layers[1].visible, false);
  studio.layerEdits.renameLayer(typed("Quay bars"));
  assert.equal((await server()).layers[1].name, "Quay bars");
  const listed = () => studio.layers.layersFrontFirst.map(({ id }) => id);
  const before = listed();
  studio.layerEdits.lowerLayer();
  assert.deepEqual(order(await server()).slice(0, 2), ["bars", "ground"]);
  studio.layerEdits.raiseLayer();
  await server();
  assert.deepEqual(listed(), before);
  assert.equal(edits.length, 4);
});

test("an empty name is not taken", async () => {
  const { studio, edits, open, server } = wholeStudio();
  open("bars");
  studio.layerEdits.renameLayer(typed("   "));
  assert.notEqual((await server()).layers[1].name.trim(), "");
  assert.deepEqual(edits, []);
});

test("a locked layer refuses, and says so", async () => {
  const { studio, open, server } = wholeStudio();
  open("bars");
  studio.layerEdits.lockLayer();
  assert.equal((await server()).layers[1].locked, true);
  assert.equal(studio.layerEdits.lockOn, true);
  assert.ok(studio.layerEdits.refuseLocked());
  assert.match(studio.messages.text || JSON.stringify(studio.messages), /lock/i);
});

test("chosen layers become a group, and come out of it again", async () => {
  const { studio, open, server } = wholeStudio();
  open("bars");
  studio.selection.chooseAll();
  assert.equal(studio.selection.selected.length > 1, true);
  open("bars");
  studio.layerEdits.groupLayers();
  const grouped = await server();
  const group = grouped.layers.find(({ id }) => id === grouped.layers.find((one) => one.id === "bars").group);
  assert.equal(group.kind, "group");
  studio.selection.choose(studio.layers.byId(group.id));
  studio.layerEdits.ungroup();
  const free = await server();
  assert.equal(free.layers.find(({ id }) => id === "bars").group, "");
  assert.equal(
    free.layers.some(({ id }) => id === group.id),
    false,
  );
});

test("a copy is a layer of its own: a new id, a free name, nothing shared", async () => {
  const { studio, open, server } = wholeStudio();
  open("bars");
  studio.clipboard.copyLayer();
  const document = await server();
  const copies = document.layers.filter(({ kind }) => kind === "spectrum");
  assert.equal(copies.length, 2);
  assert.notEqual(copies[0].id, copies[1].id);
  assert.notEqual(copies[0].name, copies[1].name);
  assert.deepEqual(copies[0].settings, copies[1].settings);
});

test("a group is copied with its members, which follow the copy", async () => {
  const { studio, open, server } = wholeStudio();
  open("box");
  studio.clipboard.copyLayer();
  const { layers } = await server();
  const groups = layers.filter(({ kind }) => kind === "group");
  const texts = layers.filter(({ kind }) => kind === "text");
  assert.equal(groups.length, 2);
  assert.deepEqual(new Set(texts.map(({ group }) => group)), new Set(groups.map(({ id }) => id)));
});

test("a deleted group takes its members along", async () => {
  const { studio, open, server } = wholeStudio();
  open("box");
  studio.clipboard.dropLayer();
  assert.deepEqual(order(await server()), ["ground", "bars"]);
});

test("new layers lie where their kind belongs: backdrops at the back, others in front", () => {
  const { studio } = wholeStudio();
  assert.equal(studio.layers.placeFor("spectrum"), studio.project.document.layers.length);
  assert.ok(studio.layers.placeFor("backdrop") <= 1);
  const fresh = studio.layers.newLayer("spectrum", "Bars", { bands: 12 });
  assert.equal(fresh.settings.bands, 12);
  assert.equal(studio.layers.byId(fresh.id), null);
});

test("a layer that is tied to the recording, or let go, shows what it showed", async () => {
  const { studio, server } = wholeStudio();
  const { kind, linked, settings } = studio.kinds.find((known) => known.linked);
  const [choice, tied, place] = linked;
  const own = Object.fromEntries(settings.map((setting) => [setting.name, setting.default]));
  const { project } = studio;
  const layer = {
    ...structuredClone(project.document.layers[0]),
    id: "film",
    kind,
    settings: { ...own, [place]: 5 },
  };
  await project.edit("Film", [
    { op: "add", path: "/tracks/0/in_s", value: 2 },
    { op: "add", path: "/layers/-", value: layer },
  ]);
  studio.selection.choose(studio.layers.byId("film"));
  const setting = studio.selection.kind.settings.find((known) => known.name === choice);
  const film = async () => (await server()).layers.at(-1).settings;
  studio.settings.put(setting, tied);
  assert.equal((await film())[place], 3);
  studio.settings.put(setting, own[choice]);
  assert.equal((await film())[place], 5);
});
