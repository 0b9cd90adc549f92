// The spectrum of the recording with the pickups on it: each as wide as its band and as tall as its level range.

import { ask } from "../lib/api.js";
import { clamp } from "../lib/numbers.js";
import { hertz, noteName } from "../lib/pitch.js";
import { CanvasView } from "./canvas_view.js";

const LOW = 20;
const HIGH = 20000;
const BLOCK = 240; // readings: four seconds
const EDGE = { left: 8, right: 46, top: 24, bottom: 24 };
/**
 * `source()` gives {key, channel, from, to (seconds of the recording), now, axis, pickups, chosen, top, view}.
 * `on` hears choose(id), drag(id, changes), placed(id, changes).
 */
export class Spectrum extends CanvasView {
  constructor(canvas, source, on) {
    super(canvas);
    Object.assign(this, { source, on });
    this.blocks = new Map();
    this.pictures = new Map();
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
  x(hz) {
    return this.inner.x + (Math.log(clamp(hz, 5, 40000) / LOW) / Math.log(HIGH / LOW)) * this.inner.width;
  }
  hz(x) {
    return LOW * (HIGH / LOW) ** ((x - this.inner.x) / this.inner.width);
  }
  y(db) {
    return this.inner.y + ((this.levels.top - db) / (this.levels.top - this.levels.bottom)) * this.inner.height;
  }
  db(y) {
    return this.levels.top - ((y - this.inner.y) / this.inner.height) * (this.levels.top - this.levels.bottom);
  }

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
    if (this.pointer && source.view === "now") this.paintPointer(context, width, height);
  }

