// The curve that the keyframes of one setting make, over the stretch of time that the strip shows.

import { bentFrames, handlesOf } from "../lib/easing_handles.js";
import { keyedValue } from "../lib/keyed_value.js";
import { clamp } from "../lib/numbers.js";
import { typeOf } from "../lib/setting_type.js";
import { clock } from "../lib/time.js";
import { CanvasView } from "./canvas_view.js";
import { Playhead } from "./playhead.js";

const MARGIN = { left: 58, right: 12, top: 10, bottom: 10 };

/**
 * `source()` gives {setting, frames, now, key, length, seen, beats}. `on` hears choose(index), drag(frames),
 * placed(frames, label) and seek(second).
 */
export class KeyCurve extends CanvasView {
  /** @type {any} what the pointer holds */
  drag = null;

  /**
   * @param {HTMLCanvasElement} canvas
   * @param {any} source
   * @param {any} on
   */
  constructor(canvas, source, on) {
    super(canvas, source, on);
    this.playhead = new Playhead(canvas);
    this.listen();
  }

  get numeric() {
    const { setting } = this.source();
    return Boolean(setting) && setting.numeric;
  }

  /**
   * Lowest and highest value on show: the keyframes' own, with room about them, within the setting's range.
   * @returns {number[]}
   */
  range() {
    const { setting, frames } = this.source();
    if (!this.numeric) return [0, 1];
    if (this.held) return this.held;
    const values = frames.map((/** @type {Keyframe} */ frame) => frame.value);
    for (const { value } of this.handles()) values.push(value);
    const [low, high] = [Math.min(...values), Math.max(...values)];
    const room = Math.max((high - low) * 0.25, (setting.hi - setting.lo) * 0.02);
    return [Math.max(setting.lo, low - room), Math.min(setting.hi, high + room)];
  }

  /**
   * The handles of the chosen keyframe's easing: `end` 0 at it, 1 at the next one.
   * @returns {{end: number, time: number, value: number, from: Keyframe}[]}
   */
  handles() {
    const { frames, key } = this.source();
    return this.numeric ? handlesOf(frames, key) : [];
  }

