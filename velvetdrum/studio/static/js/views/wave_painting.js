// How a stretch of sound is painted: ruler, beats, curves of signals, peaks with the RMS inside, loop, markers.

import { clock } from "../lib/time.js";

const RATE = 48000;
export const LANE_HEIGHT = 19;
export const GRIPS_HEIGHT = 18;
const STEPS = [0.0001, 0.0002, 0.0005, 0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30];
const LONG_STEPS = [60, 120, 300, 600, 1200];

/**
 * @typedef {object} Drawing
 * @property {CanvasRenderingContext2D} context
 * @property {number} width device pixels
 * @property {number} height device pixels
 * @property {number} top where the wave begins, under the ruler
 * @property {number} lanesHeight of the curves at the foot
 * @property {number} scale device pixels in one of CSS
 * @property {(name: string) => string} colour a colour of the page
 * @property {any} source what there is to draw
 * @property {{start: number, span: number}} seen seconds
 * @property {(second: number) => number} x device pixels
 * @property {any} table low, high and RMS of each column, or null
 * @property {boolean} past true for what has been played
 */

/**
 * All of it, as it looks before the playhead or behind it.
 * @param {Drawing} draw
 */
export function paintStrip(draw) {
  draw.context.clearRect(0, 0, draw.width, draw.height);
  paintRuler(draw);
  paintBeats(draw);
  if (draw.source.grips) paintGrips(draw);
  paintLanes(draw);
  if (draw.table) paintWave(draw);
  paintMarks(draw);
  paintMarkers(draw);
}

/** @param {any} draw */
function paintRuler(draw) {
  const { context, width, height, scale, colour, seen } = draw;
  const { start, span } = seen;
  const step = [...STEPS, ...LONG_STEPS].find((candidate) => (candidate / span) * width > 84 * scale) || 3600;
  const digits = step >= 1 ? 0 : Math.ceil(-Math.log10(step));
  context.font = `${12 * scale}px "Work Sans", sans-serif`;
  context.textBaseline = "top";
  for (let n = Math.ceil(start / step); n * step <= start + span; n += 1) {
    const x = Math.round(draw.x(n * step)) + 0.5;
    context.strokeStyle = colour("seam");
    context.globalAlpha = 0.6;
    context.beginPath();
    context.moveTo(x, 0);
    context.lineTo(x, height);
    context.stroke();
    context.globalAlpha = 1;
    context.fillStyle = colour("dim");
    const words = clock(n * step, digits);
    // One that the right edge would cut is left out.
    if (x + 4 * scale + context.measureText(words).width <= width) context.fillText(words, x + 4 * scale, 4 * scale);
  }
}

/**
 * Beats as lines, bars stronger; only as many as can be told apart.
 * @param {any} draw
 */
function paintBeats(draw) {
  const { context, width, height, top, scale, colour, source } = draw;
  const beats = source.beats || [];
  if (beats.length < 2) return;
  const apart = (draw.x(beats[beats.length - 1][0]) - draw.x(beats[0][0])) / (beats.length - 1);
  for (const [time, first] of beats) {
    if (!first && apart < 7 * scale) continue;
    const x = Math.round(draw.x(time)) + 0.5;
    if (x < 0 || x > width) continue;
    context.strokeStyle = colour("control-line");
    context.lineWidth = first ? 1.4 * scale : scale;
    context.globalAlpha = first ? 0.42 : 0.2;
    context.beginPath();
    context.moveTo(x, first ? top - 5 * scale : top);
    context.lineTo(x, height);
    context.stroke();
  }
  context.globalAlpha = 1;
}

/**
 * What beats are dragged by, along the foot: bars as full, beats as hollow marks, where there is room for them.
 * @param {any} draw
 */
function paintGrips(draw) {
  const { context, width, height, scale, colour, source } = draw;
  const beats = source.beats || [];
  if (beats.length < 2) return;
  const apart = (draw.x(beats[beats.length - 1][0]) - draw.x(beats[0][0])) / (beats.length - 1);
  const middle = height - (GRIPS_HEIGHT / 2) * scale;
  context.strokeStyle = context.fillStyle = colour("brass");
  context.lineWidth = 1.4 * scale;
  for (const [time, first] of beats) {
    const x = draw.x(time);
    if ((!first && apart < 11 * scale) || x < -6 * scale || x > width + 6 * scale) continue;
    context.beginPath();
    context.arc(x, middle, (first ? 4 : 3) * scale, 0, 2 * Math.PI);
    if (first) context.fill();
    else context.stroke();
  }
}

/** @param {any} draw */
function paintLanes(draw) {
  const { context, height, scale, source, past } = draw;
  (source.lanes || []).forEach((/** @type {any} */ lane, /** @type {number} */ index) => {
    const bottom = height - ((source.lanes.length - 1 - index) * LANE_HEIGHT + 3) * scale;
    const full = (LANE_HEIGHT - 5) * scale;
    context.globalAlpha = past ? 0.9 : 0.5;
    context.strokeStyle = lane.colour;
    context.fillStyle = lane.colour;
    context.lineWidth = 1.2 * scale;
    if (!lane.high) return;
    const count = lane.high.length;
    const x = (/** @type {number} */ i) => draw.x(lane.from + ((i + 0.5) / count) * (lane.to - lane.from));
    const y = (/** @type {number} */ i) => bottom - (Math.max(0, Math.min(1000, lane.high[i])) / 1000) * full;
    context.beginPath();
    for (let i = 0; i < count; i += 1) context.lineTo(x(i), y(i));
    context.stroke();
    context.lineTo(x(count - 1), bottom);
    context.lineTo(x(0), bottom);
    context.globalAlpha *= 0.28;
    context.fill();
  });
  context.globalAlpha = 1;
}

