// Times as they are written and read, and waiting.

/**
 * Seconds as minutes:seconds, with hours when there are any.
 * @param {number} seconds
 * @param {number} [digits]
 */
export function clock(seconds, digits = 2) {
  const sign = seconds < 0 ? "-" : "";
  const whole = Math.abs(seconds) + 1e-9;
  const hours = Math.floor(whole / 3600);
  const minutes = Math.floor((whole % 3600) / 60);
  const places = digits ? digits + 3 : 2;
  const rest = (Math.floor((whole % 60) * 10 ** digits) / 10 ** digits).toFixed(digits).padStart(places, "0");
  return hours ? `${sign}${hours}:${String(minutes).padStart(2, "0")}:${rest}` : `${sign}${minutes}:${rest}`;
}

/**
 * Seconds from a text such as 1:02.5 or 62.5; null for a text that is none.
 * @param {string} text
 */
export function readClock(text) {
  const parts = text.trim().replace(",", ".").split(":").map(Number);
  const fits = parts.length > 0 && parts.length <= 3 && parts.every((part) => Number.isFinite(part) && part >= 0);
  if (!fits || text.trim() === "") return null;
  return parts.reduce((sum, part) => sum * 60 + part, 0);
}

/** A promise that is kept after so many milliseconds. */
export const wait = (/** @type {any} */ ms) => new Promise((resolve) => setTimeout(resolve, ms));
