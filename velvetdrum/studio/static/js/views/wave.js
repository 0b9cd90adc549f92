// The waveform on a canvas: peaks with the RMS inside, from the server's pyramid, at any zoom down to samples.

import { ask } from "../lib/api.js";
import { clamp } from "../lib/numbers.js";
import { Playhead } from "./playhead.js";
import { GRIPS_HEIGHT, LANE_HEIGHT, paintStrip } from "./wave_painting.js";

const RATE = 48000;

/**
 * A canvas over a stretch of seconds. `source()` gives what to draw:
 * {key, length, offset, from, to, loop, handles, beats, lanes}; times in seconds of the canvas' own axis, `offset`
 * leads to the recording's. `lanes` are curves under the waveform: {colour, from, to, high, mark}. `on` hears seek,
 * loop, handle and handleEnd.
 */
export class Wave {
  /** @type {any} what the pointer holds */
  drag = null;

  /**
   * @param {HTMLCanvasElement} canvas
   * @param {() => any} source
   * @param {Record<string, (...values: any[]) => any>} on
   */
  constructor(canvas, source, on) {
    this.__v_skip = true; // Alpine then leaves the object as it is: clocks and canvases must not be wrapped
    this.canvas = canvas;
    this.source = source;
    this.on = on;
    // What has been played is a second canvas over the first, cut off at the playhead.
    this.played = document.createElement("canvas");
    this.played.className = "played";
    this.played.setAttribute("aria-hidden", "true");
    canvas.after(this.played);
    this.playhead = new Playhead(canvas, true);
    this.start = 0;
    this.span = 0; // 0: everything
    this.now = 0;
    this.tables = new Map();
    this.listen();
    // What a canvas measures is told when it changes: asking for it on each drawing makes the page be laid out anew.
    new ResizeObserver(() => {
      this.box = canvas.getBoundingClientRect();
      this.draw();
    }).observe(canvas);
    window.addEventListener("velvet-theme", () => this.draw());
  }

  /** The stretch that is shown: start and span in seconds. */
  get seen() {
    const { length } = this.view || this.source();
    const span = this.span ? Math.min(this.span, length) : length;
    return { start: clamp(this.start, 0, Math.max(0, length - span)), span: Math.max(span, 1e-4) };
  }

  /**
   * @param {number} factor
   * @param {number} [at]
   */
  zoom(factor, at) {
    const { length } = this.source();
    const { start, span } = this.seen;
    const middle = at ?? clamp(this.now, start, start + span);
    const next = clamp(span * factor, 24 / RATE, length);
    this.start = middle - ((middle - start) / span) * next;
    this.span = next >= length ? 0 : next;
    this.draw();
  }

  all() {
    this.span = 0;
    this.draw();
  }

  /**
   * The playhead is at a second; kept in sight while playing.
   * @param {number} now
   */
  follow(now) {
    this.now = now;
    const { start, span } = this.seen;
    if (this.span && (now < start || now > start + span * 0.95)) {
      this.start = now - span * 0.08;
      this.draw();
    }
    this.movePlayhead();
  }

  movePlayhead() {
    if (!this.box || this.box.width < 2) return;
    const x = this.x(this.now, this.box.width);
    this.playhead.place(x, 0, this.box.width);
    this.played.style.clipPath = `inset(0 ${this.box.width - clamp(x, 0, this.box.width)}px 0 0)`;
  }

  /**
   * @param {number} second
   * @param {number} width
   */
  x(second, width) {
    const { start, span } = this.seen;
    return ((second - start) / span) * width;
  }

  get secondsPerPixel() {
    return this.seen.span / Math.max(1, this.box ? this.box.width : 1);
  }

  /** Draw what there is now, with the next refresh of the screen. */
  draw() {
    /** @type {any} what there is, read once a drawing */
    this.view = null;
    if (this.pending) return;
    this.pending = requestAnimationFrame(() => {
      this.pending = null;
      this.paint();
    });
  }

  /** Painted in one pass, and only when something other than the time changed. */
  paint() {
    this.box ||= this.canvas.getBoundingClientRect();
    const { box } = this;
    if (box.width < 2) return;
    const scale = window.devicePixelRatio || 1;
    const [width, height] = [Math.round(box.width * scale), Math.round(box.height * scale)];
    this.view ||= this.source();
    const source = this.view;
    const { seen } = this;
    const table = source.key ? this.tableFor(width, source) : null;
    const ground = getComputedStyle(document.documentElement).getPropertyValue("--ground");
    const lanes = (source.lanes || []).map((/** @type {any} */ lane) => lane.mark).join();
    const marks = JSON.stringify([source.loop, source.markers || [], source.handles, source.beatMark]);
    const sizes = [width, height, seen.start, seen.span, source.from, source.to, source.offset];
    const name = [...sizes, table && table.name, ground, lanes, marks].join(":");
    if (name !== this.painted) {
      /** @type {string} what the canvases show */
      this.painted = name;
      for (const past of [false, true]) {
        this.paintOne(past ? this.played : this.canvas, { width, height, scale, source, seen, table, past });
      }
    }
    this.movePlayhead();
    if (this.on.seen) this.on.seen();
  }

