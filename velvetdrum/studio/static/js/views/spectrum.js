// The spectrum of the recording with the pickups on it: each as wide as its band and as tall as its level range.

import { clamp } from "../lib/numbers.js";
import { hertz, noteName } from "../lib/pitch.js";
import { CanvasView } from "./canvas_view.js";
import { draggedTo, holdAt } from "./pickup_drag.js";
import { SpectrumData } from "./spectrum_data.js";

const LOW = 20;
const HIGH = 20000;
// Pixels below which the view has fewer numbers and smaller handles.
const SMALL = 150;
const EDGE = { left: 8, right: 46, top: 24, bottom: 24 };
/**
 * `source()` gives {key, channel, from, to (seconds of the recording), now, axis, pickups, chosen, top, view}.
 * `on` hears choose(id), drag(id, changes), placed(id, changes).
 */
export class Spectrum extends CanvasView {
  /** @type {any} what the pointer holds */
  drag = null;
  /** @type {any} where the pointer is */
  pointer = null;
  /** @type {any} places of the page, of the last drawing */
  inner;
  /** @type {any} dB at the top and the bottom */
  levels;

  /**
   * @param {HTMLCanvasElement} canvas
   * @param {any} source
   * @param {any} on
   */
  constructor(canvas, source, on) {
    super(canvas, source, on);
    this.data = new SpectrumData(() => this.draw());
    this.listen();
  }

  /** Where things stand, measured once a drawing: asking the page for sizes costs more than drawing. */
  measure() {
    const box = this.canvas.getBoundingClientRect();
    this.inner = {
      x: EDGE.left,
      y: EDGE.top,
      width: box.width - EDGE.left - EDGE.right,
      height: box.height - EDGE.top - EDGE.bottom,
    };
    const { top } = this.source();
    this.levels = { top, bottom: top - 84 };
  }
  /** @param {number} hz */
  x(hz) {
    return this.inner.x + (Math.log(clamp(hz, 5, 40000) / LOW) / Math.log(HIGH / LOW)) * this.inner.width;
  }
  /** @param {number} x */
  hz(x) {
    return LOW * (HIGH / LOW) ** ((x - this.inner.x) / this.inner.width);
  }
  /** @param {number} db */
  y(db) {
    return this.inner.y + ((this.levels.top - db) / (this.levels.top - this.levels.bottom)) * this.inner.height;
  }
  /** @param {number} y */
  db(y) {
    return this.levels.top - ((y - this.inner.y) / this.inner.height) * (this.levels.top - this.levels.bottom);
  }

  /** @type {(context: CanvasRenderingContext2D, width: number, height: number) => any} */
  paint(context, width, height) {
    this.measure();
    const source = this.source();
    const { inner } = this;
    if (source.view !== "now" && source.key) this.paintSpectrogram(context, source, inner);
    else this.paintGrid(context, width, height, inner);
    context.save();
    context.beginPath();
    context.rect(inner.x, 0, inner.width, height);
    context.clip();
    if (source.key && source.view === "now") this.paintSound(context, source, inner);
    if (source.view === "now")
      for (const pickup of source.pickups) this.paintPickup(context, pickup, pickup.id === source.chosen);
    context.restore();
    if (!source.key)
      this.text(context, "No sound yet: drop a song or a voice on the page.", width / 2, height / 2, "dim", "middle");
    if (this.pointer && source.view === "now") this.paintPointer(context, width, source);
  }

  /** @type {(context: CanvasRenderingContext2D, width: number, height: number, inner: any) => any} */
  paintGrid(context, width, height, inner) {
    context.lineWidth = 1;
    const small = height < SMALL;
    for (const hz of small ? [63, 250, 1000, 4000] : [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000]) {
      const x = Math.round(this.x(hz)) + 0.5;
      context.globalAlpha = 0.55;
      this.line(
        context,
        [
          [x, inner.y],
          [x, inner.y + inner.height],
        ],
        "seam",
      );
      context.globalAlpha = 1;
      const name = hz >= 1000 ? `${hz / 1000} k` : String(Math.round(hz));
      this.text(context, name, x, height - 8, "dim", "center");
    }
    const { top, bottom } = this.levels;
    const step = small ? 24 : 12;
    for (let db = Math.floor(top / step) * step; db > bottom; db -= step) {
      const y = Math.round(this.y(db)) + 0.5;
      context.globalAlpha = 0.45;
      this.line(
        context,
        [
          [inner.x, y],
          [inner.x + inner.width, y],
        ],
        "seam",
      );
      context.globalAlpha = 1;
      this.text(context, `${db} dB`.replace("-", "−"), width - 4, y + 4, "dim", "end");
    }
  }

