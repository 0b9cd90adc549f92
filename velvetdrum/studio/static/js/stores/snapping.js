// Where what is dragged on the picture comes to lie, and what is shown of it: the line that it met, distances.

import { boundsOf, sideOf } from "../lib/geometry.js";
import { distancesOf, gapLinesOf, linesOf, nearestLine } from "../lib/snap_lines.js";
import { partWith } from "../lib/studio_part.js";

const SNAP_PX = 6;

export class Snapping extends partWith("layers", "placement", "quantities", "views", "workspace") {
  /**
   * The boxes of all layers that stay where they are.
   * @param {any} grip
   */
  othersOf(grip) {
    const moving = new Set(
      grip.layers.flatMap((/** @type {any} */ item) => this.layers.branch(item.layer.id).map((layer) => layer.id)),
    );
    return Object.values(this.placement.lies)
      .filter((lie) => lie.shown && !moving.has(lie.id) && !this.placement.coversAll(lie.id))
      .map((lie) => ({ box: boundsOf(lie.corners), name: this.layers.byId(lie.id)?.name || "another layer" }));
  }

  /**
   * Lines of the frame, of other boxes, and of what the rulers show: guides, the grid.
   * @param {{box: number[], name: string}[]} others
   * @param {0 | 1} axis
   */
  lines(others, axis) {
    const size = this.placement.stageSize;
    const lines = linesOf(size[axis], others, axis);
    if (!this.workspace.rulers) return lines;
    for (const guide of this.workspace.guides)
      if ((guide.axis === "x" ? 0 : 1) === axis) lines.push({ at: (guide.at / 100) * size[axis], text: "guide" });
    const step = ((this.workspace.grid || 0) / 100) * Math.min(...size);
    if (step) for (let at = (size[axis] / 2) % step; at <= size[axis]; at += step) lines.push({ at, text: "grid" });
    return lines;
  }

  get reach() {
    return SNAP_PX * this.views.handlesView.unit;
  }

  /**
   * What is moved, to where its edges or its middle meet a line, or its gaps are equal.
   * @param {any} grip
   * @param {number[]} by
   * @param {boolean} straight along one axis alone
   */
  moved(grip, by, straight) {
    const sideways = Math.abs(by[0]) > Math.abs(by[1]);
    const way = straight ? [sideways ? by[0] : 0, sideways ? 0 : by[1]] : by;
    const box = boundsOf(grip.layers.flatMap((/** @type {any} */ item) => item.start.corners));
    const others = this.othersOf(grip);
    const boxes = others.map((other) => other.box);
    const there = box.map((/** @type {number} */ value, /** @type {number} */ index) => value + way[index % 2]);
    const met = [];
    for (const axis of /** @type {(0 | 1)[]} */ ([0, 1])) {
      if (straight && way[axis] === 0) continue;
      const edges = [box[axis], (box[axis] + box[axis + 2]) / 2, box[axis + 2]];
      const lines = [...this.lines(others, axis), ...gapLinesOf(there, boxes, axis)];
      const best = nearestLine(edges, way[axis], lines, this.reach);
      if (!best) continue;
      way[axis] += best.off;
      met.push({ [axis ? "y" : "x"]: best.line.at, text: best.line.text });
    }
    this.show(
      box.map((/** @type {number} */ value, /** @type {number} */ index) => value + way[index % 2]),
      boxes,
      met,
    );
    return way;
  }

  /**
   * The point to which a handle of a box is dragged: at a line, or where the box is as wide or as high as another.
   * @param {any} grip
   * @param {number} index the handle
   * @param {number[]} point
   */
  sized(grip, index, point) {
    const [item] = grip.layers;
    const box = boundsOf(item.start.corners);
    const others = this.othersOf(grip);
    const met = [];
    const place = [...point];
    for (const axis of /** @type {(0 | 1)[]} */ ([0, 1])) {
      const side = sideOf(index)[axis];
      if (side === 0.5) continue;
      const held = side ? box[axis] : box[axis + 2];
      const sizes = others.map(({ box: other, name }) => ({
        at: held + (side ? 1 : -1) * (other[axis + 2] - other[axis]),
        text: `as ${axis ? "high" : "wide"} as ${name}`,
      }));
      const best = nearestLine([point[axis]], 0, [...sizes, ...this.lines(others, axis)], this.reach);
      if (!best) continue;
      place[axis] += best.off;
      met.push({ [axis ? "y" : "x"]: best.line.at, text: best.line.text });
    }
    this.placement.snapLines = met;
    return place;
  }

  /**
   * @param {number[]} box
   * @param {number[][]} boxes
   * @param {any[]} met lines that it lies at
   */
  show(box, boxes, met) {
    const size = this.placement.stageSize;
    const away = distancesOf(box, boxes, size).map(({ axis, from, to, length }) => ({
      from,
      to,
      text: this.quantities.lengthText(length, size[axis]),
    }));
    this.placement.snapLines = [...met, ...away];
  }
}
