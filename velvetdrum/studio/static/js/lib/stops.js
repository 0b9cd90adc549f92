// Stops of gradients: placed, moved, added, taken away, with hard edges. All give new lists, in order of place.

import { mixed } from "./colour.js";

const LEAST_GAP = 1e-6;

/** @typedef {{ at: number, colour: string }} PlainStop */

/** @param {PlainStop[]} stops */
const ordered = (stops) => [...stops].sort((one, other) => one.at - other.at);

/**
 * The colour of a gradient at a place.
 * @param {PlainStop[]} stops
 * @param {number} at
 */
export function colourAt(stops, at) {
  const above = stops.findIndex((stop) => stop.at > at);
  if (above < 0) return stops[stops.length - 1].colour;
  if (above === 0) return stops[0].colour;
  const [low, high] = [stops[above - 1], stops[above]];
  return mixed(low.colour, high.colour, (at - low.at) / Math.max(high.at - low.at, LEAST_GAP));
}

/**
 * Whether a stop begins with a hard edge: another one stands at its place, before it.
 * @param {PlainStop[]} stops
 * @param {number} index
 */
export const isHard = (stops, index) => index > 0 && stops[index].at - stops[index - 1].at < LEAST_GAP;

/**
 * Whether a stop is only the end of what is before a hard edge, in the same colour: it moves with that edge.
 * @param {PlainStop[]} stops
 * @param {number} index
 */
export const isEdgeEnd = (stops, index) =>
  index > 0 &&
  index + 1 < stops.length &&
  isHard(stops, index + 1) &&
  stops[index].colour === stops[index - 1].colour &&
  !isHard(stops, index);

/**
 * A stop more, in the colour that stands there.
 * @param {PlainStop[]} stops
 * @param {number} at
 */
export function added(stops, at) {
  const stop = { at, colour: colourAt(stops, at) };
  const place = stops.findIndex((other) => other.at > at);
  const index = place < 0 ? stops.length : place;
  return { stops: [...stops.slice(0, index), stop, ...stops.slice(index)], index };
}

/**
 * A stop at another place, with the end of the edge that it begins.
 * @param {PlainStop[]} stops
 * @param {number} index
 * @param {number} at
 */
export function moved(stops, index, at) {
  const here = Math.max(0, Math.min(1, at));
  const along = index > 0 && isEdgeEnd(stops, index - 1) ? [index - 1, index] : [index];
  const out = stops.map((stop, number) => (along.includes(number) ? { ...stop, at: here } : stop));
  const chosen = out[index];
  const result = ordered(out);
  return { stops: result, index: result.indexOf(chosen) };
}

/**
 * A stop in another colour, with the end of the edge that it leads to.
 * @param {PlainStop[]} stops
 * @param {number} index
 * @param {string} colour
 */
export function coloured(stops, index, colour) {
  const along = index + 1 < stops.length && isEdgeEnd(stops, index + 1) ? [index, index + 1] : [index];
  return stops.map((stop, number) => (along.includes(number) ? { ...stop, colour } : stop));
}

/**
 * Without a stop, nor the end of the edge that it began; at least one is left.
 * @param {PlainStop[]} stops
 * @param {number} index
 */
export function removed(stops, index) {
  const from = index > 0 && isEdgeEnd(stops, index - 1) ? index - 1 : index;
  const out = [...stops.slice(0, from), ...stops.slice(index + 1)];
  return out.length ? out : stops;
}

/**
 * A stop that begins with a hard edge, or flows in from the one before.
 * @param {PlainStop[]} stops
 * @param {number} index
 * @param {boolean} hard
 */
export function edged(stops, index, hard) {
  if (index === 0 || hard === isHard(stops, index)) return { stops, index };
  if (!hard) return { stops: [...stops.slice(0, index - 1), ...stops.slice(index)], index: index - 1 };
  const end = { at: stops[index].at, colour: stops[index - 1].colour };
  return { stops: [...stops.slice(0, index), end, ...stops.slice(index)], index: index + 1 };
}
