// The picked stop of a gradient: its colour, how solid it is, its place, and the edge that it begins with.

import { fromOklch, opacityOf, readHex, toOklch, withOpacity } from "../lib/colour.js";
import { readNumber } from "../lib/numbers.js";
import { partWith } from "../lib/studio_part.js";
import { coloured, edged, isHard, moved } from "../lib/stops.js";

export class StopFields extends partWith("gradients", "project", "settings") {
  /**
   * @param {any} stop
   * @param {"lightness" | "chroma" | "hue"} name
   */
  part(stop, name) {
    return Math.round(toOklch(stop.colour)[name]);
  }

  /**
   * @param {any} stop
   * @param {"lightness" | "chroma" | "hue"} name
   * @param {FieldEvent} event
   */
  withPart(stop, name, event) {
    const colour = fromOklch({ ...toOklch(stop.colour), [name]: Number(event.target.value) });
    return withOpacity(colour, opacityOf(stop.colour));
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   * @param {string} colour
   */
  tryColour(setting, stop, colour) {
    this.settings.tryValue(setting, coloured(this.settings.current(setting), stop.index, colour));
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   * @param {string} colour with the opacity that it is to have
   */
  putColour(setting, stop, colour) {
    this.settings.put(setting, coloured(this.settings.current(setting), stop.index, colour));
  }

  /**
   * Another colour that is as solid as the stop was.
   * @param {Setting} setting
   * @param {any} stop
   * @param {string} colour #rrggbb
   */
  setStopColour(setting, stop, colour) {
    this.putColour(setting, stop, withOpacity(colour, opacityOf(stop.colour)));
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   * @param {FieldEvent} event
   */
  typeColour(setting, stop, event) {
    const colour = readHex(event.target.value);
    const path = this.settings.pointer(setting);
    if (colour && (setting.clear || colour.length === 7)) {
      delete this.project.faults[path];
      this.putColour(setting, stop, colour);
      return;
    }
    const more = setting.clear ? " or #e0ac5580" : "";
    this.project.faults[path] = `A colour is written as #e0ac55${more}; “${event.target.value}” is none.`;
    event.target.value = stop.colour;
  }

  /** @param {any} stop */
  solidColour(stop) {
    return stop.colour.slice(0, 7);
  }

  /** @param {{ value: string }} colour */
  swatchStyle({ value }) {
    return { background: value };
  }

  /** @param {any} stop */
  opacity(stop) {
    return Math.round(opacityOf(stop.colour) * 100);
  }

  /**
   * @param {any} stop
   * @param {FieldEvent} event
   */
  withStopOpacity(stop, event) {
    return withOpacity(stop.colour, Number(event.target.value) / 100);
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   */
  isHard(setting, stop) {
    return isHard(this.gradients.shown(setting), stop.index);
  }

  /**
   * @param {Setting} setting
   * @param {any} stop
   */
  toggleHard(setting, stop) {
    const stops = this.settings.current(setting);
    this.gradients.putStops(setting, edged(stops, stop.index, !isHard(stops, stop.index)));
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
      event.target.value = String(stop.percent);
      return;
    }
    this.gradients.putStops(setting, moved(this.settings.current(setting), stop.index, place));
  }
}
