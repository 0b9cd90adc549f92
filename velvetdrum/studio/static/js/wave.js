// The waveform on a canvas: peaks with the RMS inside, from the server's pyramid, at any zoom down to samples.

import { ask } from "./api.js";

const RATE = 48000;
export const LANE_HEIGHT = 19;
const clamp = (value, low, high) => Math.max(low, Math.min(high, value));

export function clock(seconds, digits = 2) {
  const sign = seconds < 0 ? "-" : "";
  const whole = Math.abs(seconds) + 1e-9;
  const hours = Math.floor(whole / 3600);
  const minutes = Math.floor((whole % 3600) / 60);
  const rest = (Math.floor((whole % 60) * 10 ** digits) / 10 ** digits).toFixed(digits).padStart(digits ? digits + 3 : 2, "0");
  return hours ? `${sign}${hours}:${String(minutes).padStart(2, "0")}:${rest}` : `${sign}${minutes}:${rest}`;
}

/**
 * A canvas over a stretch of seconds. `source()` gives what to draw:
 * {key, length, offset, from, to, loop, handles, beats, lanes}; times in seconds of the canvas' own axis, `offset`
 * leads to the recording's. `lanes` are curves under the waveform: {colour, from, to, high, mark}. `on` hears seek,
 * loop, handle and handleEnd.
 */
export class Wave {
  constructor(canvas, source, on) {
    this.__v_skip = true; // Alpine then leaves the object as it is: clocks and canvases must not be wrapped
    Object.assign(this, { canvas, source, on });
    this.context = canvas.getContext("2d");
    this.start = 0;
    this.span = 0; // 0: everything
    this.now = 0;
    this.tables = new Map();
    this.listen();
    // What a canvas measures is told when it changes: asking for it on each drawing makes the page be laid out anew.
    new ResizeObserver(() => { this.box = canvas.getBoundingClientRect(); this.draw(); }).observe(canvas);
    window.addEventListener("velvet-theme", () => this.draw());
  }

  /** The stretch that is shown: start and span in seconds. */
  get seen() {
    const { length } = this.view || this.source();
    const span = this.span ? Math.min(this.span, length) : length;
    return { start: clamp(this.start, 0, Math.max(0, length - span)), span: Math.max(span, 1e-4) };
  }

  zoom(factor, at = null) {
    const { length } = this.source();
    const { start, span } = this.seen;
    const middle = at === null ? clamp(this.now, start, start + span) : at;
    const next = clamp(span * factor, 24 / RATE, length);
    this.start = middle - ((middle - start) / span) * next;
    this.span = next >= length ? 0 : next;
    this.draw();
  }

  all() {
    this.span = 0;
    this.draw();
  }

  /** Keep the playhead in sight while playing. */
  follow(now) {
    this.now = now;
    const { start, span } = this.seen;
    if (this.span && (now < start || now > start + span * 0.95)) this.start = now - span * 0.08;
    this.schedule();
  }

  x(second, width) {
    const { start, span } = this.seen;
    return ((second - start) / span) * width;
  }

  /** Draw what there is now, with the next refresh of the screen. */
  draw() {
    this.view = null;
    this.schedule();
  }

  schedule() {
    if (this.pending) return;
    this.pending = requestAnimationFrame(() => {
      this.pending = null;
      this.paint();
    });
  }

  paint() {
    this.box ||= this.canvas.getBoundingClientRect();
    const { box } = this;
    if (box.width < 2) return;
    const scale = window.devicePixelRatio || 1;
    const width = Math.round(box.width * scale);
    const height = Math.round(box.height * scale);
    if (this.canvas.width !== width || this.canvas.height !== height) {
      this.canvas.width = width;
      this.canvas.height = height;
    }
    const style = getComputedStyle(document.documentElement);
    const colour = (name) => style.getPropertyValue(`--${name}`).trim();
    // Read once, and kept while only the playhead moves.
    this.view ||= this.source();
    const source = this.view;
    const top = 22 * scale;
    this.lanesHeight = (source.lanes || []).length * LANE_HEIGHT * scale;
    const [played, coming] = this.layers(width, height, top, scale, colour, source);
    const { context } = this;
    const head = Math.max(0, Math.min(width, Math.round(this.x(this.now, width))));
    context.clearRect(0, 0, width, height);
    if (head > 0) context.drawImage(played, 0, 0, head, height, 0, 0, head, height);
    if (head < width) context.drawImage(coming, head, 0, width - head, height, head, 0, width - head, height);
    this.paintMarks(context, width, height, top, scale, colour, source);
    if (this.on.seen) this.on.seen();
  }

