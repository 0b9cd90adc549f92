// Amounts as people read them.

import { clock } from "./time.js";

/** A number of one place with its sign as print has it. */
export const minus = (/** @type {any} */ value) => value.toFixed(1).replace("-", "−");

/**
 * Seconds as people say them.
 * @param {number} seconds
 */
export function length(seconds) {
  return seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : clock(seconds, 0);
}

/**
 * Bytes as people say them.
 * @param {any} bytes
 */
export function size(bytes) {
  return bytes >= 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
}

/**
 * How loud a recording is, and what bringing it to a loudness does to it.
 * @param {{loudness_lufs: number, true_peak_dbtp: number}} facts
 * @param {string} target LUFS; empty to leave it as it is
 * @param {string} ceiling dBTP
 */
export function loudnessChange({ loudness_lufs, true_peak_dbtp }, target, ceiling) {
  const now = `now ${minus(loudness_lufs)} LUFS, ${minus(true_peak_dbtp)} dBTP`;
  if (!target) return now;
  const by = Number(target) - loudness_lufs;
  const over = true_peak_dbtp + by - Number(ceiling);
  const turned = `turned ${by < 0 ? "down" : "up"} ${Math.abs(by).toFixed(1)} dB`;
  return `${now}: ${turned}, ${over > 0 ? `peaks limited by ${over.toFixed(1)} dB` : "nothing limited"}`;
}