  /** @type {(context: CanvasRenderingContext2D, source: any, inner: any) => any} */
  paintSound(context, source, inner) {
    const range = this.data.range(source);
    const floor = inner.y + inner.height;
    const across = source.axis.map((/** @type {number} */ hz) => this.x(hz));
    const at = (/** @type {Values} */ values) =>
      values.map((/** @type {number} */ db, /** @type {number} */ index) => [
        across[index],
        clamp(this.y(db), inner.y - 20, floor),
      ]);
    if (range) {
      const average = at(range.average);
      this.fill(context, [[average[0][0], floor], ...average, [average[average.length - 1][0], floor]], "dim", 0.22);
      context.setLineDash([3, 4]);
      this.line(context, at(range.loudest), "control-line", 1.2);
      context.setLineDash([]);
    }
    const now = this.data.now(source);
    if (now) this.line(context, at([...now].map((code) => code / 100)), "ink", 1.8);
  }

  /** @type {(context: CanvasRenderingContext2D, pickup: any, chosen: any) => any} */
  paintPickup(context, pickup, chosen) {
    const [left, right, top, bottom] = [
      this.x(pickup.low_hz),
      this.x(pickup.high_hz),
      this.y(pickup.loud_db),
      this.y(pickup.quiet_db),
    ];
    const colour = this.colour(pickup.colour);
    context.globalAlpha = chosen ? 0.24 : 0.1;
    context.fillStyle = colour;
    context.beginPath();
    context.roundRect(left, top, Math.max(right - left, 2), Math.max(bottom - top, 2), 7);
    context.fill();
    context.globalAlpha = 1;
    context.strokeStyle = colour;
    context.lineWidth = chosen ? 2.2 : 1.3;
    context.stroke();
    const middle = clamp((left + right) / 2, EDGE.left + 20, this.inner.x + this.inner.width - 20);
    this.text(context, pickup.name, middle, Math.max(top - 7, 13), this.inkOf(pickup.colour), "center", 600);
    if (pickup.heard !== null && chosen) {
      const y = clamp(this.y(pickup.heard), this.inner.y, this.inner.y + this.inner.height);
      context.fillStyle = colour;
      context.fillRect(left, y - 1.5, right - left, 3);
    }
    if (!chosen) return;
    context.fillStyle = colour;
    const grips = [
      { x: left, y: (top + bottom) / 2, wide: false },
      { x: right, y: (top + bottom) / 2, wide: false },
      { x: (left + right) / 2, y: top, wide: true },
      { x: (left + right) / 2, y: bottom, wide: true },
    ];
    const [far, near] = this.inner.height < SMALL ? [6, 2.5] : [13, 3.5];
    for (const { x, y, wide } of grips) {
      const [w, h] = wide ? [far, near] : [near, far];
      context.beginPath();
      context.roundRect(x - w, y - h, 2 * w, 2 * h, near);
      context.fill();
    }
  }

  /** @type {(context: CanvasRenderingContext2D, width: number, source: any) => any} */
  paintPointer(context, width, source) {
    const hz = this.hz(this.pointer.x);
    if (hz < LOW || hz > HIGH) return;
    const here = `${hertz(hz)} · ${noteName(hz)} · ${this.db(this.pointer.y).toFixed(0)} dB`;
    const words = `${here}${this.data.levelsText(source, hz)}`.replaceAll("-", "−");
    this.text(context, words, width - EDGE.right - 4, 14, "ink", "end");
  }

