// One signal's curve: over the whole project above, around the playhead below; before shaping as a thin line.

import { clamp } from "../lib/numbers.js";
import { clock } from "../lib/time.js";
import { CanvasView } from "./canvas_view.js";

const ZOOM_S = 6;
const GAP = 26;
const MARGIN = 10;

/**
 * `source()` gives {id, colour, length, now, whole, near, points, beats, kind}. `whole` and `near` are
 * {from, to, low, high, unshaped} in thousandths. `on` hears seek(second), points(list), placedPoints(list, label),
 * choosePoint(index).
 */
export class CurveView extends CanvasView {
  /** @type {any} what the pointer holds */
  drag = null;

  /**
   * @param {HTMLCanvasElement} canvas
   * @param {any} source
   * @param {any} on
   */
  constructor(canvas, source, on) {
    super(canvas, source, on);
    this.listen();
  }

  areas() {
    const box = this.canvas.getBoundingClientRect();
    const [width, height] = [box.width - 2 * MARGIN, box.height];
    const upper = Math.max(34, Math.round((height - GAP) * 0.32));
    return {
      whole: { x: MARGIN, y: 4, width, height: upper - 4 },
      near: { x: MARGIN, y: upper + GAP, width, height: height - upper - GAP - 6 },
    };
  }

  spans() {
    const { length, now } = this.source();
    const span = Math.min(ZOOM_S, length);
    const from = clamp(now - span / 2, 0, Math.max(0, length - span));
    return { whole: [0, length], near: [from, from + span] };
  }

  /** @param {CanvasRenderingContext2D} context */
  paint(context) {
    const source = this.source();
    if (!source.id) return;
    const [areas, spans] = [this.areas(), this.spans()];
    this.paintWhole(context, areas.whole, spans.whole, source);
    this.paintCurve(context, areas.near, spans.near, source.near, source, true);
    const x = (/** @type {number} */ second) => areas.whole.x + (second / source.length) * areas.whole.width;
    context.globalAlpha = 0.16;
    context.fillStyle = this.colour("brass");
    context.fillRect(x(spans.near[0]), areas.whole.y, x(spans.near[1]) - x(spans.near[0]), areas.whole.height);
    context.globalAlpha = 1;
    const baseline = areas.near.y - 9;
    this.text(context, clock(spans.near[0], 1), areas.near.x, baseline, "dim");
    this.text(context, clock(spans.near[1], 1), areas.near.x + areas.near.width, baseline, "dim", "end");
    this.text(context, "around the playhead", areas.near.x + areas.near.width / 2, baseline, "dim", "center");
  }

  /**
   * The curve over the whole project changes seldom: it is drawn once and copied, the playhead on top.
   * @param {CanvasRenderingContext2D} context
   * @param {{ x: number; y: number; width: number; height: number }} area
   * @param {number[]} span
   * @param {any} source
   */
  paintWhole(context, area, span, source) {
    const scale = window.devicePixelRatio || 1;
    const box = this.canvas.getBoundingClientRect();
    const name = [box.width, box.height, source.colour, this.colour("seam"), source.length].join(":");
    if (!this.kept || this.kept.name !== name || this.kept.data !== source.whole || source.points) {
      const layer = new OffscreenCanvas(
        Math.max(1, box.width * scale),
        Math.max(1, (area.y + area.height + 8) * scale),
      );
      const inner = /** @type {any} */ (layer.getContext("2d"));
      inner.setTransform(scale, 0, 0, scale, 0, 0);
      this.paintCurve(inner, area, span, source.whole, { ...source, now: -1 }, false);
      /** @type {any} the curve over the whole project, as it was drawn last */
      this.kept = { name, data: source.whole, layer };
    }
    context.drawImage(this.kept.layer, 0, 0, this.kept.layer.width / scale, this.kept.layer.height / scale);
    context.fillStyle = this.colour("brass");
    context.fillRect(area.x + (source.now / source.length) * area.width - 1, area.y - 6, 2, area.height + 12);
  }

