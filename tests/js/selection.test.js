import assert from "node:assert/strict";
import test from "node:test";
import { wholeStudio } from "./studio.js";

const CTRL = { ctrlKey: true };

test("a click chooses one layer; with Ctrl it is taken into the choice, or out of it again", () => {
  const { studio, layer } = wholeStudio();
  const { selection } = studio;
  selection.pick(layer("bars"), {});
  selection.pick(layer("ground"), CTRL);
  selection.pick(layer("title"), { shiftKey: true });
  assert.deepEqual(selection.selected, ["bars", "ground", "title"]);
  assert.equal(selection.selectedText, "3 layers");
  selection.pick(layer("ground"), CTRL);
  assert.deepEqual(selection.selected, ["bars", "title"]);
  selection.pick(layer("bars"), CTRL);
  assert.equal(selection.chosen, "title", "the panel goes to one that is left");
  selection.pick(layer("box"), {});
  assert.deepEqual([selection.selected, selection.several], [["box"], false]);
});

test("all takes what is not locked and in no group, the front one for the panel", async () => {
  const { studio, open, server } = wholeStudio();
  open("ground");
  studio.layerEdits.lockLayer();
  await server();
  studio.selection.chooseAll();
  assert.deepEqual(studio.selection.selected, ["box", "bars"]);
});

test("what the panel shows is the chosen layer's, in the Sound room the chosen signal's", () => {
  const { studio, open } = wholeStudio();
  open("bars");
  assert.equal(studio.selection.target.id, "bars");
  assert.ok(studio.selection.tabs.some(({ name }) => name === "sound"));
  studio.selection.room = "sound";
  studio.signals.chooseSignal(studio.signals.signalById("kick"));
  const { id, base, grouped } = studio.selection.target;
  assert.deepEqual([id, base, grouped], ["kick", "/signals/1/settings", false]);
});

test("a tab that the next layer does not have gives way to its first", () => {
  const { studio, open } = wholeStudio();
  open("bars");
  studio.selection.openTab("sound");
  open("box");
  assert.ok(studio.selection.tabs.some(({ name }) => name === studio.selection.tab));
});
