// Beats that were moved by hand: pairs of seconds, where a beat was and where it is; times between go along.

/** @typedef {[number, number]} Moved */

const LEAST_S = 0.01;
const SAME_S = 1e-4;

/**
 * Where a time is after the moves; before the first and after the last one it goes as far as they do.
 * @param {Moved[]} moved
 * @param {number} was
 */
export function movedTime(moved, was) {
  if (!moved.length) return was;
  const after = moved.findIndex(([from]) => from > was);
  if (after === 0) return was + moved[0][1] - moved[0][0];
  const [from, to] = moved[(after < 0 ? moved.length : after) - 1];
  if (after < 0) return was + to - from;
  const [next, nextTo] = moved[after];
  const share = (was - from) / (next - from);
  return was + (to - from) * (1 - share) + (nextTo - next) * share;
}

/**
 * The moves with one more: a beat of some goes to a second. Alone, the beats beside it keep their places; else those up
 * to the next moved ones go along. It stays between the moves beside it.
 * @param {Moved[]} moved
 * @param {number[]} beats where all beats were
 * @param {number} index
 * @param {number} to
 * @param {boolean} alone
 * @returns {Moved[]}
 */
export function withMoved(moved, beats, index, to, alone) {
  const was = beats[index];
  const kept = new Map(moved.filter(([from]) => Math.abs(from - was) > SAME_S));
  if (alone) {
    for (const beside of [beats[index - 1], beats[index + 1]]) {
      if (beside !== undefined && ![...kept.keys()].some((from) => Math.abs(from - beside) <= SAME_S))
        kept.set(beside, movedTime(moved, beside));
    }
  }
  const others = /** @type {Moved[]} */ ([...kept]).sort((one, other) => one[0] - other[0]);
  const before = others.filter(([from]) => from < was).at(-1);
  const after = others.find(([from]) => from > was);
  const low = before ? before[1] + LEAST_S : -Infinity;
  const high = after ? after[1] - LEAST_S : Infinity;
  kept.set(was, Math.min(Math.max(to, low), high));
  return tidied(/** @type {Moved[]} */ ([...kept]));
}

/**
 * The moves without one of them.
 * @param {Moved[]} moved
 * @param {number} was
 */
export function withoutMoved(moved, was) {
  return tidied(moved.filter(([from]) => Math.abs(from - was) > SAME_S));
}

/**
 * In order of time, rounded, without those that change nothing.
 * @param {Moved[]} moved
 * @returns {Moved[]}
 */
function tidied(moved) {
  const rows = moved
    .map((pair) => /** @type {Moved} */ (pair.map((second) => Math.round(second * 1e4) / 1e4)))
    .sort((one, other) => one[0] - other[0]);
  for (let at = rows.length - 1; at >= 0; at -= 1) {
    const others = rows.filter((_, index) => index !== at);
    if (Math.abs(movedTime(others, rows[at][0]) - rows[at][1]) < SAME_S) rows.splice(at, 1);
  }
  return rows;
}
