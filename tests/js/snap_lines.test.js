import assert from "node:assert/strict";
import test from "node:test";
import { loudnessChange } from "../../velvetdrum/studio/static/js/lib/amounts.js";
import { linesOf, nearestLine } from "../../velvetdrum/studio/static/js/lib/snap_lines.js";

test("what is moved lies at the nearest line within reach, of the frame or of another box", () => {
  const lines = linesOf(600, [[100, 0, 140, 50]], 0);
  assert.ok([0, 300, 600, 200, 30, 100, 120, 140].every((line) => lines.includes(line)));
  assert.deepEqual(nearestLine([90], 5, lines, 6), { off: 5, target: 100 });
  assert.equal(nearestLine([400], 60, lines, 6), null);
  assert.equal(nearestLine([197, 303], 0, lines, 6).target, 200, "the first of two that are as near");
});

test("a loudness says what it is, how far it is turned, and whether its peaks are limited", () => {
  const facts = { loudness_lufs: -18, true_peak_dbtp: -3 };
  assert.equal(loudnessChange(facts, "", "-1"), "now −18.0 LUFS, −3.0 dBTP");
  assert.match(loudnessChange(facts, "-14", "-1"), /turned up 4.0 dB, peaks limited by 2.0 dB/);
  assert.match(loudnessChange(facts, "-23", "-1"), /turned down 5.0 dB, nothing limited/);
});
