import assert from "node:assert/strict";
import test from "node:test";
import { typed, wholeStudio } from "./studio.js";

/** Delete the chosen signal; where it moves something, that is asked first. */
function drop({ signalEdits }) {
  signalEdits.askToDrop();
  if (signalEdits.leaving.hangs.length) signalEdits.dropSignal();
}

test("a value that is typed is taken with sums and changes; what is out of range says its range", async () => {
  const { studio, edits, setting, server } = wholeStudio();
  const bands = setting("bars", "bands");
  studio.fields.type(bands, typed("12 * 2"));
  assert.equal((await server()).layers[1].settings.bands, 24);
  studio.fields.type(bands, typed("99999"));
  assert.equal(edits.length, 1);
  assert.match(studio.fields.faultOf(bands), /goes from 1|goes from \d+ to \d+/);
  assert.equal(studio.fields.valueShown(bands), "99999");
  studio.fields.type(bands, typed("32"));
  assert.equal(studio.fields.faultOf(bands), "");
  assert.equal((await server()).layers[1].settings.bands, 32);
});

test("arrows step a field, ten with Shift, whole numbers by one at least", async () => {
  const { studio, setting, server } = wholeStudio();
  const bands = setting("bars", "bands");
  const press = (key, more = {}) => {
    const event = { key, target: { value: String(studio.settings.current(bands)) }, ...more };
    studio.fields.fieldKey(bands, { preventDefault() {}, stopPropagation() {}, ...event });
  };
  const before = studio.settings.current(bands);
  press("ArrowUp");
  assert.equal((await server()).layers[1].settings.bands, before + 1);
  press("ArrowDown", { shiftKey: true });
  assert.equal((await server()).layers[1].settings.bands, before - 9);
  press("ArrowUp", { altKey: true });
  assert.equal((await server()).layers[1].settings.bands, before - 8);
});

test("a slider is tried out while it is dragged, and set once", async () => {
  const { studio, edits, setting, server } = wholeStudio();
  const opacity = setting("bars", "layer_opacity");
  for (const value of [90, 80, 70]) studio.fields.slide(opacity, typed(value));
  assert.equal((await server()).layers[1].settings.layer_opacity ?? 100, 100);
  assert.deepEqual(edits, []);
  studio.fields.slid(opacity, typed(70));
  assert.equal((await server()).layers[1].settings.layer_opacity, 70);
  assert.equal(edits.length, 1);
});

test("a setting for one frame's shape alone leaves the others", async () => {
  const { studio, setting, server } = wholeStudio();
  const opacity = setting("bars", "layer_opacity");
  studio.settings.toggleOnlyHere();
  studio.settings.put(opacity, 30);
  const layer = (await server()).layers[1];
  assert.equal(layer.frames.wide.layer_opacity, 30);
  assert.notEqual(layer.settings.layer_opacity, 30);
  assert.ok(studio.settings.isOverridden(opacity));
  studio.settings.dropOverride(opacity);
  assert.deepEqual((await server()).layers[1].frames.wide ?? {}, {});
});

test("markers: set at the playhead, named, moved, counted as chapters, taken away", async () => {
  const { studio, server } = wholeStudio();
  studio.playback.frame = studio.views.player.frame = 45;
  studio.markers.markHere();
  studio.playback.frame = studio.views.player.frame = 90;
  studio.markers.markHere();
  assert.deepEqual(
    (await server()).markers.map(({ time_s }) => time_s),
    [1.5, 3],
  );
  studio.markers.nameMarker(studio.markers.numberedMarkers[1], typed("The quay"));
  assert.equal((await server()).markers[1].text, "The quay");
  const seeks = [];
  studio.playback.seek = (frame) => seeks.push(frame);
  studio.markers.markerBefore();
  assert.deepEqual(seeks, [45]);
  studio.markers.dropMarker(studio.markers.numberedMarkers[0]);
  assert.equal((await server()).markers.length, 1);
  studio.markers.dropMarkers();
  assert.deepEqual((await server()).markers, []);
});

