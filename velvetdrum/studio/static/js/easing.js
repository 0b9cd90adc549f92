// The easings of CSS, and colours between two, as the renderer works them out: for what stands in fields.

const NAMED = { ease: [0.25, 0.1, 0.25, 1], "ease-in": [0.42, 0, 1, 1], "ease-out": [0, 0, 0.58, 1], "ease-in-out": [0.42, 0, 0.58, 1] };
const JUMPS = { "jump-start": [1, 0], start: [1, 0], "jump-end": [0, 0], end: [0, 0], "jump-none": [0, -1], "jump-both": [1, 1] };

export const EASINGS = ["linear", ...Object.keys(NAMED), "hold"];

/** An easing as {form, numbers}, or null for a text that is none. */
export function readEasing(text) {
  if (NAMED[text]) return { form: "bezier", numbers: NAMED[text] };
  if (text === "linear" || text === "hold") return { form: text, numbers: [] };
  const found = /^(cubic-bezier|steps)\(([^()]*)\)$/.exec(text.trim());
  if (!found) return null;
  const parts = found[2].split(",").map((part) => part.trim());
  const numbers = parts.map(Number);
  if (found[1] === "cubic-bezier") {
    const fits = parts.length === 4 && numbers.every(Number.isFinite) && [0, 2].every((i) => numbers[i] >= 0 && numbers[i] <= 1);
    return fits ? { form: "bezier", numbers } : null;
  }
  const jump = JUMPS[parts[1] || "end"];
  return jump && Number.isInteger(numbers[0]) && numbers[0] > 0 ? { form: "steps", numbers: [numbers[0], ...jump] } : null;
}

/** Progress after easing, for progress from 0 to 1. */
export function eased(text, part) {
  const { form, numbers } = readEasing(text) || { form: "linear" };
  if (part >= 1) return 1;
  if (form === "hold" || part <= 0) return form === "steps" ? stepped(numbers, part) : 0;
  if (form === "steps") return stepped(numbers, part);
  if (form === "linear") return part;
  const [x1, y1, x2, y2] = numbers;
  const curve = (a, b, t) => 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t ** 2 * b + t ** 3;
  let [low, high] = [0, 1];
  for (let i = 0; i < 40; i += 1) {
    const middle = (low + high) / 2;
    if (curve(x1, x2, middle) < part) low = middle;
    else high = middle;
  }
  return curve(y1, y2, (low + high) / 2);
}

function stepped([count, first, more], part) {
  return Math.max(0, Math.min(count + more, Math.floor(part * count + 1e-9) + first)) / (count + more);
}

const linear = (c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
const coded = (c) => (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);

function toOklab(hex) {
  const [r, g, b] = [1, 3, 5].map((i) => linear(parseInt(hex.slice(i, i + 2), 16) / 255));
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  return [0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s, 1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s, 0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s];
}

/** A colour between two, even to the eye (Oklab). */
export function mixed(from, to, part) {
  if (part <= 0) return from;
  if (part >= 1) return to;
  const [a, b] = [toOklab(from), toOklab(to)];
  const [L, A, B] = a.map((value, i) => value + (b[i] - value) * part);
  const l = (L + 0.3963377774 * A + 0.2158037573 * B) ** 3;
  const m = (L - 0.1055613458 * A - 0.0638541728 * B) ** 3;
  const s = (L - 0.0894841775 * A - 1.291485548 * B) ** 3;
  const rgb = [4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s, -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s, -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s];
  return `#${rgb.map((c) => Math.round(255 * Math.max(0, Math.min(1, coded(Math.max(c, 0))))).toString(16).padStart(2, "0")).join("")}`;
}

/** The value of a list of keyframes at a time; null for a gradient, whose mixing is the renderer's. */
export function keyedValue(setting, frames, time) {
  const after = frames.findIndex((frame) => frame.time_s > time + 1e-6);
  if (after === 0) return frames[0].value;
  if (after < 0) return frames[frames.length - 1].value;
  const [before, following] = [frames[after - 1], frames[after]];
  const part = eased(before.ease || "linear", (time - before.time_s) / (following.time_s - before.time_s));
  if (setting.type === "colour") return mixed(before.value, following.value, part);
  if (setting.type === "stops") return part < 0.5 ? before.value : following.value;
  const value = Math.max(setting.lo, Math.min(setting.hi, before.value + (following.value - before.value) * part));
  return setting.type === "whole" ? Math.round(value) : value;
}
