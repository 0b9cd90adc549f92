// The sum of the tracks: asked for after each change of them, until it is there.

import { ask, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

const POLL_MS = 250;

export class Sum extends partWith("events", "given", "messages", "page", "project", "views") {
  pending = ""; // what is said while it is being made
  busy = false;
  mark = "";

  listen() {
    this.mark = this.heardMark;
    if (this.given.sum.ready) this.project.heardKey = this.given.sum.key;
    this.events.on("saved", () => this.follow());
    if (!this.given.sum.ready) this.follow(true);
  }

  /** What of the document the sum, and what else is listened to, depends on. */
  get heardMark() {
    const { beats, tracks, used, signals, layers } = this.project.state.document;
    const listens = (/** @type {any[]} */ items) => items.map(({ settings }) => settings.listens || "").join();
    return JSON.stringify([tracks, used, beats.listens, listens(signals), listens(layers)]);
  }

  /** Ask until all that is heard is there; then all that shows it is drawn anew. */
  async follow(force = false) {
    const mark = this.heardMark;
    if (mark === this.mark && !force) return;
    this.mark = mark;
    this.busy = true;
    try {
      for (;;) {
        const state = await ask(`/projects/${this.project.state.id}/sum`);
        if (this.mark !== mark) return;
        if (state.ready) {
          this.project.heardKey = state.key;
          break;
        }
        if (state.sentence) throw new Error(state.sentence);
        this.pending = `The sum of the tracks is being made: ${Math.round(state.share * 100)} %`;
        await wait(POLL_MS);
      }
      this.pending = "";
    } catch (thrown) {
      this.busy = false;
      this.pending = "";
      this.messages.tell(refusalOf(thrown).message || /** @type {any} */ (thrown).message);
      return;
    }
    this.busy = false;
    this.views.player.blocks.clear();
    this.page.changed();
    this.page.refresh();
    this.views.trackLanes.draw();
    this.views.levelMeters.draw();
  }
}