  /** The strip as played and as still to come. Drawn anew only when something other than the time changes. */
  layers(width, height, top, scale, colour, source) {
    const { start, span } = this.seen;
    const table = source.key ? this.tableFor(width, source) : null;
    const name = [width, height, start, span, source.from, source.to, source.offset, table && table.name, colour("ground"), source.beatMark, (source.lanes || []).map((lane) => lane.mark).join()].join(":");
    if (this.drawn && this.drawn.name === name) return this.drawn.layers;
    const layers = [true, false].map((past) => {
      const layer = new OffscreenCanvas(width, height);
      const context = layer.getContext("2d");
      this.paintRuler(context, width, height, scale, colour);
      this.paintBeats(context, width, height, top, scale, colour, source);
      this.paintLanes(context, width, height, scale, colour, source, past);
      if (table) this.paintWave(context, width, top, height - top - this.lanesHeight - 6 * scale, scale, colour, source, table, past);
      return layer;
    });
    this.drawn = { name, layers };
    return layers;
  }

  tableFor(width, source) {
    const { start, span } = this.seen;
    const from = start + source.offset;
    const columns = Math.max(1, Math.min(Math.round(width), Math.ceil(span * RATE), 8192));
    return this.table(source.key, from, from + span, columns);
  }

  paintRuler(context, width, height, scale, colour) {
    const { start, span } = this.seen;
    const steps = [0.0001, 0.0002, 0.0005, 0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1200];
    const step = steps.find((candidate) => (candidate / span) * width > 84 * scale) || 3600;
    const digits = step >= 1 ? 0 : Math.ceil(-Math.log10(step));
    context.font = `${12 * scale}px "Work Sans", sans-serif`;
    context.textBaseline = "top";
    for (let n = Math.ceil(start / step); n * step <= start + span; n += 1) {
      const x = Math.round(this.x(n * step, width)) + 0.5;
      context.strokeStyle = colour("seam");
      context.globalAlpha = 0.6;
      context.beginPath();
      context.moveTo(x, 0);
      context.lineTo(x, height);
      context.stroke();
      context.globalAlpha = 1;
      context.fillStyle = colour("dim");
      context.fillText(clock(n * step, digits), x + 4 * scale, 4 * scale);
    }
  }

