// Keyframes of settings: set, moved, eased and taken away.

import { plain } from "../lib/json_patch.js";
import { roundTime } from "../lib/numbers.js";
import { keyedValue } from "../lib/keyed_value.js";
import { EASINGS } from "../lib/easing.js";
import { partWith } from "../lib/studio_part.js";

export class Keyframes extends partWith(
  "curvePanel",
  "layerEdits",
  "layers",
  "parts",
  "playback",
  "project",
  "selection",
  "settings",
  "signals",
) {
  get now() {
    return roundTime(this.playback.frame / this.project.rate);
  }

  get nearFrame() {
    return 0.5 / this.project.rate;
  }

  /** @param {Setting} setting */
  canKey(setting) {
    return this.selection.room === "picture" && setting.moves && Boolean(this.selection.layer);
  }

  /**
   * @param {Setting} setting
   * @param {Layer} [layer]
   */
  keysOf(setting, layer = this.selection.layer) {
    return (layer && (layer.keyframes || {})[this.settings.placeOf(setting)]) || [];
  }

  /** @param {Setting} setting */
  isKeyed(setting) {
    return this.canKey(setting) && this.keysOf(setting).length > 0;
  }

  /**
   * @param {Keyframe[]} frames
   * @param {number} time
   */
  keyIndexAt(frames, time) {
    return frames.findIndex((frame) => Math.abs(frame.time_s - time) < this.nearFrame);
  }

  /** @param {Setting} setting */
  keyHere(setting) {
    return this.keyIndexAt(this.keysOf(setting), this.now);
  }

  /** @param {Setting} setting */
  keyClass(setting) {
    if (!this.isKeyed(setting)) return "";
    return this.keyHere(setting) >= 0 ? "keyed here" : "keyed";
  }

  /** @param {Setting} setting */
  keyText(setting) {
    if (!this.isKeyed(setting)) return `Set a keyframe for ${setting.label} here`;
    return this.keyHere(setting) >= 0
      ? `Take this keyframe of ${setting.label} away`
      : `Set another keyframe for ${setting.label} here`;
  }

  /**
   * Keyframes with one at a time: changed where there is one, else put in; it eases as the one before it does.
   * @param {Keyframe[]} frames
   * @param {number} time
   * @param {any} value
   */
  withKey(frames, time, value) {
    const listed = plain(frames);
    const at = this.keyIndexAt(listed, time);
    if (at >= 0) listed[at].value = plain(value);
    else {
      const before = listed.filter((/** @type {Keyframe} */ frame) => frame.time_s < time).pop();
      listed.push({
        time_s: roundTime(time),
        value: plain(value),
        ease: before ? before.ease : "ease-in-out",
      });
      listed.sort((/** @type {Keyframe} */ a, /** @type {Keyframe} */ b) => a.time_s - b.time_s);
    }
    return listed;
  }

  /**
   * @param {Layer} layer
   * @param {any} place
   * @param {Keyframe[]} frames
   * @param {string} label
   */
  putKeys(layer, place, frames, label) {
    if (this.layerEdits.refuseLocked([layer])) return;
    const path = `/layers/${this.layers.indexOf(layer.id)}/keyframes`;
    const rest = { ...plain(layer.keyframes || {}) };
    if (frames.length) rest[place] = frames;
    else delete rest[place];
    this.project.edit(`${layer.name}: ${label}`, [{ op: "add", path, value: rest }]);
  }

  /** @param {Setting} setting */
  toggleKey(setting) {
    const frames = this.keysOf(setting);
    const at = this.keyHere(setting);
    const place = this.settings.placeOf(setting);
    if (at >= 0) {
      const rest = frames.filter((/** @type {any} */ _, /** @type {number} */ index) => index !== at);
      // The last one's value stays as the setting's own.
      if (!rest.length) {
        const layer = this.selection.layer;
        if (this.layerEdits.refuseLocked()) return;
        const keyframes = plain(layer.keyframes);
        const { value } = frames[at];
        delete keyframes[place];
        const path = `${this.parts.settingsPath(setting)}/${setting.name}`;
        this.project.edit(`${layer.name}: ${setting.label} without keyframes`, [
          { op: "add", path: `/layers/${this.selection.layerIndex}/keyframes`, value: keyframes },
          { op: "add", path: `/layers/${this.selection.layerIndex}/${path}`, value: plain(value) },
        ]);
        if (this.curvePanel.curveOf && this.curvePanel.curveOf.place === place) this.curvePanel.closeCurve();
      } else this.putKeys(this.selection.layer, place, rest, `take a keyframe of ${setting.label} away`);
      return;
    }
    this.putKeys(
      this.selection.layer,
      place,
      this.withKey(frames, this.now, this.settings.current(setting)),
      `keyframe of ${setting.label}`,
    );
  }

  /** @param {Setting} setting */
  keyNote(setting) {
    const frames = this.keysOf(setting);
    const at = this.keyHere(setting);
    return at >= 0 ? `${at + 1} of ${frames.length}` : `${frames.length} keyed`;
  }

  /** @param {Setting} setting */
  keyBefore(setting) {
    this.goToTime([...this.keysOf(setting)].reverse().find((frame) => frame.time_s < this.now - this.nearFrame));
  }

  /** @param {Setting} setting */
  keyAfter(setting) {
    this.goToTime(
      this.keysOf(setting).find((/** @type {Keyframe} */ frame) => frame.time_s > this.now + this.nearFrame),
    );
  }

  /** @param {Keyframe | undefined} frame */
  goToTime(frame) {
    if (frame) this.playback.seek(Math.round(frame.time_s * this.project.rate));
  }

  /**
   * The easing on show: of the keyframe here, or of the one before.
   * @param {Setting} setting
   */
  easeIndex(setting) {
    const frames = this.keysOf(setting);
    const after = frames.findIndex((/** @type {Keyframe} */ frame) => frame.time_s > this.now + this.nearFrame);
    return Math.max(0, (after < 0 ? frames.length : after) - 1);
  }

  /** @param {Setting} setting */
  easeOf(setting) {
    const frame = this.keysOf(setting)[this.easeIndex(setting)];
    return frame ? frame.ease || "linear" : "linear";
  }

  get easingNames() {
    return EASINGS;
  }

  /** @param {Setting} setting */
  easeChoices(setting) {
    const own = this.easeOf(setting);
    return EASINGS.includes(own) ? EASINGS : [...EASINGS, own];
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  pickEase(setting, event) {
    const frames = plain(this.keysOf(setting));
    frames[this.easeIndex(setting)].ease = event.target.value;
    this.putKeys(
      this.selection.layer,
      this.settings.placeOf(setting),
      frames,
      `${setting.label} eases as ${event.target.value}`,
    );
  }

  /**
   * @param {Setting} setting
   * @param {number} part
   * @param {any} base
   */
  posedValue(setting, part, base) {
    const frames = this.keysOf(setting);
    if (!frames.length) return base;
    const [first, last] = [frames[0].time_s, frames[frames.length - 1].time_s];
    return keyedValue(setting, frames, first + Math.max(0, Math.min(1, part)) * (last - first));
  }

  /** A signal goes through the keyframes of all keyed settings of the layer: between the poses that they make. */
  get keyedPlaces() {
    return this.selection.layer
      ? Object.entries(this.selection.layer.keyframes || {})
          .filter(([, frames]) => frames.length > 1)
          .map(([place]) => place)
      : [];
  }

  get canPose() {
    return this.selection.room === "picture" && this.keyedPlaces.length > 0 && this.signals.signals.length > 0;
  }

  /** @param {FieldEvent} event */
  posesBy(event) {
    const signal = this.signals.signalById(event.target.value);
    event.target.value = "";
    if (!signal || this.layerEdits.refuseLocked()) return;
    const patches = plain(this.selection.layer.patches).filter(
      (/** @type {Patch} */ patch) => !(patch.join === "poses" && this.keyedPlaces.includes(patch.setting)),
    );
    for (const place of this.keyedPlaces) {
      const value = this.selection.layer.keyframes[place][0].value;
      patches.push({
        setting: place,
        signal: signal.id,
        from: plain(value),
        to: plain(value),
        join: "poses",
        on: true,
        lag_ms: 0,
      });
    }
    this.project.edit(`${this.selection.layer.name}: ${signal.name} goes between its keyframe poses`, [
      { op: "add", path: `/layers/${this.selection.layerIndex}/patches`, value: patches },
    ]);
  }

  /** @param {Layer} layer */
  keyTimes(layer) {
    const times = new Set();
    for (const frames of Object.values(layer.keyframes || {})) for (const frame of frames) times.add(frame.time_s);
    return [...times].sort((a, b) => a - b);
  }

  /** K: a keyframe here for every keyed setting of the chosen layer; with none, for where it is placed. */
  keyAll() {
    if (!this.selection.layer || this.layerEdits.refuseLocked()) return;
    const places = Object.keys(this.selection.layer.keyframes || {});
    const names = places.length ? places : ["move_x", "move_y", "scale_x", "scale_y", "spin"];
    const keyframes = plain(this.selection.layer.keyframes || {});
    for (const place of names) {
      const setting = this.settings.settingOf(this.selection.layer, place);
      const at = this.settings.placeOf(setting);
      keyframes[at] = this.withKey(keyframes[at] || [], this.now, this.settings.current(setting));
    }
    this.project.edit(`${this.selection.layer.name}: keyframes here`, [
      { op: "add", path: `/layers/${this.selection.layerIndex}/keyframes`, value: keyframes },
    ]);
  }

  get lateNote() {
    const late = this.project.document.layers
      .filter((layer) => this.keyTimes(layer).some((time) => time > this.project.length + 1e-6))
      .map((layer) => layer.name);
    return late.length ? `Keyframes of ${late.join(", ")} lie past the end; they are kept, but never reached.` : "";
  }
}
