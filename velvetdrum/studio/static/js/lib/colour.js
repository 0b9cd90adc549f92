// Colours as hexadecimal text: mixed evenly to the eye (Oklab) as the renderer mixes them, and as lightness, chroma and
// hue (CSS Color 4). The last two digits of eight are the opacity.

const linear = (/** @type {number} */ c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
const coded = (/** @type {number} */ c) => (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);
const TURN = 360;
const HEX = /^#?([0-9a-f]{3}|[0-9a-f]{6}|[0-9a-f]{8})$/i;

/** @param {string} hex */
function toOklab(hex) {
  const [r, g, b] = [1, 3, 5].map((i) => linear(parseInt(hex.slice(i, i + 2), 16) / 255));
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  ];
}

const byte = (/** @type {number} */ value) =>
  Math.round(255 * Math.max(0, Math.min(1, value)))
    .toString(16)
    .padStart(2, "0");

/** @param {number[]} lab */
function linearRgb([L, A, B]) {
  const l = (L + 0.3963377774 * A + 0.2158037573 * B) ** 3;
  const m = (L - 0.1055613458 * A - 0.0638541728 * B) ** 3;
  const s = (L - 0.0894841775 * A - 1.291485548 * B) ** 3;
  return [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s,
  ];
}

/** @param {number[]} lab */
function toHex(lab) {
  return `#${linearRgb(lab)
    .map((c) => byte(coded(Math.max(c, 0))))
    .join("")}`;
}

/**
 * A colour between two, even to the eye (Oklab).
 * @param {string} from
 * @param {string} to
 * @param {number} part
 */
export function mixed(from, to, part) {
  if (part <= 0) return from;
  if (part >= 1) return to;
  const [a, b] = [toOklab(from), toOklab(to)];
  const solid = opacityOf(from) + (opacityOf(to) - opacityOf(from)) * part;
  return withOpacity(toHex(a.map((value, i) => value + (b[i] - value) * part)), solid);
}

/**
 * How solid a colour is, 0 to 1.
 * @param {string} hex
 */
export const opacityOf = (hex) => (hex.length === 9 ? parseInt(hex.slice(7), 16) / 255 : 1);

/**
 * A colour with an opacity, without one where it is solid.
 * @param {string} hex
 * @param {number} opacity 0 to 1
 */
export const withOpacity = (hex, opacity) => (opacity >= 1 ? hex.slice(0, 7) : hex.slice(0, 7) + byte(opacity));

/**
 * Lightness in per cent, chroma in per cent of 0.4, hue in degrees (CSS Color 4, `oklch`).
 * @param {string} hex
 */
export function toOklch(hex) {
  const [L, A, B] = toOklab(hex);
  const hue = ((Math.atan2(B, A) * TURN) / (2 * Math.PI) + TURN) % TURN;
  return { lightness: L * 100, chroma: (Math.hypot(A, B) / 0.4) * 100, hue };
}

/**
 * The colour of a lightness, chroma and hue; what sRGB does not hold has as much less chroma as it needs.
 * @param {{ lightness: number, chroma: number, hue: number }} given
 */
export function fromOklch({ lightness, chroma, hue }) {
  const angle = (hue / TURN) * 2 * Math.PI;
  const lab = (/** @type {number} */ c) => [lightness / 100, c * Math.cos(angle), c * Math.sin(angle)];
  const fits = (/** @type {number} */ c) => linearRgb(lab(c)).every((value) => value > -1e-4 && value < 1.0001);
  let [low, high] = [0, (chroma / 100) * 0.4];
  if (fits(high)) return toHex(lab(high));
  for (let n = 0; n < 20; n += 1) {
    const middle = (low + high) / 2;
    if (fits(middle)) low = middle;
    else high = middle;
  }
  return toHex(lab(low));
}

/**
 * A typed colour as #rrggbb or #rrggbbaa; null where it is none.
 * @param {string} text
 */
export function readHex(text) {
  const match = text.trim().match(HEX);
  if (!match) return null;
  const digits = match[1].toLowerCase();
  return `#${digits.length === 3 ? [...digits].map((digit) => digit + digit).join("") : digits}`;
}
