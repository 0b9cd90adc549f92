// The dividers between list, picture, panel and strip: dragged, moved by keys, put back by a double click.

import { partWith } from "../lib/studio_part.js";
import { SIZES } from "../stores/layout.js";

const STEP = 8;

/** Which way a size grows: along x or y of the page, and with which sign. */
/** @type {Record<string, any>} */
const WAYS = { list: ["clientX", 1], panel: ["clientX", -1], strip: ["clientY", -1] };
/** @type {Record<string, any>} */
const KEYS = {
  ArrowLeft: ["clientX", -1],
  ArrowRight: ["clientX", 1],
  ArrowUp: ["clientY", -1],
  ArrowDown: ["clientY", 1],
};

export class Dividers extends partWith("layout") {
  /** @type {any} */
  held = null; // {name, from, size}: what is dragged

  /**
   * @param {string} name
   * @param {any} event
   */
  grab(name, event) {
    if (event.button !== 0) return;
    event.target.setPointerCapture(event.pointerId);
    this.held = { name, from: event[WAYS[name][0]], size: this.layout.sizeOf(name) };
  }

  /** @param {any} event */
  drag(event) {
    if (!this.held) return;
    const [axis, sign] = WAYS[this.held.name];
    this.layout.resize(this.held.name, this.held.size + sign * (event[axis] - this.held.from));
  }

  drop() {
    this.held = null;
  }

  /**
   * @param {string} name
   * @param {TypeEvent} event
   */
  key(name, event) {
    const { layout } = this;
    const [axis, sign] = WAYS[name];
    const [along, way] = KEYS[event.key] || [];
    const { lo, hi } = SIZES[name];
    if (along === axis) layout.resize(name, layout.sizeOf(name) + way * sign * STEP * (event.shiftKey ? 5 : 1));
    else if (event.key === "Home") layout.resize(name, lo);
    else if (event.key === "End") layout.resize(name, hi);
    else if (event.key === "Enter") layout.reset(name);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** @param {string} name */
  least(name) {
    return SIZES[name].lo;
  }

  /** @param {string} name */
  most(name) {
    return SIZES[name].hi;
  }
}
