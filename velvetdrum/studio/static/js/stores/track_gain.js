// The points of the chosen track's gain as rows, and points made of what a signal does.

import { ask, refusalOf } from "../lib/api.js";
import { gainAt, withPoint, withPointAt, withoutPoint } from "../lib/gain_points.js";
import { plain } from "../lib/json_patch.js";
import { readNumber } from "../lib/numbers.js";
import { clock, readClock } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

const MOST_ROWS = 60;

export class TrackGain extends partWith("playback", "project", "signals", "trackEdits", "tracks", "trim") {
  fault = "";
  signal = "";
  low = -20;
  high = 0;
  making = false;

  /** @type {import("../lib/gain_points.js").GainPoint[]} */
  get points() {
    const { chosen } = this.tracks;
    return chosen ? plain(chosen.gain || []) : [];
  }

  get rows() {
    return this.points.slice(0, MOST_ROWS).map(({ time_s, value }, index) => ({
      index,
      time: clock(time_s, 2),
      gain: `${value}`.replace("-", "−"),
    }));
  }

  get moreText() {
    const more = this.points.length - MOST_ROWS;
    return more > 0 ? `and ${more} more, on the lane` : "";
  }

  /**
   * @param {import("../lib/gain_points.js").GainPoint[]} gain
   * @param {string} [label]
   */
  put(gain, label = "gain") {
    const { chosen } = this.tracks;
    this.fault = "";
    if (chosen) this.trackEdits.place(chosen, { gain }, label);
  }

  get second() {
    return this.trim.inS + this.playback.frame / this.project.rate;
  }

  addHere() {
    this.put(withPoint(this.points, this.second, gainAt(this.points, this.second)));
  }

  /**
   * @param {{index: number}} row
   * @param {FieldEvent} event
   */
  typeTime(row, event) {
    const time = readClock(event.target.value);
    const point = this.points[row.index];
    if (time === null) {
      this.fault = `“${event.target.value.slice(0, 20)}” is no time; write minutes:seconds.`;
      event.target.value = clock(point.time_s, 2);
      return;
    }
    this.put(withPoint(withoutPoint(this.points, row.index), time, point.value));
  }

  /**
   * @param {{index: number}} row
   * @param {FieldEvent} event
   */
  typeGain(row, event) {
    const point = this.points[row.index];
    const value = readNumber(event.target.value.replace(/\s*dB\s*$/i, ""), point.value);
    if (!(value >= -60 && value <= 24)) {
      this.fault = `A gain goes from −60 to +24 dB; “${event.target.value.slice(0, 20)}” does not.`;
      event.target.value = `${point.value}`;
      return;
    }
    this.put(withPointAt(this.points, row.index, point.time_s, value));
  }

  /** @param {{index: number}} row */
  drop(row) {
    this.put(withoutPoint(this.points, row.index));
  }

  dropAll() {
    this.put([], "no gain points");
  }

  /** @param {FieldEvent} event */
  chooseSignal(event) {
    this.signal = event.target.value;
  }

  /**
   * @param {"low" | "high"} end
   * @param {FieldEvent} event
   */
  typeEnd(end, event) {
    const value = readNumber(event.target.value.replace(/\s*dB\s*$/i, ""), this[end]);
    if (value >= -60 && value <= 24) this[end] = value;
    else this.fault = "A gain goes from −60 to +24 dB.";
    event.target.value = `${this[end]}`;
  }

  /** What the signal does, as few points: the lower gain where it is 0, the higher one where it is 1. */
  async follow() {
    const { chosen } = this.tracks;
    const id = this.signal || (this.signals.signals[0] || {}).id;
    if (!chosen || !id || this.making) return;
    this.fault = "";
    this.making = true;
    try {
      const path = `/projects/${this.project.state.id}/signals/${id}/gain-points`;
      const { points } = await ask(path, { json: { low_db: this.low, high_db: this.high, ...this.project.unsent } });
      this.put(points, `gain from ${/** @type {any} */ (this.signals.signalById(id)).name}`);
    } catch (thrown) {
      this.fault = refusalOf(thrown).message;
    }
    this.making = false;
  }
}
