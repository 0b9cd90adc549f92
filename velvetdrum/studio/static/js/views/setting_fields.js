// Fields and sliders of settings, made from the declarations that the server sent.

import { send } from "../lib/api.js";
import { LOG_STEPS, fromPlace, rounded, toPlace } from "../lib/numbers.js";
import { Part } from "../lib/part.js";

export class SettingFields extends Part {
  toPlace = toPlace;
  /** True for choices that need lines of their own. */
  isLongChoice(setting) {
    return (
      setting.choices.length < 9 &&
      (setting.choices.length > 3 || setting.choices.reduce((sum, [, text]) => sum + text.length + 4, 0) > 30)
    );
  }
  isNumber(setting) {
    return setting.numeric;
  }
  fieldId(setting) {
    return `set-${this.studio.selection.target ? this.studio.selection.target.id : ""}-${this.studio.settings.placeOf(setting).replaceAll(":", "-")}`;
  }
  faultOf(setting) {
    return this.studio.project.faults[this.studio.settings.pointer(setting)] || "";
  }
  sliderMin(setting) {
    return setting.curve === "log" ? 0 : setting.lo;
  }
  sliderMax(setting) {
    return setting.curve === "log" ? LOG_STEPS : setting.hi;
  }
  sliderStep(setting) {
    return setting.curve === "log" ? 1 : setting.step;
  }
  sliderValue(setting) {
    return toPlace(setting, Number(this.valueShown(setting)));
  }
  sliderFill(setting) {
    const low = this.sliderMin(setting);
    return { "--part": `${((this.sliderValue(setting) - low) / (this.sliderMax(setting) - low)) * 100}%` };
  }
  sliderText(setting) {
    return `${this.valueShown(setting)} ${setting.unit}`.trim();
  }
  /** What stands in the field: a refused text, the value being dragged, or the value. */
  valueShown(setting) {
    const path = this.studio.settings.pointer(setting);
    if (this.studio.settings.typed[path] !== undefined) return this.studio.settings.typed[path];
    if (this.studio.settings.dragValue && this.studio.settings.dragValue.id === this.fieldId(setting))
      return this.studio.settings.dragValue.value;
    if (
      !setting.part &&
      this.studio.selection.room === "picture" &&
      this.studio.placement.tried[setting.name] !== undefined
    )
      return this.studio.placement.tried[setting.name];
    return this.studio.settings.current(setting);
  }
  numberShown(setting) {
    const value = this.valueShown(setting);
    return typeof value === "number" ? String(rounded(value, setting.step)) : value;
  }
  slide(setting, event) {
    const value = fromPlace(setting, event.target.value);
    delete this.studio.settings.typed[this.studio.settings.pointer(setting)];
    this.studio.settings.tryValue(setting, value);
  }
  slid(setting, event) {
    this.studio.settings.put(setting, fromPlace(setting, event.target.value));
  }
  type(setting, event) {
    const text = event.target.value.trim().replace(",", ".");
    const path = this.studio.settings.pointer(setting);
    const value = Number(text);
    if (text === "" || !Number.isFinite(value)) {
      this.studio.settings.typed[path] = event.target.value;
      this.studio.project.faults[path] =
        `${setting.label} needs a number${setting.unit ? ` in ${setting.unit}` : ""}, not “${event.target.value}”.`;
      return;
    }
    if (value < setting.lo || value > setting.hi) {
      this.studio.settings.typed[path] = event.target.value;
      this.studio.project.faults[path] =
        `${setting.label} goes from ${setting.lo} to ${setting.hi}${setting.unit ? ` ${setting.unit}` : ""}; ${value} is outside.`;
      return;
    }
    if (
      setting.unit === "Hz" &&
      this.studio.signals.isPickup &&
      this.studio.selection.room === "sound" &&
      value > this.studio.spectrumPanel.nyquist
    ) {
      this.studio.settings.typed[path] = event.target.value;
      this.studio.project.faults[path] =
        `The recording has nothing above ${this.studio.spectrumPanel.nyquist} Hz, half its sample rate; ${value} Hz is beyond it.`;
      return;
    }
    delete this.studio.settings.typed[path];
    delete this.studio.project.faults[path];
    this.studio.settings.put(setting, value);
  }
  setText(setting, event) {
    const path = this.studio.settings.pointer(setting);
    delete this.studio.settings.typed[path];
    delete this.studio.project.faults[path];
    this.studio.settings.put(setting, event.target.value);
  }
  isPath(setting) {
    return setting.name === "path";
  }
  /** The shapes of an SVG file as path data. */
  async bringPath(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    try {
      const found = await send("/paths", file, () => {}, {});
      this.studio.settings.put(setting, found.path);
    } catch (problem) {
      this.studio.project.faults[this.studio.settings.pointer(setting)] = problem.message;
    }
  }
  async bringImage(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    try {
      const found = await send(`/projects/${this.studio.project.state.id}/pictures`, file, () => {}, {});
      this.studio.settings.put(setting, found.key);
      for (const note of found.notes || []) this.studio.messages.tell(note);
      this.studio.media.checkMissing();
    } catch (problem) {
      this.studio.project.faults[this.studio.settings.pointer(setting)] = problem.message;
    }
  }
  imageOf(setting) {
    return this.studio.settings.current(setting) ? `/pictures/${this.studio.settings.current(setting)}` : "";
  }
  setColour(setting, event) {
    this.studio.settings.put(setting, event.target.value);
  }
  tryColour(setting, event) {
    this.studio.settings.tryValue(setting, event.target.value);
  }
}
