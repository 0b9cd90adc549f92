// The beat grid: what was measured, and what people say about it.

import { ask, refusalOf } from "../lib/api.js";
import { readNumber } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

/** @type {any} */
const EMPTY = { tempo_bpm: null, measured_bpm: null, confidence: 0, beats: [], readings: [] };

export class Tempo extends partWith("events", "given", "playback", "project", "trim", "views") {
  /** @type {any} */
  beatMark = null;
  beatGrid = EMPTY;
  snapping = true;
  /** @type {number[]} */
  taps = [];
  beatFault = "";
  /** @param {any} name */
  beatValue(name) {
    const value = /** @type {Values} */ (this.project.document.beats)[name];
    return value === undefined
      ? /** @type {Setting} */ (this.given.beatSettings.find((setting) => setting.name === name)).default
      : value;
  }

  get sources() {
    const { choices } = /** @type {Setting} */ (this.given.beatSettings.find(({ name }) => name === "source"));
    return choices;
  }

  /** Whether the beats are found in a sound. */
  get isFound() {
    return ["measured", "clicks"].includes(this.beatValue("source"));
  }

  /** True when there are measured beats to go back to. */
  get beatsChanged() {
    return (
      Boolean(this.beatGrid.measured_bpm) &&
      (this.beatValue("source") !== "measured" ||
        this.beatValue("factor") !== "1" ||
        this.beatValue("shift") !== 0 ||
        this.beatValue("moved").length > 0)
    );
  }

  get bpmText() {
    return this.beatGrid.tempo_bpm ? `${this.beatGrid.tempo_bpm.toFixed(1)} bpm` : "no steady beat";
  }

  get beatNote() {
    const { measured_bpm: measured, confidence } = this.beatGrid;
    if (!this.project.track) return "";
    const source = this.beatValue("source");
    if (source === "map") return "Tempos and meters by the rows below.";
    if (source === "clicks")
      return this.beatGrid.tempo_bpm
        ? "Each click of the chosen track is a beat; accented ones begin bars."
        : "No clicks were heard. Choose the track that holds them.";
    if (source === "typed")
      return measured ? `Measured: ${measured.toFixed(2)} bpm.` : "No steady beat was found; this grid is yours.";
    if (!measured) {
      const found = `No steady beat was found (confidence ${confidence.toFixed(2)}).`;
      return `${found} Type a tempo, or tap along while it plays.`;
    }
    return `Measured ${measured.toFixed(2)} bpm, confidence ${confidence.toFixed(2)}.`;
  }

  async loadBeats() {
    const { beats, tracks, length_s, used } = this.project.document;
    const mark = JSON.stringify([beats, tracks, length_s, used, this.project.heardKey]);
    if (mark === this.beatMark) return;
    this.beatMark = mark;
    try {
      this.beatGrid = await ask(`/projects/${this.project.state.id}/beats`, {
        json: this.project.unsent || {},
      });
    } catch {
      this.beatMark = null;
    }
    this.events.emit("beats");
  }

  /**
   * @param {string} label
   * @param {any} change
   */
  putBeats(label, change) {
    this.beatFault = "";
    this.project.edit(
      label,
      Object.entries(change).map(([name, value]) => ({ op: "add", path: `/beats/${name}`, value })),
    );
    this.loadBeats();
  }

  /** @param {number} by */
  scaleBeats(by) {
    if (this.beatValue("source") === "map") return;
    if (this.beatValue("source") === "typed") {
      const tempo = this.beatValue("tempo_bpm") * by;
      if (tempo >= 20 && tempo <= 400) this.putBeats(by > 1 ? "Double tempo" : "Half tempo", { tempo_bpm: tempo });
      return;
    }
    const steps = ["1/4", "1/2", "1", "2", "4"];
    const next = steps[steps.indexOf(this.beatValue("factor")) + (by > 1 ? 1 : -1)];
    if (next) this.putBeats(by > 1 ? "Double tempo" : "Half tempo", { factor: next });
  }

  halfTempo() {
    this.scaleBeats(0.5);
  }

  doubleTempo() {
    this.scaleBeats(2);
  }

  /** @param {number} by */
  shiftBeats(by) {
    this.putBeats("Shift the beats", { shift: ((this.beatValue("shift") + by + 24) % 16) - 8 });
  }

  /** @param {FieldEvent} event */
  listenTo(event) {
    this.putBeats("Beats are found in another sound", { listens: event.target.value });
  }

