// The used part of the recording, the frame, the rate and the length.

import { clock } from "./wave.js";

export const framing = {
  dragPoint(kind, second) {
    const low = kind === "in" ? 0 : this.inS + 0.1;
    const high = kind === "in" ? this.outS - 0.1 : this.facts.duration_s;
    const snapped = kind === "in" && this.inS > 0 ? second : this.snapped(second - this.inS, 0.08) + this.inS;
    this.pending[kind] = Math.round(Math.min(Math.max(snapped, low), high) * 1000) / 1000;
    this.drawWaves();
  },
  placePoints(label = "Set the used part") {
    const patch = [];
    if (this.pending.in !== undefined) patch.push({ op: "replace", path: "/tracks/0/in_s", value: this.pending.in });
    if (this.pending.out !== undefined) patch.push({ op: "replace", path: "/tracks/0/out_s", value: this.pending.out });
    this.pending = {};
    if (patch.length) this.edit(label, patch);
  },
  inHere() { this.dragPoint("in", this.inS + this.frame / this.rate); this.placePoints("Set the in point"); this.seek(0); },
  outHere() { this.dragPoint("out", this.inS + (this.frame + 1) / this.rate); this.placePoints("Set the out point"); },
  wholeTrack() {
    this.pending = { in: 0, out: this.facts.duration_s };
    this.placePoints("Use the whole recording");
  },
  soundOnly() {
    this.pending = { in: this.facts.first_sound_s, out: this.facts.last_sound_s };
    this.placePoints("Use first to last sound");
  },
  typePoint(kind, event) {
    const path = kind === "in" ? "/tracks/0/in_s" : "/tracks/0/out_s";
    const value = this.readClock(event.target.value);
    const limit = this.facts.duration_s;
    if (value === null || value < 0 || value > limit + 1e-3) {
      this.faults[path] = `The ${kind} point goes from 0:00 to ${clock(limit)}; “${event.target.value}” is not in it.`;
      return;
    }
    if (kind === "in" ? value > this.outS - 0.05 : value < this.inS + 0.05) {
      this.faults[path] = "The out point must lie after the in point.";
      return;
    }
    delete this.faults[path];
    this.edit(`Set the ${kind} point`, [{ op: "replace", path, value: Math.min(value, limit) }]);
  },
  get inFault() { return this.faults["/tracks/0/in_s"] || ""; },
  get outFault() { return this.faults["/tracks/0/out_s"] || ""; },
  get lengthFault() { return this.faults["/length_s"] || ""; },
  get frameFault() { return this.faults["/frame"] || ""; },
  readClock(text) {
    const parts = text.trim().replace(",", ".").split(":").map(Number);
    if (!parts.length || parts.length > 3 || parts.some((part) => !Number.isFinite(part) || part < 0) || text.trim() === "") return null;
    return parts.reduce((sum, part) => sum * 60 + part, 0);
  },
  typeLength(event) {
    const text = event.target.value.trim();
    if (text === "") { this.followTrack(); return; }
    const value = this.readClock(text);
    if (value === null || value < 0.05 || value > 10800) {
      this.faults["/length_s"] = `The length goes from 0:00.05 to 3:00:00; “${text}” is not in it.`;
      return;
    }
    delete this.faults["/length_s"];
    this.edit("Set the length", [{ op: "replace", path: "/length_s", value }]);
  },
  followTrack() {
    delete this.faults["/length_s"];
    this.edit("Length follows the sound", [{ op: "replace", path: "/length_s", value: null }]);
  },
  get ownLength() { return this.document.length_s !== null; },

  // Frame
  get frameName() {
    const { width, height } = this.document.frame;
    const found = Object.entries(this.given.frames).find(([, size]) => size[0] === width && size[1] === height);
    return found ? found[0] : "custom";
  },
  get frameNames() { return [...Object.keys(this.given.frames), "custom"].map((name) => ({ name, text: name === "custom" ? "custom" : `${name} ${this.given.frames[name].join(" × ")}` })); },
  get rateNames() { return Object.entries(this.given.rates).map(([name, value]) => ({ name, value })); },
  pickFrame(name) {
    const size = this.given.frames[name];
    if (size) this.putFrame(size[0], size[1]);
  },
  pickFrameEvent(event) { this.pickFrame(event.target.value); },
  putFrame(width, height) {
    const now = this.document.frame;
    if (width === now.width && height === now.height) return;
    this.viewed = null;
    this.edit(`Frame ${width} × ${height}`, [{ op: "replace", path: "/frame", value: { width, height } }]);
  },
  typeFrame(side, event) {
    const value = Number(event.target.value);
    if (!Number.isInteger(value) || value < 64 || value > 4096 || value % 2) {
      this.faults["/frame"] = `A frame's side is an even number of pixels from 64 to 4096; “${event.target.value}” is not.`;
      return;
    }
    delete this.faults["/frame"];
    const { width, height } = this.document.frame;
    this.putFrame(side === "width" ? value : width, side === "height" ? value : height);
  },
  isFrame(name) { return this.frameName === name; },
  pickRate(event) { this.edit(`${event.target.value} frames per second`, [{ op: "replace", path: "/rate", value: event.target.value }]); },
};
