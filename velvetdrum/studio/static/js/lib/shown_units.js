// Numbers in the unit in which a project shows them, and back.

import { rounded } from "./numbers.js";
import { LEVELS, TIMES, timecode, wholeOf } from "./quantities.js";

/** @typedef {import("./quantities.js").Measures} Measures */
/**
 * How a setting's numbers are shown: `unit` beside the field, `said` what a number without a unit is taken for, `times`
 * that many of it in one of the setting's own, or `text`, where it is more than a factor.
 * @typedef {{unit: string, said: string, times?: number, text?: (value: number) => string}} Shown
 */

/** @type {Record<string, (setting: any, measures: Measures) => Shown | null>} */
const SHOWN = {
  px(setting, measures) {
    const whole = wholeOf(setting, measures);
    return whole ? { unit: "px", said: "px", times: whole / 100 } : null;
  },
  f(setting, { rate }) {
    const second = secondOf(setting);
    return second ? { unit: "f", said: "f", times: second * rate } : null;
  },
  b(setting, { beat_s: beat }) {
    const second = secondOf(setting);
    return second && beat ? { unit: "beats", said: "b", times: second / beat } : null;
  },
  timecode(setting, { rate }) {
    if (setting.unit !== "s") return null;
    const text = (/** @type {number} */ value) =>
      (value < 0 ? "-" : "") + timecode(Math.round(Math.abs(value) * rate), rate);
    return { unit: "", said: "", text };
  },
  turn: ({ unit }) => (unit === "°" ? { unit: "turns", said: "turn", times: 1 / 360 } : null),
  x({ unit }) {
    const text = (/** @type {number} */ value) => String(Number((10 ** (value / 20)).toPrecision(4)));
    return LEVELS.includes(unit) ? { unit: "×", said: "x", text } : null;
  },
};

/** @param {any} setting */
function secondOf({ unit }) {
  return TIMES.includes(unit) ? (unit === "ms" ? 0.001 : 1) : 0;
}

/**
 * How a setting's numbers are shown where it is not in its own unit; null where it is.
 * @param {any} setting
 * @param {Record<string, string>} units the project's choices by sort
 * @param {Measures} measures
 */
export function shownAs(setting, units, measures) {
  for (const unit of Object.values(units)) {
    const shown = SHOWN[unit] && SHOWN[unit](setting, measures);
    if (shown) return shown;
  }
  return null;
}

/**
 * @param {Shown} shown
 * @param {number} value in the setting's own unit
 */
export function shownText(shown, value) {
  if (shown.text) return shown.text(value);
  const number = value * (shown.times || 1);
  return String(rounded(number, Math.abs(number) < 10 ? 0.001 : 0.01));
}

const BARE = /(?<![\d.])(?<![*/]\s*)(\d+(?:[.,]\d+)?|[.,]\d+)(?![\d.,])/g;

/**
 * What was typed, with the unit that its numbers were meant in: none is added where one was typed, nor to a factor.
 * @param {Shown} shown
 * @param {string} text
 */
export function withUnit(shown, text) {
  if (!shown.said || /[a-z%°:]/i.test(text)) return text;
  return text.replace(BARE, `$1${shown.said}`);
}
