// The playhead over a canvas: an element of its own, so that moving it draws nothing else anew.

export class Playhead {
  /** @param {HTMLCanvasElement} canvas stands in a positioned element, which the playhead is put in */
  constructor(canvas, knob = false) {
    this.line = document.createElement("i");
    this.line.className = knob ? "playhead knob" : "playhead";
    this.line.setAttribute("aria-hidden", "true");
    /** @type {HTMLElement} */ (canvas.parentElement).append(this.line);
    this.shown = true;
  }

  /**
   * Move it to a place in CSS pixels from the canvas' left; hidden outside of it.
   * @param {number} x
   * @param {any} left
   * @param {any} right
   */
  place(x, left, right) {
    const shown = x >= left - 1 && x <= right + 1;
    if (shown !== this.shown) {
      this.shown = shown;
      this.line.hidden = !shown;
    }
    if (shown) this.line.style.transform = `translateX(${x}px)`;
  }
}