  /**
   * @param {any} context
   * @param {{ x: number; y: number; width: number; height: number }} area
   * @param {number[]} span
   * @param {any} data
   * @param {any} source
   * @param {any} near
   */
  paintCurve(context, area, span, data, source, near) {
    const [from, to] = span;
    const y = (/** @type {any} */ value) => area.y + area.height * (1 - clamp(value / 1000, -0.05, 1.05));
    context.globalAlpha = 0.5;
    for (const value of [0, 1000])
      this.line(
        context,
        [
          [area.x, Math.round(y(value)) + 0.5],
          [area.x + area.width, Math.round(y(value)) + 0.5],
        ],
        "seam",
      );
    context.globalAlpha = 1;
    context.save();
    context.beginPath();
    context.rect(area.x, area.y - 6, area.width, area.height + 12);
    context.clip();
    if (near) this.paintBeats(context, area, from, to, source.beats);
    if (data) {
      const total = data.high.length;
      const index0 = (/** @type {number} */ second) => ((second - data.from) / (data.to - data.from)) * total;
      const first = clamp(Math.floor(index0(from)) - 1, 0, total - 2);
      const last = clamp(Math.ceil(index0(to)) + 1, first + 2, total);
      const seen = (/** @type {Values} */ values) => values.slice(first, last);
      const part = { low: seen(data.low), high: seen(data.high), unshaped: data.unshaped && seen(data.unshaped) };
      const count = part.high.length;
      const x = (/** @type {number} */ index) =>
        area.x +
        ((data.from + ((first + index + 0.5) / total) * (data.to - data.from) - from) / (to - from)) * area.width;
      const top = part.high.map((/** @type {any} */ value, /** @type {number} */ index) => [x(index), y(value)]);
      this.fill(context, [[top[0][0], y(0)], ...top, [top[count - 1][0], y(0)]], source.colour, 0.24);
      if (part.unshaped && near) {
        context.globalAlpha = 0.75;
        this.line(
          context,
          part.unshaped.map((/** @type {any} */ value, /** @type {number} */ index) => [x(index), y(value)]),
          source.colour,
          0.9,
        );
        context.globalAlpha = 1;
      }
      this.line(context, top, source.colour, near ? 2.2 : 1.3);
      if (near) this.paintPinned(context, part, x, y);
    }
    if (source.points) this.paintPoints(context, area, from, to, y, source);
    const now = area.x + ((source.now - from) / (to - from)) * area.width;
    context.fillStyle = this.colour("brass");
    context.fillRect(now - 1, area.y - 6, 2, area.height + 12);
    context.restore();
  }

