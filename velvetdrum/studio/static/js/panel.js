// Settings of the chosen layer, made from the declarations that the server sent; layers; frame and length.

import { plain, send } from "./api.js";

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
  chosen: null,
  grabbedLayer: null,
  targetLayer: null,
  tab: "shape",
  typed: {}, // JSON Pointer -> text that was refused and still stands in its field

  get layersFrontFirst() { return [...this.document.layers].reverse(); },
  get layer() { return this.document.layers.find((layer) => layer.id === this.chosen) || null; },
  get layerIndex() { return this.document.layers.findIndex((layer) => layer.id === this.chosen); },
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
    return GROUPS.filter((group) => this.kind.settings.some((setting) => setting.group === group.name));
  },
  get often() { return this.fieldsOf(true); },
  get seldom() { return this.fieldsOf(false); },

  kindTitle(layer) {
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    return kind ? kind.title.toLowerCase() : layer.kind;
  },
  thumbOf(layer) { return this.thumbs[layer.id] || ""; },
  choose(layer) {
    this.chosen = layer.id;
    if (!this.tabs.some((tab) => tab.name === this.tab)) this.tab = this.tabs.length ? this.tabs[0].name : "shape";
  },
  isChosen(layer) { return layer.id === this.chosen; },

  pointer(setting) { return this.target ? `${this.target.base}/${setting.name}` : ""; },
  current(setting) {
    const value = this.target ? this.target.settings[setting.name] : undefined;
    return value === undefined ? setting.default : value;
  },
  fieldsOf(often) {
    const { target } = this;
    if (!target) return [];
    return target.kind.settings
      .filter((setting) => (!target.grouped || setting.group === this.tab) && setting.often === often)
      .filter((setting) => setting.when.every(([name, values]) => this.holds(target, name, values)));
  },
  /** A condition of a setting: the values that another may have, or a number that it must be above. */
  holds(target, name, values) {
    const other = target.kind.settings.find((setting) => setting.name === name);
    const value = target.settings[name] ?? (other && other.default);
    return values[0] === ">" ? value > values[1] : values.includes(value);
  },
  isNumber(setting) { return setting.type === "number" || setting.type === "whole"; },
  fieldId(setting) { return `set-${this.target ? this.target.id : ""}-${setting.name}`; },
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
    const step = this.draft && this.draft.find((candidate) => candidate.path === path);
    return step ? step.value : this.current(setting);
  },
  numberShown(setting) {
    const value = this.valueShown(setting);
    return typeof value === "number" ? String(rounded(value, setting.step)) : value;
  },
  slide(setting, event) {
    const value = fromPlace(setting, event.target.value);
    delete this.typed[this.pointer(setting)];
    this.tryOut([{ op: "replace", path: this.pointer(setting), value }]);
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
    const path = this.pointer(setting);
    if (JSON.stringify(this.current(setting)) === JSON.stringify(value)) {
      this.draft = null;
      this.preview.still(this.frame);
      return;
    }
    const op = this.target.settings[setting.name] === undefined ? "add" : "replace";
    this.edit(`${this.target.name}: ${setting.label}`, [{ op, path, value }]);
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
    } catch (problem) {
      this.faults[this.pointer(setting)] = problem.message;
    }
  },
  imageOf(setting) { return this.current(setting) ? `/pictures/${this.current(setting)}` : ""; },
  setColour(setting, event) { this.put(setting, event.target.value); },
  tryColour(setting, event) { this.tryOut([{ op: "replace", path: this.pointer(setting), value: event.target.value }]); },

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
    this.tryOut([{ op: "replace", path: this.pointer(setting), value: this.withStop(setting, stop.index, { colour: event.target.value }) }]);
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

  // Layers
  /** Says so and undoes what was tried when the chosen layer is locked. */
  refuseLocked() {
    if (this.room === "sound" || !this.layer || !this.layer.locked) return false;
    this.draft = null;
    this.preview.still(this.frame);
    this.tell(`${this.layer.name} is locked.`, "Unlock", () => this.markLayer("locked"));
    this.document = plain(this.document);
    return true;
  },
  /** Switch solo or locked of the chosen layer. */
  markLayer(mark) {
    const { layer, layerIndex } = this;
    const words = { solo: ["Solo", "End solo of"], locked: ["Lock", "Unlock"] }[mark];
    this.edit(`${words[layer[mark] ? 1 : 0]} ${layer.name}`, [{ op: layer[mark] === undefined ? "add" : "replace", path: `/layers/${layerIndex}/${mark}`, value: !layer[mark] }]);
  },
  get soloOn() { return Boolean(this.layer && this.layer.solo); },
  get lockOn() { return Boolean(this.layer && this.layer.locked); },
  soloLayer() { this.markLayer("solo"); },
  lockLayer() { this.markLayer("locked"); },
  layerNote(layer) { return [this.kindTitle(layer), layer.solo ? "solo" : "", layer.locked ? "locked" : ""].filter(Boolean).join(" · "); },
  grabLayer(layer, event) {
    this.grabbedLayer = layer.id;
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", layer.name);
  },
  overLayer(layer) { if (this.grabbedLayer) this.targetLayer = layer.id; },
  layLayer(layer) {
    const from = this.document.layers.findIndex((other) => other.id === this.grabbedLayer);
    const to = this.document.layers.findIndex((other) => other.id === layer.id);
    this.restLayer();
    if (from < 0 || from === to) return;
    const moved = plain(this.document.layers[from]);
    this.edit(`Move ${moved.name}`, [{ op: "remove", path: `/layers/${from}` }, { op: "add", path: `/layers/${to}`, value: moved }]);
    this.choose(moved);
  },
  restLayer() { this.grabbedLayer = this.targetLayer = null; },
  toggleLayer(layer) {
    const index = this.document.layers.indexOf(layer);
    this.edit(`${layer.visible ? "Hide" : "Show"} ${layer.name}`, [{ op: "replace", path: `/layers/${index}/visible`, value: !layer.visible }]);
  },
  copyLayer() {
    const copy = plain(this.layer);
    copy.id = Math.random().toString(16).slice(2, 10);
    copy.name = `${copy.name} copy`;
    this.edit(`Copy ${this.layer.name}`, [{ op: "add", path: `/layers/${this.layerIndex + 1}`, value: copy }]);
    this.choose(copy);
  },
  dropLayer() {
    if (this.refuseLocked()) return;
    const { name } = this.layer;
    const index = this.layerIndex;
    this.edit(`Delete ${name}`, [{ op: "remove", path: `/layers/${index}` }]);
    const rest = this.document.layers[Math.max(0, index - 1)];
    this.chosen = rest ? rest.id : null;
    this.tell(`${name} is deleted.`, "Undo", () => this.undo());
  },
  moveLayer(by) {
    const from = this.layerIndex;
    const to = from + by;
    if (to < 0 || to >= this.document.layers.length) return;
    const layer = plain(this.layer);
    this.edit(`${by > 0 ? "Raise" : "Lower"} ${layer.name}`, [{ op: "remove", path: `/layers/${from}` }, { op: "add", path: `/layers/${to}`, value: layer }]);
  },
  raiseLayer() { this.moveLayer(1); },
  lowerLayer() { this.moveLayer(-1); },
  get atFront() { return this.layerIndex === this.document.layers.length - 1; },
  get atBack() { return this.layerIndex <= 0; },
  renameLayer(event) {
    const name = event.target.value.trim();
    if (name && name !== this.layer.name) this.edit(`Rename ${this.layer.name}`, [{ op: "replace", path: `/layers/${this.layerIndex}/name`, value: name }]);
    else event.target.value = this.layer.name;
  },
  get canFit() { return Boolean(this.layer && ["spectrum", "scope", "phase"].includes(this.layer.kind) && this.tab === "sound" && this.track); },
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
