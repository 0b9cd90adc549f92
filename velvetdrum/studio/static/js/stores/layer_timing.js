// When layers are there: in, out and fades.

import { plain } from "../lib/json_patch.js";
import { nearly, roundTime } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

// Pixels of the strip within which a time snaps to another.
const SNAP_PX = 7;
const LEAST_S = 1e-3;

export class LayerTiming extends partWith(
  "keyPicks",
  "layerEdits",
  "layers",
  "markers",
  "messages",
  "playback",
  "project",
  "sceneCuts",
  "selection",
  "settings",
  "sound",
  "stage",
  "tempo",
  "trim",
  "views",
) {
  ripple = false; // true: what comes after a layer goes with its end
  /** @type {any} */
  keyShift = null;
  /** @type {any} */
  laneDraft = null; // {id, change}: a span while it is dragged
  /** First and last sound in seconds of the project; its ends where there is no sound. */
  get soundEnds() {
    if (!this.project.track || !this.sound.facts) return [0, this.project.length];
    const [first, last] = [this.sound.facts.first_sound_s, this.sound.facts.last_sound_s].map((second) =>
      Math.max(0, Math.min(second - this.trim.inS, this.trim.outS - this.trim.inS)),
    );
    return last > first ? [first, last] : [0, this.trim.outS - this.trim.inS];
  }

  /**
   * When a layer comes and goes, and its fades, in seconds.
   * @param {Layer} layer
   */
  spanOf(layer) {
    const [first, last] = this.soundEnds;
    const value = (/** @type {string} */ name) =>
      layer.settings[name] ?? this.settings.settingOf(layer, name).default;
    const from = /** @type {Record<string, any>} */ ({ start: 0, sound: first, time: value("from_s") })[
      value("from_at")
    ];
    const to = /** @type {Record<string, any>} */ ({ end: this.project.length, sound: last, time: value("to_s") })[
      value("to_at")
    ];
    return { from, to, fadeIn: value("fade_in_s"), fadeOut: value("fade_out_s") };
  }

  /**
   * @param {string} id
   * @param {any} change
   */
  spanSteps(id, change) {
    const layer = this.layers.byId(id);
    const base = `/layers/${this.layers.indexOf(id)}/settings`;
    const round = (/** @type {any} */ value) => Math.round(value * 1000) / 1000;
    const values = {};
    const span = { ...this.spanOf(layer), ...change };
    if (change.from !== undefined)
      Object.assign(
        values,
        nearly(span.from, 0) ? { from_at: "start", from_s: 0 } : { from_at: "time", from_s: round(span.from) },
      );
    if (change.to !== undefined)
      Object.assign(
        values,
        nearly(span.to, this.project.length) ? { to_at: "end" } : { to_at: "time", to_s: round(span.to) },
      );
    if (change.fadeIn !== undefined) values.fade_in_s = round(change.fadeIn);
    if (change.fadeOut !== undefined) values.fade_out_s = round(change.fadeOut);
    return Object.entries(values).map(([name, value]) => ({ op: "add", path: `${base}/${name}`, value }));
  }

  /**
   * @param {string} id
   * @param {any} change
   */
  dragSpan(id, change) {
    this.laneDraft = id ? { id, change } : null;
    this.stage.looked = id ? this.endFrame(change) : null;
    if (id) this.project.tryOut(this.spanSteps(id, change));
    else {
      this.project.draft = null;
      this.stage.showStill();
    }
  }

  /**
   * @param {string} id
   * @param {any} change
   * @param {string} label
   */
  placeSpan(id, change, label) {
    this.laneDraft = null;
    this.stage.looked = null;
    const layer = this.layers.byId(id);
    if (this.layerEdits.refuseLocked([layer])) return;
    const steps = [...this.spanSteps(id, change), ...(this.ripple ? this.rippleSteps(layer, change) : [])];
    this.project.edit(`${layer.name}: ${label}`, steps);
  }

  /**
   * The frame at an end that is dragged alone: its first one, or its last one.
   * @param {{from?: number, to?: number}} change
   */
  endFrame({ from, to }) {
    if ((from === undefined) === (to === undefined)) return null;
    const frame = from === undefined ? Math.ceil(Number(to) * this.project.rate) - 1 : from * this.project.rate;
    return Math.max(0, Math.min(this.project.frames - 1, Math.round(frame)));
  }

  toggleRipple() {
    this.ripple = !this.ripple;
  }

  /**
   * What came after a layer's end goes as far as that end does: other layers, with their keyframes.
   * @param {Layer} layer
   * @param {{from?: number, to?: number}} change
   */
  rippleSteps(layer, change) {
    const before = this.spanOf(layer).to;
    const by = change.to === undefined ? 0 : change.to - before;
    if (!by) return [];
    return this.project.document.layers
      .filter((other) => other.id !== layer.id && this.spanOf(other).from >= before - LEAST_S)
      .flatMap((other) => this.shiftSteps(other, by));
  }

  /**
   * A layer that comes, goes and has its keyframes so many seconds later.
   * @param {Layer} layer
   * @param {number} by
   */
  shiftSteps(layer, by) {
    const { from, to } = this.spanOf(layer);
    const base = `/layers/${this.layers.indexOf(layer.id)}`;
    const end = layer.settings.to_at === "time" ? { to: to + by } : {};
    const steps = this.spanSteps(layer.id, { from: Math.max(0, from + by), ...end });
    const keyframes = Object.entries(plain(layer.keyframes || {})).map(([place, frames]) => [
      place,
      frames
        .map((/** @type {Keyframe} */ frame) => ({ ...frame, time_s: roundTime(frame.time_s + by) }))
        .filter((/** @type {Keyframe} */ { time_s: time }) => time >= 0),
    ]);
    const kept = keyframes.filter(([, frames]) => frames.length);
    if (keyframes.length) steps.push({ op: "add", path: `${base}/keyframes`, value: Object.fromEntries(kept) });
    return steps;
  }

  /** @param {number} by */
  dragKeys(by) {
    const { by: within, steps } = this.keyPicks.shiftSteps(by);
    this.keyShift = within;
    this.project.tryOut(steps);
  }

  /** @param {number} by */
  placeKeyDrag(by) {
    this.keyShift = 0;
    this.keyPicks.shiftKeys(by);
  }

  /**
   * The nearest beat, marker, playhead, end of another span or of the project, within seven pixels of the strip.
   * @param {number} second
   * @param {any} [except]
   */
  snapTime(second, except = null) {
    const reach = SNAP_PX * this.views.strip.secondsPerPixel;
    const places = [
      this.playback.frame / this.project.rate,
      0,
      this.project.length,
      ...this.soundEnds,
      ...this.markers.markers.map((marker) => marker.time_s),
    ];
    if (this.tempo.snapping) places.push(...this.tempo.beatGrid.beats.map((/** @type {any} */ [time]) => time));
    for (const layer of this.project.document.layers) {
      if (layer.id !== except) {
        const { from, to } = this.spanOf(layer);
        places.push(from, to);
        places.push(...this.sceneCuts.placesOf(layer));
      }
    }
    const best = places.reduce(
      (found, place) => (Math.abs(place - second) < Math.abs(found - second) ? place : found),
      Infinity,
    );
    return Math.abs(best - second) <= reach ? best : second;
  }

  comeHere() {
    this.spanHere({ from: this.playback.frame / this.project.rate }, "in here");
  }

  goHere() {
    this.spanHere(
      {
        to: Math.min(this.project.length, (this.playback.frame + 1) / this.project.rate),
      },
      "out here",
    );
  }

  /**
   * @param {any} change
   * @param {string} label
   */
  spanHere(change, label) {
    if (!this.selection.layer) return;
    const span = { ...this.spanOf(this.selection.layer), ...change };
    if (span.to - span.from < 0.01) {
      this.messages.tell(`${this.selection.layer.name} must have its out point after its in point.`);
      return;
    }
    this.placeSpan(this.selection.layer.id, change, label);
  }
}