test("signals: added with a free name and colour, renamed, copied, asked before they go", async () => {
  const { studio, server } = wholeStudio();
  studio.selection.room = "sound";
  studio.signalEdits.addSignal("pickup", {}, "Kick");
  const added = (await server()).signals.at(-1);
  assert.notEqual(added.name, "Kick", "one has that name already");
  assert.match(added.colour, /^#[0-9a-f]{6}$/);
  studio.signalEdits.renameSignal(typed("Snare"));
  assert.equal((await server()).signals.at(-1).name, "Snare");
  studio.signalEdits.copySignal();
  assert.equal((await server()).signals.length, 4);
  const { length } = (await server()).signals;
  studio.signals.chooseSignal(studio.signals.signalById("rise"));
  drop(studio);
  assert.equal((await server()).signals.length, length - 1);
  assert.equal(studio.signals.signalById("rise"), null);
});

test("what a signal moved is not left behind when it goes", async () => {
  const { studio, setting, server } = wholeStudio();
  studio.patches.plug(setting("bars", "layer_opacity"), studio.signals.signalById("rise"));
  await server();
  studio.signals.chooseSignal(studio.signals.signalById("rise"));
  drop(studio);
  const document = await server();
  assert.deepEqual(document.layers[1].patches, []);
});

test("effects are put into a row, switched off, raised and taken away", async () => {
  const { studio, open, server } = wholeStudio();
  open("bars");
  studio.selection.openTab("effect");
  for (const kind of ["glow", "grain"])
    studio.parts.addPart(studio.parts.partSort.kinds.find((one) => one.kind === kind));
  const rowOf = async () => (await server()).layers[1].effects;
  assert.deepEqual(
    (await rowOf()).map(({ kind }) => kind),
    ["glow", "grain"],
  );
  studio.parts.switchPart(studio.parts.shownParts[0]);
  assert.equal(
    (await rowOf()).some(({ on }) => on === false),
    true,
  );
  studio.parts.dropPart(studio.parts.shownParts[0]);
  assert.equal((await rowOf()).length, 1);
});

test("cues: a track, a line at the playhead, its text, a split, a speaker", async () => {
  const { studio, server } = wholeStudio();
  studio.selection.room = "words";
  studio.cueEdits.addHere();
  await server();
  studio.cueEdits.typeText(typed("Boats wait at the quay tonight"));
  const cuesOf = async () => Object.values(Object.values((await server()).cue_tracks)[0].cues);
  assert.deepEqual(
    (await cuesOf()).map(({ text }) => text),
    ["Boats wait at the quay tonight"],
  );
  studio.cueEdits.typeSpeaker(typed("Ada"));
  assert.equal((await cuesOf())[0].speaker, "Ada");
  studio.cueEdits.remove();
  assert.deepEqual(Object.keys(Object.values((await server()).cue_tracks)[0].cues), []);
});

test("the frame: named sizes, typed sides, rates; a length that is no time is refused", async () => {
  const { studio, server } = wholeStudio();
  studio.formats.pickFrame("tall");
  const { frame } = await server();
  assert.ok(frame.height > frame.width);
  assert.equal(studio.formats.frameShape, "tall");
  studio.formats.pickRate(typed("25"));
  assert.equal((await server()).rate, "25");
  studio.formats.typeLength(typed("1:30"));
  assert.equal((await server()).length_s, 90);
  studio.formats.typeLength(typed("long"));
  assert.equal((await server()).length_s, 90);
  assert.notEqual(studio.formats.lengthFault, "");
});

test("what is tried out is never stored, and what others changed stands with what is typed here", async () => {
  const { studio, edits, server } = wholeStudio();
  studio.project.tryOut([{ op: "replace", path: "/name", value: "Tried" }]);
  assert.equal((await server()).name, "Quay");
  assert.deepEqual(edits, []);
  studio.project.edit("Rename", [{ op: "replace", path: "/name", value: "Harbour" }]);
  assert.equal(studio.project.document.name, "Harbour", "shown before the server has it");
  assert.equal((await server()).name, "Harbour");
});

test("a setting is found over all tabs by its label, by other words for it, and by what it does", () => {
  const { studio, open } = wholeStudio();
  open("title");
  studio.shownSettings.seek(typed("transparency"));
  assert.ok(studio.shownSettings.matches.some(({ name }) => name === "layer_opacity"));
  studio.shownSettings.seek(typed("  FONT "));
  assert.ok(studio.shownSettings.matches.some(({ name }) => name === "family"));
  studio.shownSettings.seek(typed("opacity"));
  assert.match(studio.shownSettings.matches[0].label, /opacity/i);
  studio.shownSettings.seek(typed("gramophone"));
  assert.deepEqual(studio.shownSettings.matches, []);
  studio.selection.openTab("layer");
  assert.equal(studio.shownSettings.sought, "", "another tab is what is looked at now");
  assert.ok(studio.shownSettings.often.length > 0);
});

test("what has no part in the layer as it is set is not found", () => {
  const { studio, open } = wholeStudio();
  open("bars");
  studio.shownSettings.seek(typed("sides"));
  for (const { when } of studio.shownSettings.matches)
    for (const [name, values] of when)
      assert.ok(studio.settings.holds(studio.selection.kind.settings, studio.selection.layer.settings, name, values));
});
