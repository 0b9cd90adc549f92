import assert from "node:assert/strict";
import test from "node:test";
import { loudnessChange } from "../../velvetdrum/studio/static/js/lib/amounts.js";
import { distancesOf, gapLinesOf, linesOf, nearestLine } from "../../velvetdrum/studio/static/js/lib/snap_lines.js";

test("what is moved lies at the nearest line within reach, of the frame or of another box", () => {
  const lines = linesOf(600, [{ box: [100, 0, 140, 50], name: "Lamp" }], 0);
  assert.ok([0, 300, 600, 200, 30, 100, 120, 140].every((at) => lines.some((line) => line.at === at)));
  const { off, line } = nearestLine([90], 5, lines, 6);
  assert.deepEqual([off, line.at, line.text], [5, 100, "left edge of Lamp"]);
  assert.equal(nearestLine([400], 60, lines, 6), null);
  assert.equal(nearestLine([197, 303], 0, lines, 6).line.at, 200, "the first of two that are as near");
});

test("gaps are equal between two others, and after and before a row of two", () => {
  const row = [
    [0, 0, 20, 20],
    [100, 0, 120, 20],
    [300, 200, 320, 220],
  ];
  const lines = gapLinesOf([50, 5, 70, 15], row, 0);
  assert.deepEqual(
    lines.map(({ at, edge }) => [at, edge]),
    [
      [60, 0.5],
      [200, 0],
      [-80, 1],
    ],
  );
  assert.equal(nearestLine([57, 60, 63], 1, lines, 6).off, -1, "the middle alone comes to lie there");
  assert.equal(nearestLine([199, 210, 221], 0, lines, 6).off, 1, "and the first edge after the row");
  assert.equal(nearestLine([60, 80, 100], 0, lines, 6), null);
});

test("distances go to the next box on each side, else to the end of the frame", () => {
  const boxes = [
    [0, 0, 20, 20],
    [200, 0, 220, 20],
    [0, 90, 300, 100],
  ];
  const lengths = distancesOf([100, 10, 120, 30], boxes, [400, 100]).map(({ axis, length }) => [axis, length]);
  assert.deepEqual(lengths, [
    [0, 80],
    [0, 80],
    [1, 10],
    [1, 60],
  ]);
});

test("a loudness says what it is, how far it is turned, and whether its peaks are limited", () => {
  const facts = { loudness_lufs: -18, true_peak_dbtp: -3 };
  assert.equal(loudnessChange(facts, "", "-1"), "now −18.0 LUFS, −3.0 dBTP");
  assert.match(loudnessChange(facts, "-14", "-1"), /turned up 4.0 dB, peaks limited by 2.0 dB/);
  assert.match(loudnessChange(facts, "-23", "-1"), /turned down 5.0 dB, nothing limited/);
});
