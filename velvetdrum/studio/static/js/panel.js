// Settings of the chosen layer, made from the declarations that the server sent; layers; frame and length.

import { plain, send } from "./api.js";
import { keyedValue } from "./easing.js";

const LOG_STEPS = 1000;

export const GROUPS = [
  { name: "shape", title: "Shape" },
  { name: "sound", title: "Sound" },
  { name: "colour", title: "Colour" },
  { name: "motion", title: "Motion" },
  { name: "layer", title: "Layer" },
];

function rounded(value, step) {
  const digits = Math.max(0, Math.ceil(-Math.log10(step || 1)));
  return Number(value.toFixed(digits));
}

/** Places of a slider that is finer at its low end: 0 to 1000, and back. */
function toPlace(setting, value) {
  if (setting.curve !== "log") return value;
  const low = Math.max(setting.lo, setting.hi / 1e4);
  return value <= low ? 0 : (Math.log(value / low) / Math.log(setting.hi / low)) * LOG_STEPS;
}
function fromPlace(setting, place) {
  if (setting.curve !== "log") return rounded(Number(place), setting.step);
  const low = Math.max(setting.lo, setting.hi / 1e4);
  if (Number(place) <= 0) return setting.lo;
  const value = low * (setting.hi / low) ** (Number(place) / LOG_STEPS);
  return Math.min(setting.hi, rounded(value, value < 10 ? 0.1 : value < 1000 ? 1 : 10));
}

