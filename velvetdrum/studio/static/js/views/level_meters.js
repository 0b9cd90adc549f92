// Meters of the tracks and their sum at the playhead, and the loudness of all of it.

import { ask } from "../lib/api.js";
import { clamp } from "../lib/numbers.js";
import { CanvasView } from "./canvas_view.js";

const PER_S = 60;
const BLOCK = 240;
const LEAST_DB = -60;
const ROW = 22;
const NAMES = 116;
const NUMBERS = 86;
const CURVE = 72;
// Where a loudness stands in its curve: from -6 LUFS at the top to -42.
const levelPlace = (/** @type {number} */ lufs) => clamp((-6 - lufs) / 36, 0, 1);

/**
 * `source()` gives {id, mark, inS, now, length, tracks: {id, name, colour}}; times in seconds of the project.
 */
export class LevelMeters extends CanvasView {
  blocks = new Map();
  now = 0;
  curveOf = "";
  /** @type {number[] | null} */
  lufs = null;

  /** @param {number} second of the project, now */
  follow(second) {
    this.now = second;
    if (this.view && this.view.mark) this.schedule();
  }

  /** What is read at the playhead; null until it came. */
  reading() {
    const { id, mark, inS } = this.view;
    if (!mark) return null;
    const place = Math.max(0, Math.round((inS + this.now) * PER_S));
    const number = Math.floor(place / BLOCK);
    const block = this.block(id, mark, number);
    this.block(id, mark, number + 1);
    return block ? { block, index: place - number * BLOCK } : null;
  }

