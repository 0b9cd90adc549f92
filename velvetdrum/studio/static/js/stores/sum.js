// The sum of the tracks: asked for after each change of them, until it is there.

import { ask, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

const POLL_MS = 250;
const PATIENCE_MS = 1500;
const RATE = 48000;

export class Sum extends partWith("events", "given", "messages", "page", "project", "sound", "views") {
  pending = ""; // what is said while it is being made
  busy = false;
  lasts = false; // longer than somebody waits to hear a change
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

  /** Where the sound of a sum that is still being made comes from, once that lasts: it is mixed while it plays. */
  get now() {
    if (!this.lasts) return {};
    const { track, state } = this.project;
    const samples = Math.ceil((track ? track.out_s : 0) * RATE);
    return {
      address: `/projects/${state.id}`,
      query: "&sum=now",
      mark: `now:${state.revision}`,
      samples,
      channels: 2,
    };
  }

  /** The player goes on, where it is, with what is mixed while it plays. */
  async mixNow() {
    if (this.lasts || !this.sound.facts) return;
    this.lasts = true;
    this.sound.setTrack();
    const { player } = this.views;
    if (player.playing) await player.seek(player.now);
  }

  /** Ask until all that is heard is there; then all that shows it is drawn anew. */
  async follow(force = false) {
    const mark = this.heardMark;
    if (mark === this.mark && !force) return;
    this.mark = mark;
    this.busy = true;
    this.lasts = false;
    const begun = performance.now();
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
        if (performance.now() - begun > PATIENCE_MS) await this.mixNow();
        await wait(POLL_MS);
      }
      this.pending = "";
    } catch (thrown) {
      this.busy = this.lasts = false;
      this.pending = "";
      this.messages.tell(refusalOf(thrown).message || /** @type {any} */ (thrown).message);
      return;
    }
    this.busy = this.lasts = false;
    this.views.player.blocks.clear();
    this.page.changed();
    this.page.refresh();
    this.views.trackLanes.draw();
    this.views.levelMeters.draw();
  }
}
