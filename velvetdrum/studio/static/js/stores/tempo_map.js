// The rows of a tempo map as fields: bar, tempo, its note, meter, and whether it goes gradually to the next.

import { readNumber } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

/** @typedef {{bar: number, beat?: number, tempo_bpm: number, note?: string, meter?: string, gradual?: boolean}} Row */

const METER = /^\s*([1-9]\d?)\s*\/\s*(1|2|4|8|16|32)\s*$/;
const NOTES = [
  ["1/2", "½"],
  ["3/8", "¼ dot."],
  ["1/4", "¼"],
  ["3/16", "⅛ dot."],
  ["1/8", "⅛"],
  ["1/16", "1/16"],
].map(([value, text]) => ({ value, text }));

export class TempoMap extends partWith("playback", "project", "tempo", "trim") {
  fault = "";
  notes = NOTES;

  get isShown() {
    return this.tempo.beatValue("source") === "map";
  }

  /** @type {(Row & {index: number, place: string})[]} */
  get rows() {
    return this.tempo.beatValue("tempos").map((/** @type {Row} */ row, /** @type {number} */ index) => ({
      note: "1/4",
      meter: "4/4",
      gradual: false,
      ...row,
      index,
      place: row.beat && row.beat !== 1 ? `${row.bar}.${row.beat}` : `${row.bar}`,
    }));
  }

  /**
   * The rows as they are kept, without one of them where it is given.
   * @param {number} [without]
   * @returns {any[]}
   */
  kept(without) {
    return this.tempo
      .beatValue("tempos")
      .filter((/** @type {Row} */ _, /** @type {number} */ index) => index !== without)
      .map((/** @type {Row} */ row) => ({ beat: 1, note: "1/4", meter: "4/4", gradual: false, ...row }));
  }

  /**
   * A source of the beats; a map begins with the tempo that there is.
   * @param {FieldEvent} event
   */
  choose(event) {
    const source = event.target.value;
    const { beatGrid } = this.tempo;
    /** @type {Record<string, any>} */
    const change = { source };
    if (source === "map" && !this.project.document.beats.tempos && beatGrid.tempo_bpm) {
      const bar = this.tempo.beatValue("bar");
      const [begin] = beatGrid.beats;
      change.tempos = [{ bar: 1, beat: 1, tempo_bpm: beatGrid.tempo_bpm, note: "1/4", meter: `${bar}/4` }];
      if (begin) change.anchor_s = Math.round(Math.max(0, begin[0] + this.trim.inS) * 1000) / 1000;
      change.pickup = Math.max(
        0,
        beatGrid.beats.findIndex((/** @type {any} */ [, first]) => first),
      );
    }
    if (source !== this.tempo.beatValue("source") && this.tempo.beatValue("moved").length) change.moved = [];
    this.fault = "";
    this.tempo.putBeats("Where the beats come from", change);
  }

  /**
   * @param {Row & {index: number}} row
   * @param {Partial<Row>} change
   */
  put(row, change) {
    this.fault = "";
    const rows = this.kept().map((each, index) => (index === row.index ? { ...each, ...change } : each));
    this.tempo.putBeats("Change the tempo map", { tempos: rows.sort((a, b) => a.bar - b.bar || a.beat - b.beat) });
  }

  /**
   * @param {Row & {index: number}} row
   * @param {FieldEvent} event
   */
  typeBar(row, event) {
    const [bar, beat = 1] = event.target.value.split(".").map(Number);
    const taken = this.rows.some(
      (other) => other.index !== row.index && other.bar === bar && (other.beat || 1) === beat,
    );
    if (!Number.isInteger(bar) || bar < 1 || !(beat >= 1) || taken || (row.index === 0 && bar !== 1)) {
      this.fault = taken
        ? `There is a row at bar ${event.target.value} already.`
        : "Bars are counted from 1, a beat of them written like 9.3; the first row begins at bar 1.";
      event.target.value = this.rows[row.index].place;
      return;
    }
    this.put(row, { bar, beat });
  }

