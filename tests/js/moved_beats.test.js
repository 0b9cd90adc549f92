// Beats that are dragged: what goes along and what stays.

import assert from "node:assert/strict";
import test from "node:test";
import { movedTime, withMoved, withoutMoved } from "../../velvetdrum/studio/static/js/lib/moved_beats.js";

const BEATS = [0, 1, 2, 3, 4, 5, 6];
const rounded = (times) => times.map((time) => Math.round(time * 1e3) / 1e3);
const moved = (moves) => BEATS.map((beat) => movedTime(moves, beat));

test("a beat moved alone leaves all others where they are", () => {
  const moves = withMoved([], BEATS, 3, 3.2, true);
  assert.deepEqual(moved(moves), [0, 1, 2, 3.2, 4, 5, 6]);
  assert.deepEqual(withoutMoved(moves, 3), []);
});

test("a beat moved with others takes along what is not held", () => {
  const one = withMoved([], BEATS, 0, 0.5, false);
  assert.deepEqual(moved(one), [0.5, 1.5, 2.5, 3.5, 4.5, 5.5, 6.5]);
  const two = withMoved(one, BEATS, 4, 4.1, false);
  assert.deepEqual(rounded(moved(two)), [0.5, 1.4, 2.3, 3.2, 4.1, 5.1, 6.1]);
});

test("a beat stays between the moves beside it", () => {
  const moves = withMoved(withMoved([], BEATS, 2, 2.4, true), BEATS, 3, 1, true);
  assert.equal(movedTime(moves, 3), 2.41);
  const held = withMoved(moves, BEATS, 2, 9, true);
  assert.ok(movedTime(held, 2) < movedTime(held, 3));
});

test("the first and the last beat can be moved, and back", () => {
  const moves = withMoved(withMoved([], BEATS, 0, -0.2, true), BEATS, 6, 6.3, true);
  assert.deepEqual(rounded(moved(moves)), [-0.2, 1, 2, 3, 4, 5, 6.3]);
  assert.deepEqual(withoutMoved(withoutMoved(moves, 0), 6), []);
});
