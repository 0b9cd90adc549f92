// The dividers between list, picture, panel and strip: dragged, moved by keys, put back by a double click.

import { partWith } from "../lib/studio_part.js";
import { SIZES } from "../stores/layout.js";

const STEP = 8;

/** Which way a size grows: along x or y of the page, and with which sign. */
const WAYS = { list: ["clientX", 1], panel: ["clientX", -1], strip: ["clientY", -1] };
const KEYS = {
  ArrowLeft: ["clientX", -1],
  ArrowRight: ["clientX", 1],
  ArrowUp: ["clientY", -1],
  ArrowDown: ["clientY", 1],
};

export class Dividers extends partWith("layout") {
  held = null; // {name, from, size}: what is dragged

  grab(name, event) {
    if (event.button !== 0) return;
    event.target.setPointerCapture(event.pointerId);
    this.held = { name, from: event[WAYS[name][0]], size: this.layout.sizeOf(name) };
  }

  drag(event) {
    if (!this.held) return;
    const [axis, sign] = WAYS[this.held.name];
    this.layout.resize(this.held.name, this.held.size + sign * (event[axis] - this.held.from));
  }

  drop() {
    this.held = null;
  }

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

  least(name) {
    return SIZES[name].lo;
  }

  most(name) {
    return SIZES[name].hi;
  }
}