  /** Beats as lines, bars stronger; only as many as can be told apart. */
  paintBeats(context, width, height, top, scale, colour, source) {
    const beats = source.beats || [];
    if (beats.length < 2) return;
    const apart = (this.x(beats[beats.length - 1][0], width) - this.x(beats[0][0], width)) / (beats.length - 1);
    for (const [time, first] of beats) {
      if (!first && apart < 7 * scale) continue;
      const x = Math.round(this.x(time, width)) + 0.5;
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

  paintLanes(context, width, height, scale, colour, source, past) {
    (source.lanes || []).forEach((lane, index) => {
      const bottom = height - ((source.lanes.length - 1 - index) * LANE_HEIGHT + 3) * scale;
      const full = (LANE_HEIGHT - 5) * scale;
      context.globalAlpha = past ? 0.9 : 0.5;
      context.strokeStyle = lane.colour;
      context.fillStyle = lane.colour;
      context.lineWidth = 1.2 * scale;
      if (!lane.high) return;
      const count = lane.high.length;
      const x = (i) => this.x(lane.from + ((i + 0.5) / count) * (lane.to - lane.from), width);
      const y = (i) => bottom - (Math.max(0, Math.min(1000, lane.high[i])) / 1000) * full;
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

  paintWave(context, width, top, height, scale, colour, source, table, past) {
    const { span } = this.seen;
    const samples = Math.ceil(span * RATE);
    const middle = top + height / 2;
    const y = (value) => middle - (value / 32767) * (height / 2);
    const peaks = colour(past ? "wave-past" : "wave-far");
    const inner = colour(past ? "wave" : "dim");
    const used = (second) => second >= source.from && second <= source.to;
    const shown = table.columns;
    if (samples <= width / 2) {
      context.strokeStyle = inner;
      context.lineWidth = 1.5 * scale;
      context.beginPath();
      for (let i = 0; i < shown; i += 1) {
        const x = this.x(table.from - source.offset + ((i + 0.5) / shown) * (table.to - table.from), width);
        context.lineTo(x, y(table.values[i * 3 + 1]));
      }
      context.stroke();
      if (samples < width / (7 * scale)) {
        context.fillStyle = inner;
        for (let i = 0; i < shown; i += 1) {
          const x = this.x(table.from - source.offset + ((i + 0.5) / shown) * (table.to - table.from), width);
          context.fillRect(x - 2 * scale, y(table.values[i * 3 + 1]) - 2 * scale, 4 * scale, 4 * scale);
        }
      }
      return;
    }
    // Of a few samples a column the RMS says nothing; the line itself is what can be seen.
    const few = samples / shown < 48;
    for (let i = 0; i < shown; i += 1) {
      const second = table.from - source.offset + (i / shown) * (table.to - table.from);
      const x = this.x(second, width);
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

  paintMarks(context, width, height, top, scale, colour, source) {
    if (source.loop) {
      const left = this.x(source.loop.from, width);
      const right = this.x(source.loop.to, width);
      context.fillStyle = colour("brass");
      context.globalAlpha = source.loop.on ? 0.2 : 0.1;
      context.fillRect(left, top, right - left, height - top);
      context.globalAlpha = source.loop.on ? 1 : 0.5;
      context.fillRect(left, top, 2 * scale, height - top);
      context.fillRect(right - 2 * scale, top, 2 * scale, height - top);
      context.globalAlpha = 1;
    }
    if (source.handles) {
      for (const [second, name, side] of [[source.from, "in", 1], [source.to, "out", -1]]) {
        const x = this.x(second, width);
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
    this.paintMarkers(context, width, height, top, scale, colour, source.markers || []);
    const x = this.x(this.now, width);
    context.fillStyle = colour("brass");
    context.fillRect(x - scale, 0, 2 * scale, height);
    context.beginPath();
    context.arc(x, 7 * scale, 6 * scale, 0, 7);
    context.fill();
  }

  /** Markers as flags under the ruler, with as much of their text as there is room for. */
  paintMarkers(context, width, height, top, scale, colour, markers) {
    context.font = `600 ${12 * scale}px "Work Sans", sans-serif`;
    context.textBaseline = "top";
    markers.forEach((marker, index) => {
      const x = Math.round(this.x(marker.time_s, width));
      const room = (index + 1 < markers.length ? this.x(markers[index + 1].time_s, width) : width) - x;
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

  /** The nearest table at hand, and the right one asked for when it is not there yet. */
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
      const near = (other) => Math.abs(this.x(other, box.width) - (event.clientX - box.left)) < 12;
      if (event.shiftKey && this.on.loop) this.drag = { kind: "loop", from: second };
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
      else if (this.drag.kind === "loop") this.on.loop(Math.min(this.drag.from, second), Math.max(this.drag.from, second));
      else this.on.handle(this.drag.kind, second);
    });
    const end = () => {
      if (this.drag && (this.drag.kind === "in" || this.drag.kind === "out")) this.on.handleEnd(this.drag.kind);
      if (this.drag && this.drag.kind === "seek" && this.on.seekEnd) this.on.seekEnd();
      this.drag = null;
    };
    canvas.addEventListener("pointerup", end);
    canvas.addEventListener("pointercancel", end);
    canvas.addEventListener("wheel", (event) => {
      event.preventDefault();
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        this.start = this.seen.start + ((event.deltaX || event.deltaY) / 800) * this.seen.span;
        this.draw();
      } else {
        this.zoom(1.0016 ** event.deltaY, this.second(event));
      }
    }, { passive: false });
  }
}
