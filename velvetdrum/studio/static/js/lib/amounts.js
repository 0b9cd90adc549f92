// Amounts as people read them.

import { clock } from "./time.js";

/** A number of one place with its sign as print has it. */
export const minus = (value) => value.toFixed(1).replace("-", "−");

/** Seconds as people say them. */
export function length(seconds) {
  return seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : clock(seconds, 0);
}

/** Bytes as people say them. */
export function size(bytes) {
  return bytes >= 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
}