  frame() {
    const box = this.canvas.getBoundingClientRect();
    const { seen } = this.source();
    const [low, high] = this.range();
    const width = Math.max(1, box.width - MARGIN.left - MARGIN.right);
    const height = Math.max(1, box.height - MARGIN.top - MARGIN.bottom);
    return {
      width,
      height,
      low,
      high,
      x: (/** @type {number} */ second) => MARGIN.left + ((second - seen.start) / seen.span) * width,
      y: (/** @type {any} */ value) => MARGIN.top + (1 - (value - low) / Math.max(high - low, 1e-9)) * height,
      second: (/** @type {number} */ x) => seen.start + ((x - MARGIN.left) / width) * seen.span,
      value: (/** @type {number} */ y) => low + (1 - (y - MARGIN.top) / height) * (high - low),
    };
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {number} width
   * @param {number} height
   */
  paint(context, width, height) {
    const { setting, frames, now, key, seen } = this.source();
    if (!setting || !frames.length) return;
    const f = this.frame();
    for (const value of this.numeric ? [f.low, (f.low + f.high) / 2, f.high] : []) {
      this.line(
        context,
        [
          [MARGIN.left, f.y(value)],
          [width - MARGIN.right, f.y(value)],
        ],
        "seam",
      );
      this.text(
        context,
        `${Math.round(value * 100) / 100} ${setting.unit.length > 3 ? "" : setting.unit}`,
        MARGIN.left - 6,
        f.y(value) + 4,
        "dim",
        "end",
      );
    }
    context.save();
    context.beginPath();
    context.rect(MARGIN.left - 8, 0, f.width + 16, height);
    context.clip();
    this.paintSiblings(context, f);
    if (this.numeric) {
      const points = [];
      for (let x = 0; x <= f.width; x += 1) {
        const second = seen.start + (x / f.width) * seen.span;
        points.push([MARGIN.left + x, f.y(keyedValue(setting, frames, second))]);
      }
      this.line(context, points, "sky", 2);
    } else {
      for (let x = 0; x < f.width; x += 2) {
        const value = keyedValue(setting, frames, seen.start + (x / f.width) * seen.span);
        context.fillStyle = typeof value === "string" ? value : value[0].colour;
        context.fillRect(MARGIN.left + x, height / 2 - 14, 2.5, 28);
      }
    }
    for (const { time, value, from } of this.handles()) {
      const ends = [
        [f.x(from.time_s), f.y(from.value)],
        [f.x(time), f.y(value)],
      ];
      this.line(context, ends, "brass", 1);
      context.beginPath();
      context.arc(ends[1][0], ends[1][1], 5, 0, 2 * Math.PI);
      context.fillStyle = this.colour("brass");
      context.fill();
    }
    frames.forEach((/** @type {Keyframe} */ frame, /** @type {number} */ index) => {
      const [x, y] = [f.x(frame.time_s), this.numeric ? f.y(frame.value) : height / 2];
      this.diamond(context, x, y, index === key ? 8 : 6.5, index === key ? "brass" : "ink", "pit");
    });
    context.restore();
    this.follow(now);
    if (this.drag && this.drag.frames && this.drag.handle === undefined) {
      const frame = this.drag.frames[this.drag.index];
      this.text(
        context,
        `${clock(frame.time_s, 2)} · ${Math.round(frame.value * 100) / 100}`,
        clamp(f.x(frame.time_s), 100, width - 100),
        MARGIN.top + 4,
        "ink",
        "center",
        600,
      );
    }
  }

  /**
   * Curves of other settings, each from its own lowest value to its highest.
   * @param {CanvasRenderingContext2D} context
   * @param {any} f
   */
  paintSiblings(context, f) {
    const { siblings, seen } = this.source();
    for (const { setting, frames } of siblings) {
      const values = frames.map((/** @type {Keyframe} */ frame) => frame.value);
      const [low, high] = [Math.min(...values), Math.max(...values)];
      const points = [];
      for (let x = 0; x <= f.width; x += 2) {
        const value = keyedValue(setting, frames, seen.start + (x / f.width) * seen.span);
        const share = high > low ? (value - low) / (high - low) : 0.5;
        points.push([MARGIN.left + x, MARGIN.top + f.height * (0.9 - 0.8 * share)]);
      }
      context.globalAlpha = 0.55;
      this.line(context, points, "dim", 1.2);
      context.globalAlpha = 1;
    }
  }

  /**
   * The playhead is at a second.
   * @param {number} now
   */
  follow(now) {
    if (!this.box || this.box.width < 2 || !this.source().setting) return;
    this.playhead.place(this.frame().x(now), MARGIN.left, this.box.width - MARGIN.right);
  }

  /** @param {any} values */
  nearest({ x, y }) {
    const { frames } = this.source();
    const f = this.frame();
    const middle = this.canvas.getBoundingClientRect().height / 2;
    const far = frames.map((/** @type {Keyframe} */ frame) =>
      Math.hypot(f.x(frame.time_s) - x, (this.numeric ? f.y(frame.value) : middle) - y),
    );
    const index = far.indexOf(Math.min(...far));
    return far[index] < 12 ? index : -1;
  }

  /** @param {any} place */
  handleAt({ x, y }) {
    const f = this.frame();
    return this.handles().find(({ time, value }) => Math.hypot(f.x(time) - x, f.y(value) - y) < 9);
  }

  /**
   * A handle of the chosen keyframe's easing, dragged to a time and a value.
   * @param {number} end
   * @param {number} time
   * @param {number} value
   */
  bend(end, time, value) {
    const { frames, key } = this.source();
    this.drag.frames = bentFrames(this.drag.frames || frames, key, end, time, value);
    this.on.drag(this.drag.frames);
  }

  listen() {
    const { canvas } = this;
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      canvas.setPointerCapture(event.pointerId);
      const place = this.place(event);
      const index = this.nearest(place);
      const handle = this.handleAt(place);
      if (handle) {
        this.held = /** @type {any} */ (this.range());
        this.drag = { handle: handle.end };
      } else if (index >= 0) {
        this.on.choose(index);
        this.held = /** @type {any} */ (this.range());
        this.drag = { index };
      } else {
        this.drag = { seek: true };
        this.on.seek(this.frame().second(place.x));
      }
      this.draw();
    });
    canvas.addEventListener("pointermove", (event) => {
      if (!this.drag) return;
      const place = this.place(event);
      const f = this.frame();
      if (this.drag.seek) {
        this.on.seek(f.second(place.x));
        return;
      }
      if (this.drag.handle !== undefined) {
        this.bend(this.drag.handle, f.second(place.x), f.value(place.y));
        return;
      }
      const { frames, length, setting } = this.source();
      const { index } = this.drag;
      const moved = (this.drag.frames || frames).map((/** @type {any} */ frame) => ({ ...frame }));
      const [before, after] = [
        index > 0 ? moved[index - 1].time_s + 0.001 : 0,
        index < moved.length - 1 ? moved[index + 1].time_s - 0.001 : length,
      ];
      moved[index].time_s = Math.round(clamp(this.on.snap(f.second(place.x)), before, after) * 1e6) / 1e6;
      if (this.numeric) {
        const value = clamp(f.value(place.y), setting.lo, setting.hi);
        moved[index].value = typeOf(setting).allowed(Math.round(value / setting.step) * setting.step);
        moved[index].value = Math.round(clamp(moved[index].value, setting.lo, setting.hi) * 1e4) / 1e4;
      }
      this.drag.frames = moved;
      this.on.drag(moved);
    });
    canvas.addEventListener("pointerup", () => {
      if (this.drag && this.drag.frames)
        this.on.placed(this.drag.frames, this.drag.handle === undefined ? "Move a keyframe" : "Easing");
      this.drag = this.held = null;
      this.draw();
    });
    canvas.addEventListener("dblclick", (event) => {
      const place = this.place(event);
      const { frames, setting, length } = this.source();
      const index = this.nearest(place);
      if (index >= 0) {
        if (frames.length > 1)
          this.on.placed(
            frames.filter((/** @type {any} */ _, /** @type {any} */ other) => other !== index),
            "Take a keyframe away",
          );
        return;
      }
      const f = this.frame();
      const time = Math.round(clamp(f.second(place.x), 0, length) * 1e6) / 1e6;
      if (frames.some((/** @type {Keyframe} */ frame) => Math.abs(frame.time_s - time) < 0.002)) return;
      const value = this.numeric
        ? Math.round(clamp(f.value(place.y), setting.lo, setting.hi) * 100) / 100
        : keyedValue(setting, frames, time);
      const added = [
        ...frames,
        { time_s: time, value: this.numeric ? typeOf(setting).allowed(value) : value, ease: "ease-in-out" },
      ].sort((a, b) => a.time_s - b.time_s);
      this.on.placed(added, "Set a keyframe");
      this.on.choose(added.findIndex((frame) => frame.time_s === time));
    });
  }
}
