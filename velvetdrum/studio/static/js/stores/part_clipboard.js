// Parts of a layer that others get: a setting, a section, its patches, keyframes, effects or masks.

import { newId } from "../lib/ids.js";
import { plain } from "../lib/json_patch.js";
import { partWith } from "../lib/studio_part.js";

const NAME = "velvet-part";

/**
 * `sort` is what was copied; `from` the name of its layer. Settings, patches and keyframes stand by the names of
 * settings; `row` has effects or masks.
 * @typedef {{sort: string, from: string, text: string, settings?: Record<string, any>, patches?: Patch[],
 *   keyframes?: Record<string, any[]>, listed?: string, row?: any[]}} Held
 */

export class PartClipboard extends partWith(
  "layerEdits",
  "layers",
  "manyLayers",
  "messages",
  "project",
  "selection",
  "settings",
  "signals",
) {
  /** @type {Held | null} */
  held = null;

  /** What was copied here or in another window. */
  restore(storage = localStorage) {
    try {
      this.held = JSON.parse(storage.getItem(NAME) || "null");
    } catch {
      this.held = null;
    }
  }

  /** @param {Held} held */
  keep(held) {
    this.held = plain(held);
    localStorage.setItem(NAME, JSON.stringify(this.held));
    this.messages.tell(`${held.text} of ${held.from}: copied. Choose layers and paste (Ctrl Alt V).`);
  }

  /** @param {Setting} setting */
  copySetting(setting) {
    const { layer } = this.selection;
    const value = this.settings.current(setting);
    this.keep({ sort: "settings", from: layer.name, text: setting.label, settings: { [setting.name]: value } });
  }

  /** The settings of the section that is open, as they are. */
  copySection() {
    const { layer, tabs, tab } = this.selection;
    if (!layer) return;
    const listed = this.selection.kind.settings.filter(({ group, media }) => group === tab && !media);
    const settings = Object.fromEntries(listed.map((one) => [one.name, layer.settings[one.name] ?? one.default]));
    const title = tabs.find(({ name }) => name === tab)?.title || tab;
    if (!listed.length) {
      this.messages.tell(
        `${title} has no settings of the layer itself; effects and masks are copied by their names.`,
      );
      return;
    }
    this.keep({ sort: "settings", from: layer.name, text: title, settings });
  }

  copyPatches() {
    const { layer } = this.selection;
    if (!layer) return;
    const patches = layer.patches.filter(({ setting }) => !setting.includes(":"));
    if (!patches.length) this.messages.tell(`No signal moves ${layer.name} yet.`);
    else this.keep({ sort: "patches", from: layer.name, text: "Patches", patches });
  }

  copyKeyframes() {
    const { layer } = this.selection;
    if (!layer) return;
    const own = Object.entries(layer.keyframes || {}).filter(([place]) => !place.includes(":"));
    if (!own.length) this.messages.tell(`${layer.name} has no keyframes yet.`);
    else this.keep({ sort: "keyframes", from: layer.name, text: "Keyframes", keyframes: Object.fromEntries(own) });
  }

  /**
   * The parts of a sort: effects, masks.
   * @param {string} listed
   */
  copyParts(listed) {
    const { layer } = this.selection;
    if (!layer) return;
    const row = /** @type {any} */ (layer)[listed] || [];
    const text = listed[0].toUpperCase() + listed.slice(1);
    if (!row.length) this.messages.tell(`${layer.name} has no ${listed} yet.`);
    else this.keep({ sort: "parts", from: layer.name, text, listed, row });
  }

  get title() {
    const { held } = this;
    return held ? `Paste ${held.text} of ${held.from}` : "Paste";
  }

  /** Give the chosen layers what was copied, in one step of undo; what they have no place for is left out, and said. */
  paste() {
    const { held } = this;
    const targets = this.manyLayers.chosen;
    if (!held || !targets.length) {
      this.messages.tell("Copy a part of a layer first: a setting, a section, effects, masks, patches or keyframes.");
      return;
    }
    if (this.layerEdits.refuseLocked(targets)) return;
    const steps = targets.flatMap((layer) => this.stepsFor(layer, held));
    if (!steps.length) {
      this.messages.tell(`${held.text} of ${held.from} has no place in what is chosen.`);
      return;
    }
    const on = targets.length > 1 ? `${targets.length} layers` : targets[0].name;
    this.project.edit(`${held.text} of ${held.from} on ${on}`, steps);
  }

  /**
   * @param {Layer} layer
   * @param {Held} held
   */
  stepsFor(layer, held) {
    const base = `/layers/${this.layers.indexOf(layer.id)}`;
    const own = (/** @type {string} */ name) => {
      const setting = this.settings.settingOf(layer, name);
      return setting.hi === setting.lo && setting.type === "number" ? null : setting;
    };
    if (held.settings)
      return Object.entries(held.settings)
        .filter(([name]) => own(name))
        .flatMap(([name, value]) => this.settings.stepsForMany(layer, [{ setting: own(name), value }]));
    if (held.keyframes)
      return Object.entries(held.keyframes)
        .filter(([name]) => own(name))
        .map(([name, value]) => ({ op: "add", path: `${base}/keyframes/${name}`, value: plain(value) }));
    if (held.patches) {
      const known = new Set(this.signals.signals.map(({ id }) => id));
      const coming = held.patches.filter(({ setting, signal }) => own(setting) && known.has(signal));
      const replaced = (/** @type {Patch} */ patch) =>
        coming.some(({ setting, signal }) => setting === patch.setting && signal === patch.signal);
      const kept = layer.patches.filter((patch) => !replaced(patch));
      return coming.length ? [{ op: "add", path: `${base}/patches`, value: plain([...kept, ...coming]) }] : [];
    }
    const row = (held.row || []).map((item) => ({ ...plain(item), id: newId() }));
    const listed = held.listed || "";
    const before = /** @type {any} */ (layer)[listed] || [];
    return [{ op: "add", path: `${base}/${listed}`, value: plain([...before, ...row]) }];
  }
}