  /**
   * @param {HTMLCanvasElement} canvas
   * @param {any} draw
   */
  paintOne(canvas, draw) {
    if (canvas.width !== draw.width || canvas.height !== draw.height) {
      Object.assign(canvas, { width: draw.width, height: draw.height });
    }
    const style = getComputedStyle(document.documentElement);
    paintStrip({
      ...draw,
      context: canvas.getContext("2d"),
      top: 22 * draw.scale,
      lanesHeight:
        ((draw.source.lanes || []).length * LANE_HEIGHT + (draw.source.grips ? GRIPS_HEIGHT : 0)) * draw.scale,
      colour: (name) => style.getPropertyValue(`--${name}`).trim(),
      x: (second) => this.x(second, draw.width),
    });
  }

  /**
   * @param {number} width
   * @param {any} source
   */
  tableFor(width, source) {
    const { start, span } = this.seen;
    const from = start + source.offset;
    const columns = Math.max(1, Math.min(Math.round(width), Math.ceil(span * RATE), 8192));
    return this.table(source.key, from, from + span, columns);
  }

  /**
   * The nearest table at hand, and the right one asked for when it is not there yet.
   * @param {string} key
   * @param {number} from
   * @param {number} to
   * @param {any} columns
   */
  table(key, from, to, columns) {
    const name = `${key}:${from.toFixed(5)}:${to.toFixed(5)}:${columns}`;
    const found = this.tables.get(name);
    if (found && found.values) {
      this.lastTable = found;
      return found;
    }
    if (!found) {
      this.tables.set(name, {});
      if (this.tables.size > 60) this.tables.delete(this.tables.keys().next().value);
      // Whole samples on the right, so that one column is one sample at the closest zoom.
      ask(`/sounds/${key}/wave?from=${from}&to=${to}&columns=${columns}`, { bytes: true })
        .then((bytes) => {
          this.tables.set(name, { name, key, from, to, columns, values: new Int16Array(bytes) });
          this.draw();
        })
        .catch(() => this.tables.delete(name));
    }
    return this.lastTable && this.lastTable.key === key ? this.lastTable : null;
  }

  /** @param {any} event */
  second(event) {
    const box = this.canvas.getBoundingClientRect();
    const { start, span } = this.seen;
    return start + ((event.clientX - box.left) / box.width) * span;
  }

  listen() {
    const canvas = this.canvas;
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      canvas.setPointerCapture(event.pointerId);
      const second = this.second(event);
      const source = this.source();
      const box = canvas.getBoundingClientRect();
      const near = (/** @type {any} */ other) => Math.abs(this.x(other, box.width) - (event.clientX - box.left)) < 12;
      const low = source.grips && box.bottom - event.clientY < GRIPS_HEIGHT;
      const grip = low ? this.on.gripAt(second, 7 * this.secondsPerPixel) : -1;
      if (grip >= 0) this.drag = { kind: "grip", grip, begin: event.clientX };
      else if (event.shiftKey && this.on.loop) this.drag = { kind: "loop", from: second };
      else if (source.handles && near(source.from)) this.drag = { kind: "in" };
      else if (source.handles && near(source.to)) this.drag = { kind: "out" };
      else {
        this.drag = { kind: "seek" };
        this.on.seek(clamp(second, 0, source.length));
      }
    });
    canvas.addEventListener("pointermove", (event) => {
      if (!this.drag) return;
      const second = clamp(this.second(event), 0, this.source().length);
      if (this.drag.kind === "seek") this.on.seek(second);
      else if (this.drag.kind === "grip") {
        // A press that does not move is no drag.
        if (Math.abs(event.clientX - this.drag.begin) > 2) this.on.grip(this.drag.grip, second);
      } else if (this.drag.kind === "loop")
        this.on.loop(Math.min(this.drag.from, second), Math.max(this.drag.from, second));
      else this.on.handle(this.drag.kind, second);
    });
    const end = () => {
      if (this.drag && (this.drag.kind === "in" || this.drag.kind === "out")) this.on.handleEnd(this.drag.kind);
      if (this.drag && this.drag.kind === "grip") this.on.gripEnd();
      if (this.drag && this.drag.kind === "seek" && this.on.seekEnd) this.on.seekEnd();
      this.drag = null;
    };
    canvas.addEventListener("pointerup", end);
    canvas.addEventListener("pointercancel", end);
    canvas.addEventListener("dblclick", (event) => {
      const low = this.source().grips && canvas.getBoundingClientRect().bottom - event.clientY < GRIPS_HEIGHT;
      const grip = low ? this.on.gripAt(this.second(event), 7 * this.secondsPerPixel) : -1;
      if (grip >= 0) this.on.gripBack(grip);
    });
    canvas.addEventListener(
      "wheel",
      (event) => {
        event.preventDefault();
        if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
          this.start = this.seen.start + ((event.deltaX || event.deltaY) / 800) * this.seen.span;
          this.draw();
        } else {
          this.zoom(1.0016 ** event.deltaY, this.second(event));
        }
      },
      { passive: false },
    );
  }
}
