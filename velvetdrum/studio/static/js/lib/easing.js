// The easings of CSS, as the renderer works them out: for what stands in fields.

/** @type {Record<string, number[]>} */
const NAMED = {
  ease: [0.25, 0.1, 0.25, 1],
  "ease-in": [0.42, 0, 1, 1],
  "ease-out": [0, 0, 0.58, 1],
  "ease-in-out": [0.42, 0, 0.58, 1],
};
/** @type {Record<string, number[]>} */
const JUMPS = {
  "jump-start": [1, 0],
  start: [1, 0],
  "jump-end": [0, 0],
  end: [0, 0],
  "jump-none": [0, -1],
  "jump-both": [1, 1],
};

export const EASINGS = ["linear", ...Object.keys(NAMED), "hold"];

/**
 * An easing as {form, numbers}, or null for a text that is none.
 * @param {string} text
 */
export function readEasing(text) {
  if (NAMED[text]) return { form: "bezier", numbers: NAMED[text] };
  if (text === "linear" || text === "hold") return { form: text, numbers: [] };
  const found = /^(cubic-bezier|steps)\(([^()]*)\)$/.exec(text.trim());
  if (!found) return null;
  const parts = found[2].split(",").map((part) => part.trim());
  const numbers = parts.map(Number);
  if (found[1] === "cubic-bezier") {
    const fits =
      parts.length === 4 && numbers.every(Number.isFinite) && [0, 2].every((i) => numbers[i] >= 0 && numbers[i] <= 1);
    return fits ? { form: "bezier", numbers } : null;
  }
  const jump = JUMPS[parts[1] || "end"];
  return jump && Number.isInteger(numbers[0]) && numbers[0] > 0
    ? { form: "steps", numbers: [numbers[0], ...jump] }
    : null;
}

/**
 * Progress after easing, for progress from 0 to 1.
 * @param {string} text
 * @param {number} part
 */
export function eased(text, part) {
  const { form, numbers } = readEasing(text) || { form: "linear", numbers: [] };
  if (part >= 1) return 1;
  if (form === "hold" || part <= 0) return form === "steps" ? stepped(numbers, part) : 0;
  if (form === "steps") return stepped(numbers, part);
  if (form === "linear") return part;
  const [x1, y1, x2, y2] = numbers;
  const curve = (/** @type {number} */ a, /** @type {number} */ b, /** @type {any} */ t) =>
    3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t ** 2 * b + t ** 3;
  let [low, high] = [0, 1];
  for (let i = 0; i < 40; i += 1) {
    const middle = (low + high) / 2;
    if (curve(x1, x2, middle) < part) low = middle;
    else high = middle;
  }
  return curve(y1, y2, (low + high) / 2);
}

/**
 * @param {any} pair
 * @param {number} part
 */
function stepped([count, first, more], part) {
  return Math.max(0, Math.min(count + more, Math.floor(part * count + 1e-9) + first)) / (count + more);
}

/**
 * The two handles of an easing, as shares of the way in time and in value; null for one without.
 * @param {string} text
 * @returns {number[] | null} x1, y1, x2, y2
 */
export function easingHandles(text) {
  if (text === "linear") return [0.25, 0.25, 0.75, 0.75];
  const { form, numbers } = readEasing(text) || { form: "", numbers: [] };
  return form === "bezier" ? numbers : null;
}

/** @param {number[]} numbers x1, y1, x2, y2 */
export function bezierText(numbers) {
  return `cubic-bezier(${numbers.map((number) => String(Number(number.toFixed(3)))).join(", ")})`;
}

/**
 * The way of an easing as an SVG path in a box of 20 by 20, its value upward.
 * @param {string} text
 */
export function easingPath(text) {
  const points = Array.from({ length: 21 }, (_, at) => `${at} ${(18 - eased(text, at / 20) * 16).toFixed(2)}`);
  return `M${points.join("L")}`;
}

/**
 * An easing run from its end to its beginning.
 * @param {string} text
 */
export function turnedEase(text) {
  const { form, numbers } = readEasing(text) || { form: "", numbers: [] };
  if (form !== "bezier") return text;
  const [x1, y1, x2, y2] = numbers;
  return bezierText([1 - x2, 1 - y2, 1 - x1, 1 - y1]);
}
