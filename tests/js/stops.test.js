// Stops of gradients under the hand, and colours as lightness, chroma and hue.

import assert from "node:assert/strict";
import test from "node:test";

import {
  fromOklch,
  mixed,
  opacityOf,
  readHex,
  toOklch,
  withOpacity,
} from "../../velvetdrum/studio/static/js/lib/colour.js";
import {
  added,
  colourAt,
  coloured,
  edged,
  isEdgeEnd,
  isHard,
  moved,
  removed,
} from "../../velvetdrum/studio/static/js/lib/stops.js";

const STOPS = [
  { at: 0, colour: "#000000" },
  { at: 0.5, colour: "#00ff00" },
  { at: 1, colour: "#ffffff" },
];
const places = (/** @type {any[]} */ stops) => stops.map(({ at }) => at);

test("a stop is added in the colour that stands there, and moved past others", () => {
  const { stops, index } = added(STOPS, 0.25);
  assert.deepEqual([places(stops), index], [[0, 0.25, 0.5, 1], 1]);
  assert.equal(stops[1].colour, colourAt(STOPS, 0.25));
  const past = moved(stops, 1, 0.75);
  assert.deepEqual([places(past.stops), past.index], [[0, 0.5, 0.75, 1], 2]);
  assert.equal(past.stops[2].colour, stops[1].colour);
  assert.equal(moved(STOPS, 1, 7).stops[2].at, 1);
  assert.equal(moved(STOPS, 2, -7).index, 1);
});

test("a hard edge is one stop to the hand: moved, coloured, softened and taken away as one", () => {
  const hard = edged(STOPS, 1, true);
  assert.deepEqual([places(hard.stops), hard.index], [[0, 0.5, 0.5, 1], 2]);
  assert.ok(isHard(hard.stops, 2) && isEdgeEnd(hard.stops, 1) && !isEdgeEnd(hard.stops, 2));
  assert.deepEqual(places(moved(hard.stops, 2, 0.8).stops), [0, 0.8, 0.8, 1]);
  const red = coloured(hard.stops, 0, "#ff0000");
  assert.deepEqual(
    red.map(({ colour }) => colour),
    ["#ff0000", "#ff0000", "#00ff00", "#ffffff"],
  );
  assert.deepEqual(places(removed(hard.stops, 2)), [0, 1]);
  assert.deepEqual(edged(hard.stops, 2, false).stops, STOPS);
  assert.equal(removed([STOPS[0]], 0).length, 1);
  assert.equal(edged(STOPS, 0, true).stops, STOPS);
});

test("lightness, chroma and hue lead there and back; what sRGB does not hold has less chroma", () => {
  for (const hex of ["#ff7a66", "#5fc4b4", "#120a11", "#ffffff", "#808080"])
    assert.equal(fromOklch(toOklch(hex)), hex);
  // CSS Color 4, sample values: red is oklch(62.8% 0.2577 29.23).
  const red = toOklch("#ff0000");
  assert.ok(Math.abs(red.lightness - 62.8) < 0.1 && Math.abs(red.chroma * 0.004 - 0.2577) < 0.001);
  assert.ok(Math.abs(red.hue - 29.23) < 0.1);
  const beyond = toOklch(fromOklch({ lightness: 60, chroma: 100, hue: 150 }));
  assert.ok(Math.abs(beyond.lightness - 60) < 0.5 && Math.abs(beyond.hue - 150) < 1 && beyond.chroma < 60);
});

test("opacity is mixed, read and written with two digits more", () => {
  assert.equal(withOpacity("#102030", 0), "#10203000");
  assert.equal(withOpacity("#10203080", 1), "#102030");
  assert.ok(Math.abs(opacityOf("#10203080") - 0.5) < 0.01);
  assert.equal(mixed("#ffffff", "#ffffff00", 0.5), "#ffffff80");
  assert.deepEqual(
    ["fff", "#E0AC55", "e0ac5580", "red", "#12345"].map((text) => readHex(text)),
    ["#ffffff", "#e0ac55", "#e0ac5580", null, null],
  );
});
