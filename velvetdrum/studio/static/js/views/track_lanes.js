// Tracks as lanes: waveforms in their places, moved, trimmed, looped and faded by dragging; how far each goes down.

import { ask } from "../lib/api.js";
import { clamp } from "../lib/numbers.js";
import { begun, ended, moved } from "../lib/track_places.js";
import { pointsMoved, withPoint, withPointAt, withoutPoint } from "../lib/gain_points.js";
import { paintDucked, paintFades } from "./lane_painting.js";
import { gainOf, paintGain, pointUnder } from "./gain_line.js";
import { TimedCanvas } from "./timed_canvas.js";

export const LANE = 64;
const GAP = 6;
const EDGE = 7;
const FADE_GRIP = 12;
const SNAP_PX = 7;

/**
 * `source()` gives {seen, now, inS, length, tracks: {id, name, colour, media, place, whole, heard, gain, fadeIn,
 * fadeOut, points}, chosen, marks, gains}; `on` hears choose(id), drag(id, place), placed(id, place, label) and
 * seek(second). Places are seconds of the timeline, marks and now of the project.
 */
export class TrackLanes extends TimedCanvas {
  /** @type {any} what the pointer holds */
  drag = null;
  waves = new Map();

  /** @param {number} index */
  top(index) {
    return GAP / 2 + index * LANE;
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {number} width
   */
  paint(context, width) {
    const source = this.read();
    const { seen, inS, length } = source;
    const [usedFrom, usedTo] = [this.x(0), this.x(length)];
    source.tracks.forEach((/** @type {any} */ track, /** @type {number} */ index) => {
      const place =
        this.drag && this.drag.track.id === track.id ? { ...track.place, ...this.drag.last } : track.place;
      const top = this.top(index);
      const height = LANE - GAP;
      const [left, right] = [this.x(place.at_s - inS), this.x(place.at_s + place.length_s - inS)];
      context.globalAlpha = 0.5;
      context.fillStyle = this.colour("felt-raised");
      context.beginPath();
      context.roundRect(usedFrom, top, Math.max(usedTo - usedFrom, 2), height, 8);
      context.fill();
      context.globalAlpha = 1;
      context.save();
      context.beginPath();
      context.roundRect(left, top, Math.max(right - left, 2), height, 8);
      context.clip();
      context.fillStyle = this.colour(track.colour);
      context.globalAlpha = track.heard ? 0.2 : 0.07;
      context.fillRect(left, top, right - left, height);
      context.globalAlpha = track.heard ? 0.9 : 0.3;
      this.wave(context, track, place, top, height, width);
      context.globalAlpha = 1;
      paintFades(
        this,
        context,
        place,
        { ...track, ...(this.drag && this.drag.fades), id: track.id },
        top,
        height,
        index,
      );
      context.restore();
      paintDucked(this, context, track, place, top, height);
      const held = this.drag && this.drag.track.id === track.id ? this.drag : null;
      paintGain(context, {
        points: this.pointsOf(track, held),
        x: (/** @type {number} */ second) => this.x(second - inS),
        ...{ left, right, top, height, colour: this.colour("ink"), chosen: track.id === source.chosen },
      });
      if (track.id === source.chosen) {
        context.strokeStyle = this.colour("brass");
        context.lineWidth = 1.6;
        context.beginPath();
        context.roundRect(left + 0.8, top + 0.8, Math.max(right - left - 1.6, 2), height - 1.6, 8);
        context.stroke();
      }
      this.text(context, track.name, clamp(left + 8, 6, Math.max(right - 30, 6)), top + 16, "ink", "start", 600);
    });
    this.playhead.place(this.x(source.now), 0, this.width);
    this.seenBefore = seen;
  }

  /**
   * Points of a track's gain, as they are while it is dragged.
   * @param {any} track
   * @param {any} held
   */
  pointsOf(track, held) {
    if (held && held.last.gain) return held.last.gain;
    const by = held && held.what === "move" ? (held.last.at_s ?? track.place.at_s) - track.place.at_s : 0;
    return by ? pointsMoved(track.points, by) : track.points;
  }

  /** @type {(context: CanvasRenderingContext2D, track: any, place: any, ...box: number[]) => any} */
  wave(context, track, place, top, height, width) {
    const { seen, inS } = this.view;
    const period = place.out_s - place.in_s;
    const middle = top + height / 2 + 6;
    const half = (height - 18) / 2;
    for (let turn = 0; turn * period < place.length_s - 1e-9; turn += 1) {
      const begin = place.at_s + turn * period;
      const size = Math.min(period, place.length_s - turn * period);
      const low = Math.max(seen.start + inS, begin);
      const high = Math.min(seen.start + seen.span + inS, begin + size);
      if (high <= low) continue;
      if (turn) context.fillRect(this.x(begin - inS), top, 1, height);
      const columns = Math.max(2, Math.min(2048, Math.round(((high - low) / seen.span) * width)));
      const table = this.table(track.media, place.in_s + low - begin, place.in_s + high - begin, columns);
      if (!table) continue;
      const [from, to] = [this.x(low - inS), this.x(high - inS)];
      const step = (to - from) / columns;
      const factor = track.gain / 32767;
      for (let i = 0; i < table.length / 3; i += 1) {
        const up = clamp(table[i * 3 + 1] * factor, -1, 1) * half;
        const down = clamp(table[i * 3] * factor, -1, 1) * half;
        context.fillRect(from + i * step, middle - up, Math.max(step, 0.8), Math.max(up - down, 1));
      }
    }
  }

  /**
   * Columns of a recording between two of its seconds; null until they came.
   * @param {string} media
   * @param {number} from
   * @param {number} to
   * @param {number} columns
   */
  table(media, from, to, columns) {
    const name = `${media}:${from.toFixed(4)}:${to.toFixed(4)}:${columns}`;
    const kept = this.waves.get(name);
    if (kept !== undefined) return kept;
    this.waves.set(name, null);
    if (this.waves.size > 80) this.waves.delete(this.waves.keys().next().value);
    ask(`/sounds/${media}/wave?from=${from}&to=${to}&columns=${columns}`, { bytes: true })
      .then((bytes) => {
        this.waves.set(name, new Int16Array(bytes));
        this.draw();
      })
      .catch(() => {});
    return null;
  }

  /**
   * What lies under a point: a fade's end, an end or the body of a track, or nothing.
   * @param {{ x: number, y: number }} point
   */
  hit({ x, y }) {
    const { tracks, inS, chosen } = this.read();
    const index = Math.floor((y - GAP / 2) / LANE);
    const track = tracks[index];
    if (!track) return { what: "nothing" };
    const { at_s, length_s } = track.place;
    const [left, right] = [this.x(at_s - inS), this.x(at_s + length_s - inS)];
    const inEnd = clamp(this.x(at_s + track.fadeIn - inS), left + 5, right - 5);
    const outBegin = clamp(this.x(at_s + length_s - track.fadeOut - inS), left + 5, right - 5);
    if (track.id === chosen && y - this.top(index) < FADE_GRIP) {
      if (Math.abs(x - inEnd) < EDGE) return { what: "fade-in", track };
      if (Math.abs(x - outBegin) < EDGE) return { what: "fade-out", track };
    }
    const point = track.id === chosen ? this.pointAt(track, index, { x, y }) : -1;
    if (point >= 0) return { what: "point", point, track };
    if (Math.abs(x - left) < EDGE) return { what: "begin", track };
    if (Math.abs(x - right) < EDGE) return { what: "end", track };
    return x > left && x < right ? { what: "move", track } : { what: "nothing" };
  }

  /** @type {(track: any, index: number, place: {x: number, y: number}) => number} */
  pointAt(track, index, { x, y }) {
    const { inS } = this.view;
    const at = (/** @type {number} */ second) => this.x(second - inS);
    return pointUnder(track.points, at, { x, y: y - this.top(index) }, LANE - GAP);
  }

  /**
   * A double press: a point of the gain more, or one less.
   * @param {{ x: number, y: number }} place
   */
  double(place) {
    const { what, track, point } = this.hit(place);
    if (what === "point") this.on.placed(track.id, { gain: withoutPoint(track.points, Number(point)) }, "gain");
    else if (what === "move")
      this.on.placed(track.id, { gain: withPoint(track.points, this.second(place.x) + this.view.inS) }, "gain");
  }

  /**
   * A shift drawn to where one of the moving ends meets a mark.
   * @param {number} by
   * @param {number[]} ends seconds of the timeline
   */
  snapped(by, ends) {
    const { marks, inS, seen } = this.view;
    const near = (SNAP_PX / this.width) * seen.span;
    let best = by;
    let least = near;
    for (const mark of marks)
      for (const end of ends) {
        const away = mark + inS - end - by;
        if (Math.abs(away) < least) [least, best] = [Math.abs(away), by + away];
      }
    return best;
  }

  /**
   * @param {{ x: number, y: number }} place
   * @param {boolean} free
   */
  changed(place, free) {
    const { what, track, begin } = this.drag;
    const by = this.second(place.x) - this.second(begin.x);
    const [from, to] = [track.place.at_s, track.place.at_s + track.place.length_s];
    const snap = (/** @type {number[]} */ ends) => (free ? by : this.snapped(by, ends));
    if (what === "point") {
      const index = this.view.tracks.findIndex((/** @type {any} */ other) => other.id === track.id);
      const gain = gainOf(place.y - this.top(index), LANE - GAP);
      const second = track.points[this.drag.point].time_s + snap([track.points[this.drag.point].time_s]);
      return { gain: withPointAt(track.points, this.drag.point, second, gain) };
    }
    if (what === "move") return moved(track.place, snap([from, to]));
    if (what === "begin") return begun(track.place, snap([from]));
    if (what === "end") return ended(track.place, snap([to]), track.whole);
    const most = track.place.length_s;
    const fade = what === "fade-in" ? track.fadeIn + by : track.fadeOut - by;
    const value = Math.round(clamp(fade, 0, Math.min(most, 60)) * 100) / 100;
    this.drag.fades = what === "fade-in" ? { fadeIn: value } : { fadeOut: value };
    return { settings: what === "fade-in" ? { fade_in_s: value } : { fade_out_s: value } };
  }

  listen() {
    const { canvas } = this;
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      canvas.setPointerCapture(event.pointerId);
      const begin = this.place(event);
      const under = this.hit(begin);
      if (under.track) this.on.choose(under.track.id);
      else this.on.seek(clamp(this.second(begin.x), 0, this.read().length));
      this.drag = under.track ? { ...under, begin, last: {} } : null;
    });
    canvas.addEventListener("pointermove", (event) => {
      const place = this.place(event);
      const { drag } = this;
      if (!drag) {
        const { what } = this.hit(place);
        const shapes = { begin: "ew-resize", end: "ew-resize", move: "grab", point: "move", "fade-in": "ew-resize" };
        canvas.style.cursor =
          /** @type {Record<string, any>} */ ({ ...shapes, "fade-out": "ew-resize" })[what] || "default";
        return;
      }
      if (!drag.moved && Math.hypot(place.x - drag.begin.x, place.y - drag.begin.y) < 3) return;
      drag.moved = true;
      drag.last = this.changed(place, event.altKey);
      this.draw();
    });
    canvas.addEventListener("pointerup", () => {
      const { drag } = this;
      this.drag = null;
      const labels = { move: "moved", begin: "begin", end: "end", point: "gain" };
      if (drag && drag.moved)
        this.on.placed(drag.track.id, drag.last, /** @type {Record<string, any>} */ (labels)[drag.what] || "fade");
    });
    canvas.addEventListener("dblclick", (event) => this.double(this.place(event)));
    canvas.addEventListener("pointercancel", () => {
      this.drag = null;
      this.draw();
    });
  }
}
