// Beats dragged to where they are heard, and back.

import { movedTime, withMoved, withoutMoved } from "../lib/moved_beats.js";
import { partWith } from "../lib/studio_part.js";

export class BeatMoves extends partWith("playback", "project", "raw", "tempo", "trim", "views") {
  /** @type {import("../lib/moved_beats.js").Moved[] | null} what is being dragged */
  draft = null;
  /** @type {boolean | null} null until somebody chooses */
  chosen = null;

  get moved() {
    return this.tempo.beatValue("moved");
  }

  get count() {
    return this.moved.filter((/** @type {number[]} */ [was, at]) => was !== at).length;
  }

  /** Measured beats are right but for a few; an even grid is drawn to the sound as a whole. */
  get alone() {
    return this.chosen ?? ["measured", "clicks"].includes(this.tempo.beatValue("source"));
  }

  moveAlone() {
    this.chosen = true;
  }

  moveAlong() {
    this.chosen = false;
  }

  /** Seconds of the recording at which beats would be without the moves. */
  get places() {
    return this.raw(this.tempo.beatGrid.beats).map((/** @type {any} */ row) => row[2] + this.trim.inS);
  }

  /** Beats as the whole recording shows them: seconds of the recording, and whether a bar begins. */
  get shown() {
    const { inS } = this.trim;
    return this.raw(this.tempo.beatGrid.beats).map((/** @type {any} */ [time, first, was]) => [
      this.draft ? movedTime(this.draft, was + inS) : time + inS,
      first,
    ]);
  }

  /**
   * The beat whose grip lies there, or -1.
   * @param {number} second of the recording
   * @param {number} reach
   */
  at(second, reach) {
    let best = -1;
    let near = reach;
    this.shown.forEach((/** @type {any} */ [time], /** @type {number} */ index) => {
      if (Math.abs(time - second) > near) return;
      near = Math.abs(time - second);
      best = index;
    });
    return best;
  }

  /**
   * @param {number} index
   * @param {number} second of the recording
   */
  drag(index, second) {
    this.draft = withMoved(this.raw(this.moved), this.places, index, second, this.alone);
    this.views.whole.draw();
  }

  place() {
    const { draft } = this;
    this.draft = null;
    if (draft) this.tempo.putBeats("Move a beat", { moved: draft });
  }

  /** @param {number} index */
  back(index) {
    this.tempo.putBeats("Move a beat back", { moved: withoutMoved(this.raw(this.moved), this.places[index]) });
  }

  /** The nearest beat goes to the playhead. */
  here() {
    const second = this.trim.inS + this.playback.frame / this.project.rate;
    const index = this.at(second, Infinity);
    if (index < 0) return;
    this.drag(index, second);
    this.place();
  }

  get backText() {
    return this.count === 1 ? "the moved beat back" : `all ${this.count} moved beats back`;
  }

  allBack() {
    this.tempo.putBeats("All beats back", { moved: [] });
  }
}
