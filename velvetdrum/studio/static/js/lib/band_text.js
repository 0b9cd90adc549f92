// Bands as people write them: 40-160, 160-2.5k.

/** @typedef {{ low: number, high: number }} Band in Hz */

const PAIR = /^\s*(\d+(?:\.\d+)?)\s*(k?)\s*(?:-|–|to)\s*(\d+(?:\.\d+)?)\s*(k?)\s*(?:Hz)?\s*$/i;
// The least ratio of a band's ends, and the ends of what may be heard.
const NARROWEST = 1.03;
const [LOWEST, HIGHEST] = [10, 24000];

/** @param {number} hz */
const written = (hz) => (hz >= 1000 ? `${Math.round(hz / 10) / 100}k` : String(Math.round(hz * 10) / 10));

/**
 * The bands of a text; none where a part of it is none.
 * @param {string} text
 * @returns {Band[]}
 */
export function bandsOf(text) {
  const bands = String(text)
    .split(",")
    .map((part) => {
      const match = PAIR.exec(part);
      if (!match) return null;
      return { low: Number(match[1]) * (match[2] ? 1000 : 1), high: Number(match[3]) * (match[4] ? 1000 : 1) };
    });
  return bands.every((band) => band && band.low < band.high) ? /** @type {Band[]} */ (bands) : [];
}

/** @param {Band[]} bands */
export const bandText = (bands) => bands.map(({ low, high }) => `${written(low)}-${written(high)}`).join(", ");

/**
 * The bands with one of them moved. Ends that were one with a neighbour's take it along, and bands that lie apart stay
 * apart.
 * @param {Band[]} bands
 * @param {number} index
 * @param {Partial<Band>} change
 * @returns {Band[]}
 */
export function bandMoved(bands, index, change) {
  const next = bands.map((band) => ({ ...band }));
  const [own, before, after] = [next[index], next[index - 1], next[index + 1]];
  const apart = bands.every((band, place) => !place || band.low >= bands[place - 1].high);
  const held = (/** @type {number} */ hz, /** @type {number} */ low, /** @type {number} */ high) =>
    Math.max(low, Math.min(high, hz));
  const shared = { low: Boolean(before) && before.high === own.low, high: Boolean(after) && after.low === own.high };
  const least = apart && before ? (shared.low ? before.low * NARROWEST : before.high) : LOWEST;
  const most = apart && after ? (shared.high ? after.high / NARROWEST : after.low) : HIGHEST;
  const both = change.low !== undefined && change.high !== undefined;
  if (change.low !== undefined) own.low = held(change.low, least, (both ? most : own.high) / NARROWEST);
  if (change.high !== undefined) own.high = held(change.high, own.low * NARROWEST, most);
  if (shared.low) before.high = own.low;
  if (shared.high) after.low = own.high;
  return next;
}

/**
 * @param {Band[]} bands
 * @param {number} index
 * @returns {Band[]}
 */
export function bandSplit(bands, index) {
  const { low, high } = bands[index];
  const middle = Math.sqrt(low * high);
  return [...bands.slice(0, index), { low, high: middle }, { low: middle, high }, ...bands.slice(index + 1)];
}

/**
 * @param {Band[]} bands
 * @param {number} index
 * @returns {Band[]}
 */
export function bandsJoined(bands, index) {
  if (index + 1 >= bands.length) return bands;
  const one = { low: bands[index].low, high: bands[index + 1].high };
  return [...bands.slice(0, index), one, ...bands.slice(index + 2)];
}
