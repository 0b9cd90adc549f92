// The curve that the keyframes of one setting make, and the fields above it.

import { plain } from "../lib/json_patch.js";
import { roundTime } from "../lib/numbers.js";
import { EASINGS, easingPath, readEasing, turnedEase } from "../lib/easing.js";
import { partWith } from "../lib/studio_part.js";

const MOST_SIBLINGS = 6;

/** The time of a keyframe, as a setting is read and shown. */
const TIME = /** @type {any} */ ({ name: "time_s", type: "number", unit: "s", help: "", lo: 0, step: 0.001 });

export class KeyCurvePanel extends partWith(
  "keyframes",
  "layers",
  "page",
  "playback",
  "project",
  "quantities",
  "raw",
  "selection",
  "settings",
  "tempo",
  "views",
) {
  /** @type {any} */
  curveOf = null; // {layer, place}: the setting whose curve is shown
  curveKey = -1; // the keyframe that is chosen on the curve
  /** @type {Keyframe[] | null} */
  curveDraft = null; // keyframes while one is dragged
  keyFault = "";
  /** @param {Setting} setting */
  openCurve(setting) {
    this.curveOf = { layer: this.selection.layer.id, place: this.settings.placeOf(setting) };
    this.curveKey = this.keyframes.easeIndex(setting);
    this.keyFault = "";
    this.page.nextTick(() => this.views.keyCurve.draw());
  }

  closeCurve() {
    this.curveOf = null;
  }

  get curveLayer() {
    return this.curveOf && this.layers.byId(this.curveOf.layer);
  }

  get curveSetting() {
    return /** @type {Setting} */ (
      this.curveLayer ? this.settings.settingOf(this.curveLayer, this.curveOf.place) : null
    );
  }

  get curveFrames() {
    return this.curveDraft || (this.curveLayer && (this.curveLayer.keyframes || {})[this.curveOf.place]) || [];
  }

  get curveShown() {
    return this.selection.room === "picture" && Boolean(this.curveSetting) && this.curveFrames.length > 0;
  }

  get curveTitle() {
    return this.curveShown ? `${this.curveLayer.name}: ${this.curveSetting.label}` : "";
  }

  get chosenKey() {
    return this.curveFrames[this.curveKey] || null;
  }

  get chosenKeyTime() {
    return this.chosenKey ? this.quantities.text(TIME, this.chosenKey.time_s) : "";
  }

  get chosenKeyValue() {
    return this.chosenKey ? String(this.quantities.text(this.curveSetting, this.chosenKey.value)) : "";
  }

  get chosenKeyEase() {
    return this.chosenKey ? this.chosenKey.ease || "linear" : "";
  }

  get curveTimeUnit() {
    return this.quantities.unit(TIME);
  }

  get curveUnit() {
    return this.curveSetting ? this.quantities.unit(this.curveSetting) : "";
  }

  /** Easings to choose from, as pictures. */
  easings = [
    ...EASINGS,
    "cubic-bezier(0.3, 1.6, 0.5, 1)",
    "cubic-bezier(0.6, -0.4, 0.7, 1)",
    "steps(4, jump-end)",
  ].map((name) => ({ name, path: easingPath(name) }));

  /** @param {string} name */
  pickEasing(name) {
    this.typeKey("ease", /** @type {any} */ ({ target: { value: name } }));
  }

  /** The values in the other order of time, each way between two of them the other way about. */
  reverse() {
    const frames = this.curveFrames;
    const [first, last] = [frames[0].time_s, frames.at(-1).time_s];
    const turned = frames.map((/** @type {Keyframe} */ frame, /** @type {number} */ index) => ({
      time_s: roundTime(first + last - frame.time_s),
      value: frame.value,
      ease: index ? turnedEase(frames[index - 1].ease) : "linear",
    }));
    this.placeKeys(turned.reverse(), "Reverse the keyframes");
  }

  /** @param {Keyframe[]} frames */
  tryKeys(frames) {
    this.curveDraft = frames;
    this.project.tryOut([
      {
        op: "add",
        path: `/layers/${this.layers.indexOf(this.curveOf.layer)}/keyframes/${this.curveOf.place}`,
        value: frames,
      },
    ]);
    this.views.keyCurve.draw();
  }

  /**
   * @param {Keyframe[]} frames
   * @param {string} label
   */
  placeKeys(frames, label) {
    this.curveDraft = null;
    this.keyFault = "";
    this.keyframes.putKeys(this.curveLayer, this.curveOf.place, frames, `${label} of ${this.curveSetting.label}`);
    this.views.keyCurve.draw();
  }

  /**
   * @param {string} name
   * @param {FieldEvent} event
   */
  typeKey(name, event) {
    const text = event.target.value.trim();
    const frames = plain(this.curveFrames);
    const frame = frames[this.curveKey];
    const setting = this.curveSetting;
    if (name === "ease") {
      if (!readEasing(text)) {
        this.keyFault =
          `An easing is ${EASINGS.join(", ")}, cubic-bezier(x1, y1, x2, y2) ` +
          `or steps(count, jump-end); “${text}” is not.`;
        return;
      }
      frame.ease = text;
    } else if (name === "time_s") {
      const time = this.quantities.read(TIME, text, frame.time_s);
      if (!(time >= 0 && time <= this.project.length + 1e-6)) {
        this.keyFault =
          `A keyframe lies from 0 s to ${Math.round(this.project.length * 1000) / 1000} s, ` +
          `the end of the project; “${text}” is not in it.`;
        return;
      }
      if (
        frames.some(
          (/** @type {any} */ other, /** @type {number} */ index) =>
            index !== this.curveKey && Math.abs(other.time_s - time) < 1e-4,
        )
      ) {
        this.keyFault = "There is another keyframe at that time.";
        return;
      }
      frame.time_s = roundTime(time);
    } else if (setting.numeric) {
      const value = this.quantities.read(setting, text, frame.value);
      if (text === "" || !(value >= setting.lo && value <= setting.hi)) {
        this.keyFault =
          `${setting.label} goes from ${setting.lo} to ${setting.hi} ${setting.unit}; ` + `“${text}” is not in it.`;
        return;
      }
      frame.value = value;
    } else frame.value = event.target.value;
    this.keyFault = "";
    const { time_s: time } = frame;
    frames.sort((/** @type {Keyframe} */ a, /** @type {Keyframe} */ b) => a.time_s - b.time_s);
    this.placeKeys(frames, "Change a keyframe");
    this.curveKey = frames.findIndex((/** @type {any} */ other) => other.time_s === time);
  }

  /** Other numbers of the layer that have keyframes: their curves stand behind this one. */
  get siblings() {
    const { curveLayer: layer } = this;
    if (!layer || !this.curveShown) return [];
    return Object.entries(layer.keyframes || {})
      .filter(([place]) => place !== this.curveOf.place)
      .map(([place, frames]) => ({ place, frames, setting: this.settings.settingOf(layer, place) }))
      .filter(({ setting }) => setting.numeric)
      .slice(0, MOST_SIBLINGS);
  }

  /** @param {{place: string}} sibling */
  switchTo({ place }) {
    this.curveOf = { layer: this.curveOf.layer, place };
    this.curveKey = 0;
    this.keyFault = "";
    this.views.keyCurve.draw();
  }

  keyCurveSource() {
    return {
      setting: this.raw(this.curveSetting),
      frames: this.raw(this.curveFrames),
      siblings: this.raw(this.siblings),
      now: this.playback.frame / this.project.rate,
      key: this.curveKey,
      length: this.project.length,
      seen: this.views.strip.seen,
      beats: this.raw(this.tempo.beatGrid.beats),
    };
  }
}
