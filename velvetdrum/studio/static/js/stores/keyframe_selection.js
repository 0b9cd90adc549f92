// Keyframes that are chosen on the strip, several at once.

import { plain } from "../lib/json_patch.js";
import { roundTime } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

export class KeyframeSelection extends partWith("keyframes", "layerEdits", "layers", "messages", "project") {
  /** @type {{ layer: string; time: number }[]} */
  pickedKeys = []; // {layer, time}: keyframes chosen on the strip, all settings of a layer at a time together
  /** @type {any} */
  heldKeys = null; // keyframes that were copied
  /**
   * @param {string} id
   * @param {number} time
   */
  isPickedKey(id, time) {
    return this.pickedKeys.some((key) => key.layer === id && Math.abs(key.time - time) < 1e-6);
  }

  /**
   * @param {string} id
   * @param {number} time
   * @param {any} add
   */
  pickKey(id, time, add) {
    if (add)
      this.pickedKeys = this.isPickedKey(id, time)
        ? this.pickedKeys.filter((key) => !(key.layer === id && Math.abs(key.time - time) < 1e-6))
        : [...this.pickedKeys, { layer: id, time }];
    else if (!this.isPickedKey(id, time)) this.pickedKeys = [{ layer: id, time }];
  }

  /**
   * The steps that change the picked keyframes: `change(time)` gives the new time, or null to take them away.
   * @param {(time: number) => number | null} change
   */
  pickedSteps(change) {
    const steps = [];
    for (const id of new Set(this.pickedKeys.map((key) => key.layer))) {
      const layer = this.layers.byId(id);
      const times = this.pickedKeys.filter((key) => key.layer === id).map((key) => key.time);
      const picked = (/** @type {Keyframe} */ frame) => times.some((time) => Math.abs(time - frame.time_s) < 1e-6);
      /** @type {Record<string, Keyframe[]>} */
      const keyframes = {};
      for (const [place, frames] of Object.entries(plain(layer.keyframes || {}))) {
        const moved = frames
          .filter(picked)
          .map((/** @type {Keyframe} */ frame) => ({ ...frame, time_s: change(frame.time_s) }))
          .filter((/** @type {Keyframe} */ frame) => frame.time_s !== null);
        const rest = frames.filter(
          (/** @type {Keyframe} */ frame) =>
            !picked(frame) &&
            !moved.some(
              (/** @type {any} */ other) => Math.abs(other.time_s - frame.time_s) < this.keyframes.nearFrame,
            ),
        );
        const all = [...rest, ...moved].sort((a, b) => a.time_s - b.time_s);
        if (all.length) keyframes[place] = all;
      }
      steps.push({
        op: "add",
        path: `/layers/${this.layers.indexOf(id)}/keyframes`,
        value: keyframes,
      });
    }
    return steps;
  }

  /**
   * Picked keyframes moved by seconds, none before the start or past the end.
   * @param {number} by
   */
  shiftSteps(by) {
    const times = this.pickedKeys.map((key) => key.time);
    const within = Math.max(-Math.min(...times), Math.min(by, this.project.length - Math.max(...times)));
    return { by: within, steps: this.pickedSteps((/** @type {number} */ time) => roundTime(time + within)) };
  }

  /** @param {number} by */
  shiftKeys(by) {
    if (this.layerEdits.refuseLocked(this.pickedKeys.map((key) => this.layers.byId(key.layer)))) return;
    const { by: within, steps } = this.shiftSteps(by);
    this.pickedKeys = this.pickedKeys.map((key) => ({ ...key, time: roundTime(key.time + within) }));
    this.project.edit(`Move ${this.pickedText}`, steps);
  }

  /**
   * Picked keyframes drawn apart, or together, about the first of them; none past the end.
   * @param {number} factor
   */
  stretchKeys(factor) {
    const layers = this.pickedKeys.map((key) => this.layers.byId(key.layer));
    if (this.pickedKeys.length < 2) {
      this.messages.tell("Pick two keyframes or more on the strip: Shift and a press adds one.");
      return;
    }
    if (this.layerEdits.refuseLocked(layers)) return;
    const first = Math.min(...this.pickedKeys.map((key) => key.time));
    const place = (/** @type {number} */ time) =>
      roundTime(Math.min(first + (time - first) * factor, this.project.length));
    const steps = this.pickedSteps(place);
    this.pickedKeys = this.pickedKeys.map((key) => ({ ...key, time: place(key.time) }));
    this.project.edit(`Stretch ${this.pickedText}`, steps);
  }

  /** Picked keyframes in the other order, between the first and the last of them. */
  reverseKeys() {
    const layers = this.pickedKeys.map((key) => this.layers.byId(key.layer));
    if (!this.pickedKeys.length || this.layerEdits.refuseLocked(layers)) return;
    const times = this.pickedKeys.map((key) => key.time);
    const sum = Math.min(...times) + Math.max(...times);
    const place = (/** @type {number} */ time) => roundTime(sum - time);
    const steps = this.pickedSteps(place);
    this.pickedKeys = this.pickedKeys.map((key) => ({ ...key, time: place(key.time) }));
    this.project.edit(`Reverse ${this.pickedText}`, steps);
  }

  get pickedText() {
    return this.pickedKeys.length > 1 ? `${this.pickedKeys.length} keyframes` : "a keyframe";
  }

  dropKeys() {
    if (
      !this.pickedKeys.length ||
      this.layerEdits.refuseLocked(this.pickedKeys.map((key) => this.layers.byId(key.layer)))
    )
      return;
    this.project.edit(
      `Take ${this.pickedText} away`,
      this.pickedSteps(() => null),
    );
    this.pickedKeys = [];
  }

  copyKeys() {
    const first = Math.min(...this.pickedKeys.map((key) => key.time));
    this.heldKeys = this.pickedKeys.map(({ layer, time }) => ({
      layer,
      after: time - first,
      values: Object.entries(this.layers.byId(layer).keyframes).flatMap(([place, frames]) =>
        frames.filter((frame) => Math.abs(frame.time_s - time) < 1e-6).map((frame) => ({ place, ...plain(frame) })),
      ),
    }));
    this.messages.tell(
      `${this.pickedKeys.length > 1 ? `${this.pickedKeys.length} keyframes are` : "A keyframe is"} copied; ` +
        "go to another time and press Ctrl V.",
    );
  }

  pasteKeys() {
    const steps = [];
    const picked = [];
    for (const id of new Set(this.heldKeys.map((/** @type {any} */ key) => key.layer))) {
      const layer = this.layers.byId(id);
      if (!layer) continue;
      const keyframes = plain(layer.keyframes || {});
      for (const { after, values } of this.heldKeys.filter((/** @type {any} */ key) => key.layer === id)) {
        const time = roundTime(Math.min(this.keyframes.now + after, this.project.length));
        picked.push({ layer: id, time });
        for (const { place, value, ease } of values) {
          const listed = (keyframes[place] || []).filter(
            (/** @type {Keyframe} */ frame) => Math.abs(frame.time_s - time) >= this.keyframes.nearFrame,
          );
          keyframes[place] = [...listed, { time_s: time, value, ease }].sort((a, b) => a.time_s - b.time_s);
        }
      }
      steps.push({
        op: "add",
        path: `/layers/${this.layers.indexOf(id)}/keyframes`,
        value: keyframes,
      });
    }
    if (!steps.length) return;
    this.project.edit("Paste keyframes", steps);
    this.pickedKeys = picked;
  }
}
