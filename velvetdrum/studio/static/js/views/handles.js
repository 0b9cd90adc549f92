// The frame about what is chosen, on the picture: drawn where the renderer says that the layer lies, and dragged.

import { SIDES } from "../lib/geometry.js";

const SVG = "http://www.w3.org/2000/svg";
/**
 * `source()` gives {size, boxes, guides, points}; boxes are {id, corners, main, locked}, points {what, at, from, title}
 * those of an open part. `on` hears down(what, point, event), move(point, event), up(), and cancel(). Points are in
 * pixels of the frame.
 */
export class Handles {
  /**
   * @param {SVGSVGElement} svg
   * @param {() => any} source
   * @param {Record<string, (...values: any[]) => any>} on
   */
  constructor(svg, source, on) {
    this.__v_skip = true;
    this.svg = svg;
    this.source = source;
    this.on = on;
    this.listen();
  }

  /** Pixels of the frame in one of the screen. */
  get unit() {
    return this.unitOf(this.source().size[0]);
  }

  /**
   * The same, for a frame that is so many pixels wide.
   * @param {number} across
   */
  unitOf(across) {
    const box = this.svg.getBoundingClientRect();
    return box.width ? across / box.width : 1;
  }

  /** @param {PressEvent} event */
  point(event) {
    const box = this.svg.getBoundingClientRect();
    const [width, height] = this.source().size;
    return [((event.clientX - box.left) / box.width) * width, ((event.clientY - box.top) / box.height) * height];
  }

  /**
   * @param {string} name
   * @param {any} attributes
   * @param {any} [parent]
   */
  add(name, attributes, parent = this.svg) {
    const element = document.createElementNS(SVG, name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
    parent.append(element);
    return element;
  }

  draw() {
    const { size, boxes, guides, points, path } = this.source();
    this.svg.setAttribute("viewBox", `0 0 ${size[0]} ${size[1]}`);
    this.svg.replaceChildren();
    const unit = this.unitOf(size[0]);
    for (const guide of guides) {
      this.drawLabel(guide, size, unit);
      if (guide.from) continue;
      const line =
        guide.x !== undefined
          ? { x1: guide.x, x2: guide.x, y1: 0, y2: size[1] }
          : { y1: guide.y, y2: guide.y, x1: 0, x2: size[0] };
      this.add("line", { ...line, class: "guide" });
    }
    for (const box of boxes) {
      const points = box.corners.map((/** @type {any} */ corner) => corner.join(",")).join(" ");
      this.add("polygon", { points, class: `frame ${box.main ? "main" : ""} ${box.locked ? "locked" : ""}` });
      if (!box.main || box.locked) continue;
      const [a, b, c, d] = box.corners;
      /** @param {number[]} place */
      const at = ([u, v]) =>
        [0, 1].map((i) => a[i] * (1 - u) * (1 - v) + b[i] * u * (1 - v) + c[i] * u * v + d[i] * (1 - u) * v);
      if (!box.several) {
        const [top, middle] = [at([0.5, 0]), at([0.5, 0.5])];
        const away = Math.hypot(top[0] - middle[0], top[1] - middle[1]) || 1;
        const knob = [0, 1].map((i) => top[i] + ((top[i] - middle[i]) / away) * 22 * unit);
        this.add("line", { x1: top[0], y1: top[1], x2: knob[0], y2: knob[1], class: "stem" });
        this.add("circle", { cx: knob[0], cy: knob[1], r: 6 * unit, class: "knob", "data-handle": "turn" });
        SIDES.forEach((side, index) => {
          const [x, y] = at(side);
          this.add("circle", {
            cx: x,
            cy: y,
            r: (index % 2 ? 4.5 : 6) * unit,
            class: "grip",
            "data-handle": `size-${index}`,
          });
        });
        if (box.anchor) {
          const [x, y] = box.anchor;
          const reach = 7 * unit;
          this.add("path", { d: `M${x - reach} ${y}h${2 * reach}M${x} ${y - reach}v${2 * reach}`, class: "anchor" });
          this.add("circle", { cx: x, cy: y, r: reach, class: "anchor-grip", "data-handle": "anchor" });
        }
      }
    }
    if (path) this.add("path", { d: path, class: "pen-path" });
    this.drawPoints(points || [], unit);
  }

  /**
   * What a line is, or how long a distance.
   * @param {any} guide
   * @param {number[]} size
   * @param {number} unit
   */
  drawLabel({ x, y, from, to, text }, size, unit) {
    if (from) this.add("line", { x1: from[0], y1: from[1], x2: to[0], y2: to[1], class: "distance" });
    if (!text) return;
    const far = 80 * unit;
    const at = from
      ? [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2 - (from[1] === to[1] ? 4 * unit : 0)]
      : [x === undefined ? size[0] - far : Math.min(Math.max(x, far), size[0] - far), (y ?? 0) + 14 * unit];
    const middle = { "text-anchor": "middle", "font-size": 12 * unit, class: from ? "distance-text" : "guide-text" };
    this.add("text", { x: at[0], y: Math.min(at[1], size[1] - 4 * unit), ...middle }).textContent = text;
  }

  /**
   * Handles of the open mask or effect: over all else, so that they can always be taken.
   * @param {any[]} points
   * @param {any} unit
   */
  drawPoints(points, unit) {
    for (const { at, from } of points)
      if (from) this.add("line", { x1: from[0], y1: from[1], x2: at[0], y2: at[1], class: "part-stem" });
    for (const { what, at, title } of points) {
      const round = !what.startsWith("corner") && !what.startsWith("size");
      const attributes = { class: `part-point ${what.split(" ")[0]}`, "data-handle": `part:${what}` };
      const side = 6 * unit;
      const element = round
        ? this.add("circle", { cx: at[0], cy: at[1], r: 7 * unit, ...attributes })
        : this.add("rect", { x: at[0] - side, y: at[1] - side, width: 2 * side, height: 2 * side, ...attributes });
      this.add("title", {}, element).textContent = title;
    }
  }

  listen() {
    const { svg } = this;
    svg.addEventListener("pointerdown", (event) => {
      if (event.button !== 0) return;
      svg.setPointerCapture(event.pointerId);
      svg.focus({ preventScroll: true });
      this.begin = this.point(event);
      this.dragging = this.on.down(/** @type {any} */ (event.target).dataset.handle || "", this.begin, event);
    });
    svg.addEventListener("pointermove", (event) => {
      if (this.dragging) this.on.move(this.point(event), event);
    });
    svg.addEventListener("pointerup", () => {
      if (this.dragging) this.on.up();
      this.dragging = false;
    });
    svg.addEventListener("wheel", (event) => this.on.wheel(event), { passive: false });
    svg.addEventListener("pointercancel", () => {
      if (this.dragging) this.on.cancel();
      this.dragging = false;
    });
  }
}
