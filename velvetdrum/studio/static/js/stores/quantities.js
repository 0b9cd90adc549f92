// Numbers of settings as the project shows them, and as they are typed.

import { rounded } from "../lib/numbers.js";
import { otherwise, readQuantity } from "../lib/quantities.js";
import { shownAs, shownText, withUnit } from "../lib/shown_units.js";
import { typeOf } from "../lib/setting_type.js";
import { partWith } from "../lib/studio_part.js";

export class Quantities extends partWith("project", "tempo", "workspace") {
  /** What the project makes of pixels, frames and beats. */
  get measures() {
    const { beatGrid } = this.tempo;
    return {
      ...this.project.document.frame,
      rate: this.project.rate,
      beat_s: beatGrid.tempo_bpm ? 60 / beatGrid.tempo_bpm : 0,
      bar_beats: Number(this.tempo.beatValue("bar")) || 4,
    };
  }

  /** @param {Setting} setting */
  shownAs(setting) {
    const { units } = this.workspace;
    return Object.keys(units).length ? shownAs(setting, units, this.measures) : null;
  }

  /**
   * A value as it stands in a field.
   * @param {Setting} setting
   * @param {any} value
   */
  text(setting, value) {
    if (typeof value !== "number") return value;
    const shown = this.shownAs(setting);
    if (shown) return shownText(shown, value);
    return String(rounded(value, (setting.step || 1) / typeOf(setting).parts));
  }

  /**
   * The unit that stands beside a field.
   * @param {Setting} setting
   */
  unit(setting) {
    const shown = this.shownAs(setting);
    return shown ? shown.unit : setting.unit;
  }

  /**
   * What was typed, in the setting's own unit; NaN for what is no number.
   * @param {Setting} setting
   * @param {string} text
   * @param {number} now the value that stands there
   */
  read(setting, text, now) {
    const shown = this.shownAs(setting);
    return readQuantity(shown ? withUnit(shown, text) : text, setting, now, this.measures);
  }

  /**
   * A length on the picture, in the project's unit.
   * @param {number} pixels
   * @param {number} side of the frame along it
   */
  lengthText(pixels, side) {
    const inPixels = this.workspace.units.length === "px";
    return inPixels ? `${rounded(pixels, 1)} px` : `${rounded((pixels / side) * 100, 0.1)} %`;
  }

  /**
   * A value in whichever units it does not stand in.
   * @param {Setting} setting
   * @param {number} value
   */
  others(setting, value) {
    const other = otherwise(value, setting, this.measures);
    if (!this.shownAs(setting)) return other;
    const own = `${rounded(value, setting.step || 1)} ${setting.unit}`.trim();
    return other ? `${own}, ${other}` : own;
  }
}