export const panel = {
  tab: "shape",
  typed: {}, // JSON Pointer -> text that was refused and still stands in its field
  dragValue: null, // {id, value}: what a slider shows while it is being dragged
  onlyHere: false, // true: what is set is set for frames of this shape alone

  get kind() { return this.layer ? this.kinds.find((kind) => kind.kind === this.layer.kind) : null; },
  /** What the settings on show belong to: the chosen signal in the Sound room, the chosen layer elsewhere. */
  get target() {
    if (this.room === "sound") {
      const { signal } = this;
      return signal && { id: signal.id, name: signal.name, base: `/signals/${this.signalIndex}/settings`, settings: signal.settings, kind: this.signalKind(signal), grouped: false };
    }
    return this.layer && { id: this.layer.id, name: this.layer.name, base: `/layers/${this.layerIndex}/settings`, settings: this.layer.settings, kind: this.kind, grouped: true };
  },
  get tabs() {
    if (!this.kind) return [];
    const own = GROUPS.filter((group) => this.kind.settings.some((setting) => setting.group === group.name));
    return [...own, ...this.given.partSorts.map((sort) => ({ name: sort.name, title: sort.title }))];
  },
  get often() { return this.fieldsOf(true); },
  get seldom() { return this.fieldsOf(false); },

  /** Where a setting is: its name, or the address of a part's setting. A part's settings say where the part is. */
  placeOf(setting) { return setting.place || setting.name; },
  ownerOf(setting) {
    if (!setting.part) return this.target && this.target.settings;
    return (((this.layer || {})[setting.part.listed] || [])[setting.part.number] || { settings: {} }).settings;
  },
  pointer(setting) {
    if (!this.target) return "";
    return setting.part ? `/layers/${this.layerIndex}/${this.settingsPath(setting)}/${setting.name}` : `${this.target.base}/${setting.name}`;
  },
  /** The value that is in force now, before signals move it: that of this shape of frame, of the keyframes, or its own. */
  current(setting) {
    const owner = this.ownerOf(setting);
    const value = owner ? owner[setting.name] : undefined;
    const own = value === undefined ? setting.default : value;
    if (this.room === "sound" || !this.layer) return own;
    return this.valueNow(this.layer, setting, own);
  },
  valueNow(layer, setting, own = layer.settings[setting.name] ?? setting.default) {
    const place = this.placeOf(setting);
    const override = ((layer.frames || {})[this.frameShape] || {})[place];
    if (override !== undefined) return override;
    const frames = (layer.keyframes || {})[place];
    return frames && frames.length ? keyedValue(setting, frames, this.frame / this.rate) : own;
  },
  isOverridden(setting) { return this.room === "picture" && Boolean(this.layer) && ((this.layer.frames || {})[this.frameShape] || {})[this.placeOf(setting)] !== undefined; },
  /** The steps that give settings of a layer their values: each for frames of this shape alone, at this time, or
   * altogether. */
  stepsForMany(layer, entries) {
    const base = `/layers/${this.indexOf(layer.id)}`;
    const { frameShape: shape } = this;
    const frames = layer.frames || {};
    const here = { ...plain(frames[shape] || {}) };
    const steps = [];
    let overridden = false;
    for (const { setting, value } of entries) {
      const place = this.placeOf(setting);
      const keyed = (layer.keyframes || {})[place];
      if (here[place] !== undefined || (this.onlyHere && this.room === "picture")) {
        here[place] = value;
        overridden = true;
      } else if (keyed) steps.push({ op: "add", path: `${base}/keyframes/${place}`, value: this.withKey(keyed, this.frame / this.rate, value) });
      else steps.push({ op: "add", path: `${base}/${this.settingsPath(setting)}/${setting.name}`, value });
    }
    if (overridden) steps.push({ op: "add", path: `${base}/frames`, value: { ...plain(frames), [shape]: here } });
    return steps;
  },
  stepsHere(setting, value) {
    if (this.room === "sound") return [{ op: "add", path: this.pointer(setting), value }];
    return this.stepsForMany(this.layer, [{ setting, value }]);
  },
  dropOverride(setting) {
    const { layer, frameShape: shape } = this;
    const rest = plain(layer.frames);
    delete rest[shape][this.placeOf(setting)];
    if (!Object.keys(rest[shape]).length) delete rest[shape];
    this.edit(`${layer.name}: ${setting.label} in all frames`, [{ op: "add", path: `/layers/${this.layerIndex}/frames`, value: rest }]);
  },
  get overrideNote() { return `only in ${this.frameShape} frames`; },
  toggleOnlyHere() { this.onlyHere = !this.onlyHere; },
  fieldsOf(often) {
    const { target } = this;
    if (!target) return [];
    return target.kind.settings
      .filter((setting) => (!target.grouped || setting.group === this.tab) && !setting.advanced === often)
      .filter((setting) => setting.when.every(([name, values]) => this.holds(target.kind.settings, target.settings, name, values)));
  },
  /** A condition of a setting: the values that another may have, or a number that it must be above. */
  holds(listed, settings, name, values) {
    const other = listed.find((setting) => setting.name === name);
    const value = settings[name] ?? (other && other.default);
    return values[0] === ">" ? value > values[1] : values.includes(value);
  },
  /** True for choices that need lines of their own. */
  isLongChoice(setting) { return setting.choices.length < 9 && (setting.choices.length > 3 || setting.choices.reduce((sum, [, text]) => sum + text.length + 4, 0) > 30); },
  isNumber(setting) { return setting.numeric; },
  fieldId(setting) { return `set-${this.target ? this.target.id : ""}-${this.placeOf(setting).replaceAll(":", "-")}`; },
  faultOf(setting) { return this.faults[this.pointer(setting)] || ""; },
  sliderMin(setting) { return setting.curve === "log" ? 0 : setting.lo; },
  sliderMax(setting) { return setting.curve === "log" ? LOG_STEPS : setting.hi; },
  sliderStep(setting) { return setting.curve === "log" ? 1 : setting.step; },
  toPlace,
  sliderValue(setting) { return toPlace(setting, Number(this.valueShown(setting))); },
  sliderFill(setting) {
    const low = this.sliderMin(setting);
    return { "--part": `${((this.sliderValue(setting) - low) / (this.sliderMax(setting) - low)) * 100}%` };
  },
  sliderText(setting) { return `${this.valueShown(setting)} ${setting.unit}`.trim(); },
  /** What stands in the field: a refused text, the value being dragged, or the value. */
  valueShown(setting) {
    const path = this.pointer(setting);
    if (this.typed[path] !== undefined) return this.typed[path];
    if (this.dragValue && this.dragValue.id === this.fieldId(setting)) return this.dragValue.value;
    if (!setting.part && this.room === "picture" && this.tried[setting.name] !== undefined) return this.tried[setting.name];
    return this.current(setting);
  },
  numberShown(setting) {
    const value = this.valueShown(setting);
    return typeof value === "number" ? String(rounded(value, setting.step)) : value;
  },
  slide(setting, event) {
    const value = fromPlace(setting, event.target.value);
    delete this.typed[this.pointer(setting)];
    this.tryValue(setting, value);
  },
  /** Show a value without setting it. */
  tryValue(setting, value) {
    this.dragValue = { id: this.fieldId(setting), value };
    this.tryOut(this.stepsHere(setting, value));
  },
  slid(setting, event) { this.put(setting, fromPlace(setting, event.target.value)); },
  type(setting, event) {
    const text = event.target.value.trim().replace(",", ".");
    const path = this.pointer(setting);
    const value = Number(text);
    if (text === "" || !Number.isFinite(value)) {
      this.typed[path] = event.target.value;
      this.faults[path] = `${setting.label} needs a number${setting.unit ? ` in ${setting.unit}` : ""}, not “${event.target.value}”.`;
      return;
    }
    if (value < setting.lo || value > setting.hi) {
      this.typed[path] = event.target.value;
      this.faults[path] = `${setting.label} goes from ${setting.lo} to ${setting.hi}${setting.unit ? ` ${setting.unit}` : ""}; ${value} is outside.`;
      return;
    }
    if (setting.unit === "Hz" && this.isPickup && this.room === "sound" && value > this.nyquist) {
      this.typed[path] = event.target.value;
      this.faults[path] = `The recording has nothing above ${this.nyquist} Hz, half its sample rate; ${value} Hz is beyond it.`;
      return;
    }
    delete this.typed[path];
    delete this.faults[path];
    this.put(setting, value);
  },
  put(setting, value) {
    if (this.refuseLocked()) return;
    this.dragValue = null;
    if (JSON.stringify(this.current(setting)) === JSON.stringify(value) && !(this.onlyHere && !this.isOverridden(setting))) {
      this.draft = null;
      this.preview.still(this.frame);
      return;
    }
    const where = this.room === "picture" && (this.onlyHere || this.isOverridden(setting)) ? `, ${this.overrideNote}` : "";
    this.edit(`${this.target.name}: ${setting.label}${where}`, this.stepsHere(setting, value));
  },
  setText(setting, event) {
    const path = this.pointer(setting);
    delete this.typed[path];
    delete this.faults[path];
    this.put(setting, event.target.value);
  },
  isPath(setting) { return setting.name === "path"; },
  /** The shapes of an SVG file as path data. */
  async bringPath(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    try {
      const found = await send("/paths", file, () => {}, {});
      this.put(setting, found.path);
    } catch (problem) {
      this.faults[this.pointer(setting)] = problem.message;
    }
  },
  async bringImage(setting, event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    try {
      const found = await send(`/projects/${this.state.id}/pictures`, file, () => {}, {});
      this.put(setting, found.key);
      for (const note of found.notes || []) this.tell(note);
      this.checkMissing();
    } catch (problem) {
      this.faults[this.pointer(setting)] = problem.message;
    }
  },
  imageOf(setting) { return this.current(setting) ? `/pictures/${this.current(setting)}` : ""; },
  setColour(setting, event) { this.put(setting, event.target.value); },
  tryColour(setting, event) { this.tryValue(setting, event.target.value); },

  rampStyle(setting) {
    const stops = this.valueShown(setting).map((stop) => `${stop.colour} ${stop.at * 100}%`);
    const space = this.layer && this.layer.settings.mix === "srgb" ? "srgb" : "oklab";
    if (stops.length === 1) return { background: this.valueShown(setting)[0].colour };
    return { background: `linear-gradient(to right in ${space}, ${stops.join(", ")})` };
  },
  /** What a gradient by level reaches from and to, where its layer has a range of levels. */
  rampEnds(setting) {
    const { target } = this;
    if (!target || setting.name !== "colours" || target.settings.paint !== "level") return null;
    for (const [low, high] of [["quiet_db", "loud_db"], ["low_db", "high_db"]]) {
      if (target.settings[low] !== undefined) return [target.settings[low], target.settings[high]].map((value) => `${String(value).replace("-", "−")} dB`);
    }
    return ["the base shape", "full height"];
  },
  stopsOf(setting) { return this.valueShown(setting).map((stop, index) => ({ ...stop, index, percent: Math.round(stop.at * 1000) / 10 })); },
  withStop(setting, index, change) {
    return this.current(setting).map((stop, other) => (other === index ? { ...stop, ...change } : stop));
  },
  tryStop(setting, stop, event) {
    this.tryValue(setting, this.withStop(setting, stop.index, { colour: event.target.value }));
  },
  stopColour(setting, stop, event) { this.put(setting, this.withStop(setting, stop.index, { colour: event.target.value })); },
  stopPlace(setting, stop, event) {
    const place = Number(event.target.value.replace(",", ".")) / 100;
    if (!(place >= 0 && place <= 1)) {
      this.faults[this.pointer(setting)] = "A stop's place goes from 0 to 100 %.";
      event.target.value = stop.percent;
      return;
    }
    const value = this.withStop(setting, stop.index, { at: place }).sort((a, b) => a.at - b.at);
    this.put(setting, value);
  },
  addStop(setting) {
    const stops = this.current(setting);
    const gaps = stops.slice(1).map((stop, index) => ({ index, width: stop.at - stops[index].at }));
    const widest = gaps.sort((a, b) => b.width - a.width)[0];
    const value = [...stops];
    if (widest) value.splice(widest.index + 1, 0, { at: stops[widest.index].at + widest.width / 2, colour: stops[widest.index].colour });
    else value.push({ at: 1, colour: stops[0].colour });
    this.put(setting, value);
  },
  dropStop(setting, stop) { this.put(setting, this.current(setting).filter((_, index) => index !== stop.index)); },

  get canFit() { return Boolean(this.layer && this.kind.fits && this.tab === "sound" && this.track); },
  async fit() {
    const { name } = this.layer;
    const path = `/layers/${this.layerIndex}/settings`;
    try {
      const range = await this.ask(`/projects/${this.state.id}/fit`, { json: { kind: this.layer.kind, settings: this.layer.settings } });
      this.edit(`Fit ${name} to the sound`, Object.entries(range).map(([setting, value]) => ({ op: "replace", path: `${path}/${setting}`, value })));
    } catch (problem) {
      this.tell(problem.message);
    }
  },
};
