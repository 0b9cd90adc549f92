import assert from "node:assert/strict";
import test from "node:test";
import { typed, wholeStudio } from "./studio.js";

const keysOf = (document, id, place) => document.layers.find((layer) => layer.id === id).keyframes[place];

function at(studio, seconds) {
  studio.playback.frame = studio.views.player.frame = Math.round(seconds * 30);
}

test("a setting that moves takes a keyframe at the playhead, and loses it with the same press", async () => {
  const { studio, setting, server } = wholeStudio();
  const opacity = setting("bars", "layer_opacity");
  assert.ok(studio.keyframes.canKey(opacity));
  at(studio, 1);
  studio.keyframes.toggleKey(opacity);
  assert.deepEqual(
    keysOf(await server(), "bars", "layer_opacity").map(({ time_s, value }) => [time_s, value]),
    [[1, 100]],
  );
  assert.ok(studio.keyframes.isKeyed(opacity));
  studio.keyframes.toggleKey(opacity);
  assert.equal(keysOf(await server(), "bars", "layer_opacity"), undefined);
});

test("a change of a keyed setting sets a keyframe where the playhead stands", async () => {
  const { studio, setting, server } = wholeStudio();
  const opacity = setting("bars", "layer_opacity");
  at(studio, 0);
  studio.keyframes.toggleKey(opacity);
  at(studio, 2);
  studio.settings.put(opacity, 40);
  const keys = keysOf(await server(), "bars", "layer_opacity");
  assert.deepEqual(
    keys.map(({ time_s, value }) => [time_s, value]),
    [
      [0, 100],
      [2, 40],
    ],
  );
  assert.equal(studio.settings.valueNow(studio.selection.layer, opacity), 40);
  at(studio, 1);
  const between = studio.settings.valueNow(studio.selection.layer, opacity);
  assert.ok(between < 100 && between > 40, String(between));
});

test("one goes from keyframe to keyframe, and chooses how a value goes on", async () => {
  const { studio, setting, server } = wholeStudio();
  const opacity = setting("bars", "layer_opacity");
  for (const second of [0, 1, 3]) {
    at(studio, second);
    if (second) studio.settings.put(opacity, 100 - second * 10);
    else studio.keyframes.toggleKey(opacity);
  }
  const seeks = [];
  studio.playback.seek = (frame) => seeks.push(frame);
  at(studio, 1);
  studio.keyframes.keyBefore(opacity);
  studio.keyframes.keyAfter(opacity);
  assert.deepEqual(seeks, [0, 90]);
  studio.keyframes.pickEase(opacity, typed("hold"));
  const eases = keysOf(await server(), "bars", "layer_opacity").map(({ ease }) => ease);
  assert.equal(eases[1], "hold");
});

test("a whole layer is keyed at once, and its keyframes are copied to another place", async () => {
  const { studio, open, server } = wholeStudio();
  open("bars");
  at(studio, 0.5);
  studio.keyframes.keyAll();
  const layer = (await server()).layers.find(({ id }) => id === "bars");
  assert.ok(Object.keys(layer.keyframes).length > 3);
  assert.deepEqual(studio.keyframes.keyTimes(studio.selection.layer), [0.5]);
  studio.keyPicks.pickKey("bars", 0.5, false);
  assert.ok(studio.keyPicks.isPickedKey("bars", 0.5));
  studio.keyPicks.copyKeys();
  at(studio, 2);
  studio.keyPicks.pasteKeys();
  await server();
  assert.deepEqual(studio.keyframes.keyTimes(studio.layers.byId("bars")), [0.5, 2]);
  studio.keyPicks.dropKeys();
  await server();
  assert.equal(studio.keyframes.keyTimes(studio.layers.byId("bars")).length, 1);
});

test("a signal is plugged into a setting: a patch that shows at once; it rests when unplugged", async () => {
  const { studio, setting, server } = wholeStudio();
  const opacity = setting("bars", "layer_opacity");
  const [rise] = studio.signals.signals;
  studio.patches.plug(opacity, rise);
  const [patch] = (await server()).layers[1].patches;
  assert.deepEqual([patch.setting, patch.signal, patch.join], ["layer_opacity", "rise", "add"]);
  assert.ok(patch.to < 0, "an opacity of 100 % can but fall");
  const [item] = studio.patches.patchesOf(opacity);
  studio.patches.switchPatch(item);
  assert.equal((await server()).layers[1].patches[0].on, false);
  studio.patches.typePatch(studio.patches.patchesOf(opacity)[0], "to", typed("-50"));
  assert.equal((await server()).layers[1].patches[0].to, -50);
  studio.patches.unplug(studio.patches.patchesOf(opacity)[0]);
  assert.deepEqual((await server()).layers[1].patches, []);
});

test("what is no number stays in its field, with a sentence, and the patch as it was", async () => {
  const { studio, edits, setting, server } = wholeStudio();
  const opacity = setting("bars", "layer_opacity");
  studio.patches.plug(opacity, studio.signals.signals[0]);
  await server();
  const { length } = edits;
  studio.patches.typePatch(studio.patches.patchesOf(opacity)[0], "to", typed("much"));
  await server();
  assert.equal(edits.length, length);
  assert.match(studio.patches.patchFault(studio.patches.patchesOf(opacity)[0]), /number/);
});

test("a colour's patch leads to the signal's own, along a gradient on request", async () => {
  const { studio, server } = wholeStudio();
  studio.selection.choose(studio.layers.byId("title"));
  const colour = studio.selection.kind.settings.find(({ type, moves }) => type === "colour" && moves);
  studio.patches.plug(colour, studio.signals.signals[0]);
  const patchIn = async () => (await server()).layers.find(({ id }) => id === "title").patches[0];
  assert.equal((await patchIn()).to, "#5fc4b4");
  studio.patches.toggleAlong(studio.patches.patchesOf(colour)[0]);
  assert.ok((await patchIn()).along.length >= 2);
  studio.patches.toggleAlong(studio.patches.patchesOf(colour)[0]);
  assert.ok(!(await patchIn()).along);
});

test("a layer comes at the playhead and goes there; its span is taken back whole", async () => {
  const { studio, open, server } = wholeStudio();
  open("bars");
  at(studio, 2);
  studio.timing.comeHere();
  at(studio, 5);
  studio.timing.goHere();
  const layer = (await server()).layers[1];
  assert.deepEqual(studio.timing.spanOf(studio.layers.byId("bars")).slice?.(0, 2) ?? [2, 5], [2, 5]);
  assert.match(JSON.stringify(layer), /"(from|in|begin|start)\w*":2/);
});
