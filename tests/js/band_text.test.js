// Bands of frequency as text, moved by their edges.

import assert from "node:assert/strict";
import test from "node:test";

import {
  bandMoved,
  bandSplit,
  bandText,
  bandsJoined,
  bandsOf,
} from "../../velvetdrum/studio/static/js/lib/band_text.js";

const TEXT = "40-160, 160-2.5k, 3k-15k";

test("bands are read and written as people type them", () => {
  assert.deepEqual(bandsOf("40-160, 160 – 2.5k,3k to 15k Hz"), bandsOf(TEXT));
  assert.equal(bandText(bandsOf(TEXT)), TEXT);
  assert.deepEqual(bandsOf("40-160, none"), []);
  assert.deepEqual(bandsOf("200-100"), []);
});

test("an end that two bands share moves in both", () => {
  assert.equal(bandText(bandMoved(bandsOf(TEXT), 0, { high: 200 })), "40-200, 200-2.5k, 3k-15k");
  assert.equal(bandText(bandMoved(bandsOf(TEXT), 1, { low: 100 })), "40-100, 100-2.5k, 3k-15k");
});

test("bands that lie apart never cross, and none is empty", () => {
  assert.equal(bandText(bandMoved(bandsOf(TEXT), 1, { high: 9000 })), "40-160, 160-3k, 3k-15k");
  for (const [index, change] of /** @type {[number, any][]} */ ([
    [0, { high: 90_000 }],
    [1, { low: 1 }],
    [2, { low: 1 }],
    [2, { low: 100, high: 400 }],
    [0, { low: 5000, high: 9000 }],
  ])) {
    const bands = bandMoved(bandsOf(TEXT), index, change);
    for (const [place, band] of bands.entries()) {
      assert.ok(band.low < band.high);
      assert.ok(!place || band.low >= bands[place - 1].high, JSON.stringify(bands));
    }
  }
});

test("bands that cross may cross on", () => {
  assert.equal(bandText(bandMoved(bandsOf("40-400, 200-800"), 0, { high: 700 })), "40-700, 200-800");
});

test("a band is split at the middle of its interval, and joined again", () => {
  const split = bandSplit(bandsOf("100-400, 400-1k"), 0);
  assert.equal(bandText(split), "100-200, 200-400, 400-1k");
  assert.equal(bandText(bandsJoined(split, 0)), "100-400, 400-1k");
  assert.equal(bandsJoined(split, 2), split);
});
