// When layers are there: in, out and fades.

import { nearly } from "../lib/numbers.js";
import { StudioPart } from "../lib/studio_part.js";

// Pixels of the strip within which a time snaps to another.
const SNAP_PX = 7;

export class LayerTiming extends StudioPart {
  keyShift = null;
  laneDraft = null; // {id, change}: a span while it is dragged
  /** First and last sound in seconds of the project; its ends where there is no sound. */
  get soundEnds() {
    if (!this.studio.project.track || !this.studio.sound.facts) return [0, this.studio.project.length];
    const [first, last] = [this.studio.sound.facts.first_sound_s, this.studio.sound.facts.last_sound_s].map(
      (second) => Math.max(0, Math.min(second - this.studio.trim.inS, this.studio.trim.outS - this.studio.trim.inS)),
    );
    return last > first ? [first, last] : [0, this.studio.trim.outS - this.studio.trim.inS];
  }
  /** When a layer comes and goes, and its fades, in seconds. */
  spanOf(layer) {
    const [first, last] = this.soundEnds;
    const value = (name) => layer.settings[name] ?? this.studio.settings.settingOf(layer, name).default;
    const from = { start: 0, sound: first, time: value("from_s") }[value("from_at")];
    const to = { end: this.studio.project.length, sound: last, time: value("to_s") }[value("to_at")];
    return { from, to, fadeIn: value("fade_in_s"), fadeOut: value("fade_out_s") };
  }
  spanSteps(id, change) {
    const layer = this.studio.layers.byId(id);
    const base = `/layers/${this.studio.layers.indexOf(id)}/settings`;
    const round = (value) => Math.round(value * 1000) / 1000;
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
        nearly(span.to, this.studio.project.length) ? { to_at: "end" } : { to_at: "time", to_s: round(span.to) },
      );
    if (change.fadeIn !== undefined) values.fade_in_s = round(change.fadeIn);
    if (change.fadeOut !== undefined) values.fade_out_s = round(change.fadeOut);
    return Object.entries(values).map(([name, value]) => ({ op: "add", path: `${base}/${name}`, value }));
  }
  dragSpan(id, change) {
    this.laneDraft = id ? { id, change } : null;
    if (id) this.studio.project.tryOut(this.spanSteps(id, change));
    else {
      this.studio.project.draft = null;
      this.studio.stage.showStill();
    }
  }
  placeSpan(id, change, label) {
    this.laneDraft = null;
    const layer = this.studio.layers.byId(id);
    if (this.studio.layerEdits.refuseLocked([layer])) return;
    this.studio.project.edit(`${layer.name}: ${label}`, this.spanSteps(id, change));
  }
  dragKeys(by) {
    const { by: within, steps } = this.studio.keyPicks.shiftSteps(by);
    this.keyShift = within;
    this.studio.project.tryOut(steps);
  }
  placeKeyDrag(by) {
    this.keyShift = 0;
    this.studio.keyPicks.shiftKeys(by);
  }
  /** The nearest beat, marker, playhead, end of another span or of the project, within seven pixels of the strip. */
  snapTime(second, except = null) {
    const reach = SNAP_PX * this.studio.views.strip.secondsPerPixel;
    const places = [
      this.studio.playback.frame / this.studio.project.rate,
      0,
      this.studio.project.length,
      ...this.soundEnds,
      ...this.studio.markers.markers.map((marker) => marker.time_s),
    ];
    if (this.studio.tempo.snapping) places.push(...this.studio.tempo.beatGrid.beats.map(([time]) => time));
    for (const layer of this.studio.project.document.layers) {
      if (layer.id !== except) {
        const { from, to } = this.spanOf(layer);
        places.push(from, to);
      }
    }
    const best = places.reduce(
      (found, place) => (Math.abs(place - second) < Math.abs(found - second) ? place : found),
      Infinity,
    );
    return Math.abs(best - second) <= reach ? best : second;
  }
  comeHere() {
    this.spanHere({ from: this.studio.playback.frame / this.studio.project.rate }, "in here");
  }
  goHere() {
    this.spanHere(
      {
        to: Math.min(this.studio.project.length, (this.studio.playback.frame + 1) / this.studio.project.rate),
      },
      "out here",
    );
  }
  spanHere(change, label) {
    if (!this.studio.selection.layer) return;
    const span = { ...this.spanOf(this.studio.selection.layer), ...change };
    if (span.to - span.from < 0.01) {
      this.studio.messages.tell(`${this.studio.selection.layer.name} must have its out point after its in point.`);
      return;
    }
    this.placeSpan(this.studio.selection.layer.id, change, label);
  }
}
