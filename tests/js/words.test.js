import assert from "node:assert/strict";
import test from "node:test";
import { typed, wholeStudio } from "./studio.js";

const CUES = {
  a: { start_s: 1, end_s: 3, text: "Boats wait at the quay" },
  b: { start_s: 4, end_s: 6, text: "The lamp turns", speaker: "Ada" },
  c: { start_s: 7, end_s: 9, text: "Nobody comes" },
};

/** A studio in the Words room, with three cues, the first of them chosen. */
async function words(cues = CUES) {
  const whole = wholeStudio();
  const { studio } = whole;
  studio.selection.room = "words";
  const track = { name: "Words", language: "en", cues };
  studio.project.edit("Cues", [{ op: "add", path: "/cue_tracks", value: { main: track } }]);
  await whole.server();
  studio.cues.refresh();
  const [first] = studio.cues.row;
  if (first) studio.cues.choose(first);
  const stored = async () => (await whole.server()).cue_tracks.main.cues;
  return { ...whole, stored };
}

test("cues stand in the order of their times, and one goes from each to the next", async () => {
  const { studio } = await words({ late: { start_s: 5, end_s: 6, text: "Late" }, ...CUES });
  assert.deepEqual(
    studio.cues.row.map(({ id }) => id),
    ["a", "b", "late", "c"],
  );
  studio.cues.step(1);
  assert.equal(studio.cues.cue.id, "b");
  studio.cues.step(-1);
  studio.cues.step(-1);
  assert.equal(studio.cues.cue.id, "a", "before the first there is none");
});

test("in and out are typed; what is no time, or the wrong way round, is said beside them", async () => {
  const { studio, stored } = await words();
  studio.cueEdits.typeTime("start", typed("0:01.5"));
  assert.equal((await stored()).a.start_s, 1.5);
  studio.cueEdits.typeTime("end", typed("0:01"));
  assert.match(studio.cueEdits.fault, /no time after its in/);
  studio.cueEdits.typeTime("start", typed("soon"));
  assert.match(studio.cueEdits.fault, /no time before its out/);
  assert.deepEqual([(await stored()).a.start_s, (await stored()).a.end_s], [1.5, 3]);
});

test("empty lines are taken out of a text; the same text again is no edit", async () => {
  const { studio, edits, stored } = await words();
  studio.cueEdits.typeText(typed("Boats\n\n\nwait "));
  assert.equal((await stored()).a.text, "Boats\nwait");
  const { length } = edits;
  studio.cueEdits.typeText(typed("Boats\nwait"));
  await stored();
  assert.equal(edits.length, length);
});

test("a speaker is named, from here on too, and offered for the others", async () => {
  const { studio, stored } = await words();
  studio.cueEdits.typeSpeaker(typed("  Bo  "));
  assert.equal((await stored()).a.speaker, "Bo");
  studio.cueEdits.speakerOn();
  assert.deepEqual(
    Object.values(await stored()).map(({ speaker }) => speaker),
    ["Bo", "Bo", "Bo"],
  );
  assert.deepEqual(studio.cueEdits.speakers, ["Bo"]);
});

test("a cue is split between words, joined with the next, moved by frames and removed", async () => {
  const { studio, stored } = await words();
  studio.cueEdits.splitHere();
  const halves = Object.values(await stored()).filter(({ start_s }) => start_s < 3);
  assert.deepEqual(
    halves.sort((one, other) => one.start_s - other.start_s).map(({ text }) => text),
    ["Boats wait at", "the quay"],
  );
  studio.cues.refresh();
  studio.cues.choose(studio.cues.row[0]);
  studio.cueEdits.joinNext();
  await stored();
  studio.cues.refresh();
  assert.equal(studio.cues.row[0].text.replace("\n", " "), "Boats wait at the quay");
  studio.cues.choose(studio.cues.row[0]);
  const before = studio.cues.cue.start_s;
  studio.cueEdits.nudge(3);
  await stored();
  studio.cues.refresh();
  assert.ok(Math.abs(studio.cues.row[0].start_s - before - 0.1) < 1e-6);
  studio.cues.choose(studio.cues.row[0]);
  studio.cueEdits.remove();
  assert.equal(Object.keys(await stored()).length, 2);
});

test("a cue of one word is not split, and says so", async () => {
  const { studio, stored } = await words({ a: { start_s: 1, end_s: 2, text: "Quay" } });
  studio.cueEdits.splitHere();
  assert.match(studio.cueEdits.fault, /one word/);
  assert.equal(Object.keys(await stored()).length, 1);
});

test("words are found and replaced in every cue, each find led to", async () => {
  const { studio, stored } = await words();
  Object.assign(studio.cueEdits, { find: "the", replacement: "our" });
  assert.match(studio.cueEdits.foundText, /\d/);
  studio.cueEdits.nextFound();
  studio.cueEdits.replaceFound();
  const texts = Object.values(await stored()).map(({ text }) => text);
  assert.ok(texts.includes("Boats wait at our quay"), texts.join(" / "));
});

test("another track has its own cues; the last one goes with its name", async () => {
  const { studio, server } = await words();
  studio.cues.addTrack("Français", "fr");
  const { cue_tracks } = await server();
  const [id] = Object.keys(cue_tracks).filter((key) => key !== "main");
  assert.deepEqual([cue_tracks[id].name, cue_tracks[id].language], ["Français", "fr"]);
  studio.cues.chooseTrack(id);
  assert.equal(studio.cues.count, 0);
  studio.cues.nameTrack(typed("Version française"));
  assert.equal((await server()).cue_tracks[id].name, "Version française");
  studio.cues.dropTrack();
  assert.equal((await server()).cue_tracks[id], undefined);
});

test("tapping goes by lines or by words, and says what comes next", () => {
  const { studio } = wholeStudio();
  const { tapping } = studio;
  tapping.text = "Boats wait\n\n  The lamp turns\n";
  assert.deepEqual(tapping.units, ["Boats wait", "  The lamp turns"]);
  tapping.byWord = true;
  assert.deepEqual(tapping.units, ["Boats", "wait", "The", "lamp", "turns"]);
  tapping.on = true;
  studio.views.player.now = 30;
  tapping.tap();
  studio.views.player.now = 45;
  tapping.tap();
  assert.deepEqual(tapping.taps, [1, 1.5]);
  assert.deepEqual([tapping.nextUnit, tapping.unitAfter, tapping.progressText], ["The", "lamp", "2 of 5"]);
  const seeks = [];
  studio.playback.seek = (frame) => seeks.push(frame);
  tapping.takeBack();
  assert.deepEqual([tapping.taps, seeks], [[1], [0]]);
});

test("without words or without a sound there is nothing to tap, with the reason", async () => {
  const { studio } = wholeStudio();
  await studio.tapping.begin();
  assert.match(studio.tapping.fault, /paste the words/);
  studio.tapping.text = "Boats";
  await studio.tapping.begin();
  assert.match(studio.tapping.fault, /no sound/);
});
