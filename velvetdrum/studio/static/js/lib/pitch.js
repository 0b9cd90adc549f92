// Frequencies as they are told.

const NOTES = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];

/**
 * The nearest note of the twelve-tone scale at A4 = 440 Hz.
 * @param {number} hz
 */
export function noteName(hz) {
  const number = Math.round(69 + 12 * Math.log2(hz / 440));
  return `${NOTES[((number % 12) + 12) % 12]}${Math.floor(number / 12) - 1}`;
}

/**
 * A frequency with its unit.
 * @param {number} hz
 */
export function hertz(hz) {
  if (hz < 1000) return `${Math.round(hz * 10) / 10} Hz`;
  return `${Math.round(hz / 10) / 100} kHz`;
}
