// Gradients: the ramp and its stops.

import { readNumber } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";

export class GradientField extends partWith("fields", "project", "selection", "settings") {
  /** @param {Setting} setting */
  rampStyle(setting) {
    const stops = this.fields
      .valueShown(setting)
      .map((/** @type {Stop} */ stop) => `${stop.colour} ${stop.at * 100}%`);
    const space = this.selection.layer && this.selection.layer.settings.mix === "srgb" ? "srgb" : "oklab";
    if (stops.length === 1) return { background: this.fields.valueShown(setting)[0].colour };
    return { background: `linear-gradient(to right in ${space}, ${stops.join(", ")})` };
  }

  /**
   * What a gradient by level reaches from and to, where its layer has a range of levels.
   * @param {Setting} setting
   */
  rampEnds(setting) {
    const target = this.selection.target;
    if (!target || setting.name !== "colours" || target.settings.paint !== "level") return null;
    for (const [low, high] of [
      ["quiet_db", "loud_db"],
      ["low_db", "high_db"],
    ]) {
      if (target.settings[low] !== undefined)
        return [target.settings[low], target.settings[high]].map((value) => `${String(value).replace("-", "−")} dB`);
    }
    return ["the base shape", "full height"];
  }

  /** @param {Setting} setting */
  stopsOf(setting) {
    return this.fields.valueShown(setting).map((/** @type {Stop} */ stop, /** @type {number} */ index) => ({
      ...stop,
      index,
      percent: Math.round(stop.at * 1000) / 10,
    }));
  }

  /**
   * @param {Setting} setting
   * @param {number} index
   * @param {Partial<Stop>} change
   */
  withStop(setting, index, change) {
    return this.settings
      .current(setting)
      .map((/** @type {Stop} */ stop, /** @type {any} */ other) => (other === index ? { ...stop, ...change } : stop));
  }

  /**
   * @param {Setting} setting
   * @param {Stop & { index: number; percent: number }} stop
   * @param {FieldEvent} event
   */
  tryStop(setting, stop, event) {
    this.settings.tryValue(setting, this.withStop(setting, stop.index, { colour: event.target.value }));
  }

  /**
   * @param {Setting} setting
   * @param {Stop & { index: number; percent: number }} stop
   * @param {FieldEvent} event
   */
  stopColour(setting, stop, event) {
    this.settings.put(setting, this.withStop(setting, stop.index, { colour: event.target.value }));
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   * @param {string} colour
   */
  setStopColour(setting, stop, colour) {
    this.settings.put(setting, this.withStop(setting, stop.index, { colour }));
  }

  /**
   * @param {Setting} setting
   * @param {Stop & { index: number; percent: number }} stop
   * @param {FieldEvent} event
   */
  stopPlace(setting, stop, event) {
    const place = readNumber(event.target.value, stop.percent) / 100;
    if (!(place >= 0 && place <= 1)) {
      this.project.faults[this.settings.pointer(setting)] = "A stop's place goes from 0 to 100 %.";
      event.target.value = stop.percent;
      return;
    }
    const value = this.withStop(setting, stop.index, { at: place }).sort(
      (/** @type {any} */ a, /** @type {any} */ b) => a.at - b.at,
    );
    this.settings.put(setting, value);
  }

  /** @param {Setting} setting */
  addStop(setting) {
    const stops = this.settings.current(setting);
    const gaps = stops
      .slice(1)
      .map((/** @type {Stop} */ stop, /** @type {number} */ index) => ({ index, width: stop.at - stops[index].at }));
    const widest = gaps.sort((/** @type {any} */ a, /** @type {any} */ b) => b.width - a.width)[0];
    const value = [...stops];
    if (widest)
      value.splice(widest.index + 1, 0, {
        at: stops[widest.index].at + widest.width / 2,
        colour: stops[widest.index].colour,
      });
    else value.push({ at: 1, colour: stops[0].colour });
    this.settings.put(setting, value);
  }

  /**
   * @param {Setting} setting
   * @param {Stop & { index: number; percent: number }} stop
   */
  dropStop(setting, stop) {
    this.settings.put(
      setting,
      this.settings
        .current(setting)
        .filter((/** @type {any} */ _, /** @type {number} */ index) => index !== stop.index),
    );
  }
}