  /** @type {(context: CanvasRenderingContext2D, source: any, inner: any) => any} */
  paintSpectrogram(context, source, inner) {
    const span = source.view === "whole" ? [source.from, source.to] : [source.now - 4, source.now + 4];
    const [width, height] = [Math.round(inner.width), Math.round(inner.height)];
    const floor = Math.round(this.levels.bottom + 6);
    const bitmap = source.view === "whole" ? this.data.picture(source, span[0], span[1], width, height, floor) : null;
    if (bitmap) context.drawImage(bitmap, inner.x, inner.y, inner.width, inner.height);
    if (source.view === "rolling") {
      // Pieces of four seconds on a fixed grid, so that they can be kept while the picture moves past.
      context.save();
      context.beginPath();
      context.rect(inner.x, inner.y, inner.width, inner.height);
      context.clip();
      for (let piece = Math.floor(span[0] / 4); piece * 4 < span[1]; piece += 1) {
        if (piece < 0 || piece * 4 > source.to) continue;
        const part = this.data.picture(source, piece * 4, piece * 4 + 4, Math.ceil(width / 2), height, floor);
        const x = inner.x + ((piece * 4 - span[0]) / 8) * inner.width;
        if (part) context.drawImage(part, x, inner.y, inner.width / 2 + 1, inner.height);
      }
      context.restore();
    }
    for (const hz of [63, 250, 1000, 4000, 16000]) {
      const y = inner.y + inner.height * (1 - Math.log(hz / LOW) / Math.log(HIGH / LOW));
      this.text(
        context,
        hz >= 1000 ? `${hz / 1000} kHz` : `${hz} Hz`,
        this.canvas.getBoundingClientRect().width - 2,
        y + 4,
        "dim",
        "end",
      );
    }
    for (const pickup of source.pickups) {
      const band = [pickup.low_hz, pickup.high_hz].map(
        (hz) => inner.y + inner.height * (1 - Math.log(clamp(hz, LOW, HIGH) / LOW) / Math.log(HIGH / LOW)),
      );
      context.fillStyle = this.colour(pickup.colour);
      context.fillRect(inner.x, band[1], 4, band[0] - band[1]);
      context.font = '600 12px "Work Sans", sans-serif';
      context.fillStyle = "#120a11cc";
      context.fillRect(inner.x + 6, (band[0] + band[1]) / 2 - 9, context.measureText(pickup.name).width + 8, 18);
      this.text(context, pickup.name, inner.x + 10, (band[0] + band[1]) / 2 + 4, pickup.colour, "start", 600);
    }
    const now = inner.x + ((source.now - span[0]) / (span[1] - span[0])) * inner.width;
    context.fillStyle = this.colour("brass");
    context.fillRect(now - 1, inner.y, 2, inner.height);
  }

  listen() {
    const { canvas } = this;
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0 || this.source().view !== "now") return;
      const { x, y } = this.place(event);
      const held = holdAt(this, this.source(), x, y);
      if (!held) return;
      if (held.side === "choose") {
        this.on.choose(held.pickup.id);
        return;
      }
      canvas.setPointerCapture(event.pointerId);
      this.drag = { ...held, x, y, moved: false };
    });
    canvas.addEventListener("pointermove", (event) => {
      const { x, y } = this.place(event);
      this.pointer = { x, y };
      if (this.drag) {
        this.drag.moved ||= Math.hypot(x - this.drag.x, y - this.drag.y) > 2;
        if (this.drag.moved) this.on.drag(this.drag.pickup.id, draggedTo(this, this.source(), this.drag, x, y));
      } else {
        const held = this.source().view === "now" ? holdAt(this, this.source(), x, y) : null;
        canvas.style.cursor =
          /** @type {Record<string, any>} */ ({
            left: "ew-resize",
            right: "ew-resize",
            top: "ns-resize",
            bottom: "ns-resize",
            all: "move",
            choose: "pointer",
          })[held ? held.side : ""] || "default";
      }
      this.draw();
    });
    const end = (/** @type {PressEvent} */ event) => {
      if (this.drag && this.drag.moved) {
        const { x, y } = this.place(event);
        this.on.placed(this.drag.pickup.id, draggedTo(this, this.source(), this.drag, x, y));
      }
      this.drag = null;
    };
    canvas.addEventListener("pointerup", end);
    canvas.addEventListener("pointercancel", () => {
      this.drag = null;
      this.on.drag(null, {});
    });
    canvas.addEventListener("pointerleave", () => {
      this.pointer = null;
      this.draw();
    });
  }
}
