// What all canvases of the page share: sharp pixels, the page's colours, one drawing per screen refresh.

export class CanvasView {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {() => any} source gives a plain snapshot of what there is to draw
   * @param {Record<string, (...values: any[]) => any>} on hears what the pointer does
   */
  constructor(canvas, source, on) {
    this.source = source;
    this.on = on;
    this.__v_skip = true; // Alpine then leaves the object as it is: clocks and canvases must not be wrapped
    this.canvas = canvas;
    this.context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
    // What a canvas measures is told when it changes: asking for it on each drawing makes the page be laid out anew.
    new ResizeObserver(() => {
      this.box = canvas.getBoundingClientRect();
      this.draw();
    }).observe(canvas);
    this.colours = new Map(); // asking the page for a colour costs more than drawing a line
    window.addEventListener("velvet-theme", () => {
      this.colours.clear();
      this.draw();
    });
  }

  /**
   * Draws everything, in CSS pixels.
   * @param {any} _context
   * @param {number} _width
   * @param {number} _height
   */
  paint(_context, _width, _height) {}

  /** Draw what there is now, with the next refresh of the screen. */
  draw() {
    /** @type {any} what there is, read once a drawing */
    this.view = null;
    this.schedule();
  }

  schedule() {
    if (this.pending) return;
    this.pending = requestAnimationFrame(() => {
      this.pending = null;
      this.box ||= this.canvas.getBoundingClientRect();
      const { box } = this;
      if (box.width < 2) return;
      const scale = window.devicePixelRatio || 1;
      const [width, height] = [Math.round(box.width * scale), Math.round(box.height * scale)];
      if (this.canvas.width !== width || this.canvas.height !== height) Object.assign(this.canvas, { width, height });
      this.context.setTransform(scale, 0, 0, scale, 0, 0);
      this.context.clearRect(0, 0, box.width, box.height);
      this.paint(this.context, box.width, box.height);
    });
  }

  /**
   * Words in a signal's colour, where the ground is dark enough to read them.
   * @param {string} colour
   */
  inkOf(colour) {
    return document.documentElement.dataset.theme === "light" ? "ink" : colour;
  }

  /**
   * A colour of the page by its name, or one given as #rrggbb.
   * @param {string} name
   */
  colour(name) {
    if (name.startsWith("#")) return name;
    if (!this.colours.has(name))
      this.colours.set(name, getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim());
    return this.colours.get(name);
  }

  /**
   * @param {any} context
   * @param {string} text
   * @param {number} x
   * @param {number} y
   * @param {string} [colour]
   * @param {string} [align]
   * @param {number} [weight]
   */
  text(context, text, x, y, colour = "dim", align = "start", weight = 400) {
    context.font = `${weight} 12px "Work Sans", sans-serif`;
    context.fillStyle = this.colour(colour);
    context.textAlign = align;
    context.textBaseline = "alphabetic";
    context.fillText(text, x, y);
    context.textAlign = "start";
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {number[][]} points
   * @param {string} colour
   * @param {number} [width]
   */
  line(context, points, colour, width = 1) {
    context.strokeStyle = this.colour(colour);
    context.lineWidth = width;
    context.lineJoin = "round";
    context.beginPath();
    points.forEach(([x, y], index) => (index ? context.lineTo(x, y) : context.moveTo(x, y)));
    context.stroke();
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {number[][]} points
   * @param {string} colour
   * @param {number} [opacity]
   */
  fill(context, points, colour, opacity = 1) {
    context.globalAlpha = opacity;
    context.fillStyle = this.colour(colour);
    context.beginPath();
    points.forEach(([x, y], index) => (index ? context.lineTo(x, y) : context.moveTo(x, y)));
    context.fill();
    context.globalAlpha = 1;
  }

  /**
   * A keyframe.
   * @param {CanvasRenderingContext2D} context
   * @param {number} x
   * @param {number} y
   * @param {any} size
   * @param {string} colour
   * @param {string} edge
   */
  diamond(context, x, y, size, colour, edge) {
    context.fillStyle = this.colour(colour);
    context.strokeStyle = this.colour(edge);
    context.lineWidth = 1.5;
    context.beginPath();
    context.moveTo(x, y - size);
    context.lineTo(x + size, y);
    context.lineTo(x, y + size);
    context.lineTo(x - size, y);
    context.closePath();
    context.fill();
    context.stroke();
  }

  /** @param {any} event */
  place(event) {
    const box = this.canvas.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top, width: box.width, height: box.height };
  }
}
