// Patches: sockets on settings, the lines under them, and the list of all.

import { plain } from "./api.js";

export const patching = {
  socket: null, // name of the setting whose menu of signals is open
  sortBy: "signal",
  sortDown: false,

  settingOf(layer, place) {
    const [first, ident, part] = place.split(":");
    const sort = part && this.sortNamed(first);
    const number = sort ? this.partsOf(layer, sort).findIndex((item) => item.id === ident) : -1;
    if (number >= 0) return this.partSetting(layer, sort, number, part);
    const name = place;
    const kind = this.kinds.find((candidate) => candidate.kind === layer.kind);
    return (kind && kind.settings.find((setting) => setting.name === name)) || { label: name, unit: "", type: "number", numeric: true, moves: true, lo: 0, hi: 0, step: 0.1 };
  },
  canPatch(setting) { return this.room === "picture" && setting.moves; },
  patchesOf(setting) {
    if (this.room !== "picture" || !this.layer) return [];
    return (this.layer.patches || [])
      .map((patch, index) => ({ patch, index, setting, layer: this.layer, layerIndex: this.layerIndex, key: `${this.layer.id}:${index}` }))
      .filter(({ patch }) => patch.setting === this.placeOf(setting));
  },
  socketStyle(setting) {
    const first = this.patchesOf(setting).find(({ patch }) => patch.on) || this.patchesOf(setting)[0];
    const signal = first && this.signalById(first.patch.signal);
    return signal ? { "--dot": signal.colour } : {};
  },
  socketClass(setting) {
    const patches = this.patchesOf(setting);
    const lit = patches.some(({ patch }) => this.lit.includes(patch.signal));
    return `${patches.length ? "patched" : ""} ${patches.length && !patches.some(({ patch }) => patch.on) ? "off" : ""} ${lit ? "lit" : ""}`;
  },
  socketText(setting) {
    const names = this.patchesOf(setting).map(({ patch }) => (this.signalById(patch.signal) || {}).name);
    return names.length ? `${setting.label} moves with ${names.join(", ")}. Add another signal` : `Move ${setting.label} with a signal`;
  },
  toggleSocket(setting) { this.socket = this.isSocket(setting) ? null : this.placeOf(setting); },
  closeSocket() { this.socket = null; },
  isSocket(setting) { return this.socket === this.placeOf(setting); },

  /** A patch that shows at once: numbers move by a tenth of their range, colours go to the signal's own. */
  patchFor(setting, signal) {
    const patch = { setting: this.placeOf(setting), signal: signal.id, join: "replace", on: true, lag_ms: 0 };
    const now = plain(this.current(setting));
    if (setting.type === "colour") return { ...patch, from: now, to: signal.colour };
    if (setting.type === "stops") return { ...patch, from: now, to: now.map((stop) => ({ ...stop, colour: signal.colour })) };
    if (this.keysOf(setting).length > 1) return { ...patch, join: "poses", from: now, to: now };
    const room = (setting.hi - setting.lo) / 10;
    const step = setting.type === "whole" ? 1 : setting.step;
    const by = Math.max(step, Math.round(room / step) * step);
    return { ...patch, join: "add", from: 0, to: now + by > setting.hi ? -by : by };
  },
  plug(setting, signal) {
    this.socket = null;
    this.edit(`${this.layer.name}: ${setting.label} moves with ${signal.name}`, [
      { op: "add", path: `/layers/${this.layerIndex}/patches/-`, value: this.patchFor(setting, signal) },
    ]);
  },
  putPatch(item, change, label = "patch") {
    const path = `/layers/${item.layerIndex}/patches/${item.index}`;
    const patch = Object.entries(change).map(([name, value]) => ({ op: "replace", path: `${path}/${name}`, value }));
    this.edit(`${item.layer.name}: ${item.setting.label} ${label}`, patch);
  },
  unplug(item) {
    this.edit(`${item.layer.name}: ${item.setting.label} rests`, [{ op: "remove", path: `/layers/${item.layerIndex}/patches/${item.index}` }]);
  },
  patchPath(item, name) { return `/layers/${item.layerIndex}/patches/${item.index}/${name}`; },
  typePatch(item, name, event) {
    const path = this.patchPath(item, name);
    const text = event.target.value.trim().replace(",", ".").replace("−", "-");
    const value = Number(text);
    if (text === "" || !Number.isFinite(value)) {
      this.faults[path] = `${item.setting.label}, ${name === "lag_ms" ? "lag" : name}: a number is needed, not “${event.target.value}”.`;
      return;
    }
    delete this.faults[path];
    if (value !== item.patch[name]) this.putPatch(item, { [name]: value });
  },
  colourPatch(item, name, event) { this.putPatch(item, { [name]: event.target.value }); },
  joinPatch(item, event) { this.putPatch(item, { join: event.target.value }); },
  signalPatch(item, event) { this.putPatch(item, { signal: event.target.value }); },
  switchPatch(item) { this.putPatch(item, { on: !item.patch.on }, item.patch.on ? "rests" : "moves"); },
  /** A gradient that the colour moves along, begun from its two ends; or none. */
  toggleAlong(item) {
    const along = item.patch.along ? null : [{ at: 0, colour: item.patch.from }, { at: 0.5, colour: "#f4eadb" }, { at: 1, colour: item.patch.to }];
    this.edit(`${item.layer.name}: ${item.setting.label} ${along ? "along a gradient" : "between two colours"}`, [
      { op: "add", path: this.patchPath(item, "along"), value: along },
    ]);
  },
  stopsIn(item, name) { return (item.patch[name] || []).map((stop, index) => ({ ...stop, index })); },
  stopPatch(item, name, index, event) {
    const stops = plain(item.patch[name]);
    stops[index].colour = event.target.value;
    this.putPatch(item, { [name]: stops });
  },
  gradientPatch(item, name) {
    const stops = item.patch[name];
    if (stops.length === 1) return { background: stops[0].colour };
    return { background: `linear-gradient(to right in oklab, ${stops.map((stop) => `${stop.colour} ${stop.at * 100}%`).join(", ")})` };
  },
  /** The gradient as the layer has it now becomes an end of the patch. */
  takeGradient(item, name) { this.putPatch(item, { [name]: plain(this.current(item.setting)) }); },
  signalOf(item) { return this.signalById(item.patch.signal) || { name: "gone", colour: "#8a7388", id: "" }; },
  endUnit(item) { return item.patch.join === "multiply" ? "×" : this.unitText(item.setting); },
  patchFault(item) {
    const base = `/layers/${item.layerIndex}/patches/${item.index}/`;
    const path = Object.keys(this.faults).find((candidate) => candidate.startsWith(base) && this.faults[candidate]);
    return path ? this.faults[path] : "";
  },
  isNumberPatch(item) { return item.setting.numeric; },

  /** Where a patched number stands now, on its slider, 0 to 100 %. */
  movedTo(setting) {
    let value = Number(this.current(setting));
    for (const { patch } of this.patchesOf(setting)) {
      if (!patch.on) continue;
      const part = this.live[patch.signal] || 0;
      if (patch.join === "poses") { value = this.posedValue(setting, part, value); continue; }
      const moved = patch.from + (patch.to - patch.from) * part;
      value = { replace: moved, add: value + moved, multiply: value * moved }[patch.join];
    }
    return Math.max(setting.lo, Math.min(setting.hi, value));
  },
  liveMark(setting) {
    const patches = this.patchesOf(setting);
    if (!patches.length) return { display: "none" };
    const low = this.sliderMin(setting);
    const part = (this.toPlace(setting, this.movedTo(setting)) - low) / (this.sliderMax(setting) - low);
    return { left: `calc(7px + ${part} * (100% - 14px))`, ...this.socketStyle(setting) };
  },

  // Pointing at one side lights the other
  lightSignal(signal) { this.lit = [signal.id]; },
  lightLayer(layer) { this.lit = this.drivers(layer).map((signal) => signal.id); },
  lightSetting(setting) { this.lit = this.patchesOf(setting).map(({ patch }) => patch.signal); },
  unlight() { if (this.lit.length) this.lit = []; },
  isLit(signal) { return this.lit.includes(signal.id); },
  drivers(layer) {
    const ids = [...new Set((layer.patches || []).filter((patch) => patch.on).map((patch) => patch.signal))];
    return ids.map((id) => this.signalById(id)).filter(Boolean);
  },
  layerLit(layer) { return (layer.patches || []).some((patch) => this.lit.includes(patch.signal)); },

  // The list of all patches
  get allPatches() {
    const found = this.document.layers.flatMap((layer, layerIndex) => (layer.patches || []).map((patch, index) => ({
      patch, index, layer, layerIndex, setting: this.settingOf(layer, patch.setting), key: `${layer.id}:${index}`,
    })));
    const name = { signal: (item) => this.signalOf(item).name, layer: (item) => item.layer.name, setting: (item) => item.setting.label, join: (item) => item.patch.join }[this.sortBy];
    found.sort((a, b) => name(a).localeCompare(name(b)) * (this.sortDown ? -1 : 1));
    return found;
  },
  sortPatches(by) {
    this.sortDown = this.sortBy === by ? !this.sortDown : false;
    this.sortBy = by;
  },
  sortMark(by) { return this.sortBy === by ? (this.sortDown ? "descending" : "ascending") : "none"; },
  showPatches() { this.$refs.patches.showModal(); },
  closePatches() { this.$refs.patches.close(); },
};
