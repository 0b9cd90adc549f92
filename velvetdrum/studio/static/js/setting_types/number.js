// A number: mixed along a line, moved by a tenth of its range by a new patch.

import { register } from "../lib/setting_type.js";

export const NUMBER = {
  numeric: true,
  allowed: (/** @type {any} */ value) => value,
  mixed: (
    /** @type {any} */ before,
    /** @type {any} */ after,
    /** @type {number} */ share,
    /** @type {Setting} */ setting,
  ) => Math.max(setting.lo, Math.min(setting.hi, before + (after - before) * share)),
  /**
   * @param {number} now
   * @param {Signal} signal
   * @param {Setting} setting
   */
  ends(now, signal, setting) {
    const by = Math.max(setting.step, Math.round((setting.hi - setting.lo) / 4 / setting.step) * setting.step);
    return { join: "add", from: 0, to: now + by > setting.hi ? -by : by };
  },
};

register("number", NUMBER);
