// Outlines point by point: read, written, split, smoothed, simplified; their boxes against sampled curves.

import assert from "node:assert/strict";
import test from "node:test";

import {
  reversed,
  simplified,
  splitEdge,
  turnedPoint,
  withHandle,
  withPoint,
  withoutPoint,
} from "../../velvetdrum/studio/static/js/lib/outline_edits.js";
import {
  boxOf,
  edgesOf,
  nearestEdge,
  onEdge,
  readOutline,
  writeOutline,
} from "../../velvetdrum/studio/static/js/lib/outline_path.js";

const LEAF = "M0 50C0 0 100 0 100 50C100 100 0 100 0 50z";
const read = (/** @type {string} */ path) => /** @type {any} */ (readOutline(path));
const sampled = (/** @type {any} */ outline) =>
  edgesOf(outline).flatMap((edge) => Array.from({ length: 200 }, (_, n) => onEdge(edge, n / 200)));

test("straight and curved outlines are read, absolute and relative, and written again", () => {
  const square = read("M0 0H100V100H0z");
  assert.equal(square.anchors.length, 4);
  assert.equal(writeOutline(square), "M0 0L100 0L100 100L0 100z");
  assert.deepEqual(read("m0 0l100 0l0 100l-100 0z"), square);
  const leaf = read(LEAF);
  assert.deepEqual([leaf.anchors.length, leaf.closed], [2, true]);
  assert.deepEqual(read(writeOutline(leaf)), leaf);
  assert.equal(writeOutline(read("M0 0L10 5")), "M0 0L10 5");
  const odd = ["", "L0 0", "M0 0Q1 1 2 2", "M0 0L1 1zM5 5L6 6", "M0 0L1", "M0 0A1 1 0 0 0 2 2", "M5 5", "M0 0z9 9"];
  for (const path of odd) assert.equal(readOutline(path), null, path);
  const many = `M0 0${"L1 1".repeat(10_000)}z`;
  assert.equal(readOutline(many), null);
});

test("the box holds what curves reach beyond their points", () => {
  const leaf = read(LEAF);
  const [left, top, right, bottom] = boxOf(leaf);
  const points = sampled(leaf);
  const reach = (/** @type {number} */ i, /** @type {"min" | "max"} */ end) => Math[end](...points.map((p) => p[i]));
  for (const [value, other] of [
    [left, reach(0, "min")],
    [top, reach(1, "min")],
    [right, reach(0, "max")],
    [bottom, reach(1, "max")],
  ])
    assert.ok(Math.abs(value - other) < 0.02);
});

test("a point more leaves the form as it is; one less, moved, smooth and reversed do what they say", () => {
  const leaf = read(LEAF);
  const more = splitEdge(leaf, 0, 0.3);
  assert.equal(more.anchors.length, 3);
  for (const point of sampled(more)) assert.ok(nearestEdge(leaf, point).away < 0.2);
  assert.deepEqual(withoutPoint(more, 1).anchors.length, 3, "an outline keeps three points");
  const square = read("M0 0H100V100H0z");
  assert.equal(withoutPoint(square, 1).anchors.length, 3);
  const moved = withPoint(leaf, 0, [10, 60]);
  assert.deepEqual(
    [moved.anchors[0].at, moved.anchors[0].out],
    [
      [10, 60],
      [10, 10],
    ],
  );
  const smooth = turnedPoint(square, 1);
  const { at, in: before, out } = smooth.anchors[1];
  assert.ok(Math.abs((before?.[0] || 0) + (out?.[0] || 0) - 2 * at[0]) < 1e-9);
  assert.deepEqual(turnedPoint(smooth, 1), square);
  const turned = withHandle(smooth, 1, "out", [100, 80], false).anchors[1];
  assert.ok(Math.abs((turned.in || [])[0] - 100) < 1e-9, "the other handle turns with it");
  assert.deepEqual(withHandle(smooth, 1, "out", [100, 80], true).anchors[1].in, before);
  assert.deepEqual(reversed(reversed(leaf)), leaf);
});

test("a stroke by hand becomes few points that stay near it", () => {
  const ring = Array.from({ length: 400 }, (_, n) => {
    const angle = (n / 400) * 2 * Math.PI;
    return [50 + 40 * Math.cos(angle), 50 + 40 * Math.sin(angle)];
  });
  const outline = simplified(ring, 1, true);
  assert.ok(outline.anchors.length < 30);
  for (const point of ring) assert.ok(nearestEdge(outline, point).away < 1.5);
});
