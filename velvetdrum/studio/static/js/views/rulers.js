// Rulers along the picture, the guides that are dragged out of them, and the grid.

const SVG = "http://www.w3.org/2000/svg";
const THICK_PX = 16;
const APART_PX = 48;
const STEPS = [1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000];

/**
 * `source()` gives {size, unit, guides, grid, shown}; `unit` is `px` or `%`, `grid` in pixels. `on` hears
 * added(axis, per cent), moved(index, per cent).
 */
export class Rulers {
  /** @type {{axis: "x" | "y", index: number, at: number} | null} */
  drag = null;

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
    svg.addEventListener("pointerdown", (event) => this.down(event));
    svg.addEventListener("pointermove", (event) => this.move(event));
    svg.addEventListener("pointerup", () => this.up());
    svg.addEventListener("pointercancel", () => {
      this.drag = null;
      this.draw();
    });
  }

  /**
   * @param {string} name
   * @param {any} attributes
   */
  add(name, attributes) {
    const element = document.createElementNS(SVG, name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
    this.svg.append(element);
    return element;
  }

  /** Pixels of the frame in one of the screen, by the picture under them: they themselves may be hidden still. */
  get unit() {
    const [width] = this.source().size;
    return width / (this.svg.parentElement?.getBoundingClientRect().width || width);
  }

  draw() {
    const { size, guides, grid, shown } = this.source();
    this.svg.replaceChildren();
    if (!shown) return;
    const [width, height] = size;
    this.svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
    const { unit } = this;
    if (grid) this.drawGrid(size, grid);
    const lines = [...guides];
    if (this.drag && this.drag.index < 0) lines.push(this.drag);
    lines.forEach((guide, index) => {
      const at = this.drag && this.drag.index === index ? this.drag.at : guide.at;
      this.drawGuide(guide.axis, (at / 100) * (guide.axis === "x" ? width : height), size, index, unit);
    });
    this.drawRuler("x", size, unit);
    this.drawRuler("y", size, unit);
  }

  /**
   * Lines from the middle of the frame outward.
   * @param {number[]} size
   * @param {number} step
   */
  drawGrid([width, height], step) {
    let path = "";
    for (let x = (width / 2) % step; x <= width; x += step) path += `M${x} 0V${height}`;
    for (let y = (height / 2) % step; y <= height; y += step) path += `M0 ${y}H${width}`;
    this.add("path", { d: path, class: "grid" });
  }

  /** @type {(axis: "x" | "y", at: number, size: number[], index: number, unit: number) => void} */
  drawGuide(axis, at, [width, height], index, unit) {
    const line = axis === "x" ? { x1: at, x2: at, y1: 0, y2: height } : { y1: at, y2: at, x1: 0, x2: width };
    this.add("line", { ...line, class: "own-guide" });
    const wide = { "stroke-width": 24 * unit, "data-guide": index };
    this.add("line", { ...line, ...wide, class: `guide-hold along-${axis}` });
  }

  /** @type {(axis: "x" | "y", size: number[], unit: number) => void} */
  drawRuler(axis, size, unit) {
    const across = axis === "x";
    const side = size[across ? 0 : 1];
    const thick = THICK_PX * unit;
    const { unit: shown } = this.source();
    const whole = shown === "px" ? side : 100;
    const rect = across ? { width: side, height: thick } : { width: thick, height: side };
    this.add("rect", { x: 0, y: 0, ...rect, class: `ruler along-${axis}`, "data-ruler": axis });
    const step = STEPS.find((candidate) => (candidate / whole) * side > APART_PX * unit) || whole;
    let path = "";
    for (let value = step; value < whole; value += step) {
      const at = (value / whole) * side;
      path += across ? `M${at} 0V${thick}` : `M0 ${at}H${thick}`;
      const place = across
        ? { x: at + 3 * unit, y: thick - 4 * unit }
        : { x: thick - 4 * unit, y: at + 3 * unit, transform: `rotate(-90 ${thick - 4 * unit} ${at - 3 * unit})` };
      this.add("text", { ...place, "font-size": 10 * unit, class: "ruler-text" }).textContent = String(value);
    }
    this.add("path", { d: path, class: "ruler-marks" });
  }

  /**
   * Per cent of the frame's side.
   * @param {PointerEvent} event
   * @param {"x" | "y"} axis
   */
  placeOf(event, axis) {
    const box = this.svg.getBoundingClientRect();
    const share = axis === "x" ? (event.clientX - box.left) / box.width : (event.clientY - box.top) / box.height;
    const { size, unit } = this.source();
    // Whole pixels or half per cents, finer with Alt.
    const step = event.altKey ? 0.01 : unit === "px" ? 100 / size[axis === "x" ? 0 : 1] : 0.5;
    return Math.round((share * 100) / step) * step;
  }

  /** @param {PointerEvent} event */
  down(event) {
    const { guide, ruler } = /** @type {any} */ (event.target).dataset;
    if (event.button !== 0 || (guide === undefined && !ruler)) return;
    event.preventDefault();
    this.svg.setPointerCapture(event.pointerId);
    // Out of the ruler that runs along the frame comes a line of the same way.
    const axis = ruler ? (ruler === "x" ? "y" : "x") : this.source().guides[Number(guide)].axis;
    this.drag = { axis, index: ruler ? -1 : Number(guide), at: this.placeOf(event, axis) };
  }

  /** @param {PointerEvent} event */
  move(event) {
    if (!this.drag) return;
    this.drag.at = this.placeOf(event, this.drag.axis);
    this.draw();
  }

  up() {
    const { drag } = this;
    this.drag = null;
    if (!drag) return;
    const side = this.source().size[drag.axis === "x" ? 0 : 1];
    const { unit } = this;
    // Back on its ruler, it is taken away.
    const gone = (drag.at / 100) * side < THICK_PX * unit || drag.at > 100;
    if (drag.index >= 0) this.on.moved(drag.index, gone ? -1 : drag.at);
    else if (!gone) this.on.added(drag.axis, drag.at);
    this.draw();
  }
}
