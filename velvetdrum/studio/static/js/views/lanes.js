// The lanes of the strip: when each layer is there, its fades and its keyframes; dragged, trimmed and picked.

import { clamp } from "../lib/numbers.js";
import { clock } from "../lib/time.js";
import { TimedCanvas } from "./timed_canvas.js";

export const ROW = 17;
const INSET = 2;
const EDGE = 7;
const KEY = 6;

/**
 * `source()` gives {rows, seen, now, length, markers, beats}; a row is {id, name, colour, on, from, to, fadeIn,
 * fadeOut, keys, locked, picked}. `on` hears pick(id, event), drag(id, change), placed(id, change, label),
 * pickKey(id, time, add), dragKeys(by), placeKeys(by), seek(second), snap(second, id) and scroll(by).
 */
export class Lanes extends TimedCanvas {
  /** @type {any} what the pointer holds */
  drag = null;

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {number} width
   * @param {number} height
   */
  paint(context, width, height) {
    const { rows, now, markers, beats, length } = this.read();
    for (const [time, first] of beats) {
      const x = Math.round(this.x(time)) + 0.5;
      if (!first || x < 0 || x > width) continue;
      context.globalAlpha = 0.3;
      this.line(
        context,
        [
          [x, 0],
          [x, height],
        ],
        "control-line",
      );
      context.globalAlpha = 1;
    }
    rows.forEach((/** @type {any} */ row, /** @type {number} */ index) =>
      this.paintRow(context, row, index * ROW, width),
    );
    for (const marker of markers) {
      const x = Math.round(this.x(marker.time_s)) + 0.5;
      context.globalAlpha = 0.8;
      this.line(
        context,
        [
          [x, 0],
          [x, height],
        ],
        "sky",
        1,
      );
      context.globalAlpha = 1;
    }
    const end = this.x(length);
    if (end < width) {
      context.globalAlpha = 0.6;
      context.fillStyle = this.colour("pit");
      context.fillRect(end, 0, width - end, height);
      context.globalAlpha = 1;
    }
    this.follow(now, null);
    if (this.drag && this.drag.told)
      this.text(
        context,
        this.drag.told,
        clamp(this.drag.x, 70, width - 70),
        clamp(this.drag.y - 8, 12, height),
        "ink",
        "center",
        600,
      );
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {any} row
   * @param {any} top
   * @param {number} width
   */
  paintRow(context, row, top, width) {
    const [left, right] = [this.x(row.from), this.x(row.to)];
    const [y, high] = [top + INSET, ROW - 2 * INSET];
    const [a, b] = [clamp(left, -4, width + 4), clamp(right, -4, width + 4)];
    if (b > a) {
      context.globalAlpha = row.hidden ? 0.16 : row.on ? 0.5 : 0.3;
      context.fillStyle = this.colour(row.colour);
      // The bar as it fades: a slope at either end.
      const [rise, fall] = [this.x(row.from + row.fadeIn), this.x(row.to - row.fadeOut)];
      context.beginPath();
      context.moveTo(a, y + high);
      if (row.fadeIn > 0) context.lineTo(clamp(rise, a, b), y);
      else context.lineTo(a, y);
      if (row.fadeOut > 0) {
        context.lineTo(clamp(fall, a, b), y);
        context.lineTo(b, y + high);
      } else {
        context.lineTo(b, y);
        context.lineTo(b, y + high);
      }
      context.closePath();
      context.fill();
      context.globalAlpha = 1;
      context.strokeStyle = this.colour(row.on ? "ink" : row.colour);
      context.lineWidth = row.on ? 1.6 : 1;
      context.beginPath();
      context.roundRect(a + 0.5, y + 0.5, Math.max(b - a - 1, 1), high - 1, 5);
      context.stroke();
      if (row.on && !row.locked) {
        context.fillStyle = this.colour("ink");
        for (const x of [rise, fall]) {
          context.beginPath();
          context.arc(clamp(x, left + 3, right - 3), y + 1, 3.2, 0, 7);
          context.fill();
        }
      }
    }
    for (const time of row.keys) {
      const x = this.x(time);
      if (x < -8 || x > width + 8) continue;
      const picked = row.picked(time);
      this.diamond(context, x, y + high / 2, picked ? KEY + 1.5 : KEY, picked ? "brass" : "ink", "felt");
    }
  }

  /**
   * What lies under a point: a keyframe, a fade, an edge, a bar, or nothing.
   * @param {any} values
   */
  hit({ x, y }) {
    const { rows } = this.read();
    const index = Math.floor(y / ROW);
    const row = rows[index];
    if (!row) return { what: "nothing" };
    const top = index * ROW + INSET;
    const [left, right] = [this.x(row.from), this.x(row.to)];
    if (row.on && !row.locked && y < top + 5) {
      if (Math.abs(this.x(row.from + row.fadeIn) - x) < 6) return { what: "fadeIn", row };
      if (Math.abs(this.x(row.to - row.fadeOut) - x) < 6) return { what: "fadeOut", row };
    }
    const key = row.keys.find(
      (/** @type {number} */ time) =>
        Math.abs(this.x(time) - x) <= KEY + 2 && Math.abs(top + (ROW - 2 * INSET) / 2 - y) <= KEY + 3,
    );
    if (key !== undefined) return { what: "key", row, time: key };
    if (Math.abs(x - left) < EDGE) return { what: "from", row };
    if (Math.abs(x - right) < EDGE) return { what: "to", row };
    return x > left && x < right ? { what: "bar", row } : { what: "nothing", row };
  }

  /** @param {any} place */
  change(place) {
    const { drag } = this;
    const { length } = this.read();
    const by = this.second(place.x) - this.second(drag.begin.x);
    const { row } = drag;
    const snap = (/** @type {number} */ second) => this.on.snap(second, row.id);
    switch (drag.what) {
      case "from":
        return { from: clamp(snap(row.from + by), 0, row.to - 0.04) };
      case "to":
        return { to: clamp(snap(row.to + by), row.from + 0.04, length) };
      case "fadeIn":
        return { fadeIn: clamp(row.fadeIn + by, 0, Math.min(row.to - row.from, 60)) };
      case "fadeOut":
        return { fadeOut: clamp(row.fadeOut - by, 0, Math.min(row.to - row.from, 60)) };
      default: {
        const [long, want] = [row.to - row.from, clamp(row.from + by, 0, Math.max(0, length - (row.to - row.from)))];
        const start = snap(want);
        const end = snap(want + long) - long;
        const from =
          Math.abs(start - want) > 1e-9 &&
          (Math.abs(end - want) < 1e-9 || Math.abs(start - want) <= Math.abs(end - want))
            ? start
            : end;
        return {
          from: clamp(from, 0, Math.max(0, length - long)),
          to: clamp(from, 0, Math.max(0, length - long)) + long,
        };
      }
    }
  }

  listen() {
    const { canvas } = this;
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      canvas.setPointerCapture(event.pointerId);
      const begin = this.place(event);
      const found = this.hit(begin);
      if (found.row) this.on.pick(found.row.id, event);
      if (found.what === "key")
        this.on.pickKey(found.row.id, found.time, event.shiftKey || event.ctrlKey || event.metaKey);
      if (found.what === "nothing") {
        this.on.seek(clamp(this.second(begin.x), 0, this.read().length));
        this.drag = { what: "seek", begin };
      } else if (!found.row.locked) this.drag = { ...found, begin, x: begin.x, y: begin.y };
      this.draw();
    });
    canvas.addEventListener("pointermove", (event) => {
      const place = this.place(event);
      if (!this.drag) {
        const { what } = this.hit(place);
        canvas.style.cursor =
          {
            key: "pointer",
            bar: "grab",
            from: "ew-resize",
            to: "ew-resize",
            fadeIn: "col-resize",
            fadeOut: "col-resize",
          }[what] || "default";
        return;
      }
      const { drag } = this;
      if (drag.what === "seek") {
        this.on.seek(clamp(this.second(place.x), 0, this.read().length));
        return;
      }
      if (!drag.moved && Math.abs(place.x - drag.begin.x) < 3) return;
      drag.moved = true;
      drag.x = place.x;
      if (drag.what === "key") {
        drag.by = this.on.snap(drag.time + this.second(place.x) - this.second(drag.begin.x), drag.row.id) - drag.time;
        drag.told = clock(drag.time + drag.by, 2);
        this.on.dragKeys(drag.by);
      } else {
        drag.last = this.change(place);
        drag.told = Object.values(drag.last)
          .slice(0, 1)
          .map((value) => (drag.what.startsWith("fade") ? `${value.toFixed(2)} s` : clock(value, 2)))[0];
        this.on.drag(drag.row.id, drag.last);
      }
      this.draw();
    });
    const end = () => {
      const { drag } = this;
      this.drag = null;
      if (drag && drag.moved && drag.what === "key") this.on.placeKeys(drag.by);
      else if (drag && drag.moved && drag.last)
        this.on.placed(
          drag.row.id,
          drag.last,
          /** @type {Record<string, any>} */ ({ from: "trim", to: "trim", fadeIn: "fade in", fadeOut: "fade out" })[
            drag.what
          ] || "move in time",
        );
      this.draw();
    };
    canvas.addEventListener("pointerup", end);
    canvas.addEventListener("pointercancel", () => {
      this.drag = null;
      this.on.drag(null, null);
      this.draw();
    });
    canvas.addEventListener(
      "wheel",
      (event) => {
        if (event.ctrlKey || event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) return;
        event.preventDefault();
        this.on.scroll(Math.sign(event.deltaY));
      },
      { passive: false },
    );
  }
}
