// What the frame on show tells instruments, and what its layers and effects cost.

import { ask, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

const REST_MS = 350;

export class Readings extends partWith("playback", "project", "selection", "views") {
  shown = false;
  /** @type {Record<string, number>} */
  costs = {};
  width = 0;
  black = 0;
  white = 0;
  fault = "";
  /** @type {any} */
  timer = null;

  /** @param {PressEvent} event */
  toggle(event) {
    this.shown = event.target.open;
    if (this.shown) this.load();
  }

  /** Once the picture rests. */
  later() {
    if (!this.shown) return;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.load(), REST_MS);
  }

  async load() {
    const { playback, project, selection, views } = this;
    if (playback.playing || selection.room !== "picture" || project.draft) return;
    try {
      await project.settled();
      const found = await ask(`/projects/${project.state.id}/readings`, { json: { frame: playback.frame } });
      Object.assign(this, { costs: found.costs, width: found.width, black: found.black, white: found.white });
      this.fault = "";
      views.instruments.show(found);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  /** @param {number} share */
  percent(share) {
    return `${(share * 100).toFixed(share > 0 && share < 0.1 ? 1 : 0)} %`;
  }

  get clippedText() {
    return `${this.percent(this.black)} of it has a channel at black, ${this.percent(this.white)} one at white`;
  }

  /**
   * Milliseconds of a layer, or of one of its effects, on this frame.
   * @param {Layer} layer
   * @param {Part | null} [part]
   */
  costText(layer, part = null) {
    const ms = layer ? this.costs[part ? `${layer.id}/${part.id}` : layer.id] : undefined;
    return this.shown && ms !== undefined ? `${ms < 10 ? ms.toFixed(1) : Math.round(ms)} ms` : "";
  }

  get totalText() {
    const { layers } = this.project.document;
    const sum = layers.filter(({ group }) => !group).reduce((total, { id }) => total + (this.costs[id] || 0), 0);
    return this.width ? `${sum.toFixed(1)} ms to draw at ${this.width} px` : "";
  }
}
