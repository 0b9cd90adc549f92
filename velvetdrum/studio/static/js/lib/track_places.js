// Where tracks lie on the timeline: second `at_s` of it is second `in_s` of the recording, for `length_s` seconds.

/** @typedef {{ at_s: number, in_s: number, out_s: number, length_s: number }} TrackPlace */

const LEAST_S = 0.05;

/**
 * @param {any} track
 * @returns {TrackPlace}
 */
export const placeOf = ({ at_s, in_s, out_s, length_s }) => ({
  at_s: at_s ?? in_s,
  in_s,
  out_s,
  length_s: length_s ?? out_s - in_s,
});

/** @param {any} track */
export function spanOf(track) {
  const { at_s, length_s } = placeOf(track);
  return [at_s, at_s + length_s];
}

/**
 * What of the timeline is used: what the document says, or all of its tracks.
 * @param {any} document
 */
export function usedOf({ tracks, used }) {
  if (used) return used;
  const spans = tracks.map(spanOf);
  return {
    in_s: Math.min(...spans.map((/** @type {number[]} */ span) => span[0])),
    out_s: Math.max(...spans.map((/** @type {number[]} */ span) => span[1])),
  };
}

/**
 * A track moved on by some seconds.
 * @param {TrackPlace} place
 * @param {number} by
 */
export const moved = (place, by) => ({ at_s: Math.max(0, place.at_s + by) });

/**
 * A track whose begin is dragged: it begins later, and later in its recording.
 * @param {TrackPlace} place
 * @param {number} by
 */
export function begun(place, by) {
  const shift = Math.max(-Math.min(place.in_s, place.at_s), Math.min(by, place.out_s - place.in_s - LEAST_S));
  const { at_s, in_s, length_s } = place;
  return { at_s: at_s + shift, in_s: in_s + shift, length_s: Math.max(LEAST_S, length_s - shift) };
}

/**
 * A track whose end is dragged: up to the end of its recording it is trimmed, beyond it goes round again.
 * @param {TrackPlace} place
 * @param {number} by
 * @param {number} whole length of the recording in seconds
 */
export function ended(place, by, whole) {
  const length = Math.max(LEAST_S, place.length_s + by);
  if (place.length_s > place.out_s - place.in_s + 1e-6) return { length_s: length };
  const out = Math.min(place.in_s + length, whole);
  return { out_s: out, length_s: length };
}

/**
 * A track in parts at a second of the timeline: what is before it, what is left of the turn that is cut, and the turns
 * after that.
 * @param {TrackPlace} place
 * @param {number} at
 * @returns {TrackPlace[]}
 */
export function cutPlaces(place, at) {
  const period = place.out_s - place.in_s;
  const before = at - place.at_s;
  const looped = place.length_s > period + 1e-6;
  const into = looped ? before % period : before;
  const cutS = place.in_s + into;
  const left = place.length_s - before;
  const first = { ...place, length_s: before, ...(looped ? {} : { out_s: cutS }) };
  if (into < 1e-6 || period - into < 1e-6) return [first, { ...place, at_s: at, length_s: left }];
  const turn = Math.min(place.out_s - cutS, left);
  const rest = { at_s: at, in_s: cutS, out_s: looped ? cutS + turn : place.out_s, length_s: turn };
  if (left - turn < 1e-6) return [first, rest];
  return [first, rest, { ...place, at_s: at + turn, length_s: left - turn }];
}
