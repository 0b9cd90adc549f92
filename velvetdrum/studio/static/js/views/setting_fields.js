// Fields and sliders of settings, made from the declarations that the server sent.

import { send, refusalOf } from "../lib/api.js";
import { LOG_STEPS, arrowStep, clamp, fromPlace, rounded, toPlace } from "../lib/numbers.js";
import { typeOf } from "../lib/setting_type.js";
import { partWith } from "../lib/studio_part.js";

export class SettingFields extends partWith(
  "manyLayers",
  "media",
  "messages",
  "placement",
  "project",
  "quantities",
  "selection",
  "settings",
  "signals",
  "spectrumPanel",
) {
  toPlace = toPlace;
  /**
   * True for choices that need lines of their own.
   * @param {Setting} setting
   */
  isLongChoice(setting) {
    return (
      setting.choices.length < 9 &&
      (setting.choices.length > 3 || setting.choices.reduce((sum, [, text]) => sum + text.length + 4, 0) > 30)
    );
  }

  /** @param {Setting} setting */
  fieldId(setting) {
    const { target } = this.selection;
    const place = this.settings.placeOf(setting).replaceAll(":", "-");
    return `set-${target ? target.id : ""}-${place}`;
  }

  /** @param {Setting} setting */
  faultOf(setting) {
    return this.project.faults[this.settings.pointer(setting)] || "";
  }

  /** @param {Setting} setting */
  sliderMin(setting) {
    return setting.curve === "log" ? 0 : setting.lo;
  }

  /** @param {Setting} setting */
  sliderMax(setting) {
    return setting.curve === "log" ? LOG_STEPS : setting.hi;
  }

  /** @param {Setting} setting */
  sliderStep(setting) {
    return setting.curve === "log" ? 1 : setting.step;
  }

  /** @param {Setting} setting */
  sliderValue(setting) {
    return toPlace(setting, Number(this.valueShown(setting)));
  }

  /** @param {Setting} setting */
  sliderFill(setting) {
    const low = this.sliderMin(setting);
    return { "--part": `${((this.sliderValue(setting) - low) / (this.sliderMax(setting) - low)) * 100}%` };
  }

  /** @param {Setting} setting */
  sliderText(setting) {
    return `${this.quantities.text(setting, this.valueShown(setting))} ${this.quantities.unit(setting)}`.trim();
  }

  /**
   * What stands in the field: a refused text, the value being dragged, or the value.
   * @param {Setting} setting
   */
  valueShown(setting) {
    const path = this.settings.pointer(setting);
    if (this.settings.typed[path] !== undefined) return this.settings.typed[path];
    if (this.settings.dragValue && this.settings.dragValue.id === this.fieldId(setting))
      return this.settings.dragValue.value;
    if (!setting.part && this.selection.room === "picture" && this.placement.tried[setting.name] !== undefined)
      return this.placement.tried[setting.name];
    return this.settings.current(setting);
  }

  /** @param {Setting} setting */
  numberShown(setting) {
    const path = this.settings.pointer(setting);
    const several = this.settings.typed[path] === undefined && this.manyLayers.text(setting);
    if (several) return several;
    const value = this.valueShown(setting);
    return this.quantities.text(setting, value);
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  slide(setting, event) {
    const value = fromPlace(setting, event.target.value);
    delete this.settings.typed[this.settings.pointer(setting)];
    this.settings.tryValue(setting, value);
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  slid(setting, event) {
    this.settings.put(setting, fromPlace(setting, event.target.value));
  }

  /**
   * A number, a sum or a change of the value that stands there; what can't be taken stays in its field.
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  type(setting, event) {
    const path = this.settings.pointer(setting);
    const { typed } = this.settings;
    const many = this.manyLayers.on && !setting.part;
    const value = this.quantities.read(setting, event.target.value, Number(this.settings.current(setting)));
    const fault = many
      ? this.manyLayers.type(setting, event.target.value)
      : this.numberFault(setting, value, event.target.value);
    if (fault) {
      typed[path] = event.target.value;
      this.project.faults[path] = fault;
      return;
    }
    delete typed[path];
    delete this.project.faults[path];
    if (many) return;
    const kept = typeOf(setting).allowed(Math.round(value * 1e6) / 1e6);
    event.target.value = this.quantities.text(setting, kept);
    this.settings.put(setting, kept);
  }

  /** @param {Setting} setting */
  valueClass(setting) {
    if (this.faultOf(setting)) return "bad";
    return this.manyLayers.valuesOf(setting) ? "many" : "";
  }

  /**
   * What a field is for, and its amount in other units.
   * @param {Setting} setting
   */
  titleOf(setting) {
    const other = this.quantities.others(setting, Number(this.settings.current(setting)));
    return other ? `${setting.help} Now ${other}.` : setting.help;
  }

  /**
   * What a setting can't have about a number; empty where it can.
   * @param {Setting} setting
   * @param {any} value
   * @param {string} text
   */
  numberFault(setting, value, text) {
    const unit = setting.unit ? ` ${setting.unit}` : "";
    if (!Number.isFinite(value)) return `${setting.label} needs a number${unit && ` in${unit}`}, not “${text}”.`;
    if (value < setting.lo || value > setting.hi) {
      const told = Math.round(value * 1000) / 1000;
      return `${setting.label} goes from ${setting.lo} to ${setting.hi}${unit}; ${told} is outside.`;
    }
    const { nyquist } = this.spectrumPanel;
    const heard = this.signals.isPickup && this.selection.room === "sound";
    if (setting.unit === "Hz" && heard && value > nyquist) {
      return `The recording has nothing above ${nyquist} Hz, half its sample rate; ${value} Hz is beyond it.`;
    }
    return "";
  }

  /**
   * Arrows in a field: a step up or down, ten with Shift, a tenth with Alt. Enter takes what was typed.
   * @param {Setting} setting
   * @param {TypeEvent} event
   */
  fieldKey(setting, event) {
    if (event.key === "Enter") event.target.blur();
    const by = arrowStep(event, setting.step);
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const now = this.quantities.read(setting, event.target.value, Number(this.settings.current(setting)));
    if (!Number.isFinite(now)) return;
    // A type that has no tenths goes on by one at least.
    const shown = this.quantities.shownAs(setting);
    const own = shown && shown.times ? by / setting.step / shown.times : by;
    const step = shown ? own : typeOf(setting).allowed(by) || Math.sign(by);
    const fine = shown ? 1e-6 : Math.min(setting.step || 1, Math.abs(step));
    event.target.value = this.quantities.text(setting, clamp(rounded(now + step, fine), setting.lo, setting.hi));
    this.type(setting, event);
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  setText(setting, event) {
    const path = this.settings.pointer(setting);
    delete this.settings.typed[path];
    delete this.project.faults[path];
    this.settings.put(setting, event.target.value);
  }

  /**
   * The shapes of an SVG file as path data.
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  async bringPath(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    try {
      const found = await send("/paths", file, () => {}, {});
      this.settings.put(setting, found.path);
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.project.faults[this.settings.pointer(setting)] = problem.message;
    }
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  async bringImage(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    try {
      const found = await send(`/projects/${this.project.state.id}/pictures`, file, () => {}, {});
      this.settings.put(setting, found.key);
      for (const note of found.notes || []) this.messages.tell(note);
      this.media.checkMissing();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.project.faults[this.settings.pointer(setting)] = problem.message;
    }
  }

  /**
   * A look-up table from a file.
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  async bringTable(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    const path = this.settings.pointer(setting);
    delete this.project.faults[path];
    try {
      const found = await send("/tables", file, () => {}, {});
      this.settings.put(setting, found.key);
      this.messages.tell(`${found.title || found.name}: ${found.points} points on a side.`);
      this.media.checkMissing();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.project.faults[path] = problem.message;
    }
  }

  /** @param {Setting} setting */
  imageOf(setting) {
    return this.settings.current(setting) ? `/pictures/${this.settings.current(setting)}` : "";
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  setColour(setting, event) {
    this.settings.put(setting, event.target.value);
  }

  /**
   * @param {Setting} setting
   * @param {FieldEvent} event
   */
  tryColour(setting, event) {
    this.settings.tryValue(setting, event.target.value);
  }
}
