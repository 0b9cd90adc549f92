// Numbers as people say them: pixels, frames, beats, timecode, turns, decibels and factors, in the unit of a setting.

import { readNumber } from "./numbers.js";

/**
 * What a project makes of a unit: the frame in pixels, frames a second, seconds of a beat (0 without beats), beats in a
 * bar.
 * @typedef {{width: number, height: number, rate: number, beat_s: number, bar_beats: number}} Measures
 */

const NUMBER = String.raw`\d+(?:\.\d+)?|\.\d+`;
const WITH_UNIT = new RegExp(
  `(${NUMBER})\\s*(px|%|ms|min|sec|s|f|frames?|beats?|b|bars?|khz|hz|k|db|x|°|deg|rad|turns?)(?![a-z])`,
  "gi",
);
const TIMECODE = /(?<![\d.])(\d+):(\d{1,2}):(\d{1,2}):(\d{1,3})(?![\d:])/g;
const CLOCK = /(?<![\d.:])(?:(\d+):)?(\d+):(\d{1,2}(?:\.\d+)?)(?![\d:])/g;
export const TIMES = ["s", "ms"];
export const LEVELS = ["dB", "dBFS", "LU"];

/**
 * What a setting in per cent is a share of, in pixels; 0 for one that is no length.
 * @param {{name: string, unit: string, help: string}} setting
 * @param {Measures} measures
 */
export function wholeOf({ name, unit, help }, { width, height }) {
  if (unit !== "%") return 0;
  if (help.includes("short side")) return Math.min(width, height);
  if (help.includes("frame's width")) return width;
  if (help.includes("frame's height")) return height;
  if (/^scale_/.test(name)) return 0;
  return /(^|_)x$/.test(name) ? width : /(^|_)y$/.test(name) ? height : 0;
}

/**
 * A number with a unit, in the unit of a setting; NaN where it means nothing there.
 * @param {number} value
 * @param {string} said
 * @param {any} setting
 * @param {Measures} measures
 */
function converted(value, said, setting, measures) {
  const { unit } = setting;
  const name = said.toLowerCase();
  const seconds = () => {
    const { rate, beat_s: beat, bar_beats: bar } = measures;
    const each = { s: 1, sec: 1, ms: 0.001, min: 60, f: 1 / rate, b: beat, bar: beat * bar };
    const short = name
      .replace(/^frames?$/, "f")
      .replace(/^beats?$/, "b")
      .replace(/^bars$/, "bar");
    const length = each[/** @type {keyof typeof each} */ (short)];
    return length ? value * length : NaN;
  };
  if (TIMES.includes(unit)) return seconds() * (unit === "ms" ? 1000 : 1);
  if (name === "px") {
    const whole = wholeOf(setting, measures);
    return unit === "px" ? value : whole ? (value / whole) * 100 : NaN;
  }
  if (unit === "%") {
    if (name === "%") return value;
    if (name === "db") return 100 * 10 ** (value / 20);
    return name === "x" ? value * 100 : NaN;
  }
  if (unit === "°") {
    const each = { "°": 1, deg: 1, rad: 180 / Math.PI, turn: 360, turns: 360 };
    return value * (each[/** @type {keyof typeof each} */ (name)] ?? NaN);
  }
  if (unit === "Hz") return { hz: value, khz: value * 1000, k: value * 1000 }[name] ?? NaN;
  if (LEVELS.includes(unit)) return name === "db" ? value : name === "x" ? 20 * Math.log10(value) : NaN;
  return name === unit.toLowerCase() ? value : NaN;
}

/**
 * The number that a text stands for, in the unit of a setting: a sum or a change as `readNumber` reads it, whose
 * numbers may have units.
 * @param {string} text
 * @param {any} setting
 * @param {any} now the value that stands there
 * @param {Measures} measures
 * @returns {number} NaN for a text that is none
 */
export function readQuantity(text, setting, now, measures) {
  if (text.length > 80) return NaN;
  let lost = false;
  const put = (/** @type {number} */ value) => {
    if (!Number.isFinite(value)) lost = true;
    return `(${value < 0 ? `0-${-value}` : value})`;
  };
  const second = setting.unit === "ms" ? 1000 : 1;
  let plain = text.trim().replaceAll(",", ".").replaceAll("−", "-");
  if (TIMES.includes(setting.unit))
    plain = plain
      .replace(TIMECODE, (_, h, m, s, f) => put((h * 3600 + m * 60 + Number(s) + f / measures.rate) * second))
      .replace(CLOCK, (_, h, m, s) => put(((h || 0) * 3600 + m * 60 + Number(s)) * second));
  // A level's sign belongs to it: -6dB of a gain in per cent is a half, not minus two.
  plain = plain.replace(/^-\s*(\d[\d.]*)\s*db$/i, (_, value) =>
    put(converted(-Number(value), "dB", setting, measures)),
  );
  plain = plain.replace(WITH_UNIT, (_, value, unit) => put(converted(Number(value), unit, setting, measures)));
  return lost ? NaN : readNumber(plain, now);
}

/**
 * The same amount as others say it, for a field's title; empty where there is no other way.
 * @param {number} value
 * @param {any} setting
 * @param {Measures} measures
 */
export function otherwise(value, setting, measures) {
  if (!Number.isFinite(value)) return "";
  const rounded = (/** @type {number} */ number) => String(Math.round(number * 100) / 100);
  const whole = wholeOf(setting, measures);
  if (whole) return `${rounded((value / 100) * whole)} px`;
  if (TIMES.includes(setting.unit)) {
    const seconds = setting.unit === "ms" ? value / 1000 : value;
    const frames = `${rounded(seconds * measures.rate)} frames`;
    return measures.beat_s ? `${frames}, ${rounded(seconds / measures.beat_s)} beats` : frames;
  }
  return setting.unit === "°" ? `${rounded(value / 360)} turns` : "";
}

/**
 * A time as hours, minutes, seconds and frames.
 * @param {number} frame
 * @param {number} rate
 */
export function timecode(frame, rate) {
  const whole = Math.max(1, Math.round(rate));
  const parts = [
    Math.floor(frame / whole / 3600),
    Math.floor(frame / whole / 60) % 60,
    Math.floor(frame / whole) % 60,
  ];
  return [...parts, frame % whole].map((part) => String(part).padStart(2, "0")).join(":");
}
