// The used part of the recording: in point and out point.

import { clock, readClock } from "../lib/time.js";
import { StudioPart } from "../lib/studio_part.js";

export class Trim extends StudioPart {
  pending = {}; // in and out while they are dragged
  dragPoint(kind, second) {
    const low = kind === "in" ? 0 : this.inS + 0.1;
    const high = kind === "in" ? this.outS - 0.1 : this.studio.sound.facts.duration_s;
    const snapped =
      kind === "in" && this.inS > 0 ? second : this.studio.tempo.snapped(second - this.inS, 0.08) + this.inS;
    this.pending[kind] = Math.round(Math.min(Math.max(snapped, low), high) * 1000) / 1000;
    this.studio.timeStrip.drawWaves();
  }
  placePoints(label = "Set the used part") {
    const patch = [];
    if (this.pending.in !== undefined) patch.push({ op: "replace", path: "/tracks/0/in_s", value: this.pending.in });
    if (this.pending.out !== undefined)
      patch.push({ op: "replace", path: "/tracks/0/out_s", value: this.pending.out });
    this.pending = {};
    if (patch.length) this.studio.project.edit(label, patch);
  }
  inHere() {
    this.dragPoint("in", this.inS + this.studio.playback.frame / this.studio.project.rate);
    this.placePoints("Set the in point");
    this.studio.playback.seek(0);
  }
  outHere() {
    this.dragPoint("out", this.inS + (this.studio.playback.frame + 1) / this.studio.project.rate);
    this.placePoints("Set the out point");
  }
  wholeTrack() {
    this.pending = { in: 0, out: this.studio.sound.facts.duration_s };
    this.placePoints("Use the whole recording");
  }
  soundOnly() {
    this.pending = { in: this.studio.sound.facts.first_sound_s, out: this.studio.sound.facts.last_sound_s };
    this.placePoints("Use first to last sound");
  }
  typePoint(kind, event) {
    const path = kind === "in" ? "/tracks/0/in_s" : "/tracks/0/out_s";
    const value = readClock(event.target.value);
    const limit = this.studio.sound.facts.duration_s;
    if (value === null || value < 0 || value > limit + 1e-3) {
      this.studio.project.faults[path] =
        `The ${kind} point goes from 0:00 to ${clock(limit)}; “${event.target.value}” is not in it.`;
      return;
    }
    if (kind === "in" ? value > this.outS - 0.05 : value < this.inS + 0.05) {
      this.studio.project.faults[path] = "The out point must lie after the in point.";
      return;
    }
    delete this.studio.project.faults[path];
    this.studio.project.edit(`Set the ${kind} point`, [{ op: "replace", path, value: Math.min(value, limit) }]);
  }
  get inFault() {
    return this.studio.project.faults["/tracks/0/in_s"] || "";
  }
  get outFault() {
    return this.studio.project.faults["/tracks/0/out_s"] || "";
  }
  get inS() {
    return this.pending.in ?? (this.studio.project.track ? this.studio.project.track.in_s : 0);
  }
  get outS() {
    return this.pending.out ?? (this.studio.project.track ? this.studio.project.track.out_s : 0);
  }
}