  shiftBack() {
    this.shiftBeats(-1);
  }

  shiftOn() {
    this.shiftBeats(1);
  }

  measuredBeats() {
    this.putBeats("Beats as measured", { source: "measured", factor: "1", shift: 0, moved: [] });
  }

  /** The tempos to choose from, where there are several. */
  get readings() {
    return this.beatGrid.readings.length > 1 ? this.beatGrid.readings : [];
  }

  /** A choice of tempos is one among measured ones. */
  get showsReadings() {
    return this.readings.length > 0 && this.beatValue("source") === "measured";
  }

  /** @param {any} item */
  readingText(item) {
    return item.tempo_bpm.toFixed(1);
  }

  /** @param {any} item */
  readingTitle(item) {
    return `Take ${item.tempo_bpm.toFixed(2)} bpm, confidence ${item.confidence.toFixed(2)}`;
  }

  /** @param {any} item */
  readingConfidence(item) {
    return item.confidence.toFixed(2);
  }

  /** @param {any} item */
  isReading(item) {
    return this.beatValue("source") === "measured" && this.beatValue("reading") === item.reading;
  }

  /** @param {any} item */
  takeReading(item) {
    this.putBeats("Choose the tempo", { source: "measured", reading: item.reading, factor: "1", shift: 0 });
  }

  firstBarHere() {
    this.putBeats("First bar", {
      first_bar_s: Math.round((this.trim.inS + this.playback.frame / this.project.rate) * 1000) / 1000,
    });
  }

  /** @param {FieldEvent} event */
  typeTempo(event) {
    const value = readNumber(event.target.value.replace(/bpm\s*$/i, ""), this.beatGrid.tempo_bpm);
    if (!Number.isFinite(value) || value < 20 || value > 400) {
      this.beatFault = `The tempo goes from 20 to 400 bpm; “${event.target.value}” is not in it.`;
      return;
    }
    const anchor = this.beatGrid.beats.length ? this.beatGrid.beats[0][0] + this.trim.inS : this.trim.inS;
    /** @type {Partial<BeatValues>} */
    const change = { source: "typed", tempo_bpm: Math.round(value * 100) / 100, shift: 0 };
    if (this.beatValue("source") !== "typed") change.anchor_s = Math.round(Math.max(0, anchor) * 1000) / 1000;
    this.putBeats("Type the tempo", change);
  }

  /** @param {FieldEvent} event */
  typeBar(event) {
    const value = readNumber(event.target.value, this.beatValue("bar"));
    if (!Number.isInteger(value) || value < 1 || value > 16) {
      this.beatFault = "A bar has 1 to 16 beats.";
      return;
    }
    this.putBeats("Beats in a bar", { bar: value });
  }

  /** A tap on the beat while the sound plays. Four make a tempo; each further one makes it better. */
  async tap() {
    if (!this.playback.playing) {
      this.taps = [];
      await this.playback.toggle();
      return;
    }
    const now = this.trim.inS + this.views.player.now / this.project.rate;
    if (this.taps.length && (now < this.taps[this.taps.length - 1] || now - this.taps[this.taps.length - 1] > 3))
      this.taps = [];
    this.taps.push(now);
    if (this.taps.length < 4) return;
    try {
      const found = await ask(`/projects/${this.project.state.id}/taps`, {
        json: { taps_s: this.taps },
      });
      this.putBeats("Tap the tempo", found);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.beatFault = problem.message;
    }
  }

  get tapText() {
    if (!this.playback.playing) return "play and tap along";
    return this.taps.length < 4 ? `tap on the beat (${this.taps.length} of 4)` : `tap on (${this.taps.length})`;
  }

  /**
   * The beat near a second when snapping is on: within a tenth of a second.
   * @param {number} second
   * @param {number} [reach]
   */
  snapped(second, reach = 0.1) {
    if (!this.snapping || !this.beatGrid.beats.length) return second;
    const nearest = this.beatGrid.beats.reduce(
      (/** @type {any} */ best, /** @type {any} */ [time]) =>
        Math.abs(time - second) < Math.abs(best - second) ? time : best,
      Infinity,
    );
    return Math.abs(nearest - second) <= reach ? nearest : second;
  }

  toggleSnap() {
    this.snapping = !this.snapping;
  }

  get snapText() {
    return this.snapping ? "Snap to beats is on (N)" : "Snap to beats is off (N)";
  }
}
