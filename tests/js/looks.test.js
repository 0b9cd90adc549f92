// The stores of the page of looks: which are shown, what the server is told, which parts of a sound can be made.

import assert from "node:assert/strict";
import test from "node:test";

import { LookFilling } from "../../velvetdrum/studio/static/js/stores/look_filling.js";
import { LookShelf } from "../../velvetdrum/studio/static/js/stores/look_shelf.js";
import { LookVideo } from "../../velvetdrum/studio/static/js/stores/look_video.js";

const GIVEN = {
  others: [],
  media: {},
  words: { cues: {} },
  uses: [
    ["song", "Song"],
    ["voice", "Voice"],
  ],
  paces: [["calm", "Calm"]],
  shapes: [
    ["wide", "Wide"],
    ["tall", "Tall"],
  ],
  project: { id: "p", revision: 3, document: { name: "Quay", tags: { artist: "The Quay Band" } } },
};
const look = (/** @type {any} */ more) => ({
  id: "a",
  name: "Lamp",
  about: "A ring.",
  uses: ["song"],
  pace: "calm",
  family: "Ring",
  frame: "wide",
  tags: [],
  places: [],
  colours: { ground: "#000000" },
  own: false,
  notes: [],
  ...more,
});

test("looks are shown by what they are for, their frame, and words", () => {
  const shelf = new LookShelf(GIVEN);
  shelf.put(
    [look({}), look({ id: "b", name: "Card", uses: ["voice"] }), look({ id: "c", frame: "tall", own: true })],
    false,
  );
  const shown = () => shelf.shown.map(({ id }) => id).join();
  assert.equal(shown(), "a,c");
  shelf.toggle("frame:tall");
  assert.equal(shown(), "c");
  shelf.toggle("frame:wide");
  assert.equal(shown(), "a", "one of a sort at a time");
  shelf.toggle("frame:wide");
  shelf.toggle("uses:song");
  shelf.search = "card";
  assert.equal(shown(), "b");
  shelf.search = "card ring nothing";
  assert.ok(shelf.empty);
  assert.deepEqual(
    shelf.choices.map(({ label }) => label),
    ["Song", "Voice", "Wide", "Tall", "Calm", "Mine"],
  );
});

test("the server is told what a look asks for, and nothing else", () => {
  const filling = new LookFilling(GIVEN);
  const places = [
    { kind: "title", title: "Title", optional: true },
    { kind: "cover", title: "Logo or cover", optional: true },
  ];
  filling.take(look({ places }));
  filling.media = {
    cover: { key: "k", name: "Lamp.svg", photo: true },
    film: { key: "f", name: "Sea.mp4", photo: false },
  };
  filling.cues = { a: {} };
  assert.deepEqual(filling.body, {
    title: "Quay",
    artist: "The Quay Band",
    speaker: "",
    cover: "k",
    film: "",
    photo: false,
    words: {},
    colours: {},
    frame: "wide",
  });
  filling.colours = { ground: "#101010" };
  assert.deepEqual(filling.body.colours, { ground: "#101010" });
  assert.deepEqual(filling.bodyOf(look({ id: "b" })).colours, {}, "colours are those of the chosen look");
  filling.shape = "tall";
  assert.equal(filling.bodyOf(look({ id: "b" })).frame, "tall");
  assert.equal(filling.swatches[0].value, "#101010");
  filling.take(look({ id: "b" }));
  assert.ok(!filling.recoloured);
});

test("a picture that is none is refused beside its place", async () => {
  const filling = new LookFilling(GIVEN);
  filling.take(look({ places: [{ kind: "cover", title: "Logo or cover", optional: true }] }));
  await filling.bring("cover", /** @type {any} */ ({ name: "a.mp4", type: "video/mp4" }));
  assert.match(filling.fault("cover"), /picture or an SVG/);
  assert.equal(filling.fileText("cover"), "drop a picture or SVG");
});

test("only parts that are shorter than the sound are offered, and all of it", () => {
  const filling = new LookFilling(GIVEN);
  const sound = /** @type {any} */ ({ length: 42, best: [2, 31], find: () => {} });
  const video = new LookVideo({ ...GIVEN, shapes: GIVEN.shapes }, filling, sound);
  assert.deepEqual(
    video.parts.map(({ key }) => key),
    [15, 30, 0],
  );
  assert.ok(video.isPart(30) && !video.isPart(0));
  sound.best = null;
  assert.ok(video.isPart(0) && !video.isPart(30));
  assert.equal(video.label, "Make the video");
});

test("what a project has in its places already stays in them", () => {
  const media = { cover: { key: "k", name: "Lamp.svg", photo: true } };
  const filling = new LookFilling({ ...GIVEN, media, words: { cues: { a: {}, b: {} } } });
  filling.media.film = { key: "f", name: "Sea.mp4", photo: false };
  filling.takeHeld();
  assert.deepEqual(Object.keys(filling.media).sort(), ["cover", "film"]);
  assert.deepEqual([filling.wordsNote, Object.keys(filling.cues).length], ["2 cues of this project.", 2]);
});

test("several sounds become as many videos in one look, each with its own stretch and title", async () => {
  const asked = [];
  globalThis.fetch = async (path, { body } = {}) => {
    asked.push([path, body ? JSON.parse(body) : null]);
    const answer = path.includes("/excerpts")
      ? [{ start_s: 4, end_s: 34 }]
      : { revision: 9, id: `e${asked.length}`, state: "done", done: 1, frames: 1 };
    return { ok: true, status: 200, json: async () => answer };
  };
  const tracks = (to) => ({ tracks: [{ in_s: 0, out_s: to }] });
  const others = [
    { id: "two", name: "Ropes", revision: 3, document: tracks(90) },
    { id: "three", name: "Kelp", revision: 1, document: tracks(20) },
  ];
  const given = { ...GIVEN, others, whole: Promise.resolve() };
  const filling = new LookFilling(given);
  filling.take(look());
  const video = new LookVideo(given, filling, /** @type {any} */ ({ length: 60, best: [2, 32] }));
  assert.equal(video.label, "Make 3 videos");
  assert.match(video.othersText, /Ropes, Kelp/);
  await video.make();
  assert.equal(video.fault, "");
  const titles = asked.filter(([path]) => path.endsWith("/look")).map(([, json]) => json.title);
  assert.deepEqual(titles, ["Quay", "Ropes", "Kelp"]);
  const parts = asked.filter(([path]) => path.endsWith("/exports")).map(([, json]) => [json.from_s, json.to_s]);
  assert.deepEqual(parts, [
    [2, 32],
    [4, 34],
    [undefined, undefined],
  ]);
  assert.equal(video.made, 3);
});
