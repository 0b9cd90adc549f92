// The used part of the recording: in point and out point.

import { ask, refusalOf } from "../lib/api.js";
import { clock, readClock } from "../lib/time.js";
import { partWith } from "../lib/studio_part.js";

export class Trim extends partWith("messages", "playback", "project", "sound", "tempo", "timeStrip") {
  /** @type {Record<string, number>} */
  pending = {}; // in and out while they are dragged
  /**
   * @param {string} kind
   * @param {number} second
   */
  dragPoint(kind, second) {
    const low = kind === "in" ? 0 : this.inS + 0.1;
    const high = kind === "in" ? this.outS - 0.1 : this.sound.facts.duration_s;
    const snapped = kind === "in" && this.inS > 0 ? second : this.tempo.snapped(second - this.inS, 0.08) + this.inS;
    this.pending[kind] = Math.round(Math.min(Math.max(snapped, low), high) * 1000) / 1000;
    this.timeStrip.drawWaves();
  }

  /** @param {string} [label] */
  placePoints(label = "Set the used part") {
    const { pending } = this;
    this.pending = {};
    const patch = this.pointSteps(pending);
    if (patch.length) this.project.edit(label, patch);
  }

  /** True where the in and out points are those of one recording that lies as on the disk. */
  get ofTrack() {
    const { tracks, used } = this.project.document;
    return tracks.length === 1 && !used && tracks[0].at_s === undefined && tracks[0].length_s === undefined;
  }

  /** @param {string} kind */
  pointPath(kind) {
    return this.ofTrack ? `/tracks/0/${kind}_s` : `/used/${kind}_s`;
  }

  /**
   * The steps that set the in and the out point.
   * @param {{ in?: number, out?: number }} points
   */
  pointSteps(points) {
    if (points.in === undefined && points.out === undefined) return [];
    const steps = this.ofTrack ? [] : this.usedSteps();
    for (const kind of /** @type {("in" | "out")[]} */ (["in", "out"]))
      if (points[kind] !== undefined)
        steps.push({ op: "replace", path: this.pointPath(kind), value: /** @type {number} */ (points[kind]) });
    return steps;
  }

  /** The steps after which the document says what is used, as it is now. @returns {Step[]} */
  usedSteps() {
    if (this.project.document.used) return [];
    return [{ op: "add", path: "/used", value: { in_s: this.inS, out_s: this.outS } }];
  }

  /** The steps after which all of the tracks is used. @returns {Step[]} */
  usedGone() {
    return this.project.document.used ? [{ op: "remove", path: "/used" }] : [];
  }

  inHere() {
    this.dragPoint("in", this.inS + this.playback.frame / this.project.rate);
    this.placePoints("Set the in point");
    this.playback.seek(0);
  }

  outHere() {
    this.dragPoint("out", this.inS + (this.playback.frame + 1) / this.project.rate);
    this.placePoints("Set the out point");
  }

  /** Fit all that reads levels to the used part. */
  async fitAll() {
    try {
      const { patch } = await ask(`/projects/${this.project.state.id}/fit-all`, { json: {} });
      if (patch.length) this.project.edit("Fit all to the used part", patch);
      else this.messages.tell("All that reads levels is fitted to the used part already.");
    } catch (thrown) {
      this.messages.tell(refusalOf(thrown).message);
    }
  }

  wholeTrack() {
    this.pending = { in: 0, out: this.sound.facts.duration_s };
    this.placePoints("Use the whole recording");
  }

  soundOnly() {
    this.pending = { in: this.sound.facts.first_sound_s, out: this.sound.facts.last_sound_s };
    this.placePoints("Use first to last sound");
  }

  /**
   * @param {string} kind
   * @param {FieldEvent} event
   */
  typePoint(kind, event) {
    const path = this.pointPath(kind);
    const value = readClock(event.target.value);
    const limit = this.sound.facts.duration_s;
    if (value === null || value < 0 || value > limit + 1e-3) {
      this.project.faults[path] =
        `The ${kind} point goes from 0:00 to ${clock(limit)}; “${event.target.value}” is not in it.`;
      return;
    }
    if (kind === "in" ? value > this.outS - 0.05 : value < this.inS + 0.05) {
      this.project.faults[path] = "The out point must lie after the in point.";
      return;
    }
    delete this.project.faults[path];
    this.project.edit(`Set the ${kind} point`, this.pointSteps({ [kind]: Math.min(value, limit) }));
  }

  get inFault() {
    return this.project.faults[this.pointPath("in")] || "";
  }

  get outFault() {
    return this.project.faults[this.pointPath("out")] || "";
  }

  get inS() {
    return this.pending.in ?? (this.project.track ? this.project.track.in_s : 0);
  }

  get outS() {
    return this.pending.out ?? (this.project.track ? this.project.track.out_s : 0);
  }
}
