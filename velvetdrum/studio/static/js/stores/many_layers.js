// Several layers at once: what they share is set the same, changed by as much, or spread over them in their order.

import { chances } from "../lib/chances.js";
import { typeOf } from "../lib/setting_type.js";
import { partWith } from "../lib/studio_part.js";

const SPREAD = /^(.+?)\s*(?:…|\.\.\.?|\bto\b)\s*(.+?)(?:\s+(eased|by chance)(?:\s+(\d+))?)?$/;
const SEEDS = 10_000;
const RELATIVE = /^\s*([+*/]|-=|×|÷)/;

export class ManyLayers extends partWith(
  "fields",
  "kinds",
  "layerEdits",
  "layers",
  "messages",
  "project",
  "quantities",
  "selection",
  "settings",
) {
  /** The chosen layers, in the order of the list, the front one first. */
  get chosen() {
    const ids = new Set(this.selection.selected);
    return [...this.project.document.layers].filter((layer) => ids.has(layer.id)).reverse();
  }

  get on() {
    return this.selection.several && this.selection.room === "picture";
  }

  /**
   * The setting of a layer that is the same as another's: of the same name, type and unit.
   * @param {Layer} layer
   * @param {Setting} setting
   */
  like(layer, setting) {
    const kind = this.kinds.find((known) => known.kind === layer.kind);
    const same = kind && kind.settings.find(({ name }) => name === setting.name);
    return same && same.type === setting.type && same.unit === setting.unit ? same : null;
  }

  /** @param {Setting} setting */
  isShared(setting) {
    // One of each kind answers for all of it.
    const kinds = new Map(this.chosen.map((layer) => [layer.kind, layer]));
    return !this.on || (!setting.part && [...kinds.values()].every((layer) => this.like(layer, setting)));
  }

  /**
   * What the chosen layers have, in their order; null where all have the same.
   * @param {Setting} setting
   */
  valuesOf(setting) {
    if (!this.on || setting.part) return null;
    const values = this.chosen.map((layer) => this.settings.valueNow(layer, this.like(layer, setting) || setting));
    return values.every((value) => JSON.stringify(value) === JSON.stringify(values[0])) ? null : values;
  }

  /**
   * Different values in one line.
   * @param {Setting} setting
   */
  text(setting) {
    const values = this.valuesOf(setting);
    if (!values) return "";
    const shown = values.slice(0, 4).map((value) => this.quantities.text(setting, value));
    return shown.join(" · ") + (values.length > 4 ? " …" : "");
  }

  /**
   * The steps that give each chosen layer its own value of a setting.
   * @param {Setting} setting
   * @param {(layer: Layer, index: number, own: Setting) => any} valueOf
   */
  steps(setting, valueOf) {
    return this.chosen.flatMap((layer, index) => {
      const own = this.like(layer, setting);
      return own ? this.settings.stepsForMany(layer, [{ setting: own, value: valueOf(layer, index, own) }]) : [];
    });
  }

  /**
   * @param {Setting} setting
   * @param {any} value
   */
  put(setting, value) {
    if (this.layerEdits.refuseLocked(this.chosen)) return;
    this.project.edit(
      `${this.chosen.length} layers: ${setting.label}`,
      this.steps(setting, () => value),
    );
  }

  /**
   * What was typed for several: a change of each, a spread from … to, or one value. Gives a sentence where it can't
   * be.
   * @param {Setting} setting
   * @param {string} text
   */
  type(setting, text) {
    const read = (/** @type {string} */ said, /** @type {any} */ now) => this.quantities.read(setting, said, now);
    const spread = SPREAD.exec(text.trim());
    const last = Math.max(this.chosen.length - 1, 1);
    /** @type {(layer: Layer, index: number, own: Setting) => number} */
    let valueOf = (layer, _, own) => read(text, Number(this.settings.valueNow(layer, own)));
    if (spread && !RELATIVE.test(text)) {
      const [, first, end, how, seed] = spread;
      const [from, to] = [read(first, 0), read(end, 0)];
      const chance = chances(Number(seed || 1));
      const shares = this.chosen.map((_, index) => {
        const share = index / last;
        if (how === "by chance") return chance();
        return how === "eased" ? share * share * (3 - 2 * share) : share;
      });
      // Frequencies and times are as many times larger from one to the next, as they are heard.
      const byRatio = setting.curve === "log" && from > 0 && to > 0;
      valueOf = (_, index) => (byRatio ? from * (to / from) ** shares[index] : from + (to - from) * shares[index]);
    }
    const values = this.chosen.map((layer, index) => {
      const own = this.like(layer, setting) || setting;
      return typeOf(own).allowed(Math.round(valueOf(layer, index, own) * 1e6) / 1e6);
    });
    const fault = values.map((value) => this.fields.numberFault(setting, value, text)).find(Boolean);
    if (fault) return fault;
    if (this.layerEdits.refuseLocked(this.chosen)) return "";
    this.project.edit(
      `${this.chosen.length} layers: ${setting.label}`,
      this.steps(setting, (_, index) => values[index]),
    );
    return "";
  }

  /** Other seeds for the chosen layers and their effects; undo goes back to those before. */
  shuffle() {
    const layers = this.chosen.length ? this.chosen : [];
    if (!layers.length || this.layerEdits.refuseLocked(layers)) return;
    const steps = layers.flatMap((layer) => {
      const base = `/layers/${this.layers.indexOf(layer.id)}`;
      const kind = this.kinds.find((known) => known.kind === layer.kind);
      const names = (kind ? kind.settings : []).filter(
        ({ name, type }) => type === "whole" && /(^|_)seed$/.test(name),
      );
      return names.map(({ name }) => ({
        op: "add",
        path: `${base}/settings/${name}`,
        value: Math.floor(Math.random() * SEEDS),
      }));
    });
    if (!steps.length) {
      this.messages.tell("Nothing here is drawn by chance: there is no seed to change.");
      return;
    }
    this.project.edit(layers.length > 1 ? `Shuffle ${layers.length} layers` : `Shuffle ${layers[0].name}`, steps);
  }
}
