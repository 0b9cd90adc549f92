// Numbers: held within ranges, rounded to steps, placed on sliders, and typed as sums.

export const LOG_STEPS = 1000;

export const clamp = (/** @type {any} */ value, /** @type {any} */ low, /** @type {any} */ high) =>
  Math.max(low, Math.min(high, value));

/** Seconds to the microsecond, as keyframes are kept. */
export const roundTime = (/** @type {number} */ time) => Math.round(time * 1e6) / 1e6;

export const nearly = (/** @type {number} */ a, /** @type {number} */ b) => Math.abs(a - b) < 1e-6;

/**
 * A value with as many decimals as its step has.
 * @param {any} value
 * @param {number} step
 */
export function rounded(value, step) {
  const digits = Math.max(0, Math.ceil(-Math.log10(step || 1)));
  return Number(value.toFixed(digits));
}

const lowEnd = (/** @type {Setting} */ setting) => Math.max(setting.lo, setting.hi / 1e4);

/**
 * The place of a value on its slider; one that is finer at its low end has places from 0 to 1000.
 * @param {Setting} setting
 * @param {any} value
 */
export function toPlace(setting, value) {
  if (setting.curve !== "log") return value;
  const low = lowEnd(setting);
  return value <= low ? 0 : (Math.log(value / low) / Math.log(setting.hi / low)) * LOG_STEPS;
}

/**
 * The value at a place of its slider.
 * @param {Setting} setting
 * @param {string} place
 */
export function fromPlace(setting, place) {
  if (setting.curve !== "log") return rounded(Number(place), setting.step);
  const low = lowEnd(setting);
  if (Number(place) <= 0) return setting.lo;
  const value = low * (setting.hi / low) ** (Number(place) / LOG_STEPS);
  return Math.min(setting.hi, rounded(value, value < 10 ? 0.1 : value < 1000 ? 1 : 10));
}

const TOKEN = /\s*(?:(\d+(?:\.\d*)?|\.\d+)|([-+*/()]))/y;

/**
 * Numbers and signs of a sum; null where something else stands in it.
 * @param {string} text
 */
function tokensOf(text) {
  const tokens = [];
  TOKEN.lastIndex = 0;
  while (TOKEN.lastIndex < text.length) {
    const found = TOKEN.exec(text);
    if (!found) return null;
    tokens.push(found[1] === undefined ? found[2] : Number(found[1]));
  }
  return tokens;
}

/**
 * What a sum comes to: + - * / and brackets, by the usual rules; NaN for a text that is none.
 * @param {string} text
 */
function reckoned(text) {
  const tokens = tokensOf(text.trim());
  if (!tokens || !tokens.length) return NaN;
  let at = 0;
  /** @type {() => number} */
  const factor = () => {
    const token = tokens[at];
    at += 1;
    if (token === "-") return -factor();
    if (token === "+") return factor();
    if (token !== "(") return typeof token === "number" ? token : NaN;
    const inner = sum();
    at += 1;
    return tokens[at - 1] === ")" ? inner : NaN;
  };
  /** @type {() => number} */
  const product = () => {
    let value = factor();
    while (tokens[at] === "*" || tokens[at] === "/") {
      at += 1;
      value = tokens[at - 1] === "*" ? value * factor() : value / factor();
    }
    return value;
  };
  /** @type {() => number} */
  const sum = () => {
    let value = product();
    while (tokens[at] === "+" || tokens[at] === "-") {
      at += 1;
      value = tokens[at - 1] === "+" ? value + product() : value - product();
    }
    return value;
  };
  const value = sum();
  return at === tokens.length ? value : NaN;
}

/**
 * The number that a text stands for: a number, a sum (1920/3), or a change of the value now (+10, *1.5, /2, -=3).
 * A leading minus is a negative number, as it always was; what is taken away is written -=3.
 * @param {string} text
 * @param {any} now
 * @returns {number} NaN for a text that is none
 */
export function readNumber(text, now) {
  const tidy = text.trim().replaceAll(",", ".").replaceAll("−", "-").replaceAll("×", "*").replaceAll("÷", "/");
  if (!tidy || tidy.length > 80) return NaN;
  const change = /^(?:([+*/])=?|(-)=)(.*)$/.exec(tidy);
  const value = change ? reckoned(`(${now})${change[1] || change[2]}(${change[3]})`) : reckoned(tidy);
  return Number.isFinite(value) ? value : NaN;
}

/**
 * What an arrow key adds: a step, ten with Shift, a tenth with Alt.
 * @param {TypeEvent} event
 * @param {number} step
 */
export function arrowStep(event, step) {
  const way = { ArrowUp: 1, ArrowDown: -1 }[event.key] || 0;
  return way * (step || 1) * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
}
