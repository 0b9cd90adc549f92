// Keyframes: set, moved, eased and taken away, beside their setting, on the strip, and on the curve of one setting.

import { plain } from "./api.js";
import { EASINGS, keyedValue, readEasing } from "./easing.js";

const round = (time) => Math.round(time * 1e6) / 1e6;

export const keyframing = {
  curveOf: null, // {layer, place}: the setting whose curve is shown
  curveKey: -1, // the keyframe that is chosen on the curve
  curveDraft: null, // keyframes while one is dragged
  keyFault: "",
  pickedKeys: [], // {layer, time}: keyframes chosen on the strip, all settings of a layer at a time together
  heldKeys: null, // keyframes that were copied

  get now() { return round(this.frame / this.rate); },
  get nearFrame() { return 0.5 / this.rate; },
  canKey(setting) { return this.room === "picture" && setting.moves && Boolean(this.layer); },
  keysOf(setting, layer = this.layer) { return (layer && (layer.keyframes || {})[this.placeOf(setting)]) || []; },
  isKeyed(setting) { return this.canKey(setting) && this.keysOf(setting).length > 0; },
  keyIndexAt(frames, time) { return frames.findIndex((frame) => Math.abs(frame.time_s - time) < this.nearFrame); },
  keyHere(setting) { return this.keyIndexAt(this.keysOf(setting), this.now); },
  keyClass(setting) { return `${this.isKeyed(setting) ? "keyed" : ""} ${this.isKeyed(setting) && this.keyHere(setting) >= 0 ? "here" : ""}`; },
  keyText(setting) {
    if (!this.isKeyed(setting)) return `Set a keyframe for ${setting.label} here`;
    return this.keyHere(setting) >= 0 ? `Take this keyframe of ${setting.label} away` : `Set another keyframe for ${setting.label} here`;
  },
  /** Keyframes with one at a time: changed where there is one, else put in; it eases as the one before it does. */
  withKey(frames, time, value) {
    const listed = plain(frames);
    const at = this.keyIndexAt(listed, time);
    if (at >= 0) listed[at].value = plain(value);
    else {
      const before = listed.filter((frame) => frame.time_s < time).pop();
      listed.push({ time_s: round(time), value: plain(value), ease: before ? before.ease : "ease-in-out" });
      listed.sort((a, b) => a.time_s - b.time_s);
    }
    return listed;
  },
  putKeys(layer, place, frames, label) {
    if (this.refuseLocked([layer])) return;
    const path = `/layers/${this.indexOf(layer.id)}/keyframes`;
    const rest = { ...plain(layer.keyframes || {}) };
    if (frames.length) rest[place] = frames;
    else delete rest[place];
    this.edit(`${layer.name}: ${label}`, [{ op: "add", path, value: rest }]);
  },
  toggleKey(setting) {
    const frames = this.keysOf(setting);
    const at = this.keyHere(setting);
    const place = this.placeOf(setting);
    if (at >= 0) {
      const rest = frames.filter((_, index) => index !== at);
      // The last one's value stays as the setting's own.
      if (!rest.length) {
        const { layer } = this;
        if (this.refuseLocked()) return;
        const keyframes = plain(layer.keyframes);
        const { value } = frames[at];
        delete keyframes[place];
        const path = `${this.settingsPath(setting)}/${setting.name}`;
        this.edit(`${layer.name}: ${setting.label} without keyframes`, [
          { op: "add", path: `/layers/${this.layerIndex}/keyframes`, value: keyframes },
          { op: "add", path: `/layers/${this.layerIndex}/${path}`, value: plain(value) },
        ]);
        if (this.curveOf && this.curveOf.place === place) this.closeCurve();
      } else this.putKeys(this.layer, place, rest, `take a keyframe of ${setting.label} away`);
      return;
    }
    this.putKeys(this.layer, place, this.withKey(frames, this.now, this.current(setting)), `keyframe of ${setting.label}`);
  },
  keyNote(setting) {
    const frames = this.keysOf(setting);
    const at = this.keyHere(setting);
    return at >= 0 ? `${at + 1} of ${frames.length}` : `${frames.length} keyed`;
  },
  keyBefore(setting) { this.goToTime([...this.keysOf(setting)].reverse().find((frame) => frame.time_s < this.now - this.nearFrame)); },
  keyAfter(setting) { this.goToTime(this.keysOf(setting).find((frame) => frame.time_s > this.now + this.nearFrame)); },
  goToTime(frame) { if (frame) this.seek(Math.round(frame.time_s * this.rate)); },
  /** The easing on show: of the keyframe here, or of the one before. */
  easeIndex(setting) {
    const frames = this.keysOf(setting);
    const after = frames.findIndex((frame) => frame.time_s > this.now + this.nearFrame);
    return Math.max(0, (after < 0 ? frames.length : after) - 1);
  },
  easeOf(setting) { const frame = this.keysOf(setting)[this.easeIndex(setting)]; return frame ? frame.ease || "linear" : "linear"; },
  get easingNames() { return EASINGS; },
  easeChoices(setting) { const own = this.easeOf(setting); return EASINGS.includes(own) ? EASINGS : [...EASINGS, own]; },
  pickEase(setting, event) {
    const frames = plain(this.keysOf(setting));
    frames[this.easeIndex(setting)].ease = event.target.value;
    this.putKeys(this.layer, this.placeOf(setting), frames, `${setting.label} eases as ${event.target.value}`);
  },
  posedValue(setting, part, base) {
    const frames = this.keysOf(setting);
    if (!frames.length) return base;
    const [first, last] = [frames[0].time_s, frames[frames.length - 1].time_s];
    return keyedValue(setting, frames, first + Math.max(0, Math.min(1, part)) * (last - first));
  },
  /** A signal goes through the keyframes of all keyed settings of the layer: between the poses that they make. */
  get keyedPlaces() { return this.layer ? Object.entries(this.layer.keyframes || {}).filter(([, frames]) => frames.length > 1).map(([place]) => place) : []; },
  get canPose() { return this.room === "picture" && this.keyedPlaces.length > 0 && this.signals.length > 0; },
  posesBy(event) {
    const signal = this.signalById(event.target.value);
    event.target.value = "";
    if (!signal || this.refuseLocked()) return;
    const patches = plain(this.layer.patches).filter((patch) => !(patch.join === "poses" && this.keyedPlaces.includes(patch.setting)));
    for (const place of this.keyedPlaces) {
      const value = this.layer.keyframes[place][0].value;
      patches.push({ setting: place, signal: signal.id, from: plain(value), to: plain(value), join: "poses", on: true, lag_ms: 0 });
    }
    this.edit(`${this.layer.name}: ${signal.name} goes between its poses`, [{ op: "add", path: `/layers/${this.layerIndex}/patches`, value: patches }]);
  },

  // The curve of one setting
  openCurve(setting) {
    this.curveOf = { layer: this.layer.id, place: this.placeOf(setting) };
    this.curveKey = this.easeIndex(setting);
    this.keyFault = "";
    this.$nextTick(() => this.keyCurve.draw());
  },
  closeCurve() { this.curveOf = null; },
  get curveLayer() { return this.curveOf && this.byId(this.curveOf.layer); },
  get curveSetting() { return this.curveLayer ? this.settingOf(this.curveLayer, this.curveOf.place) : null; },
  get curveFrames() { return this.curveDraft || (this.curveLayer && (this.curveLayer.keyframes || {})[this.curveOf.place]) || []; },
  get curveShown() { return this.room === "picture" && Boolean(this.curveSetting) && this.curveFrames.length > 0; },
  get curveTitle() { return this.curveShown ? `${this.curveLayer.name}: ${this.curveSetting.label}` : ""; },
  get chosenKey() { return this.curveFrames[this.curveKey] || null; },
  get chosenKeyTime() { return this.chosenKey ? String(Math.round(this.chosenKey.time_s * 1000) / 1000) : ""; },
  get chosenKeyValue() { return this.chosenKey ? String(typeof this.chosenKey.value === "number" ? Math.round(this.chosenKey.value * 1000) / 1000 : this.chosenKey.value) : ""; },
  get chosenKeyEase() { return this.chosenKey ? this.chosenKey.ease || "linear" : ""; },
  get curveUnit() { return this.curveSetting ? this.unitText(this.curveSetting) : ""; },
  tryKeys(frames) {
    this.curveDraft = frames;
    this.tryOut([{ op: "add", path: `/layers/${this.indexOf(this.curveOf.layer)}/keyframes/${this.curveOf.place}`, value: frames }]);
    this.keyCurve.draw();
  },
  placeKeys(frames, label) {
    this.curveDraft = null;
    this.keyFault = "";
    this.putKeys(this.curveLayer, this.curveOf.place, frames, `${label} of ${this.curveSetting.label}`);
    this.keyCurve.draw();
  },
  typeKey(name, event) {
    const text = event.target.value.trim();
    const frames = plain(this.curveFrames);
    const frame = frames[this.curveKey];
    const { curveSetting: setting } = this;
    if (name === "ease") {
      if (!readEasing(text)) { this.keyFault = `An easing is ${EASINGS.join(", ")}, cubic-bezier(x1, y1, x2, y2) or steps(count, jump-end); “${text}” is not.`; return; }
      frame.ease = text;
    } else if (name === "time_s") {
      const time = this.readClock(text);
      if (time === null || time > this.length + 1e-6) { this.keyFault = `A keyframe lies from 0 s to ${Math.round(this.length * 1000) / 1000} s, the end of the project; “${text}” is not in it.`; return; }
      if (frames.some((other, index) => index !== this.curveKey && Math.abs(other.time_s - time) < 1e-4)) { this.keyFault = "There is another keyframe at that time."; return; }
      frame.time_s = round(time);
    } else if (setting.numeric) {
      const value = Number(text.replace(",", ".").replace("−", "-"));
      if (text === "" || !(value >= setting.lo && value <= setting.hi)) { this.keyFault = `${setting.label} goes from ${setting.lo} to ${setting.hi} ${setting.unit}; “${text}” is not in it.`; return; }
      frame.value = value;
    } else frame.value = event.target.value;
    this.keyFault = "";
    const { time_s: time } = frame;
    frames.sort((a, b) => a.time_s - b.time_s);
    this.placeKeys(frames, "Change a keyframe");
    this.curveKey = frames.findIndex((other) => other.time_s === time);
  },
  keyCurveSource() {
    return { setting: this.curveSetting, frames: this.curveFrames, now: this.frame / this.rate, key: this.curveKey, length: this.length, seen: this.strip.seen, beats: this.beatGrid.beats };
  },

  // Keyframes on the strip, several at once
  keyTimes(layer) {
    const times = new Set();
    for (const frames of Object.values(layer.keyframes || {})) for (const frame of frames) times.add(frame.time_s);
    return [...times].sort((a, b) => a - b);
  },
  isPickedKey(id, time) { return this.pickedKeys.some((key) => key.layer === id && Math.abs(key.time - time) < 1e-6); },
  pickKey(id, time, add) {
    if (add) this.pickedKeys = this.isPickedKey(id, time) ? this.pickedKeys.filter((key) => !(key.layer === id && Math.abs(key.time - time) < 1e-6)) : [...this.pickedKeys, { layer: id, time }];
    else if (!this.isPickedKey(id, time)) this.pickedKeys = [{ layer: id, time }];
  },
  /** The steps that change the picked keyframes: `change(time)` gives the new time, or null to take them away. */
  pickedSteps(change) {
    const steps = [];
    for (const id of new Set(this.pickedKeys.map((key) => key.layer))) {
      const layer = this.byId(id);
      const times = this.pickedKeys.filter((key) => key.layer === id).map((key) => key.time);
      const picked = (frame) => times.some((time) => Math.abs(time - frame.time_s) < 1e-6);
      const keyframes = {};
      for (const [place, frames] of Object.entries(plain(layer.keyframes || {}))) {
        const moved = frames.filter(picked).map((frame) => ({ ...frame, time_s: change(frame.time_s) })).filter((frame) => frame.time_s !== null);
        const rest = frames.filter((frame) => !picked(frame) && !moved.some((other) => Math.abs(other.time_s - frame.time_s) < this.nearFrame));
        const all = [...rest, ...moved].sort((a, b) => a.time_s - b.time_s);
        if (all.length) keyframes[place] = all;
      }
      steps.push({ op: "add", path: `/layers/${this.indexOf(id)}/keyframes`, value: keyframes });
    }
    return steps;
  },
  /** Picked keyframes moved by seconds, none before the start or past the end. */
  shiftSteps(by) {
    const times = this.pickedKeys.map((key) => key.time);
    const within = Math.max(-Math.min(...times), Math.min(by, this.length - Math.max(...times)));
    return { by: within, steps: this.pickedSteps((time) => round(time + within)) };
  },
  shiftKeys(by) {
    if (this.refuseLocked(this.pickedKeys.map((key) => this.byId(key.layer)))) return;
    const { by: within, steps } = this.shiftSteps(by);
    this.pickedKeys = this.pickedKeys.map((key) => ({ ...key, time: round(key.time + within) }));
    this.edit(`Move ${this.pickedText}`, steps);
  },
  get pickedText() { return this.pickedKeys.length > 1 ? `${this.pickedKeys.length} keyframes` : "a keyframe"; },
  dropKeys() {
    if (!this.pickedKeys.length || this.refuseLocked(this.pickedKeys.map((key) => this.byId(key.layer)))) return;
    this.edit(`Take ${this.pickedText} away`, this.pickedSteps(() => null));
    this.pickedKeys = [];
  },
  copyKeys() {
    const first = Math.min(...this.pickedKeys.map((key) => key.time));
    this.heldKeys = this.pickedKeys.map(({ layer, time }) => ({
      layer, after: time - first,
      values: Object.entries(this.byId(layer).keyframes).flatMap(([place, frames]) => frames.filter((frame) => Math.abs(frame.time_s - time) < 1e-6).map((frame) => ({ place, ...plain(frame) }))),
    }));
    this.tell(`${this.pickedKeys.length > 1 ? `${this.pickedKeys.length} keyframes are` : "A keyframe is"} copied; go to another time and press Ctrl V.`);
  },
  pasteKeys() {
    const steps = [];
    const picked = [];
    for (const id of new Set(this.heldKeys.map((key) => key.layer))) {
      const layer = this.byId(id);
      if (!layer) continue;
      const keyframes = plain(layer.keyframes || {});
      for (const { after, values } of this.heldKeys.filter((key) => key.layer === id)) {
        const time = round(Math.min(this.now + after, this.length));
        picked.push({ layer: id, time });
        for (const { place, value, ease } of values) {
          const listed = (keyframes[place] || []).filter((frame) => Math.abs(frame.time_s - time) >= this.nearFrame);
          keyframes[place] = [...listed, { time_s: time, value, ease }].sort((a, b) => a.time_s - b.time_s);
        }
      }
      steps.push({ op: "add", path: `/layers/${this.indexOf(id)}/keyframes`, value: keyframes });
    }
    if (!steps.length) return;
    this.edit("Paste keyframes", steps);
    this.pickedKeys = picked;
  },
  /** K: a keyframe here for every keyed setting of the chosen layer; with none, for where it is placed. */
  keyAll() {
    if (!this.layer || this.refuseLocked()) return;
    const places = Object.keys(this.layer.keyframes || {});
    const names = places.length ? places : ["move_x", "move_y", "scale_x", "scale_y", "spin"];
    const keyframes = plain(this.layer.keyframes || {});
    for (const place of names) {
      const setting = this.settingOf(this.layer, place);
      const at = this.placeOf(setting);
      keyframes[at] = this.withKey(keyframes[at] || [], this.now, this.current(setting));
    }
    this.edit(`${this.layer.name}: keyframes here`, [{ op: "add", path: `/layers/${this.layerIndex}/keyframes`, value: keyframes }]);
  },
  get lateNote() {
    const late = this.document.layers.filter((layer) => this.keyTimes(layer).some((time) => time > this.length + 1e-6)).map((layer) => layer.name);
    return late.length ? `Keyframes of ${late.join(", ")} lie past the end; they are kept, but never reached.` : "";
  },
};
