// A document made like another one, part by part: only what differs is written, so that only what shows it is drawn
// anew.

import { plain } from "./json_patch.js";

const isObject = (/** @type {any} */ value) => value !== null && typeof value === "object";
const hasIds = (/** @type {any} */ list) =>
  list.length > 0 && list.every((/** @type {any} */ item) => isObject(item) && typeof item.id === "string");

/**
 * Make an object like another. What is written into it is copied, never shared.
 * @template T
 * @param {T} into the object, which may be watched
 * @param {any} next
 * @param {<V>(value: V) => V} raw gives the object behind a watched one
 * @returns {T} the first object
 */
export function merge(into, next, raw = (value) => value) {
  /** @type {any} */
  const now = raw(into);
  if (now === next) return into;
  if (Array.isArray(next)) mergeList(/** @type {any} */ (into), now, next, raw);
  else {
    for (const key of Object.keys(now)) if (!(key in next)) delete (/** @type {any} */ (into)[key]);
    for (const key of Object.keys(next)) mergeKey(into, now, next, key, raw);
  }
  return into;
}

/**
 * @param {any} into
 * @param {any} now
 * @param {any} next
 * @param {string} key
 * @param {any} raw
 */
function mergeKey(into, now, next, key, raw) {
  const [a, b] = [raw(now[key]), next[key]];
  if (a === b) return;
  const alike = isObject(a) && isObject(b) && Array.isArray(a) === Array.isArray(b);
  if (alike) merge(into[key], b, raw);
  else into[key] = plain(b);
}

/**
 * @param {any} into
 * @param {any} now
 * @param {any} next
 * @param {any} raw
 */
function mergeList(into, now, next, raw) {
  const same =
    now.length === next.length &&
    next.every((/** @type {any} */ item, /** @type {number} */ index) => idOf(now[index]) === idOf(item));
  if (same) {
    for (let index = 0; index < next.length; index += 1) mergeKey(into, now, next, String(index), raw);
    return;
  }
  // Things with ids stay the same things when others come, go, or change places.
  const known = hasIds(next)
    ? new Map(now.map((/** @type {any} */ item, /** @type {number} */ index) => [idOf(item), index]))
    : new Map();
  const list = next.map((/** @type {any} */ item) => {
    const index = known.get(item && item.id);
    return index === undefined ? plain(item) : raw(merge(into[index], item, raw));
  });
  into.splice(0, into.length, ...list);
}

const idOf = (/** @type {any} */ item) => (isObject(item) ? item.id : undefined);