  paintGrid(context, width, height, inner) {
    context.lineWidth = 1;
    for (const hz of [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000]) {
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
    for (let db = Math.floor(top / 12) * 12; db > bottom; db -= 12) {
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

  paintSound(context, source, inner) {
    const range = this.range(source);
    const floor = inner.y + inner.height;
    const across = source.axis.map((hz) => this.x(hz));
    const at = (values) => values.map((db, index) => [across[index], clamp(this.y(db), inner.y - 20, floor)]);
    if (range) {
      const average = at(range.average);
      this.fill(context, [[average[0][0], floor], ...average, [average[average.length - 1][0], floor]], "dim", 0.22);
      context.setLineDash([3, 4]);
      this.line(context, at(range.loudest), "control-line", 1.2);
      context.setLineDash([]);
    }
    const now = this.now(source);
    if (now) this.line(context, at([...now].map((code) => code / 100)), "ink", 1.8);
  }

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
    for (const [x, y, wide] of [
      [left, (top + bottom) / 2, false],
      [right, (top + bottom) / 2, false],
      [(left + right) / 2, top, true],
      [(left + right) / 2, bottom, true],
    ]) {
      context.beginPath();
      context.roundRect(x - (wide ? 13 : 3.5), y - (wide ? 3.5 : 13), wide ? 26 : 7, wide ? 7 : 26, 3.5);
      context.fill();
    }
  }

  paintPointer(context, width, height) {
    const hz = this.hz(this.pointer.x);
    if (hz < LOW || hz > HIGH) return;
    const words = `${hertz(hz)} · ${noteName(hz)} · ${this.db(this.pointer.y).toFixed(0).replace("-", "−")} dB`;
    this.text(context, words, width - EDGE.right - 4, 14, "ink", "end");
  }

  paintSpectrogram(context, source, inner) {
    const span = source.view === "whole" ? [source.from, source.to] : [source.now - 4, source.now + 4];
    const [width, height] = [Math.round(inner.width), Math.round(inner.height)];
    const bitmap = source.view === "whole" ? this.picture(source, span[0], span[1], width, height) : null;
    if (bitmap) context.drawImage(bitmap, inner.x, inner.y, inner.width, inner.height);
    if (source.view === "rolling") {
      // Pieces of four seconds on a fixed grid, so that they can be kept while the picture moves past.
      context.save();
      context.beginPath();
      context.rect(inner.x, inner.y, inner.width, inner.height);
      context.clip();
      for (let piece = Math.floor(span[0] / 4); piece * 4 < span[1]; piece += 1) {
        if (piece < 0 || piece * 4 > source.to) continue;
        const part = this.picture(source, piece * 4, piece * 4 + 4, Math.ceil(width / 2), height);
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

  picture(source, from, to, width, height) {
    const floor = Math.round(this.levels.bottom + 6);
    const name = [source.key, source.channel, from, to, width, height, floor].join(":");
    const found = this.pictures.get(name);
    if (found) return found === true ? null : found;
    this.pictures.set(name, true);
    if (this.pictures.size > 40) this.pictures.delete(this.pictures.keys().next().value);
    const query = new URLSearchParams({ from, to, width, height, floor, channel: source.channel });
    ask(`/sounds/${source.key}/spectrogram?${query}`, { bytes: true })
      .then((bytes) => createImageBitmap(new Blob([bytes], { type: "image/png" })))
      .then((bitmap) => {
        this.pictures.set(name, bitmap);
        this.draw();
      })
      .catch(() => this.pictures.delete(name));
    return null;
  }

  range(source) {
    const name = [source.key, source.channel, source.from, source.to].join(":");
    if (!this.ranged || this.ranged.name !== name) {
      this.ranged = { name, before: this.ranged && this.ranged.data };
      const asked = this.ranged;
      const query = new URLSearchParams({ from: source.from, to: source.to, channel: source.channel });
      ask(`/sounds/${source.key}/spectrum?${query}`)
        .then((data) => {
          asked.data = data;
          this.draw();
        })
        .catch(() => {});
    }
    return this.ranged.data || this.ranged.before;
  }

  /** What sounds at the playhead: the reading nearest to it. */
  now(source) {
    const reading = Math.max(0, Math.round(source.now * 60));
    const number = Math.floor(reading / BLOCK);
    const get = (block) => {
      const name = [source.key, source.channel, block].join(":");
      if (!this.blocks.has(name)) {
        this.blocks.set(name, null);
        if (this.blocks.size > 30) this.blocks.delete(this.blocks.keys().next().value);
        const query = new URLSearchParams({ start: block * BLOCK, count: BLOCK, channel: source.channel });
        ask(`/sounds/${source.key}/spectra?${query}`, { bytes: true })
          .then((bytes) => {
            this.blocks.set(name, new Int16Array(bytes));
            this.draw();
          })
          .catch(() => this.blocks.delete(name));
      }
      return this.blocks.get(name);
    };
    const values = get(number);
    if (reading % BLOCK > BLOCK / 2) get(number + 1);
    if (!values) return this.last || null;
    const size = source.axis.length;
    this.last = values.subarray((reading % BLOCK) * size, ((reading % BLOCK) + 1) * size);
    return this.last;
  }

  /** What a press at a place takes hold of: a side of the chosen pickup, its middle, or another pickup. */
  hold(x, y) {
    const source = this.source();
    const chosen = source.pickups.find((pickup) => pickup.id === source.chosen);
    const boxOf = (pickup) => ({
      left: this.x(pickup.low_hz),
      right: this.x(pickup.high_hz),
      top: this.y(pickup.loud_db),
      bottom: this.y(pickup.quiet_db),
    });
    if (chosen) {
      const box = boxOf(chosen);
      const inRows = y > box.top - 12 && y < box.bottom + 12;
      const inColumns = x > box.left - 12 && x < box.right + 12;
      const near = [
        ["left", Math.abs(x - box.left), inRows],
        ["right", Math.abs(x - box.right), inRows],
        ["top", Math.abs(y - box.top), inColumns],
        ["bottom", Math.abs(y - box.bottom), inColumns],
      ]
        .filter(([, distance, along]) => along && distance < 9)
        .sort((a, b) => a[1] - b[1])[0];
      if (near) return { side: near[0], pickup: chosen };
      if (x > box.left && x < box.right && y > box.top && y < box.bottom) return { side: "all", pickup: chosen };
    }
    const other = source.pickups.find((pickup) => {
      const box = boxOf(pickup);
      return x > box.left - 3 && x < box.right + 3 && y > box.top - 16 && y < box.bottom + 3;
    });
    return other ? { side: "choose", pickup: other } : null;
  }

  changes(drag, x, y) {
    const { pickup, side } = drag;
    const tidy = (hz) =>
      hz < 100 ? Math.round(hz * 10) / 10 : hz < 1000 ? Math.round(hz) : Math.round(hz / 10) * 10;
    const half = (db) => Math.round(db * 2) / 2;
    const limit = this.source().nyquist;
    if (side === "left") return { low_hz: tidy(clamp(this.hz(x), 10, pickup.high_hz * 0.97)) };
    if (side === "right") return { high_hz: tidy(clamp(this.hz(x), pickup.low_hz * 1.03, limit)) };
    if (side === "top") return { loud_db: half(clamp(this.db(y), pickup.quiet_db + 1, 30)) };
    if (side === "bottom") return { quiet_db: half(clamp(this.db(y), -120, pickup.loud_db - 1)) };
    const ratio = clamp(this.hz(x) / this.hz(drag.x), 10 / pickup.low_hz, limit / pickup.high_hz);
    const by = clamp(half(this.db(y) - this.db(drag.y)), -120 - pickup.quiet_db, 30 - pickup.loud_db);
    return {
      low_hz: tidy(pickup.low_hz * ratio),
      high_hz: tidy(pickup.high_hz * ratio),
      quiet_db: pickup.quiet_db + by,
      loud_db: pickup.loud_db + by,
    };
  }

  listen() {
    const { canvas } = this;
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0 || this.source().view !== "now") return;
      const { x, y } = this.place(event);
      const held = this.hold(x, y);
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
        if (this.drag.moved) this.on.drag(this.drag.pickup.id, this.changes(this.drag, x, y));
      } else {
        const held = this.source().view === "now" ? this.hold(x, y) : null;
        canvas.style.cursor =
          {
            left: "ew-resize",
            right: "ew-resize",
            top: "ns-resize",
            bottom: "ns-resize",
            all: "move",
            choose: "pointer",
          }[held && held.side] || "default";
      }
      this.draw();
    });
    const end = (event) => {
      if (this.drag && this.drag.moved) {
        const { x, y } = this.place(event);
        this.on.placed(this.drag.pickup.id, this.changes(this.drag, x, y));
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
