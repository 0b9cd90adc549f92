// Points of a track's gain: seconds of the timeline and decibels, in order of time, straight lines between.

/** @typedef {{ time_s: number, value: number }} GainPoint */

export const QUIETEST_DB = -60;
export const LOUDEST_DB = 24;
const APART_S = 0.001;

/**
 * The gain at a second; 0 dB without points.
 * @param {GainPoint[]} points
 * @param {number} second
 */
export function gainAt(points, second) {
  if (!points.length) return 0;
  const after = points.findIndex(({ time_s }) => time_s > second);
  if (after === 0) return points[0].value;
  if (after < 0) return points[points.length - 1].value;
  const [from, to] = [points[after - 1], points[after]];
  return from.value + ((second - from.time_s) / (to.time_s - from.time_s)) * (to.value - from.value);
}

/** @param {number} second */
const asTime = (second) => Math.round(Math.max(0, second) * 1000) / 1000;
/** @param {number} value */
const asGain = (value) => Math.round(Math.min(LOUDEST_DB, Math.max(QUIETEST_DB, value)) * 10) / 10;

/**
 * The points with one more; one at the same time gives way.
 * @param {GainPoint[]} points
 * @param {number} second
 * @param {number} [value] where the line is, without it
 */
export function withPoint(points, second, value = gainAt(points, second)) {
  const made = { time_s: asTime(second), value: asGain(value) };
  return [...points.filter(({ time_s }) => Math.abs(time_s - made.time_s) >= APART_S), made].sort(
    (one, other) => one.time_s - other.time_s,
  );
}

/**
 * The points with one of them elsewhere, between those beside it.
 * @param {GainPoint[]} points
 * @param {number} index
 * @param {number} second
 * @param {number} value
 */
export function withPointAt(points, index, second, value) {
  const low = index ? points[index - 1].time_s + APART_S : 0;
  const high = index + 1 < points.length ? points[index + 1].time_s - APART_S : Infinity;
  const made = { time_s: asTime(Math.min(Math.max(second, low), high)), value: asGain(value) };
  return points.map((point, number) => (number === index ? made : point));
}

/**
 * @param {GainPoint[]} points
 * @param {number} index
 */
export const withoutPoint = (points, index) => points.filter((_, number) => number !== index);

/**
 * The points of a track that is moved as a whole; what would come to lie before the begin is dropped.
 * @param {GainPoint[]} points
 * @param {number} by seconds
 */
export const pointsMoved = (points, by) =>
  points
    .map(({ time_s, value }) => ({ time_s: Math.round((time_s + by) * 1000) / 1000, value }))
    .filter(({ time_s }) => time_s >= 0);