/** @param {any} draw */
function paintWave(draw) {
  const { context, width, top, scale, colour, source, table, past, seen } = draw;
  const height = draw.height - draw.top - draw.lanesHeight - 6 * draw.scale;
  const { span } = seen;
  const samples = Math.ceil(span * RATE);
  const middle = top + height / 2;
  const y = (/** @type {any} */ value) => middle - (value / 32767) * (height / 2);
  const peaks = colour(past ? "wave-past" : "wave-far");
  const inner = colour(past ? "wave" : "dim");
  const used = (/** @type {number} */ second) => second >= source.from && second <= source.to;
  const shown = table.columns;
  if (samples <= width / 2) {
    context.strokeStyle = inner;
    context.lineWidth = 1.5 * scale;
    context.beginPath();
    for (let i = 0; i < shown; i += 1) {
      const x = draw.x(table.from - source.offset + ((i + 0.5) / shown) * (table.to - table.from));
      context.lineTo(x, y(table.values[i * 3 + 1]));
    }
    context.stroke();
    if (samples < width / (7 * scale)) {
      context.fillStyle = inner;
      for (let i = 0; i < shown; i += 1) {
        const x = draw.x(table.from - source.offset + ((i + 0.5) / shown) * (table.to - table.from));
        context.fillRect(x - 2 * scale, y(table.values[i * 3 + 1]) - 2 * scale, 4 * scale, 4 * scale);
      }
    }
    return;
  }
  // Of a few samples a column the RMS says nothing; the line itself is what can be seen.
  const few = samples / shown < 48;
  for (let i = 0; i < shown; i += 1) {
    const second = table.from - source.offset + (i / shown) * (table.to - table.from);
    const x = draw.x(second);
    const step = ((table.to - table.from) / shown / span) * width;
    context.globalAlpha = used(second) ? 1 : 0.35;
    context.fillStyle = few ? inner : peaks;
    const high = y(table.values[i * 3 + 1]);
    const low = y(table.values[i * 3]);
    context.fillRect(x, high, Math.max(step, 1), Math.max(low - high, scale));
    if (few) continue;
    context.fillStyle = inner;
    const rms = Math.min((table.values[i * 3 + 2] / 32767) * (height / 2), Math.max(low - high, 0) / 2 + scale);
    context.fillRect(x, middle - rms, Math.max(step, 1), rms * 2);
  }
  context.globalAlpha = 1;
}

/** @param {any} draw */
function paintMarks(draw) {
  const { context, height, top, scale, colour, source } = draw;
  if (source.loop) {
    const left = draw.x(source.loop.from);
    const right = draw.x(source.loop.to);
    context.fillStyle = colour("brass");
    context.globalAlpha = source.loop.on ? 0.2 : 0.1;
    context.fillRect(left, top, right - left, height - top);
    context.globalAlpha = source.loop.on ? 1 : 0.5;
    context.fillRect(left, top, 2 * scale, height - top);
    context.fillRect(right - 2 * scale, top, 2 * scale, height - top);
    context.globalAlpha = 1;
  }
  if (source.handles) {
    for (const [second, name, side] of [
      [source.from, "in", 1],
      [source.to, "out", -1],
    ]) {
      const x = draw.x(second);
      context.fillStyle = colour("sea");
      context.fillRect(x - scale, top, 2 * scale, height - top);
      context.beginPath();
      context.roundRect(side > 0 ? x : x - 30 * scale, top, 30 * scale, 20 * scale, 5 * scale);
      context.fill();
      context.fillStyle = "#10201d";
      context.font = `600 ${12 * scale}px "Work Sans", sans-serif`;
      context.textAlign = "center";
      context.textBaseline = "top";
      context.fillText(name, x + side * 15 * scale, top + 4 * scale);
      context.textAlign = "start";
    }
  }
}

/**
 * Markers as flags under the ruler, with as much of their text as there is room for.
 * @param {any} draw
 */
function paintMarkers(draw) {
  const { context, width, height, top, scale, colour, source } = draw;
  const markers = source.markers || [];
  context.font = `600 ${12 * scale}px "Work Sans", sans-serif`;
  context.textBaseline = "top";
  markers.forEach((/** @type {Marker} */ marker, /** @type {number} */ index) => {
    const x = Math.round(draw.x(marker.time_s));
    const room = (index + 1 < markers.length ? draw.x(markers[index + 1].time_s) : width) - x;
    if (x < -200 * scale || x > width) return;
    context.fillStyle = colour("sky");
    context.fillRect(x, top - 4 * scale, 2 * scale, height - top + 4 * scale);
    if (room < 18 * scale) return;
    const long = Math.min(room - 4 * scale, context.measureText(marker.text).width + 12 * scale);
    context.beginPath();
    context.roundRect(x, top - 4 * scale, long, 17 * scale, [0, 5 * scale, 5 * scale, 0]);
    context.fill();
    context.save();
    context.clip();
    context.fillStyle = "#101c28";
    context.fillText(marker.text, x + 6 * scale, top - 1 * scale);
    context.restore();
  });
}
