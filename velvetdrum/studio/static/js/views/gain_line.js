// The gain of a track as a line over its lane: drawn, and found under the pointer.

const TOP_DB = 12;
const BOTTOM_DB = -36;
const REACH = 8;

/**
 * Where a gain lies in a lane, in pixels from its top.
 * @param {number} value dB
 * @param {number} height
 */
export const gainY = (value, height) =>
  4 + ((TOP_DB - Math.min(TOP_DB, Math.max(BOTTOM_DB, value))) / (TOP_DB - BOTTOM_DB)) * (height - 8);

/**
 * The gain at a place in a lane, in dB.
 * @param {number} y pixels from its top
 * @param {number} height
 */
export const gainOf = (y, height) => TOP_DB - ((y - 4) / (height - 8)) * (TOP_DB - BOTTOM_DB);

/**
 * @param {CanvasRenderingContext2D} context
 * @param {any} line {points, x, left, right, top, height, colour, chosen}
 */
export function paintGain(context, { points, x, left, right, top, height, colour, chosen }) {
  if (!points.length) return;
  const y = (/** @type {number} */ value) => top + gainY(value, height);
  context.strokeStyle = context.fillStyle = colour;
  context.lineWidth = 1.4;
  context.beginPath();
  context.moveTo(left, y(points[0].value));
  for (const { time_s, value } of points) context.lineTo(x(time_s), y(value));
  context.lineTo(right, y(points[points.length - 1].value));
  context.stroke();
  if (!chosen) return;
  for (const { time_s, value } of points) {
    context.beginPath();
    context.arc(x(time_s), y(value), 4, 0, 2 * Math.PI);
    context.fill();
  }
}

/**
 * The number of the point under a place of the lane, or -1.
 * @param {import("../lib/gain_points.js").GainPoint[]} points
 * @param {(second: number) => number} x
 * @param {{x: number, y: number}} place y from the lane's top
 * @param {number} height
 */
export function pointUnder(points, x, place, height) {
  return points.findIndex(
    ({ time_s, value }) => Math.hypot(x(time_s) - place.x, gainY(value, height) - place.y) < REACH,
  );
}
