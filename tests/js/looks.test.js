// The stores of the page of looks: which are shown, what the server is told, which parts of a sound can be made.

import assert from "node:assert/strict";
import test from "node:test";

import { LookFilling } from "../../velvetdrum/studio/static/js/stores/look_filling.js";
import { LookShelf } from "../../velvetdrum/studio/static/js/stores/look_shelf.js";
import { LookVideo } from "../../velvetdrum/studio/static/js/stores/look_video.js";

const GIVEN = {
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
