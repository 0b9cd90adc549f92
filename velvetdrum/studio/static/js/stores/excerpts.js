// Stretches that carry best: heard with one press, made the part that is exported with another.

import { ask, refusalOf } from "../lib/api.js";
import { clock } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

const LENGTHS = [15, 30, 60];
const COLOURS = ["brass", "sea", "iris"];

export class Excerpts extends partWith("newExport", "playback", "project", "selection", "views") {
  length = 15;
  /** @type {any[]} */
  found = [];
  fault = "";
  seen = { start: 0, span: 1 };
  asked = "";
  get shown() {
    return this.selection.room === "export" && Boolean(this.project.track);
  }

  get lengths() {
    return LENGTHS;
  }

  /** @param {number} seconds */
  setLength(seconds) {
    this.length = seconds;
    this.load();
  }

  async load() {
    if (!this.shown) return;
    const { state } = this.project;
    const key = `${state.id} ${state.revision} ${this.length}`;
    if (key === this.asked) return;
    this.asked = key;
    try {
      const found = await ask(`/projects/${state.id}/excerpts?length_s=${this.length}`);
      if (this.asked !== key) return;
      this.found = found.map((/** @type {any} */ item, /** @type {number} */ index) => ({
        ...item,
        id: index,
        colour: COLOURS[index % COLOURS.length],
      }));
      this.fault = "";
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  /** What of the length the strip shows: read when it was drawn, not for every frame. */
  follow() {
    const { start, span } = this.views.strip.seen;
    if (start !== this.seen.start || span !== this.seen.span) this.seen = { start, span };
  }

  /** @param {any} item */
  text(item) {
    return `${clock(item.start_s, 0)} ${item.why}`;
  }

  /** @param {any} item */
  bar(item) {
    const { start, span } = this.seen;
    const left = Math.max(0, (item.start_s - start) / span);
    const right = Math.min(1, (item.end_s - start) / span);
    return {
      "--bar": `var(--${item.colour})`,
      left: `${left * 100}%`,
      width: `${Math.max(0, right - left) * 100}%`,
      visibility: right > left ? "visible" : "hidden",
    };
  }

  /** @param {any} item */
  isPart(item) {
    const { stretch } = this.newExport;
    return Boolean(stretch && Math.abs(stretch[0] - item.start_s) < 0.05 && Math.abs(stretch[1] - item.end_s) < 0.05);
  }

  /**
   * It becomes the loop and the part that is exported.
   * @param {any} item
   */
  use(item) {
    this.playback.setLoop(item.start_s, item.end_s);
    this.newExport.set("part", "loop");
    this.playback.seek(Math.round(item.start_s * this.project.rate));
  }

  /** @param {any} item */
  hear(item) {
    this.use(item);
    if (!this.playback.playing) this.playback.toggle();
  }
}