  /**
   * @param {Row & {index: number}} row
   * @param {FieldEvent} event
   */
  typeTempo(row, event) {
    const value = readNumber(event.target.value.replace(/bpm\s*$/i, ""), row.tempo_bpm);
    if (!(value >= 10 && value <= 1000)) {
      this.fault = `A tempo goes from 10 to 1000 bpm; “${event.target.value}” is not in it.`;
      event.target.value = `${row.tempo_bpm}`;
      return;
    }
    this.put(row, { tempo_bpm: Math.round(value * 1e4) / 1e4 });
  }

  /**
   * A meter, counted in the note that it is usually counted in.
   * @param {Row & {index: number}} row
   * @param {FieldEvent} event
   */
  typeMeter(row, event) {
    const parts = METER.exec(event.target.value);
    if (!parts) {
      this.fault = `A meter is written like 3/4 or 6/8; “${event.target.value}” is none.`;
      event.target.value = row.meter || "4/4";
      return;
    }
    const [above, below] = [Number(parts[1]), Number(parts[2])];
    const compound = below === 8 && above > 3 && above % 3 === 0;
    const note = compound ? "3/8" : { 2: "1/2", 8: "1/8", 16: "1/16", 32: "1/16" }[below] || "1/4";
    this.put(row, { meter: `${above}/${below}`, note });
  }

  /**
   * @param {Row & {index: number}} row
   * @param {FieldEvent} event
   */
  chooseNote(row, event) {
    const [above, below] = (row.meter || "4/4").split("/").map(Number);
    const [part, whole] = event.target.value.split("/").map(Number);
    if (((above * whole) / (below * part)) % 1 !== 0) {
      this.fault = `A bar of ${row.meter} is no whole number of these notes.`;
      event.target.value = row.note || "1/4";
      return;
    }
    this.put(row, { note: event.target.value });
  }

  /** @param {Row & {index: number}} row */
  toggleGradual(row) {
    this.put(row, { gradual: !row.gradual });
  }

  /** @param {Row & {index: number}} row */
  drop(row) {
    this.fault = "";
    this.tempo.putBeats("Take a row from the tempo map", { tempos: this.kept(row.index) });
  }

  /** A row at the bar that begins nearest to the playhead, else four bars after the last one. */
  add() {
    this.fault = "";
    const second = this.playback.frame / this.project.rate;
    const firsts = this.tempo.beatGrid.beats.filter((/** @type {any} */ [, first]) => first);
    const anchor = this.tempo.beatValue("anchor_s") - this.trim.inS;
    const bars = firsts.filter((/** @type {any} */ [time]) => time >= anchor - 1e-3);
    const near = bars.reduce(
      (/** @type {number} */ best, /** @type {any} */ [time], /** @type {number} */ index) =>
        Math.abs(time - second) < Math.abs(bars[best][0] - second) ? index : best,
      0,
    );
    const rows = this.kept();
    const last = rows[rows.length - 1];
    const bar = bars.length && !rows.some((row) => row.bar === near + 1) ? near + 1 : last.bar + 4;
    const before = rows.filter((row) => row.bar < bar).at(-1) || last;
    rows.push({ ...before, bar, beat: 1, gradual: false });
    this.tempo.putBeats("A row more in the tempo map", { tempos: rows.sort((a, b) => a.bar - b.bar) });
  }

  /** @param {FieldEvent} event */
  typePickup(event) {
    const value = readNumber(event.target.value, this.tempo.beatValue("pickup"));
    if (!(value >= 0 && value <= 32)) {
      this.fault = "A pick-up has 0 to 32 beats.";
      event.target.value = `${this.tempo.beatValue("pickup")}`;
      return;
    }
    this.fault = "";
    this.tempo.putBeats("Pick-up", { pickup: Math.round(value * 2) / 2 });
  }

  firstBeatHere() {
    const second = this.trim.inS + this.playback.frame / this.project.rate;
    this.tempo.putBeats("First beat", { anchor_s: Math.round(second * 1000) / 1000 });
  }

  get firstBeatText() {
    return `${this.tempo.beatValue("anchor_s").toFixed(3)} s`;
  }
}
