// The masks of the chosen layer: a list, each with its settings.

import { plain } from "./api.js";

export const masking = {
  openMask: null, // id of the mask whose settings are shown

  maskKind(mask) { return this.given.maskKinds.find((kind) => kind.kind === mask.kind); },
  get masks() { return (this.layer && this.layer.masks) || []; },
  isOpenMask(mask) { return this.openMask === mask.id; },
  toggleMask(mask) { this.openMask = this.isOpenMask(mask) ? null : mask.id; },
  maskTitle(mask) {
    if (mask.kind === "layer") {
      const other = this.byId(mask.settings.source);
      return other ? other.name : "Another layer";
    }
    const form = this.maskKind(mask).settings.find((setting) => setting.name === "form");
    const chosen = form.choices.find(([value]) => value === (mask.settings.form ?? form.default));
    return chosen[1];
  },
  maskNote(mask) {
    const join = { add: "adds", subtract: "subtracts", intersect: "intersects" }[mask.settings.join || "add"];
    return [mask.kind === "layer" ? `by ${mask.settings.by === "luminance" ? "light" : "alpha"}` : "", join, mask.settings.invert ? "inverted" : ""].filter(Boolean).join(" · ");
  },
  /** A declared setting as one of a mask: with its address and the mask's number. */
  maskSetting(layer, number, name) {
    const mask = layer.masks[number];
    const setting = this.maskKind(mask).settings.find((candidate) => candidate.name === name);
    return { ...setting, place: `mask:${mask.id}:${name}`, mask: number };
  },
  maskFields(mask, often) {
    const number = this.masks.findIndex((other) => other.id === mask.id);
    if (number < 0) return [];
    const kind = this.maskKind(mask);
    return kind.settings
      .filter((setting) => setting.often === often)
      .filter((setting) => setting.when.every(([name, values]) => this.holds(kind.settings, mask.settings, name, values)))
      .map((setting) => this.maskSetting(this.layer, number, setting.name));
  },
  addMask(kind) {
    if (this.refuseLocked()) return;
    const declared = this.given.maskKinds.find((candidate) => candidate.kind === kind);
    const mask = { id: Math.random().toString(16).slice(2, 10).padEnd(8, "0"), kind, settings: {} };
    for (const setting of declared.settings) mask.settings[setting.name] = plain(setting.default);
    this.edit(`${this.layer.name}: add a mask`, [{ op: "add", path: `/layers/${this.layerIndex}/masks`, value: [...plain(this.masks), mask] }]);
    this.openMask = mask.id;
  },
  dropMask(mask) {
    if (this.refuseLocked()) return;
    this.edit(`${this.layer.name}: remove a mask`, [{ op: "replace", path: `/layers/${this.layerIndex}`, value: plain(this.stripMasks(this.layer, [mask.id])) }]);
  },
  raiseMask(mask) {
    const listed = plain(this.masks);
    const at = listed.findIndex((other) => other.id === mask.id);
    if (at < 1) return;
    [listed[at - 1], listed[at]] = [listed[at], listed[at - 1]];
    this.edit(`${this.layer.name}: order of masks`, [{ op: "replace", path: `/layers/${this.layerIndex}/masks`, value: listed }]);
  },
  /** What can be chosen where another layer is asked for: all but this one and those that would lead back to it. */
  get otherLayers() {
    if (!this.layer) return [];
    const own = new Set(this.branch(this.layer.id).map((layer) => layer.id));
    const above = new Set();
    for (let group = this.groupOf(this.layer); group; group = this.groupOf(this.byId(group) || {})) above.add(group);
    return this.document.layers.filter((layer) => !own.has(layer.id) && !above.has(layer.id));
  },
};
