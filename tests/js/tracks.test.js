// Tracks cut in parts, and the points of their gains.

import assert from "node:assert/strict";
import test from "node:test";
import { gainAt, pointsMoved, withPoint, withPointAt } from "../../velvetdrum/studio/static/js/lib/gain_points.js";
import { cutPlaces } from "../../velvetdrum/studio/static/js/lib/track_places.js";

/** What second of the recording sounds at a second of the timeline. */
function heard(places, second) {
  const place = places.find(({ at_s, length_s }) => second >= at_s && second < at_s + length_s);
  return place && place.in_s + ((second - place.at_s) % (place.out_s - place.in_s));
}

for (const [name, place, at] of [
  ["plain", { at_s: 2, in_s: 1, out_s: 5, length_s: 4 }, 3.5],
  ["looped, in its first turn", { at_s: 2, in_s: 1, out_s: 3, length_s: 7 }, 2.7],
  ["looped, in a middle turn", { at_s: 2, in_s: 1, out_s: 3, length_s: 7 }, 5.3],
  ["looped, in its last turn", { at_s: 2, in_s: 1, out_s: 3, length_s: 7 }, 8.6],
  ["looped, where a turn begins", { at_s: 2, in_s: 1, out_s: 3, length_s: 7 }, 6],
]) {
  test(`a track that is ${name} sounds the same when it is cut`, () => {
    const parts = cutPlaces(place, at);
    assert.ok(parts.length >= 2);
    for (let second = 2.001; second < 2 + place.length_s; second += 0.05)
      assert.ok(Math.abs(heard(parts, second) - heard([place], second)) < 1e-9, `${second}`);
    assert.equal(heard(parts, 2 + place.length_s + 0.01), undefined);
    assert.ok(parts.some(({ at_s }) => Math.abs(at_s - at) < 1e-9));
  });
}

test("a new point of a gain lies on its line, and stays between the others", () => {
  const points = withPoint(withPoint([], 1, -12), 3, 0);
  assert.equal(gainAt(points, 2), -6);
  assert.deepEqual(withPoint(points, 2)[1], { time_s: 2, value: -6 });
  const held = withPointAt(points, 0, 9, 99);
  assert.deepEqual(held[0], { time_s: 2.999, value: 24 });
  assert.deepEqual(
    pointsMoved(points, -2).map(({ time_s }) => time_s),
    [1],
  );
});
