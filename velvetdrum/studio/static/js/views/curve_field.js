// Curves that are drawn: points that are dragged, added by a press on the box, and removed.

import { curveAt, curvePath } from "../lib/curve_points.js";
import { plain } from "../lib/json_patch.js";
import { arrowStep, clamp } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

const MOST = 24;
const APART = 0.01;

export class CurveField extends partWith("fields", "messages", "settings") {
  /** @type {{setting: any, index: number, box: DOMRect}|null} the point that the pointer holds */
  held = null;

  /** @param {Setting} setting */
  path(setting) {
    return curvePath(this.fields.valueShown(setting), setting.lo, setting.hi);
  }

  /** @param {Setting} setting */
  points(setting) {
    return this.fields
      .valueShown(setting)
      .map((/** @type {any} */ point, /** @type {number} */ index) => ({ ...point, index }));
  }

  /**
   * @param {Setting} setting
   * @param {{ at: number; value: number; index: number }} point
   */
  style(setting, point) {
    return {
      left: `${point.at * 100}%`,
      bottom: `${((point.value - setting.lo) / (setting.hi - setting.lo)) * 100}%`,
    };
  }

  /**
   * @param {Setting} setting
   * @param {{ at: number; value: number; index: number }} point
   */
  told(setting, point) {
    const [value, at] = [point.value, point.at * 100].map(Math.round);
    return `${setting.label}, point ${point.index + 1}: ${value} ${setting.unit} at ${at} %`;
  }

  /** @param {Setting} setting */
  isPlain(setting) {
    return JSON.stringify(this.settings.current(setting)) === JSON.stringify(setting.default);
  }

  /** @param {Setting} setting */
  reset(setting) {
    this.settings.put(setting, plain(setting.default));
  }

  /**
   * A press on a point takes it; one beside puts a new one there.
   * @param {Setting} setting
   * @param {PressEvent} event
   */
  press(setting, event) {
    if (event.button) return;
    const box = event.currentTarget.getBoundingClientRect();
    const near = event.target.closest("[data-point]");
    const points = plain(this.settings.current(setting));
    let index = near ? Number(near.dataset.point) : -1;
    if (index < 0) {
      if (points.length >= MOST) return;
      const at = clamp((event.clientX - box.left) / box.width, 0, 1);
      if (points.some((/** @type {any} */ point) => Math.abs(point.at - at) < APART)) return;
      points.push({ at, value: curveAt(points, at) });
      points.sort((/** @type {any} */ one, /** @type {any} */ other) => one.at - other.at);
      index = points.findIndex((/** @type {any} */ point) => point.at === at);
      this.settings.tryValue(setting, points);
    }
    this.held = { setting, index, box };
    event.currentTarget.setPointerCapture(event.pointerId);
  }

  /** @param {PressEvent} event */
  drag(event) {
    if (!this.held) return;
    const { setting, index, box } = this.held;
    this.settings.tryValue(setting, this.moved(setting, index, this.placeOf(event, setting, box)));
  }

  drop() {
    if (!this.held) return;
    const { setting } = this.held;
    this.held = null;
    const points = plain(this.fields.valueShown(setting));
    this.settings.put(setting, points);
  }

  /**
   * @param {PressEvent} event
   * @param {Setting} setting
   * @param {any} box
   */
  placeOf(event, setting, box) {
    return {
      at: clamp((event.clientX - box.left) / box.width, 0, 1),
      value: setting.lo + clamp((box.bottom - event.clientY) / box.height, 0, 1) * (setting.hi - setting.lo),
    };
  }

  /**
   * The points with one elsewhere, between its neighbours.
   * @param {Setting} setting
   * @param {number} index
   * @param {{ at: number; value: number }} place
   */
  moved(setting, index, place) {
    const points = plain(this.fields.valueShown(setting));
    const low = index ? points[index - 1].at + APART : 0;
    const high = index < points.length - 1 ? points[index + 1].at - APART : 1;
    points[index] = {
      at: Math.round(clamp(place.at, low, high) * 1000) / 1000,
      value: Math.round(clamp(place.value, setting.lo, setting.hi) * 10) / 10,
    };
    return points;
  }

  /**
   * Arrows move a point by a hundredth, ten with Shift, a tenth with Alt; Delete removes it.
   * @param {Setting} setting
   * @param {{ at: number; value: number; index: number }} point
   * @param {TypeEvent} event
   */
  key(setting, point, event) {
    if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      event.stopPropagation();
      this.remove(setting, point);
      return;
    }
    const up = arrowStep(event, (setting.hi - setting.lo) / 100);
    const sideways = { ArrowLeft: -1, ArrowRight: 1 }[event.key] || 0;
    if (!up && !sideways) return;
    event.preventDefault();
    event.stopPropagation();
    const by = sideways * (event.shiftKey ? 0.1 : event.altKey ? 0.001 : 0.01);
    const place = { at: point.at + by, value: point.value + (sideways ? 0 : up) };
    this.settings.put(setting, this.moved(setting, point.index, place));
  }

  /**
   * @param {Setting} setting
   * @param {{ at: number; value: number; index: number }} point
   */
  remove(setting, point) {
    const points = plain(this.settings.current(setting));
    if (points.length < 3) {
      this.messages.tell("A curve keeps two points.");
      return;
    }
    points.splice(point.index, 1);
    this.settings.put(setting, points);
  }
}
