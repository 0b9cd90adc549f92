// A canvas under the strip: what it shows lies at the same seconds, with the playhead over it.

import { CanvasView } from "./canvas_view.js";
import { Playhead } from "./playhead.js";

/** `source()` gives at least {seen: {start, span}}, the stretch of the strip in seconds. */
export class TimedCanvas extends CanvasView {
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
  width = 0; // of the canvas, when it was read last
  listen() {}

  /**
   * The playhead is at a second; where the strip has moved on, the lanes are drawn anew.
   * @param {number} now
   * @param {any} seen
   */
  follow(now, seen) {
    if (!this.view) return;
    if (seen && (seen.start !== this.view.seen.start || seen.span !== this.view.seen.span)) {
      this.draw();
      return;
    }
    this.playhead.place(this.x(now), 0, this.width);
  }

  /** Read what there is once, before a paint or an answer to the pointer. */
  read() {
    this.view ||= this.source();
    this.width = this.box ? this.box.width : this.canvas.getBoundingClientRect().width;
    return this.view;
  }
  /** @param {number} second */
  x(second) {
    const { seen } = this.view || this.read();
    return ((second - seen.start) / seen.span) * this.width;
  }
  /** @param {number} x */
  second(x) {
    const { seen } = this.view || this.read();
    return seen.start + (x / this.width) * seen.span;
  }
}
