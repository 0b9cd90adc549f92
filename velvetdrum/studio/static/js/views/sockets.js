// The rings beside settings: what drives what, lit up from either side, and where it stands now.

import { partWith } from "../lib/studio_part.js";

export class Sockets extends partWith("fields", "keyframes", "patches", "selection", "settings", "signals") {
  /** @type {string[]} */
  lit = []; // ids of signals that are pointed at
  /** @param {Setting} setting */
  socketStyle(setting) {
    const first = this.patches.patchesOf(setting).find(({ patch }) => patch.on) || this.patches.patchesOf(setting)[0];
    const signal = first && this.signals.signalById(first.patch.signal);
    return signal ? { "--dot": signal.colour } : {};
  }

  /** @param {Setting} setting */
  socketClass(setting) {
    const patches = this.patches.patchesOf(setting);
    const lit = patches.some(({ patch }) => this.lit.includes(patch.signal));
    if (!patches.length) return "";
    const on = patches.some(({ patch }) => patch.on);
    return `patched ${on ? "" : "off"} ${lit ? "lit" : ""}`;
  }

  /** @param {Setting} setting */
  socketText(setting) {
    const names = this.patches
      .patchesOf(setting)
      .map(({ patch }) => (this.signals.signalById(patch.signal) || {}).name);
    return names.length
      ? `${setting.label} moves with ${names.join(", ")}. Add another signal`
      : `Move ${setting.label} with a signal`;
  }

  /** @param {Setting} setting */
  toggleSocket(setting) {
    this.patches.socket = this.isSocket(setting) ? null : this.settings.placeOf(setting);
  }

  closeSocket() {
    this.patches.socket = null;
  }

  /** @param {Setting} setting */
  isSocket(setting) {
    return this.patches.socket === this.settings.placeOf(setting);
  }

  /**
   * Where a patched number stands now, on its slider, 0 to 100 %.
   * @param {Setting} setting
   */
  movedTo(setting) {
    return this.valueBy(setting, (signal) => this.signals.live[signal] || 0);
  }

  /**
   * The setting of the chosen layer with an address; null where there is none on show.
   * @param {string} place
   * @returns {Setting | null}
   */
  settingAt(place) {
    const { layer } = this.selection;
    return layer ? this.settings.settingOf(layer, place) || null : null;
  }

  /**
   * What all patches of a number make of it together, where signals stand as told.
   * @param {Setting} setting
   * @param {(signal: string) => number} levelOf
   */
  valueBy(setting, levelOf) {
    let value = Number(this.settings.current(setting));
    for (const { patch } of this.patches.patchesOf(setting)) {
      if (!patch.on) continue;
      const part = levelOf(patch.signal);
      if (patch.join === "poses") {
        value = this.keyframes.posedValue(setting, part, value);
        continue;
      }
      const moved = patch.from + (patch.to - patch.from) * part;
      value = /** @type {Record<string, any>} */ ({ replace: moved, add: value + moved, multiply: value * moved })[
        patch.join || ""
      ];
    }
    return Math.max(setting.lo, Math.min(setting.hi, value));
  }

  /** @param {Setting} setting */
  liveMark(setting) {
    const patches = this.patches.patchesOf(setting);
    if (!patches.length) return { display: "none" };
    const low = this.fields.sliderMin(setting);
    const part = (this.fields.toPlace(setting, this.movedTo(setting)) - low) / (this.fields.sliderMax(setting) - low);
    return { left: `calc(7px + ${part} * (100% - 14px))`, ...this.socketStyle(setting) };
  }

  /** @param {Signal} signal */
  lightSignal(signal) {
    this.lit = [signal.id];
  }

  /** @param {Layer} layer */
  lightLayer(layer) {
    this.lit = this.drivers(layer).map((signal) => signal.id);
  }

  /** @param {Setting} setting */
  lightSetting(setting) {
    this.lit = this.patches.patchesOf(setting).map(({ patch }) => patch.signal);
  }

  unlight() {
    if (this.lit.length) this.lit = [];
  }

  /** @param {Signal} signal */
  isLit(signal) {
    return this.lit.includes(signal.id);
  }

  /** @param {Layer} layer */
  drivers(layer) {
    const ids = [...new Set((layer.patches || []).filter((patch) => patch.on).map((patch) => patch.signal))];
    return ids.map((id) => this.signals.signalById(id)).filter(Boolean);
  }

  /** @param {Layer} layer */
  layerLit(layer) {
    return (layer.patches || []).some((patch) => this.lit.includes(patch.signal));
  }
}
