// Values that the page and the renderer must both work out, as the Python tests keep them.

import { readFileSync } from "node:fs";

/** @param {string} name */
export function vectors(name) {
  return JSON.parse(readFileSync(new URL(`../vectors/${name}.json`, import.meta.url), "utf8"));
}

/** True for numbers that are equal to a millionth. */
export const close = (a, b, off = 1e-6) => Math.abs(a - b) <= off * Math.max(1, Math.abs(b));
