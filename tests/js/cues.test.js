import assert from "node:assert/strict";
import test from "node:test";
import {
  indexAt,
  isTimed,
  joined,
  mapped,
  ordered,
  placed,
  readingSpeed,
  reworded,
  split,
  stored,
  timedWords,
  wordMoved,
} from "../../velvetdrum/studio/static/js/lib/cues.js";

const CUE = {
  id: "a",
  start_s: 1,
  end_s: 3,
  text: "slow water turns",
  speaker: "",
  words: [
    [1, 1.4, "slow", 0.9],
    [1.5, 2, "water", 0.3],
    [2.2, 3, "turns", 1],
  ],
};

test("cues are in order of time, and found by it", () => {
  const row = ordered({ b: { start_s: 5, end_s: 6, text: "b" }, a: { start_s: 1, end_s: 2, text: "a" } });
  assert.deepEqual(
    row.map(({ id }) => id),
    ["a", "b"],
  );
  assert.deepEqual(
    [0.5, 1, 4.9, 5, 99].map((time) => indexAt(row, time)),
    [-1, 0, 0, 1, 1],
  );
});

test("a cue is split at a word and joined again", () => {
  const [first, second] = split(CUE, 1);
  assert.equal(first.text, "slow");
  assert.equal(second.text, "water turns");
  assert.equal(first.end_s, 1.4);
  assert.equal(second.start_s, 1.5);
  assert.ok(isTimed(first) && isTimed(second));
  assert.deepEqual(joined(first, second).words, CUE.words);
  assert.equal(split(CUE, 0), null);
});

test("words that stay keep their times when the text changes", () => {
  assert.deepEqual(reworded(CUE, "slow waters turns").words[1], [1.5, 2, "waters", 0.3]);
  const more = reworded(CUE, "slow and wide water turns");
  assert.ok(isTimed(more));
  assert.deepEqual(more.words[3], [1.5, 2, "water", 0.3]);
  assert.ok(more.words[1][0] >= 1.4 && more.words[2][1] <= 1.5);
  assert.deepEqual(reworded({ ...CUE, words: [] }, "else").words, []);
});

test("times are shifted, stretched and cut", () => {
  assert.deepEqual(mapped(CUE, 2, 1).words[0], [3, 3.8, "slow", 0.9]);
  assert.equal(mapped(CUE, 1, -9).start_s, 0);
  assert.deepEqual(placed(CUE, 1.2, 2.5).words[2], [2.2, 2.5, "turns", 1]);
});

test("a word's edge moves, and its neighbours give way", () => {
  const moved = wordMoved(CUE, 1, 0, 1.2);
  assert.equal(moved.words[0][1], 1.2);
  assert.equal(moved.words[1][0], 1.2);
  assert.equal(moved.words[1][3], 1);
  assert.equal(wordMoved(CUE, 0, 0, 0.7).start_s, 0.7);
  assert.equal(wordMoved(CUE, 2, 1, 3.5).end_s, 3.5);
});

test("words without times share their cue by letters; speed counts characters", () => {
  const words = timedWords({ ...CUE, words: [] });
  assert.equal(words[0].start, 1);
  assert.equal(words[2].end, 3);
  assert.ok(words.every(({ own }) => !own));
  assert.equal(readingSpeed(CUE), 8);
  assert.deepEqual(Object.keys(stored({ ...CUE, words: [] })), ["start_s", "end_s", "text"]);
});
