// Tapping along: a key for each line, or each word, while the sound plays; corrected by how late the hand is.

import { ask, refusalOf } from "../lib/api.js";
import { partWith } from "../lib/studio_part.js";

const NAME = "velvet-tap-delay";
const CLICKS = 10;
const BETWEEN_S = 0.6;

export class Tapping extends partWith("cueEdits", "cues", "messages", "page", "playback", "project", "views") {
  text = "";
  byWord = false;
  half = false;
  on = false;
  /** @type {any[]} */
  taps = [];
  fault = "";
  delay = 0;
  /** @type {any} */
  measuring = null; // {clicks, taps}

  open() {
    const { row } = this.cues;
    if (!this.text && row.length) this.text = row.map(({ text }) => text.replaceAll("\n", " ")).join("\n");
    this.delay = Number(localStorage.getItem(NAME)) || 0;
    this.fault = "";
    this.page.refs.tapping.showModal();
  }

  close() {
    this.page.refs.tapping.close();
  }

  get units() {
    const lines = this.text.split("\n").filter((line) => line.trim());
    return this.byWord ? lines.flatMap((line) => line.split(/\s+/).filter(Boolean)) : lines;
  }

  get nextUnit() {
    return this.units[this.taps.length] || "";
  }

  get unitAfter() {
    return this.units[this.taps.length + 1] || "";
  }

  get progressText() {
    return `${Math.min(this.taps.length, this.units.length)} of ${this.units.length}`;
  }

  get delayText() {
    return this.delay ? `${Math.round(this.delay * 1000)} ms are taken off each tap` : "not measured yet";
  }

  async begin() {
    if (!this.units.length) {
      this.fault = "There is nothing to tap yet: paste the words, a line each.";
      return;
    }
    if (!this.project.track) {
      this.fault = "There is no sound in this project yet. Drop one on the page.";
      return;
    }
    this.close();
    this.taps = [];
    this.on = true;
    if (this.playback.playing) await this.playback.toggle();
    this.views.player.speed = this.half ? 0.5 : this.playback.speed;
    await this.playback.toggle();
  }

  tap() {
    if (this.measuring) {
      this.measuring.taps.push(performance.now() / 1000);
      return;
    }
    if (!this.on || this.taps.length > this.units.length) return;
    this.taps = [...this.taps, this.cues.inS + this.views.player.now / this.project.rate];
    // The tap after the last line says where that ends.
    if (this.taps.length > this.units.length) this.finish();
  }

  /** Take back the last tap, and go a little before it. */
  takeBack() {
    const last = this.taps[this.taps.length - 1];
    if (last === undefined) return;
    this.taps = this.taps.slice(0, -1);
    this.playback.seek(Math.max(0, (last - this.cues.inS - 1.5) * this.project.rate));
  }

  async finish() {
    this.on = false;
    if (this.playback.playing) await this.playback.toggle();
    this.views.player.speed = this.playback.speed;
    if (!this.taps.length) return;
    try {
      const delay = this.half ? this.delay / 2 : this.delay;
      const json = { text: this.text, taps_s: this.taps, delay_s: delay, by_word: this.byWord };
      const { cues } = await ask(`/projects/${this.project.state.id}/tapped`, { json });
      this.cueEdits.take("Tap the words", cues, "");
      this.messages.tell(`${Object.keys(cues).length} cues were tapped.`);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
  }

  /** Clicks to tap to: how late the hand is, measured once in this browser. */
  async measure() {
    const context = new AudioContext();
    await context.resume();
    const begin = context.currentTime + 0.6;
    const offset = performance.now() / 1000 - context.currentTime + (context.outputLatency || 0);
    const clicks = [];
    for (let n = 0; n < CLICKS; n += 1) {
      const at = begin + n * BETWEEN_S;
      const tone = new OscillatorNode(context, { frequency: 1400 });
      const level = new GainNode(context, { gain: 0 });
      level.gain.setValueAtTime(0.5, at);
      level.gain.exponentialRampToValueAtTime(0.001, at + 0.06);
      tone.connect(level).connect(context.destination);
      tone.start(at);
      tone.stop(at + 0.08);
      clicks.push(at + offset);
    }
    this.fault = "";
    this.measuring = { clicks, taps: [] };
    setTimeout(() => this.measured(context), (0.9 + CLICKS * BETWEEN_S) * 1000);
  }

  /** @param {AudioContext} context */
  async measured(context) {
    const { clicks, taps } = this.measuring;
    this.measuring = null;
    context.close();
    try {
      const { delay_s } = await ask("/tap-delay", { json: { clicks_s: clicks, taps_s: taps } });
      this.delay = delay_s;
      localStorage.setItem(NAME, String(delay_s));
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  get measureText() {
    return this.measuring ? `tap with the clicks (${this.measuring.taps.length})` : "Measure the hand";
  }
}