  /**
   * Where the curve stands at an end: a bar along that end.
   * @type {(context: CanvasRenderingContext2D, data: any, x: any, y: any) => any}
   */
  paintPinned(context, data, x, y) {
    const step = x(1) - x(0);
    context.fillStyle = this.colour("fault");
    data.high.forEach((/** @type {any} */ value, /** @type {number} */ index) => {
      if (data.low[index] >= 999) context.fillRect(x(index) - step / 2, y(1000) - 3, step + 0.5, 3);
    });
    context.fillStyle = this.colour("control-line");
    data.high.forEach((/** @type {any} */ value, /** @type {number} */ index) => {
      if (value <= 10) context.fillRect(x(index) - step / 2, y(0), step + 0.5, 3);
    });
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {{ x: number; y: number; width: number; height: number }} area
   * @param {number} from
   * @param {number} to
   * @param {any} beats
   */
  paintBeats(context, area, from, to, beats) {
    for (const [time, first] of beats) {
      if (time < from || time > to) continue;
      const x = Math.round(area.x + ((time - from) / (to - from)) * area.width) + 0.5;
      context.globalAlpha = first ? 0.95 : 0.45;
      this.line(
        context,
        [
          [x, area.y],
          [x, area.y + area.height],
        ],
        "seam",
      );
      context.globalAlpha = 1;
    }
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {{ x: number; y: number; width: number; height: number }} area
   * @param {number} from
   * @param {number} to
   * @param {any} y
   * @param {any} source
   */
  paintPoints(context, area, from, to, y, source) {
    if (source.points.length > 400) return;
    source.points.forEach((/** @type {any} */ point, /** @type {number} */ index) => {
      const x = area.x + ((point.time_s - from) / (to - from)) * area.width;
      context.fillStyle = this.colour(index === source.point ? "ink" : source.colour);
      context.beginPath();
      context.arc(x, y(point.value * 1000), index === source.point ? 6 : 4.5, 0, 7);
      context.fill();
    });
  }

  /** @param {any} event */
  at(event) {
    const { x, y } = this.place(event);
    const areas = this.areas();
    const name = y < areas.near.y - GAP / 2 ? "whole" : "near";
    const [area, [from, to]] = [areas[name], this.spans()[name]];
    return {
      x,
      y,
      name,
      area,
      second: clamp(from + ((x - area.x) / area.width) * (to - from), 0, this.source().length),
      value: clamp(1 - (y - area.y) / area.height, 0, 1),
      perSecond: area.width / (to - from),
    };
  }

  /** @param {any} place */
  nearest(place) {
    const { points } = this.source();
    if (!points) return -1;
    const far = points.map((/** @type {any} */ point) =>
      Math.hypot((point.time_s - place.second) * place.perSecond, (point.value - place.value) * place.area.height),
    );
    const index = far.indexOf(Math.min(...far));
    return far[index] < 10 ? index : -1;
  }

  /** @type {(index: number, place: any) => any} */
  moved(index, place) {
    const points = this.source().points.map((/** @type {any} */ point) => ({ ...point }));
    const before = index > 0 ? points[index - 1].time_s + 0.001 : 0;
    const after = index < points.length - 1 ? points[index + 1].time_s - 0.001 : this.source().length;
    points[index].time_s = Math.round(clamp(place.second, before, after) * 1000) / 1000;
    points[index].value = Math.round(place.value * 1000) / 1000;
    return points;
  }

  listen() {
    const { canvas } = this;
    canvas.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      canvas.setPointerCapture(event.pointerId);
      const place = this.at(event);
      const index = this.nearest(place);
      if (index >= 0) {
        this.on.choosePoint(index);
        this.drag = { index };
      } else this.drag = { seek: true, x: place.x, y: place.y };
      if (this.drag.seek) this.on.seek(place.second);
    });
    canvas.addEventListener("pointermove", (event) => {
      if (!this.drag) return;
      const place = this.at(event);
      if (this.drag.seek) {
        if (place.name === "whole") this.on.seek(place.second);
      } else {
        this.drag.points = this.moved(this.drag.index, place);
        this.on.points(this.drag.points);
      }
    });
    canvas.addEventListener("pointerup", () => {
      if (this.drag && this.drag.points) this.on.placedPoints(this.drag.points, "Move a point");
      this.drag = null;
    });
    canvas.addEventListener("dblclick", (event) => {
      const { points } = this.source();
      if (!points) return;
      const place = this.at(event);
      const index = this.nearest(place);
      if (index >= 0) {
        if (points.length > 1)
          this.on.placedPoints(
            points.filter((/** @type {any} */ _, /** @type {any} */ other) => other !== index),
            "Remove a point",
          );
        return;
      }
      const time = Math.round(place.second * 1000) / 1000;
      if (points.some((/** @type {any} */ point) => Math.abs(point.time_s - time) < 0.001)) return;
      const added = [...points, { time_s: time, value: Math.round(place.value * 1000) / 1000, ease: "linear" }];
      this.on.placedPoints(
        added.sort((a, b) => a.time_s - b.time_s),
        "Add a point",
      );
    });
  }
}
