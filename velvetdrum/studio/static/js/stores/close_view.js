// The picture looked at closer than it fits, with panning; and in a window of its own.

import { partWith } from "../lib/studio_part.js";

const CLOSER = [0, 1, 2, 4];
const WORDS = ["as large as fits", "at 100 %", "at 200 %", "at 400 %"];

export class CloseView extends partWith("formats", "messages", "page", "project", "stage", "views") {
  /** Pixels of the screen for one of the frame; 0: as large as fits. */
  scale = 0;
  /** @type {Window | null} */
  window = null;
  /** @type {any} */
  pan = null;

  get text() {
    return `Picture ${WORDS[CLOSER.indexOf(this.scale)]}`;
  }

  /** From as large as fits to ever closer, and back. */
  next() {
    this.scale = CLOSER[(CLOSER.indexOf(this.scale) + 1) % CLOSER.length];
    this.stage.fitStage();
    this.stage.showStill();
    const { stage } = this.page.refs;
    stage.scrollLeft = (stage.scrollWidth - stage.clientWidth) / 2;
    stage.scrollTop = (stage.scrollHeight - stage.clientHeight) / 2;
    this.messages.tell(`${this.text}${this.scale ? ": drag with the middle button, or scroll" : ""}.`);
  }

  /** @param {any} event */
  press(event) {
    if (event.button !== 1 || !this.scale) return;
    event.preventDefault();
    const { stage } = this.page.refs;
    this.pan = { x: event.clientX + stage.scrollLeft, y: event.clientY + stage.scrollTop };
    stage.setPointerCapture(event.pointerId);
  }

  /** @param {any} event */
  move(event) {
    if (!this.pan) return;
    const { stage } = this.page.refs;
    stage.scrollLeft = this.pan.x - event.clientX;
    stage.scrollTop = this.pan.y - event.clientY;
  }

  drop() {
    this.pan = null;
  }

  /** Opens the window of the picture alone, or brings it to the front. */
  detach() {
    if (this.window && !this.window.closed) {
      this.window.focus();
      return;
    }
    const { width, height } = this.formats.frameSize;
    const wide = Math.min(960, width);
    const size = `width=${wide},height=${Math.round((wide * height) / width)}`;
    this.window = window.open(`/projects/${this.project.state.id}/picture-window`, "", `popup,${size}`);
    if (!this.window) {
      this.messages.tell("The browser did not open a window. Allow windows of this page, then try again.");
      return;
    }
    this.window.addEventListener("load", () => this.mirror());
  }

  /** The picture of the stage in the other window, as often as that is drawn; as sharp as the other window is large. */
  mirror() {
    const other = this.window;
    if (!other || other.closed) return;
    const canvas = /** @type {HTMLCanvasElement} */ (other.document.querySelector("canvas"));
    const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
    const { preview } = this.views;
    const wanted = () => Math.round(other.innerWidth * (other.devicePixelRatio || 1));
    preview.least = wanted();
    other.addEventListener("resize", () => {
      preview.least = wanted();
      this.stage.showStill();
    });
    const draw = () => {
      if (other.closed) {
        Object.assign(preview, { least: 0, drawn: null });
        return;
      }
      const from = preview.canvas;
      if (canvas.width !== from.width || canvas.height !== from.height)
        Object.assign(canvas, { width: from.width, height: from.height });
      context.drawImage(from, 0, 0);
    };
    other.addEventListener("pagehide", () => Object.assign(preview, { least: 0, drawn: null }));
    preview.drawn = draw;
    draw();
    this.stage.showStill();
  }
}
