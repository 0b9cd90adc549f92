// A stream of pictures against workers that make so many pixels, or so many frames, in a second.

import assert from "node:assert/strict";
import { test } from "node:test";

import { StreamPace, WIDTHS } from "../../velvetdrum/studio/static/js/lib/stream_pace.js";

const RATE = 30;

/** Play for some seconds: packs of a fifth of a second, three on their way, two workers. `cost` tells the seconds of
 * a frame at a width, asked for at a time. Gives what was shown after the first ten, in frames a second. */
function played(cost, most, seconds = 40) {
  const pace = new StreamPace();
  pace.begin();
  const flights = [];
  const free = [0, 0]; // when each worker is free
  const buffer = new Set();
  let next = 0;
  let last = -1;
  let shown = 0;
  const rates = new Set();
  for (let at = 0; at < seconds; at += 1 / 60) {
    const elapsed = at * RATE;
    for (const flight of flights.filter((one) => one.done <= at)) {
      flights.splice(flights.indexOf(flight), 1);
      for (const frame of flight.frames) if (frame > last) buffer.add(frame);
      pace.came(flight.frames.length, flight.done - flight.asked, flight.frames[0], elapsed, RATE);
    }
    const best = Math.max(-1, ...[...buffer].filter((frame) => frame <= elapsed));
    rates.add(pace.every);
    if (best > last) {
      last = best;
      pace.drew();
      if (at > 10) shown += 1;
    }
    for (const frame of buffer) if (frame <= last) buffer.delete(frame);
    pace.judge(at * 1000, elapsed, { rate: RATE, next, waiting: Math.max(-1, ...buffer), most: () => most });
    next = pace.soonest(next, Math.floor(elapsed), RATE);
    const batch = Math.max(2, Math.round((RATE / pace.every) * 0.2));
    while (flights.length < 3 && next < Math.floor(elapsed) + pace.ahead(RATE)) {
      const frames = Array.from({ length: batch }, (_, n) => next + n * pace.every);
      next += batch * pace.every;
      const worker = free[0] <= free[1] ? 0 : 1;
      free[worker] = Math.max(free[worker], at) + batch * cost(pace.widthAt(pace.level, most), at);
      flights.push({ frames, asked: at, done: free[worker] });
    }
  }
  return { shown: shown / (seconds - 10), pace, rates };
}

test("a size that the workers can keep up with is held at the full rate", () => {
  const { shown, pace } = played(() => 0.02, 620);
  assert.ok(shown > 29);
  assert.equal(pace.widthAt(pace.level, 620), 620);
});

test("too large a size falls to one that is made in time, and no smaller", () => {
  // 60 ms at 620 pixels across, by pixels: 480 is made 56 times in a second by two workers.
  const { shown, pace } = played((width) => 0.09 * (width / 620) ** 2, 620);
  assert.ok(shown > 27, `${shown} frames/s`);
  assert.equal(pace.widthAt(pace.level, 620), 480);
});

test("after a moment in which something held up the workers the size comes back in one step", () => {
  const held = (width, at) => (at > 4 && at < 5 ? 0.3 : 0.008);
  const { pace } = played(held, 350, 13);
  assert.equal(pace.widthAt(pace.level, 350), 350);
  const { pace: early } = played(held, 350, 7);
  assert.ok(early.widthAt(early.level, 350) < 350);
});

test("sizes that are none in a narrow box are left out", () => {
  const pace = new StreamPace();
  pace.begin();
  pace.fall(20, RATE, 350, false);
  assert.equal(pace.widthAt(pace.level, 350), 320);
  pace.climb(350);
  assert.equal(pace.widthAt(pace.level, 350), 350);
  assert.equal(pace.climb(350), false);
});

test("where no size is small enough frames are left out evenly, and what is made is shown", () => {
  // Two workers make 20 frames in a second, whatever the size.
  const { shown, pace, rates } = played(() => 0.1, 350);
  assert.equal(pace.widthAt(pace.level, 350), WIDTHS.at(-1));
  assert.ok(rates.has(2));
  assert.ok(shown >= 14, `${shown} frames/s`);
});

test("what comes too late is not asked for", () => {
  const pace = new StreamPace();
  pace.begin();
  pace.latency = 0.5;
  assert.equal(pace.soonest(100, 90, RATE), 90 + 15 + 1);
  assert.equal(pace.soonest(130, 90, RATE), 130);
});

test("a size that did not hold is tried again ever later", () => {
  const { pace } = played((width) => 0.09 * (width / 620) ** 2, 620, 60);
  assert.ok(pace.patience > 2);
});

test("what the workers make at rest tells the size that play begins with", () => {
  const pace = new StreamPace();
  const begun = (made, level) => {
    pace.level = level;
    pace.suit(made, RATE, 1280);
    return pace.widthAt(pace.level, 1280);
  };
  // 640 pixels across 120 times in a second: 1280 costs two and a half times as much.
  assert.equal(begun(120, 2), 1280);
  assert.equal(begun(60, 2), 960);
  assert.equal(begun(36, 2), 640);
  assert.equal(begun(20, 2), 320);
  assert.equal(begun(1, 0), 240);
});