  /**
   * @param {string} id
   * @param {string} mark
   * @param {number} number
   */
  block(id, mark, number) {
    const name = `${mark}:${number}`;
    const kept = this.blocks.get(name);
    if (kept !== undefined) return kept;
    this.blocks.set(name, null);
    if (this.blocks.size > 12) this.blocks.delete(this.blocks.keys().next().value);
    ask(`/projects/${id}/levels?start=${number * BLOCK}&count=${BLOCK}`)
      .then((data) => {
        this.blocks.set(name, data);
        this.schedule();
      })
      .catch(() => this.blocks.delete(name));
    return null;
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {number} width
   */
  paint(context, width) {
    this.view ||= this.source();
    const { tracks } = this.view;
    const read = this.reading();
    const at = (/** @type {number[] | undefined} */ row) => (read && row ? row[read.index] : LEAST_DB);
    tracks.forEach((/** @type {any} */ track, /** @type {number} */ index) => {
      const { level, peak } = (read && read.block.tracks[track.id]) || {};
      const number = `${shown(at(peak))} dBTP`;
      this.bar(context, width, index, track.name, [at(level)], this.colour(track.colour), number, at(peak));
    });
    const row = tracks.length;
    const sum = read ? read.block.sum : {};
    const [left, right] = [at(sum.left), at(sum.right)];
    this.bar(
      context,
      width,
      row,
      "Sum",
      [left, right],
      this.colour("ivory") || this.colour("ink"),
      `${shown(at(sum.peak))} dBTP`,
      at(sum.peak),
    );
    const loud = at(sum.short_term);
    this.bar(context, width, row + 1, "Short-term", [loud], this.colour("sea"), `${shown(loud)} LUFS`);
    this.alike(context, width, row + 2, read ? at(sum.correlation) : 0);
    this.loudness(context, width, (row + 3) * ROW + 8);
  }

  /**
   * The short-term loudness of all of it, and where the playhead is.
   * @param {CanvasRenderingContext2D} context
   * @param {number} width
   * @param {number} top
   */
  loudness(context, width, top) {
    const { id, mark, length } = this.view;
    const curve = mark ? this.curve(id, mark) : null;
    const [left, right] = [NAMES, width - NUMBERS];
    this.text(context, "Loudness", 4, top + 14, "ink");
    context.fillStyle = this.colour("felt-raised");
    context.beginPath();
    context.roundRect(left, top, right - left, CURVE, 4);
    context.fill();
    for (const lufs of [-14, -23]) {
      const y = top + levelPlace(lufs) * CURVE;
      context.fillStyle = this.colour("control-line");
      context.fillRect(left, y, right - left, 1);
      this.text(context, `${lufs} LUFS`.replace("-", "−"), width - 4, y + 4, "dim", "end");
    }
    if (!curve) return;
    context.strokeStyle = this.colour("sea");
    context.lineWidth = 1.6;
    context.beginPath();
    curve.forEach((/** @type {number} */ lufs, /** @type {number} */ index) => {
      context.lineTo(left + (index / (curve.length - 1)) * (right - left), top + levelPlace(lufs) * CURVE);
    });
    context.stroke();
    context.fillStyle = this.colour("brass");
    context.fillRect(left + (this.now / Math.max(length, 0.1)) * (right - left) - 1, top, 2, CURVE);
  }

  /**
   * @param {string} id
   * @param {string} mark
   */
  curve(id, mark) {
    if (this.curveOf !== mark) {
      this.curveOf = mark;
      ask(`/projects/${id}/loudness?count=400`)
        .then(({ lufs }) => {
          this.lufs = lufs;
          this.schedule();
        })
        .catch(() => {});
    }
    return this.lufs;
  }

  /** @type {(context: CanvasRenderingContext2D, width: number, row: number, name: string, ...rest: any[]) => any} */
  bar(context, width, row, name, levels, colour, number, peak = LEAST_DB) {
    const top = row * ROW + 4;
    const [left, right] = [NAMES, width - NUMBERS];
    const place = (/** @type {number} */ db) => left + clamp(1 - db / LEAST_DB, 0, 1) * (right - left);
    context.save();
    context.beginPath();
    context.rect(0, top - 4, NAMES - 8, ROW);
    context.clip();
    this.text(context, name, 4, top + 11, "ink");
    context.restore();
    context.fillStyle = this.colour("felt-raised");
    context.beginPath();
    context.roundRect(left, top, right - left, ROW - 8, 4);
    context.fill();
    context.fillStyle = colour;
    const height = (ROW - 8) / levels.length;
    levels.forEach((/** @type {number} */ db, /** @type {number} */ index) => {
      const end = place(db);
      if (end <= left + 1) return;
      context.beginPath();
      context.roundRect(
        left,
        top + index * height + (index ? 1 : 0),
        end - left,
        height - (levels.length > 1 ? 1 : 0),
        3,
      );
      context.fill();
    });
    // The true peak as a mark over the level; red where it is over full scale.
    if (peak > LEAST_DB) {
      context.fillStyle = this.colour(peak > 0 ? "coral" : "ink");
      context.fillRect(Math.min(place(Math.min(peak, 0)), right - 2) - 1, top, 2, ROW - 8);
    }
    this.text(context, number.replace("-", "−"), width - 4, top + 11, peak > 0 ? "coral" : "dim", "end");
  }

  /**
   * How alike left and right are: from opposite over nothing in common to the same.
   * @param {CanvasRenderingContext2D} context
   * @param {number} width
   * @param {number} row
   * @param {number} value
   */
  alike(context, width, row, value) {
    const top = row * ROW + 4;
    const [left, right] = [NAMES, width - NUMBERS];
    this.text(context, "Correlation", 4, top + 11, "ink");
    context.fillStyle = this.colour("felt-raised");
    context.beginPath();
    context.roundRect(left, top, right - left, ROW - 8, 4);
    context.fill();
    const middle = (left + right) / 2;
    const x = middle + (value * (right - left)) / 2;
    context.fillStyle = this.colour(value < 0 ? "coral" : "leaf");
    context.fillRect(Math.min(middle, x), top, Math.max(Math.abs(x - middle), 2), ROW - 8);
    this.text(context, value.toFixed(2).replace("-", "−"), width - 4, top + 11, "dim", "end");
  }
}

/** @param {number} db */
const shown = (db) => (db <= -89 ? "−∞" : db.toFixed(1));
