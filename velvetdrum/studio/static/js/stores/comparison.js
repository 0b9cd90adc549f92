// Another state of the picture beside the present one, to the right of an edge that is dragged.

import { ask, refusalOf, unpack } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

const MOST_PX = 960;

/** @typedef {{ patch: Step[], revision: number }} Other what leads to the other state, and from where */

export class Comparison extends partWith("beforeAfter", "events", "messages", "placement", "playback", "project") {
  title = "";
  share = 50;
  address = "";
  /** @type {(() => Promise<Other>) | null} */
  read = null;
  turn = 0;

  get on() {
    return this.title !== "";
  }

  /**
   * @param {string} title
   * @param {() => Promise<Other>} read asked anew after each change, since what leads there is other then
   */
  begin(title, read) {
    if (!this.listening) {
      this.listening = true;
      for (const event of ["saved", "rest", "stopped"]) this.events.on(event, () => this.draw());
    }
    this.title = title;
    this.read = read;
    this.share = 50;
    this.draw();
  }

  listening = false;

  end() {
    this.title = "";
    this.read = null;
    this.turn += 1;
    this.free();
  }

  /** The picture without its effects at one side of the edge; a second press ends it. */
  withoutEffects() {
    if (this.on) {
      this.end();
      return;
    }
    const { steps } = this.beforeAfter;
    if (!steps.length) {
      this.messages.tell("No layer has an effect.");
      return;
    }
    this.begin("without effects", async () => ({
      patch: this.beforeAfter.steps,
      revision: this.project.state.revision,
    }));
  }

  async draw() {
    if (!this.read || this.playback.playing) return;
    const turn = (this.turn += 1);
    try {
      const { patch, revision } = await this.read();
      const width = Math.max(16, Math.min(MOST_PX, this.placement.stageSize[0]));
      const json = { frames: [this.playback.frame], width, form: "jpeg", draft: patch, revision };
      const [{ blob }] = unpack(
        await ask(`/projects/${this.project.state.id}/frames`, { json, bytes: true }),
        "jpeg",
      );
      if (turn !== this.turn) return;
      this.free();
      this.address = URL.createObjectURL(blob);
    } catch (thrown) {
      if (turn !== this.turn) return;
      this.messages.tell(refusalOf(thrown).message);
      this.end();
    }
  }

  free() {
    if (this.address) URL.revokeObjectURL(this.address);
    this.address = "";
  }

  /** @param {FieldEvent} event */
  slide(event) {
    this.share = Number(event.target.value);
  }

  get style() {
    return { clipPath: `inset(0 0 0 ${this.share}%)` };
  }

  get edgeStyle() {
    return { left: `${this.share}%` };
  }

  get valueText() {
    return `now to the left, ${this.title} to the right of ${Math.round(this.share)} %`;
  }
}
